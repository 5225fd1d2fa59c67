"""Appointments: the week, booking, moving, cancelling, walk-ins, series, free times, what is due without a visit."""

import uuid
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import OWN_TRANSACTION, Booking, SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import Day, Line, LineOrNone
from acuthesis.core.errors import CoreError
from acuthesis.core.instant import Instant
from acuthesis.core.message import message
from acuthesis.services.calendar import booking, due, feeds
from acuthesis.services.calendar.booking import Appointment, Attendance, BookingInput, Planned
from acuthesis.services.calendar.due import Due
from acuthesis.services.practice.practice import WorkingHours, spans

router = APIRouter(route_class=StrictRoute, tags=["booking"])
Minutes = Annotated[int, Field(ge=3, le=240)]
ICS: dict[int | str, dict[str, object]] = {200: {"content": {"text/calendar": {}}}}


class _In(BaseModel):
    model_config = ConfigDict(extra="forbid")


class NewAppointment(_In):
    """An appointment to book. Without a practitioner it is held by whoever is in charge of the person."""

    person_id: uuid.UUID
    starts_at: Instant
    minutes: Minutes | None = None
    practitioner_id: uuid.UUID | None = None
    place_id: uuid.UUID | None = None
    purpose: LineOrNone = ""


class WalkIn(_In):
    """A visit that begins now."""

    minutes: Minutes | None = None
    place_id: uuid.UUID | None = None


class AppointmentChange(_In):
    """Changes to an appointment; `version` is the one that was seen."""

    version: int
    starts_at: Instant | None = None
    minutes: Minutes | None = None
    practitioner_id: uuid.UUID | None = None
    place_id: uuid.UUID | None = None
    no_place: bool = False
    purpose: LineOrNone | None = None


class Mark(_In):
    """Cancelled, missed, or expected after all; a cancellation has a reason."""

    version: int
    attendance: Attendance
    reason: LineOrNone = ""


class Week(BaseModel):
    """Appointments of some days, and the working hours by day of the week (0 Monday)."""

    first: Day
    days: int
    hours: dict[int, WorkingHours]
    appointments: list[Appointment]


class GapOut(BaseModel):
    """Free time: when it begins, and how many minutes it lasts."""

    starts_at: datetime
    minutes: int


class PlannedStep(_In):
    """One visit of a series: days after the first, and what it is for."""

    after_days: Annotated[int, Field(ge=0, le=366)]
    purpose: LineOrNone = ""


class NewSeries(_In):
    """A series of visits: the day of the first, minutes, and one step a visit."""

    first: Day
    minutes: Minutes
    visits: Annotated[list[PlannedStep], Field(min_length=1, max_length=60)]


class BookPlanned(_In):
    """When, and if need be with whom and where, a planned visit is booked."""

    starts_at: Instant
    practitioner_id: uuid.UUID | None = None
    place_id: uuid.UUID | None = None


@router.get("/appointments")
def list_appointments(
    here: Booking,
    first: Annotated[Day | None, Query(description="a day of the practice; today without it")] = None,
    days: Annotated[int, Query(ge=1, le=42)] = 7,
) -> Week:
    """The appointments of some days, with what clashes."""
    begin = first or here.today
    return Week(
        first=begin,
        days=days,
        hours=spans(booking.hours_here(here)),
        appointments=booking.appointments(here, begin, days),
    )


@router.get("/people/{person_id}/appointments")
def list_of_person(person_id: uuid.UUID, here: Booking) -> list[Appointment]:
    """A person's appointments in order: held, missed, cancelled, and to come."""
    here.reads(person_id, "appointments")
    return booking.of_person(here, person_id)


@router.post("/appointments", status_code=201)
def book(new: NewAppointment, here: Booking) -> Appointment:
    """Book an appointment. Clashes are said, not forbidden."""
    wish = BookingInput(new.starts_at, new.minutes, new.practitioner_id, new.place_id, purpose=new.purpose)
    return booking.book(here, new.person_id, wish)


