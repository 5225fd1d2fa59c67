"""Plain clothing over chest and hips: which skin it covers, so that the person can be shown their own figure.

The base mesh has one topology: what is covered is marked once, on the average figure, and holds for everybody, in every
pose. Source: none; a convention of decency.
"""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from acuthesis.core.body.asset import BodyAsset
from acuthesis.core.body.fit import fit
from acuthesis.core.body.person import BodyFacts

PIECES = ("chest", "hips")

STEP_CM = 0.1
BEYOND_CM = 12.0  # what lies deeper in the cloth, or farther outside it, is all one


def worn(facts: BodyFacts) -> tuple[str, ...]:
    """The pieces in which a person is shown: over the hips, and but for men over the chest.

    >>> worn(BodyFacts(sex="male")), worn(BodyFacts())
    (('hips',), ('chest', 'hips'))
    """
    return ("hips",) if facts.sex == "male" else PIECES


@lru_cache(maxsize=1)
def cloth_depths(asset: BodyAsset) -> NDArray[np.int8]:
    """How deep each vertex of the skin lies inside each piece of cloth, (pieces, vertices) in steps of a millimetre.

    Above zero it is covered; zero is the hem. The pieces are in the order of `PIECES`.
    """
    body = fit(asset, BodyFacts())
    skin = body.figure.skin
    aside, height = np.abs(skin[:, 0]), skin[:, 1]
    at = {
        name: body.places.landmark(name, "left")
        for name in (
            "anterior_axillary_fold",
            "armpit_center",
            "xiphisternal_junction",
            "iliac_crest_top",
            "gluteal_fold",
            "greater_trochanter",
        )
    }
    # Arms and hands hang beside the cloth: it ends where they begin.
    chest = _band(
        height,
        aside,
        top=at["anterior_axillary_fold"][1] + 1.5,
        bottom=at["xiphisternal_junction"][1] - 4.0,
        out=abs(at["armpit_center"][0]) + 0.5,
    )
    hips = _band(
        height,
        aside,
        top=at["iliac_crest_top"][1] - 1.0,
        bottom=at["gluteal_fold"][1] - 2.0,
        out=abs(at["greater_trochanter"][0]) + 6.0,
    )
    steps = np.clip(np.stack([chest, hips]), -BEYOND_CM, BEYOND_CM) / STEP_CM
    return np.asarray(steps.round().astype(np.int8))


def _band(
    height: NDArray[np.float64], aside: NDArray[np.float64], top: float, bottom: float, out: float
) -> NDArray[np.float64]:
    """How far inside a band of the trunk places lie, cm: between two heights, and no farther out than `out`."""
    return np.asarray(np.minimum(np.minimum(top - height, height - bottom), out - aside))
