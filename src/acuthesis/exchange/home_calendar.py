"""A home plan and the reminders of a diary as iCalendar (RFC 5545).

Times are floating: eight in the morning wherever the person is.
"""

import uuid
from collections.abc import Sequence
from datetime import date, datetime, time, timedelta

from icalendar import Alarm, Calendar, Event, vText

from acuthesis.core.compose.home.plan import HomePlan, HomeSet
from acuthesis.core.words import short_id

NOT_MONITORED = "The diary is not monitored. In an emergency, call for help."
PRODUCT = "-//Acuthesis//home//EN"
BETWEEN_PLACES_S = 20  # finding the next place takes so long
SHORTEST = timedelta(minutes=5)


def home_calendar(
    plan_id: uuid.UUID,
    practice: str,
    plan: HomePlan,
    hours: Sequence[str],
    first_day: date,
    until: date,
    made_at: datetime,
) -> bytes:
    """One series a set and hour ("08:00"): sets take turns day by day, from `first_day` to `until`."""
    whole = _calendar(f"{practice}: home plan")
    for turn, own in enumerate(plan.sets):
        starts = first_day + timedelta(days=turn)
        if starts > until:
            continue
        for hour in hours:
            title = f"Press set {own.name}" if len(plan.sets) > 1 else "Press at home"
            event = _event(f"{plan_id}-{own.name}-{hour}@acuthesis", title, starts, hour, _length(own), made_at)
            event.add("description", _told(own))
            event.add("rrule", {"freq": "daily", "interval": len(plan.sets), "until": _at(until, hour)})
            whole.add_component(event)
    return bytes(whole.to_ical())


def diary_calendar(
    diary_id: uuid.UUID, practice: str, address: str, hours: Sequence[str], until: date, made_at: datetime
) -> bytes:
    """Reminders of the diary: one series an hour, every day until the diary ends. `address`: where it is opened."""
    whole = _calendar(f"{practice}: diary")
    for hour in hours:
        event = _event(f"{diary_id}-{hour}@acuthesis", "How is it now?", made_at.date(), hour, SHORTEST, made_at)
        event.add(
            "description", f"Takes five seconds: {address}\nThe diary is not monitored. In an emergency, call for help."
        )
        event.add("url", address)
        event.add("rrule", {"freq": "daily", "until": _at(until, hour)})
        whole.add_component(event)
    return bytes(whole.to_ical())


def _calendar(name: str) -> Calendar:
    whole = Calendar()
    whole.add("prodid", PRODUCT)
    whole.add("version", "2.0")
    whole.add("method", "PUBLISH")
    whole.add("x-wr-calname", vText(name))
    return whole


def _event(uid: str, title: str, day: date, hour: str, length: timedelta, made_at: datetime) -> Event:
    event = Event()
    event.add("uid", uid)
    event.add("dtstamp", made_at)
    event.add("dtstart", _at(day, hour))
    event.add("duration", length)
    event.add("summary", title)
    alarm = Alarm()
    alarm.add("action", "DISPLAY")
    alarm.add("description", title)
    alarm.add("trigger", timedelta(0))
    event.add_component(alarm)
    return event


def _at(day: date, hour: str) -> datetime:
    return datetime.combine(day, time.fromisoformat(hour))


def _length(own: HomeSet) -> timedelta:
    seconds = sum(point.seconds * (2 if point.side == "both" else 1) + BETWEEN_PLACES_S for point in own.points)
    return max(timedelta(minutes=-(-seconds // 60)), SHORTEST)


def _told(own: HomeSet) -> str:
    rows = [
        f"{short_id(point.id)}, {point.name}{_side(point.side)}: {point.dose_words}. {point.how_hard}"
        for point in own.points
    ]
    return "\n".join(rows)


def _side(side: str) -> str:
    return {"both": " (both sides)", "left": " (left)", "right": " (right)"}.get(side, "")
