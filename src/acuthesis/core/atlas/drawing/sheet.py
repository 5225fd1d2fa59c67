"""A sheet: the close flat view of a surface on one person, with every area of one tradition, and where they differ."""

from collections.abc import Sequence
from functools import lru_cache
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from acuthesis.core.atlas.areas.baked import drawing
from acuthesis.core.atlas.areas.on_body import AreaOnBody, areas_on_body
from acuthesis.core.atlas.drawing.naming import GAP, Anchor, Name, place_names, width_of
from acuthesis.core.atlas.entries.catalogue import DATA, areas, surfaces
from acuthesis.core.atlas.entries.model import Area
from acuthesis.core.body.asset import BodyAsset
from acuthesis.core.body.catalogue import read_yaml
from acuthesis.core.body.construct import Directions
from acuthesis.core.body.drawing import DEEP_SHADE, RELIEF, View, body_paths
from acuthesis.core.body.figure import Side, Vector
from acuthesis.core.body.fit import FittedBody
from acuthesis.core.body.frames import direction, frame_of
from acuthesis.core.errors import UnknownId
from acuthesis.core.message import message

Tradition = Literal["first", "second"]
TRADITIONS: tuple[tuple[Tradition, bool], ...] = (("first", False), ("second", True))
MARGIN = 1.22
LONGEST_LABEL = 14
LETTERS = 40  # as many letters are a sheet's areas high, so that names are read where two lie side by side
WIDE_SHARE = 0.8  # a low, wide sheet has letters by its width
EDGE = 1.6  # around everything, in letters
DEPTHS_CM = {"ear": (6.0, 4.0), "ear_back": (6.0, 4.0)}
USUAL_DEPTH_CM = (14.0, 13.0)
SAME_SHARE = 0.25  # areas of two maps that share less of the smaller one lie elsewhere


