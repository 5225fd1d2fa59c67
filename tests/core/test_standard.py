"""What the standard makes equal, counts and keeps apart: held to on twelve builds. Source: the openly standardised
international locations, and general surface anatomy for the least distances; nothing here is read off today's output.
"""

from collections import Counter
from pathlib import Path

import numpy as np
import pytest

from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.locating.locate import press_vector
from acuthesis.core.atlas.locating.ways import way_to
from acuthesis.core.body.cloth import cloth_depths
from acuthesis.core.body.fit import fit
from acuthesis.core.body.person import BodyFacts
from acuthesis.core.data_file import read
from tests.tiers import some

POINTS = catalogue.points()
# Beside the nth bump: level with the dip below it on the middle line.
BESIDE = {
    "GV14": ["SI15", "dingchuan"],
    "GV13": ["BL11", "SI14", "jiaji_t1"],
    "GV12": ["BL13", "BL42", "jiaji_t3"],
    "GV11": ["BL15", "BL44", "jiaji_t5"],
    "GV10": ["BL16", "BL45", "jiaji_t6"],
    "GV9": ["BL17", "BL46", "jiaji_t7"],
    "GV8": ["BL18", "BL47", "jiaji_t9"],
    "GV7": ["BL19", "BL48", "jiaji_t10"],
    "GV6": ["BL20", "BL49", "jiaji_t11"],
    "GV5": ["BL22", "BL51", "jiaji_l1", "pigen"],
    "GV4": ["BL23", "BL52", "jiaji_l2"],
    "GV3": ["BL25", "jiaji_l4", "yaoyan"],
    "shiqizhui": ["BL26", "jiaji_l5"],
}
# Never on the same spot, however small the body: least distances in cm.
APART = {
    ("SP1", "LR1"): 0.9,
    ("ST41", "ST42"): 2.0,
    ("LI4", "baxie_1"): 1.2,
    ("LI11", "LU5"): 1.2,
    ("GV20", "GV21"): 2.0,
    ("LU1", "LU2"): 1.0,
    ("CV23", "CV24"): 3.0,
    ("GB31", "GB32"): 2.5,
    ("SP6", "SP7"): 4.0,
}


def at(body, id, method=0):
    return body.places.at(POINTS[id].methods[method].place, "left")


def mark(body, id):
    return body.places.landmark(id, "left")


def level(body, segment, place):
    return body.places.segment(segment, "left").level_cun(place)


def test_the_knee_is_one_level(build):
    knee = [mark(build, id) for id in ("patella_apex", "knee_eye_lateral", "knee_eye_medial", "popliteal_crease")]
    axis = build.figure.joint("knee", "left") - build.figure.joint("ankle", "left")
    heights = [place @ axis / np.linalg.norm(axis) for place in knee]
    assert max(heights) - min(heights) < 1.2, "square to the lower leg"
    cun = [level(build, "lower_leg_outer", place) for place in knee]
    assert max(cun) - min(cun) < 0.75
    base, inner, outer = (
        level(build, "thigh_front", mark(build, id))
        for id in ("patella_base", "patella_medial_upper_corner", "patella_lateral_upper_corner")
    )
    assert abs(inner - base) < 0.75
    assert abs(outer - base) < 0.9
    half = [level(build, "lower_leg_outer", at(build, id)) for id in ("ST38", "ST40", "BL57")]
    assert max(half) - min(half) < 0.75, "side by side, half-way down"


def test_the_spine_is_counted_alike_from_front_back_and_side(build):
    navel = mark(build, "umbilicus_center")[1]
    assert mark(build, "l2_spinous_process")[1] > navel > mark(build, "l5_spinous_process")[1], "it lies where it lies"
    for bone, bump in (("scapula_inferior_angle", "t7"), ("iliac_crest_top", "l4"), ("scapula_spine_root", "t3")):
        assert mark(build, bone)[1] == pytest.approx(mark(build, f"{bump}_spinous_process")[1], abs=0.6), bone
    sternum = [
        level(build, "sternum", mark(build, id))
        for id in ("intercostal_space_1", "sternal_angle", "intercostal_space_2")
    ]
    assert sternum == sorted(sternum), "the second rib joins at the breastbone's angle"
    order = ["anterior_superior_iliac_spine", "iliac_crest_top", "rib_12_tip", "rib_11_tip", "intercostal_space_10"]
    order += ["intercostal_space_9", "intercostal_space_8"]
    heights = [mark(build, id)[1] for id in order]
    assert heights == sorted(heights)
    assert at(build, "SP21")[1] > mark(build, "intercostal_space_8")[1]


def test_beside_a_bump_is_the_level_of_the_dip_below_it(build):
    for middle, beside in BESIDE.items():
        height = at(build, middle)[1]
        for id in beside:
            assert at(build, id)[1] == pytest.approx(height, abs=0.3), id


