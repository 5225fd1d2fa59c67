"""Loads the atlas from its data files and checks that every id a rule mentions exists."""

from collections.abc import Callable
from functools import lru_cache
from pathlib import Path
from typing import Any, Literal, TypeVar

from pydantic import BaseModel, TypeAdapter, ValidationError

from acuthesis.core.atlas.entries.fingers import with_fingers
from acuthesis.core.atlas.entries.model import Area, Grid, Point, Site, Source, Surface
from acuthesis.core.body import catalogue as body
from acuthesis.core.body.catalogue import read_rows, read_yaml
from acuthesis.core.body.construct import Place
from acuthesis.core.errors import CoreError, UnknownId
from acuthesis.core.message import message

DATA = Path(__file__).parent.parent / "data"
# The fourteen channels in the order in which they follow one another through the body, then the two middle lines.
CHANNELS = ("LU", "LI", "ST", "SP", "HT", "SI", "BL", "KI", "PC", "TE", "GB", "LR", "GV", "CV")
MIDLINE = ("GV", "CV")
OTHERS = ("EX", "ribs")  # files of points on no channel
MAPS = ("ear", "ear_second", "foot", "foot_second", "hand", "face", "scalp", "scalp_lines")
# What an entry rests on that does not say it itself: by its map, and where there is a second tradition by surface too.
SOURCE_OF_MAP = {"standard": "ear_standard", "common": "reflex", "second": "reflex_second"}
COMPARE = "A place that is harder, grittier or more tender than the area around it and the other side."
Entry = Point | Area
T = TypeVar("T")


def _check_place(place: Place, where: str) -> None:
    try:
        names = body.mentioned(place)
    except UnknownId as error:
        raise UnknownId(message("error-at", where=where, said=error.message), where=where) from None
    for name in names:
        if name not in body.landmarks():
            raise UnknownId(message("catalogue-mentions-landmark-which-does-not", where=where, name=name), where=where)


@lru_cache
def sites() -> dict[str, dict[str, Any]]:
    """What each site fills in, by id, as plain data. Raises: pydantic.ValidationError.

    >>> sites()["brow"]["part"]
    'head'
    """
    raw = {row["id"]: row for row in read_rows(DATA / "sites.yaml")}
    for row in raw.values():
        row["press"] = {"in": row["part"], **row["press"]}
        Site.model_validate(row)
    return raw


@lru_cache
def sources() -> dict[str, Source]:
    """What entries rest on, by id: the standard, an extra point, a tradition, anatomy, a practice of its own.

    >>> sorted(sources())[:3]
    ['ear_second', 'ear_standard', 'extra']
    """
    return {row.id: row for row in read_yaml(DATA / "sources.yaml", Source)}


def source_of(entry: Entry) -> Source:
    """The class of knowledge that an entry rests on.

    >>> source_of(entry("SP6")).words, source_of(entry("yintang")).words
    ('international standard location', 'extra point in general use')
    """
    return sources()[entry.source]


def _check_source(entry: Entry) -> None:
    if entry.source not in sources():
        raise UnknownId(
            message("catalogue-rests-on-there", id=entry.id, source=entry.source, sources=", ".join(sources())),
            where=entry.id,
        )


@lru_cache
def part_names() -> tuple[str, ...]:
    """The body parts (frames of frames.py: `forearm`, `head`, `ear` and so on) that sites and points lie on.

    >>> "forearm" in part_names()
    True
    """
    return tuple(dict.fromkeys(row["part"] for row in sites().values()))


def _on_site(row: dict[str, Any]) -> dict[str, Any]:
    """A row of a data file with what its site says filled in. Raises: UnknownId."""
    if "site" not in row:
        return row
    if row["site"] not in sites():
        raise UnknownId(message("catalogue-lies-on-site-which-does", id=row["id"], site=row["site"]), where=row["id"])
    site = {key: value for key, value in sites()[row["site"]].items() if key != "id"}
    filled = {**site, **row}
    filled["press"] = {**site["press"], "in": filled["part"], **row.get("press", {})}
    return filled


def _channel(id: str) -> str:
    letters = id.rstrip("0123456789")
    return letters if letters in CHANNELS else "EX"


