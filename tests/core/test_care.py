"""Two thousand drawn people: whatever is composed for them keeps every limit, margin, joint, position and size."""

from itertools import pairwise

import numpy as np
import pytest
from scipy.spatial import cKDTree

from acuthesis.core.atlas.entries.catalogue import entry, part_of, points
from acuthesis.core.body.person import figure_fits
from acuthesis.core.compose.choose.composer import compose, with_todays
from acuthesis.core.compose.knowledge.technique import techniques
from acuthesis.core.compose.score.arrange import limits_of
from acuthesis.core.compose.score.score import PRESSED, technique_of
from acuthesis.core.errors import CoreError
from acuthesis.core.safety.body_parts import joints
from acuthesis.core.safety.limits import positions_out
from acuthesis.core.safety.reach import JOINT_CM, by_named_places
from acuthesis.core.safety.screening import Painted, parse_screening
from acuthesis.core.safety.size import capacity
from acuthesis.core.safety.standing import awake, rules
from acuthesis.core.safety.touching import sides_of
from acuthesis.core.safety.verdict import verdict
from acuthesis.stand_ins.people import SimulatedPerson, drawn_people
from acuthesis.words.reader import english
from tests.tiers import dice, drawn, some

from .conftest import TWELVE, body_of, on_body_of

PEOPLE = drawn(2_000)
LOTS = 4  # so that two workers share them
SAME_AGAIN = 20  # every so manieth is composed twice


def on_figure(person: SimulatedPerson):
    screening, figure = parse_screening(person.answers, person.age, sex=person.sex), on_body_of(TWELVE[person.build])
    if not figure_fits(person.age):
        return by_named_places(figure.with_sites(screening))
    return figure.with_reaches(screening)


def keeps(person: SimulatedPerson) -> str:
    """What became of a person's request; raises where anything that care asks for is not kept."""
    screening, request = on_figure(person), person.request
    try:
        score = compose(request, screening)
    except CoreError as error:
        assert error.where and error.message
        assert "can be" not in english().say(error.message) and "figure" not in english().say(error.message), (
            "no technical sentence, at any age"
        )
        return "nothing"
    screening = with_todays(request, screening)
    assert score.decision == verdict(screening).decision
    if score.decision != "ok":
        assert score.reasons and not score.stops
        return score.decision
    out, most = positions_out(screening), capacity(screening)
    pressed = [stop for stop in score.stops if stop.kind in PRESSED]
    ids = {stop.id for stop in pressed}
    assert score.total_s <= min(request.minutes, most.minutes or 999) * 60 + 1e-6
    assert most.points is None or len(ids) <= most.points
    turns = sum(before.position != after.position for before, after in pairwise(score.stops))
    assert most.turns is None or turns <= most.turns
    _keeps_stay(score.stops, most.stay_min)
    _keeps_margins(person, screening, score.stops)
    _keeps_off_a_sore_face(person, score.stops)
    _keeps_legs_still(person, score.stops)
    for stop in score.stops:
        assert stop.position not in out and stop.position not in request.positions_excluded
        limits = limits_of(stop, screening)
        said = " ".join(stop.why)
        assert stop.side == "both" or not stop.dose.together, "one side is not two together"
        assert not ("Shorter" in said and "Longer" in said), "a reason says one of both"
        if limits is None:
            continue
        assert limits.refused is None, (stop.id, limits.refused)
        assert stop.level <= min(limits.ceiling, stop.ceiling) and stop.ceiling_reasons
        assert limits.longest_s is None or stop.duration_s / len(sides_of(stop.side)) <= limits.longest_s + 0.05
        assert stop.consent == (bool(limits.consent) and not score.alone)
    return "composed"


def _keeps_stay(stops, stay_min):
    if stay_min is None:
        return
    since = 0.0
    for before, after in pairwise(stops):
        if before.position != after.position:
            assert before.start_s + before.duration_s - since <= stay_min * 60 + 1
            since = after.start_s
    assert stops[-1].start_s + stops[-1].duration_s - since <= stay_min * 60 + 1


