"""The treatment as a fold over its events: where it stands, what was felt, what to do now, what to come back to.

What an event does to a sore spot is in `loop`, what a reaction does in `watching`, the small moves in `moves`. What an
event changed is kept as it was before, so that the last one can be taken back.
"""

from collections.abc import Collection, Iterable, Iterator
from uuid import UUID

from acuthesis.core.compose.score.score import PRESSED, Stop, total_s
from acuthesis.core.errors import CoreError, NotAllowed, UnknownId
from acuthesis.core.message import Message, message
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
from acuthesis.core.treat.state import OVER, FoundHere, GivenUp, Jotted, Past, StopRecord, TreatmentState
from acuthesis.core.treat.watching import as_planned, came, reacted, wrong

MOST_PAST = 8  # events that can be taken back, one after the other
MAY_CHANGE = tuple(name for name in TreatmentState.model_fields if name not in ("records", "past", "event_count"))
AT_STOP = (SetLevel, Soreness, Reacted, ChangeTechnique, Came, Note, Found, Later)  # what is said of a stop
AFTERWARDS = (Note, PutTime, Undo)  # what may still be said once it is over


def fold(events: Iterable[Event], start: TreatmentState | None = None) -> TreatmentState:
    """State after events, in the order given; an event whose id was seen is passed over.

    Raises: NotAllowed for an event that cannot follow (nothing but a note, a correction or taking back follows the end,
    only `begin` opens); UnknownId for a stop that is not in the score.

    >>> fold([]).status
    'not_begun'
    """
    treatment = start or TreatmentState()
    for event in _once(events):
        treatment = step(treatment, event)
    return treatment


def fold_what_follows(
    events: Iterable[Event], start: TreatmentState | None = None
) -> tuple[TreatmentState, dict[UUID, Message]]:
    """State after those of the events that can follow, and for each of the others, by its id, why it cannot.

    What cannot follow does not move the state: it happened at the table all the same, so whoever keeps events keeps it
    too, as disputed.

    >>> fold_what_follows([])[1]
    {}
    """
    treatment = start or TreatmentState()
    disputed: dict[UUID, Message] = {}
    for event in _once(events):
        try:
            treatment = step(treatment, event)
        except CoreError as error:
            disputed[event.id] = error.message
    return treatment, disputed


def _once(events: Iterable[Event]) -> Iterator[Event]:
    seen = set()
    for event in events:
        if event.id not in seen:
            seen.add(event.id)
            yield event


def step(before: TreatmentState, event: Event) -> TreatmentState:
    """State after one more event; the one before stays as it was. Raises: NotAllowed, UnknownId."""
    touched = _touched(before, event)
    treatment = before.copied(touched)
    if isinstance(event, Begin):
        _begin(treatment, event)
    elif isinstance(event, Undo):
        _undo(treatment, event)
    else:
        _apply(treatment, event)
        _remember(treatment, before, event, touched)
    treatment.event_count += 1
    return treatment


def _touched(treatment: TreatmentState, event: Event) -> Collection[str]:
    """The stops that an event may change: those of the moment, or all where it reaches them all."""
    if isinstance(event, Reacted | AsPlanned | NewLimits):
        return treatment.records
    loop = treatment.loop.key if treatment.loop is not None else None
    return {key for key in (treatment.current, loop, getattr(event, "key", None)) if key is not None}


def _apply(treatment: TreatmentState, event: Event) -> None:
    if treatment.status == "not_begun":
        raise NotAllowed(message("fold-before-session-started", kind=event.kind), where=str(event.id))
    if treatment.status in OVER and not isinstance(event, AFTERWARDS):
        raise NotAllowed(message("fold-after-session-ended", kind=event.kind), where=str(event.id))
    key = event.key if isinstance(event, AT_STOP) else None
    if key is None or key == treatment.current:
        _move(treatment, event)
    else:
        _move_elsewhere(treatment, event, key)


def _move_elsewhere(treatment: TreatmentState, event: Event, key: str) -> None:
    """What is said of another stop than the one that hands are at: done as if they were there, and then everything of
    the moment is as it was. Only an end is an end.
    """
    if key not in treatment.records:
        raise UnknownId(message("fold-score-no-stop", key=key), where=str(event.id))
    if not treatment.records[key].started:
        raise NotAllowed(message("fold-at-stop-before-started", kind=event.kind), where=str(event.id))
    moment = {name: getattr(treatment, name) for name in ("current", "running_since", "status", "advice", "loop")}
    treatment.current, treatment.running_since, treatment.loop = key, None, None
    _move(treatment, event)
    close(treatment)
    ended, said = treatment.ended_at if treatment.status in OVER else None, treatment.advice
    before_end = moment["status"] in OVER
    for name, value in moment.items():
        setattr(treatment, name, value)
    if ended is not None and not before_end:
        end(treatment, ended, "stopped")
        treatment.advice = said


