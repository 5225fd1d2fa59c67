"""The treatment is a fold: it can be cut anywhere, sent twice, and always says the same."""

import random
import uuid
from datetime import UTC, datetime, timedelta
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.atlas.locating.finding import Offset, WayBeside
from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.score.score import Before, SoreWay
from acuthesis.core.errors import NotAllowed, UnknownId
from acuthesis.core.safety.first_aid import usual_help
from acuthesis.core.safety.screening import Screening, parse_screening
from acuthesis.core.treat.account import account
from acuthesis.core.treat.events import (
    EVENTS,
    AsPlanned,
    Begin,
    Breath,
    Came,
    Ceiling,
    ChangeRest,
    ChangeTechnique,
    End,
    Found,
    Later,
    NewLimits,
    Note,
    Pause,
    PutTime,
    Reacted,
    Resume,
    SetLevel,
    Soreness,
    StartStop,
    Undo,
    reactions,
)
from acuthesis.core.treat.fold import fold, fold_what_follows
from acuthesis.core.treat.moment import moment, sided
from acuthesis.core.treat.second import second_visit
from acuthesis.core.treat.state import TreatmentState
from acuthesis.core.treat.tenderness import sore_places, tenderness
from acuthesis.stand_ins.hands import play
from acuthesis.stand_ins.vectors import course, scores
from tests.tiers import dice, drawn, examples

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


@examples(40)
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


def test_a_sore_spot_gets_a_way_and_its_answer():
    sitting = at_gb21().does(Soreness, value=6)
    state, level = sitting.state, SCORE.stops[KEYS.index(GB21)].level
    assert state.advice.text == "Sore 6. One level lighter, hold for half a minute."
    assert (state.loop.way, state.loop.at_s, state.records[GB21].level) == ("ease", 5, level - 1)
    assert state.second_looks == [GB21]
    sitting.does(Soreness, value=4, after=35)
    state = sitting.state
    assert state.advice.text == "Easing: 6 to 4. Carry on as before."
    assert (state.loop, state.records[GB21].level) == (None, level), "asked at the pressure of before, and so it stays"
    assert (state.records[GB21].soreness[-1].level, state.records[GB21].rounds[0].after) == (level, 4)
    sitting.does(Soreness, value=6)
    assert sitting.state.advice.follows == "leave", "More sore at the same pressure"
    assert sitting.state.second_looks == []
    with pytest.raises(NotAllowed, match="left for today"):
        _ = sitting.does(StartStop, key=GB21).state


def sore_at(stop_change, value, score_change=None, side=None):
    """A sitting at GB21, changed, with one soreness said."""
    stops = [stop.model_copy(update=stop_change) if stop.key == GB21 else stop for stop in SCORE.stops]
    score = SCORE.model_copy(update={"stops": tuple(stops), **(score_change or {})})
    return Sitting(score).does(StartStop, key=GB21).does(Soreness, value=value, side=side)


HELPED = {"before": (Before(on=BEGAN.date(), side="right", first=7, last=3, way="rim"),)}


@pytest.mark.parametrize(
    ("stop", "score", "value", "way", "why"),
    [
        ({}, {}, 6, "ease", "usual"),
        ({}, {}, 7, "ease", "very"),
        ({}, {}, 5, "later", "mild"),
        ({"kind": "area"}, {}, 6, "rim", "area"),
        (HELPED, {}, 6, "rim", "helped"),
        ({}, {"sore": SoreWay(then="rim", school="Foot reflexes")}, 6, "rim", "school"),
        ({}, {"sore": SoreWay(then="leave", school="Foot reflexes")}, 6, "later", "school"),
    ],
)
def test_the_way_goes_by_how_sore_what_helped_the_size_and_the_school(stop, score, value, way, why):
    look = SCORE.stops[-1].model_copy(update={"kind": "second_look", "key": "look"})
    stops = tuple(one.model_copy(update=stop if one.key == GB21 else {}) for one in SCORE.stops)
    tried = sore_at(stop, value, {"stops": (*stops, look), **score}, side="right").state.records[GB21].rounds[-1]
    assert (tried.proposed, tried.taken, tried.why) == (way, way, why)


