"""Every point and area is where its rule says, on every build and on both sides."""

import html

import numpy as np
import pytest
from hypothesis import given, settings

from acuthesis.core.atlas import catalogue
from acuthesis.core.atlas.locate import locate
from acuthesis.core.atlas.plate import FRAMES, frame_name, plate
from acuthesis.core.body import catalogue as body_catalogue
from acuthesis.core.body.construct import OnArc, OnLine
from acuthesis.core.body.fit import fit
from acuthesis.core.body.person import BodyFacts, Fingers
from acuthesis.core.errors import UnknownId
from acuthesis.core.safety.screening import parse_screening

from .conftest import body_of, people

POINTS = list(catalogue.points().values())
AREAS = list(catalogue.areas().values())
# Where each point has to be, said in landmarks around it: (landmark, direction in which the point lies from it).
# Directions: up, down, front, back, out (away from the middle), in. Source: general surface anatomy.
AROUND = {
    "LI4": [("wrist_crease_dorsal", "front"), ("metacarpal_2_head", "back")],
    "LI11": [("olecranon", "front"), ("wrist_crease_palmar", "up")],
    "HT7": [("pisiform", "up")],
    "PC6": [("wrist_crease_palmar", "up"), ("cubital_crease", "down")],
    "TE5": [("wrist_crease_dorsal", "up"), ("olecranon", "down")],
    "LI20": [("ala_nasi", "out"), ("mouth_corner", "up"), ("inner_canthus", "down")],
    "BL2": [("inner_canthus", "up"), ("brow_outer_end", "in")],
    "yintang": [("brow_inner_end", "in"), ("ala_nasi", "up")],
    "taiyang": [("outer_canthus", "back"), ("tragus", "front"), ("tragus", "up")],
    "GV20": [("anterior_hairline_midpoint", "back"), ("ear_apex", "up"), ("posterior_hairline_midpoint", "front")],
    "BL10": [("external_occipital_protuberance", "down"), ("c7_spinous_process", "up"), ("mastoid_tip", "in")],
    "GB20": [("mastoid_tip", "back"), ("external_occipital_protuberance", "down"), ("mastoid_tip", "in")],
    "GB21": [("c7_spinous_process", "out"), ("acromion", "in"), ("acromion", "up")],
    "BL23": [("l4_spinous_process", "up"), ("c7_spinous_process", "down"), ("l2_spinous_process", "out")],
    "CV17": [("suprasternal_notch", "down"), ("xiphisternal_junction", "up")],
    "CV12": [("xiphisternal_junction", "down"), ("umbilicus_center", "up")],
    "ST25": [("umbilicus_center", "out"), ("pubic_symphysis_upper_border", "up")],
    "ST36": [
        ("patella_apex", "down"),
        ("tibial_tuberosity", "down"),
        ("ankle_front", "up"),
        ("calcaneal_tendon", "front"),
    ],
    "SP6": [("medial_malleolus_tip", "up"), ("medial_condyle_lower_border", "down"), ("ankle_front", "back")],
    "SP10": [("patella_medial_upper_corner", "up"), ("pubic_symphysis_upper_border", "down"), ("patella_base", "in")],
    "BL40": [("patella_apex", "back"), ("medial_malleolus_tip", "up")],
    "GB34": [("fibula_head", "down"), ("fibula_head", "front"), ("lateral_malleolus_tip", "up")],
    "KI3": [("medial_malleolus_tip", "back"), ("calcaneal_tendon", "front"), ("calcaneal_tendon", "in")],
    "LR3": [("metatarsal_1_2_junction", "front"), ("toe_web_1", "back"), ("toe_web_1", "up")],
}
DIRECTIONS = {"up": (1, 1), "down": (1, -1), "front": (2, 1), "back": (2, -1)}


def both_sides(entry):
    return ("left", "right") if entry.paired else ("left",)


def test_every_point_has_neighbours_to_be_checked_against():
    assert set(AROUND) == set(catalogue.points())


@pytest.mark.parametrize("point", POINTS, ids=lambda point: point.id)
def test_point_lies_between_its_landmarks(point, body):
    for side in both_sides(point):
        place = body.places.at(point.methods[0].place, side)
        for name, where in AROUND[point.id]:
            mark = body.places.landmark(name, side)
            if where in DIRECTIONS:
                axis, sign = DIRECTIONS[where]
                assert (place[axis] - mark[axis]) * sign > 0, f"{point.id} {side} is not {where} of {name}"
            else:
                out = abs(place[0]) - abs(mark[0])
                assert (out > 0) == (where == "out"), f"{point.id} {side} is not {where}ward of {name}"


