"""A longer segment carries its points farther, by exactly their share of it."""

import numpy as np
import pytest

from acuthesis.core.atlas import catalogue
from acuthesis.core.atlas.locate import locate
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
COUNTED = [
    point
    for point in catalogue.points().values()
    if isinstance(point.methods[0].place, OnLine) and segments()[point.methods[0].place.segment].measure in LENGTHS
]


def test_the_measurable_points_are_known():
    assert {point.id for point in COUNTED} == {"PC6", "ST36", "SP6", "SP10"}


@pytest.mark.parametrize("point", COUNTED, ids=lambda point: point.id)
@pytest.mark.parametrize("side", ["left", "right"])
def test_farther_along_a_longer_segment(point, side):
    rule = point.methods[0].place
    measure = segments()[rule.segment].measure
    found = [
        locate(point, side, body_of(BodyFacts(height_cm=170, measures_cm={measure: length})))
        for length in LENGTHS[measure]
    ]
    along = []
    for one in found:
        start, end = (np.array(one.landmarks[name]) for name in (one.segment.from_, one.segment.to))
        axis = (end - start) / np.linalg.norm(end - start)
        begun = np.array(one.landmarks[rule.start])
        along.append(abs((np.array(one.position_cm) - begun) @ axis))
    assert along[1] > along[0]
    for got, length in zip(along, LENGTHS[measure], strict=True):
        assert got == pytest.approx(length * rule.cun / one.segment.cun, abs=0.1)


@pytest.mark.parametrize("point", COUNTED, ids=lambda point: point.id)
def test_many_lengths_in_order(point):
    rule = point.methods[0].place
    measure = segments()[rule.segment].measure
    low, high = LENGTHS[measure]
    distances = []
    for length in np.linspace(low, high, 4).round(1):
        one = locate(point, "left", body_of(BodyFacts(height_cm=170, measures_cm={measure: float(length)})))
        distances.append(one.segment.cun_cm * rule.cun)
    assert distances == sorted(distances)
    assert len(set(distances)) == len(distances)
