"""Calendars: the private feed of a practitioner, and one appointment as a file for the person."""

import uuid
from datetime import timedelta

from sqlalchemy import select

from acuthesis.core.message import message
from acuthesis.exchange.calendar import CalendarEntry, calendar
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.services.request.roles import POWERS
from acuthesis.store import booking, links
from acuthesis.store.booking import Booked
from acuthesis.store.database import see_practice, transaction
from acuthesis.store.model import PracticeRow, PractitionerRow
from acuthesis.store.people import NotFound

LOOKING_BACK = timedelta(days=60)
GONE = message("feeds-there-no-calendar-at-address")


def feed(token: str) -> bytes:
    """A practitioner's appointments from two months ago on. Names are initials unless they want them whole.

    Raises: NotFound if the feed was ended or never was.
    """
    practice_id = links.practice_of(token)
    if practice_id is None:
        raise NotFound(GONE, where="token")
    with transaction() as db:
        see_practice(db, practice_id)
        row = db.scalar(select(PractitionerRow).where(PractitionerRow.calendar_hash == links.token_hash(token)))
        if row is None or row.email is None or "book" not in POWERS[row.role]:  # type: ignore[index]  # the database checks it
            raise NotFound(GONE, where="token")
        practice = db.get_one(PracticeRow, practice_id)
        booked = booking.of_practitioner(db, row.id, now() - LOOKING_BACK)
        entries = [_entry(one, _name(one, whole=row.calendar_names)) for one in booked]
        return calendar(f"{practice.name}: {row.name}", entries)


def for_person(here: Here, visit_id: uuid.UUID) -> bytes:
    """One appointment as the person keeps it: with whom, where, and whom to call. Raises: NotFound."""
    one = booking.one(here.db, visit_id)
    here.audit(one.person.id, "appointment exported")
    return calendar(here.practice.name, [_entry(one, f"{here.practice.name}, {one.practitioner}")])


def _entry(one: Booked, title: str) -> CalendarEntry:
    visit = one.visit
    return CalendarEntry(
        uid=f"{visit.id}@acuthesis",
        starts_at=visit.starts_at,
        minutes=visit.minutes,
        title=title,
        place=one.place,
        said="",
        changed_at=visit.booked_at,
        changes=visit.booking_version - 1,
        cancelled=visit.attendance == "cancelled",
    )


def _name(one: Booked, whole: bool) -> str:
    name = f"{one.person.given_name} {one.person.family_name}".strip()
    return name if whole else " ".join(f"{word[0]}." for word in name.split())