def _resolved(place: Any, placings: dict[str, Any]) -> Any:
    """A place as data, in which the name of a point stands for that point's own first rule."""
    match place:
        case str() if place in placings:
            return _resolved(placings[place], placings)
        case list():
            return [_resolved(item, placings) for item in place]
        case dict():
            return {key: _resolved(item, placings) for key, item in place.items()}
        case _:
            return place


def point_from(row: dict[str, Any], placings: dict[str, Any]) -> Point:
    """A point from its row: site filled in, other points' names resolved by `placings`, finger methods derived.

    Raises: UnknownId for a site or landmark that does not exist, pydantic.ValidationError for anything malformed.
    """
    filled = _on_site(row)
    channel = filled.setdefault("channel", _channel(row["id"]))
    filled.setdefault("paired", channel not in MIDLINE)
    filled.setdefault("source", {"EX": "extra", "own": "own"}.get(channel, "standard"))
    rules = {
        key: [{**rule, "place": _resolved(rule["place"], placings)} for rule in filled.get(key, [])]
        for key in ("methods", "alternatives")
    }
    point = with_fingers(Point.model_validate({**filled, **rules}))
    for place in [*(one.place for one in point.methods), *(one.place for one in point.alternatives)]:
        _check_place(place, point.id)
    _check_source(point)
    return point


@lru_cache
def points() -> dict[str, Point]:
    """Every point by id, in the order of the channels. Raises: CoreError naming the point that cannot be read.

    >>> len(points()), points()["SP6"].names.english
    (467, 'Crossing of the three yin')
    """
    rows = [row for name in (*CHANNELS, *OTHERS) for row in read_rows(DATA / "points" / f"{name}.yaml")]
    rows.sort(key=lambda row: _number(row["id"]))
    placings = {row["id"]: row["methods"][0]["place"] for row in rows}
    return {row["id"]: _shipped(row, lambda row: point_from(row, placings)) for row in rows}


def _shipped(row: dict[str, Any], read_one: Callable[[dict[str, Any]], T]) -> T:
    """An entry from its row of a data file. Raises: CoreError naming the entry and what of it cannot be read."""
    try:
        return read_one(row)
    except ValidationError as error:
        first = error.errors()[0]
        raise CoreError(
            message("catalogue-row-invalid", id=row["id"], path=".".join(map(str, first["loc"])), problem=first["msg"]),
            where=row["id"],
        ) from None


def _number(id: str) -> int:
    """Rank of a point: channel after channel, each in its own order, then what is on none."""
    channel = _channel(id)
    return CHANNELS.index(channel) * 100 + int(id[len(channel) :]) if channel != "EX" else len(CHANNELS) * 100


@lru_cache
def surfaces() -> dict[str, Surface]:
    """Every surface that carries areas (sole, back of the hand, outer ear, face ...), by its id.

    >>> "sole" in surfaces()
    True
    """
    return {surface.id: surface for surface in read_yaml(DATA / "surfaces.yaml", Surface)}


@lru_cache
def grids() -> dict[str, Grid]:
    """Every grid of a surface by its id; a surface's main grid has the surface's own.

    >>> len(grids()) > 3
    True
    """
    return {grid.id: grid for grid in read_yaml(DATA / "grids.yaml", Grid)}


def _in_grid(row: dict[str, Any]) -> dict[str, Any]:
    """A row with its `shape` (corners) or `cell` (two levels, two zones), in the units of its grid, as a polygon.

    Raises: UnknownId.
    """
    row = dict(row)
    name = row.get("grid") or row.get("surface")
    if "cell" in row:
        low, high, inner, outer = row.pop("cell")
        row["shape"] = [[low, inner], [low, outer], [high, outer], [high, inner]]
    if "shape" in row:
        if name not in grids():
            raise UnknownId(message("catalogue-lies-grid-which-does-not", row=row["id"], name=name), where=row["id"])
        levels, zones = grids()[str(name)].units
        row["polygon"] = [[level / levels, zone / zones] for level, zone in row.pop("shape")]
    return row


