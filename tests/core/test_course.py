"""The course of a stop: its parts fill its time, it is entered lighter than its aim, and its beats are its dose."""

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.knowledge.dose import FORMS, duration_s, in_form
from acuthesis.core.compose.knowledge.school import schools
from acuthesis.core.compose.score.course import Phrase, course, rhythm
from acuthesis.core.compose.score.score import MOVE_S, TURN_S
from acuthesis.core.safety.screening import parse_screening


def beats_s(phrases: tuple[Phrase, ...]) -> float:
    return sum(one.times * sum(beat.seconds for beat in one.beats) for one in phrases)


@given(st.sampled_from(FORMS), st.floats(5, 240))
def test_the_beats_of_every_form_take_as_long_as_the_dose(form, seconds):
    dose = in_form(form, seconds)
    phrases = rhythm(dose)
    assert beats_s(phrases) == pytest.approx(duration_s(dose))
    for beat in (beat for phrase in phrases for beat in phrase.beats):
        assert beat.word and 0 < beat.opens <= 1 and 0 < beat.closes <= 1


def test_a_breath_out_is_longer_than_in():
    into, out = rhythm(in_form("breaths", 60))[0].beats
    assert (into.word, out.word, into.breath) == ("in", "out", True) and out.seconds > into.seconds


@given(
    st.sampled_from([("left",), ("right", "left"), ("both",)]), st.integers(1, 5), st.floats(3, 600), st.floats(0, 30)
)
def test_the_parts_fill_the_time_and_go_in_one_lighter(sides, level, side_s, find_s):
    steps = course(sides, level, side_s, find_s)
    touched = [one for one in steps if one.part != "find"]
    assert sum(one.seconds for one in touched) == pytest.approx(side_s * len(sides), abs=0.1)
    for side in sides:
        own = [one for one in touched if one.side == side]
        assert [one.part for one in own if one.part != "enter"] == ["dose", "release"]
        assert own[0].level == max(level - 1, 1), "at least one level below the aim"
        assert next(one for one in own if one.part == "dose").level == level
        for one, after in pairwise(own):
            assert one.at_s + one.seconds == pytest.approx(after.at_s, abs=0.05)


@pytest.mark.parametrize("school", sorted(schools()))
def test_every_stop_says_how_it_is_found_entered_held_and_left(school):
    """Read off composed scores of each school: nothing that hands do is without its course, its beats and its words."""
    screening = parse_screening({"numb_feet": True})
    score = compose(
        ComposeRequest(complaints=[ComplaintNow(id="poor_sleep", rating=7)], minutes=50, school=school), screening
    )
    before = None
    for stop in score.stops:
        sides = 2 if stop.side == "both" and not stop.dose.together else 1
        assert beats_s(stop.rhythm) * sides == pytest.approx(stop.duration_s, abs=0.3)
        turned = before is not None and before != stop.position
        assert stop.find_s == (0 if before is None else TURN_S if turned else MOVE_S)
        assert bool(stop.turn) == (turned and not score.alone), stop.key
        assert not stop.turn or stop.turn.endswith("where you pressed."), "numb feet: the skin is looked at"
        if stop.kind in ("point", "area"):
            assert stop.hand and stop.course[0].part in ("find", "enter", "dose")
            touched = sum(one.seconds for one in stop.course if one.part != "find")
            assert touched == pytest.approx(stop.duration_s, abs=0.5)
        before = stop.position