def _keeps_margins(person, screening, stops):
    """By plain distances, and not by the core's own reaches: nothing pressed on or within an inner half of a margin."""
    body = body_of(TWELVE[person.build])
    skin = body.figure.skin
    refusing = [one for one in rules() if one.severity == "refuse" and one.touches.answered and awake(one, screening)]
    for rule in refusing:
        painted = [place for id in rule.when.questions for place in screening.places(id) if isinstance(place, Painted)]
        if not painted:
            continue
        near = cKDTree(skin[np.concatenate([place.skin for place in painted])])
        for stop in stops:
            sides = sides_of(stop.side)
            if stop.kind == "point" and not rule.touches.kinds:
                for side in sides:
                    at = body.places.at(entry(stop.id).methods[0].place, side)
                    assert near.query(at)[0] > 0.5 * rule.touches.margin_cm, (stop.id, rule.id)
            technique = technique_of(stop)
            if technique is None or (rule.touches.kinds and technique.kind not in rule.touches.kinds):
                continue
            for joint in technique.joints:
                for side in ("left", "right") if stop.side == "midline" else sides:
                    marks = [body.places.landmark(name, side) for name in joints()[joint].at]
                    assert near.query(np.array(marks))[0].min() > JOINT_CM, (stop.id, joint, rule.id)


def _keeps_off_a_sore_face(person, stops):
    """By where places lie: nothing on the sore half of a face, from the chin up and before the ear."""
    side = next((one.side for one in person.request.complaints if one.id == "facial_nerve_pain_checked"), None)
    body = body_of(TWELVE[person.build])
    chin, ear = body.places.landmark("chin_midpoint", "left"), body.places.landmark("tragus", "left")
    for stop in stops if side else ():
        if stop.kind != "point":
            continue
        for on in sides_of(stop.side):
            at = body.places.at(entry(stop.id).methods[0].place, on)
            on_face = chin[1] < at[1] < ear[1] + 6 and at[2] > ear[2] + 1 and abs(at[0]) > 0.5
            assert not (on_face and side in ("both", on)), (stop.id, on)


def _keeps_legs_still(person, stops):
    """Pregnant, just given birth, or operated on: no stop strokes a leg, and none is firmer there than level 2."""
    answers = person.answers
    risk = answers.get("pregnancy_weeks") is not None or answers.get("might_be_pregnant")
    risk = risk or answers.get("surgery_three_months") or answers.get("after_birth_weeks", 99) <= 6
    for stop in stops if risk else ():
        technique = technique_of(stop)
        assert technique is None or technique.id not in ("thigh_strokes", "calf_strokes")
        if stop.kind == "point" and part_of(entry(stop.id)) in ("thigh", "lower_leg"):
            assert stop.level <= 2, stop.id