def test_trying_ends_after_two_rounds_and_once_firmer_where_a_school_does_so():
    sitting = sore_at({"ceiling": 5}, 6, {"sore": SoreWay(firm=True, school="Foot reflexes")})
    level = SCORE.stops[KEYS.index(GB21)].level
    ways, levels = ["ease"], []
    for _ in range(3):
        sitting.does(Soreness, value=6, after=40)
        state = sitting.state
        ways.append(state.loop.way if state.loop else None)
        levels.append(state.records[GB21].level)
    assert (ways, levels) == (["ease", "rim", "firm", None], [level, level + 1, level])
    assert state.advice.text.startswith("Two rounds are enough") and state.second_looks == [GB21]
    plain = sore_at({}, 6).does(Soreness, value=6, after=40).does(Soreness, value=6, after=40)
    assert plain.state.loop is None and [one.taken for one in plain.state.records[GB21].rounds] == ["ease", "rim"]
    held = sore_at({"ceiling": level}, 6, {"sore": SoreWay(firm=True)})
    held.does(Soreness, value=6, after=40).does(Soreness, value=6, after=40)
    assert held.state.loop is None, "nothing firmer than the ceiling"


def test_what_is_proposed_can_be_overruled_and_both_are_kept():
    sitting = at_gb21().does(Soreness, value=6).does(ChangeTechnique, technique="rim", after=3)
    tried, state = sitting.state.records[GB21].rounds, sitting.state
    assert [(one.proposed, one.taken) for one in tried] == [("ease", "rim")]
    assert (state.loop.way, state.loop.at_s) == ("rim", 8)
    state = sitting.does(Later).state
    assert state.loop is None and state.records[GB21].rounds[-1].taken == "later"
    own = at_gb21().does(ChangeTechnique, technique="ease").does(Soreness, value=3, after=40).state.records[GB21]
    assert [(one.proposed, one.taken, one.before, one.after) for one in own.rounds] == [(None, "ease", None, 3)]


def test_nothing_is_forced_bracing_in_a_round_asks_at_a_lower_level():
    level = SCORE.stops[KEYS.index(GB21)].level
    sitting = at_gb21().does(Soreness, value=6).does(Reacted, reaction="bracing")
    assert sitting.state.records[GB21].level == level - 2
    assert sitting.does(Soreness, value=4).state.records[GB21].level == level - 1


def test_the_other_side_is_told_beside_and_has_its_own_look():
    sitting = at_gb21().does(Soreness, value=6, side="right").does(Soreness, value=7, side="left")
    state = sitting.state
    assert (state.loop.side, len(state.records[GB21].rounds)) == ("right", 1)
    assert sitting.does(Soreness, value=3, side="right").state.records[GB21].rounds[0].after == 3


def test_a_reaction_that_keeps_coming_makes_the_rest_lighter_once_and_one_key_takes_it_back():
    sitting = Sitting()
    pressed = [stop.key for stop in SCORE.stops if stop.kind == "point" and stop.level > 1]
    for key in pressed[:3]:
        sitting.does(StartStop, key=key).does(Reacted, reaction="bracing")
    state = sitting.state
    planned = {stop.key: stop.level for stop in SCORE.stops}
    assert "Bracing at 3 stops: all remaining stops are one level lighter." in state.advice.text
    to_come = [key for key, one in state.records.items() if not one.started]
    assert to_come and all(state.records[key].level == max(planned[key] - 1, 1) for key in to_come)
    sitting.does(StartStop, key=pressed[3]).does(Reacted, reaction="bracing")
    assert "stops:" not in sitting.state.advice.text, "said once"
    state = sitting.does(AsPlanned).state
    assert all(one.level == planned[key] for key, one in state.records.items() if not one.started)


