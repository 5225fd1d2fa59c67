"""Appointments as intervals: conflicts, free times, and the dates of a series."""

from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import Literal
from zoneinfo import ZoneInfo

Shared = Literal["practitioner", "place", "person"]
Hours = Mapping[int, tuple[time, time]]
STEP = timedelta(minutes=15)  # appointments begin on the quarter of an hour, as diaries are ruled


@dataclass(frozen=True)
class Slot:
    """An appointment: when, how long, and whom and what it takes. `place` is None where none is named."""

    id: Hashable
    starts_at: datetime
    minutes: int
    practitioner: Hashable
    person: Hashable
    place: Hashable | None = None

    @property
    def ends_at(self) -> datetime:
        """When it is over."""
        return self.starts_at + timedelta(minutes=self.minutes)


@dataclass(frozen=True)
class Gap:
    """Free time within the working hours: when it begins, and how many minutes it lasts."""

    starts_at: datetime
    minutes: int


def clashes(one: Slot, others: Iterable[Slot]) -> list[tuple[Slot, tuple[Shared, ...]]]:
    """What an appointment clashes with, each with what both would need at once; those that only touch do not clash.

    >>> at = datetime(2026, 3, 2, 9, tzinfo=UTC)
    >>> first, second = Slot(1, at, 45, "Ode", "Bram"), Slot(2, at + timedelta(minutes=30), 45, "Ode", "Wren")
    >>> [shared for _, shared in clashes(first, [second])]
    [('practitioner',)]
    >>> clashes(first, [Slot(3, at + timedelta(minutes=45), 45, "Ode", "Wren")])
    []
    """
    found = []
    for other in others:
        if other.id == one.id or other.starts_at >= one.ends_at or one.starts_at >= other.ends_at:
            continue
        shared: list[Shared] = []
        if one.practitioner == other.practitioner:
            shared.append("practitioner")
        if one.place is not None and one.place == other.place:
            shared.append("place")
        if one.person == other.person:
            shared.append("person")
        if shared:
            found.append((other, tuple(shared)))
    return found


def free_gaps(
    busy: Iterable[tuple[datetime, datetime]],
    hours: Hours,
    days: Sequence[date],
    zone: ZoneInfo,
    minutes: int,
    earliest: datetime,
) -> list[Gap]:
    """Gaps of at least so many minutes within the working hours of some days, each from a quarter of an hour on.

    Parameters: busy, stretches that are taken, in any order and overlapping or not; hours, from and to by day of the
    week (0 Monday) on the practice's clock; earliest, nothing begins before it. Returns them in order of time, in UTC.

    >>> nine = datetime(2026, 3, 2, 9, tzinfo=UTC)
    >>> taken = [(nine + timedelta(minutes=30), nine + timedelta(minutes=75))]
    >>> hours = {0: (time(9), time(11))}
    >>> [(f"{gap.starts_at:%H:%M}", gap.minutes) for gap in
    ...     free_gaps(taken, hours, [nine.date()], ZoneInfo("UTC"), 30, nine)]
    [('09:00', 30), ('10:15', 45)]
    """
    taken = sorted(busy)
    found = []
    for day in days:
        if day.weekday() not in hours:
            continue
        opens, closes = (datetime.combine(day, at, zone).astimezone(UTC) for at in hours[day.weekday()])
        at = max(opens, _next_quarter(earliest))
        for begins, ends in [*taken, (closes, closes)]:
            until = min(begins, closes)
            free = int((until - at).total_seconds() // 60)
            if free >= minutes:
                found.append(Gap(at, free))
            at = max(at, _next_quarter(ends))
            if at >= closes:
                break
    return found


def _next_quarter(moment: datetime) -> datetime:
    """The moment itself if it is on the quarter of an hour, else the next that is."""
    at = moment.astimezone(UTC)
    whole = at.replace(second=0, microsecond=0)
    past = (whole - whole.replace(minute=0)) % STEP
    if past == timedelta(0) and whole == at:
        return whole
    return whole + STEP - past


def due_dates(first: date, days: Sequence[int], hours: Hours) -> list[date]:
    """When the visits of a series fall due: so many days after the first, moved on to a day on which people work.

    >>> [f"{day:%a %d}" for day in due_dates(date(2026, 3, 2), [0, 5, 12], {0: (time(9), time(17))})]
    ['Mon 02', 'Mon 09', 'Mon 16']
    """
    found: list[date] = []
    for after in days:
        day = first + timedelta(days=after)
        for _ in range(7):
            if not hours or day.weekday() in hours:
                break
            day += timedelta(days=1)
        found.append(day)
    return found