@lru_cache
def areas() -> dict[str, Area]:
    """Every area by id, in the order of the maps. Raises: UnknownId if its surface or site does not exist.

    >>> areas()["ear_TF4"].surface
    'ear'
    """
    rows = [row for name in MAPS for row in read_rows(DATA / "areas" / f"{name}.yaml")]
    table = {row["id"]: _shipped(row, area_from) for row in rows}
    for area in table.values():
        if area.answers is not None and area.answers not in table:
            raise UnknownId(
                message("catalogue-answers-which-does-not-exist", id=area.id, answers=area.answers), where=area.id
            )
        for other in (*area.over, *area.crosses):
            if other not in table:
                raise UnknownId(message("catalogue-lies-over-which-does-not", id=area.id, other=other), where=area.id)
    return table


def area_from(row: dict[str, Any]) -> Area:
    """An area from its row, its site filled in. Raises: UnknownId, pydantic.ValidationError."""
    filled = _on_site(_in_grid(row))
    press = filled.pop("press", {})
    if "line" in filled:
        placings = {point.id: point.methods[0].place for point in points().values()}
        filled["line"] = _resolved(filled["line"], placings)
    kept = {name: value for name, value in filled.items() if name in Area.model_fields or name in row}
    second = "ear_second" if kept.get("map") == "second" and str(kept.get("surface")).startswith("ear") else None
    kept.setdefault("source", second or SOURCE_OF_MAP.get(str(kept.get("map")), kept.get("map")))
    area = Area.model_validate({"contact": press.get("contact", "thumb"), "feel": COMPARE, **kept})
    if area.surface not in surfaces():
        raise UnknownId(
            message("catalogue-lies-on-surface-which-does", id=area.id, surface=area.surface), where=area.id
        )
    _check_source(area)
    return area


@lru_cache
def _by_lower_id() -> dict[str, Entry]:
    return {found.id.lower(): found for found in entries()}


def entry(id: str) -> Entry:
    """A point or area by id, whatever the case of its letters. Raises: UnknownId.

    >>> entry("sp6").id
    'SP6'
    """
    found = _by_lower_id().get(id.lower())
    if found is None:
        raise UnknownId(message("catalogue-there-no-point-or-area", id=id), where=id)
    return found


def is_shipped(id: str) -> bool:
    """Whether the atlas itself has a point or area of this id; what is not shipped is a practice's own.

    >>> is_shipped("SP6"), is_shipped("own_lantern")
    (True, False)
    """
    return id.lower() in _by_lower_id()


def part_of(entry: Entry) -> str:
    """Body part of a point, or of the surface an area lies on: the frame its directions are read in.

    >>> part_of(entry("PC6"))
    'forearm'
    """
    return surfaces()[entry.surface].part if isinstance(entry, Area) else entry.part


def level_of(area: Area) -> float:
    """How far along its surface an area lies: 0 to 1 in the main grid, beyond it on toes and fingers; 0 on an ear.

    >>> level_of(areas()["foot_pelvis"]) < level_of(areas()["foot_lung"]) < level_of(areas()["foot_head"])
    True
    """
    name, _, place = area.at.partition(":")
    grid = grids().get(name if place else area.grid or area.surface)
    if grid is None or area.around or area.line:
        return 0.0
    if place:
        return grid.begins + float(place.split(",")[0]) / grid.units[0]
    return grid.begins + sum(level for level, _ in area.polygon) / len(area.polygon)


def entries() -> list[Entry]:
    """All points, then all areas, in the order of the data files.

    >>> entries()[0].id
    'LU1'
    """
    return [*points().values(), *areas().values()]


class Described(BaseModel):
    """A region of the atlas, as lists show it."""

    id: str
    kind: Literal["point", "area"]
    name: str
    region: str


def describe(found: Entry) -> Described:
    """Short form of an entry: id, kind, English name with code, region."""
    return Described(id=found.id, kind=found.kind, name=found.names.english, region=found.region)


def as_json() -> str:
    """The whole atlas, indented JSON: points with their rules, then areas."""
    return TypeAdapter(list[Entry]).dump_json(entries(), indent=2, by_alias=True, exclude_none=True).decode()
