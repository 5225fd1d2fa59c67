"""Changing course: the rest leaves what was done, keeps time for what is sore, fits, and can be taken back."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.score.arrange import arrange
from acuthesis.core.compose.score.score import PRESSED, total_s
from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.safety.screening import Screening
from acuthesis.core.treat.events import ChangeRest, End, Later, Soreness, StartStop, Undo
from acuthesis.core.treat.rest import RestWish, drafts_of_rest, looks_s, only_the_end, rest_request
from tests.saying import said
from tests.tiers import examples

from .test_treat import KEYS, SCORE, Sitting

REQUEST = ComposeRequest(complaints=[ComplaintNow(id="neck_shoulder_ache", rating=7, side="right")], minutes=25)


def played(number, sore=None):
    """A sitting that has played so many stops of the score for their whole time."""
    sitting, before = Sitting(), 0.0
    for key, stop in zip(KEYS[: number + 1], SCORE.stops, strict=False):
        sitting.does(StartStop, key=key, after=before)
        before = stop.duration_s
        if sore is not None and stop.kind in PRESSED:
            sitting.does(Soreness, value=sore)
    return sitting


def rest_of(sitting, **wish):
    request = rest_request(sitting.state, REQUEST, RestWish(**wish))
    score = compose(request, Screening())
    return score, arrange(drafts_of_rest(sitting.state, score.stops, wish["minutes"]), Screening())


@examples(12, deadline=None)
@given(st.integers(1, len(KEYS) - 4), st.floats(3, 14), st.sampled_from([None, 6, 7]))
def test_the_rest_fits_does_nothing_twice_and_is_proven(number, minutes, sore):
    sitting = played(number, sore)
    try:
        score, rest = rest_of(sitting, minutes=minutes)
    except CoreError as too_little:
        assert "minutes is too short" in said(too_little.message) and only_the_end(sitting.state)
        return
    assert score.objective.gap == 0
    assert total_s(rest) <= minutes * 60 + 1
    done = {(stop.id, stop.side) for stop in SCORE.stops[: number + 1] if stop.kind in PRESSED}
    again = {(stop.id, stop.side) for stop in rest if stop.kind in PRESSED}
    assert not done & again
    assert not {stop.key for stop in rest} & set(sitting.state.records)
    looks = [stop for stop in rest if stop.kind == "second_look"]
    assert bool(looks) or looks_s(sitting.state, minutes) == 0
    assert [stop.kind for stop in rest][-1] in ("close", "rate")


def test_the_position_that_they_lie_in_comes_first():
    supine = ComposeRequest(complaints=[ComplaintNow(id="poor_sleep", rating=7)], minutes=30)
    for lying in ("supine", "prone", "seated"):
        asked = supine.model_copy(update={"remaining_minutes": 20.0, "lying": lying})
        positions = [stop.position for stop in compose(asked, Screening()).stops]
        assert positions[0] == lying or lying not in positions
    stays = compose(supine.model_copy(update={"remaining_minutes": 5.0, "lying": "prone"}), Screening())
    assert len({stop.position for stop in stays.stops if stop.kind != "rate"}) == 1


def test_a_side_that_is_spared_what_was_left_and_what_is_under_the_hand():
    sitting = played(6)
    current = sitting.state.stops[sitting.state.current]
    spared = rest_request(sitting.state, REQUEST, RestWish(minutes=10, not_side="left", not_key=KEYS[8]))
    assert (SCORE.stops[8].id, "left") in [(one.id, one.side) for one in spared.done]
    _, rest = rest_of(sitting, minutes=10, add="LI10")
    assert "LI10" in [stop.id for stop in rest]
    left = sitting.does(Soreness, value=9).does(Soreness, value=9)
    assert current.id in rest_request(left.state, REQUEST, RestWish(minutes=10)).avoid


def test_what_gives_way_is_told_and_all_of_it_is_taken_back_by_a_key():
    sitting = played(5)
    before = sitting.state
    _, rest = rest_of(sitting, minutes=5)
    sitting.does(ChangeRest, stops=rest, why="5 minutes left")
    state = sitting.state
    begun = [key for key in KEYS if before.records[key].started]
    assert [stop.key for stop in state.score.stops] == [*begun, *(stop.key for stop in rest)]
    assert set(state.records) == {*begun, *(stop.key for stop in rest)}
    planned = {(stop.id, stop.side) for stop in SCORE.stops if stop.kind in PRESSED and stop.key not in begun}
    gave_way = {(one.id, one.side) for one in state.given_up}
    assert gave_way == planned - {(stop.id, stop.side) for stop in rest} and gave_way
    back = sitting.does(Undo, of=sitting.events[-1].id).state
    same = {"advice", "event_count", "past"}
    assert back.model_dump(exclude=same) == before.model_dump(exclude=same)
    assert back.advice.text == "Undone: a new plan for the remaining time: 5 minutes left."
    twice = sitting.does(ChangeRest, stops=(rest[0], rest[0]))
    with pytest.raises(NotAllowed, match="already used"):
        _ = twice.state


def test_nothing_is_composed_for_what_is_over():
    over = played(3).does(End, reason="finished")
    with pytest.raises(NotAllowed, match="no session is in progress"):
        rest_request(over.state, REQUEST, RestWish(minutes=5))


def test_of_two_sides_in_turn_each_is_done_once_half_of_it_was():
    """Three quarters of the first side: only that one. Three quarters of the second: both. By the clock alone."""
    both = next(n for n, stop in enumerate(SCORE.stops) if stop.side == "both" and not stop.dose.together)
    stop, half = SCORE.stops[both], SCORE.stops[both].duration_s / 2
    first, second = ("left", "right") if stop.first == "left" else ("right", "left")
    for seconds, expected in ((0.2 * half, []), (0.75 * half, [first]), (1.75 * half, [first, second])):
        sitting = Sitting().does(StartStop, key=stop.key).does(StartStop, key=KEYS[both + 1], after=seconds)
        asked = rest_request(sitting.state, REQUEST, RestWish(minutes=10))
        assert [one.side for one in asked.done if one.id == stop.id] == expected, seconds


def test_time_for_second_looks_stands_before_the_last_rating_also_without_a_close():
    sitting = played(6).does(Soreness, value=6).does(Later)
    last = [stop for stop in SCORE.stops if stop.kind == "rate"][-1]
    drafts = drafts_of_rest(sitting.state, [SCORE.stops[8], last], minutes=10)
    assert looks_s(sitting.state, 10) > 0
    assert [one.kind for one in drafts][-2:] == ["second_look", "rate"]
