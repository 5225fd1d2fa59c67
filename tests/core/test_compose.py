"""Composing keeps every rule, whoever comes with whatever for however long, in whichever school."""

from itertools import pairwise
from typing import Any, get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.atlas.entries.catalogue import entry, part_of
from acuthesis.core.atlas.entries.model import Position
from acuthesis.core.compose.choose.brief import read_brief
from acuthesis.core.compose.choose.candidates import sieved
from acuthesis.core.compose.choose.composer import compose, with_todays
from acuthesis.core.compose.choose.programme import ProgrammeRequest, programme
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest, Done, Helped
from acuthesis.core.compose.choose.wishes import wishes_of
from acuthesis.core.compose.home.plan import HomeWish, home_plan
from acuthesis.core.compose.knowledge.complaints import complaint_kinds
from acuthesis.core.compose.knowledge.layer import shipped
from acuthesis.core.compose.knowledge.school import schools
from acuthesis.core.compose.score.arrange import arrange, limits_of, under_school
from acuthesis.core.compose.score.score import PRESSED, UNTOUCHED
from acuthesis.core.errors import CoreError, NotAllowed, UnknownId
from acuthesis.core.safety.limits import limits_for, positions_out
from acuthesis.core.safety.screening import Screening, parse_screening
from acuthesis.core.safety.verdict import verdict
from tests.saying import said
from tests.tiers import examples, some

from .test_safety import context_answers

KINDS = list(complaint_kinds())
POSITIONS = get_args(Position)


@st.composite
def requests(draw) -> ComposeRequest:
    kinds = draw(st.lists(st.sampled_from(KINDS), min_size=1, max_size=3, unique=True))
    sides = st.sampled_from(["left", "right", "both"])
    return ComposeRequest(
        complaints=[ComplaintNow(id=kind, rating=draw(st.integers(1, 10)), side=draw(sides)) for kind in kinds],
        minutes=draw(st.integers(4, 75)),
        school=draw(st.sampled_from(list(schools()))),
        setting=draw(st.sampled_from(["practice", "practice", "self_care"])),
        ear_map=draw(st.sampled_from(["standard", "second"])),
        foot_chart=draw(st.sampled_from(["standard", "second"])),
        positions_excluded=draw(st.lists(st.sampled_from(POSITIONS), max_size=2, unique=True)),
    )


def composed(request, screening):
    """A score; or None where the core says, with its reason and what is near, that there can be none."""
    try:
        return compose(request, screening)
    except CoreError as error:
        assert error.where
        assert (
            "nothing is left" in said(error.message)
            or "is too short" in said(error.message)
            or "another school" in said(error.message)
            or "not worked on in pregnancy" in said(error.message)
            or "answer “" in said(error.message)
        )
        return None


def pressed(score):
    return [stop for stop in score.stops if stop.kind in PRESSED]


@examples(120)
@given(requests(), context_answers(), st.integers(10, 95))
def test_a_score_keeps_every_rule(request, answers, age):
    screening = with_todays(request, parse_screening(answers, age))  # what they come with decides too
    score = composed(request, screening)
    if score is None:
        return
    if verdict(screening).decision != "ok":
        assert score.decision == verdict(screening).decision and not score.stops and score.reasons
        return
    out = positions_out(screening)
    school = schools()[request.school]
    assert score.total_s <= request.minutes * 60 + 1e-6, "over time"
    assert score.stops[-2].kind == "close" and score.stops[-1].kind == "rate"
    for stop in score.stops:
        assert stop.position not in out and stop.position not in request.positions_excluded
        assert stop.why
        limits = limits_of(stop, screening)
        if limits is None:
            continue
        limits = under_school(limits, school)
        assert limits.refused is None, f"{stop.id} is refused and still in"
        assert stop.level <= stop.ceiling == limits.ceiling
        assert not (stop.side == "both" and limits.one_side), f"{stop.id} on both sides at once"
        if stop.kind in PRESSED:
            assert stop.position in entry(stop.id).reach.positions
            assert stop.entering[0] < stop.level or stop.level == 1, "it is entered a level below"
            if request.setting == "self_care" or school.alone:
                assert entry(stop.id).reach.alone
    assert all(row.reason and row.rule for row in score.left_out)
    assert 0 <= score.objective.gap <= 0.02
    for row in score.coverage:
        assert (row.local and row.far and row.calm) or row.missing, "what a complaint lacks is said"
    assert {row.complaint for row in score.coverage} == {complaint.id for complaint in request.complaints}
    assert score == compose(request, screening), "the same request gives the same score"
    assert arrange(score.stops, screening, school, alone=score.alone) == score.stops, (
        "a composed score passes its own check"
    )