def test_second_looks_are_weighed_and_fitted():
    sitting = Sitting()
    pressed = [stop.key for stop in SCORE.stops if stop.kind == "point"][:3]
    for key, value in zip(pressed, (5, 7, 6), strict=True):
        sitting.does(StartStop, key=key).does(Soreness, value=value)
    looks = second_visit(sitting.state, 100)
    worth = {stop.key: 2 * len(stop.core_of) for stop in SCORE.stops}
    wanted = sorted(zip(pressed, (5, 7, 6), strict=True), key=lambda one: -(one[1] + worth[one[0]]))
    assert [one.key for one in looks] == [key for key, _ in wanted]
    assert [one.fits for one in looks] == [True, True, False]
    assert looks[0].way == "rim", "another way than before"
    assert all(one.fits for one in second_visit(sitting.state, 120))


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
    with pytest.raises(NotAllowed, match="after the session ended"):
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


DRAWN = [course(scores()[lot % 4], dice("course", lot)) for lot in range(drawn(120))]


@examples(60, deadline=None)
@given(st.sampled_from(DRAWN), st.integers(0, 30), st.integers(0, 30))
def test_nothing_is_lost_by_taking_back(events, at, other):
    """Whatever is said and taken back leaves what was."""
    before, _ = fold_what_follows(events[: at % len(events) + 1])
    said = events[other % len(events)].model_copy(update={"id": uuid.uuid4()})
    after, disputed = fold_what_follows([said], before)
    if disputed or isinstance(said, Begin | NewLimits | Undo):
        return
    back = fold([Undo(id=uuid.uuid4(), at=said.at, of=said.id)], after)
    same = {"advice", "event_count", "past"}
    assert back.model_dump(exclude=same) == before.model_dump(exclude=same)


@examples(60, deadline=None)
@given(st.sampled_from(DRAWN))
def test_over_drawn_sessions_times_add_up_and_ceilings_hold(events):
    state = TreatmentState()
    for event in events:
        state, _ = fold_what_follows([event], state)
        for record in state.records.values():
            assert 1 <= record.level <= record.ceiling <= 5 and record.active_s >= 0
            assert all(one.level <= record.ceiling for one in record.rounds[-1:] if state.loop)
            assert all(one.taken != "firm" or state.score.sore.firm for one in record.rounds)
        assert (state.running_since is not None) == (state.status == "running")
        assert state.loop is None or state.loop.key == state.current
        assert not any(state.records[key].left for key in state.second_looks)
    moments = [event.at for event in events]
    forward = sum(max((b - a).total_seconds(), 0) for a, b in pairwise(moments))
    put = sum(event.active_s for event in events if isinstance(event, PutTime))
    assert sum(one.active_s for one in state.records.values()) <= forward + put


def test_the_last_may_be_taken_back_even_the_end_but_nothing_before_new_limits():
    sitting = at_gb21().does(Soreness, value=9).does(End, reason="stopped")
    state = sitting.does(Undo, of=sitting.events[-1].id).state
    assert (state.status, state.current) == ("running", GB21)
    assert state.advice.text == "Undone: the end of the session (stopped)."
    with pytest.raises(NotAllowed, match="only the last entry"):
        _ = sitting.does(Undo, of=sitting.events[1].id).state
    limited = at_gb21().does(NewLimits, ceilings={GB21: Ceiling(ceiling=1, reasons=("New.",))})
    with pytest.raises(NotAllowed, match="only the last entry"):
        _ = limited.does(Undo, of=limited.events[1].id).state


