"""Every point and area is where its rule says, on every build and on both sides."""

import numpy as np
import pytest

from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.locating.locate import locate
from acuthesis.core.body import catalogue as body_catalogue
from acuthesis.core.body.fit import fit
from acuthesis.core.body.person import BodyFacts, Fingers
from acuthesis.core.errors import UnknownId
from acuthesis.core.safety.located import locate_within
from acuthesis.core.safety.screening import parse_screening

# Where these points have to be, said in landmarks around them, apart from their rules: a landmark, and the direction in
# which the point lies from it (up, down, front, back, in, or out from the middle). Source: general surface anatomy.
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
    "LU1": [("acromion", "in"), ("clavicle_middle", "down"), ("nipple", "up"), ("nipple", "out")],
    "LU5": [("biceps_tendon", "out"), ("wrist_crease_palmar", "up")],
    "LI15": [("acromion", "down"), ("acromion", "front")],
    "TE14": [("acromion", "down"), ("acromion", "back")],
    "SI3": [("pisiform", "down"), ("finger_5_nail_corner_ulnar", "up")],
    "SI11": [("scapula_spine_middle", "down"), ("scapula_inferior_angle", "up"), ("scapula_medial_border", "out")],
    "SI18": [("outer_canthus", "down"), ("mouth_corner", "up"), ("ala_nasi", "out")],
    "TE17": [("earlobe_base", "back"), ("tragus", "down")],
    "ST6": [("mandible_angle", "front"), ("mandible_angle", "up"), ("mouth_corner", "out")],
    "ST7": [("tragus", "front"), ("cheekbone_lower_border", "back"), ("jaw_joint", "front")],
    "ST8": [("anterior_hairline_midpoint", "out"), ("brow_outer_end", "up"), ("ear_apex", "front")],
    "ST18": [("intercostal_space_4", "down"), ("umbilicus_center", "up")],
    "ST35": [("patella_apex", "out"), ("patella_base", "down"), ("tibial_tuberosity", "up")],
    "ST40": [("tibia_crest", "out"), ("fibula_head", "down"), ("ankle_front", "up")],
    "SP4": [("metatarsal_1_head", "back"), ("navicular_tuberosity", "front"), ("metatarsal_1_base", "down")],
    "SP9": [("patella_apex", "down"), ("tibial_tuberosity", "back"), ("medial_malleolus_tip", "up")],
    "SP21": [("anterior_axillary_fold", "down"), ("rib_11_tip", "up")],
    "BL1": [("inner_canthus", "up"), ("brow_inner_end", "down")],
    "BL32": [("l5_spinous_process", "down"), ("coccyx_tip", "up")],
    "BL57": [("popliteal_crease", "down"), ("calcaneal_tendon", "up")],
    "BL60": [("lateral_malleolus_tip", "back"), ("calcaneal_tendon", "front"), ("calcaneal_tendon", "out")],
    "BL67": [("metatarsal_5_head", "front"), ("toe_4_nail_corner_lateral", "out")],
    "KI1": [("metatarsal_2_head", "back"), ("heel_sole_center", "front"), ("metatarsal_2_head", "down")],
    "KI27": [("suprasternal_notch", "out"), ("clavicle_middle", "in"), ("sternal_angle", "up")],
    "GB30": [("greater_trochanter", "back"), ("greater_trochanter", "in"), ("sacral_hiatus", "out")],
    "GB40": [("lateral_malleolus_tip", "front"), ("metatarsal_5_base", "back")],
    "LR13": [("iliac_crest_top", "up"), ("xiphisternal_junction", "down"), ("nipple", "out")],
    "LR14": [("nipple", "down"), ("rib_11_tip", "up")],
    "GV4": [("l2_spinous_process", "down"), ("l3_spinous_process", "up")],
    "GV14": [("c7_spinous_process", "down"), ("t1_spinous_process", "up")],
    "GV16": [("external_occipital_protuberance", "down"), ("posterior_hairline_midpoint", "up")],
    "CV4": [("umbilicus_center", "down"), ("pubic_symphysis_upper_border", "up")],
    "CV23": [("chin_midpoint", "down"), ("laryngeal_prominence", "up")],
}
DIRECTIONS = {"up": (1, 1), "down": (1, -1), "front": (2, 1), "back": (2, -1)}


