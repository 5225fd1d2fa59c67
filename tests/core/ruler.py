"""A ruler of its own: where the standard puts a place along a limb, measured from joint to joint.

It shares nothing with the rule language but the joints of the figure and landmarks that a hand would begin at: levels
are projections on the line from joint to joint, and the elbow's crease is cut here by the plane that halves the bend.
Source: the proportional units and distances of the standard, written down from general knowledge.
"""

from dataclasses import dataclass

import numpy as np

from acuthesis.core.body.figure import Side, Vector
from acuthesis.core.body.fit import FittedBody

SIDE: Side = "left"


def unit(vector: Vector) -> Vector:
    return np.asarray(vector / np.linalg.norm(vector))


@dataclass(frozen=True)
class Stretch:
    """Of a limb: its joints (3,), and how far along their line the counted stretch begins and ends (cm)."""

    first: Vector
    axis: Vector
    begins: float
    ends: float
    parts: float

    def along(self, place: Vector) -> float:
        """How far along the limb a place lies, cm from its first joint."""
        return float((place - self.first) @ self.axis)

    def part_cm(self) -> float:
        return (self.ends - self.begins) / self.parts

    def from_begin(self, place: Vector) -> float:
        return (self.along(place) - self.begins) / self.part_cm()

    def from_end(self, place: Vector) -> float:
        return (self.ends - self.along(place)) / self.part_cm()


class Ruler:
    """Stretches of one figure's left limbs."""

    def __init__(self, body: FittedBody) -> None:
        self.figure, self.places = body.figure, body.places

    def joint(self, name: str) -> Vector:
        return self.figure.joint(name, SIDE)

    def landmark(self, name: str) -> Vector:
        return self.places.landmark(name, SIDE)

    def crease_of_elbow(self) -> Vector:
        """Middle of the elbow's crease: in front of the joint, in the plane that halves the bend."""
        shoulder, elbow, wrist = (self.joint(name) for name in ("shoulder", "elbow", "hand"))
        # The inside of the bend is where the two bones point to, taken together.
        inside = unit(unit(shoulder - elbow) + unit(wrist - elbow))
        return self.figure.exit_point(elbow, inside)

    def off_the_bend(self, place: Vector) -> float:
        """How far a place lies from the plane that halves the bend of the elbow, cm."""
        shoulder, elbow, wrist = (self.joint(name) for name in ("shoulder", "elbow", "hand"))
        across = unit(unit(shoulder - elbow) - unit(wrist - elbow))
        return float(abs((place - elbow) @ across))

    def share_of_stature(self, share: float) -> Vector:
        """A place over the ankle at a share of stature above the floor."""
        ankle = self.joint("ankle")
        return np.array([ankle[0], share * self.figure.height_cm, ankle[2]])

    def stretch(self, name: str) -> Stretch:
        """A counted stretch by name: upper_arm, forearm, thigh_front, thigh_outer, thigh_back, shin, leg_inner."""
        mark = self.landmark
        first, last, begin, end, parts = {
            "upper_arm": ("shoulder", "elbow", mark("anterior_axillary_fold"), self.crease_of_elbow(), 9),
            "forearm": ("elbow", "hand", self.crease_of_elbow(), self.joint("hand"), 12),
            "thigh_front": ("upper-leg", "knee", mark("pubic_symphysis_upper_border"), mark("patella_base"), 18),
            "thigh_outer": ("upper-leg", "knee", mark("greater_trochanter"), mark("popliteal_crease"), 19),
            "thigh_back": ("upper-leg", "knee", mark("gluteal_fold"), mark("popliteal_crease"), 14),
            "shin": ("knee", "ankle", mark("patella_apex"), self.share_of_stature(0.040), 16),
            "leg_inner": ("knee", "ankle", mark("medial_condyle_lower_border"), self.share_of_stature(0.048), 13),
        }[name]
        top, bottom = self.joint(first), self.joint(last)
        axis = unit(bottom - top)
        return Stretch(top, axis, float((begin - top) @ axis), float((end - top) @ axis), parts)


# Stretch and the end that is counted from, to points and their parts.
COUNTED: dict[tuple[str, str], dict[str, float]] = {
    ("forearm", "begin"): {"PC3": 0, "LU5": 0, "LI10": 2, "LI9": 3, "LI8": 4},
    ("forearm", "end"): {
        "LU6": 7,
        "LU7": 1.5,
        "LU8": 1,
        "LU9": 0,
        "PC4": 5,
        "PC5": 3,
        "PC6": 2,
        "PC7": 0,
        "HT4": 1.5,
        "HT5": 1,
        "HT6": 0.5,
        "HT7": 0,
        "SI7": 5,
        "LI6": 3,
        "LI7": 5,
        "TE4": 0,
        "TE5": 2,
        "TE6": 3,
        "TE7": 3,
        "TE8": 4,
    },
    ("upper_arm", "begin"): {"LU3": 3, "LU4": 4, "PC2": 2},
    ("upper_arm", "end"): {"HT2": 3, "LI13": 3},
    ("thigh_front", "end"): {"ST32": 6, "ST33": 3, "ST34": 2, "SP10": 2, "LR9": 4},
    ("thigh_outer", "end"): {"GB31": 9, "GB32": 7},
    ("thigh_back", "begin"): {"BL36": 0, "BL37": 6},
    ("thigh_back", "end"): {"BL40": 0},
    ("shin", "begin"): {"ST36": 3, "ST37": 6, "ST38": 8, "ST39": 9, "BL55": 2, "BL56": 5, "BL57": 8},
    ("shin", "end"): {
        "ST40": 8,
        "GB35": 7,
        "GB36": 7,
        "GB37": 5,
        "GB38": 4,
        "GB39": 3,
        "BL58": 7,
        "BL59": 3,
        "BL60": 0,
    },
    ("leg_inner", "begin"): {"SP8": 3, "SP9": 0},
    ("leg_inner", "end"): {"SP6": 3, "SP7": 6, "KI3": 0, "KI7": 2, "KI8": 2, "KI9": 5, "LR5": 5, "LR6": 7},
}