@examples(60)
@given(requests(), context_answers())
def test_all_that_is_used_for_a_complaint_is_in_or_explained(request, answers):
    score = composed(request, parse_screening(answers))
    if score is None or score.decision != "ok":
        return
    named = {stop.id for stop in score.stops} | {row.id for row in score.left_out}
    school = schools()[request.school]
    another_day = {
        row.complaint for row in score.coverage if row.missing[:1] and row.missing[0].startswith("Left for another day")
    }
    for complaint in request.complaints:
        if complaint.id in another_day:
            continue
        for use in complaint_kinds()[complaint.id].uses:
            on_other_map = getattr(entry(use.id), "map", "") in ("standard", "second", "common")
            if use.ground in school.draws and school.phase_of(use.role) is not None and not on_other_map:
                assert use.id in named, f"{use.id} is neither in nor explained"


@examples(60)
@given(requests(), st.integers(1, 30))
def test_more_minutes_never_bring_less(request, more):
    short = composed(request, Screening())
    longer = composed(request.model_copy(update={"minutes": request.minutes + more}), Screening())
    if short is not None:
        assert longer is not None
        before, after = short.objective, longer.objective
        assert after.core >= before.core - 0.001, "the cores come first"
        if after.core <= before.core + 0.001 and len(longer.coverage) == len(short.coverage):
            assert after.value >= before.value - 0.01


@examples(60)
@given(requests(), context_answers(), context_answers())
def test_another_answer_adds_no_stop_that_it_forbids(request, answers, more):
    both = parse_screening({**more, **answers})
    after = composed(request, both)
    for stop in pressed(after) if after else ():
        for screening in (parse_screening(answers), both):
            assert limits_for(entry(stop.id), stop.side, screening).refused is None


@examples(60)
@given(requests())
def test_the_order_of_the_school_is_kept(request):
    score = composed(request, Screening())
    if score is None:
        return
    school = schools()[request.school]
    rank = {phase.id: number for number, phase in enumerate(school.phases)}
    for number in range(len(school.phases) - 1, 0, -1):  # phases worked side by side are one, first right and then left
        if school.phases[number].by_side and school.phases[number - 1].by_side:
            rank[school.phases[number - 1].id] = rank[school.phases[number].id]
    work = [stop for stop in score.stops if stop.kind not in ("rate", "close", "second_look") and stop.id != "rest"]
    for before, after in pairwise(work):
        if school.order.scope == "whole" or before.position == after.position:
            assert rank[before.phase] <= rank[after.phase], f"{after.id} comes too late"
    if school.sides == "right_then_left":
        for phase in {stop.phase for stop in work}:
            for position in POSITIONS:
                sides = [
                    stop.side
                    for stop in work
                    if stop.phase == phase and stop.position == position and stop.kind in PRESSED
                    if school.phases[[one.id for one in school.phases].index(phase)].by_side
                ]
                left = sides.index("left") if "left" in sides else len(sides)
                assert "right" not in sides[left:], "a right side after the left"


def test_the_solver_beats_taking_the_best_first():
    from benchmarks.greedy import greedy

    request = ComposeRequest(
        complaints=[ComplaintNow(id="neck_shoulder_ache", rating=7, side="right"), ComplaintNow(id="poor_sleep")],
        minutes=30,
    )
    best = compose(request, Screening()).objective
    assert best.gap == 0
    assert best.value == pytest.approx(best.bound)
    assert (best.core, best.value) > greedy(request, Screening())


