"""Treatments: begun with the application's own score, checked again; events are stored as they come."""

import uuid
from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.compose.score.arrange import limits_of, under_school
from acuthesis.core.compose.score.score import MAX_STOPS, REASON_LEAST, DraftStop, Score
from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.instant import Instant
from acuthesis.core.message import message
from acuthesis.core.safety.limits import positions_out
from acuthesis.core.treat.events import EVENT, Begin, Ceiling, ChangeRest, Event, EventBody, NewLimits, event_in_words
from acuthesis.core.treat.fold import fold, fold_what_follows
from acuthesis.core.treat.state import OVER, TreatmentState
from acuthesis.services.body.bodies import screening_on_body
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.services.visit.live import moved
from acuthesis.services.visit.preparing import laid_after, laid_out, told_of_places
from acuthesis.store import atlas, treatments, visits
from acuthesis.store.model import FindingRow, SettlementRow, VisitRow
from acuthesis.store.people import Conflict, NotFound
from acuthesis.store.treatments import EventToStore

CLOCK_OFF = timedelta(minutes=1)  # a device whose clock is farther off is told, and its events are placed by ours
LONG_BEFORE = timedelta(days=14)  # a session is never that much earlier than its appointment
CHANGED = message("treatment-score-changed-after-page-loaded")
EventResult = Literal["kept", "known", "disputed", "elsewhere"]


class BeginWith(BaseModel):
    """The treatment begins with the score of this version of the visit."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: uuid.UUID
    at: Instant
    hands: int = Field(1, ge=0, le=99)
    kind: Literal["begin"] = "begin"
    version: int


class ChangeRestWith(BaseModel):
    """What has not begun gives way to these stops, as they were offered or as a hand wrote them."""

    model_config = ConfigDict(extra="forbid")

    id: uuid.UUID
    at: Instant
    hands: int = Field(1, ge=0, le=99)
    kind: Literal["rest"] = "rest"
    stops: Annotated[list[DraftStop], Field(max_length=MAX_STOPS)]
    why: str = Field("", max_length=120)


Sent = Annotated[BeginWith | ChangeRestWith | EventBody, Field(discriminator="kind")]


class EventOutcome(BaseModel):
    """What became of an event that was sent.

    `kept`: it moved the state. `known`: it was kept before. `disputed`: it is kept, and did not move the state.
    `elsewhere`: its id was used for something else, so it is not kept here.
    """

    id: uuid.UUID
    outcome: EventResult
    reason: str = ""


class Disputed(BaseModel):
    """Something that happened and could not be applied: what, when, why, and how it was settled in the write-up."""

    id: uuid.UUID
    at: datetime
    words: str
    reason: str
    settled: Literal["happened", "set_aside"] | None
    note: str


class Treatment(BaseModel):
    """Where a treatment stands, and what happened that does not fit it.

    `clock_offset_s`: what to add to the device's clock, where it is off by more than a minute; 0 where it is right.
    """

    session: TreatmentState
    disputed: list[Disputed]
    outcomes: list[EventOutcome] = []
    clock_offset_s: float = 0


def treatment_of(here: Here, row: VisitRow) -> Treatment:
    """Where the treatment of a visit stands."""
    return Treatment(session=treatments.treatment(here.db, row.id), disputed=disputed_of(here, row))


def disputed_of(here: Here, row: VisitRow) -> list[Disputed]:
    """What happened at a visit and could not be applied."""
    return [
        Disputed(
            id=event.id,
            at=event.at,
            words=event_in_words(EVENT.validate_python(event.body)),
            reason=str(event.disputed),
            settled=settled.how if settled else None,
            note=settled.note if settled else "",
        )
        for event, settled in treatments.disputed_of(here.db, row.id)
    ]


def save_events(here: Here, visit_id: uuid.UUID, sent: Sequence[Sent], sent_at: datetime | None) -> Treatment:
    """Keep what happened and say where the treatment stands after it. What was kept before changes nothing.

    Raises: NotFound for an unknown visit; Conflict or NotAllowed for a beginning that may not be, as long as nothing
    has happened after it. What did happen is kept in any case, as disputed where it does not fit.
    """
    row = visits.visit(here.db, visit_id, lock=True)
    here.audit(row.person_id, "treatment events")
    offset = _clock_offset(sent_at)
    known = treatments.known_ids(here.db, row.id, [event.id for event in sent])
    fresh = [event for event in {event.id: event for event in sent}.values() if event.id not in known]
    outcomes = [EventOutcome(id=id, outcome="known", reason=reason or "") for id, reason in known.items()]
    before = treatments.treatment(here.db, row.id)
    while True:
        state, kept = _follow(here, row, before, fresh, offset)
        elsewhere = treatments.add(here.db, row, kept, round(offset.total_seconds() * 1000), after=state)
        if not elsewhere:
            break
        fresh = [event for event in fresh if event.id not in elsewhere]
        used = "its id has already been used for another entry"
        outcomes += [EventOutcome(id=id, outcome="elsewhere", reason=used) for id in elsewhere]
    outcomes += [
        EventOutcome(id=event.id, outcome="disputed" if said else "kept", reason=said or "") for event, said in kept
    ]
    if row.closed_at is None:
        treatments.save_state(row, state)
        if state.status in OVER:
            _keep_findings(here, row, state)
    here.db.flush()
    if fresh:
        moved(here.db, row.id)
    return Treatment(
        session=state, disputed=disputed_of(here, row), outcomes=outcomes, clock_offset_s=offset.total_seconds()
    )


def _keep_findings(here: Here, row: VisitRow, state: TreatmentState) -> None:
    """What hands found while treating goes into the person's map once the treatment is over: until then it can still
    be taken back, and the map is only added to. Soreness is the last that was said there.
    """
    known = {one.id for one in atlas.findings_of(here.db, row.person_id)}
    for one in state.found:
        if one.id in known:
            continue
        felt = [said.value for said in state.records[one.key].soreness if said.side in (one.side, None)]
        here.db.add(
            FindingRow(
                id=one.id,
                practice_id=row.practice_id,
                person_id=row.person_id,
                entry=state.stops[one.key].id,
                side=one.side,
                offset_mm=one.offset.mm,
                soreness=felt[-1] if felt else None,
                texture=one.texture,
                at=one.at,
            )
        )


def _follow(
    here: Here, row: VisitRow, state: TreatmentState, fresh: Sequence[Sent], offset: timedelta
) -> tuple[TreatmentState, list[EventToStore]]:
    """The state after what was sent, and each of it as it is to be kept."""
    kept = []
    for rank, sent in enumerate(fresh):
        event, reason = _event(here, row, state, sent, offset, alone=rank == len(fresh) - 1)
        reason = reason or _impossible(event.at, row)
        if row.closed_at is not None:
            reason = "The record of this visit was closed before this entry arrived."
        if not reason:
            state, disputed = fold_what_follows([event], state)
            reason = here.say(disputed[event.id]) if event.id in disputed else ""
        kept.append(EventToStore(event, reason or None))
    return state, kept


def _impossible(at: datetime, row: VisitRow) -> str:
    """Why something cannot have happened at this moment of the server's clock; empty where it can."""
    if at > now() + CLOCK_OFF:
        return f"Its time, {at:%-d %B %Y, %H:%M} UTC, is in the future."
    if at < min(row.starts_at, now()) - LONG_BEFORE:
        return f"Its time, {at:%-d %B %Y, %H:%M} UTC, is long before this visit."
    return ""


