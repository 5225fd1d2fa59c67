"""Something is wrong: every way through the questions ends in what to do for this person, with the clock stopped."""

import uuid
from datetime import timedelta
from typing import Any

import pytest

from acuthesis.core.errors import NotAllowed, UnknownId
from acuthesis.core.safety.first_aid import help_for, needs
from acuthesis.core.safety.screening import parse_screening
from acuthesis.core.treat.account import account, write_up
from acuthesis.core.treat.events import Reacted, SetLevel, Soreness, StartStop, Wrong, care, reactions
from acuthesis.core.treat.fold import fold
from acuthesis.core.treat.wrong import after, said, tree

from .test_treat import GB21, KEYS, SCORE, Sitting

PEOPLE: dict[str, dict[str, Any]] = {
    "nothing known": {},
    "week 30": {"pregnancy_weeks": 30},
    "might be pregnant": {"might_be_pregnant": True},
    "heart failure": {"heart_failure": True},
}


def helped(name):
    return help_for(parse_screening(PEOPLE[name]), "999, then the stage door", "The room over the yard, 3 Quay Lane")


def ways(name):
    """Every way through the questions for somebody: answers in order, and where they end."""

    def onward(step, before):
        for answer in ("yes", "no"):
            to = after(step, answer, helped(name))
            taken = [*before, (step, answer)]
            if to in tree().outcomes:
                yield taken, to
            else:
                yield from onward(to, taken)

    return list(onward(tree().first, []))


@pytest.mark.parametrize("name", PEOPLE)
def test_every_way_ends_and_every_outcome_can_be_reached(name):
    found = ways(name)
    reached = {to for _, to in found}
    expecting = "pregnan" in name or "week" in name
    assert set(tree().outcomes) - reached == (set() if expecting else {"labour"})
    asked = {step for way, _ in found for step, _ in way}
    assert set(tree().questions) - asked == (set() if expecting else {"pregnant"})
    # What kills within minutes is asked first.
    order = [step for step, _ in max((way for way, _ in found), key=len)]
    assert order[:3] == ["answers", "chest", "stroke"] and len(order) <= 12
    assert order.index("faint") < order.index("sugar"), "who is pale is laid down before anybody looks for sugar"


def test_who_is_pale_or_not_breathing_is_laid_before_anything_that_takes_time():
    for id, first in (("fainting", 1), ("no_breath", 1), ("unconscious", 1), ("chest_pain", 1)):
        assert tree().outcomes[id].do[first] == "{lay}", id
    assert said(tree().outcomes["fainting"], helped("week 30")).startswith(
        "About to faint. Take your hands off. Lay them on the left side, legs raised a little."
    )
    assert said(tree().outcomes["fit"], helped("nothing known")).endswith(
        "When it is over: Turn them onto their side, head tilted back, mouth facing down."
    )


WALKED = [(name, way, to) for name in ("week 30", "heart failure") for way, to in ways(name)]


@pytest.mark.parametrize(("name", "way", "to"), WALKED, ids=[f"{name}-{to}" for name, _, to in WALKED])
def test_each_branch_stops_the_clock_and_says_what_to_do_for_this_person(name, way, to):
    score = SCORE.model_copy(update={"help": helped(name)})
    sitting = Sitting(score).does(StartStop, key=GB21).does(Wrong, step="", answer="begun", after=7)
    for step, answer in way:
        sitting.does(Wrong, step=step, answer=answer)
    state, outcome = sitting.state, tree().outcomes[to]
    assert state.records[GB21].active_s == 7 and state.running_since is None
    assert state.advice.text == said(outcome, helped(name)) and outcome.title in state.advice.text
    assert (state.status == "stopped") == (outcome.then == "stop")
    assert state.records[GB21].left == (outcome.then == "leave")
    if outcome.lay:
        assert helped(name).lay[outcome.lay] in state.advice.text
    if name == "week 30" and outcome.lay in ("faint", "unconscious", "left", "sick", "stroke"):
        assert "left side" in state.advice.text
    assert state.wrong[0].answer == "begun" and state.wrong[-1].to == to
    assert all(later.at > earlier.at for earlier, later in zip(state.wrong, state.wrong[1:], strict=False))
    told = write_up([], account(state, score), state)
    assert outcome.title.lower() in told.done and "after" in told.done


def test_what_calls_for_help_says_what_to_say_on_the_phone():
    for outcome in tree().outcomes.values():
        assert not outcome.call or (outcome.phone and outcome.then == "stop")
        assert outcome.lay == "" or outcome.lay in needs()


