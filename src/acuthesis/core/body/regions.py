"""Named regions of the skin: which of them a painted patch lies on, and on which side."""

from functools import lru_cache
from pathlib import Path
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.body import catalogue
from acuthesis.core.body.catalogue import read_yaml
from acuthesis.core.body.figure import SIDES
from acuthesis.core.body.fit import FittedBody
from acuthesis.core.errors import CoreError, UnknownId
from acuthesis.core.message import message

DATA = Path(__file__).parent / "data"
MEANT_FOR_CM = 170.0  # the height that reaches are given for
LEAST_SHARE = 0.12  # of a patch, below which a region is only brushed
ONE_SIDED = 0.9  # share of a patch from which it counts as on one side
MIDDLE_CM = 1.5  # nearer to the middle than this is neither side
MOST_PAINTED = 12_000


class Region(BaseModel):
    """A region: its name, the landmarks it lies around (or the middles between two), how far it reaches from them."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    reach_cm: float = Field(gt=0)
    around: tuple[str, ...] = ()
    middle_of: tuple[tuple[str, str], ...] = ()

    def anchors(self, body: FittedBody) -> NDArray[np.float64]:
        """The places it lies around on a body, of both sides, (n, 3) cm."""
        at = body.places.landmark
        single = [at(name, side) for name in self.around for side in SIDES]
        middles = [(at(one, side) + at(other, side)) / 2 for one, other in self.middle_of for side in SIDES]
        return np.array([*single, *middles])


class Patch(BaseModel):
    """A painted patch: regions by their share of it, the largest first; its side; and both in words."""

    regions: list[str]
    side: Literal["left", "right", "both", "midline"]
    words: str


@lru_cache
def regions() -> tuple[Region, ...]:
    """All regions. Raises: UnknownId if one lies around a landmark that does not exist.

    >>> regions()[0].id
    'head'
    """
    found = tuple(read_yaml(DATA / "regions.yaml", Region))
    for region in found:
        for name in (*region.around, *(name for pair in region.middle_of for name in pair)):
            if name not in catalogue.landmarks():
                raise UnknownId(
                    message("regions-region-lies-around-which-does", id=region.id, name=name), where=region.id
                )
    return found


def patch_of(painted: list[int], body: FittedBody) -> Patch:
    """What a painted patch of skin lies on.

    Parameters: painted, numbers of skin vertices of the person's figure (the same for everybody).
    Raises: CoreError for nothing painted, too much of it, or a vertex that no figure has.
    """
    skin = body.figure.skin
    if not painted or len(painted) > MOST_PAINTED:
        raise CoreError(message("regions-paint-between-places", most_painted=MOST_PAINTED), where="skin")
    chosen = np.unique(np.asarray(painted, dtype=np.int64))
    if chosen[0] < 0 or chosen[-1] >= len(skin):
        raise CoreError(message("regions-there-places-on-figure", count=len(skin)), where="skin")
    places = np.asarray(skin[chosen])
    names = _names_at(places, body)
    counted = {name: float(np.mean(names == name)) for name in dict.fromkeys(names)}
    found = sorted((name for name in counted if counted[name] >= LEAST_SHARE), key=lambda name: -counted[name])
    found = found or [max(counted, key=lambda name: counted[name])]
    side = _side(places)
    said = {"left": "left", "right": "right", "both": "both sides", "midline": "in the middle"}[side]
    return Patch(regions=found, side=side, words=f"{', '.join(found)}, {said}")


def _names_at(places: NDArray[np.float64], body: FittedBody) -> NDArray[np.str_]:
    """The nearest region of each place (n, 3), by distance in reaches."""
    size = body.figure.height_cm / MEANT_FOR_CM
    best = np.full(len(places), np.inf)
    names = np.full(len(places), "", dtype="U16")
    for region in regions():
        apart = np.linalg.norm(places[:, None, :] - region.anchors(body)[None, :, :], axis=2)
        away = apart.min(axis=1) / (region.reach_cm * size)
        nearer = away < best
        best[nearer] = away[nearer]
        names[nearer] = region.id
    return names


def _side(places: NDArray[np.float64]) -> Literal["left", "right", "both", "midline"]:
    left, right = float(np.mean(places[:, 0] > MIDDLE_CM)), float(np.mean(places[:, 0] < -MIDDLE_CM))
    if left >= ONE_SIDED:
        return "left"
    if right >= ONE_SIDED:
        return "right"
    return "midline" if left + right < 1 - ONE_SIDED else "both"
