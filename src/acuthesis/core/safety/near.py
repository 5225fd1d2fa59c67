"""Refusals that reach a practice's own points: what lies on a refused point is refused, whatever it is called."""

from collections.abc import Iterable

import numpy as np

from acuthesis.core.atlas.placed import Placed
from acuthesis.core.body.figure import Vector
from acuthesis.core.safety.rules import limits_for
from acuthesis.core.safety.screening import Reason, Screening

SAME_PLACE_CM = 1.5  # a thumb on one place covers the other


def refused_near(place: Vector, shipped: Iterable[Placed], screening: Screening) -> Reason | None:
    """The refusal of the nearest shipped point within a thumb of a place (3,), if there is one, with its distance."""
    near = [
        (float(np.linalg.norm(one.position - place)), one)
        for one in shipped
        if one.outline is None and np.abs(one.position - place).max() < SAME_PLACE_CM
    ]
    for distance, one in sorted(near, key=lambda row: row[0]):
        refused = limits_for(one.entry, one.side if one.entry.paired else "midline", screening).refused
        if distance < SAME_PLACE_CM and refused is not None:
            return refused.model_copy(update={"text": f"{distance:.1f} cm from {one.entry.id}. {refused.text}"})
    return None
