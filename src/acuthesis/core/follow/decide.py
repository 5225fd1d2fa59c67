"""What to do next: one proposal for a complaint from a table (data/decisions.yaml), with its reasons and numbers.

It proposes; the practitioner decides, and what they decide is kept beside it.
"""

from collections.abc import Sequence
from functools import cache
from pathlib import Path
from typing import Literal

from pydantic import BaseModel, ConfigDict

from acuthesis.core.data_file import read
from acuthesis.core.follow.carry_over import CarryOver, in_days
from acuthesis.core.follow.cautions import Caution
from acuthesis.core.follow.episodes import Episodes
from acuthesis.core.follow.needed import Needed
from acuthesis.core.follow.outcome import Outcome, half_points, signed, still_at_work, thresholds
from acuthesis.core.follow.soreness import PlaceCourse
from acuthesis.core.message import NOTHING, Message, content, in_turn, message

ProposedStep = Literal["go_on", "change_plan", "space_out", "finish", "refer", "look_again"]
STEP_WORDS: dict[ProposedStep, Message] = {
    "go_on": message("step-continue"),
    "change_plan": message("step-change-plan"),
    "space_out": message("step-space-out"),
    "finish": message("step-finish"),
    "refer": message("step-refer"),
    "look_again": message("step-ask-again"),
}
NEAR_NONE = 2.0  # a level at which most people are content
STEADY = 2.0  # the interval of the level now is not wider than this on either side
LONG_VISITS, LONG_DAYS = 6, 35  # a trial after which a second plan has had its chance too
EASES = 0.5  # points: a session eases by as much at least
MOST_PLACES = 3


class Facts(BaseModel):
    """What a decision about one complaint rests on."""

    outcome: Outcome
    carry_over: CarryOver
    episodes: Episodes | None = None
    needed: Needed | None = None
    cautions: list[Caution] = []
    places: list[PlaceCourse] = []
    red_flags: list[str] = []
    new_pattern: str = ""
    every_days: float | None = None
    plan_changed: bool = False
    ground: str = ""
    hours_of_day: list[int] = []


class Proposal(BaseModel):
    """The step that is proposed, why (the numbers in a sentence), what else speaks for or against it, and for a changed
    plan
    what could be changed."""

    step: ProposedStep
    label: Message
    why: Message
    bear_in_mind: list[Message]
    changes: list[Message]


class TableRow(BaseModel):
    """A row of the table: the step, the conditions that must all hold, and what is said."""

    model_config = ConfigDict(extra="forbid")

    step: ProposedStep
    when: list[str]
    say: str


@cache
def table() -> tuple[TableRow, ...]:
    """The decision table, in its order.

    >>> len(table()) > 5
    True
    """
    return tuple(TableRow.model_validate(row) for row in read(Path(__file__).parent / "data" / "decisions.yaml"))


def decide(facts: Facts) -> Proposal:
    """The first row of the table that holds."""
    holding = conditions(facts)
    row = next(row for row in table() if all(holding[name] for name in row.when))
    return Proposal(
        step=row.step,
        label=STEP_WORDS[row.step],
        why=content("decision", str(table().index(row)), "say", row.say, **_numbers(facts, row.say)),
        bear_in_mind=[caution.words for caution in facts.cautions],
        changes=_changes(facts) if row.step == "change_plan" else [],
    )


def conditions(facts: Facts) -> dict[str, bool]:
    """Every condition that the table may name, and whether it holds."""
    found, carry, told = facts.outcome, facts.carry_over, facts.episodes
    trial_over = found.visits >= thresholds().fair_visits and found.days >= thresholds().fair_days
    apart, every = carry.apart_days, facts.every_days
    level = found.level_now
    return {
        "red_flag": bool(facts.red_flags),
        "new_pattern": bool(facts.new_pattern),
        "worse": found.trend == "worse",
        "rising": found.rising,
        "better": found.trend == "better",
        "no_change": found.trend == "no_change",
        "cannot_tell": found.trend == "cannot_tell",
        "too_early": found.trend == "too_early",
        "trial_over": trial_over,
        "long_trial": found.visits >= LONG_VISITS and found.days >= LONG_DAYS,
        "plan_was_changed": facts.plan_changed,
        "near_none": found.now is not None and found.now <= NEAR_NONE,
        "began_near_none": found.start is not None and found.start <= NEAR_NONE,
        "steady": level is not None and level.high - level.low <= 2 * STEADY,
        "lasts_longer": apart is not None and every is not None and apart.low >= every,
        "fewer_episodes": told is not None and told.ratio is not None and told.ratio.high < 1,
        "eases_in_sessions": carry.eases is not None and carry.eases.low >= EASES,
        "nothing_stays": not still_at_work(found),
        "enough_missing": facts.needed is not None and not facts.needed.enough,
    }


def _numbers(facts: Facts, say: str) -> dict[str, Message | str]:
    """What stands in the braces of `say`."""
    found, carry = facts.outcome, facts.carry_over
    points, apart = found.points, carry.apart_days
    no_ratings = message("no-ratings")
    change = {name: signed(getattr(points, name)) for name in ("middle", "low", "high")} if points else {}
    known: dict[str, Message | str] = {
        "flags": in_turn(facts.red_flags),
        "new_pattern": facts.new_pattern,
        "visits": message("sessions-counted", count=found.visits),
        "days": message("days-counted", count=found.days),
        "points": message("change-points", **change) if change else no_ratings,
        "now": message("about-level", level=half_points(found.now)) if found.now is not None else NOTHING,
        "eases": message("points-of-relief", points=round(carry.eases.middle, 1)) if carry.eases else NOTHING,
        "apart": message("lasts-at-least", time=in_days(apart.middle), least=in_days(apart.low)) if apart else NOTHING,
        "every": in_days(facts.every_days) if facts.every_days else NOTHING,
        "episodes": facts.episodes.sentence if facts.episodes else NOTHING,
        "plan": facts.needed.plan if facts.needed else NOTHING,
    }
    return {name: value for name, value in known.items() if "{" + name + "}" in say}


def _changes(facts: Facts) -> list[Message]:
    """What could be changed: places that never eased, the ground, the time of day, how far apart, home practice."""
    never = [place for place in facts.places if place.going in ("stays", "grows")]
    said = []
    if never:
        named = [
            message("point-on-side", name=one.name, side=message(f"side-{one.side}")) for one in never[:MOST_PLACES]
        ]
        said.append(message("change-never-eased", points=in_turn(list(dict.fromkeys(named)))))
    if facts.ground:
        said.append(message("change-approach", approach=facts.ground))
    if len(facts.hours_of_day) >= thresholds().fair_visits and _one_time_of_day(facts.hours_of_day):
        said.append(message("change-time-of-day", part=_part_of_day(facts.hours_of_day[0])))
    apart, every = facts.carry_over.apart_days, facts.every_days
    if apart is not None and every is not None and apart.middle < every / 2:
        said.append(message("change-closer", time=in_days(apart.middle), every=in_days(every)))
    return said


def _part_of_day(hour: int) -> str:
    return "morning" if hour < 12 else "afternoon" if hour < 17 else "evening"


def _one_time_of_day(hours: Sequence[int]) -> bool:
    return len({_part_of_day(hour) for hour in hours}) == 1
