"""The treatment as a fold over its events: where it stands, what was felt, what to do now, what to come back to."""

from collections.abc import Iterable
from datetime import datetime
from typing import Literal

from pydantic import BaseModel

from acuthesis.core.compose.score import Score, Stop
from acuthesis.core.errors import NotAllowed, UnknownId
from acuthesis.core.treat.events import (
    Begin,
    ChangeTechnique,
    End,
    Event,
    Follows,
    Later,
    Pause,
    Reacted,
    ReactionKind,
    Resume,
    SetLevel,
    Soreness,
    StartStop,
    reactions,
    seconds_between,
)

# Source: manual-therapy caution. A point is left for today when it is rated above this twice ...
TOO_SORE = 7
# ... or when its rating rises by so much at the same pressure.
WORSE_BY = 2
SORE_ENOUGH = 5  # from here on a spot is worth working on and a second look

Status = Literal["not_begun", "ready", "running", "paused", "stopped", "finished"]


class Felt(BaseModel):
    """One soreness said at a stop, with the level it was said at."""

    value: int
    level: int
    at: datetime
    side: Literal["left", "right"] | None = None


class StopRecord(BaseModel):
    """What happened at one stop."""

    key: str
    started: int = 0
    active_s: float = 0
    level: int
    soreness: list[Felt] = []
    reactions: list[ReactionKind] = []
    techniques: list[str] = []
    left: bool = False


class Advice(BaseModel):
    """What to do now, and why."""

    follows: Follows
    text: str


class Session(BaseModel):
    """State of a treatment after some events."""

    status: Status = "not_begun"
    score: Score | None = None
    records: dict[str, StopRecord] = {}
    current: str | None = None
    running_since: datetime | None = None
    advice: Advice | None = None
    second_looks: list[str] = []
    began_at: datetime | None = None
    ended_at: datetime | None = None
    event_count: int = 0

    @property
    def stops(self) -> dict[str, Stop]:
        """Stops of the score that sound, by key."""
        return {stop.key: stop for stop in self.score.stops if not stop.muted} if self.score else {}


def fold(events: Iterable[Event], start: Session | None = None) -> Session:
    """State after events, in the order given; an event whose id was seen is passed over.

    Raises: NotAllowed for an event that cannot follow (nothing follows the end, only `begin` opens);
    UnknownId for a stop that is not in the score.
    """
    session = (start or Session()).model_copy(deep=True)
    seen = set()
    for event in events:
        if event.id in seen:
            continue
        seen.add(event.id)
        _apply(session, event)
        session.event_count += 1
    return session


def _apply(session: Session, event: Event) -> None:
    if isinstance(event, Begin):
        _begin(session, event)
        return
    if session.status == "not_begun":
        raise NotAllowed(f"'{event.kind}' before the treatment began", where=str(event.id))
    if session.status in ("stopped", "finished"):
        raise NotAllowed(f"'{event.kind}' after the treatment ended", where=str(event.id))
    match event:
        case StartStop():
            _start(session, event)
        case Pause():
            _hold(session, event.at)
        case Resume():
            if session.current is not None and session.running_since is None:
                session.running_since, session.status = event.at, "running"
        case SetLevel():
            _set_level(session, event)
        case Soreness():
            _felt(session, event)
        case Reacted():
            _reacted(session, event)
        case ChangeTechnique():
            _technique(session, event)
        case Later():
            _queue(session, _current(session, event).key)
        case End():
            _end(session, event.at, event.reason)


def _begin(session: Session, event: Begin) -> None:
    if session.status != "not_begun":
        raise NotAllowed("the treatment has begun already", where=str(event.id))
    if event.score.decision != "ok":
        raise NotAllowed("the screening does not allow a session", where=str(event.id))
    session.score, session.status, session.began_at = event.score, "ready", event.at
    session.records = {key: StopRecord(key=key, level=stop.level) for key, stop in session.stops.items()}


