"""Appointments, places and planned visits: rows and queries, with nothing of what was asked or felt."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import Select, func, select, update

from acuthesis.core.message import message
from acuthesis.store.database import Db
from acuthesis.store.model import PersonRow, PlaceRow, PlannedVisitRow, PractitionerRow, VisitRow
from acuthesis.store.people import NotFound

HELD = VisitRow.attendance == "expected"


@dataclass(frozen=True)
class Booked:
    """An appointment with the names that go with it."""

    visit: VisitRow
    person: PersonRow
    practitioner: str
    place: str


def _booked() -> Select[VisitRow, PersonRow, str, str]:
    return (
        select(VisitRow, PersonRow, PractitionerRow.name, func.coalesce(PlaceRow.name, ""))
        .join(PersonRow, PersonRow.id == VisitRow.person_id)
        .join(PractitionerRow, PractitionerRow.id == VisitRow.practitioner_id)
        .outerjoin(PlaceRow, PlaceRow.id == VisitRow.place_id)
        .order_by(VisitRow.starts_at, VisitRow.id)
    )


def between(db: Db, start: datetime, end: datetime) -> list[Booked]:
    """Appointments that begin in a stretch of time, in order; also those that were cancelled or missed."""
    query = _booked().where(VisitRow.starts_at >= start, VisitRow.starts_at < end)
    return [Booked(*row) for row in db.execute(query)]


def of_person(db: Db, person_id: uuid.UUID) -> list[Booked]:
    """A person's appointments, in order; also those that were cancelled or missed."""
    return [Booked(*row) for row in db.execute(_booked().where(VisitRow.person_id == person_id))]


def of_practitioner(db: Db, practitioner_id: uuid.UUID, start: datetime) -> list[Booked]:
    """A practitioner's appointments from a moment on, in order."""
    query = _booked().where(VisitRow.practitioner_id == practitioner_id, VisitRow.starts_at >= start)
    return [Booked(*row) for row in db.execute(query)]


def one(db: Db, visit_id: uuid.UUID, lock: bool = False) -> Booked:
    """An appointment; with `lock` nobody else changes it until the transaction ends. Raises: NotFound."""
    query = _booked().where(VisitRow.id == visit_id)
    row = db.execute(query.with_for_update(of=VisitRow) if lock else query).one_or_none()
    if row is None:
        raise NotFound(message("booking-there-no-such-visit-practice"), where="visit_id")
    return Booked(*row)


def places(db: Db) -> list[PlaceRow]:
    """The places of the practice, those in use first, by name."""
    return list(db.scalars(select(PlaceRow).order_by(PlaceRow.archived_at.is_not(None), PlaceRow.name)))


def place(db: Db, place_id: uuid.UUID) -> PlaceRow:
    """One place. Raises: NotFound."""
    row = db.scalar(select(PlaceRow).where(PlaceRow.id == place_id))
    if row is None:
        raise NotFound(message("booking-there-no-such-place-practice"), where="place_id")
    return row


def to_come_by_practitioner(db: Db, now: datetime) -> dict[uuid.UUID, int]:
    """How many appointments each practitioner holds from now on."""
    query = select(VisitRow.practitioner_id, func.count()).where(VisitRow.starts_at >= now, HELD)
    return dict(db.execute(query.group_by(VisitRow.practitioner_id)).tuples().all())


def hand_over(db: Db, from_id: uuid.UUID, to_id: uuid.UUID, now: datetime) -> None:
    """The appointments that one practitioner has from now on go to another."""
    mine = (VisitRow.practitioner_id == from_id) & (VisitRow.starts_at >= now) & (VisitRow.treatment == "not_begun")
    db.execute(
        update(VisitRow)
        .where(mine)
        .values(practitioner_id=to_id, booking_version=VisitRow.booking_version + 1)
        .execution_options(synchronize_session=False)
    )


def planned_of(db: Db, person_id: uuid.UUID) -> list[PlannedVisitRow]:
    """What is planned for a person, in order; booked, dropped, or neither."""
    row = PlannedVisitRow
    return list(db.scalars(select(row).where(row.person_id == person_id).order_by(row.due_on, row.number, row.id)))


def planned(db: Db, planned_id: uuid.UUID) -> PlannedVisitRow:
    """One planned visit, which nobody else changes until the transaction ends. Raises: NotFound."""
    row = db.scalar(select(PlannedVisitRow).where(PlannedVisitRow.id == planned_id).with_for_update())
    if row is None:
        raise NotFound(message("booking-there-no-such-planned-visit"), where="planned_id")
    return row


def planned_by_visit(db: Db, visit_ids: Sequence[uuid.UUID]) -> dict[uuid.UUID, PlannedVisitRow]:
    """Which planned visits some appointments are."""
    if not visit_ids:
        return {}
    rows = db.scalars(select(PlannedVisitRow).where(PlannedVisitRow.visit_id.in_(visit_ids)))
    return {row.visit_id: row for row in rows if row.visit_id is not None}


def unbooked(db: Db, until: date) -> list[tuple[PlannedVisitRow, PersonRow]]:
    """Planned visits due by a day that are neither booked nor dropped, the longest due first."""
    row = PlannedVisitRow
    query = (
        select(row, PersonRow)
        .join(PersonRow, PersonRow.id == row.person_id)
        .where(row.visit_id.is_(None), row.dropped_at.is_(None), row.due_on <= until, PersonRow.archived_at.is_(None))
    )
    return list(db.execute(query.order_by(row.due_on, row.number, row.id)).tuples())