def _clock_offset(sent_at: datetime | None) -> timedelta:
    off = timedelta() if sent_at is None else now() - sent_at
    return off if abs(off) > CLOCK_OFF else timedelta()


def _event(
    here: Here, row: VisitRow, state: TreatmentState, told: Sent, offset: timedelta, alone: bool
) -> tuple[Event, str]:
    """What was sent as the event that is kept, placed by the server's clock; and why it cannot count, if it cannot.

    Raises: CoreError where it is a beginning that may not be and stands `alone`, so that nothing has happened yet.
    """
    at = told.at + offset
    if isinstance(told, ChangeRestWith):
        return _another_rest(here, row, state, told, at)
    if not isinstance(told, BeginWith):
        return (told.model_copy(update={"at": at}) if offset else told), ""
    try:
        return Begin(id=told.id, at=at, hands=told.hands, score=_begun_with(here, row, told.version)), ""
    except CoreError as refused:
        if alone:
            raise
        unplayed = Score.model_validate(row.score) if row.score else _no_score(row)
        return Begin(id=told.id, at=at, score=unplayed), here.say(
            message("treatment-start-refused", reason=refused.message)
        )


def _another_rest(
    here: Here, row: VisitRow, state: TreatmentState, told: ChangeRestWith, at: datetime
) -> tuple[Event, str]:
    said = {"id": told.id, "at": at, "hands": told.hands, "why": told.why}
    if state.score is None or state.status in OVER:
        return ChangeRest(stops=(), **said), "“Adjust session” received, but no session is in progress"
    try:
        laid = laid_after(here, row, state, told.stops)
        return ChangeRest(stops=told_of_places(here, row.person_id, laid), **said), ""
    except CoreError as refused:
        return ChangeRest(stops=(), **said), here.say(message("treatment-new-plan-refused", reason=refused.message))


def _no_score(row: VisitRow) -> Score:
    return Score(decision="ok", minutes=row.minutes, total_s=0, objective={"value": 0, "position_changes": 0})


