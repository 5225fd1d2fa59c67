"""The order inside a phase is the one that the school teaches, seen on the body and not in the code."""

import itertools
from dataclasses import replace

import numpy as np
import pytest

from acuthesis.core.atlas.entries.catalogue import areas, entries, entry, part_of, sites
from acuthesis.core.atlas.locating.placed import place_one
from acuthesis.core.body.pose import posed
from acuthesis.core.compose.choose.composer import compose, steps_of
from acuthesis.core.compose.choose.order import OrderCost, least_costly
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.knowledge.layer import shipped
from acuthesis.core.compose.knowledge.school import schools
from acuthesis.core.compose.knowledge.weights import weights
from acuthesis.core.compose.score.arrange import walked_m
from acuthesis.core.compose.score.score import PRESSED
from acuthesis.core.compose.score.stance import rounds, stance, stand_words, walk_m
from acuthesis.core.safety.pressure import pressure_table
from acuthesis.core.safety.screening import Screening

from .conftest import BUILDS, body_of


@pytest.fixture(scope="module")
def body():
    return body_of(BUILDS["tall and thin"])


def played(school, *kinds, minutes=50, **more):
    complaints = [ComplaintNow(id=kind, rating=7) for kind in kinds]
    score = compose(ComposeRequest(complaints=complaints, minutes=minutes, school=school, **more), Screening())
    return [stop for stop in score.stops if stop.kind in PRESSED], score


def height(body, id):
    return float(place_one(entry(id), body)[0].position[1])


def along_foot(body, id):
    """How far toward the toes: the figure looks forward, along z."""
    return float(place_one(entry(id), body)[0].position[2])


def test_the_colon_is_followed_in_its_course():
    stops, score = played("foot_hand_reflex", "constipation", "irritable_bowel")
    course = schools()["foot_hand_reflex"].courses[0]
    for side in ("right", "left"):
        for phase in ("general", "work"):
            order = [stop.id for stop in stops if stop.side == side and stop.phase == phase]
            mine = [id for id in order if id in course]
            assert mine == sorted(mine, key=course.index)
            assert len(mine) >= 2 or phase == "general"
            if mine:
                first = order.index(mine[0])
                assert order[first : first + len(mine)] == mine, "without a break"
    assert score.stops[2].phase == "warm", "warmed before the first place"


def test_an_ear_session_ends_with_the_whole_ear_and_holding_begins_at_the_head():
    _, score = played("ear_points", "poor_sleep", "worry_tension", minutes=25)
    assert next(stop for stop in reversed(score.stops) if stop.kind == "stroke").id == "ear_rub"
    held, _ = played("quiet_holding", "neck_shoulder_ache", "poor_sleep", minutes=60)
    work = [part_of(entry(stop.id)) for stop in held if stop.phase == "work" and stop.position == held[0].position]
    early = [part in ("head", "trunk") for part in work]
    assert early == sorted(early, reverse=True), work


def test_how_somebody_is_settled_is_said_at_every_turn():
    _, score = played("channel_acupressure", "low_back_ache", "sciatic_leg_pain")
    settled = {stop.position: stop.settle for stop in score.stops if stop.settle}
    assert settled["prone"].startswith("Face down") and settled["supine"].startswith("Face up")
    changes = sum(before.position != after.position for before, after in itertools.pairwise(score.stops))
    assert len([stop for stop in score.stops if stop.settle]) == changes + 1
    assert score.stops[0].settle == "On a chair, to talk." and "from the chair" in score.stops[1].turn
    _, alone = played("self_care", "knee_pain", minutes=10)
    assert alone.stops[0].settle.startswith("On a chair") and not any(stop.stand for stop in alone.stops)


@pytest.mark.parametrize("kinds", [("low_back_ache",), ("tension_headache", "poor_sleep"), ("constipation",)])
def test_feet_are_worked_from_the_toes_to_the_heel(body, kinds):
    stops, _ = played("foot_hand_reflex", *kinds)
    work = [stop for stop in stops if stop.phase == "work"]
    for side in ("right", "left"):
        mine = [stop for stop in work if stop.side == side]
        feet = [stop for stop in mine if part_of(entry(stop.id)) == "foot"]
        assert mine[: len(feet)] == feet, "feet before hands"
        courses = {id for course in schools()["foot_hand_reflex"].courses for id in course}
        for surface in {areas()[stop.id].surface for stop in feet}:
            free = [stop.id for stop in feet if areas()[stop.id].surface == surface and stop.id not in courses]
            levels = [along_foot(body, id) for id in free]
            # Levels slant with the toes: the outer side of one lies farther back than the inner side of the next.
            assert all(b <= a + 2.5 for a, b in itertools.pairwise(levels)), surface
    sides = [stop.side for stop in work]
    assert sides == sorted(sides, key=["right", "left"].index), "right, then left"


