"""The treatment as a fold over its events: where it stands, what was felt, what to do now, what to come back to.

What an event does to a sore spot is in `loop`, what a reaction does in `watching`, the small moves in `moves`. What an
event changed is kept as it was before, so that the last one can be taken back.
"""

from collections.abc import Collection, Iterable, Iterator
from uuid import UUID

from acuthesis.core.compose.score.score import PRESSED, Stop, total_s
from acuthesis.core.errors import CoreError, NotAllowed, UnknownId
from acuthesis.core.treat.events import (
    AsPlanned,
    Begin,
    Breath,
    Came,
    ChangeRest,
    ChangeTechnique,
    End,
    Event,
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
    Wrong,
    care,
    event_in_words,
)
from acuthesis.core.treat.loop import felt, overrule
from acuthesis.core.treat.moves import advise, close, current, end, hold, leave
from acuthesis.core.treat.state import OVER, FoundHere, GivenUp, Jotted, Past, Session, StopRecord
from acuthesis.core.treat.watching import as_planned, came, reacted, wrong

MOST_PAST = 8  # events that can be taken back, one after the other
MAY_CHANGE = tuple(name for name in Session.model_fields if name not in ("records", "past", "event_count"))
AT_STOP = (SetLevel, Soreness, Reacted, ChangeTechnique, Came, Note, Found, Later)  # what is said of a stop
AFTERWARDS = (Note, PutTime, Undo)  # what may still be said once it is over


def fold(events: Iterable[Event], start: Session | None = None) -> Session:
    """State after events, in the order given; an event whose id was seen is passed over.

    Raises: NotAllowed for an event that cannot follow (nothing but a note, a correction or taking back follows the end,
    only `begin` opens); UnknownId for a stop that is not in the score.
    """
    session = start or Session()
    for event in _once(events):
        session = step(session, event)
    return session


def fold_what_follows(events: Iterable[Event], start: Session | None = None) -> tuple[Session, dict[UUID, str]]:
    """State after those of the events that can follow, and for each of the others, by its id, why it cannot.

    What cannot follow does not move the state: it happened at the table all the same, so whoever keeps events keeps it
    too, as disputed.
    """
    session = start or Session()
    disputed: dict[UUID, str] = {}
    for event in _once(events):
        try:
            session = step(session, event)
        except CoreError as error:
            disputed[event.id] = error.message
    return session, disputed


def _once(events: Iterable[Event]) -> Iterator[Event]:
    seen = set()
    for event in events:
        if event.id not in seen:
            seen.add(event.id)
            yield event


def step(before: Session, event: Event) -> Session:
    """State after one more event; the one before stays as it was. Raises: NotAllowed, UnknownId."""
    touched = _touched(before, event)
    session = before.copied(touched)
    if isinstance(event, Begin):
        _begin(session, event)
    elif isinstance(event, Undo):
        _undo(session, event)
    else:
        _apply(session, event)
        _remember(session, before, event, touched)
    session.event_count += 1
    return session


def _touched(session: Session, event: Event) -> Collection[str]:
    """The stops that an event may change: those of the moment, or all where it reaches them all."""
    if isinstance(event, Reacted | AsPlanned | NewLimits):
        return session.records
    loop = session.loop.key if session.loop is not None else None
    return {key for key in (session.current, loop, getattr(event, "key", None)) if key is not None}


def _apply(session: Session, event: Event) -> None:
    if session.status == "not_begun":
        raise NotAllowed(f"'{event.kind}' before the treatment began", where=str(event.id))
    if session.status in OVER and not isinstance(event, AFTERWARDS):
        raise NotAllowed(f"'{event.kind}' after the treatment ended", where=str(event.id))
    key = event.key if isinstance(event, AT_STOP) else None
    if key is None or key == session.current:
        _move(session, event)
    else:
        _move_elsewhere(session, event, key)