def test_new_limits_lower_a_ceiling_and_never_raise_it_above_the_plan():
    planned = at_gb21().state.records[GB21].ceiling
    assert 1 < planned < 5
    for told, holds in ((planned + 1, planned), (5, planned), (planned - 1, planned - 1)):
        state = at_gb21().does(NewLimits, ceilings={GB21: Ceiling(ceiling=told, reasons=("New.",))}).state
        assert state.records[GB21].ceiling == holds, told
    with pytest.raises(NotAllowed, match=f"above {planned}"):
        _ = (
            at_gb21()
            .does(NewLimits, ceilings={GB21: Ceiling(ceiling=5, reasons=("New.",))})
            .does(SetLevel, level=5)
            .state
        )


def test_new_limits_lower_the_round_that_is_under_way_and_no_other():
    """A sore spot is worked at its level; a limit of that stop lowers it, one of another stop does not."""
    other = next(stop.key for stop in SCORE.stops if stop.key != GB21 and stop.ceiling > 1)
    worked = at_gb21().does(Soreness, value=6)
    level = worked.state.records[GB21].rounds[-1].level
    assert level > 1
    elsewhere = worked.state, Ceiling(ceiling=1, reasons=("New.",))
    untouched = fold([NewLimits(id=uuid.uuid4(), at=worked.at, ceilings={other: elsewhere[1]})], elsewhere[0])
    assert untouched.records[GB21].rounds[-1].level == level
    lowered = fold([NewLimits(id=uuid.uuid4(), at=worked.at, ceilings={GB21: elsewhere[1]})], elsewhere[0])
    assert lowered.records[GB21].rounds[-1].level == 1


def test_of_several_reasons_that_lower_a_level_the_first_is_said():
    ceilings = {GB21: Ceiling(ceiling=1, reasons=("Thin skin.", "Level 2 is the most here."))}
    said = at_gb21().does(NewLimits, ceilings=ceilings).state.advice.text
    assert "Thin skin." in said and "Level 2" not in said


def test_what_became_of_a_stop_is_told_and_what_went_as_planned_needs_no_word():
    planned = SCORE.stops[KEYS.index(GB21)].duration_s
    for seconds, outcome, why in (
        (planned, "done", ""),
        (planned * 0.3, "shortened", "shorter than planned"),
        (planned * 2, "extended", "longer than planned"),
    ):
        sitting = at_gb21().does(StartStop, key=KEYS[KEYS.index(GB21) + 1], after=seconds)
        (row,) = [one for one in account(sitting.state, None) if one.key == GB21]
        assert (row.outcome, row.why) == (outcome, why)


def test_notes_times_breath_and_signs_are_kept_with_their_stop():
    sitting = at_gb21().does(Note, text="warmer than last week").does(Breath, seconds=6.5).does(Came, sign="pulse")
    sitting.does(End, reason="finished").does(Note, text="asks for evenings").does(PutTime, key=GB21, active_s=75)
    state = sitting.state
    assert [(one.key, one.text) for one in state.notes] == [
        (GB21, "warmer than last week"),
        (GB21, "asks for evenings"),
    ]
    assert (state.breath_s, state.records[GB21].signs, state.records[GB21].active_s) == (6.5, ["pulse"], 75)
    assert state.status == "finished"
    with pytest.raises(NotAllowed, match="after the session ended"):
        _ = sitting.does(Soreness, value=3).state


def test_what_is_told_late_is_booked_where_it_was_said_and_moves_nothing_of_the_moment():
    """A device that was away speaks of a stop that the hands have left."""
    sitting = at_gb21().does(StartStop, key=KEYS[2])
    before = sitting.state
    sitting.does(Soreness, key=GB21, value=8).does(SetLevel, key=GB21, level=1).does(Later, key=GB21)
    sitting.does(Note, key=GB21, text="hard as wood").does(Came, key=GB21, sign="pulse").does(
        Reacted, key=GB21, reaction="bracing"
    )
    state = sitting.state
    late, here = state.records[GB21], state.records[KEYS[2]]
    assert ([one.value for one in late.soreness], late.level, late.reactions) == ([8], 1, ["bracing"])
    assert (state.notes[0].key, late.signs, state.second_looks) == (GB21, ["pulse"], [GB21])
    assert here == before.records[KEYS[2]]
    moment = ("current", "running_since", "status", "advice", "loop")
    assert all(getattr(state, name) == getattr(before, name) for name in moment)
    for wrong, key in (("no stop", "SP99-1"), ("before it was started", KEYS[3])):
        with pytest.raises((NotAllowed, UnknownId), match=wrong):
            fold([*sitting.events, Soreness(id=uuid.uuid4(), at=sitting.at, key=key, value=3)])
    ended = sitting.does(Reacted, key=GB21, reaction="chest_pain", after=20).state
    assert (ended.status, ended.current, ended.advice.follows) == ("stopped", KEYS[2], "stop_session")
    assert ended.records[KEYS[2]].active_s == (ended.ended_at - before.running_since).total_seconds()


