"""The booked time is used, within what somebody takes; nobody is talked to face down, turns begin where they are."""

from itertools import pairwise
from statistics import median

import pytest
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.atlas.entries.catalogue import areas, entry
from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.knowledge.complaints import complaint_kinds
from acuthesis.core.compose.knowledge.school import schools
from acuthesis.core.compose.knowledge.technique import techniques
from acuthesis.core.compose.score.score import PRESSED, Score, Stop
from acuthesis.core.errors import CoreError
from acuthesis.core.safety.screening import parse_screening
from acuthesis.core.safety.size import capacity
from tests.tiers import LONG, examples, some

PLAIN = parse_screening({"might_be_pregnant": False, "flushes_seen": True}, 41)
# The least share of 40 and of 60 booked minutes that is a session for a plain person, by school (the median of
# complaints).
WANTED = {
    "channel_acupressure": (0.85, 0.85),
    "quiet_holding": (0.85, 0.85),
    "foot_hand_reflex": (0.85, 0.85),
    "ear_points": (0.6, 0.6),
    "face_reflex": (0.6, 0.6),
}
KINDS = sorted(complaint_kinds())
FACE_UP = ("seated", "half_reclined", "supine")


def composed(kind: str, school: str, minutes: float, who=PLAIN, **wish) -> Score | None:
    request = ComposeRequest(complaints=[ComplaintNow(id=kind, rating=6)], minutes=minutes, school=school, **wish)
    try:
        score = compose(request, who)
    except CoreError:
        return None
    return score if score.decision == "ok" else None


@pytest.mark.parametrize("school", WANTED)
def test_a_plain_person_gets_the_time_that_was_booked(school):
    for minutes, wanted in zip((40, 60), WANTED[school], strict=True):
        kinds = some(KINDS)
        made = [score for kind in kinds if (score := composed(kind, school, minutes)) is not None]
        assert len(made) >= len(kinds) // 2
        used = [(score.stops[-1].start_s + score.stops[-1].duration_s) / (minutes * 60) for score in made]
        assert median(used) >= wanted and max(used) <= 1, (school, minutes)
        for score, share in zip(made, used, strict=True):
            told = [line for line in score.notes if "to spare" in line]
            assert len(told) == (score.spare_s >= 90), "what is left is said in one sentence"
            assert score.spare_s == pytest.approx((1 - share) * minutes * 60, abs=1)


def test_both_feet_are_worked_wholly_and_then_dwelt_on():
    score = composed("low_back_ache", "foot_hand_reflex", 60)
    general = [stop for stop in score.stops if stop.round == "general" and stop.kind == "area"]
    for side in ("right", "left"):
        here = {stop.id for stop in score.stops if stop.kind == "area" and stop.side == side}
        assert len(here) >= 24
        surfaces = {areas()[id].surface for id in here}
        assert surfaces >= {"sole", "foot_top", "foot_inner_edge", "foot_outer_edge"}
    longest = max(stop.duration_s for stop in general)
    dwelt = [stop for stop in score.stops if stop.round == "chosen" and stop.kind == "area"]
    assert all(stop.duration_s > longest for stop in dwelt)
    sides = [
        stop.side for stop in score.stops if stop.kind == "area" and stop.side != "midline" and stop.phase != "calm"
    ]
    assert sides == sorted(sides, reverse=True), "all of the right foot, then all of the left"


@pytest.mark.parametrize("school", sorted(schools()))
def test_a_second_round_is_another_technique_at_a_main_place_and_no_place_gets_a_third(school):
    for kind in KINDS if LONG else KINDS[3::9]:
        score = composed(kind, school, 60)
        if score is None:
            continue
        first: dict[str, Stop] = {}
        for stop in score.stops:
            if stop.round == "chosen" and stop.kind in PRESSED:
                first.setdefault(stop.id, stop)
        again = [stop for stop in score.stops if stop.round == "again"]
        for stop in again:
            assert stop.dose.form != first[stop.id].dose.form and stop.level <= first[stop.id].level
            assert stop.position == first[stop.id].position and stop.start_s > first[stop.id].start_s
        keys = [(stop.id, stop.side) for stop in again]
        assert len(keys) == len(set(keys))
        assert school != "self_care" or not any(stop.round != "chosen" for stop in score.stops)


def test_where_one_side_was_worked_the_other_is_compared():
    request = ComposeRequest(complaints=[ComplaintNow(id="elbow_pain", rating=7, side="right")], minutes=60)
    score = compose(request, PLAIN)
    main = {stop.id for stop in score.stops if stop.round == "chosen" and stop.core_of and stop.side == "right"}
    other = {stop.id for stop in score.stops if stop.round == "again" and stop.side == "left"}
    assert main and other <= main | {stop.id for stop in score.stops if stop.side == "right"} and other & main


