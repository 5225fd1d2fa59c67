"""The trend in points a week: Theil-Sen, the median of all slopes between two ratings, robust to outliers.

Assumption: the course is roughly straight over the time looked at. Source: robust statistics teaching (Theil-Sen),
scipy's.
"""

from collections.abc import Sequence

from pydantic import BaseModel
from scipy import stats

from acuthesis.core.follow.estimate import INTERVAL, Estimate
from acuthesis.core.follow.ratings import Rating

FEWEST = 5
WEEK = 7


class Trend(BaseModel):
    """Points a week with the 95 of 100 interval, over so many ratings in so many days."""

    per_week: Estimate
    ratings: int
    days: int


def trend(course: Sequence[Rating]) -> Trend | None:
    """The trend of a course in order; none with fewer than five ratings on different days.

    >>> from datetime import date, timedelta
    >>> told = [Rating(on=date(2026, 3, 1) + timedelta(days=7 * n), value=v)
    ...     for n, v in enumerate([8, 7, 7, 2, 5, 4, 4])]
    >>> trend(told).per_week.rounded()
    Estimate(middle=-0.8, low=-1.0, high=0.0)
    """
    days = [rating.day for rating in course]
    if len({rating.on for rating in course}) < FEWEST:
        return None
    found = stats.theilslopes([rating.value for rating in course], days, alpha=INTERVAL)
    slope, low, high = (WEEK * float(one) for one in (found.slope, found.low_slope, found.high_slope))
    return Trend(
        per_week=Estimate(middle=slope, low=low, high=high),
        ratings=len(course),
        days=(course[-1].on - course[0].on).days,
    )
