"""What holds for every point and area of the atlas, on fixed builds and on drawn ones."""

import html

import numpy as np
import pytest
from hypothesis import given

from acuthesis.core.atlas.drawing.plate import FRAMES, frame_name, plate
from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.locating.locate import locate
from acuthesis.core.atlas.locating.placed import place_all
from acuthesis.core.body import catalogue as body_catalogue
from acuthesis.core.body.construct import Around, Beside, OnLine
from tests.tiers import examples

from .conftest import BUILDS, body_of, people

POINTS = list(catalogue.points().values())
# A body part's bones, joint to joint, for asking in which part a place lies.
LIMBS = {
    "head": [("head", "head-2"), ("head", "jaw"), ("neck", "head")],
    "trunk": [("neck", "spine-1"), ("spine-1", "spine-4"), ("spine-4", "pelvis"), ("clavicle", "shoulder")],
    "upper_arm": [("shoulder", "elbow")],
    "forearm": [("elbow", "hand")],
    "hand": [("hand", "finger-3-1"), ("finger-1-1", "finger-1-4"), ("finger-3-1", "finger-3-4")],
    "thigh": [("upper-leg", "knee")],
    "lower_leg": [("knee", "ankle")],
    "foot": [("ankle", "toe-2-1"), ("toe-1-1", "toe-1-3"), ("toe-5-1", "toe-5-4")],
}


def placed_on(body):
    return {(one.entry.id, one.side): one for one in place_all(body)}


def distance_to(body, part, place):
    def to_bone(start, end):
        a, b = body.figure.joint(start, "left"), body.figure.joint(end, "left")
        share = np.clip((place - a) @ (b - a) / ((b - a) @ (b - a)), 0, 1)
        return float(np.linalg.norm(place - a - share * (b - a)))

    return min(to_bone(*bone) for bone in LIMBS[part])


@examples(5)
@given(people())
def test_all_is_on_the_skin_on_its_side_and_mirrored(facts):
    body = body_of(facts)
    for point in POINTS:
        for method in point.methods:
            left = body.places.at(method.place, "left")
            nearest, normal = body.figure.nearest_on_skin(left)
            assert np.linalg.norm(nearest - left) < 0.05, f"{point.id}: {method.name} is off the skin"
            assert np.linalg.norm(normal) == pytest.approx(1)
            if point.paired:
                assert left[0] > 0.3, f"{point.id} is on the wrong side"
                # Each side by itself: steep places of the skin, as between the buttocks, leave a millimetre.
                right = body.places.at(method.place, "right")
                assert np.allclose(left * [-1, 1, 1], right, atol=0.2), f"{point.id} is not mirrored"
                nearest, _ = body.figure.nearest_on_skin(body.places.on_side(method.place, "right"))
                assert np.allclose(nearest, left * [-1, 1, 1], atol=0.2), f"{point.id} is off the skin on the right"
            else:
                assert abs(left[0]) < 0.05, f"{point.id} has left the middle"
    for (id, side), one in placed_on(body).items():
        if one.outline is None:
            continue
        nearest, _ = body.figure.nearest_on_skin(one.position)
        assert np.linalg.norm(nearest - one.position) < 0.1, f"{id} is off the skin"
        if one.entry.paired:
            assert ((one.outline[:, 0] > 0) == (side == "left")).all(), f"{id} crosses the middle"


@examples(5)
@given(people())
def test_levels_and_widths_are_the_stated_cun(facts):
    body = body_of(facts)
    for point in POINTS:
        rule = point.methods[0].place
        counted = body_catalogue.counted(rule)
        found = locate(point, "left", body)
        if counted is not None:
            segment = body.places.segment(found.segment.id, "left")
            start = counted.start if isinstance(counted, OnLine) else segment.segment.start
            begun = segment.level_cun(body.places.at(start, "left"))
            wanted = begun + counted.cun * (1 if begun < segment.segment.cun / 2 else -1)
            tolerance = 0.02 if isinstance(counted, OnLine) else 0.15  # a tape is read to the next swept place
            assert found.level_cun == pytest.approx(wanted, abs=tolerance), point.id
            if not isinstance(rule, Around):  # the point itself, not only the place on the midline that it starts from
                assert segment.level_cun(np.array(found.position_cm)) == pytest.approx(wanted, abs=0.4), point.id
        if isinstance(rule, Beside):
            assert found.position_cm[0] == pytest.approx(rule.cun * found.across.cun_cm, abs=0.02), point.id
            assert found.across.distance_cm == pytest.approx(found.position_cm[0], abs=0.02)


