"""Visits, their scores, and the events of their treatments."""

import uuid
from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from acuthesis.core.compose.score import Score
from acuthesis.core.treat.events import EVENT, Event
from acuthesis.core.treat.session import Session as Treatment
from acuthesis.core.treat.session import fold
from acuthesis.store.model import TreatmentEventRow, VisitRow
from acuthesis.store.people import NotFound


def visit(session: Session, visit_id: uuid.UUID, lock: bool = False) -> VisitRow:
    """A visit of this practice; with `lock` nobody else writes to it until the transaction ends. Raises: NotFound."""
    query = select(VisitRow).where(VisitRow.id == visit_id)
    row = session.scalar(query.with_for_update() if lock else query)
    if row is None:
        raise NotFound("there is no such visit in this practice", where="visit_id")
    return row


def visits_between(session: Session, start: datetime, end: datetime) -> list[VisitRow]:
    """Visits that start in a stretch of time, in order."""
    return list(
        session.scalars(
            select(VisitRow).where(VisitRow.starts_at >= start, VisitRow.starts_at < end).order_by(VisitRow.starts_at)
        )
    )


def visits_of(session: Session, person_id: uuid.UUID) -> list[VisitRow]:
    """A person's visits in order."""
    return list(session.scalars(select(VisitRow).where(VisitRow.person_id == person_id).order_by(VisitRow.starts_at)))


def planned(row: VisitRow) -> list[str]:
    """Ids of the points and areas in a visit's score, in order; none without a score."""
    if row.score is None:
        return []
    stops = Score.model_validate(row.score).stops
    return list(dict.fromkeys(stop.id for stop in stops if stop.kind in ("point", "area")))


def events_of(session: Session, visit_ids: Sequence[uuid.UUID]) -> dict[uuid.UUID, list[Event]]:
    """Events of visits in the order in which they were kept."""
    table: dict[uuid.UUID, list[Event]] = {visit_id: [] for visit_id in visit_ids}
    rows = session.scalars(
        select(TreatmentEventRow).where(TreatmentEventRow.visit_id.in_(visit_ids)).order_by(TreatmentEventRow.seq)
    )
    for row in rows:
        table[row.visit_id].append(EVENT.validate_python(row.body))
    return table


def treatment(session: Session, visit_id: uuid.UUID) -> Treatment:
    """State of a visit's treatment."""
    return fold(events_of(session, [visit_id])[visit_id])


def keep_events(session: Session, row: VisitRow, events: Sequence[Event]) -> Treatment:
    """Add events to a visit, once each, and return the state after them; all or none is kept.

    Raises: NotAllowed, UnknownId if an event cannot follow what is there.
    """
    before = events_of(session, [row.id])[row.id]
    known = {event.id for event in before}
    fresh = list({event.id: event for event in events if event.id not in known}.values())
    state = fold([*before, *fresh])
    for event in fresh:
        session.execute(
            insert(TreatmentEventRow)
            .values(
                id=event.id,
                practice_id=row.practice_id,
                person_id=row.person_id,
                visit_id=row.id,
                at=event.at,
                body=event.model_dump(mode="json"),
            )
            .on_conflict_do_nothing()
        )
    return state
