"""The treatment is a fold: it can be cut anywhere, sent twice, and always says the same."""

import random
import uuid
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from acuthesis.core.compose.composer import compose
from acuthesis.core.compose.request import ComplaintNow, ComposeRequest
from acuthesis.core.errors import NotAllowed, UnknownId
from acuthesis.core.safety.first_aid import usual_help
from acuthesis.core.safety.screening import Screening, parse_screening
from acuthesis.core.treat.events import (
    EVENTS,
    Begin,
    ChangeTechnique,
    End,
    Later,
    Pause,
    Reacted,
    Resume,
    SetLevel,
    Soreness,
    StartStop,
    reactions,
)
from acuthesis.core.treat.session import fold
from acuthesis.core.treat.tenderness import sore_places, tenderness
from acuthesis.stand_ins.hands import play

SCORE = compose(
    ComposeRequest(complaints=[ComplaintNow(id="neck_shoulder_ache", rating=7, side="right")], minutes=25), Screening()
)
BEGAN = datetime(2026, 11, 25, 9, 0, tzinfo=UTC)
KEYS = [stop.key for stop in SCORE.stops]
GB21 = "GB21-1"


class Sitting:
    """Writes events one after the other, some seconds apart."""

    def __init__(self, score=SCORE):
        self.at = BEGAN
        self.events = [Begin(id=uuid.uuid4(), at=self.at, score=score)]

    def does(self, kind, after=5, **values):
        self.at += timedelta(seconds=after)
        self.events.append(kind(id=uuid.uuid4(), at=self.at, **values))
        return self

    @property
    def state(self):
        return fold(self.events)


def at_gb21():
    return Sitting().does(StartStop, key=GB21)


@settings(max_examples=40)
@given(st.integers(0, 2**32), st.integers(0, 200), st.lists(st.integers(0, 200), max_size=8))
def test_a_treatment_cut_anywhere_and_sent_again_is_the_same(seed, cut, again):
    events = play(SCORE, BEGAN, {"GB21": 7, "GB20": 5}, random.Random(seed))
    whole = fold(events)
    assert whole.status == "finished"
    cut %= len(events)
    repeated = [*events[:cut], *(events[n % len(events)] for n in again if n % len(events) < cut), *events[cut:]]
    assert fold(repeated) == whole
    assert fold(events[cut:], start=fold(events[:cut])) == whole
    kept = EVENTS.validate_json(EVENTS.dump_json(events))
    assert fold(kept) == whole


def test_time_runs_only_while_hands_are_on():
    sitting = at_gb21().does(Pause, after=20).does(Resume, after=300).does(StartStop, after=10, key=KEYS[2])
    assert sitting.state.records[GB21].active_s == 30
    assert sitting.state.current == KEYS[2]
    assert sitting.state.status == "running"


def test_a_clock_that_was_set_back_takes_nothing_away():
    sitting = at_gb21()
    sitting.at -= timedelta(hours=1)
    sitting.does(Pause)
    assert sitting.state.records[GB21].active_s == 0


def test_a_sore_spot_is_queued_and_left_when_it_does_not_ease():
    sitting = at_gb21().does(Soreness, value=6)
    assert "come back later" in sitting.state.advice.text
    assert sitting.state.second_looks == [GB21]
    sitting.does(Soreness, value=4)
    assert sitting.state.advice.text == "It eases: 6 to 4."
    sitting.does(Soreness, value=6)
    assert sitting.state.advice.follows == "leave"
    assert sitting.state.records[GB21].left
    assert sitting.state.second_looks == []
    with pytest.raises(NotAllowed, match="left for today"):
        _ = sitting.does(StartStop, key=GB21).state


def test_very_sore_twice_leaves_the_point_even_when_lighter():
    sitting = at_gb21().does(Soreness, value=8)
    before = SCORE.stops[KEYS.index(GB21)].level
    assert sitting.state.records[GB21].level == before - 1, "very sore: one level lighter at once"
    sitting.does(Soreness, value=8)
    assert sitting.state.advice.follows == "leave"


def test_growing_at_another_level_is_no_reason_to_leave():
    sitting = at_gb21().does(Soreness, value=2).does(SetLevel, level=4).does(Soreness, value=5)
    assert not sitting.state.records[GB21].left