@router.post("/people/{person_id}/walk-in", status_code=201)
def walk_in(person_id: uuid.UUID, new: WalkIn, here: Booking) -> Appointment:
    """Somebody is here without an appointment: a visit begins now."""
    return booking.book(here, person_id, BookingInput(minutes=new.minutes, place_id=new.place_id), "walk_in")


@router.get("/appointments/{visit_id}")
def read_appointment(visit_id: uuid.UUID, here: Booking) -> Appointment:
    """One appointment."""
    found = booking.appointment(here, visit_id)
    here.reads(found.person_id, "appointments")
    return found


@router.patch("/appointments/{visit_id}")
def change_appointment(visit_id: uuid.UUID, change: AppointmentChange, here: Booking) -> Appointment:
    """Move or change an appointment. Clashes are said, not forbidden."""
    wish = BookingInput(**change.model_dump(exclude={"version"}))
    return booking.move(here, visit_id, change.version, wish)


@router.post("/appointments/{visit_id}/attendance")
def mark_appointment(visit_id: uuid.UUID, wanted: Mark, here: Booking) -> Appointment:
    """Cancel an appointment with a reason, note that nobody came, or take either back."""
    if wanted.attendance == "cancelled" and not wanted.reason:
        raise CoreError(message("booking-enter-reason-word-or-two"), where="reason")
    return booking.mark(here, visit_id, wanted.version, wanted.attendance, wanted.reason)


@router.get("/gaps")
def find_gaps(
    here: Booking,
    minutes: Annotated[int, Query(ge=3, le=240)],
    first: Day | None = None,
    practitioner_id: uuid.UUID | None = None,
    place_id: uuid.UUID | None = None,
) -> list[GapOut]:
    """Where there is room for so many minutes within four weeks, in working hours."""
    found = booking.gaps(here, minutes, first or here.today, practitioner_id, place_id)
    return [GapOut(starts_at=one.starts_at, minutes=one.minutes) for one in found]


@router.get("/people/{person_id}/planned")
def list_planned(person_id: uuid.UUID, here: Booking) -> list[Planned]:
    """What is planned for a person: booked, dropped, or neither yet."""
    return booking.planned_of(here, person_id)


@router.post("/people/{person_id}/series", status_code=201)
def plan_series(person_id: uuid.UUID, new: NewSeries, here: SignedIn) -> list[Planned]:
    """Plan a series. What is not booked yet of an earlier one is dropped."""
    return booking.plan_series(
        here, person_id, new.first, [(visit.after_days, visit.purpose) for visit in new.visits], new.minutes
    )


@router.post("/planned/{planned_id}/book", status_code=201)
def book_planned(planned_id: uuid.UUID, wanted: BookPlanned, here: Booking) -> Appointment:
    """Book a planned visit."""
    wish = BookingInput(wanted.starts_at, practitioner_id=wanted.practitioner_id, place_id=wanted.place_id)
    return booking.book_planned(here, planned_id, wish)


@router.post("/planned/{planned_id}/drop")
def delete_planned(planned_id: uuid.UUID, here: SignedIn) -> Planned:
    """A planned visit that will not be."""
    return booking.delete_planned(here, planned_id)


@router.get("/due")
def list_due(here: SignedIn) -> list[Due]:
    """What is due without a visit: planned visits, answers to letters, measures, screening that grows old."""
    return due.due(here)


@router.get("/appointments/{visit_id}/appointment.ics", response_class=Response, responses=ICS)
def appointment_file(visit_id: uuid.UUID, here: Booking) -> Response:
    """An appointment as a file for the person's own calendar."""
    content = feeds.for_person(here, visit_id)
    headers = {"Content-Disposition": 'attachment; filename="appointment.ics"'}
    return Response(content, media_type="text/calendar; charset=utf-8", headers=headers)


@router.get("/calendar/{token}.ics", response_class=Response, responses=ICS, dependencies=OWN_TRANSACTION)
def calendar_feed(token: Line) -> Response:
    """The private feed of a practitioner's appointments; whoever has the address reads it, until it is ended."""
    return Response(feeds.feed(token), media_type="text/calendar; charset=utf-8")