def _begun_with(here: Here, row: VisitRow, version: int) -> Score:
    """The visit's own score, laid out anew against what holds today; kept with the visit.

    Raises: Conflict where it is not the one that was seen, NotAllowed with every reason where it may not be played.
    """
    if row.treatment != "not_begun":
        raise NotAllowed(message("fold-session-already-started"), where="visit_id")
    if row.closed_at is not None:
        raise NotAllowed(message("treatment-record-visit-closed"), where="visit_id")
    if row.score is None:
        raise CoreError(message("compose-there-no-score-yet-compose"), where="visit_id")
    if row.version != version:
        raise Conflict(CHANGED, where="version")
    require_fit_answers(here, row.person_id)
    score = laid_out(here, row)
    row.score = score.model_dump(mode="json")
    return score


def require_fit_answers(here: Here, person_id: uuid.UUID) -> None:
    """Raises: NotAllowed where nobody was asked, the answers are too old, or they allow no session."""
    known = here.person(person_id)
    if known.verdict.decision != "ok":
        details = [("screening", reason.text) for reason in known.verdict.reasons]
        raise NotAllowed(details[0][1], where="screening", details=details)
    if known.answered_on is None:
        raise NotAllowed(message("treatment-screening-not-been-done-yet"), where="screening")
    if known.stale:
        raise NotAllowed(
            message("treatment-screening-from-repeat-before-session", answered_on=known.answered_on),
            where="screening",
        )


def settle(here: Here, visit_id: uuid.UUID, event_id: uuid.UUID, how: str, note: str) -> Treatment:
    """Settle a disputed event in the write-up: it is told as it happened, or set aside. Raises: NotFound, Conflict."""
    row = visits.visit(here.db, visit_id, lock=True)
    for event, settled in treatments.disputed_of(here.db, row.id):
        if event.id != event_id:
            continue
        if settled is not None:
            raise Conflict(message("treatment-entry-already-been-resolved"), where="event_id")
        here.db.add(
            SettlementRow(
                id=uuid.uuid4(),
                practice_id=row.practice_id,
                person_id=row.person_id,
                event_id=event.id,
                how=how,
                note=note,
                settled_by=here.practitioner.id,
                settled_at=now(),
            )
        )
        here.audit(row.person_id, "disputed entry resolved")
        moved(here.db, row.id)
        here.db.flush()
        return treatment_of(here, row)
    raise NotFound(message("treatment-there-no-such-disputed-entry"), where="event_id")


def person_changed(here: Here, person_id: uuid.UUID) -> None:
    """What is known of a person has changed: a treatment that is under way follows at once."""
    here.forget(person_id)
    _limit(here, treatments.open_treatments(here.db, person_id))


def hand_changed(here: Here) -> None:
    """The levels of whoever presses, or the practice's rules, have changed: every treatment under way follows."""
    _limit(here, treatments.open_treatments(here.db))


def _limit(here: Here, visit_ids: Sequence[uuid.UUID]) -> None:
    for visit_id in visit_ids:
        row = visits.visit(here.db, visit_id, lock=True)
        state = treatments.treatment(here.db, row.id)
        event = _new_limits(here, row, state)
        if event is not None and not treatments.add(here.db, row, [EventToStore(event)]):
            treatments.save_state(row, fold([event], state))
            moved(here.db, row.id)
            here.audit(row.person_id, "limits changed during the session")
    here.db.flush()


def _new_limits(here: Here, row: VisitRow, state: TreatmentState) -> NewLimits | None:
    """What holds now for the stops of a treatment, as an event; None where nothing is different."""
    assert state.score is not None  # it has begun
    screening, school = screening_on_body(here, row.person_id), here.school(state.score.school)
    out = positions_out(screening)
    ceilings: dict[str, Ceiling] = {}
    refused: dict[str, str] = {}
    for key, stop in state.stops.items():
        limits = limits_of(stop, screening, here.entry)
        if limits is not None:
            limits = under_school(limits, school)
            signed = limits.overridable and len(stop.override.strip()) >= REASON_LEAST
            if limits.refused is not None and not signed:
                refused[key] = limits.refused.text
            if min(limits.ceiling, stop.ceiling) != state.records[key].ceiling:
                ceilings[key] = Ceiling(ceiling=limits.ceiling, reasons=limits.ceiling_reasons)
        if stop.position in out:
            refused.setdefault(key, out[stop.position])
    refused = {key: reason for key, reason in refused.items() if not state.records[key].left}
    decided = here.person(row.person_id).verdict
    no_session = "" if decided.decision == "ok" else decided.reasons[0].text
    if not (ceilings or refused or no_session):
        return None
    return NewLimits(id=uuid.uuid4(), at=now(), ceilings=ceilings, refused=refused, no_session=no_session)
