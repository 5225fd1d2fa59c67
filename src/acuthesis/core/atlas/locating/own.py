"""A practice's own points and areas: read from the same rows as the shipped ones, and checked more strictly.

A row that comes from outside may hold anything. It is read with the models of the atlas, its levels must lie on their
segments, and it is placed on figures of several builds before it is believed.
"""

import re
from collections.abc import Sequence
from typing import Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from acuthesis.core.atlas.areas.before_grids import in_grid
from acuthesis.core.atlas.areas.on_body import areas_on_body
from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.entries.catalogue import Entry, area_from, point_from
from acuthesis.core.atlas.entries.model import Area
from acuthesis.core.body import catalogue as body_catalogue
from acuthesis.core.body.construct import Around, Beside, OnArc, OnLine
from acuthesis.core.body.fit import FittedBody
from acuthesis.core.body.person import BodyFacts
from acuthesis.core.errors import CoreError
from acuthesis.core.message import message

FORMAT: Literal["acuthesis.atlas"] = "acuthesis.atlas"
VERSION: Literal[1] = 1
MOST_ENTRIES = 2000  # the whole atlas, with what is a practice's own
DEEPEST = 10  # forms within forms; the shipped rules go four deep
MOST_PARTS = 400  # values in one row
OWN_ID = re.compile(r"own_[a-z0-9_]{1,40}")
OFF_SKIN_CM = 0.6
AREA_SHAPES = {"polygon", "shape", "cell", "around", "at"}
# An own rule is tried on these before it is kept: an average figure, a short stout one and a tall thin one.
TRIED_ON = (
    BodyFacts(),
    BodyFacts(sex="male", age=61, height_cm=158, weight_kg=88),
    BodyFacts(sex="female", age=24, height_cm=184, weight_kg=58),
)


class AtlasPack(BaseModel):
    """Points and areas as a file: rows as in the atlas's own data files (docs/guide/atlas.md)."""

    model_config = ConfigDict(extra="forbid")

    format: Literal["acuthesis.atlas"] = FORMAT
    version: Literal[1] = VERSION
    entries: list[dict[str, Any]] = Field(max_length=MOST_ENTRIES)


class _Method(BaseModel):
    model_config = ConfigDict(extra="allow")

    place: Any


class _Shape(BaseModel):
    """What has to be of the right kind before a row is filled in from its site; the atlas's models check the rest."""

    model_config = ConfigDict(extra="allow")

    site: str
    methods: list[_Method] = []
    press: dict[str, Any] = {}


def own_entry(row: dict[str, Any], where: str = "") -> Entry:
    """A point (it has `methods`) or an area (it has a shape) from a row of a practice's own.

    Raises: CoreError (or UnknownId) whose `where` leads to the value that cannot be used.
    """
    id = row.get("id")
    prefix = f"{where}." if where else ""
    if not isinstance(id, str) or not OWN_ID.fullmatch(id):
        raise CoreError(message("own-own-id-begins-with-own"), where=f"{prefix}id")
    _check_size(row, id, where or id)
    try:
        _Shape.model_validate(row)
        if AREA_SHAPES & row.keys():
            found: Entry = area_from({"map": "own", **in_grid(row)})
        else:
            placings = {point.id: point.methods[0].place for point in catalogue.points().values()}
            found = point_from({"channel": "own", **row}, placings)
    except ValidationError as error:
        first = error.errors()[0]
        path = ".".join(str(part) for part in first["loc"])
        raise CoreError(
            message("own-field-invalid", id=id, path=path, said=first["msg"].removeprefix("Value error, ")),
            where=f"{prefix}{path}",
        ) from error
    except (CoreError, KeyError) as error:
        said = error.message if isinstance(error, CoreError) else message("own-thing-unknown", name=str(error))
        if said.values.get("id") == id:  # it says already of what it speaks
            raise CoreError(said, where=where or id) from error
        raise CoreError(message("error-of", id=id, said=said), where=where or id) from error
    if isinstance(found, Area):
        _check_polygon(found, where)
    else:
        for rank, method in enumerate(found.methods):
            _check_levels(method.place, id, f"{prefix}methods.{rank}.place")
    return found


def _check_size(value: Any, id: str, where: str) -> None:
    """Raises: CoreError for rows nested or grown beyond what any rule needs."""
    parts, open_values = 0, [(value, 0)]
    while open_values:
        one, depth = open_values.pop()
        parts += 1
        if depth > DEEPEST or parts > MOST_PARTS:
            raise CoreError(message("own-rule-nested-too-deep-or", id=id), where=where)
        inner = one.values() if isinstance(one, dict) else one if isinstance(one, list | tuple) else ()
        open_values += [(item, depth + 1) for item in inner]


def _check_polygon(area: Area, where: str) -> None:
    if any(not -1 <= value <= 1.2 for corner in area.polygon for value in corner):
        raise CoreError(message("own-corner-lies-off-surface-u", id=area.id), where=f"{where}.polygon")


def _check_levels(place: Any, id: str, where: str) -> None:
    """Raises: CoreError where a rule counts farther than its segment has parts."""
    if isinstance(place, OnLine | OnArc | Beside | Around) and place.cun is not None:
        counted = {OnLine: "segment", OnArc: "arc"}.get(type(place), "of")
        segment = body_catalogue.segments()[getattr(place, counted)]
        if not 0 <= place.cun <= segment.cun:
            raise CoreError(
                message("own-level-not-on-which-cun", id=id, cun=place.cun, name=segment.name, cun_2=segment.cun),
                where=f"{where}.cun",
            )
    inner = [getattr(place, name) for name in getattr(type(place), "model_fields", ())]
    for value in inner:
        for one in value if isinstance(value, tuple) else (value,):
            if hasattr(one, "model_fields"):
                _check_levels(one, id, where)


def try_on(entry: Entry, bodies: Sequence[FittedBody], where: str = "") -> None:
    """Place an entry on some figures. Raises: CoreError saying on which it cannot be placed, and why."""
    for body in bodies:
        build = f"{body.facts.sex}, {body.facts.height_cm:g} cm"
        try:
            places = _placed(entry, body)
        except CoreError as error:
            raise CoreError(
                message("own-cannot-placed", id=entry.id, build=build, said=error.message), where=where
            ) from error
        except (ArithmeticError, IndexError, ValueError, KeyError) as error:
            raise CoreError(message("own-cannot-placed-rule-no-end", id=entry.id, build=build), where=where) from error
        for place in places:
            if not np.isfinite(place).all():
                raise CoreError(message("own-cannot-placed-rule-leads-nowhere", id=entry.id, build=build), where=where)
            off = float(np.linalg.norm(body.figure.nearest_on_skin(place)[0] - place))
            if off > OFF_SKIN_CM:
                raise CoreError(message("own-lies-cm-off-skin-end", id=entry.id, off=off, build=build), where=where)


def _placed(entry: Entry, body: FittedBody) -> list[Any]:
    with np.errstate(all="ignore"):
        if isinstance(entry, Area):
            (drawn,) = areas_on_body([entry], body.places)
            return [drawn.centre]
        return [body.places.at(method.place, "left") for method in entry.methods]