def _move_elsewhere(session: Session, event: Event, key: str) -> None:
    """What is said of another stop than the one that hands are at: done as if they were there, and then everything of
    the moment is as it was. Only an end is an end.
    """
    if key not in session.records:
        raise UnknownId(f"the score has no stop '{key}'", where=str(event.id))
    if not session.records[key].started:
        raise NotAllowed(f"'{event.kind}' at a stop before it was started", where=str(event.id))
    moment = {name: getattr(session, name) for name in ("current", "running_since", "status", "advice", "loop")}
    session.current, session.running_since, session.loop = key, None, None
    _move(session, event)
    close(session)
    ended, said = session.ended_at if session.status in OVER else None, session.advice
    before_end = moment["status"] in OVER
    for name, value in moment.items():
        setattr(session, name, value)
    if ended is not None and not before_end:
        end(session, ended, "stopped")
        session.advice = said


def _move(session: Session, event: Event) -> None:
    match event:
        case StartStop():
            _start(session, event)
        case Pause():
            hold(session, event.at)
        case Resume():
            if session.current is not None and session.running_since is None:
                session.running_since, session.status = event.at, "running"
        case SetLevel():
            _set_level(session, event)
        case Soreness():
            felt(session, event)
        case Reacted():
            reacted(session, event)
        case Wrong():
            wrong(session, event)
        case ChangeTechnique() | Later():
            overrule(session, event)
        case AsPlanned():
            as_planned(session, event)
        case Came():
            came(session, event)
        case Breath():
            session.breath_s = event.seconds
        case Note():
            session.notes.append(Jotted(at=event.at, key=session.current, text=event.text))
        case Found():
            _find(session, event)
        case PutTime():
            _put_time(session, event)
        case NewLimits():
            _limit(session, event)
        case ChangeRest():
            _change_rest(session, event)
        case End():
            end(session, event.at, event.reason)


def _begin(session: Session, event: Begin) -> None:
    if session.status != "not_begun":
        raise NotAllowed("the treatment has begun already", where=str(event.id))
    if event.score.decision != "ok":
        raise NotAllowed("the screening does not allow a treatment", where=str(event.id))
    session.score, session.status, session.began_at = event.score, "ready", event.at
    session.records = {key: _fresh(session, stop) for key, stop in session.stops.items()}


def _remember(session: Session, before: Session, event: Event, touched: Collection[str]) -> None:
    """Keep what the event changed as it was. New limits are not taken back, nor anything that lies before them: what
    was allowed then may not be now.
    """
    if isinstance(event, NewLimits):
        session.past = []
        return
    past = Past(
        id=event.id,
        what=event_in_words(event),
        session={
            name: getattr(before, name)
            for name in MAY_CHANGE
            if _changed(getattr(before, name), getattr(session, name))
        },
        records={
            key: one
            for key, one in before.records.items()
            if (key in touched or key not in session.records) and _changed(one, session.records.get(key))
        },
        added=[key for key in session.records if key not in before.records],
    )
    session.past = [*session.past, past][-MOST_PAST:]


def _changed(one: object, now: object) -> bool:
    return one is not now and one != now


def _undo(session: Session, event: Undo) -> None:
    """What the last event changed is as it was before it; a clock that it had held runs on."""
    if not session.past or session.past[-1].id != event.of:
        raise NotAllowed("only the last thing that was said can be taken back", where=str(event.id))
    past = session.past.pop()
    for name, value in past.session.items():
        setattr(session, name, value)
    session.records.update(past.records)
    for key in past.added:
        del session.records[key]
    advise(session, care().words.undone.format(what=past.what))


def _start(session: Session, event: StartStop) -> None:
    if event.key not in session.records:
        raise UnknownId(f"the score has no stop '{event.key}'", where=str(event.id))
    if session.records[event.key].left:
        raise NotAllowed(f"'{event.key}' was left for today", where=str(event.id))
    close(session)
    hold(session, event.at)
    session.current, session.running_since, session.status = event.key, event.at, "running"
    record = session.records[event.key]
    looked_at = event.key in session.second_looks and record.started > 0
    record.look_s = record.active_s if looked_at else None
    record.started, record.came_s = record.started + 1, None
    session.advice = None
    if event.key in session.second_looks:
        session.second_looks.remove(event.key)