def test_pregnant_with_tired_legs_and_low_back():
    screening = parse_screening({"pregnancy_weeks": 22, "varicose_veins": ["calf"]}, 29)
    wanted = [ComplaintNow(id="tired_legs", rating=6), ComplaintNow(id="low_back_ache", rating=5)]
    score = compose(ComposeRequest(complaints=wanted, minutes=40), screening)
    ids = {stop.id for stop in score.stops}
    assert not ids & {"SP6", "BL60", "BL32", "kidney_rub", "knees_to_chest"}
    assert {stop.position for stop in score.stops} <= {"seated", "left_side", "right_side"}
    rules = {row.id: (row.severity, row.rule) for row in score.left_out}
    assert rules["SP6"] == rules["BL60"] == ("refuse", "pregnancy_points")
    st36 = next(stop for stop in score.stops if stop.id == "ST36")
    assert st36.level == 2
    assert any("blood clot is more likely" in why for why in st36.why)
    late = compose(ComposeRequest(complaints=wanted), parse_screening({"pregnancy_weeks": 38}))
    assert (late.decision, late.reasons[0].rule) == ("refer", "pregnancy_late")
    cleared = parse_screening({"pregnancy_weeks": 38, "cleared": ["pregnancy_late"]})
    assert compose(ComposeRequest(complaints=wanted), cleared).decision == "ok"


def test_only_the_free_arm_is_worked_on():
    score = compose(
        ComposeRequest(complaints=[ComplaintNow(id="poor_sleep", rating=7)], minutes=40),
        parse_screening({"lymph_nodes_removed": "left"}),
    )
    assert {stop.side for stop in score.stops if stop.id in ("HT7", "PC6")} == {"right"}
    refused = {(row.id, row.side): row for row in score.left_out if row.severity == "refuse"}
    assert not refused["HT7", "left"].overridable


def test_a_blood_thinner_stills_the_walking_thumb():
    wanted = [ComplaintNow(id="low_back_ache", rating=6)]
    request = ComposeRequest(complaints=wanted, minutes=30, school="foot_hand_reflex")
    free, careful = compose(request, Screening()), compose(request, parse_screening({"blood_thinner": True}))
    assert "walk" in {stop.dose.form for stop in pressed(free)}
    assert "walk" not in {stop.dose.form for stop in pressed(careful)}
    assert max(stop.level for stop in pressed(careful)) == 2
    assert any("gliding strokes" in why for stop in pressed(careful) for why in stop.why)


def test_pins_wishes_and_what_helped_before():
    wanted = [ComplaintNow(id="neck_shoulder_ache", rating=6, side="right")]
    plain = compose(ComposeRequest(complaints=wanted, minutes=12), Screening())
    left = [row.id for row in plain.left_out if row.rule in ("time", "most") and row.id[:2].isupper()]
    pinned = compose(ComposeRequest(complaints=wanted, minutes=12, pinned=[left[0]]), Screening())
    assert left[0] in {stop.id for stop in pinned.stops}
    elsewhere = compose(ComposeRequest(complaints=wanted, minutes=30, pinned=["KI1"]), Screening())
    assert "You chose it." in next(stop for stop in elsewhere.stops if stop.id == "KI1").why
    avoided = compose(ComposeRequest(complaints=wanted, minutes=40, avoid=["GB21"]), Screening())
    assert any(row.id == "GB21" and row.rule == "avoid" for row in avoided.left_out)
    helped = [Helped(id=id, change=8, times=9) for id in left]
    better = compose(ComposeRequest(complaints=wanted, minutes=12, history=helped), Screening())
    assert {stop.id for stop in better.stops} & set(left), "what helped this person before comes in"


def test_two_maps_and_two_charts():
    wanted = [ComplaintNow(id="knee_pain", rating=6, side="left")]
    for school, first, second in (
        ("ear_points", "ear_AH4", "ear2_knee"),
        ("foot_hand_reflex", "foot_hip_knee", "foot2_"),
    ):
        standard = {stop.id for stop in compose(ComposeRequest(complaints=wanted, school=school), Screening()).stops}
        other = ComposeRequest(complaints=wanted, school=school, ear_map="second", foot_chart="second")
        ids = {stop.id for stop in compose(other, Screening()).stops}
        assert first in standard and not any(id.startswith(second) for id in standard)
        assert first not in ids and any(id.startswith(second) for id in ids)


def test_the_rest_of_a_treatment_is_composed_anew():
    wanted = [ComplaintNow(id="low_back_ache", rating=6), ComplaintNow(id="poor_sleep", rating=4)]
    whole = compose(ComposeRequest(complaints=wanted, minutes=45), Screening())
    done = [Done(id=stop.id, side=stop.side) for stop in pressed(whole)[:4]]
    rest = compose(ComposeRequest(complaints=wanted, minutes=45, remaining_minutes=12, done=done), Screening())
    assert rest.total_s <= 12 * 60
    assert {stop.id for stop in rest.stops}.isdisjoint({one.id for one in done})
    assert rest.stops[0].kind not in ("rate",), "the talk is over"
    assert rest.stops[-2].kind == "close"


