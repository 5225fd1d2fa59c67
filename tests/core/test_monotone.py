"""A longer segment carries its points farther, by exactly their share of it."""

from typing import Any

import numpy as np
import pytest

from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.locating.locate import locate
from acuthesis.core.body.catalogue import segments
from acuthesis.core.body.construct import OnLine
from acuthesis.core.body.person import BodyFacts

from .conftest import body_of

# A short and a long length (cm) for each measurable segment, both usual at 170 cm.
LENGTHS = {
    "forearm": (23.5, 27.0),
    "lower_leg_inner": (33.0, 37.0),
    "lower_leg_outer": (40.5, 45.5),
    "thigh_front": (36.0, 41.0),
}
LIMB = {
    "forearm": ("elbow", "hand"),
    "lower_leg_inner": ("knee", "ankle"),
    "lower_leg_outer": ("knee", "ankle"),
    "thigh_front": ("upper-leg", "knee"),
}
COUNTED = [
    point
    for point in catalogue.points().values()
    if isinstance(point.methods[0].place, OnLine) and segments()[point.methods[0].place.segment].measure in LENGTHS
]


def test_many_points_count_in_what_can_be_measured():
    assert {"PC6", "ST36", "SP6", "SP10", "LU6", "TE6", "LI10", "GB39", "BL57", "KI9", "ST32"} <= {
        p.id for p in COUNTED
    }
    assert len(COUNTED) > 50


@pytest.mark.parametrize("measure", LENGTHS)
def test_farther_along_a_longer_segment(measure):
    lengths = np.linspace(*LENGTHS[measure], 4).round(1)
    bodies = [body_of(BodyFacts(height_cm=170, measures_cm={measure: float(length)})) for length in lengths]
    for point in COUNTED:
        rule: Any = point.methods[0].place
        if segments()[rule.segment].measure != measure:
            continue
        along = []
        for body, length in zip(bodies, lengths, strict=True):
            one = locate(point, "right", body)
            first, last = (body.figure.joint(name, "right") for name in LIMB[measure])
            axis = (last - first) / np.linalg.norm(last - first)
            # A tape from skin to skin is tilted against the limb: so many parts of it are as many of what it reaches.
            start, end = (np.array(one.landmarks[name]) for name in (one.segment.from_, one.segment.to))
            reach = length * ((end - start) @ axis) / np.linalg.norm(end - start)
            begun = body.places.landmark(rule.start, "right")
            along.append(abs((np.array(one.position_cm) - begun) @ axis))
            assert along[-1] == pytest.approx(reach * rule.cun / one.segment.cun, abs=0.12), point.id
        if rule.cun > 0:
            assert along == sorted(along), point.id
