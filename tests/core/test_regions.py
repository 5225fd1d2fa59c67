"""Painted patches of skin: the region and the side that a practitioner would name, on every build."""

import numpy as np
import pytest

from acuthesis.core.body.fit import fit
from acuthesis.core.body.person import BodyFacts
from acuthesis.core.body.regions import patch_of
from acuthesis.core.errors import CoreError

BUILDS = (
    BodyFacts(sex="female", age=34, height_cm=166),
    BodyFacts(sex="male", age=60, height_cm=186, weight_kg=115),
    BodyFacts(sex="female", age=80, height_cm=148, weight_kg=42),
)
# A hand's width around a landmark, and what anybody would call it.
CALLED = {
    "patella_apex": "knee",
    "popliteal_crease": "knee",
    "heel_sole_center": "heel",
    "lateral_malleolus_tip": "ankle",
    "calf_fork": "calf",
    "greater_trochanter": "hip",
    "acromion": "shoulder",
    "olecranon": "elbow",
    "wrist_crease_palmar": "wrist",
    "tragus": "ear",
    "temple_hollow": "temple",
    "masseter_prominence": "jaw",
    "umbilicus_center": "lower belly",
    "xiphisternal_junction": "upper belly",
    "c7_spinous_process": "neck",
    "t6_spinous_process": "upper back",
    "l4_spinous_process": "low back",
    "nipple": "chest",
    "vertex": "head",
}


@pytest.fixture(scope="module", params=range(len(BUILDS)))
def body(asset, request):
    return fit(asset, BUILDS[request.param])


def around(body, landmark, side, radius_cm=3.0):
    middle = body.places.landmark(landmark, side)
    near = np.flatnonzero(np.linalg.norm(body.figure.skin - middle, axis=1) < radius_cm)
    return [int(one) for one in near]


@pytest.mark.parametrize(("landmark", "region"), CALLED.items())
def test_a_patch_is_called_what_anybody_would_call_it(body, landmark, region):
    assert patch_of(around(body, landmark, "left"), body).regions[0] == region


def test_sides(body):
    left, right = around(body, "patella_apex", "left"), around(body, "patella_apex", "right")
    assert (patch_of(left, body).side, patch_of(left, body).words[:4]) == ("left", "knee")
    assert patch_of(right, body).side == "right"
    assert patch_of([*left, *right], body).words.endswith("both sides")
    assert patch_of(around(body, "xiphisternal_junction", "left", 1.4), body).side == "midline"


@pytest.mark.parametrize("skin", [[], [-1], [10**6], list(range(20_000))])
def test_what_is_on_no_figure_is_refused(body, skin):
    with pytest.raises(CoreError):
        patch_of(skin, body)
