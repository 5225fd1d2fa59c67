"""Appointments as iCalendar (RFC 5545)."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta

from icalendar import Calendar, Event, vText

PRODUCT = "-//Acuthesis//appointments//EN"


@dataclass(frozen=True)
class CalendarEntry:
    """One appointment in a calendar. `changes` grows with every change, so that calendars take the newest."""

    uid: str
    starts_at: datetime
    minutes: int
    title: str
    place: str
    said: str
    changed_at: datetime
    changes: int
    cancelled: bool = False


def calendar(name: str, entries: Iterable[CalendarEntry]) -> bytes:
    """A calendar of appointments, under a name.

    >>> from datetime import UTC
    >>> at = datetime(2026, 3, 2, 9, tzinfo=UTC)
    >>> b"SUMMARY:B. O." in calendar("Ode", [CalendarEntry("1@example", at, 45, "B. O.", "", "", at, 0)])
    True
    """
    whole = Calendar()
    whole.add("prodid", PRODUCT)
    whole.add("version", "2.0")
    whole.add("method", "PUBLISH")
    whole.add("x-wr-calname", vText(name))
    for entry in entries:
        event = Event()
        event.add("uid", entry.uid)
        event.add("dtstart", entry.starts_at)
        event.add("dtend", entry.starts_at + timedelta(minutes=entry.minutes))
        event.add("dtstamp", entry.changed_at)
        event.add("sequence", entry.changes)
        event.add("summary", entry.title)
        event.add("status", "CANCELLED" if entry.cancelled else "CONFIRMED")
        if entry.place:
            event.add("location", entry.place)
        if entry.said:
            event.add("description", entry.said)
        whole.add_component(event)
    return bytes(whole.to_ical())