def test_points_lie_between_the_landmarks_around_them(body):
    for id, around in AROUND.items():
        point = catalogue.points()[id]
        for side in point.sides:
            place = body.places.on_side(point.methods[0].place, side)
            for name, where in around:
                mark = body.places.landmark(name, side)
                if where in DIRECTIONS:
                    axis, sign = DIRECTIONS[where]
                    assert (place[axis] - mark[axis]) * sign > 0, f"{id} {side} is not {where} of {name}"
                else:
                    out = abs(place[0]) - abs(mark[0])
                    assert (out > 0) == (where == "out"), f"{id} {side} is not {where}ward of {name}"


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
        ankle, place = np.array(found.landmarks["medial_malleolus_prominence"]), np.array(found.position_cm)
        condyle = np.array(found.landmarks["medial_condyle_lower_border"])
        assert np.linalg.norm(condyle - ankle) == pytest.approx(length, abs=0.05), "a tape finds what was measured"
        # Levels are square to the limb, and the tape runs from skin to skin: nearly the same.
        axis = (condyle - ankle) / np.linalg.norm(condyle - ankle)
        assert (place - ankle) @ axis == pytest.approx(length * 3 / 13, abs=0.3)
        assert place[2] < found.landmarks["medial_condyle_lower_border"][2] + 1, "behind the inner border of the tibia"
    up = [found.position_cm[1] - found.landmarks["medial_malleolus_prominence"][1] for found in (short, long)]
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
    point = catalogue.points()["ST37"]
    guessed = locate(point, "left", fit(asset, BodyFacts(height_cm=175)))
    known = locate(point, "left", fit(asset, BodyFacts(height_cm=175, measures_cm={"lower_leg_outer": 44.0})))
    assert known.uncertainty_cm < guessed.uncertainty_cm
    assert not guessed.segment.measured


def test_the_error_of_a_counted_point_is_its_share_of_a_tape_or_of_an_average_limb(asset):
    """ST40 is half way down the lower leg. A tape is off by 4 mm there at its worst, an unmeasured limb by a twentieth.

    Source: docs/guide/locating.md. Landmarks and finger add nearly the same to either, so the squares differ by that.
    """
    point = catalogue.points()["ST40"]
    known = locate(point, "left", fit(asset, BodyFacts(height_cm=175, measures_cm={"lower_leg_outer": 44.0})))
    guessed = locate(point, "left", fit(asset, BodyFacts(height_cm=175)))
    length = guessed.segment.cun * guessed.segment.cun_cm
    more = (0.05 * length / 2) ** 2 - (0.4 / 2) ** 2
    assert guessed.methods[0].error_cm ** 2 - known.methods[0].error_cm ** 2 == pytest.approx(more, rel=0.15)


def test_every_landmark_is_on_the_skin_and_can_be_felt(body):
    for name, landmark in body_catalogue.landmarks().items():
        assert landmark.how.endswith((".", "share."))
        for side in ("left", "right"):
            place = body.places.landmark(name, side)
            nearest, _ = body.figure.nearest_on_skin(place)
            assert np.linalg.norm(nearest - place) < 0.6, f"{name} is off the skin"
    for name in body_catalogue.segments():
        segment = body.places.segment(name, "left")
        assert 0.9 < segment.cun_cm < 3.9, f"one cun of {name} is {segment.cun_cm:.2f} cm"


def test_limits_of_the_person_come_with_the_place(body):
    pregnant = parse_screening({"pregnancy_weeks": 22, "blood_thinner": True})
    found = locate_within(catalogue.points()["SP6"], "left", body, pregnant)
    assert found.refused.rule == "pregnancy_points"
    assert found.press.max_level == 2
    assert found.cautions[0] == "Traditionally not pressed in pregnancy."
    assert locate_within(catalogue.points()["KI3"], "left", body, pregnant).refused is None


def test_unknown_places_say_so(body):
    with pytest.raises(UnknownId, match="no landmark 'left_antler'"):
        body.places.at("left_antler", "left")
    with pytest.raises(UnknownId, match="no point or area 'SP99'"):
        catalogue.entry("SP99")
    with pytest.raises(UnknownId, match="no segment 'tail'"):
        body.places.segment("tail", "left")
