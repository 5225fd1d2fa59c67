"""Bones that show through the skin, as lines of ink on it: the kneecap's rim and the edge of the shin.

The mesh does not sculpt them; on a person they are seen and felt, and points are looked for beside them. Nothing is
located by these lines. Source: the landmarks of knee and shin.
"""

import numpy as np

from acuthesis.core.body.figure import Vector
from acuthesis.core.body.frames import frame_of
from acuthesis.core.body.places import MIRROR, Places

AROUND = 28  # places of the kneecap's rim
HIGH_TO_WIDE = 0.94  # a kneecap is nearly as wide as it is high
NARROWER_BELOW = 0.35  # its lower half runs to a point
INSIDE_CM = 2.5  # so far below the skin a ray starts
SHIN = np.linspace(0.24, 0.86, 22)  # shares of the way from knee to ankle along which the edge lies under the skin
SHIN_TURN = 0.1  # how far the edge lies to the inner side of straight in front


def bony_ink(places: Places) -> list[Vector]:
    """Lines (n, 3) cm on the skin, both sides."""
    left = [_kneecap(places), _shin(places)]
    return [*left, *(line * MIRROR for line in left)]


def _kneecap(places: Places) -> Vector:
    frame = frame_of(places.figure, "lower_leg", "left")
    top, tip = places.landmark("patella_base", "left"), places.landmark("patella_apex", "left")
    middle, half = (top + tip) / 2, float(np.linalg.norm(top - tip)) / 2
    rim = []
    for turn in np.linspace(0, 2 * np.pi, AROUND + 1):
        up, aside = np.cos(turn), np.sin(turn) * HIGH_TO_WIDE
        aside *= 1 - NARROWER_BELOW * max(0.0, -up) ** 2
        inside = middle + half * (up * frame["proximal"] + aside * frame["lateral"]) - INSIDE_CM * frame["anterior"]
        rim.append(places.figure.exit_point(inside, frame["anterior"]))
    return np.array(rim)


def _shin(places: Places) -> Vector:
    frame = frame_of(places.figure, "lower_leg", "left")
    knee, ankle = (places.figure.joint(name, "left") for name in ("knee", "ankle"))
    toward = frame["anterior"] + SHIN_TURN * frame["medial"]
    return np.array([places.figure.exit_point(knee + share * (ankle - knee), toward) for share in SHIN])