def test_a_face_is_settled_downward_and_toned_upward(body):
    wished = ["face_brow_inner", "face_nose_root", "face_forehead_corner", "face_chin_middle"]
    stops, score = played("face_reflex", "sinus_congestion", "worry_tension", minutes=60, pinned=wished)
    tone = [
        height(body, stop.id) for stop in stops if stop.phase == "tone" and areas()[stop.id].surface.startswith("face")
    ]
    calm = [height(body, stop.id) for stop in stops if stop.phase == "calm" and stop.id.startswith("face_")]
    assert len(tone) >= 2 and len(calm) >= 2, (tone, calm)
    assert all(b >= a - 0.5 for a, b in itertools.pairwise(tone))
    assert all(b <= a + 0.5 for a, b in itertools.pairwise(calm))
    grounds = [index for index, stop in enumerate(score.stops) if stop.id == schools()["face_reflex"].ground.id]
    for index in grounds:
        after = score.stops[index + 1]
        assert after.phase != score.stops[index].phase, "grounding ends a phase"


def test_ribs_go_from_the_top_down_one_side_and_then_the_other(body):
    stops, _ = played("rib_points", "rib_breathing_tightness", "cough")
    for position in {stop.position for stop in stops}:
        work = [stop for stop in stops if stop.position == position and stop.phase == "work" and stop.side != "midline"]
        for side in ("right", "left"):
            levels = [height(body, stop.id) for stop in work if stop.side == side and stop.id.startswith("rib_front")]
            assert all(b <= a for a, b in itertools.pairwise(levels))
        sides = [stop.side for stop in work]
        assert sides == sorted(sides, key=["right", "left"].index)


def test_quiet_holding_goes_from_broad_to_deep():
    stops, _ = played("quiet_holding", "low_back_ache", "poor_sleep", minutes=70)
    areas_cm2 = pressure_table().contact_cm2
    for position in {stop.position for stop in stops}:
        work = [stop for stop in stops if stop.position == position and stop.phase == "work"]
        keys = [(stop.level, -areas_cm2[stop.contact]) for stop in work]
        assert keys == sorted(keys)
    assert all(stop.level <= 2 for stop in stops)
    assert np.mean([stop.duration_s for stop in stops]) >= 120


def test_hands_stay_on_a_part_until_it_is_done():
    stops, _ = played("channel_acupressure", "finger_stiffness", "poor_sleep", "knee_pain")
    for position in {stop.position for stop in stops}:
        for phase in {stop.phase for stop in stops}:
            parts = [part_of(entry(stop.id)) for stop in stops if (stop.position, stop.phase) == (position, phase)]
            changes = sum(a != b for a, b in itertools.pairwise(parts))
            assert changes <= len(set(parts)) - 1 if parts else True, (position, phase, parts)


def test_what_a_person_does_alone_begins_in_the_easiest_position():
    stops, score = played("self_care", "neck_shoulder_ache", "poor_sleep", "low_back_ache", minutes=15)
    order = schools()["self_care"].positions
    used = list(dict.fromkeys(stop.position for stop in score.stops))
    assert used == sorted(used, key=order.index)
    assert all(entry(stop.id).reach.alone for stop in stops)
    assert len(stops) <= schools()["self_care"].most_points + 4


@pytest.mark.parametrize("school", list(schools()))
def test_no_place_gets_more_than_its_load(school):
    for kinds in (("neck_shoulder_ache", "tension_headache"), ("low_back_ache", "knee_pain", "heel_pain")):
        stops, _ = played(school, *kinds, minutes=90)
        load = schools()[school].load
        spent: dict[tuple[str, str], float] = {}
        ground = schools()[school].ground
        for stop in stops:
            if ground is not None and stop.id == ground.id:
                continue
            site = entry(stop.id).site
            assert site in sites()
            for side in ("left", "right") if stop.side == "both" else (stop.side,):
                seconds = stop.duration_s / (2 if stop.side == "both" and not stop.dose.together else 1)
                spent[site, side] = spent.get((site, side), 0) + seconds
        for (site, side), seconds in spent.items():
            assert seconds <= load.sites.get(site, load.site_s) + 1, (site, side)


@pytest.mark.parametrize("minutes", [20, 45, 90, 150])
def test_nobody_is_worked_on_for_long_without_a_rest(minutes):
    for school in ("channel_acupressure", "foot_hand_reflex", "quiet_holding"):
        _, score = played(school, "low_back_ache", "poor_sleep", minutes=minutes)
        since = 0.0
        for stop in score.stops:
            if stop.id in ("rest", "second_look", "close", "first_rating", "arrive"):
                since = 0.0
                continue
            since += stop.duration_s
            # Rests stand between stops, evenly, so a stretch may be longer than the rule by about a stop.
            assert since <= schools()[school].rest_every_s + 420, f"{school}: {since:.0f} s without a rest"


def late(order) -> float:
    """What it costs that weighty places come late, by the words of weights.yaml."""
    heaviest = max(sum(one.candidate.benefits.values()) for one in order)
    return sum(
        weights().order.late * nth * sum(one.candidate.benefits.values()) / heaviest for nth, one in enumerate(order)
    )