@pytest.mark.parametrize(
    ("answers", "age"),
    [({"frail": True}, 82), ({}, 9), ({"pregnancy_weeks": 26}, 31), ({"cancer_treatment": True}, 55)],
)
def test_sizes_stay_and_are_said(answers, age):
    who = parse_screening(answers | {"cleared": ["child_without_consent"]}, age)
    most = capacity(who)
    for school in ("channel_acupressure", "foot_hand_reflex"):
        score = composed("poor_sleep", school, 60, who)
        assert score is not None and score.total_s <= most.minutes * 60
        assert len({stop.id for stop in score.stops if stop.kind in PRESSED}) <= most.points
        told = next(line for line in score.notes if "to spare" in line)
        assert any(reason in told for reason in most.reasons.values())


@examples(40)
@given(
    st.sampled_from(KINDS),
    st.sampled_from(sorted(set(schools()) - {"self_care"})),
    st.sampled_from([20, 40, 60, 90]),
    st.sampled_from([{}, {"pregnancy_weeks": 30}, {"heart_failure": True}, {"cannot_lie": ["supine"]}]),
)
def test_nobody_is_talked_to_face_down_and_turns_begin_where_they_are(kind, school, minutes, answers):
    score = composed(kind, school, minutes, parse_screening({"might_be_pregnant": False} | answers, 44))
    if score is None:
        return
    talk = score.stops[0]
    assert (talk.id == "first_rating" and talk.position in FACE_UP) or answers, talk.position
    for before, after in pairwise(score.stops):
        if before.position == after.position:
            continue
        if before.position == "half_reclined" and after.position not in ("seated", "leaning"):
            assert "backrest" in after.turn
        if before.position in ("seated", "leaning"):
            assert "sit up" not in after.turn and "Lower" not in after.turn
    for stop in score.stops:
        if stop.id in techniques():
            assert stop.position in techniques()[stop.id].positions
            assert "radle the head" not in stop.words or stop.position != "seated"
        assert len(stop.why) >= 1 and all(line.endswith((".", ":")) for line in stop.why)
        for line in stop.why:
            assert "traditionally for" not in line and "it belongs to" not in line


def test_feet_ears_and_face_are_worked_half_reclined_and_so_is_who_should_not_lie_flat():
    for school in ("foot_hand_reflex", "ear_points", "face_reflex"):
        assert {stop.position for stop in composed("poor_sleep", school, 40).stops} == {"half_reclined"}
    for answers in ({"pregnancy_weeks": 12}, {"breathless_on_effort": True}):
        who = parse_screening(answers, 35)
        assert "supine" not in {stop.position for stop in composed("poor_sleep", "channel_acupressure", 40, who).stops}
    heartburn = composed("heartburn", "channel_acupressure", 40)
    assert "half_reclined" in {stop.position for stop in heartburn.stops}
    assert not {"supine", "prone"} & {stop.position for stop in heartburn.stops}


def test_a_core_is_kept_and_what_keeps_one_out_is_true():
    short = composed("worry_tension", "channel_acupressure", 3)
    assert {"PC6", "HT7"} & {stop.id for stop in short.stops}
    who = parse_screening({"pregnancy_weeks": 30}, 31)
    score = composed("pregnancy_pelvic_pain", "channel_acupressure", 45, who)
    inside = {stop.id: stop for stop in score.stops if stop.kind in PRESSED}
    assert {"GB30", "GB34"} <= set(inside) and inside["GB30"].side in ("left", "right")
    lying = inside["GB30"].position
    assert lying != f"{inside['GB30'].side}_side", "nobody is pressed on the side that they lie on"


def test_who_sits_is_not_worked_from_hand_to_shin_and_back():
    for kind in ("shoulder_pain", "elbow_pain", "neck_shoulder_ache"):
        score = composed(kind, "channel_acupressure", 60, positions_excluded=["supine", "prone", "half_reclined"])
        for round_ in ("chosen", "again"):
            work = [
                entry(stop.id).site
                for stop in score.stops
                if stop.position == "seated" and stop.kind == "point" and stop.round == round_ and stop.phase != "calm"
            ]
            low = [site.startswith(("shin", "leg", "ankle", "foot", "calf")) for site in work]
            assert sum(a != b for a, b in pairwise(low)) <= 1, work