def test_who_responds_is_not_laid_like_somebody_unconscious():
    """Read from the tree: whoever answers when spoken to, and can swallow, is never turned on the side, mouth down."""
    for name in PEOPLE:
        for way, to in ways(name):
            responds = way[0] == ("answers", "yes") and ("swallow", "no") not in way
            assert not (responds and tree().outcomes[to].lay == "unconscious"), way


def test_chest_presses_fit_a_child_and_a_late_pregnancy():
    laid = {
        name: help_for(parse_screening(who, age))
        for name, who, age in (
            ("child", {}, 7),
            ("late", {"pregnancy_weeks": 30}, 31),
            ("early", {"pregnancy_weeks": 10}, 31),
            ("man", {}, 50),
        )
    }
    assert "five breaths first" in laid["child"].lay["pressing"] and laid["child"].who == "A child"
    assert "womb to the left" in laid["late"].lay["pressing"]
    assert laid["early"].lay["pressing"] == laid["man"].lay["pressing"] == "Lay them on their back on the floor."
    assert laid["man"].who == "An adult"


def test_what_was_opened_by_mistake_is_closed_and_stays_in_the_record():
    sitting = Sitting().does(StartStop, key=GB21).does(Wrong, step="", answer="begun")
    closed = sitting.does(Wrong, step="answers", answer="closed").state
    assert [step.answer for step in closed.wrong] == ["begun", "closed"] and closed.status == "paused"
    told = write_up([], account(closed, SCORE), closed).done
    assert "wrong" not in told
    again = sitting.does(Wrong, step="", answer="begun").state
    assert "no cause was identified" in write_up([], account(again, SCORE), again).done


def test_a_question_that_nobody_asks_is_refused_and_a_second_look_into_it_can_be_taken():
    sitting = Sitting().does(StartStop, key=GB21).does(Wrong, step="weather", answer="yes")
    with pytest.raises(UnknownId, match="“weather” is not asked"):
        _ = sitting.state
    again = Sitting().does(StartStop, key=GB21).does(Wrong, answer="begun").does(Wrong, answer="begun")
    assert [step.answer for step in again.state.wrong] == ["begun", "begun"]
    assert "no cause was identified" in write_up([], account(again.state, SCORE), again.state).done


@pytest.mark.parametrize(
    ("who", "reaction", "says"),
    [
        ({}, "faint", "Lay them flat and raise their legs."),
        ({"pregnancy_weeks": 30}, "faint", "on the left side"),
        ({"pregnancy_weeks": 30}, "fit", "onto the left side"),
        ({"heart_failure": True}, "dizzy", "Sit them up"),
        ({"breathless_on_effort": True}, "faint", "Sit them up"),
        ({"pregnancy_weeks": 30}, "breathless", "Sit them up, leaning forward"),
        ({}, "chest_pain", "Half sitting"),
    ],
)
def test_the_position_advised_fits_the_person(who, reaction, says):
    score = SCORE.model_copy(update={"help": help_for(parse_screening(who))})
    state = Sitting(score).does(StartStop, key=GB21).does(Reacted, reaction=reaction).state
    assert says in state.advice.text and state.status == "stopped"


def test_who_sleeps_is_pressed_at_level_two_at_most_until_awake():
    sitting = Sitting().does(StartStop, key=GB21).does(Reacted, reaction="asleep")
    assert all(record.level <= care().asleep_most for record in sitting.state.records.values())
    too_much = Sitting().does(StartStop, key=GB21).does(Reacted, reaction="asleep").does(SetLevel, level=3)
    with pytest.raises(NotAllowed, match="level 2 at most until they are awake"):
        _ = too_much.state
    awake = sitting.does(Reacted, reaction="awake").does(SetLevel, level=3)
    assert awake.state.records[GB21].level == 3 and not awake.state.asleep


def test_all_reactions_are_two_keys_away_in_three_groups():
    table = reactions()
    assert {one.group for one in table.values()} == {"fine", "lighten", "stop"}
    for one in table.values():
        assert one.group == ("stop" if one.then == "stop_session" else "fine" if one.then == "none" else "lighten")


def test_a_treatment_from_before_all_this_is_read_as_it_was():
    old = SCORE.model_dump(mode="json", exclude={"help", "asks"})
    for stop in old["stops"]:
        del stop["consent"]
    sitting = Sitting(type(SCORE).model_validate(old)).does(StartStop, key=KEYS[1]).does(Soreness, value=6)
    state = fold([*sitting.events, Wrong(id=uuid.uuid4(), at=sitting.at + timedelta(seconds=3), answer="begun")])
    assert state.score.help is None and len(state.wrong) == 1