@pytest.mark.parametrize("lot", range(LOTS))
def test_whatever_is_composed_is_careful(lot):
    seed, skin = dice("care", lot).getrandbits(32), len(body_of(TWELVE["average"]).figure.skin)
    people = drawn_people(PEOPLE // LOTS, seed, some(list(TWELVE)), skin)
    became = [keeps(person) for person in people]
    assert became.count("composed") > 0.45 * len(people), "enough of them are composed for to prove anything"
    for person in people[::SAME_AGAIN]:
        screening = on_figure(person)
        try:
            assert compose(person.request, screening) == compose(person.request, screening)
        except CoreError:
            continue


@pytest.mark.parametrize("build", some(list(TWELVE)))
@pytest.mark.parametrize("site", ["thigh_front", "foot_top", "forearm_palm", "knee_inner"])
def test_a_margin_reaches_so_far_and_no_farther(build, site):
    """By straight distances over the figure: all within half of the margin, nothing beyond it, and one side alone."""
    figure, body = on_body_of(TWELVE[build]), body_of(TWELVE[build])
    reach = figure.with_reaches(parse_screening({"recent_surgery": [f"{site}.left"]}, 50)).reaches["surgery_place"]
    seeds = cKDTree(body.figure.skin[figure._of_place(f"{site}.left")])
    assert reach.sides == {"left"} and any(name.startswith(f"{site}@left") for name in reach.on)
    far = []
    for point in points().values():
        for side in point.sides:
            away = seeds.query(body.places.at(point.methods[0].place, side))[0]
            name = f"{point.id}@{side}"
            assert away > 3.5 or name in reach.places, "a press there is felt at the place"
            assert name not in reach.places or away < 8.8, "more than the margin of eight centimetres away"
            far += [name] if name in reach.places and 4.6 < away < 8 else []
            # The other leg is near through the air only; what counts is the way over the skin.
            assert side == "left" or name not in reach.places or away < 4.4, "nothing leads there over the skin"
    assert far, "over the skin it reaches farther than through a limb"


def test_what_is_painted_is_told_by_the_sites_that_it_lies_on():
    figure = on_body_of(TWELVE["woman"])
    calf = body_of(TWELVE["woman"]).places.landmark("calf_fork", "left")
    painted = cKDTree(figure.skin).query_ball_point(calf, 2)
    placed = figure.with_sites(parse_screening({"broken_skin": [{"skin": painted}]}, 50))
    (place,) = placed.places("broken_skin")
    assert place.sites and all(site.endswith("@left") for site in place.sites)
    assert any(site.startswith(("leg_back", "calf")) for site in place.sites), place.sites


def test_margins_are_centimetres_on_this_body():
    """A hand's width around the kneecap is so many centimetres on everybody, and so the points in it are farther off,
    or out of it, on a long leg."""
    away = {}
    for build in ("tall and thin", "old and small"):
        screening = parse_screening({"acute_inflammation": ["knee_front.left"]}, 50)
        reach = on_body_of(TWELVE[build]).with_reaches(screening).reaches["inflamed_place"]
        assert all(0 <= cm <= 8 for cm in reach.places.values())
        assert "ST36@left" in reach.places and "ST36@right" not in reach.places
        assert reach.joints == {"knee@left"}
        away[build] = reach.places
    for id in ("ST36", "SP10"):
        assert away["tall and thin"][f"{id}@left"] > away["old and small"][f"{id}@left"] + 0.3, id


@pytest.mark.parametrize(("side", "other"), [("left", "right"), ("right", "left")])
def test_the_whole_limb_is_that_of_the_side_it_lies_on(side, other):
    """A dialysis fistula painted on one arm takes that arm to the fingertips, and nothing of the other."""
    figure = on_body_of(TWELVE["woman"])
    elbow = body_of(TWELVE["woman"]).places.landmark("olecranon", side)
    painted = cKDTree(figure.skin).query_ball_point(elbow, 2)
    reach = figure.with_reaches(parse_screening({"fistula": [{"skin": painted}]}, 50)).reaches["fistula_arm"]
    assert {f"{id}@{side}" for id in ("LI11", "LI4", "HT7", "SI1", "PC9")} <= set(reach.places)
    assert not [place for place in reach.places if place.endswith(f"@{other}")]


def test_ground_is_what_is_refused():
    """What is drawn as kept free is where points are refused, and holds the painted place itself."""
    figure = on_body_of(TWELVE["woman"])
    skin = figure.skin
    knee = cKDTree(skin).query_ball_point(body_of(TWELVE["woman"]).places.landmark("patella_apex", "right"), 2.5)
    screening = figure.with_reaches(parse_screening({"recent_surgery": [{"skin": knee}]}, 50))
    [ground] = [one for one in figure.grounds(screening) if one.reason.rule == "surgery_place"]
    assert set(knee) == set(ground.at) < set(ground.skin)
    away = cKDTree(skin[knee]).query(skin[list(ground.skin)])[0]
    assert 7.5 < away.max() <= 8
    assert {part_of(entry(key.partition("@")[0])) for key in screening.reaches["surgery_place"].places} <= {
        "lower_leg",
        "thigh",
    }
    assert "prone" in positions_out(screening)


def test_every_joint_that_is_moved_is_one_that_can_be_kept_still():
    assert {joint for one in techniques().values() for joint in one.joints} == set(joints())
    for one in techniques().values():
        if one.kind in ("loosen", "stretch"):
            assert one.joints, f"{one.id} moves something"
