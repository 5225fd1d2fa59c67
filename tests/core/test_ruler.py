"""Places held against a ruler that the rules do not use: joint axes, straight distances, shares of stature."""

import re
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given

from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.locating.locate import locate
from acuthesis.core.body import catalogue as body_catalogue
from acuthesis.core.body.construct import OnLine
from acuthesis.core.body.person import BodyFacts
from acuthesis.core.body.skeleton import skeleton
from tests.tiers import dice, drawn, examples

from .conftest import TWELVE, body_of, people
from .ruler import COUNTED, Ruler, unit

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
    outer = left(build, "LI11")  # half-way from LU5 to the outer knob, which stands a little higher
    assert ruler.off_the_bend(outer) < 0.25 * build.places.segment("upper_arm", "left").cun_cm
    midway = (left(build, "LU5") + build.places.landmark("lateral_epicondyle", "left")) / 2
    assert np.linalg.norm(outer - midway) < 1.3
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


# Lengths from joint to joint as shares of stature: women, men, and how far from it somebody usual may be.
# Sources: R. Drillis and R. Contini, Body segment parameters (1966), for the mean of both sexes (forearm 0.146, lower
# leg 0.246, thigh 0.245, hip 0.530, knee 0.285); surveys of adults by the landmarks of ISO 7250 for how the sexes
# differ (women's forearms are shorter) and for the spread of two standard deviations.
LENGTHS = {
    ("elbow", "hand"): (0.139, 0.147, 0.012),
    ("knee", "ankle"): (0.243, 0.252, 0.016),
    ("upper-leg", "knee"): (0.241, 0.239, 0.016),
}
HEIGHTS = {"upper-leg": (0.520, 0.526, 0.02), "knee": (0.283, 0.290, 0.016), "ankle": (0.043, 0.040, 0.008)}


def test_drawn_builds_are_of_usual_proportions():
    """The tables of shares are a second opinion on builds that nobody measured: drawn by sex, age and height."""
    chance = dice("shares")
    for _ in range(drawn(200)):
        sex = chance.choice(["female", "male"])
        height = chance.randint(152, 176) if sex == "female" else chance.randint(163, 192)
        build = body_of(BodyFacts(sex=sex, age=chance.randint(20, 70), height_cm=height))
        who = f"{sex}, {height} cm"
        for landmark, (share, spread) in SHARES.items():
            at = build.places.landmark(landmark, "left")[1] / build.figure.height_cm
            assert at == pytest.approx(share, abs=spread * 1.3), f"{landmark} of {who}"
        joint = {name: build.figure.joint(name, "left") for pair in LENGTHS for name in pair}
        for (a, b), (female, male, spread) in LENGTHS.items():
            long = np.linalg.norm(joint[a] - joint[b]) / height
            assert long == pytest.approx(female if sex == "female" else male, abs=spread), f"{a} to {b} of {who}"
        for name, (female, male, spread) in HEIGHTS.items():
            at = joint[name][1] / height
            assert at == pytest.approx(female if sex == "female" else male, abs=spread), f"{name} of {who}"


def edge_of(build, bone, place):
    """How far a place of the left lower leg lies behind a bone's back edge (+) and before its front edge (-), cm.

    The bone is cut at the height of the place along the limb, and looked at from the side.
    """
    knee, ankle = (build.figure.joint(name, "left") for name in ("knee", "ankle"))
    down = unit(ankle - knee)
    front = unit(np.array([0, 0, 1.0]) - down * down[2])
    rings = next(one.rings for one in skeleton(build.places) if one.id == f"left.{bone}")
    depth, level = (rings - knee) @ front, (rings - knee) @ down
    wanted = (place - knee) @ down
    cut = []
    for (d0, l0), (d1, l1) in pairwise(zip(depth, level, strict=True)):
        between = (l0 - wanted) * (l1 - wanted) <= 0
        share = (wanted - l0[between]) / (l1[between] - l0[between])
        cut.append(d0[between] + share * (d1[between] - d0[between]))
    edges = np.concatenate(cut)
    here = (place - knee) @ front
    return float(edges.min() - here), float(here - edges.max())


def test_points_of_the_lower_leg_lie_by_the_edges_of_its_bones(build):
    """Behind the inner border of the shin, before or behind the thin bone: beside the bone, not on it."""
    for id in ("SP6", "SP7", "SP8", "SP9", "KI8"):
        behind, _ = edge_of(build, "tibia", left(build, id))
        assert -0.3 < behind < 2.8, f"{id} lies {behind:.1f} cm behind the shin's inner border"
    for id in ("GB36", "GB37", "GB38", "GB39"):
        _, before = edge_of(build, "fibula", left(build, id))
        assert -0.1 < before < 0.9, f"{id} lies {before:.1f} cm before the thin bone"
    behind, _ = edge_of(build, "fibula", left(build, "GB35"))
    assert 0 < behind < 1.3, f"GB35 lies {behind:.1f} cm behind the thin bone"


