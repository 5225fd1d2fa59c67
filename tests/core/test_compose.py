"""Composing keeps every rule, whoever comes with whatever for however long."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from acuthesis.core.atlas.catalogue import entry
from acuthesis.core.compose.composer import COMFORT, ComplaintNow, ComposeRequest, compose
from acuthesis.core.compose.dose import (
    Breaths,
    Circles,
    Dose,
    Glide,
    Hold,
    Pulse,
    duration_s,
    in_form,
    stretched,
)
from acuthesis.core.compose.home import home_set
from acuthesis.core.compose.knowledge import ROLE_ORDER, complaint_kinds
from acuthesis.core.compose.score import MOVE_S, TURN_S, DraftStop, arrange, position_changes, total_s
from acuthesis.core.errors import CoreError, NotAllowed, UnknownId
from acuthesis.core.safety.rules import limits_for, positions_out
from acuthesis.core.safety.screening import Screening, parse_screening

from .test_safety import context_answers

KINDS = list(complaint_kinds())
DOSE = TypeAdapter(Dose)


@st.composite
def requests(draw) -> ComposeRequest:
    kinds = draw(st.lists(st.sampled_from(KINDS), min_size=1, max_size=3, unique=True))
    sides = st.sampled_from(["left", "right", "both"])
    return ComposeRequest(
        complaints=[ComplaintNow(id=kind, rating=draw(st.integers(1, 10)), side=draw(sides)) for kind in kinds],
        minutes=draw(st.integers(8, 60)),
        positions_excluded=draw(st.lists(st.sampled_from(list(COMFORT)), max_size=2, unique=True)),
    )


def composed(request, screening):
    try:
        return compose(request, screening)
    except CoreError as error:
        assert "nothing is left" in error.message
        return None


@settings(max_examples=150)
@given(requests(), context_answers())
def test_a_score_keeps_every_rule(request, answers):
    screening = parse_screening(answers)
    score = composed(request, screening)
    if score is None:
        return
    out = positions_out(screening)
    assert score.total_s <= request.minutes * 60
    assert score.stops[0].kind == "breathe"
    assert score.stops[-1].kind == "close"
    for stop in score.stops:
        assert stop.position not in out
        assert stop.position not in request.positions_excluded or stop.kind in ("breathe", "close")
        assert stop.why
        if stop.kind in ("breathe", "close"):
            continue
        limits = limits_for(entry(stop.id), stop.side, screening)
        assert limits.refused is None, f"{stop.id} is refused and still in"
        assert stop.level <= stop.ceiling == limits.ceiling
        assert stop.position in entry(stop.id).reach.positions
    named = {stop.id for stop in score.stops} | {row.id for row in score.left_out}
    for complaint in request.complaints:
        for use in complaint_kinds()[complaint.id].uses:
            assert use.id in named, f"{use.id} is neither in nor explained"
    assert all(row.reason for row in score.left_out)
    assert score == compose(request, screening), "the same request gives the same score"


@settings(max_examples=60)
@given(requests(), st.integers(1, 30))
def test_more_minutes_never_bring_less(request, more):
    short = composed(request, Screening())
    longer = composed(request.model_copy(update={"minutes": request.minutes + more}), Screening())
    if short is not None:
        assert longer.objective.value >= short.objective.value - 1e-9


@settings(max_examples=60)
@given(requests(), context_answers())
def test_an_answer_adds_no_stop_that_it_forbids(request, answers):
    screening = parse_screening(answers)
    after = composed(request, screening)
    for stop in after.stops if after else ():
        if stop.kind in ("point", "area"):
            assert limits_for(entry(stop.id), stop.side, screening).refused is None


@settings(max_examples=40)
@given(requests())
def test_within_a_position_the_school_keeps_its_order(request):
    score = composed(request, Screening())
    if score is None:
        return
    roles = {}
    for complaint in request.complaints:
        for use in complaint_kinds()[complaint.id].uses:
            rank = ROLE_ORDER.index(use.role)
            roles[use.id] = min(rank, roles.get(use.id, rank))
    for before, after in zip(score.stops[1:-1], score.stops[2:-1], strict=False):
        if before.position == after.position:
            assert roles[before.id] <= roles[after.id]


def test_pregnant_with_tired_legs_and_low_back():
    screening = parse_screening({"pregnancy_weeks": 22, "varicose_veins": True})
    wanted = [ComplaintNow(id="tired_legs", rating=6), ComplaintNow(id="low_back_ache", rating=5)]
    score = compose(ComposeRequest(complaints=wanted, minutes=30), screening)
    ids = {stop.id for stop in score.stops}
    assert "SP6" not in ids
    assert {stop.position for stop in score.stops} <= {"seated", "left_side", "right_side"}
    sp6 = next(row for row in score.left_out if row.id == "SP6")
    assert (sp6.severity, sp6.rule) == ("refuse", "pregnancy_points")
    st36 = next(stop for stop in score.stops if stop.id == "ST36")
    assert st36.level == 2
    assert any("Varicose veins" in why for why in st36.why)


def test_only_the_free_arm_is_worked_on():
    score = compose(
        ComposeRequest(complaints=[ComplaintNow(id="poor_sleep", rating=7)], minutes=40),
        parse_screening({"lymph_nodes_removed": "left"}),
    )
    assert {stop.side for stop in score.stops if stop.id in ("HT7", "PC6")} == {"right"}
    assert {(row.id, row.side) for row in score.left_out if row.severity == "refuse"} >= {
        ("HT7", "left"),
        ("PC6", "left"),
    }


def test_pins_and_wishes():
    wanted = [ComplaintNow(id="neck_shoulder_ache", rating=6, side="right")]
    plain = compose(ComposeRequest(complaints=wanted, minutes=6), Screening())
    last = plain.left_out[-1].id
    pinned = compose(ComposeRequest(complaints=wanted, minutes=6, pinned=[last]), Screening())
    assert last not in {stop.id for stop in plain.stops}
    assert last in {stop.id for stop in pinned.stops}
    avoided = compose(ComposeRequest(complaints=wanted, minutes=40, avoid=["GB21"]), Screening())
    assert "GB21" not in {stop.id for stop in avoided.stops}
    assert any(row.id == "GB21" and row.rule == "avoid" for row in avoided.left_out)


@pytest.mark.parametrize(("flag", "decision"), [("chest_pain", "emergency"), ("new_numbness", "refer")])
def test_the_screening_stands_above_everything(flag, decision):
    request = ComposeRequest(complaints=[ComplaintNow(id="poor_sleep")], pinned=["HT7"])
    score = compose(request, parse_screening({"red_flags": [flag]}))
    assert score.decision == decision
    assert not score.stops
    assert score.reasons[0].rule == flag


def test_impossible_wishes_say_what_cannot_be():
    with pytest.raises(UnknownId, match="no complaint 'dragon_bite'; there are tension_headache"):
        compose(ComposeRequest(complaints=[ComplaintNow(id="dragon_bite")]), Screening())
    with pytest.raises(UnknownId, match="SP99"):
        compose(ComposeRequest(complaints=[ComplaintNow(id="poor_sleep")], avoid=["SP99"]), Screening())
    with pytest.raises(CoreError, match="nothing is left"):
        everything = ComposeRequest(complaints=[ComplaintNow(id="poor_sleep")], positions_excluded=list(COMFORT))
        compose(everything, Screening())
    with pytest.raises(ValidationError, match="greater than or equal to 3"):
        ComposeRequest(complaints=[ComplaintNow(id="poor_sleep")], minutes=2)


@pytest.mark.parametrize(
    ("dose", "seconds"),
    [
        (Hold(seconds=45), 45),
        (Pulse(on_s=5, off_s=3, cycles=6), 48),
        (Circles(each_way=10, seconds_each=1.5), 30),
        (Breaths(count=6, per_minute=8), 45),
        (Glide(strokes=10, seconds_each=4), 40),
    ],
)
def test_durations_are_computed(dose, seconds):
    assert duration_s(dose) == pytest.approx(seconds)
    assert DOSE.validate_python(dose.model_dump()) == dose


@given(st.sampled_from(["hold", "pulse", "circles", "breaths", "glide"]), st.floats(1, 900))
def test_stretching_stays_in_form_and_comes_near(form, seconds):
    dose = in_form(form, seconds)
    assert dose.form == form
    step = {"hold": 1, "pulse": 8, "circles": 3, "breaths": 6, "glide": 3}[form]
    low, high = duration_s(stretched(dose, 0)), duration_s(stretched(dose, 10_000))
    assert duration_s(dose) == pytest.approx(min(max(seconds, low), high), abs=step / 2 + 0.51)


def draft(id="ST36", **change):
    base = {
        "key": f"{id}-1",
        "kind": "point",
        "id": id,
        "side": "left",
        "position": "supine",
        "dose": Hold(seconds=30),
        "level": 2,
    }
    return DraftStop(**{**base, **change})


def test_arranging_counts_moves_turns_and_sides():
    stops = arrange([draft(), draft("SP6", side="both"), draft("BL40", position="prone")], Screening())
    assert [stop.start_s for stop in stops] == [0, 30 + MOVE_S, 30 + MOVE_S + 60 + TURN_S]
    assert [stop.duration_s for stop in stops] == [30, 60, 30]
    assert total_s(stops) == stops[-1].start_s + 30
    assert position_changes(stops) == 1


def test_a_muted_stop_takes_no_time_and_breaks_no_rule():
    pregnant = parse_screening({"pregnancy_weeks": 10})
    loud, quiet = draft(), draft("SP6", muted=True, level=4)
    assert total_s(arrange([loud, quiet], pregnant)) == 30
    with pytest.raises(NotAllowed, match="SP6: Traditionally not pressed in pregnancy"):
        arrange([loud, draft("SP6")], pregnant)


@pytest.mark.parametrize(
    ("stop", "says", "where"),
    [
        (draft(level=5), "level 5 is above 4", "stops.0.level"),
        (draft("PC6", level=3), "level 3 is above 2", "stops.0.level"),
        (draft(side="midline"), "has two sides", "stops.0.side"),
        (draft("GV20", side="left"), "lies on the midline", "stops.0.side"),
        (draft("BL40", position="supine"), "cannot be reached supine", "stops.0.position"),
    ],
)
def test_an_edit_that_may_not_be_is_refused_at_its_place(stop, says, where):
    with pytest.raises((NotAllowed, CoreError), match=says) as refused:
        arrange([stop], Screening())
    assert refused.value.where == where


def test_edits_that_cannot_be_laid_out():
    with pytest.raises(CoreError, match="same key"):
        arrange([draft(), draft()], Screening())
    with pytest.raises(CoreError, match="up to 80 stops"):
        arrange([draft(key=f"k{n}") for n in range(81)], Screening())
    with pytest.raises(NotAllowed, match="lying flat on the back"):
        arrange([draft()], parse_screening({"pregnancy_weeks": 21}))


@given(st.lists(st.sampled_from(KINDS), min_size=1, max_size=3), context_answers())
def test_the_home_set_is_reachable_light_and_allowed(kinds, answers):
    screening = parse_screening(answers)
    points = home_set(kinds, screening)
    assert len(points) <= 4
    assert len({point.id for point in points}) == len(points)
    for point in points:
        target = entry(point.id)
        assert target.reach.alone
        assert point.level <= 2
        for side in ("left", "right") if target.paired else ("midline",):
            assert limits_for(target, side, screening).refused is None