def _hold(session: Session, at: datetime) -> None:
    """Stop the clock, and book what ran."""
    if session.current is not None and session.running_since is not None:
        session.records[session.current].active_s += seconds_between(session.running_since, at)
        session.running_since, session.status = None, "paused"


def _start(session: Session, event: StartStop) -> None:
    if event.key not in session.records:
        raise UnknownId(f"the score has no stop '{event.key}'", where=str(event.id))
    if session.records[event.key].left:
        raise NotAllowed(f"'{event.key}' was left for today", where=str(event.id))
    _hold(session, event.at)
    session.current, session.running_since, session.status = event.key, event.at, "running"
    session.records[event.key].started += 1
    session.advice = None
    if event.key in session.second_looks:
        session.second_looks.remove(event.key)


def _current(session: Session, event: Event) -> StopRecord:
    if session.current is None:
        raise NotAllowed(f"'{event.kind}' before a stop was started", where=str(event.id))
    return session.records[session.current]


def _set_level(session: Session, event: SetLevel) -> None:
    record = _current(session, event)
    stop = session.stops[record.key]
    if event.level > stop.ceiling:
        raise NotAllowed(f"level {event.level} is above {stop.ceiling}. {stop.ceiling_reasons[0]}", where=str(event.id))
    record.level = event.level


def _felt(session: Session, event: Soreness) -> None:
    record = _current(session, event)
    before = [felt for felt in record.soreness if felt.side == event.side]
    record.soreness.append(Felt(value=event.value, level=record.level, at=event.at, side=event.side))
    same = [felt for felt in before if felt.level == record.level]
    if event.value > TOO_SORE and any(felt.value > TOO_SORE for felt in before):
        _leave(session, record, "Very sore twice: leave this point for today.")
    elif same and event.value - same[-1].value >= WORSE_BY:
        _leave(session, record, "It grows at the same pressure: leave this point for today.")
    elif event.value > TOO_SORE:
        _lighten(session, record, "Very sore: lighten one level and let it settle, then ask again.")
    elif event.value >= SORE_ENOUGH and not before:
        session.advice = Advice(
            follows="none",
            text="Sore: lighten and hold (E), circle the rim (R), or come back later (L); then ask again.",
        )
        _queue(session, record.key)
    elif before and event.value < before[-1].value:
        session.advice = Advice(follows="none", text=f"It eases: {before[-1].value} to {event.value}.")


def _reacted(session: Session, event: Reacted) -> None:
    known = reactions()[event.reaction]
    record = session.records[session.current] if session.current else None
    again = record is not None and event.reaction in record.reactions
    if record is not None:
        record.reactions.append(event.reaction)
    follows = known.second if again and known.second else known.then
    text = known.second_say if again and known.second else known.say
    if follows == "stop_session":
        session.advice = Advice(follows=follows, text=text)
        _end(session, event.at, "stopped")
    elif record is not None and follows == "leave":
        _leave(session, record, text)
    elif record is not None and follows == "lighten":
        _lighten(session, record, text)
    else:
        session.advice = Advice(follows="none", text=text)


def _technique(session: Session, event: ChangeTechnique) -> None:
    record = _current(session, event)
    record.techniques.append(event.technique)
    if event.technique == "ease":
        _lighten(session, record, "One level lighter, held for half a minute. Then ask again.")
    else:
        session.advice = Advice(follows="none", text="Circle the rim of the sore spot and work inward. Then ask again.")


def _lighten(session: Session, record: StopRecord, text: str) -> None:
    record.level = max(record.level - 1, 1)
    session.advice = Advice(follows="lighten", text=text)


def _leave(session: Session, record: StopRecord, text: str) -> None:
    record.left = True
    if record.key in session.second_looks:
        session.second_looks.remove(record.key)
    session.advice = Advice(follows="leave", text=text)


def _queue(session: Session, key: str) -> None:
    if key not in session.second_looks and not session.records[key].left:
        session.second_looks.append(key)


def _end(session: Session, at: datetime, reason: Literal["finished", "stopped"]) -> None:
    _hold(session, at)
    session.status = reason
    session.ended_at = at
