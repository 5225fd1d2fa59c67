"""The points, areas and landmarks around a place on the skin, the nearest first."""

from collections.abc import Iterable
from typing import Literal

import numpy as np
from pydantic import BaseModel
from shapely import Point as FlatPoint
from shapely import Polygon

from acuthesis.core.atlas.locating.placed import Placed
from acuthesis.core.body import catalogue
from acuthesis.core.body.figure import Side, Vector
from acuthesis.core.body.fit import FittedBody

NEAR_CM = 4.0
SAME_SIDE = 0.2  # cosine between normals, below which the skin is another side of the limb
MOST = 8


class Nearby(BaseModel):
    """One thing near a place, and how far away it is; 0 inside an area."""

    id: str
    kind: Literal["point", "area", "landmark"]
    side: Side
    name: str
    distance_cm: float


def nearby(place: Vector, body: FittedBody, placed: Iterable[Placed]) -> list[Nearby]:
    """What lies within a few centimetres of a place (3,) on the skin: points and areas, then landmarks."""
    _, normal = body.figure.nearest_on_skin(place)
    found = []
    for one in placed:
        distance = float(np.linalg.norm(one.position - place))
        if distance > NEAR_CM + 3 or one.normal @ normal < SAME_SIDE:
            continue
        if one.outline is not None:
            distance = _to_area(place, one)
        if distance <= NEAR_CM:
            entry = one.entry
            found.append(
                (
                    distance,
                    Nearby(
                        id=entry.id,
                        kind=entry.kind,
                        side=one.side,
                        name=entry.names.english,
                        distance_cm=round(distance, 2),
                    ),
                )
            )
    nearest = [row for _, row in sorted(found, key=lambda pair: pair[0])[:MOST]]
    return nearest + _landmarks(place, body)


def _to_area(place: Vector, one: Placed) -> float:
    """Distance to an area in the plane of its middle; 0 inside."""
    assert one.outline is not None
    aside = np.cross(one.normal, [0.0, 1.0, 0.0] if abs(one.normal[1]) < 0.9 else [0.0, 0.0, 1.0])
    aside /= np.linalg.norm(aside)
    axes = np.stack([aside, np.cross(one.normal, aside)], axis=1)
    shape = Polygon((one.outline - one.position) @ axes)
    return float(shape.distance(FlatPoint(*((place - one.position) @ axes))))


def _landmarks(place: Vector, body: FittedBody) -> list[Nearby]:
    side: Side = "left" if place[0] >= 0 else "right"
    rows = []
    for name, mark in catalogue.landmarks().items():
        distance = float(np.linalg.norm(body.places.landmark(name, side) - place))
        if distance <= NEAR_CM:
            rows.append(
                (distance, Nearby(id=name, kind="landmark", side=side, name=mark.name, distance_cm=round(distance, 2)))
            )
    return [row for _, row in sorted(rows, key=lambda pair: pair[0])[:3]]
