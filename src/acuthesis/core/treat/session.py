"""The treatment as a fold over its events: where it stands, what was felt, what to do now, what to come back to."""

from collections.abc import Iterable, Iterator
from datetime import datetime
from typing import Literal
from uuid import UUID

from pydantic import BaseModel

from acuthesis.core.compose.score import Score, Stop
from acuthesis.core.errors import CoreError, NotAllowed, UnknownId
from acuthesis.core.safety.first_aid import Help, usual_help
from acuthesis.core.treat.events import (
    Begin,
    ChangeTechnique,
    End,
    Event,
    Follows,
    Later,
    NewLimits,
    Pause,
    Reacted,
    ReactionKind,
    Resume,
    SetLevel,
    Soreness,
    StartStop,
    Wrong,
    care,
    reactions,
    seconds_between,
)
from acuthesis.core.treat.wrong import after, said, tree

Status = Literal["not_begun", "ready", "running", "paused", "stopped", "finished"]


class Felt(BaseModel):
    """One soreness said at a stop, with the level it was said at."""

    value: int
    level: int
    at: datetime
    side: Literal["left", "right"] | None = None


class StopRecord(BaseModel):
    """What happened at one stop: times, seconds of pressing, level, soreness in its order, reactions, techniques."""

    key: str
    started: int = 0
    active_s: float = 0
    level: int
    ceiling: int
    ceiling_reasons: tuple[str, ...] = ()
    soreness: list[Felt] = []
    reactions: list[ReactionKind] = []
    techniques: list[str] = []
    said: list[str] = []  # in the person's own words
    left: bool = False


class WrongStep(BaseModel):
    """One step of finding out what is wrong: the question and its answer, and where that led (empty at the start)."""

    at: datetime
    step: str
    answer: Literal["begun", "yes", "no"]
    to: str


class Advice(BaseModel):
    """What to do now: the words, and what follows of itself from them (`follows`)."""

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
    asleep: bool = False
    wrong: list[WrongStep] = []
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
    session = _copy(start or Session())
    for event in _once(events):
        _apply(session, event)
    return session


def fold_what_follows(events: Iterable[Event], start: Session | None = None) -> tuple[Session, dict[UUID, str]]:
    """State after those of the events that can follow, and for each of the others, by its id, why it cannot.

    What cannot follow does not move the state: it happened at the table all the same, so whoever keeps events keeps it
    too, as disputed.
    """
    session = _copy(start or Session())
    disputed: dict[UUID, str] = {}
    for event in _once(events):
        try:
            _apply(session, event)
        except CoreError as error:
            disputed[event.id] = error.message
    return session, disputed


def _copy(session: Session) -> Session:
    """A session of its own; the score, which nothing changes, is shared."""
    records = {key: record.model_copy(deep=True) for key, record in session.records.items()}
    own = {"records": records, "second_looks": list(session.second_looks), "wrong": list(session.wrong)}
    return session.model_copy(update=own)


def _once(events: Iterable[Event]) -> Iterator[Event]:
    seen = set()
    for event in events:
        if event.id not in seen:
            seen.add(event.id)
            yield event


def _apply(session: Session, event: Event) -> None:
    """Move the state by one event. Raises before anything is changed."""
    if isinstance(event, Begin):
        _begin(session, event)
        session.event_count += 1
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
        case Wrong():
            _wrong(session, event)
        case ChangeTechnique():
            _technique(session, event)
        case Later():
            _queue(session, _current(session, event).key)
        case NewLimits():
            _limit(session, event)
        case End():
            _end(session, event.at, event.reason)
    session.event_count += 1


def _begin(session: Session, event: Begin) -> None:
    if session.status != "not_begun":
        raise NotAllowed("the treatment has begun already", where=str(event.id))
    if event.score.decision != "ok":
        raise NotAllowed("the screening does not allow a treatment", where=str(event.id))
    session.score, session.status, session.began_at = event.score, "ready", event.at
    session.records = {
        key: StopRecord(key=key, level=stop.level, ceiling=stop.ceiling, ceiling_reasons=stop.ceiling_reasons)
        for key, stop in session.stops.items()
    }


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
    if event.level > record.ceiling:
        raise NotAllowed(
            f"level {event.level} is above {record.ceiling}. {' '.join(record.ceiling_reasons[:1])}".strip(),
            where=str(event.id),
        )
    if session.asleep and event.level > care().asleep_most:
        raise NotAllowed(care().words.asleep.format(level=care().asleep_most), where=str(event.id))
    record.level = event.level


