"""Appointments: booked, moved, cancelled, missed, begun without one; series; gaps; and what is due without a visit.

Nothing in here reads what was asked or felt: a helper without a right to health records works with it.
"""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from typing import Literal

from pydantic import BaseModel

from acuthesis.core.appointments import Gap, Shared, Slot, clashes, due_dates, free_gaps
from acuthesis.core.errors import NotAllowed, OutOfRange
from acuthesis.core.message import message
from acuthesis.services.practice.practice import Hours, hours_of
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.services.request.roles import HOLDS_VISITS, POWERS
from acuthesis.store import booking, people
from acuthesis.store.booking import Booked
from acuthesis.store.model import PlannedVisitRow, VisitRow
from acuthesis.store.people import Conflict

Attendance = Literal["expected", "cancelled", "not_come"]
LONGEST = timedelta(hours=4)  # an appointment that began before this is over: nothing earlier can clash
FARTHEST = timedelta(days=3 * 366)
GAP_DAYS, MOST_GAPS = 28, 12


class Clash(BaseModel):
    """An appointment that needs the same practitioner, place or person at the same time."""

    visit_id: uuid.UUID
    shared: list[Shared]
    words: str


class Appointment(BaseModel):
    """An appointment. `purpose` is told to those who may read health records, and to nobody else."""

    visit_id: uuid.UUID
    version: int
    person_id: uuid.UUID
    given_name: str
    family_name: str
    starts_at: datetime
    minutes: int
    practitioner_id: uuid.UUID
    practitioner: str
    place_id: uuid.UUID | None
    place: str
    purpose: str
    came: Literal["booked", "walk_in"]
    attendance: Attendance
    reason: str
    treatment: Literal["not_begun", "open", "over"]
    clashes: list[Clash]


class Planned(BaseModel):
    """A planned visit that is booked, dropped, or neither yet."""

    id: uuid.UUID
    series_id: uuid.UUID
    number: int
    due_on: date
    minutes: int
    purpose: str
    visit_id: uuid.UUID | None
    dropped: bool


@dataclass(frozen=True)
class BookingInput:
    """What an appointment is booked or moved to; None leaves a thing as it is, or as is usual."""

    starts_at: datetime | None = None
    minutes: int | None = None
    practitioner_id: uuid.UUID | None = None
    place_id: uuid.UUID | None = None
    no_place: bool = False
    purpose: str | None = None


def appointments(here: Here, first: date, days: int) -> list[Appointment]:
    """The appointments of some days of the practice, each with what it clashes with."""
    start, end = here.day_bounds(first)[0], here.day_bounds(first + timedelta(days=days - 1))[1]
    here.reads(None, "appointments")
    found = booking.between(here.db, start - LONGEST, end + LONGEST)
    return [_shown(here, one, found) for one in found if start <= one.visit.starts_at < end]


def appointment(here: Here, visit_id: uuid.UUID) -> Appointment:
    """One appointment. Raises: NotFound."""
    return _among(here, booking.one(here.db, visit_id))


def of_person(here: Here, person_id: uuid.UUID) -> list[Appointment]:
    """A person's appointments in order: held, missed, cancelled and to come. Raises: NotFound."""
    row = people.person(here.db, person_id)
    return [_shown(here, one, ()) for one in booking.of_person(here.db, row.id)]


def book(
    here: Here, person_id: uuid.UUID, wish: BookingInput, came: Literal["booked", "walk_in"] = "booked"
) -> Appointment:
    """Book an appointment; for a walk-in it begins now. Clashes are said, not forbidden.

    Raises: NotFound; NotAllowed for somebody who holds no visits; OutOfRange for a time that no diary has.
    """
    person = people.person(here.db, person_id)
    row = VisitRow(
        id=uuid.uuid4(),
        version=1,
        booking_version=1,
        practice_id=here.practice_id,
        person_id=person.id,
        practitioner_id=person.in_charge or _default_practitioner(here),
        starts_at=now(),
        minutes=here.practitioner.usual_minutes,
        came=came,
        booked_by=here.practitioner.id,
    )
    if wish.practitioner_id is None and came == "walk_in" and here.role in HOLDS_VISITS:
        row.practitioner_id = here.practitioner.id  # whoever takes somebody in on the spot treats them
    _apply(here, row, wish)
    here.db.add(row)
    here.audit(person.id, "walk-in added" if came == "walk_in" else "appointment booked")
    here.db.flush()
    return _among(here, booking.one(here.db, row.id))