def _set_level(session: Session, event: SetLevel) -> None:
    record = current(session, event)
    before = record.level
    if event.level > record.ceiling:
        raise NotAllowed(
            f"level {event.level} is above {record.ceiling}. {' '.join(record.ceiling_reasons[:1])}".strip(),
            where=str(event.id),
        )
    if session.asleep and event.level > care().asleep_most:
        raise NotAllowed(care().words.asleep.format(level=care().asleep_most), where=str(event.id))
    record.level = event.level
    if event.by == "person":
        lightest = event.level == 1 and event.level >= before
        words = care().words.asks_lightest if lightest else care().words.asks_lighter
        advise(session, words.format(level=event.level), "lighten")
    if session.loop is not None and session.loop.key == record.key:
        record.rounds[-1].level = event.level


def _find(session: Session, event: Found) -> None:
    """The newest of a side counts."""
    key = current(session, event).key
    if session.stops[key].kind not in PRESSED or session.stops[key].side not in (event.side, "both", "midline"):
        raise NotAllowed(f"nothing is pressed there on the {event.side}", where=str(event.id))
    if not set(event.offset.mm) <= {way.name for way in session.stops[key].beside}:
        raise NotAllowed("there is no such direction beside this place", where=str(event.id))
    told = event.model_dump(include={"id", "side", "texture", "at"})
    session.found = [one for one in session.found if (one.key, one.side) != (key, event.side)]
    session.found.append(FoundHere(key=key, offset=event.offset, **told))


def _change_rest(session: Session, event: ChangeRest) -> None:
    """What has not begun gives way; what has, stays where it was, and the new stops follow it."""
    assert session.score is not None
    keys = {stop.key for stop in event.stops}
    if len(keys) != len(event.stops) or keys & set(session.records):
        raise NotAllowed("a stop of the new rest has a key that is used already", where=str(event.id))
    gone = [
        stop
        for stop in session.score.stops
        if not stop.muted and not session.records[stop.key].started and not session.records[stop.key].left
    ]
    out = {stop.key for stop in gone}
    stops = (*(stop for stop in session.score.stops if stop.key not in out), *event.stops)
    session.score = session.score.model_copy(update={"stops": stops, "total_s": total_s(stops)})
    again = {(stop.id, stop.side) for stop in event.stops}
    session.given_up = [one for one in session.given_up if (one.id, one.side) not in again]
    session.given_up += [
        GivenUp(key=stop.key, id=stop.id, name=stop.name, side=stop.side, kind=stop.kind, why=event.why)
        for stop in gone
        if stop.kind in PRESSED and (stop.id, stop.side) not in again
    ]
    for key in out:
        del session.records[key]
    session.records.update({stop.key: _fresh(session, stop) for stop in event.stops if not stop.muted})
    session.second_looks = [key for key in session.second_looks if key in session.records]


def _fresh(session: Session, stop: Stop) -> StopRecord:
    level = min(stop.level, care().asleep_most) if session.asleep else stop.level
    return StopRecord(key=stop.key, level=level, ceiling=stop.ceiling, ceiling_reasons=stop.ceiling_reasons)


def _put_time(session: Session, event: PutTime) -> None:
    if event.key not in session.records:
        raise UnknownId(f"the score has no stop '{event.key}'", where=str(event.id))
    if event.key == session.current and session.running_since is not None:
        raise NotAllowed("its clock is running; the time is put right when it stands", where=str(event.id))
    session.records[event.key].active_s = event.active_s


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
        if session.loop is not None and session.loop.key == key:
            record.rounds[-1].level = min(record.rounds[-1].level, record.ceiling)
        if lowered and key == session.current:
            text = words.lowered.format(level=new.ceiling, reason=" ".join(new.reasons[:1])).strip()
            advise(session, text, "lighten")
    for key, reason in event.refused.items():
        if key in session.records:
            advice = session.advice
            leave(session, session.records[key], words.refused.format(reason=reason).strip())
            if key != session.current:
                session.advice = advice
    if event.no_session:
        text = words.no_session.format(reason=event.no_session).strip()
        advise(session, text, "stop_session")
        end(session, event.at, "stopped")