def whole_parts(order) -> bool:
    parts = [part for part, _ in itertools.groupby(one.candidate.part for one in order)]
    return len(parts) == len(set(parts))


@pytest.mark.parametrize("kinds", [("neck_shoulder_ache", "poor_sleep"), ("knee_pain",), ("worry_tension", "fatigue")])
@pytest.mark.parametrize("alone", [False, True])
def test_no_order_that_the_school_leaves_free_is_cheaper(kinds, alone):
    """Every order of four places, with every way of working each, was tried: none costs less than the one found."""
    request = ComposeRequest(complaints=[ComplaintNow(id=kind, rating=7) for kind in kinds], minutes=40)
    placed = steps_of(request, Screening(), shipped()).ordered.placed
    price = OrderCost(alone)
    position = placed[-1].position
    group = [one for one in placed if one.position == position and one.candidate.pressed][:4]
    group = [replace(one, phase=group[0].phase) for one in group]  # as if the school left all of them free
    assert len(group) == 4
    found, cost = least_costly([group], price)
    assert whole_parts(found)
    assert price.of(found) + late(found) == pytest.approx(cost)
    ways = [
        [
            replace(one, round=way)
            for way in rounds(one.candidate.target, one.side, position, together=one.dose.together)
        ]
        for one in group
    ]
    best = min(
        price.of(order) + late(order)
        for some in itertools.permutations(ways)
        if whole_parts([options[0] for options in some])
        for order in itertools.product(*some)
    )
    assert cost == pytest.approx(best)


def test_where_places_lie_is_what_the_figure_says():
    """stance.json was written from the average figure; when that or the atlas changes, it is written anew."""
    assert set(stance()) == {one.id for one in entries()}
    figure = body_of(BUILDS["average"]).figure
    some = [entry(id) for id in ("GV20", "HT7", "ST36", "BL23", "CV12", "KI1", "GB30", "foot_sigmoid", "ear_TF4")]
    at = np.array([place_one(target, body_of(BUILDS["average"]))[0].position for target in some])
    lying, side, seated = (posed(figure, pose).places(at) for pose in ("supine", "side", "seated"))
    for n, target in enumerate(some):
        said = stance()[target.id]
        seen = (lying[n, 0], -lying[n, 2], -side[n, 0], side[n, 2], seated[n, 0], seated[n, 2], seated[n, 1])
        assert tuple(said) == pytest.approx(seen, abs=1), target.id


def test_the_hands_walk_round_a_couch_as_people_do():
    left, right = (rounds(entry("HT7"), side, "supine", together=False) for side in ("left", "right"))
    assert {stand_words(way.stand[0], "supine") for way in left} == {"on their left"}
    assert {stand_words(way.stand[0], "supine") for way in right} == {"on their right"}
    across = min(walk_m(a.stand[0], b.stand[0], "supine") for a in left for b in right)
    assert 2.5 < across < 5, "from one hand of somebody who lies to the other one walks round"
    feet = rounds(entry("KI1"), "both", "supine", together=False)
    assert any({stand_words(stand, "supine") for stand in way.stand} == {"at the feet"} for way in feet)
    back = rounds(entry("BL23"), "both", "left_side", together=False)
    assert {stand_words(way.stand[0], "left_side") for way in back} == {"behind"}
    face = rounds(entry("LI20"), "both", "supine", together=True)
    nearest = min(face, key=lambda way: way.reach)
    assert stand_words(nearest.stand[0], "supine") == "at the head"
    seated = rounds(entry("ST36"), "both", "seated", together=False)
    assert {stand_words(stand, "seated") for way in seated for stand in way.stand} <= {
        "in front",
        "on their left",
        "on their right",
    }


def test_where_one_stands_is_said_once_unless_it_changes_within_the_stop():
    said = [
        stop.stand
        for complaint in ("neck_shoulder_ache", "poor_sleep", "low_back_ache")
        for stop in compose(
            ComposeRequest(complaints=[ComplaintNow(id=complaint, rating=7)], minutes=40), Screening()
        ).stops
        if stop.stand
    ]
    moved = [one.split(", then ") for one in said if ", then " in one]
    assert moved and all(first != then for first, then in moved)
    assert len(moved) < len(said), "most stops are worked from one place"


def test_walking_is_counted_from_where_one_stood_before():
    """From the head to the side and back is walked twice; staying at the head is not walked at all."""
    stops = [stop for kind in ("poor_sleep", "tension_headache") for stop in played("channel_acupressure", kind)[0]]
    lying = {stop.stand: stop for stop in stops if stop.position == "supine"}
    head = lying["at the head"]
    beside = next(stop for stop in stops if stop.id == "LR3")  # at the foot: not reached from the head
    there = walked_m([head, beside])
    assert there > 0.5 and walked_m([head, head]) == 0
    assert walked_m([head, beside, head]) == pytest.approx(2 * there, rel=0.4)