def _move(treatment: TreatmentState, event: Event) -> None:
    match event:
        case StartStop():
            _start(treatment, event)
        case Pause():
            hold(treatment, event.at)
        case Resume():
            if treatment.current is not None and treatment.running_since is None:
                treatment.running_since, treatment.status = event.at, "running"
        case SetLevel():
            _set_level(treatment, event)
        case Soreness():
            felt(treatment, event)
        case Reacted():
            reacted(treatment, event)
        case Wrong():
            wrong(treatment, event)
        case ChangeTechnique() | Later():
            overrule(treatment, event)
        case AsPlanned():
            as_planned(treatment, event)
        case Came():
            came(treatment, event)
        case Breath():
            treatment.breath_s = event.seconds
        case Note():
            treatment.notes.append(Jotted(at=event.at, key=treatment.current, text=event.text))
        case Found():
            _find(treatment, event)
        case PutTime():
            _put_time(treatment, event)
        case NewLimits():
            _limit(treatment, event)
        case ChangeRest():
            _change_rest(treatment, event)
        case End():
            end(treatment, event.at, event.reason)


def _begin(treatment: TreatmentState, event: Begin) -> None:
    if treatment.status != "not_begun":
        raise NotAllowed(message("fold-session-already-started"), where=str(event.id))
    if event.score.decision != "ok":
        raise NotAllowed(message("fold-screening-does-not-allow-session"), where=str(event.id))
    treatment.score, treatment.status, treatment.began_at = event.score, "ready", event.at
    treatment.records = {key: _fresh(treatment, stop) for key, stop in treatment.stops.items()}


def _remember(treatment: TreatmentState, before: TreatmentState, event: Event, touched: Collection[str]) -> None:
    """Keep what the event changed as it was. New limits are not taken back, nor anything that lies before them: what
    was allowed then may not be now.
    """
    if isinstance(event, NewLimits):
        treatment.past = []
        return
    past = Past(
        id=event.id,
        what=event_in_words(event),
        session={
            name: getattr(before, name)
            for name in MAY_CHANGE
            if _changed(getattr(before, name), getattr(treatment, name))
        },
        records={
            key: one
            for key, one in before.records.items()
            if (key in touched or key not in treatment.records) and _changed(one, treatment.records.get(key))
        },
        added=[key for key in treatment.records if key not in before.records],
    )
    treatment.past = [*treatment.past, past][-MOST_PAST:]


def _changed(one: object, now: object) -> bool:
    return one is not now and one != now


def _undo(treatment: TreatmentState, event: Undo) -> None:
    """What the last event changed is as it was before it; a clock that it had held runs on."""
    if not treatment.past or treatment.past[-1].id != event.of:
        raise NotAllowed(message("fold-only-last-entry-undone"), where=str(event.id))
    past = treatment.past.pop()
    for name, value in past.session.items():
        setattr(treatment, name, value)
    treatment.records.update(past.records)
    for key in past.added:
        del treatment.records[key]
    advise(treatment, care().words.undone.format(what=past.what))


def _start(treatment: TreatmentState, event: StartStop) -> None:
    if event.key not in treatment.records:
        raise UnknownId(message("fold-score-no-stop", key=event.key), where=str(event.id))
    if treatment.records[event.key].left:
        raise NotAllowed(message("fold-left-today", key=event.key), where=str(event.id))
    close(treatment)
    hold(treatment, event.at)
    treatment.current, treatment.running_since, treatment.status = event.key, event.at, "running"
    record = treatment.records[event.key]
    looked_at = event.key in treatment.second_looks and record.started > 0
    record.look_s = record.active_s if looked_at else None
    record.started, record.came_s = record.started + 1, None
    treatment.advice = None
    if event.key in treatment.second_looks:
        treatment.second_looks.remove(event.key)


def _set_level(treatment: TreatmentState, event: SetLevel) -> None:
    record = current(treatment, event)
    before = record.level
    if event.level > record.ceiling:
        raise NotAllowed(
            message(
                "fold-level-above-ceiling",
                level=event.level,
                ceiling=record.ceiling,
                reason=next(iter(record.ceiling_reasons), ""),
            ),
            where=str(event.id),
        )
    if treatment.asleep and event.level > care().asleep_most:
        raise NotAllowed(care().words.asleep.format(level=care().asleep_most), where=str(event.id))
    record.level = event.level
    if event.by == "person":
        lightest = event.level == 1 and event.level >= before
        words = care().words.asks_lightest if lightest else care().words.asks_lighter
        advise(treatment, words.format(level=event.level), "lighten")
    if treatment.loop is not None and treatment.loop.key == record.key:
        record.rounds[-1].level = event.level