def test_mixing_schools_is_done_knowingly():
    wanted = [ComplaintNow(id="tension_headache", rating=6)]
    pure = compose(ComposeRequest(complaints=wanted, minutes=40), Screening())
    mixed = compose(ComposeRequest(complaints=wanted, minutes=40, also=["ear_points"]), Screening())
    assert not any(stop.id.startswith("ear_") for stop in pressed(pure))
    assert any(stop.id.startswith("ear_") for stop in pressed(mixed))


@pytest.mark.parametrize(("flag", "decision"), [("chest_pain", "emergency"), ("new_numbness", "refer")])
def test_the_screening_stands_above_everything(flag, decision):
    request = ComposeRequest(complaints=[ComplaintNow(id="poor_sleep")], pinned=["HT7"])
    score = compose(request, parse_screening({"red_flags": [flag]}))
    assert score.decision == decision
    assert not score.stops
    assert score.reasons[0].rule == flag


SLEEP = [ComplaintNow(id="poor_sleep")]


@pytest.mark.parametrize(
    ("wish", "error", "says", "where"),
    [
        (
            {"complaints": [ComplaintNow(id="knee_bite")]},
            UnknownId,
            "no complaint 'knee_bite'; there are knee_pain",
            "complaints",
        ),
        ({"complaints": [*SLEEP, *SLEEP]}, CoreError, "listed twice", "complaints"),
        ({"avoid": ["SP99"]}, UnknownId, "SP99", "avoid"),
        ({"school": "planets"}, UnknownId, "no school 'planets'; there are channel_acupressure", "school"),
        ({"minutes": 2}, CoreError, "2 minutes is too short.*need 3", "minutes"),
        (
            {"positions_excluded": list(POSITIONS)},
            CoreError,
            "no point can be pressed.*Allow one more position",
            "complaints",
        ),
        ({"complaints": [ComplaintNow(id="poor_sleep", rating=0)]}, CoreError, "rated 0", "complaints"),
        ({"pinned": ["HT7"], "avoid": ["HT7"]}, CoreError, "both pinned and avoided", "pinned"),
        ({"pinned": ["CV8"]}, NotAllowed, "CV8 is pinned but not possible: Landmark only", "pinned"),
        (
            {"minutes": 4, "pinned": ["HT7", "SP6", "KI3", "LR3"]},
            CoreError,
            "is too short for the pinned points.*allow",
            "minutes",
        ),
    ],
)
def test_impossible_wishes_say_what_cannot_be_and_what_can(wish, error, says, where):
    with pytest.raises(error, match=says) as refused:
        compose(ComposeRequest(**{"complaints": SLEEP, **wish}), Screening())
    assert refused.value.where == where


@pytest.mark.parametrize(("rank", "kind"), enumerate(some(KINDS)))
def test_every_complaint_has_something_in_every_school(rank, kind):
    """In every school there is something near, something calming and enough of it; in two of them it is composed."""
    wish = ComposeRequest(complaints=[ComplaintNow(id=kind, rating=6, side="right")])
    asked = {"might_be_pregnant": False, "flushes_seen": True}
    age = {"bed_wetting": 10, "infant_colic": 0}.get(kind, 33)
    cleared = {"cleared": ["child_without_consent", "labour_word", "pregnancy_late"]}
    told: dict[str, dict[str, object]] = {
        "labour": {"pregnancy_weeks": 39},
        "days_after_birth": asked | {"after_birth_weeks": 1},
        "after_shingles": asked | {"numb_places": ["chest_side.left"]},
        "shoulder_after_stroke": asked | {"old_stroke_side": "right"},
    }
    needed: dict[str, object] = {"pregnancy_weeks": 10}
    usual = needed if complaint_kinds()[kind].needs else {**asked}
    who = parse_screening({**told.get(kind, usual), **cleared}, age)
    for place, school in enumerate(schools()):
        request = wish.model_copy(update={"school": school})
        brief = read_brief(request, who, shipped())
        there = sieved(wishes_of(brief), brief).candidates
        # A child's breastbone is left alone, and beside it is all that calms in the school of the ribs.
        wanted = {"local"} if age < 16 and school == "rib_points" else {"local", "calm"}
        assert wanted <= {cover for one in there for cover in one.covers.get(kind, ())}, school
        assert len([one for one in there if one.kind in PRESSED]) >= len(wanted) + 1, school
        if (place + rank) % len(schools()) not in (0, 3):
            continue
        score = compose(request, who)
        assert len(pressed(score)) >= 2, school
        gets = score.coverage[0]
        # Alone, a place that nobody reaches (between the shoulder blades) is served from elsewhere only.
        reached = [one for one in there if one.core_of] or school != "self_care"
        assert not reached or (gets.local and gets.core), school
        used = {stop.position for stop in pressed(score)}
        quiet = [one for one in there if "calm" in one.covers.get(kind, ()) and used & set(one.positions)]
        assert gets.calm or not quiet or len({stop.id for stop in pressed(score)}) >= brief.most_points, school
        assert sum(stop.duration_s for stop in score.stops if stop.kind not in UNTOUCHED) > 200, school


