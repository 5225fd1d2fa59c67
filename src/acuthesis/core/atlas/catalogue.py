"""Loads the atlas from its data files and checks that every id a rule mentions exists."""

from functools import lru_cache
from pathlib import Path
from typing import Literal

from pydantic import BaseModel, TypeAdapter

from acuthesis.core.atlas.model import Area, Point, Surface
from acuthesis.core.body import catalogue as body
from acuthesis.core.body.catalogue import read_yaml
from acuthesis.core.body.construct import Place
from acuthesis.core.errors import UnknownId

DATA = Path(__file__).parent / "data"
Entry = Point | Area


def _check_place(place: Place, where: str) -> None:
    for name in body.mentioned(place):
        if name not in body.landmarks():
            raise UnknownId(f"{where} mentions the landmark '{name}', which does not exist", where=where)


@lru_cache
def points() -> dict[str, Point]:
    """Every point by id, in the order of the files. Raises: UnknownId, pydantic.ValidationError."""
    table = {point.id: point for file in sorted((DATA / "points").glob("*.yaml")) for point in read_yaml(file, Point)}
    for point in table.values():
        for method in point.methods:
            _check_place(method.place, point.id)
    return table


@lru_cache
def surfaces() -> dict[str, Surface]:
    """Every surface that carries areas."""
    return {surface.id: surface for surface in read_yaml(DATA / "surfaces.yaml", Surface)}


@lru_cache
def areas() -> dict[str, Area]:
    """Every area by id. Raises: UnknownId if its surface does not exist."""
    table = {area.id: area for file in sorted((DATA / "areas").glob("*.yaml")) for area in read_yaml(file, Area)}
    for area in table.values():
        if area.surface not in surfaces():
            raise UnknownId(f"{area.id} lies on the surface '{area.surface}', which does not exist", where=area.id)
    return table


def entry(id: str) -> Entry:
    """A point or area by id, whatever the case of its letters. Raises: UnknownId."""
    for table in (points(), areas()):
        for key, found in table.items():
            if key.lower() == id.lower():
                return found
    raise UnknownId(f"there is no point or area '{id}'; search finds them by name", where=id)


def entries() -> list[Entry]:
    """All points, then all areas."""
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
    """The whole atlas, indented JSON: points with rules, then areas."""
    return TypeAdapter(list[Entry]).dump_json(entries(), indent=2, by_alias=True, exclude_none=True).decode()