def move(here: Here, visit_id: uuid.UUID, version: int, wish: BookingInput) -> Appointment:
    """Move or change an appointment. Raises: NotFound, Conflict, NotAllowed once it has begun, OutOfRange."""
    row = _open(here, visit_id, version, "moved", also=wish.starts_at is None)
    if row.attendance != "expected":
        raise NotAllowed(message("booking-appointment-cancelled-or-missed-book"), where="visit_id")
    _apply(here, row, wish)
    here.audit(row.person_id, "appointment changed")
    here.db.flush()
    return _among(here, booking.one(here.db, row.id))


def mark(here: Here, visit_id: uuid.UUID, version: int, attendance: Attendance, reason: str) -> Appointment:
    """Cancel an appointment, note that nobody came, or take either back.

    A planned visit that was booked for it is free to be booked again. Raises: NotFound, Conflict; NotAllowed once it
    has begun, and for a visit that is missed before it was due.
    """
    row = _open(here, visit_id, version, {"cancelled": "cancelled", "not_come": "missed"}.get(attendance, "changed"))
    if attendance == "not_come" and row.starts_at > now():
        raise NotAllowed(message("booking-appointment-future-cancel-instead"), where="visit_id")
    row.attendance, row.attendance_reason = attendance, reason if attendance != "expected" else ""
    if attendance != "expected":
        for planned in booking.planned_by_visit(here.db, [row.id]).values():
            planned.visit_id = None
    said = {"cancelled": "cancelled", "not_come": "marked as missed", "expected": "reinstated"}[attendance]
    here.audit(row.person_id, f"appointment {said}")
    here.db.flush()
    return _among(here, booking.one(here.db, row.id))


def gaps(
    here: Here, minutes: int, first: date, practitioner_id: uuid.UUID | None, place_id: uuid.UUID | None
) -> list[Gap]:
    """Where there is room for so many minutes in the coming weeks, for a practitioner and, if one is named, a place."""
    who = practitioner_id or _default_practitioner(here)
    here.must_find_colleague(who)
    if place_id is not None:
        booking.place(here.db, place_id)
    days = [first + timedelta(days=number) for number in range(GAP_DAYS)]
    start, end = here.day_bounds(days[0])[0], here.day_bounds(days[-1])[1]
    taken = [
        (one.visit.starts_at, one.visit.starts_at + timedelta(minutes=one.visit.minutes))
        for one in booking.between(here.db, start - LONGEST, end)
        if one.visit.attendance == "expected"
        and (one.visit.practitioner_id == who or (place_id is not None and one.visit.place_id == place_id))
    ]
    return free_gaps(taken, hours_here(here), days, here.zone, minutes, now())[:MOST_GAPS]


def hours_here(here: Here) -> Hours:
    """The practice's working hours."""
    return hours_of(here.practice.hours)


def plan_series(
    here: Here, person_id: uuid.UUID, first: date, visits: Sequence[tuple[int, str]], minutes: int
) -> list[Planned]:
    """Plan a series: for each visit, days after the first and what it is for. Days off are passed over.

    What is still planned of an earlier series, and not booked, is dropped. Raises: NotFound.
    """
    person = people.person(here.db, person_id)
    for row in booking.planned_of(here.db, person.id):
        if row.visit_id is None and row.dropped_at is None:
            row.dropped_at = now()
    series = uuid.uuid4()
    due = due_dates(first, [after for after, _ in visits], hours_here(here))
    for number, (day, (_, purpose)) in enumerate(zip(due, visits, strict=True), start=1):
        here.db.add(
            PlannedVisitRow(
                id=uuid.uuid4(),
                practice_id=here.practice_id,
                person_id=person.id,
                series_id=series,
                number=number,
                due_on=day,
                minutes=minutes,
                purpose=purpose,
                planned_by=here.practitioner.id,
            )
        )
    here.audit(person.id, "series planned")
    here.db.flush()
    return planned_of(here, person.id)


def planned_of(here: Here, person_id: uuid.UUID) -> list[Planned]:
    """What is planned for a person. Raises: NotFound."""
    person = people.person(here.db, person_id)
    here.reads(person.id, "appointments")
    return [_planned(here, row) for row in booking.planned_of(here.db, person.id)]


def book_planned(here: Here, planned_id: uuid.UUID, wish: BookingInput) -> Appointment:
    """Book a planned visit. Raises: NotFound; Conflict if it is booked or dropped already."""
    row = booking.planned(here.db, planned_id)
    if row.visit_id is not None or row.dropped_at is not None:
        raise Conflict(message("booking-planned-visit-already-been-booked"), where="planned_id")
    wanted = BookingInput(
        wish.starts_at,
        wish.minutes or row.minutes,
        wish.practitioner_id,
        wish.place_id,
        purpose=wish.purpose or row.purpose,
    )
    booked = book(here, row.person_id, wanted)
    row.visit_id = booked.visit_id
    here.db.flush()
    return booked


