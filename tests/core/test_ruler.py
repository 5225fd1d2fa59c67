"""Places held against a ruler that the rules do not use: joint axes, straight distances, shares of stature."""

import numpy as np
import pytest
from hypothesis import given

from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.body.person import BodyFacts
from tests.tiers import dice, drawn, examples

from .conftest import TWELVE, body_of, people
from .ruler import COUNTED, Ruler

PART = 0.35  # parts of its stretch: so far from the standard's level a place may lie
# Heights of landmarks as shares of stature: the mean of adults, and how far from it usual proportions may lie.
# Rounded from general anthropometry (surveys of adults by the landmarks of ISO 7250, segment shares of stature).
SHARES = {
    "lateral_malleolus_prominence": (0.040, 0.004),
    "medial_malleolus_prominence": (0.048, 0.006),
    "iliac_crest_top": (0.605, 0.015),
    "anterior_superior_iliac_spine": (0.555, 0.018),
    "greater_trochanter": (0.525, 0.02),
    "acromion": (0.82, 0.02),
    "suprasternal_notch": (0.82, 0.02),
    "c7_spinous_process": (0.85, 0.015),
    "umbilicus_center": (0.605, 0.02),
    "patella_apex": (0.27, 0.02),
}
USUAL = ("average", "woman", "man", "old and small", "young and small", "tall and heavy")


@pytest.fixture
def ruler(build):
    return Ruler(build)


def left(build, id):
    return build.places.at(catalogue.points()[id].methods[0].place, "left")


def assert_levels(build):
    ruler, off = Ruler(build), {}
    for (stretch, end), points in COUNTED.items():
        counted = ruler.stretch(stretch)
        count = counted.from_begin if end == "begin" else counted.from_end
        for id, parts in points.items():
            if abs(found := count(left(build, id)) - parts) > PART:
                off[id] = round(found, 2)
    assert not off, f"parts from the standard's level: {off}"


def test_levels_on_limbs_are_the_standards(build):
    assert_levels(build)


@examples(20)
@given(people())
def test_levels_hold_on_drawn_builds(facts):
    assert_levels(body_of(facts))


def test_the_crease_of_the_elbow_is_one_on_the_plane_that_halves_the_bend(build, ruler):
    for id in ("PC3", "LU5", "HT3"):
        assert ruler.off_the_bend(left(build, id)) < 0.3, id
    crease = ruler.crease_of_elbow()
    assert np.linalg.norm(build.places.landmark("cubital_crease", "left") - crease) < 0.8


@pytest.mark.parametrize("name", USUAL)
def test_landmarks_stand_as_high_as_surveys_of_adults_have_them(name):
    build = body_of(TWELVE[name])
    for landmark, (share, spread) in SHARES.items():
        height = build.places.landmark(landmark, "left")[1] / build.figure.height_cm
        assert height == pytest.approx(share, abs=spread), f"{landmark} on {name}"


def test_the_pelvis_hangs_together(build):
    """Crest, front corner, tailbone and pubic bone by their own distances, whatever the legs."""
    y = {id: build.places.landmark(id, "left")[1] for id in ("iliac_crest_top", "anterior_superior_iliac_spine")}
    stature = build.figure.height_cm
    assert 7 <= y["iliac_crest_top"] - y["anterior_superior_iliac_spine"] <= 10.5
    tail, pubis = (build.places.landmark(id, "left")[1] for id in ("coccyx_tip", "pubic_symphysis_upper_border"))
    assert abs(tail - pubis) < 1.5
    lumbar = [build.places.landmark(f"l{n}_spinous_process", "left")[1] for n in range(1, 6)]
    steps = -np.diff(lumbar) / stature
    assert ((steps > 0.016) & (steps < 0.023)).all(), "lumbar bumps lie 2.7 to 3.8 cm apart in somebody of 170 cm"


def test_four_parts_beside_the_midline_is_under_the_middle_of_the_collarbone(build):
    middle = build.places.landmark("clavicle_middle", "left")[0]
    for id in ("ST13", "ST14", "ST15", "ST16", "ST18"):
        assert abs(left(build, id)[0] - middle) < 0.8, id


def test_drawn_builds_are_of_usual_proportions():
    """The table of shares is a second opinion on builds that nobody measured: drawn by sex, age, height and weight."""
    chance = dice("shares")
    for _ in range(drawn(40)):
        sex = chance.choice(["female", "male"])
        height = chance.randint(155, 175) if sex == "female" else chance.randint(165, 190)
        build = body_of(BodyFacts(sex=sex, age=chance.randint(20, 70), height_cm=height))
        for landmark, (share, spread) in SHARES.items():
            at = build.places.landmark(landmark, "left")[1] / build.figure.height_cm
            assert at == pytest.approx(share, abs=spread * 1.3), f"{landmark} of {sex}, {height} cm"