def test_sides_are_compared_each_with_itself():
    sitting = at_gb21().does(Soreness, value=3, side="right").does(Soreness, value=6, side="left")
    assert not sitting.state.records[GB21].left


def test_tingling_lightens_then_leaves():
    sitting = at_gb21().does(Reacted, reaction="tingling")
    assert sitting.state.advice.follows == "lighten"
    sitting.does(Reacted, reaction="tingling")
    assert sitting.state.advice.follows == "leave"
    assert sitting.state.records[GB21].left


@pytest.mark.parametrize("reaction", ["asks_to_stop", "dizzy"])
def test_some_reactions_stop_everything_at_once(reaction):
    sitting = at_gb21().does(Reacted, reaction=reaction)
    assert sitting.state.status == "stopped"
    assert sitting.state.advice.follows == "stop_session"
    with pytest.raises(NotAllowed, match="after the treatment ended"):
        _ = sitting.does(Pause).state


@pytest.mark.parametrize("reaction", sorted(reactions()))
def test_every_reaction_has_words_and_an_effect(reaction):
    known = reactions()[reaction]
    state = at_gb21().does(Reacted, reaction=reaction, words="like a rope").state
    assert state.advice.text == known.say.replace("{lay}", usual_help().lay.get(known.lay, ""))
    assert "{" not in state.advice.text and state.records[GB21].said == ["like a rope"]
    assert (state.status == "stopped") == (known.then == "stop_session")
    assert state.records[GB21].left == (known.then == "leave")
    assert reaction in state.records[GB21].reactions


def test_ease_lightens_and_rim_does_not():
    level = SCORE.stops[KEYS.index(GB21)].level
    assert at_gb21().does(ChangeTechnique, technique="ease").state.records[GB21].level == level - 1
    assert at_gb21().does(ChangeTechnique, technique="rim").state.records[GB21].level == level


def test_later_comes_back_as_a_second_look():
    sitting = at_gb21().does(Later).does(Later)
    assert sitting.state.second_looks == [GB21]
    sitting.does(StartStop, key=KEYS[2]).does(StartStop, key=GB21)
    assert sitting.state.second_looks == []
    assert sitting.state.records[GB21].started == 2


def test_the_ceiling_holds_while_treating():
    screening = parse_screening({"blood_thinner": True})
    score = compose(ComposeRequest(complaints=[ComplaintNow(id="neck_shoulder_ache", rating=7)], minutes=25), screening)
    sitting = Sitting(score).does(StartStop, key=GB21).does(SetLevel, level=3)
    with pytest.raises(NotAllowed, match="level 3 is above 2"):
        _ = sitting.state


def test_events_out_of_order_are_refused_with_a_reason():
    begin, start = at_gb21().events
    with pytest.raises(NotAllowed, match="before the treatment began"):
        fold([start])
    with pytest.raises(NotAllowed, match="has begun already"):
        fold([begin, Begin(id=uuid.uuid4(), at=BEGAN, score=SCORE)])
    with pytest.raises(NotAllowed, match="before a stop was started"):
        fold([begin, Soreness(id=uuid.uuid4(), at=BEGAN, value=3)])
    with pytest.raises(UnknownId, match="no stop 'SP99-1'"):
        fold([begin, StartStop(id=uuid.uuid4(), at=BEGAN, key="SP99-1")])
    stopped = compose(
        ComposeRequest(complaints=[ComplaintNow(id="poor_sleep")]), parse_screening({"red_flags": ["chest_pain"]})
    )
    with pytest.raises(NotAllowed, match="screening does not allow"):
        fold([Begin(id=uuid.uuid4(), at=BEGAN, score=stopped)])


def test_tenderness_is_told_by_point_side_and_day():
    first = at_gb21().does(Soreness, value=7).does(Soreness, value=5).does(End, reason="finished")
    second = at_gb21().does(Soreness, value=4).does(End, reason="finished")
    days = [(BEGAN.date(), first.state), ((BEGAN + timedelta(days=7)).date(), second.state)]
    told = tenderness((on, sore_places(state)) for on, state in days)
    assert [(row.id, row.side, row.first, row.last) for row in told] == [
        ("GB21", "right", 7, 5),
        ("GB21", "right", 4, 4),
    ]