def delete_planned(here: Here, planned_id: uuid.UUID) -> Planned:
    """A planned visit that will not be. Raises: NotFound; Conflict if it is booked already."""
    row = booking.planned(here.db, planned_id)
    if row.visit_id is not None:
        raise Conflict(message("booking-planned-visit-booked-cancel-appointment"), where="planned_id")
    row.dropped_at = row.dropped_at or now()
    here.audit(row.person_id, "planned visit dropped")
    here.db.flush()
    return _planned(here, row)


def _planned(here: Here, row: PlannedVisitRow) -> Planned:
    return Planned(
        id=row.id,
        series_id=row.series_id,
        number=row.number,
        due_on=row.due_on,
        minutes=row.minutes,
        purpose=row.purpose if _reads(here) else "",
        visit_id=row.visit_id,
        dropped=row.dropped_at is not None,
    )


def _reads(here: Here) -> bool:
    return "read_health" in POWERS[here.role]


def _default_practitioner(here: Here) -> uuid.UUID:
    """Whoever asks, if they hold visits; else the first here who does."""
    if here.role in HOLDS_VISITS:
        return here.practitioner.id
    for row in here.colleagues:
        if row.email is not None and row.role in HOLDS_VISITS:
            return row.id
    raise NotAllowed(message("booking-no-one-practice-takes-appointments"), where="practitioner_id")


def _open(here: Here, visit_id: uuid.UUID, version: int, what: str, also: bool = False) -> VisitRow:
    row = booking.one(here.db, visit_id, lock=True).visit
    if row.booking_version != version:
        raise Conflict(
            message("booking-appointment-changed-another-window-reload"),
            where="version",
        )
    if row.treatment != "not_begun" and not also:
        raise NotAllowed(message("booking-session-started-so-appointment-cannot", what=what), where="visit_id")
    row.booking_version += 1
    return row


def _apply(here: Here, row: VisitRow, wish: BookingInput) -> None:
    if wish.starts_at is not None:
        if abs(wish.starts_at - now()) > FARTHEST:
            raise OutOfRange(message("booking-appointments-booked-up-three-years"), where="starts_at")
        row.starts_at = wish.starts_at.astimezone(UTC)
    if wish.minutes is not None:
        row.minutes = wish.minutes
    if wish.practitioner_id is not None:
        who = here.must_find_colleague(wish.practitioner_id)
        if who.email is None or who.role not in HOLDS_VISITS:
            raise NotAllowed(message("booking-does-not-take-appointments", name=who.name), where="practitioner_id")
        row.practitioner_id = who.id
    if wish.place_id is not None:
        row.place_id = booking.place(here.db, wish.place_id).id
    elif wish.no_place:
        row.place_id = None
    if wish.purpose is not None:
        row.purpose = wish.purpose


def _among(here: Here, one: Booked) -> Appointment:
    around = booking.between(
        here.db, one.visit.starts_at - LONGEST, one.visit.starts_at + timedelta(minutes=one.visit.minutes)
    )
    return _shown(here, one, around)


def _slot(one: Booked) -> Slot:
    visit = one.visit
    return Slot(visit.id, visit.starts_at, visit.minutes, visit.practitioner_id, visit.person_id, visit.place_id)


def _shown(here: Here, one: Booked, around: Sequence[Booked]) -> Appointment:
    visit = one.visit
    counted = {other.visit.id: other for other in around if other.visit.attendance == "expected"}
    found = clashes(_slot(one), [_slot(other) for other in counted.values()]) if visit.attendance == "expected" else []
    return Appointment(
        visit_id=visit.id,
        version=visit.booking_version,
        person_id=visit.person_id,
        given_name=one.person.given_name,
        family_name=one.person.family_name,
        starts_at=visit.starts_at,
        minutes=visit.minutes,
        practitioner_id=visit.practitioner_id,
        practitioner=one.practitioner,
        place_id=visit.place_id,
        place=one.place,
        purpose=visit.purpose if _reads(here) else "",
        came=visit.came,
        attendance=visit.attendance,
        treatment=visit.treatment,
        reason=visit.attendance_reason,
        clashes=[
            Clash(visit_id=other.id, shared=list(shared), words=_in_words(here, counted[other.id], shared))  # type: ignore[index]
            for other, shared in found
        ],
    )


def _in_words(here: Here, other: Booked, shared: Sequence[Shared]) -> str:
    who = f"{other.person.given_name} {other.person.family_name}".strip()
    what = {
        "practitioner": f"{other.practitioner} treats {who}",
        "place": f"{other.place} is taken by {who}",
        "person": f"{who} has another appointment",
    }[shared[-1] if "person" in shared else shared[0]]
    return f"{what} at {here.local(other.visit.starts_at):%H:%M}, {other.visit.minutes} min"