def _find(treatment: TreatmentState, event: Found) -> None:
    """The newest of a side counts."""
    key = current(treatment, event).key
    if treatment.stops[key].kind not in PRESSED or treatment.stops[key].side not in (event.side, "both", "midline"):
        raise NotAllowed(message("fold-there-no-stop-there-on", side=event.side), where=str(event.id))
    if not set(event.offset.mm) <= {way.name for way in treatment.stops[key].beside}:
        raise NotAllowed(message("fold-there-no-such-direction-at"), where=str(event.id))
    told = event.model_dump(include={"id", "side", "texture", "at"})
    treatment.found = [one for one in treatment.found if (one.key, one.side) != (key, event.side)]
    treatment.found.append(FoundHere(key=key, offset=event.offset, **told))


def _change_rest(treatment: TreatmentState, event: ChangeRest) -> None:
    """What has not begun gives way; what has, stays where it was, and the new stops follow it."""
    assert treatment.score is not None
    keys = {stop.key for stop in event.stops}
    if len(keys) != len(event.stops) or keys & set(treatment.records):
        raise NotAllowed(message("fold-stop-new-plan-key-already"), where=str(event.id))
    gone = [
        stop
        for stop in treatment.score.stops
        if not stop.muted and not treatment.records[stop.key].started and not treatment.records[stop.key].left
    ]
    out = {stop.key for stop in gone}
    stops = (*(stop for stop in treatment.score.stops if stop.key not in out), *event.stops)
    treatment.score = treatment.score.model_copy(update={"stops": stops, "total_s": total_s(stops)})
    again = {(stop.id, stop.side) for stop in event.stops}
    treatment.given_up = [one for one in treatment.given_up if (one.id, one.side) not in again]
    treatment.given_up += [
        GivenUp(key=stop.key, id=stop.id, name=stop.name, side=stop.side, kind=stop.kind, why=event.why)
        for stop in gone
        if stop.kind in PRESSED and (stop.id, stop.side) not in again
    ]
    for key in out:
        del treatment.records[key]
    treatment.records.update({stop.key: _fresh(treatment, stop) for stop in event.stops if not stop.muted})
    treatment.second_looks = [key for key in treatment.second_looks if key in treatment.records]


def _fresh(treatment: TreatmentState, stop: Stop) -> StopRecord:
    level = min(stop.level, care().asleep_most) if treatment.asleep else stop.level
    return StopRecord(key=stop.key, level=level, ceiling=stop.ceiling, ceiling_reasons=stop.ceiling_reasons)


def _put_time(treatment: TreatmentState, event: PutTime) -> None:
    if event.key not in treatment.records:
        raise UnknownId(message("fold-score-no-stop", key=event.key), where=str(event.id))
    if event.key == treatment.current and treatment.running_since is not None:
        raise NotAllowed(message("fold-timer-running-pause-before-correcting"), where=str(event.id))
    treatment.records[event.key].active_s = event.active_s


def _limit(treatment: TreatmentState, event: NewLimits) -> None:
    """Lower what is above the new ceilings; leave what is refused now; end what must not go on."""
    words = care().words
    for key, new in event.ceilings.items():
        if key not in treatment.records:
            continue
        record, planned = treatment.records[key], treatment.stops[key].ceiling
        lowered = record.level > new.ceiling
        record.ceiling = min(new.ceiling, planned)
        record.ceiling_reasons = new.reasons
        record.level = min(record.level, record.ceiling)
        if treatment.loop is not None and treatment.loop.key == key:
            record.rounds[-1].level = min(record.rounds[-1].level, record.ceiling)
        if lowered and key == treatment.current:
            text = words.lowered.format(level=new.ceiling, reason=" ".join(new.reasons[:1])).strip()
            advise(treatment, text, "lighten")
    for key, reason in event.refused.items():
        if key in treatment.records:
            advice = treatment.advice
            leave(treatment, treatment.records[key], words.refused.format(reason=reason).strip())
            if key != treatment.current:
                treatment.advice = advice
    if event.no_session:
        text = words.no_session.format(reason=event.no_session).strip()
        advise(treatment, text, "stop_session")
        end(treatment, event.at, "stopped")
