"""Over time: the frame of a session, the rest of one that has begun, and visits that follow one another."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.frame import frame_of
from acuthesis.core.compose.choose.programme import SPACING_DAYS, ProgrammeRequest, programme
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest, Done
from acuthesis.core.compose.home.plan import home_sets
from acuthesis.core.compose.knowledge.complaints import complaint_kinds
from acuthesis.core.compose.knowledge.dose import dose_defaults, duration_s
from acuthesis.core.compose.knowledge.school import schools
from acuthesis.core.compose.knowledge.weights import weights
from acuthesis.core.compose.score.arrange import limits_of
from acuthesis.core.compose.score.score import MOVE_S, PRESSED
from acuthesis.core.errors import CoreError
from acuthesis.core.safety.limits import limits_for
from acuthesis.core.safety.screening import Screening, parse_screening
from acuthesis.core.safety.verdict import verdict
from tests.tiers import examples

from .test_safety import context_answers

KINDS = list(complaint_kinds())


def wish(*kinds, **more) -> ComposeRequest:
    return ComposeRequest(complaints=[ComplaintNow(id=kind, rating=6) for kind in kinds or ("poor_sleep",)], **more)


@pytest.mark.parametrize("school", schools())
@pytest.mark.parametrize("minutes", [5, 15, 40, 90])
def test_the_frame_is_in_proportion(school, minutes):
    request, way = wish(minutes=minutes, school=school), schools()[school]
    frame = frame_of(request, way, dose_defaults())
    assert frame.seconds == pytest.approx(
        sum(duration_s(one.dose) + MOVE_S for one in (*frame.before, *frame.after)) - MOVE_S
    )
    assert frame.seconds < minutes * 60 * 0.62, "most of a session is work"
    moments = {one.id: one for one in (*frame.before, *frame.after)}
    for id in ("arrive", "close"):
        # To the nearest whole breath, and at least one, however short the session is.
        breath = 60 / moments[id].dose.per_minute
        assert duration_s(moments[id].dose) <= max(weights().frame_share * minutes * 60 + breath / 2, breath), id
    if "second_look" in moments:
        assert duration_s(moments["second_look"].dose) <= way.second_look_share * minutes * 60
    assert list(moments) == [id for id in ORDER if id in moments]
    longer = frame_of(wish(minutes=minutes + 20, school=school), way, dose_defaults())
    assert longer.seconds >= frame.seconds


ORDER = ("first_rating", "arrive", "second_look", "close", "last_rating")


def test_who_treats_themselves_does_not_talk_and_who_has_begun_has_arrived():
    way, doses = schools()["channel_acupressure"], dose_defaults()
    practice = frame_of(wish(minutes=40), way, doses)
    alone = frame_of(wish(minutes=40, setting="self_care"), way, doses)
    assert duration_s(alone.before[0].dose) == weights().rating_s < duration_s(practice.before[0].dose)
    begun = frame_of(wish(minutes=40, remaining_minutes=20), way, doses)
    assert not begun.before and [one.id for one in begun.after][-2:] == ["close", "last_rating"]
    three = frame_of(wish("poor_sleep", "fatigue", "heel_pain", minutes=40), way, doses)
    assert duration_s(three.after[-1].dose) == 3 * duration_s(practice.after[-1].dose)


@examples(30)
@given(
    kinds=st.lists(st.sampled_from(KINDS), min_size=1, max_size=2, unique=True),
    school=st.sampled_from(list(schools())),
    answers=context_answers(),
    played=st.integers(0, 12),
    left=st.integers(4, 30),
)
def test_the_rest_of_a_treatment_repeats_nothing_and_ends_in_time(kinds, school, answers, played, left):
    """Whatever was done and however little time is left: what is composed anew fits, and does nothing twice."""
    screening = parse_screening(answers, 50)
    request = wish(*kinds, minutes=45, school=school)
    try:
        whole = compose(request, screening)
    except CoreError:
        return
    work = [stop for stop in whole.stops if stop.kind in (*PRESSED, "stroke", "loosen", "stretch")]
    grounding = schools()[school].ground
    done = [Done(id=stop.id, side=stop.side) for stop in work[:played] if grounding is None or stop.id != grounding.id]
    try:
        rest = compose(request.model_copy(update={"remaining_minutes": left, "done": done}), screening)
    except CoreError as error:
        assert error.where in ("minutes", "complaints", "school")
        return
    assert rest.decision == whole.decision
    if rest.decision != "ok":
        assert not rest.stops
        return
    assert rest.total_s <= left * 60 + 0.5
    twice = {(one.id, side) for one in done for side in (("left", "right") if one.side == "both" else (one.side,))}
    for stop in rest.stops:
        if grounding is not None and stop.id == grounding.id:
            continue
        sides = ("left", "right") if stop.side == "both" else (stop.side,)
        assert not {(stop.id, side) for side in sides} & twice, stop.id
        limits = limits_of(stop, screening)
        assert limits is None or (limits.refused is None and stop.level <= limits.ceiling)
    assert "first_rating" not in {stop.id for stop in rest.stops}
    assert [stop.kind for stop in rest.stops if stop.kind == "close"] == ["close"]


def test_what_is_done_on_one_side_is_finished_on_the_other():
    shoulder = ComposeRequest(complaints=[ComplaintNow(id="neck_shoulder_ache", rating=7, side="both")], minutes=40)
    whole = compose(shoulder, Screening())
    both = next(stop for stop in whole.stops if stop.kind == "point" and stop.side == "both")
    half = [Done(id=both.id, side="left")]
    rest = compose(shoulder.model_copy(update={"remaining_minutes": 25, "done": half}), Screening())
    [other] = [stop for stop in rest.stops if stop.id == both.id]
    assert other.side == "right" and any("other side is treated" in line for line in other.why)
    lines = [row for row in rest.left_out if row.id == both.id]
    assert not lines, "what is half done is not said to be left out"


@examples(8)
@given(
    kind=st.sampled_from(KINDS),
    school=st.sampled_from(["channel_acupressure", "foot_hand_reflex", "ear_points"]),
    answers=context_answers(),
    visits=st.integers(2, 4),
)
def test_a_programme_is_made_of_scores_that_could_stand_alone(kind, school, answers, visits):
    screening = parse_screening(answers, 50)
    first = wish(kind, minutes=25, school=school)
    try:
        plan = programme(ProgrammeRequest(first=first, visits=visits), screening)
    except CoreError:
        return
    if verdict(screening).decision != "ok":
        assert [one.score.stops for one in plan.visits] == [()]
        return
    assert [one.number for one in plan.visits] == list(range(1, visits + 1))
    gaps = [later.day - earlier.day for earlier, later in zip(plan.visits, plan.visits[1:], strict=False)]
    assert gaps == list(SPACING_DAYS[: visits - 1])
    assert [one.gentle for one in plan.visits] == [True] + [False] * (visits - 1)
    assert plan.judge_on_day == plan.visits[-1].day
    main = {use.id for use in complaint_kinds()[kind].uses if use.role == "main"}
    for before, visit in zip((None, *plan.visits), plan.visits, strict=False):
        ids = {stop.id for stop in visit.score.stops if stop.kind in PRESSED}
        assert visit.score.total_s <= 25 * 60 + 0.5
        for stop in visit.score.stops:
            limits = limits_of(stop, screening)
            assert limits is None or (limits.refused is None and stop.level <= limits.ceiling)
        if before is None:
            continue
        earlier = {stop.id for stop in before.score.stops if stop.kind in PRESSED}
        assert set(visit.new) == ids - earlier and set(visit.rested) == earlier - ids
        assert (visit.set != before.set) is bool(visit.new), "the letter changes with the set"
        assert not (main & earlier) - ids or len(ids) >= 3, "main points come back where there is room"
    for one in plan.home:
        for point in one.points:
            assert point.level <= 2
    assert [[p.id for p in one.points] for one in plan.home] == [
        [p.id for p in one.points] for one in home_sets([kind], screening)
    ]


def test_the_home_set_of_two_complaints_serves_both_and_spares_weak_hands():
    sets = home_sets(["finger_stiffness", "poor_sleep"], Screening())
    assert [one.days for one in sets] == ["every second day, from the first", "on the days between"]
    said = " ".join(point.why for one in sets for point in one.points)
    assert "Stiff fingers" in said and "Poor sleep" in said
    assert any("rounded handle" in point.press_with for one in sets for point in one.points)
    pregnant = parse_screening({"pregnancy_weeks": 12})
    for one in home_sets(["poor_sleep", "nausea"], pregnant):
        assert not {point.id for point in one.points} & {"SP6", "LI4"}
        for point in one.points:
            from acuthesis.core.atlas.entries.catalogue import entry

            assert limits_for(entry(point.id), entry(point.id).whole, pregnant).refused is None