def _felt(session: Session, event: Soreness) -> None:
    record = _current(session, event)
    before = [felt for felt in record.soreness if felt.side == event.side]
    record.soreness.append(Felt(value=event.value, level=record.level, at=event.at, side=event.side))
    same = [felt for felt in before if felt.level == record.level]
    told = care()
    if event.value > told.too_sore and any(felt.value > told.too_sore for felt in before):
        _leave(session, record, told.words.very_sore_twice)
    elif same and event.value - same[-1].value >= told.worse_by:
        _leave(session, record, told.words.grows)
    elif event.value > told.too_sore:
        _lighten(session, record, told.words.very_sore)
    elif event.value >= told.sore_enough and not before:
        session.advice = Advice(follows="none", text=told.words.sore)
        _queue(session, record.key)
    elif before and event.value < before[-1].value:
        session.advice = Advice(follows="none", text=told.words.eases.format(before=before[-1].value, now=event.value))


def _reacted(session: Session, event: Reacted) -> None:
    known = reactions()[event.reaction]
    record = session.records[session.current] if session.current else None
    again = record is not None and event.reaction in record.reactions
    if record is not None:
        record.reactions.append(event.reaction)
        if event.words:
            record.said.append(event.words)
    follows = known.second if again and known.second else known.then
    text = _filled(session, known.second_say if again and known.second else known.say, known.lay)
    if event.reaction == "asleep":
        session.asleep = True
        for one in session.records.values():
            one.level = min(one.level, care().asleep_most)
    elif event.reaction == "awake":
        session.asleep = False
    if follows == "stop_session":
        session.advice = Advice(follows=follows, text=text)
        _end(session, event.at, "stopped")
    elif record is not None and follows == "leave":
        _leave(session, record, text)
    elif record is not None and follows == "lighten":
        _lighten(session, record, text)
    else:
        session.advice = Advice(follows="none", text=text)


def _filled(session: Session, text: str, lay: str) -> str:
    """Words with how this person is laid for what they need."""
    return text.replace("{lay}", _helped(session).lay[lay]) if lay else text


def _helped(session: Session) -> Help:
    return (session.score.help if session.score else None) or usual_help()


def _wrong(session: Session, event: Wrong) -> None:
    """Stop the clock and go one question on; at an outcome, do what it says."""
    helped = _helped(session)
    to = "" if event.answer == "begun" else after(event.step, event.answer, helped)
    _hold(session, event.at)
    session.wrong.append(WrongStep(at=event.at, step=event.step, answer=event.answer, to=to))
    outcome = tree().outcomes.get(to)
    if outcome is None:
        return
    text = said(outcome, helped)
    if outcome.then == "stop":
        session.advice = Advice(follows="stop_session", text=text)
        _end(session, event.at, "stopped")
    elif outcome.then == "leave" and session.current is not None:
        _leave(session, session.records[session.current], text)
    else:
        session.advice = Advice(follows="none", text=text)


def _technique(session: Session, event: ChangeTechnique) -> None:
    record = _current(session, event)
    record.techniques.append(event.technique)
    if event.technique == "ease":
        _lighten(session, record, care().words.ease)
    else:
        session.advice = Advice(follows="none", text=care().words.rim)


def _limit(session: Session, event: NewLimits) -> None:
    """Lower what is above the new ceilings; leave what is refused now; end what must not go on."""
    words = care().words
    for key, new in event.ceilings.items():
        if key not in session.records:
            continue
        record, planned = session.records[key], session.stops[key].ceiling
        lowered = record.level > new.ceiling
        record.ceiling = min(new.ceiling, planned)
        record.ceiling_reasons = new.reasons
        record.level = min(record.level, record.ceiling)
        if lowered and key == session.current:
            text = words.lowered.format(level=new.ceiling, reason=" ".join(new.reasons[:1])).strip()
            session.advice = Advice(follows="lighten", text=text)
    for key, reason in event.refused.items():
        if key in session.records:
            advice = session.advice
            _leave(session, session.records[key], words.refused.format(reason=reason).strip())
            if key != session.current:
                session.advice = advice
    if event.no_session:
        text = words.no_session.format(reason=event.no_session).strip()
        session.advice = Advice(follows="stop_session", text=text)
        _end(session, event.at, "stopped")


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
