"""Doses take the time they say, and a score is laid out and checked stop by stop."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from acuthesis.core.compose.knowledge.dose import (
    FORMS,
    Breaths,
    Circles,
    Dose,
    Glide,
    Hold,
    Pulse,
    Pumps,
    Rubs,
    Sets,
    Until,
    Walk,
    dose_in_words,
    duration_s,
    in_form,
    paced,
    stretched,
    whole_s,
    within,
)
from acuthesis.core.compose.knowledge.school import schools
from acuthesis.core.compose.score.arrange import arrange
from acuthesis.core.compose.score.score import MOVE_S, TURN_S, DraftStop, position_changes, total_s
from acuthesis.core.errors import CoreError, NotAllowed, UnknownId
from acuthesis.core.safety.screening import Screening, parse_screening

DOSE = TypeAdapter(Dose)


@pytest.mark.parametrize(
    ("dose", "seconds"),
    [
        (Hold(seconds=45), 45),
        (Pulse(on_s=5, off_s=3, cycles=6), 48),
        (Circles(each_way=10, seconds_each=1.5), 30),
        (Breaths(count=6, per_minute=8), 45),
        (Glide(strokes=10, seconds_each=4), 40),
        (Walk(passes=4, seconds_each=10), 40),
        (Sets(sets=3, count=5, seconds_each=2, release_s=6), 42),
        (Pumps(count=20, seconds_each=1.5), 30),
        (Rubs(count=20, seconds_each=1), 20),
        (Until(sign="pulse", cap_s=150), 150),
    ],
)
def test_durations_are_computed(dose, seconds):
    assert duration_s(dose) == pytest.approx(seconds)
    assert whole_s(dose, "both") == pytest.approx(2 * seconds)
    assert whole_s(dose.model_copy(update={"together": True}), "both") == pytest.approx(seconds)
    assert DOSE.validate_python(dose.model_dump()) == dose
    assert "together" in dose_in_words(dose.model_copy(update={"together": True}))


@pytest.mark.parametrize(
    ("dose", "words"),
    [
        (Hold(seconds=45), "hold 45 s"),
        (Pulse(on_s=5, off_s=3, cycles=6), "6 times 5 s on, 3 s off"),
        (Until(sign="letting_go", cap_s=90), "until release is felt, 90 s at most"),
        (Sets(sets=2, count=6, seconds_each=3, release_s=4), "2 sets of 6, 3 s each, 4 s between"),
        (Walk(passes=3), "3 thumb-walking passes"),
    ],
)
def test_doses_are_said_as_they_are_spoken_of(dose, words):
    assert dose_in_words(dose) == words


@given(st.sampled_from(FORMS), st.floats(1, 900))
def test_stretching_stays_in_form_and_comes_near(form, seconds):
    dose = in_form(form, seconds)
    assert dose.form == form
    step = duration_s(stretched(dose, 0))  # one of what the form counts is the least it can be
    low, high = step, duration_s(stretched(dose, 10_000))
    assert duration_s(dose) == pytest.approx(min(max(seconds, low), high), abs=max(step, 22) / 2 + 0.51)


@given(st.sampled_from(FORMS), st.floats(4, 600), st.integers(3, 300), st.booleans())
def test_a_longest_time_is_kept_in_the_same_form_where_one_round_fits(form, seconds, most, together):
    dose = in_form(form, seconds, together=together)
    kept = within(dose, most)
    assert duration_s(kept) <= most and kept.together is together
    if duration_s(dose) <= most:
        assert kept == dose
    elif duration_s(stretched(dose, 0)) <= most:
        assert kept.form == form, "one round of it fits, so it stays what it is"
    else:
        assert kept.form == "hold", "not even one round fits, so the place is held"
    assert within(dose, None) == dose


def test_breaths_take_the_persons_own_pace():
    eight = Breaths(count=8, per_minute=12)
    assert duration_s(paced(eight, None)) == 40
    assert duration_s(paced(eight, 8)) == 60, "a slow breather takes longer"
    assert duration_s(paced(Breaths(count=6, per_minute=6), 15)) == 60, "a paced breath stays slow"


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
    assert [stop.entering for stop in stops] == [(1, 2)] * 3


def test_a_muted_stop_takes_no_time_and_breaks_no_rule():
    pregnant = parse_screening({"pregnancy_weeks": 10})
    loud, quiet = draft(), draft("SP6", muted=True, level=4)
    assert total_s(arrange([loud, quiet], pregnant)) == 30
    with pytest.raises(NotAllowed, match="SP6: Traditionally not pressed in pregnancy"):
        arrange([loud, draft("SP6", override="midwife said it is fine")], pregnant)


def test_a_muted_stop_is_lowered_to_its_ceiling_so_that_it_can_come_back():
    (quiet,) = arrange([draft("PC6", muted=True, level=4)], Screening())
    assert (quiet.level, quiet.ceiling) == (2, 2)
    assert arrange([quiet.model_copy(update={"muted": False})], Screening())[0].level == 2


def stroke(id="calf_strokes", **change):
    return draft(id, kind="stroke", side="both", position="prone", dose=Glide(strokes=8, seconds_each=4), **change)


NOBODY = Screening()


@pytest.mark.parametrize(
    ("stop", "answers", "says", "where"),
    [
        (draft(level=5), {}, "level 5 is above the maximum of 4", "stops.0.level"),
        (draft("PC6", level=3), {}, "level 3 is above the maximum of 2", "stops.0.level"),
        (draft(side="midline"), {}, "has two sides", "stops.0.side"),
        (draft("GV20", side="left"), {}, "lies on the midline", "stops.0.side"),
        (draft("BL40", position="supine"), {}, "cannot be reached face up", "stops.0.position"),
        (draft("ST9", side="both", level=1), {}, "never on both sides", "stops.0.side"),
        (draft("LI20", contact="stick"), {}, "no pressing stick", "stops.0.contact"),
        (draft("ST36", contact="stick"), {"blood_thinner": True}, "no pressing stick", "stops.0.contact"),
        (
            draft("foot_liver", kind="area", side="right", dose=Walk(passes=3)),
            {"blood_thinner": True},
            "gliding",
            "stops.0.dose",
        ),
        (draft("CV22", side="midline", level=1), {}, "at most 20 s", "stops.0.dose"),
        (draft(level=2), {"broken_skin": ["lower_leg.left"]}, "Never press on or near broken", "stops.0"),
        (stroke(), {"past_clot": True}, "do not stroke the legs upwards", "stops.0"),
        (stroke(), {"thin_skin": True}, "gliding", "stops.0.dose"),
        (
            draft("kidney_rub", kind="stroke", side="both", position="prone"),
            {"pregnancy_weeks": 9},
            "pregnancy",
            "stops.0",
        ),
        (
            draft("neck_loosening", kind="loosen", side="midline", position="prone"),
            {},
            "is not done",
            "stops.0.position",
        ),
        (draft(), {"pregnancy_weeks": 21}, "lying flat can compress", "stops.0"),
    ],
)
def test_an_edit_that_may_not_be_is_refused_at_its_place(stop, answers, says, where):
    with pytest.raises((NotAllowed, CoreError), match=says) as refused:
        arrange([stop], parse_screening(answers))
    assert refused.value.where == where


def test_a_signed_reason_lifts_only_what_a_signature_may_lift():
    eaten = parse_screening({"full_stomach": True})
    with pytest.raises(NotAllowed, match="overridden with a reason"):
        arrange([draft("CV12", side="midline", level=1, override="no")], eaten)
    [stop] = arrange([draft("CV12", side="midline", level=1, override="a light hand only, she asked for it")], eaten)
    assert stop.warnings == ("Override: a light hand only, she asked for it",)


def test_a_smaller_contact_warns_and_deep_is_off_until_agreed():
    [stop] = arrange([draft("ST36", contact="stick", level=3)], Screening())
    [thumb] = arrange([draft("ST36", level=3)], Screening())
    assert "3.8 times as hard" in stop.warnings[0]
    assert stop.force_n < thumb.force_n
    [deep] = arrange([draft("ST36", level=5)], parse_screening({"deep_pressure_agreed": True}))
    assert (deep.ceiling, deep.entering) == (5, (4, 5))


def test_the_lowest_ceiling_holds_with_its_reason():
    measured = parse_screening({}, thresholds={"lower_leg": 3.2})
    [stop] = arrange([draft(level=3)], measured)
    assert stop.ceiling == 3 and "3.2 N/cm²" in stop.ceiling_reasons[0]
    school = schools()["quiet_holding"]
    with pytest.raises(NotAllowed, match="Quiet holding uses level 2"):
        arrange([draft(level=3)], Screening(), school)
    old = parse_screening({}, age=80)
    [stop] = arrange([draft(level=3)], old)
    assert stop.ceiling == 3 and "Over 75" in stop.ceiling_reasons[0]


def test_edits_that_cannot_be_laid_out():
    with pytest.raises(CoreError, match="same key"):
        arrange([draft(), draft()], Screening())
    with pytest.raises(CoreError, match="at most 160 stops"):
        arrange([draft(key=f"k{n}") for n in range(161)], Screening())
    with pytest.raises(UnknownId, match="no technique 'juggling'"):
        arrange([draft("juggling", kind="stroke")], Screening())