@settings(max_examples=5)
@given(people())
def test_points_are_on_the_skin_on_their_side_and_mirrored(facts):
    body = body_of(facts)
    for point in POINTS:
        for method in point.methods:
            left = body.places.at(method.place, "left")
            nearest, normal = body.figure.nearest_on_skin(left)
            assert np.linalg.norm(nearest - left) < 0.05, f"{point.id}: {method.name} is off the skin"
            assert np.linalg.norm(normal) == pytest.approx(1)
            if point.paired:
                right = body.places.at(method.place, "right")
                assert left[0] > 0.5 > -0.5 > right[0], f"{point.id} is on the wrong side"
                assert np.allclose(left * [-1, 1, 1], right, atol=0.06), f"{point.id} is not mirrored"
            else:
                assert abs(left[0]) < 0.05, f"{point.id} has left the middle"


@settings(max_examples=5)
@given(people())
def test_levels_are_the_stated_cun(facts):
    body = body_of(facts)
    for point in POINTS:
        rule = point.methods[0].place
        if not isinstance(rule, OnLine | OnArc):
            continue
        found = locate(point, "left", body)
        segment = body.places.segment(found.segment.id, "left")
        start = rule.start if isinstance(rule, OnLine) else segment.segment.start
        begun = segment.level_cun(body.places.at(start, "left"))
        wanted = begun + rule.cun * (1 if begun < segment.segment.cun / 2 else -1)
        tolerance = 0.02 if isinstance(rule, OnLine) else 0.15  # a tape is read to the next swept place
        assert found.level_cun == pytest.approx(wanted, abs=tolerance), point.id


def test_sp6_is_three_of_thirteen_above_the_ankle_bone_and_follows_the_leg(asset):
    point = catalogue.points()["SP6"]
    short, long = (
        locate(point, "left", fit(asset, BodyFacts(height_cm=170, measures_cm={"lower_leg_inner": cm})))
        for cm in (33.0, 37.0)
    )
    for found, length in ((short, 33.0), (long, 37.0)):
        assert found.segment.cun == 13
        assert found.segment.measured
        assert found.level_cun == pytest.approx(10, abs=0.01)
        ankle, place = np.array(found.landmarks["medial_malleolus_tip"]), np.array(found.position_cm)
        condyle = np.array(found.landmarks["medial_condyle_lower_border"])
        axis = (condyle - ankle) / np.linalg.norm(condyle - ankle)
        assert (place - ankle) @ axis == pytest.approx(length * 3 / 13, abs=0.06)
        assert place[2] < found.landmarks["medial_condyle_lower_border"][2] + 1, "behind the inner border of the shin"
    up = [found.position_cm[1] - found.landmarks["medial_malleolus_tip"][1] for found in (short, long)]
    assert up[1] - up[0] == pytest.approx(4 * 3 / 13, abs=0.08)


def test_own_fingers_are_a_check_that_says_its_error(asset):
    facts = BodyFacts(height_cm=170, measures_cm={"lower_leg_inner": 36}, fingers=Fingers(four_fingers=7.0))
    found = locate(catalogue.points()["SP6"], "right", fit(asset, facts), practitioner={"four_fingers": 8.4})
    (check,) = found.fingers
    assert check.own_measured
    assert check.wanted_cm == pytest.approx(36 * 3 / 13, abs=0.06)
    assert check.error_cm == pytest.approx(7.0 - check.wanted_cm, abs=0.02)
    assert check.practitioner_cm == 8.4
    by_hand = found.methods[1]
    assert by_hand.off_cm == pytest.approx(abs(check.error_cm), abs=0.15)
    assert by_hand.agrees == (by_hand.off_cm <= 0.4 * found.segment.cun_cm)


def test_a_measured_segment_leaves_less_uncertainty(asset):
    point = catalogue.points()["ST36"]
    guessed = locate(point, "left", fit(asset, BodyFacts(height_cm=175)))
    known = locate(point, "left", fit(asset, BodyFacts(height_cm=175, measures_cm={"lower_leg_outer": 44.0})))
    assert known.uncertainty_cm < guessed.uncertainty_cm
    assert not guessed.segment.measured