def test_levels_of_the_standard(build):
    for id, segment, cun in (("GB31", "thigh_outer", 10), ("GB32", "thigh_outer", 12), ("SP11", "thigh_front", 6)):
        assert level(build, segment, at(build, id)) == pytest.approx(cun, abs=0.05), id
    pubis = mark(build, "pubic_symphysis_upper_border")[1]
    for id in ("LR12", "SP12", "ST30", "KI11", "CV2"):
        assert at(build, id)[1] == pytest.approx(pubis, abs=0.3), id
    neck = {id: at(build, id)[1] for id in ("ST9", "LI18", "SI16", "ST10", "LI17")}
    assert neck["ST9"] == pytest.approx(neck["LI18"], abs=1.2) == pytest.approx(neck["SI16"], abs=1.2)
    assert neck["ST10"] == pytest.approx(neck["LI17"], abs=1.2)
    assert neck["ST10"] < neck["ST9"]
    assert np.linalg.norm(at(build, "GV20") - mark(build, "vertex")) < 1.7, "where the ears join over the head"
    ring = [at(build, id) for id in ("sishencong", "sishencong_front", "sishencong_back")]
    cun = build.places.segment("head_midline", "left").cun_cm
    for place in ring:
        assert np.linalg.norm(place - at(build, "GV20")) == pytest.approx(cun, rel=0.15)


def test_places_that_are_not_one(build):
    for (first, second), least in APART.items():
        apart = np.linalg.norm(at(build, first) - at(build, second))
        assert apart > least, f"{first} and {second} are {apart:.1f} cm apart"


def test_ways_to_one_place_do_not_lead_to_two(body):
    """By the lower belly's own parts no hand is counted, and the shoulder blade's points are one by both ways."""
    for id in ("CV3", "CV4", "CV5", "CV6", "CV7", "KI12", "ST26", "SI13", "SI12", "LI5", "ST10"):
        places = [at(body, id, n) for n in range(len(POINTS[id].methods))]
        assert all(np.linalg.norm(place - places[0]) < 1.9 for place in places), id
    for id in ("BL13", "BL23", "BL42", "KI12"):
        for way in POINTS[id].methods:
            assert "four fingers and" not in way.name


def test_pressure_goes_into_the_body(build):
    """Within 50 degrees of straight in on every build, unless the entry says why not."""
    for point in POINTS.values():
        place = at(build, point.id)
        press = press_vector(point, place, "left", build)
        slant = np.degrees(np.arccos(np.clip(-press @ build.figure.facing(place), -1, 1)))
        assert slant < (75 if point.press.slanted else 50), f"{point.id} is pressed {slant:.0f} degrees off"


def test_most_points_can_be_found_in_a_second_way():
    points = catalogue.points().values()
    assert sum(len(point.methods) > 1 for point in points) >= 330


def test_every_entry_says_what_it_rests_on():
    guide = (Path(__file__).parents[2] / "docs" / "guide" / "evidence.md").read_text()
    counted = Counter(catalogue.source_of(entry).id for entry in catalogue.entries())
    assert set(counted) == set(catalogue.sources()) - {"own"}
    counted["face and scalp"] = counted.pop("face") + counted.pop("scalp")
    for family, number in counted.items():
        assert f"| {number} |" in guide, family
    assert {POINTS[id].source for id in ("SP6", "GV20")} == {"standard"}
    clefts = [point.id for point in POINTS.values() if "cleft" in point.categories]
    assert len(clefts) == 16, "twelve channels and four of the extra vessels have a cleft point"


EXTREMES = [
    BodyFacts(
        sex="female", age=82, height_cm=171, measures_cm={"sternum": 20.8, "calf_girth": 44.1, "ankle_girth": 18.8}
    ),
    BodyFacts(sex="male", age=43, height_cm=148, weight_kg=34.1, measures_cm={"upper_arm": 22.0, "wrist_girth": 18.3}),
    BodyFacts(age=77, height_cm=140, weight_kg=95.5, measures_cm={"foot_length": 21.8, "upper_arm_girth": 18.2}),
    BodyFacts(
        sex="female", age=23, height_cm=208, weight_kg=145.9, measures_cm={"forearm": 33.8, "upper_abdomen": 21.7}
    ),
    BodyFacts(
        age=64, height_cm=211, weight_kg=136, measures_cm={"foot_length": 34, "waist_girth": 136, "ankle_girth": 24}
    ),
    BodyFacts(sex="female", age=12, height_cm=122, weight_kg=30),
]


@pytest.mark.parametrize("facts", some(EXTREMES), ids=lambda facts: f"{facts.height_cm:g} cm")
def test_no_build_inside_the_measures_fails(asset, facts):
    """Every rule leads onto the skin, and over it from its landmark, on builds at the edge of what is allowed."""
    body = fit(asset, facts)
    for point in some(list(POINTS.values())):
        for method in point.methods:
            place = body.places.at(method.place, "left")
            nearest, _ = body.figure.nearest_on_skin(place)
            assert np.linalg.norm(nearest - place) < 0.8, f"{point.id}, {method.name}"
        way_to(point, "left", body)


def test_a_key_that_stands_twice_is_an_error(tmp_path):
    twice = tmp_path / "twice.yaml"
    twice.write_text("- {id: a}\n- id: b\n  name: one\n  name: two\n")
    with pytest.raises(Exception, match=r"Duplicate key “name”[\s\S]*line 4"):
        read(twice)


def test_cloth_covers_chest_and_hips_on_every_build_and_no_more(build, asset):
    depths = cloth_depths(asset)

    def covered(id):
        nearest = np.linalg.norm(build.figure.skin - mark(build, id), axis=1).argmin()
        return bool((depths[:, nearest] > 0).any())

    for id in ("nipple", "pubic_symphysis_upper_border", "coccyx_tip", "perineum"):
        assert covered(id), f"{id} is bare"
    for id in ("umbilicus_center", "acromion", "patella_base", "finger_3_tip", "cubital_crease", "c7_spinous_process"):
        assert not covered(id), f"{id} is covered"
