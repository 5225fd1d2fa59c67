"""Small state changes that the events of a treatment share: clock held, level lowered, place left or queued.

Each changes the session that it is given; only the fold calls them, on a copy of its own.
"""

from datetime import datetime
from typing import Literal

from acuthesis.core.errors import NotAllowed
from acuthesis.core.treat.events import Event, Follows, care, seconds_between
from acuthesis.core.treat.state import Advice, Session, StopRecord


def current(session: Session, event: Event) -> StopRecord:
    """The record of the stop that hands are at. Raises: NotAllowed before the first."""
    if session.current is None:
        raise NotAllowed(f"'{event.kind}' before a stop was started", where=str(event.id))
    return session.records[session.current]


def pressed_s(session: Session, at: datetime) -> float:
    """Seconds that the current stop has been pressed for, up to a moment."""
    if session.current is None:
        return 0.0
    running = seconds_between(session.running_since, at) if session.running_since is not None else 0.0
    return session.records[session.current].active_s + running


def hold(session: Session, at: datetime) -> None:
    """Stop the clock, and book what ran."""
    if session.current is not None and session.running_since is not None:
        session.records[session.current].active_s += seconds_between(session.running_since, at)
        session.running_since, session.status = None, "paused"


def advise(session: Session, text: str, follows: Follows = "none") -> None:
    """Say what to do now."""
    session.advice = Advice(follows=follows, text=text)


def lighten(session: Session, record: StopRecord, text: str) -> None:
    """One level less, and no way back up by itself: a round that goes on asks at the lower one."""
    if session.loop is not None and session.loop.key == record.key:
        tried = record.rounds[-1]
        tried.level = max(tried.level - 1, 1)
    record.level = max(record.level - 1, 1)
    advise(session, text, "lighten")


def leave(session: Session, record: StopRecord, text: str) -> None:
    """This place is left for today."""
    record.left = True
    close(session)
    unqueue(session, record.key)
    advise(session, text, "leave")


def queue(session: Session, key: str) -> None:
    """Come back to it."""
    if key not in session.second_looks and not session.records[key].left:
        session.second_looks.append(key)


def unqueue(session: Session, key: str) -> None:
    """No second look."""
    if key in session.second_looks:
        session.second_looks.remove(key)


def close(session: Session) -> None:
    """A round that goes on ends, answered or not: the level is what it was before it."""
    if session.loop is not None:
        record = session.records[session.loop.key]
        record.level = allowed(session, record, record.rounds[-1].level)
        session.loop = None


def allowed(session: Session, record: StopRecord, level: int) -> int:
    """The level, under the ceiling of the place and of who sleeps."""
    return min(level, record.ceiling, care().asleep_most) if session.asleep else min(level, record.ceiling)


def end(session: Session, at: datetime, reason: Literal["finished", "stopped"]) -> None:
    """The treatment is over."""
    close(session)
    hold(session, at)
    session.status, session.ended_at = reason, at
