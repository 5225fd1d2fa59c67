"""Refused places and a practice's own points and areas: what lies on or at a refused place is refused, whatever its
name.
"""

from collections.abc import Iterable

import numpy as np
from shapely.geometry import Point as FlatPoint
from shapely.geometry import Polygon

from acuthesis.core.atlas.locating.placed import Placed
from acuthesis.core.body.figure import Vector
from acuthesis.core.reason import Reason
from acuthesis.core.safety.limits import limits_for
from acuthesis.core.safety.screening import Screening

SAME_PLACE_CM = 1.5  # a thumb on one place covers the other


def refused_near(own: Placed, shipped: Iterable[Placed], screening: Screening) -> Reason | None:
    """The refusal of the nearest shipped point or area within a thumb of an own one, with its distance; else None."""
    near = [(distance, one) for one in shipped if (distance := apart_cm(own, one)) < SAME_PLACE_CM]
    for distance, one in sorted(near, key=lambda row: row[0]):
        refused = limits_for(one.entry, one.side if one.entry.paired else "midline", screening).refused
        if refused is not None:
            on = distance == 0 and (one.outline is not None or own.outline is not None)
            where = "On" if on else f"{distance:.1f} cm from"
            return refused.model_copy(update={"text": f"{where} {one.entry.id}. {refused.text}"})
    return None


def apart_cm(one: Placed, other: Placed) -> float:
    """How far two points or areas are apart at the least (cm): 0 where a point lies in an area or areas overlap.

    What is farther than a thumb may be told as infinitely far.
    """
    ones, others = _corners(one), _corners(other)
    low, high = others.min(axis=0) - SAME_PLACE_CM, others.max(axis=0) + SAME_PLACE_CM
    if (ones.max(axis=0) < low).any() or (ones.min(axis=0) > high).any():
        return np.inf
    if one.outline is None and other.outline is None:
        return float(np.linalg.norm(one.position - other.position))
    found = np.inf
    for corners, area in ((ones, other), (others, one)):
        if area.outline is not None:
            normal = one.normal if area is other else other.normal
            found = min(found, *(_to_area(place, normal, area) for place in corners))
    return found


def _corners(one: Placed) -> Vector:
    return one.position[None] if one.outline is None else one.outline


def _to_area(place: Vector, normal: Vector, area: Placed) -> float:
    """Distance (cm) of a place (3,) on skin that faces `normal` from an area."""
    assert area.outline is not None
    if normal @ area.normal > 0 and _inside(place, area):  # palm and back of a hand face away from each other
        return 0.0
    begin, end = area.outline, np.roll(area.outline, -1, axis=0)
    along = end - begin
    length = np.maximum((along**2).sum(axis=1), 1e-12)
    share = np.clip(((place - begin) * along).sum(axis=1) / length, 0, 1)
    return float(np.linalg.norm(begin + share[:, None] * along - place, axis=1).min())


def _inside(place: Vector, area: Placed) -> bool:
    """Whether a place lies within an outline, looked at along the area's own normal."""
    assert area.outline is not None
    across = np.cross(area.normal, [0.0, 0.0, 1.0] if abs(area.normal[2]) < 0.9 else [1.0, 0.0, 0.0])
    flat = np.stack([across, np.cross(area.normal, across)], axis=1)
    outline = Polygon((area.outline - area.position) @ flat).buffer(0)
    return bool(outline.covers(FlatPoint((place - area.position) @ flat)))