def test_points_follow_one_another_along_their_channel(body):
    """A point's nearest fellows are its neighbours, but for where a channel runs beside itself or turns back."""
    apart = {"BL": 31, "GB": 14, "ST": 8, "SP": 4, "KI": 4, "TE": 4}
    placed = placed_on(body)
    for channel in catalogue.CHANNELS:
        ids = [point.id for point in POINTS if point.channel == channel]
        places = np.array([placed[id, "left"].position for id in ids])
        between = np.linalg.norm(places[:, None] - places, axis=2)
        np.fill_diagonal(between, np.inf)
        strays = [
            f"{id}, nearest {ids[near]}"
            for rank, (id, near) in enumerate(zip(ids, between.argmin(axis=1), strict=True))
            if abs(rank - near) > apart.get(channel, 2)
        ]
        assert not strays, strays


def test_everything_lies_in_its_part_of_the_body(body):
    for (id, side), one in placed_on(body).items():
        if side == "right":
            continue
        part = catalogue.part_of(one.entry)
        own = distance_to(body, part, one.position)
        nearest = min(distance_to(body, other, one.position) for other in LIMBS)
        # At a joint two parts meet, and a trunk is wide: the slack is half its depth.
        assert own < nearest + (11.0 if part in ("trunk", "thigh") else 4.5), f"{id} lies far from the {part}"


def test_points_of_a_series_are_nearest_to_their_own_landmark(body):
    """A point named by the fifth chest bump must not lie level with the fourth: vertebrae, rib spaces, nail corners."""
    bumps = [name for name in body_catalogue.landmarks() if name.endswith("_spinous_process")]
    heights = {name: body.places.landmark(name, "left")[1] for name in bumps}
    corners = [name for name in body_catalogue.landmarks() if "nail_corner" in name]
    ends = {name: body.places.landmark(name, "left") for name in corners}
    for point in POINTS:
        rule = point.methods[0].place
        place = body.places.at(rule, "left")
        if isinstance(rule, Beside) and isinstance(rule.beside, str) and rule.beside in heights:
            assert min(heights, key=lambda name: abs(heights[name] - place[1])) == rule.beside, point.id
        if isinstance(rule, str) and rule in ends:
            assert min(ends, key=lambda name: np.linalg.norm(ends[name] - place)) == rule, point.id


@pytest.mark.parametrize(("build", "first"), [("short and stout", 0), ("tall and thin", 1)])
def test_words_and_drawing_come_from_the_rule(build, first):
    """Every second point on the one build, the others on the other: putting all into words takes a while."""
    body = body_of(BUILDS[build])
    for rank, entry in enumerate(catalogue.entries()[first::2]):
        found = locate(entry, entry.sides[-1], body)
        assert len(found.steps) >= 2, entry.id
        assert all(step.strip() and step[-1] in ".!" for step in found.steps), found.steps
        assert not any("  " in step or "None" in step for step in found.steps), found.steps
        if found.level_cun is not None and found.across is None:
            counted = any("cun" in step and "cm" in step for step in found.steps)
            assert counted or any(step.startswith("Stay level with it") for step in found.steps), entry.id
        assert sum(method.trusted for method in found.methods) == 1
        assert found.area_cm2 is None or 0.02 < found.area_cm2 < 45, entry.id
        part = catalogue.part_of(entry)
        assert frame_name(found, part) in FRAMES
        if rank % 40 == 0:  # a drawing takes a moment; these are from most channels and maps
            svg = plate(found, part, body)
            assert svg.startswith("<svg")
            assert svg.count("<path") >= 4
            assert f"{entry.id}, {found.name}, {found.side}" in html.unescape(svg)
