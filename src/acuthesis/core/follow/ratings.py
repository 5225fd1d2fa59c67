"""What following reads: ratings with their moment, the sessions, and the two phases that are compared."""

from collections.abc import Sequence
from datetime import date, time
from functools import cached_property
from itertools import pairwise
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

RatingMoment = Literal["before", "after", "home"]
NOON = time(12)
# The last three weeks stand for now: long enough for several ratings, short enough to be now.
NOW_DAYS = 21
FEWEST_NOW = 2  # ratings that stand for now, however long ago they are


class Rating(BaseModel):
    """One rating, 0 (none) to 10 (worst), with its day and hour by the practice's clock and who said it."""

    model_config = ConfigDict(extra="forbid")

    on: date
    at: time = NOON
    value: int = Field(ge=0, le=10)
    moment: RatingMoment = "before"
    said_by: str = ""

    @property
    def day(self) -> float:
        """Days since the calendar began, with the hour as a part of the day."""
        return day_number(self.on, self.at)


class HeldSession(BaseModel):
    """A session that was held, with what was pressed in it."""

    model_config = ConfigDict(extra="forbid")

    on: date
    at: time = NOON
    pressed: frozenset[str] = frozenset()

    @property
    def day(self) -> float:
        """Days since the calendar began."""
        return day_number(self.on, self.at)


class Series(BaseModel):
    """Ratings of one complaint (or of one act) of one person, and the sessions between them.

    Without `sessions`, those are taken to have been held where there is a rating before or after one.
    """

    model_config = ConfigDict(extra="forbid")

    complaint: str = ""
    ratings: list[Rating] = []
    sessions: list[HeldSession] | None = None

    @cached_property
    def course(self) -> list[Rating]:
        """The ratings that carry the course, in order: those before a session and from home."""
        return sorted(
            (rating for rating in self.ratings if rating.moment != "after"), key=lambda one: (one.day, one.value)
        )

    @cached_property
    def held(self) -> list[HeldSession]:
        """The sessions, in order. One that is only known from its ratings lies right after the rating before it."""
        if self.sessions is not None:
            return sorted(self.sessions, key=lambda one: one.day)
        days: dict[date, time] = {}
        for one in sorted(self.ratings, key=lambda one: (one.moment != "before", one.day)):
            if one.moment != "home":
                days.setdefault(one.on, one.at)
        return [HeldSession(on=on, at=at) for on, at in sorted(days.items())]

    @cached_property
    def visits(self) -> int:
        """On how many days there was a rating before a session."""
        return len({rating.on for rating in self.ratings if rating.moment == "before"})

    @cached_property
    def days(self) -> int:
        """From the first to the last rating of the course."""
        return (self.course[-1].on - self.course[0].on).days if self.course else 0


class Phases(BaseModel):
    """What is compared: the ratings up to the first session, and those of the last weeks."""

    baseline: list[Rating]
    now: list[Rating]


def day_number(on: date, at: time = NOON) -> float:
    """Days since the calendar began, with the hour as a part of the day.

    >>> round(day_number(date(2026, 3, 2), time(12)) - day_number(date(2026, 3, 1), time(12)), 2)
    1.0
    """
    return on.toordinal() + (at.hour * 3600 + at.minute * 60 + at.second) / 86400


def phases(series: Series) -> Phases:
    """The baseline is what was rated up to the first session, the first rating at least; now is the last three weeks,
    the last two ratings at least. No rating is in both.

    >>> ratings = [Rating(on=date(2026, 3, 1 + 7 * n), value=7 - n) for n in range(4)]
    >>> [[one.value for one in phase] for phase in (phases(Series(ratings=ratings)).baseline,
    ...     phases(Series(ratings=ratings)).now)]
    [[7], [6, 5, 4]]
    """
    course = series.course
    if not course:
        return Phases(baseline=[], now=[])
    began = series.held[0].day if series.held else course[0].day
    baseline = [rating for rating in course if rating.day <= began] or course[:1]
    later = course[len(baseline) :]
    recent = [one for one in later if one.day > course[-1].day - NOW_DAYS]
    return Phases(baseline=baseline, now=recent if len(recent) >= FEWEST_NOW else later[-FEWEST_NOW:])


def raters_changed(parts: Phases) -> bool:
    """Whether nobody who rated at first rates now, as far as it is noted who did."""
    first, last = ({rating.said_by for rating in phase if rating.said_by} for phase in (parts.baseline, parts.now))
    return bool(first and last and not first & last)


def longest_gap(course: Sequence[Rating]) -> tuple[Rating, Rating] | None:
    """The two ratings with the longest time between them; none of fewer than two.

    >>> told = [Rating(on=date(2026, 3, day), value=5) for day in (1, 4, 20)]
    >>> [one.on.day for one in longest_gap(told)]
    [4, 20]
    """
    return max(pairwise(course), key=lambda pair: pair[1].day - pair[0].day, default=None)


def values(ratings: Sequence[Rating]) -> list[int]:
    """The values of ratings.

    >>> values([])
    []
    """
    return [rating.value for rating in ratings]