@pytest.mark.parametrize("area", AREAS, ids=lambda area: area.id)
def test_areas_lie_on_their_surface_and_keep_together(area, body):
    found = {side: locate(area, side, body) for side in ("left", "right")}
    for side, one in found.items():
        outline = np.array(one.outline_cm)
        reach = 1.2 if area.surface == "ear" else 4.0
        assert np.linalg.norm(outline - one.position_cm, axis=1).max() < reach, "the outline jumps to another part"
        assert all((x > 0) == (side == "left") for x in outline[:, 0])
        assert (0.05 if area.surface == "ear" else 0.7) < one.area_cm2 < (1.0 if area.surface == "ear" else 14.0)
        assert one.triangles
        nearest, _ = body.figure.nearest_on_skin(np.array(one.position_cm))
        assert np.linalg.norm(nearest - one.position_cm) < 0.05
    mirrored = np.array(found["left"].position_cm) * [-1, 1, 1]
    assert np.allclose(mirrored, found["right"].position_cm, atol=0.05)


@pytest.mark.parametrize("surface", ["ear", "sole"])
def test_areas_of_a_surface_do_not_overlap(surface, body):
    owner: dict[int, str] = {}
    for area in AREAS:
        if area.surface != surface:
            continue
        for triangle in locate(area, "left", body).triangles:
            assert triangle not in owner, f"{area.id} overlaps {owner.get(triangle)}"
            owner[triangle] = area.id


def test_soles_are_below_and_ears_beside(body):
    for area in AREAS:
        found = locate(area, "left", body)
        x, y, _ = found.position_cm
        if area.surface == "sole":
            assert y < 2.5
            assert found.normal[1] < -0.4
        elif area.surface == "ear":
            assert x > 5.5
            assert y > body.figure.height_cm * 0.86
        else:
            assert y < 9


@pytest.mark.parametrize("entry", [*POINTS, *AREAS], ids=lambda entry: entry.id)
def test_words_and_drawing_come_from_the_rule(entry, body):
    found = locate(entry, "left", body)
    assert len(found.steps) >= 2
    assert all(step.strip() and step[-1] in ".!" for step in found.steps)
    assert not any("  " in step or "None" in step for step in found.steps)
    if found.segment is not None and found.level_cun is not None:
        assert any("parts" in step and "cm" in step for step in found.steps)
    part = entry.part if entry.kind == "point" else catalogue.surfaces()[entry.surface].part
    svg = plate(found, part, body)
    assert svg.startswith("<svg")
    assert svg.count("<path") >= 4
    assert f"{entry.id}, {found.name}, left" in html.unescape(svg)
    assert frame_name(found, part) in FRAMES


def test_every_landmark_is_on_the_skin_and_can_be_felt(body):
    for name, landmark in body_catalogue.landmarks().items():
        assert landmark.find.endswith((".", "share."))
        for side in ("left", "right"):
            place = body.places.landmark(name, side)
            nearest, _ = body.figure.nearest_on_skin(place)
            assert np.linalg.norm(nearest - place) < 0.6, f"{name} is off the skin"
    for name in body_catalogue.segments():
        segment = body.places.segment(name, "left")
        assert 0.9 < segment.cun_cm < 3.9, f"one cun of {name} is {segment.cun_cm:.2f} cm"


def test_limits_of_the_person_come_with_the_place(body):
    pregnant = parse_screening({"pregnancy_weeks": 22, "blood_thinner": True})
    found = locate(catalogue.points()["SP6"], "left", body, pregnant)
    assert found.refused.rule == "pregnancy_points"
    assert found.press.max_level == 2
    assert found.cautions[0] == "Traditionally not pressed in pregnancy."
    assert locate(catalogue.points()["KI3"], "left", body, pregnant).refused is None


def test_unknown_places_say_so(body):
    with pytest.raises(UnknownId, match="no landmark 'left_antler'"):
        body.places.at("left_antler", "left")
    with pytest.raises(UnknownId, match="no point or area 'SP99'"):
        catalogue.entry("SP99")
    with pytest.raises(UnknownId, match="no segment 'tail'"):
        body.places.segment("tail", "left")