def test_a_programme_alternates_begins_gently_and_says_when_to_judge():
    first = ComposeRequest(complaints=[ComplaintNow(id="low_back_ache", rating=6)], minutes=25)
    plan = programme(ProgrammeRequest(first=first, visits=6), Screening())
    assert [visit.day for visit in plan.visits] == [0, 5, 10, 17, 24, 34]
    assert plan.judge_on_day == 24
    gentle, usual = plan.visits[0].score, plan.visits[1].score
    levels = {stop.id: stop.level for stop in pressed(usual)}
    assert all(stop.level < levels[stop.id] for stop in pressed(gentle) if levels.get(stop.id, 0) > 2)
    assert plan.visits[1].new and plan.visits[1].rested, "sets alternate"
    assert {stop.id for stop in pressed(gentle) if stop.phase == "main"} & set(levels), "the main points come back"


@given(
    st.lists(st.sampled_from(KINDS), min_size=1, max_size=3, unique=True),
    context_answers(),
    st.sampled_from(["seated", "supine", "left_side", "right_side"]),
    st.booleans(),
)
def test_home_plans_are_reachable_light_and_allowed(kinds, answers, position, feet):
    screening = parse_screening(answers)
    if position in positions_out(screening):
        with pytest.raises(NotAllowed):
            home_plan(kinds, screening, HomeWish(position=position))
        return
    plan = home_plan(kinds, screening, HomeWish(position=position, reaches_feet=feet))
    assert len(plan.places) <= 5
    sets = plan.sets
    assert len(sets) == (0 if not plan.places else 1 if len(plan.places) < 4 else 2)
    if len(sets) == 2:
        assert sets[0].points[0] == sets[1].points[0], "what matters most is pressed every day"
    for one in sets:
        assert len(one.points) <= 3
        assert len({point.id for point in one.points}) == len(one.points)
        for point in one.points:
            target = entry(point.id)
            assert target.reach.alone
            assert position in target.reach.positions
            if position != "seated" or not feet:
                assert part_of(target) not in ("lower_leg", "foot")
            assert point.level <= 2
            sides: Any = target.sides if point.side == "both" else (point.side,)
            for side in sides:
                assert limits_for(target, side, screening).refused is None
    if len(sets) == 2:
        assert sets[0].points != sets[1].points


def test_at_home_the_arm_that_must_not_be_pressed_is_spared():
    screening = parse_screening({"lymph_nodes_removed": "left"})
    plan = home_plan(["poor_sleep"], screening, HomeWish(position="supine", places=("HT7", "PC6", "yintang")))
    assert [(one.id, one.side) for one in plan.places] == [("HT7", "right"), ("PC6", "right"), ("yintang", "midline")]


def test_the_shipped_knowledge_is_whole():
    assert len(shipped().complaints) == 93
    assert set(shipped().schools) == {
        "channel_acupressure",
        "quiet_holding",
        "foot_hand_reflex",
        "ear_points",
        "face_reflex",
        "rib_points",
        "self_care",
    }
    for kind in shipped().complaints.values():
        assert kind.measure and kind.acts and kind.ask and kind.stop_if, kind.id
        assert {use.ground for use in kind.uses} == {"points", "reflexes", "ear", "face", "ribs"}, kind.id
        assert 2 <= len(kind.home) <= 5, kind.id
        assert "cure" not in kind.evidence.says.lower()