class Sheet(BaseModel):
    """Which surfaces are shown together, and from where. Two of a `wide` one lie under, not beside one another."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    group: str
    name: str
    surfaces: tuple[str, ...]
    part: str
    look: Directions
    top: Directions | None = None
    wide: bool = False


Corner = tuple[float, float]


class AreaOnSheet(BaseModel):
    """An area as drawn: outline and middle, the foot of its name and the line to it, in cm of the picture, y down.

    `elsewhere`: the other tradition has it at another place; `alone`: the other tradition does not have it.
    """

    id: str
    name: str
    label: str
    label_at: Corner
    anchor: Anchor
    leader: tuple[Corner, Corner] | None
    outline: list[Corner]
    middle: Corner
    size_cm2: float
    elsewhere: str | None
    alone: bool


class SheetOnBody(BaseModel):
    """A sheet of one person: the drawing of the body (SVG elements, cm) and the areas on it.

    The picture begins at `left_cm`, `top_cm`; its letters are `letter_cm` high. Both traditions have the same picture.
    """

    id: str
    name: str
    tradition: Tradition
    side: Side
    left_cm: float
    top_cm: float
    width_cm: float
    height_cm: float
    letter_cm: float
    body: str
    areas: list[AreaOnSheet]


@lru_cache
def sheets() -> dict[str, Sheet]:
    """Every sheet by id: a surface of foot, hand, ear or face laid out flat.

    >>> sorted(sheets())[:2]
    ['ear', 'ear_back']
    """
    return {sheet.id: sheet for sheet in read_yaml(DATA / "sheets.yaml", Sheet)}


def _drawn(sheet: Sheet, tradition: Tradition, body: FittedBody) -> list[tuple[Area, AreaOnBody]]:
    found: list[tuple[Area, AreaOnBody]] = []
    second = tradition == "second"
    for surface in sheet.surfaces:
        wanted = [area for area in areas().values() if area.surface == surface and (area.map == "second") == second]
        if wanted:
            found += zip(wanted, areas_on_body(wanted, body.places), strict=True)
    return found


def traditions(sheet: Sheet) -> list[Tradition]:
    """Ids of the traditions that have areas on a sheet; one, or two that can be laid side by side.

    >>> traditions(next(iter(sheets().values())))
    ['first', 'second']
    """
    maps = {area.map == "second" for area in areas().values() if area.surface in sheet.surfaces}
    return [name for name, second in TRADITIONS if second in maps]


def sheet_on(id: str, tradition: Tradition, side: Side, body: FittedBody) -> SheetOnBody:
    """Draw a sheet. Raises: UnknownId if there is none of that name or the tradition has nothing on it."""
    if id not in sheets():
        raise UnknownId(message("sheet-there-no-sheet-there", id=id, sheets=", ".join(sheets())), where="sheet")
    sheet = sheets()[id]
    if tradition not in traditions(sheet):
        raise UnknownId(message("sheet-tradition-nothing-on-sheet", tradition=tradition, id=id), where="tradition")
    drawn = _drawn(sheet, tradition, body)
    drawn = [(area, one if side == "left" else one.mirrored()) for area, one in drawn if area.only in (None, side)]
    everything = [pair for name in traditions(sheet) for pair in _drawn(sheet, name, body)]
    places = np.concatenate([one.outline for _, one in everything]) * ([1, 1, 1] if side == "left" else [-1, 1, 1])
    view = _view(sheet, places, side, body)
    seen = view.flat(places)
    (left, top), (right, bottom) = seen.min(axis=0), seen.max(axis=0)
    letter = max(bottom - top, WIDE_SHARE * (right - left)) / LETTERS
    named = {name: _named(_drawn(sheet, name, body), side, view, letter, (left, right)) for name in traditions(sheet)}
    names, before, _ = named[tradition]
    # The picture of both traditions is as wide as the wider one needs, so that they have one scale side by side.
    width = max(one + right - left + other for _, one, other in named.values())
    before += (width - (before + right - left + named[tradition][2])) / 2
    asset = body.figure.asset
    return SheetOnBody(
        id=id,
        name=sheet.name,
        tradition=tradition,
        side=side,
        left_cm=round(float(left - before), 2),
        top_cm=round(float(top - EDGE * letter), 2),
        width_cm=round(float(width), 2),
        height_cm=round(float(bottom - top + 2 * EDGE * letter), 2),
        letter_cm=round(float(letter), 3),
        body=body_paths(body.figure, view, RELIEF, DEEP_SHADE)
        if sheet.group == "ear"
        else body_paths(body.figure, view),
        areas=[_area(area, one, view, name, asset) for (area, one), name in zip(drawn, names, strict=True)],
    )


def _view(sheet: Sheet, places: Vector, side: Side, body: FittedBody) -> View:
    frame = frame_of(body.figure, sheet.part, side)
    look = direction(frame, sheet.look)
    top = None if sheet.top is None else direction(frame, sheet.top)
    centre = (places.min(axis=0) + places.max(axis=0)) / 2
    flat = View(centre, look, 100.0, top=top)
    extent = np.ptp(np.stack([(places - centre) @ flat.right, (places - centre) @ flat.up], axis=1), axis=0).max()
    stand_off, depth = DEPTHS_CM.get(sheet.id, USUAL_DEPTH_CM)
    return View(centre, look, float(extent) * MARGIN, stand_off, depth, top)


def _named(
    drawn: list[tuple[Area, AreaOnBody]], side: Side, view: View, letter: float, extent: tuple[float, float]
) -> tuple[list[Name], float, float]:
    """Names of areas given on the left, and how much room they take before and after them, cm."""
    mine = [(area, one if side == "left" else one.mirrored()) for area, one in drawn if area.only in (None, side)]
    texts = [_label(area) for area, _ in mine]
    outlines = [view.flat(one.outline) for _, one in mine]
    names = place_names(outlines, view.flat(np.array([one.centre for _, one in mine])), texts, letter, extent)
    before, after = (
        max(
            (width_of(text, letter) for text, name in zip(texts, names, strict=True) if name.anchor == anchor),
            default=0.0,
        )
        for anchor in ("end", "start")
    )
    edge, gap = EDGE * letter, GAP * letter
    return names, edge + before + gap * (before > 0), edge + after + gap * (after > 0)


def _corner(place: Sequence[float]) -> Corner:
    return round(float(place[0]), 2), round(float(place[1]), 2)


def _area(area: Area, drawn: AreaOnBody, view: View, name: Name, asset: BodyAsset) -> AreaOnSheet:
    flat = view.flat(np.concatenate([drawn.outline, drawn.centre[None]]))
    outline = [_corner(place) for place in flat]
    return AreaOnSheet(
        id=area.id,
        name=area.names.english,
        label=_label(area),
        label_at=_corner(name.at),
        anchor=name.anchor,
        leader=None if name.leader is None else (_corner(name.leader[0]), _corner(name.leader[1])),
        outline=outline[:-1],
        middle=outline[-1],
        size_cm2=round(drawn.size_cm2, 2),
        elsewhere=_elsewhere(area, asset),
        alone=_alone(area),
    )


def _label(area: Area) -> str:
    """A short name: the standard's code, else the English name without its part in brackets, else that of its id."""
    name = area.names.english.split(" (")[0].removesuffix(" of the second map")
    if area.code or len(name) <= LONGEST_LABEL:
        return area.code or name
    return area.id.split("_", 1)[-1].replace("_", " ").capitalize()


def _counterparts(area: Area) -> list[Area]:
    if area.map == "second":
        return [areas()[area.answers]] if area.answers else []
    return [other for other in areas().values() if other.answers == area.id]


def _elsewhere(area: Area, asset: BodyAsset) -> str | None:
    """Where the other tradition has the same thing, if not here."""
    for other in _counterparts(area):
        if other.surface != area.surface:
            return f"{surfaces()[other.surface].name}: {other.where}"
        a, b = drawing(asset, area).shape, drawing(asset, other).shape
        if a.intersection(b).area < SAME_SHARE * min(a.area, b.area):
            return other.where
    return None


def _alone(area: Area) -> bool:
    other_maps = {other.map for other in areas().values() if other.surface.split("_")[0] == area.surface.split("_")[0]}
    two = len({name == "second" for name in other_maps}) == 2
    return two and not _counterparts(area)