def test_who_lies_there_asks_for_less_and_it_is_said():
    sitting = at_gb21().does(SetLevel, level=2).does(SetLevel, level=1, by="person")
    assert sitting.state.advice.text == "They want less: level 1."
    assert "this is the lightest" in sitting.does(SetLevel, level=1, by="person").state.advice.text


def test_a_second_clock_knows_the_side_and_the_breath_of_the_moment():
    """Two sides in turn: the first half is of the side that is begun with; both at once, and the middle, have none of
    their own to be told apart."""
    turns = next(one for one in SCORE.stops if one.side == "both" and not one.dose.together and one.pressed)
    for first, sides in (("right", ("right", "left")), ("left", ("left", "right"))):
        stops = tuple(one.model_copy(update={"first": first}) if one is turns else one for one in SCORE.stops)
        sitting = Sitting(SCORE.model_copy(update={"stops": stops})).does(StartStop, key=turns.key)
        begun, half = sitting.at, timedelta(seconds=turns.duration_s / 2)
        assert (sided(sitting.state, begun), sided(sitting.state, begun + half)) == sides
    middle = next(one for one in SCORE.stops if one.side == "midline")
    assert sided(Sitting().does(StartStop, key=middle.key).state, BEGAN) is None
    assert sided(Sitting().state, BEGAN) is None

    def shown(sitting, after=0.0):
        return moment(sitting.state, sitting.at + timedelta(seconds=after))

    assert shown(Sitting()).status == "waiting"
    sitting = at_gb21().does(Breath, seconds=7.5)
    assert (shown(sitting, 3).status, shown(sitting, 3).at_s, shown(sitting).breath_s) == ("pressing", 8.0, 7.5)
    held = sitting.does(Pause)
    assert (shown(held, 60).status, shown(held, 60).at_s) == ("held", 10.0)
    assert shown(held.does(End, reason="stopped")).status == "over"


def test_what_a_hand_found_is_kept_by_side_and_told():
    ways = (WayBeside(name="distal", words="toward the elbow"), WayBeside(name="medial", words="inward"))
    known = SCORE.model_copy(update={"stops": tuple(one.model_copy(update={"beside": ways}) for one in SCORE.stops)})
    sitting = Sitting(known).does(StartStop, key=GB21).does(Found, side="right", texture="cord")
    placed = Sitting(known).does(StartStop, key=GB21).does(Found, side="right", offset=Offset(mm={"distal": 5}))
    (alone,) = [one for one in account(placed.state, None) if one.key == GB21]
    assert alone.found == ["right: 5 mm toward the elbow"], "where it is, without how it feels"
    sitting.does(Found, side="right", texture="knot", offset=Offset(mm={"distal": 4, "medial": 2}))
    (row,) = [one for one in account(sitting.state, None) if one.key == GB21]
    assert row.found == ["right: a knot, 4 mm toward the elbow and 2 mm inward"], "the newest of a side"
    with pytest.raises(NotAllowed, match="no such direction"):
        _ = sitting.does(Found, side="right", offset=Offset(mm={"plantar": 2})).state


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
    with pytest.raises(NotAllowed, match="before the session started"):
        fold([start])
    with pytest.raises(NotAllowed, match="has already started"):
        fold([begin, Begin(id=uuid.uuid4(), at=BEGAN, score=SCORE)])
    with pytest.raises(NotAllowed, match="before a stop was started"):
        fold([begin, Soreness(id=uuid.uuid4(), at=BEGAN, value=3)])
    with pytest.raises(UnknownId, match="no stop “SP99-1”"):
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