def test_single_points_lie_where_the_standard_has_them(build):
    """One sentence of the standard each, in straight distances from landmarks and other points."""
    at, mark = (lambda id: left(build, id)), build.places.landmark
    cun = {one: build.places.segment(one, "left").cun_cm for one in ("upper_arm", "nipple_width", "head_midline")}
    above = at("TE13") - mark("acromial_angle", "left")
    assert np.linalg.norm(above) == pytest.approx(3 * cun["upper_arm"], abs=0.8), "three below the shoulder roof"
    assert at("SI9")[1] - mark("posterior_axillary_fold", "left")[1] == pytest.approx(cun["upper_arm"], abs=0.3)
    for id in ("LU1", "LU2", "SP20"):
        assert at(id)[0] == pytest.approx(6 * cun["nipple_width"], rel=0.09), f"{id}: six beside the middle"
    assert at("GB8")[1] - mark("ear_apex", "left")[1] == pytest.approx(1.5 * cun["head_midline"], abs=0.3)
    assert at("GB19")[0] == pytest.approx(at("GB20")[0], abs=0.3), "straight above GB20"
    assert at("GB19")[1] == pytest.approx(at("GV17")[1], abs=0.3), "level with the upper edge of the bump"
    assert at("TE16")[1] == pytest.approx(mark("mandible_angle", "left")[1], abs=0.3)
    knob = mark("metatarsal_5_base", "left")
    ahead = build.figure.joint("toe-2-1", "left") - build.figure.joint("ankle", "left")
    assert -2.2 < (at("BL63") - knob) @ unit(ahead * [1, 0, 1]) < -0.8, "behind the knob"
    knee, ankle = (build.figure.joint(name, "left") for name in ("knee", "ankle"))
    crease = (at("LR8") - mark("popliteal_crease", "left")) @ unit(ankle - knee)
    assert abs(crease) < 0.5, "LR8 lies at the end of the crease"
    assert at("LR8")[2] > at("KI10")[2] > at("BL40")[2], "from the inner side to the middle of the crease"
    throat = [mark(name, "left")[1] for name in ("hyoid", "laryngeal_prominence", "cricoid", "suprasternal_notch")]
    hyoid_to_larynx, larynx_to_ring, ring_to_notch = -np.diff(throat)
    assert 1.4 < hyoid_to_larynx < 2.8 and 1.2 < larynx_to_ring < 2.8 and 2.2 < ring_to_notch < 5.2
    armpit, rib = mark("armpit_center", "left")[1], mark("rib_11_tip", "left")[1]
    for id, share in (("GB22", 3 / 12), ("SP21", 6 / 12)):
        assert (armpit - at(id)[1]) / (armpit - rib) == pytest.approx(share, abs=0.06), id
    lip = (at("GV26")[1] - mark("upper_lip_edge", "left")[1]) / (
        mark("nostril_base", "left")[1] - mark("upper_lip_edge", "left")[1]
    )
    assert lip == pytest.approx(0.5, abs=0.12), "halfway down the groove"
    assert at("LI19")[1] == pytest.approx(at("GV26")[1], abs=0.25)


# How far a hand misses landmarks (cm, one standard deviation): up and down, and to the side (docs/guide/evidence.md).
MISSED = {
    "spine of the loin": (r"l\d_|sacral|coccyx", 1.65, 0.3),
    "spine of the chest": (r"t\d+_", 1.2, 0.3),
    "hip, ribs, throat": (r"iliac|trochanter|pubic|gluteal|rib_|intercostal_space_(?:[6-9]|1\d)|laryn|hyoid", 1.0, 1.0),
    "shoulder blade": (r"scapula", 1.0, 1.0),
    "seen": (r"umbilicus|ear_|nipple|finger_|toe_", 0.2, 0.2),
    "bone and crease near the skin": (r"", 0.4, 0.4),
}


def missed(places, name, chance):
    """A landmark as a hand finds it: off by a normal error along the skin."""
    up, aside = next((up, aside) for pattern, up, aside in MISSED.values() if re.match(pattern, name))
    return astray(places, places.landmark(name, "left"), up, aside, chance)


def astray(places, at, up, aside, chance):
    _, outward = places.figure.nearest_on_skin(at)
    wrong = np.array([aside * chance.gauss(0, 1), up * chance.gauss(0, 1), aside * chance.gauss(0, 1)])
    return at + wrong - outward * (wrong @ outward)


def test_nine_of_ten_hands_find_the_place_within_its_ring():
    """Hands that miss the landmarks, lay a tape or guess a length, and feel around: the ring holds nine of ten.

    Nothing here is worked out by shifts of one landmark at a time, as the ring is: all are off at once.
    """
    chance = dice("rings")
    ids = ["GV3", "BL23", "BL15", "GB30", "SP6", "ST36", "PC6", "TE5", "BL57", "CV12", "ST25", "LI11", "GB20", "KI3"]
    ids += ["GB29", "LU1", "SP21", "ST9", "LI4", "GB34", "BL60", "CV17", "HT7", "LU7", "BL32", "GB31"]
    inside, tried = 0, 0
    for name in ("woman", "man"):
        places = body_of(TWELVE[name]).places
        for id in ids:
            point = catalogue.points()[id]
            found = locate(point, "left", body_of(TWELVE[name]))
            place, truth = point.methods[0].place, np.array(found.position_cm)
            landmarks = body_catalogue.mentioned(place)
            guessed = found.segment is not None and isinstance(place, OnLine)
            for _ in range(drawn(25)):
                hand = replace(
                    places, _landmarks={(one, "left"): missed(places, one, chance) for one in landmarks}, _segments={}
                )
                hit = hand.at(place, "left")
                if guessed:
                    segment = places.segment(place.segment, "left")
                    middle = min(found.level_cun, segment.segment.cun - found.level_cun)
                    hit = hit + segment.axis * chance.gauss(0, 0.05 * segment.cun_cm * max(0.0, middle))
                felt = (0.25 * point.search_radius_cm + 0.05) / 2**0.5
                hit = astray(places, hit, felt, felt, chance)
                if not landmarks:  # the place is itself what the hand looks for
                    hit = astray(places, hit, 0.4, 0.4, chance)
                inside += bool(np.linalg.norm(hit - truth) <= found.uncertainty_cm)
                tried += 1
    assert 0.87 <= inside / tried <= 0.99, f"{inside} of {tried}"
