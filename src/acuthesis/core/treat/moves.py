"""Small state changes that the events of a treatment share: clock held, level lowered, place left or queued.

Each changes the treatment that it is given; only the fold calls them, on a copy of its own.
"""

from datetime import datetime
from typing import Literal

from acuthesis.core.errors import NotAllowed
from acuthesis.core.message import message
from acuthesis.core.treat.events import Event, Follows, care, seconds_between
from acuthesis.core.treat.state import Advice, StopRecord, TreatmentState


def current(treatment: TreatmentState, event: Event) -> StopRecord:
    """The record of the stop that hands are at. Raises: NotAllowed before the first."""
    if treatment.current is None:
        raise NotAllowed(message("moves-no-stop-started", kind=event.kind), where=str(event.id))
    return treatment.records[treatment.current]


def pressed_s(treatment: TreatmentState, at: datetime) -> float:
    """Seconds that the current stop has been pressed for, up to a moment."""
    if treatment.current is None:
        return 0.0
    running = seconds_between(treatment.running_since, at) if treatment.running_since is not None else 0.0
    return treatment.records[treatment.current].active_s + running


def hold(treatment: TreatmentState, at: datetime) -> None:
    """Stop the clock, and book what ran."""
    if treatment.current is not None and treatment.running_since is not None:
        treatment.records[treatment.current].active_s += seconds_between(treatment.running_since, at)
        treatment.running_since, treatment.status = None, "paused"


def advise(treatment: TreatmentState, text: str, follows: Follows = "none") -> None:
    """Say what to do now."""
    treatment.advice = Advice(follows=follows, text=text)


def lighten(treatment: TreatmentState, record: StopRecord, text: str) -> None:
    """One level less, and no way back up by itself: a round that goes on asks at the lower one."""
    if treatment.loop is not None and treatment.loop.key == record.key:
        tried = record.rounds[-1]
        tried.level = max(tried.level - 1, 1)
    record.level = max(record.level - 1, 1)
    advise(treatment, text, "lighten")


def leave(treatment: TreatmentState, record: StopRecord, text: str) -> None:
    """This place is left for today."""
    record.left = True
    close(treatment)
    unqueue(treatment, record.key)
    advise(treatment, text, "leave")


def queue(treatment: TreatmentState, key: str) -> None:
    """Come back to it."""
    if key not in treatment.second_looks and not treatment.records[key].left:
        treatment.second_looks.append(key)


def unqueue(treatment: TreatmentState, key: str) -> None:
    """No second look."""
    if key in treatment.second_looks:
        treatment.second_looks.remove(key)


def close(treatment: TreatmentState) -> None:
    """A round that goes on ends, answered or not: the level is what it was before it."""
    if treatment.loop is not None:
        record = treatment.records[treatment.loop.key]
        record.level = allowed(treatment, record, record.rounds[-1].level)
        treatment.loop = None


def allowed(treatment: TreatmentState, record: StopRecord, level: int) -> int:
    """The level, under the ceiling of the place and of who sleeps."""
    return min(level, record.ceiling, care().asleep_most) if treatment.asleep else min(level, record.ceiling)


def end(treatment: TreatmentState, at: datetime, reason: Literal["finished", "stopped"]) -> None:
    """The treatment is over."""
    close(treatment)
    hold(treatment, at)
    treatment.status, treatment.ended_at = reason, at
