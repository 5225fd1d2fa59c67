"""A sheet: the close flat view of a surface on one person, with every area of one tradition, and where they differ."""

from functools import lru_cache
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict
from shapely import Polygon

from acuthesis.core.atlas.catalogue import DATA, areas, surfaces
from acuthesis.core.atlas.chart import AreaOnBody, areas_on_body
from acuthesis.core.atlas.model import Area
from acuthesis.core.body.catalogue import read_yaml
from acuthesis.core.body.construct import Directions
from acuthesis.core.body.drawing import DEEP_SHADE, RELIEF, View, body_paths
from acuthesis.core.body.figure import Side, Vector
from acuthesis.core.body.fit import FittedBody
from acuthesis.core.body.frames import direction, frame_of
from acuthesis.core.errors import UnknownId

Tradition = Literal["first", "second"]
TRADITIONS: tuple[tuple[Tradition, bool], ...] = (("first", False), ("second", True))
MARGIN = 1.22
DEPTHS_CM = {"ear": (6.0, 4.0), "ear_back": (6.0, 4.0)}
USUAL_DEPTH_CM = (14.0, 13.0)
SAME_SHARE = 0.25  # areas of two maps that share less of the smaller one lie elsewhere


class Sheet(BaseModel):
    """Which surfaces are shown together, and from where."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    group: str
    name: str
    surfaces: tuple[str, ...]
    part: str
    look: Directions
    top: Directions | None = None


class AreaOnSheet(BaseModel):
    """An area as drawn: outline and middle in cm of the picture.

    `elsewhere`: the other tradition has it at another place; `alone`: the other tradition does not have it.
    """

    id: str
    name: str
    label: str
    outline: list[tuple[float, float]]
    middle: tuple[float, float]
    size_cm2: float
    elsewhere: str | None
    alone: bool


class SheetOnBody(BaseModel):
    """A sheet of one person: the drawing of the body (SVG elements, cm) and the areas on it."""

    id: str
    name: str
    tradition: Tradition
    side: Side
    width_cm: float
    body: str
    areas: list[AreaOnSheet]


@lru_cache
def sheets() -> dict[str, Sheet]:
    """Every sheet by id: a surface of foot, hand, ear or face laid out flat."""
    return {sheet.id: sheet for sheet in read_yaml(DATA / "sheets.yaml", Sheet)}


def _drawn(sheet: Sheet, tradition: Tradition, body: FittedBody) -> list[tuple[Area, AreaOnBody]]:
    found: list[tuple[Area, AreaOnBody]] = []
    second = tradition == "second"
    for surface in sheet.surfaces:
        wanted = [one for one in areas().values() if one.surface == surface and (one.map == "second") == second]
        if wanted:
            found += zip(wanted, areas_on_body(wanted, surfaces()[surface], body.places), strict=True)
    return found


def traditions(sheet: Sheet) -> list[Tradition]:
    """Ids of the traditions that have areas on a sheet; one, or two that can be laid side by side."""
    maps = {area.map == "second" for area in areas().values() if area.surface in sheet.surfaces}
    return [name for name, second in TRADITIONS if second in maps]


def sheet_on(id: str, tradition: Tradition, side: Side, body: FittedBody) -> SheetOnBody:
    """Draw a sheet. Raises: UnknownId if there is none of that name or the tradition has nothing on it."""
    if id not in sheets():
        raise UnknownId(f"there is no sheet '{id}'; there are {', '.join(sheets())}", where="sheet")
    sheet = sheets()[id]
    if tradition not in traditions(sheet):
        raise UnknownId(f"the {tradition} tradition has nothing on the sheet '{id}'", where="tradition")
    drawn = _drawn(sheet, tradition, body)
    drawn = [(area, one if side == "left" else one.mirrored()) for area, one in drawn if area.only in (None, side)]
    everything = [place for name in traditions(sheet) for _, one in _drawn(sheet, name, body) for place in one.outline]
    view = _view(sheet, np.array(everything) * ([1, 1, 1] if side == "left" else [-1, 1, 1]), side, body)
    return SheetOnBody(
        id=id,
        name=sheet.name,
        tradition=tradition,
        side=side,
        width_cm=round(view.width_cm, 2),
        body=body_paths(body.figure, view, RELIEF, DEEP_SHADE)
        if sheet.group == "ear"
        else body_paths(body.figure, view),
        areas=[_area(area, one, view) for area, one in drawn],
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


def _area(area: Area, drawn: AreaOnBody, view: View) -> AreaOnSheet:
    flat = view.flat(np.concatenate([drawn.outline, drawn.centre[None]]))
    outline = [(round(float(x), 2), round(float(y), 2)) for x, y in flat]
    return AreaOnSheet(
        id=area.id,
        name=area.names.english,
        label=_label(area),
        outline=outline[:-1],
        middle=outline[-1],
        size_cm2=round(drawn.size_cm2, 2),
        elsewhere=_elsewhere(area),
        alone=_alone(area),
    )


def _label(area: Area) -> str:
    """A short name: the standard code where there is one, else the English name without its part in brackets."""
    code = area.id.split("_", 1)[-1]
    return code if code[:1].isupper() else area.names.english.split(" (")[0].removesuffix(" of the second map")


def _counterparts(area: Area) -> list[Area]:
    if area.map == "second":
        return [areas()[area.answers]] if area.answers else []
    return [other for other in areas().values() if other.answers == area.id]


def _elsewhere(area: Area) -> str | None:
    """Where the other tradition has the same thing, if not here."""
    for other in _counterparts(area):
        if other.surface != area.surface:
            return f"{surfaces()[other.surface].name}: {other.where}"
        a, b = Polygon(area.polygon), Polygon(other.polygon)
        if a.intersection(b).area < SAME_SHARE * min(a.area, b.area):
            return other.where
    return None


def _alone(area: Area) -> bool:
    other_maps = {other.map for other in areas().values() if other.surface.split("_")[0] == area.surface.split("_")[0]}
    two = len({name == "second" for name in other_maps}) == 2
    return two and not _counterparts(area)