def test_two_rounds_at_a_place_are_one_course_of_soreness():
    sitting = at_gb21().does(Soreness, value=7).does(Soreness, value=5)
    stops = [stop.model_copy(update={"key": "GB21-2"}) if stop.key == KEYS[-1] else stop for stop in SCORE.stops]
    at = next(stop for stop in SCORE.stops if stop.key == GB21)
    again = at.model_copy(update={"key": "GB21-2", "round": "again"})
    both = Sitting(SCORE.model_copy(update={"stops": (*stops[: len(stops) - 1], again)}))
    both.does(StartStop, key=GB21).does(Soreness, value=7).does(Soreness, value=5)
    both.does(StartStop, key="GB21-2", after=60).does(Soreness, value=4).does(Soreness, value=2)
    assert [(one.first, one.last) for one in sore_places(sitting.state)] == [(7, 5)]
    assert [(one.id, one.first, one.last) for one in sore_places(both.state)] == [("GB21", 7, 2)]


def test_the_account_of_a_stop_tells_what_was_felt_and_how_long():
    sitting = at_gb21().does(Soreness, value=3, after=10).does(StartStop, key=KEYS[2], after=20)
    told = {one.key: one for one in account(sitting.state, SCORE)}
    there, later = told[GB21], told[KEYS[-1]]
    assert there.done_s == pytest.approx(30) and there.outcome != "not_reached"
    assert (later.done_s, later.outcome) == (0, "not_reached")


def test_a_level_above_the_ceiling_names_the_event_and_who_sleeps_lowers_it():
    sitting = at_gb21()
    record = sitting.state.records[GB21]
    sitting.does(SetLevel, level=min(record.ceiling + 1, 5))
    with pytest.raises(NotAllowed) as refused:
        _ = sitting.state
    assert refused.value.where == str(sitting.events[-1].id)


def test_the_most_that_is_borne_is_not_yet_too_sore():
    """Above it twice is what leaves a point; at it, once above, the treatment goes on."""
    limit = 7
    at_it = at_gb21().does(Soreness, value=limit + 1).does(Soreness, value=limit, after=40).state
    assert not at_it.records[GB21].left
    above = at_gb21().does(Soreness, value=limit + 1).does(Soreness, value=limit + 1, after=40).state
    assert above.records[GB21].left


def test_new_limits_that_allow_no_session_stop_it_and_say_why():
    state = at_gb21().does(NewLimits, ceilings={}, no_session="Chest pain or pressure.").state
    assert state.status == "stopped" and state.running_since is None
    assert state.advice.follows == "stop_session" and state.advice.text.endswith("Chest pain or pressure.")


def test_what_comes_new_for_somebody_asleep_is_as_light_as_the_rest():
    sitting = at_gb21().does(Reacted, reaction="asleep")
    later = [stop for stop in SCORE.stops if stop.key not in KEYS[: KEYS.index(GB21) + 1]]
    stops = tuple(stop.model_copy(update={"key": f"new-{stop.key}"}) for stop in later)
    anew = sitting.does(ChangeRest, stops=stops, why="shorter").state
    assert all(anew.records[stop.key].level <= 2 for stop in stops if not stop.muted)
    assert any(stop.level > 2 for stop in stops), "some were to be firmer"
    awake = at_gb21().does(ChangeRest, stops=stops, why="shorter").state
    assert [awake.records[stop.key].level for stop in stops if not stop.muted] == [
        stop.level for stop in stops if not stop.muted
    ]
