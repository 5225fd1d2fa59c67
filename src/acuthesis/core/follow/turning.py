"""Change point: when the ratings went from one level to another, and how certain that is.

Every place where the course could be cut in two is weighed by how well two levels with equal scatter explain it; the
interval is the days that hold nine tenths of the weight. Nothing is said where one level, or a straight line, explains
the ratings as well.
Assumptions: two levels at most, scatter alike on both sides. Source: change-point teaching (least squares).
"""

from collections.abc import Sequence
from datetime import date
from math import log

import numpy as np
from pydantic import BaseModel

from acuthesis.core.follow.ratings import Rating

FEWEST = 8  # ratings
SIDE = 3  # ratings on either side of a turning point at least
SURE = 6.0  # by how much two levels must explain better than one (information criterion); six is called strong
SHARE = 0.9
LEAST_SCATTER = 0.3  # rounding alone leaves about this much


class TurningPoint(BaseModel):
    """The day before which it turned most likely, the days between which it did (nine of ten), the levels around it."""

    on: date
    earliest: date
    latest: date
    before: float
    after: float


def turning_point(course: Sequence[Rating]) -> TurningPoint | None:
    """The turning point of a course in order, or none that can be told.

    >>> from datetime import timedelta
    >>> told = [Rating(on=date(2026, 3, 1) + timedelta(days=4 * n), value=v)
    ...     for n, v in enumerate([7, 8, 7, 7, 8, 4, 3, 4, 3, 4])]
    >>> found = turning_point(told)
    >>> found.on, found.before, found.after
    (datetime.date(2026, 3, 21), 7.4, 3.6)
    """
    count = len(course)
    if count < FEWEST or len({rating.on for rating in course}) < 2 * SIDE:
        return None
    told = np.array([rating.value for rating in course], dtype=float)
    cuts = range(SIDE, count - SIDE + 1)
    floor = count * LEAST_SCATTER**2
    whole = max(_about_a_level(told), floor)
    parted = np.array([max(_about_a_level(told[:cut]) + _about_a_level(told[cut:]), floor) for cut in cuts])
    # Two more numbers are fitted: the second level, and where it begins.
    better_by = count * log(whole / parted.min()) - 2 * log(count)
    # A course that falls evenly has no turning point, though two levels tell it better than one.
    even = max(_about_a_line([rating.day for rating in course], told), floor)
    if better_by < SURE or count * log(even / parted.min()) - log(count) < SURE / 3:
        return None
    weights = (parted.min() / parted) ** (count / 2)
    weights /= weights.sum()
    best = int(np.argmax(weights))
    kept = _most_likely(weights)
    cut = cuts[best]
    return TurningPoint(
        on=course[cut].on,
        earliest=course[cuts[min(kept)] - 1].on,
        latest=course[cuts[max(kept)]].on,
        before=round(float(told[:cut].mean()), 1),
        after=round(float(told[cut:].mean()), 1),
    )


def _about_a_level(told: np.ndarray) -> float:
    """The squares that one level leaves."""
    return float(((told - told.mean()) ** 2).sum())


def _about_a_line(days: Sequence[float], told: np.ndarray) -> float:
    """The squares that a straight line leaves."""
    line = np.polyfit(np.array(days) - days[0], told, 1)
    return float(((told - np.polyval(line, np.array(days) - days[0])) ** 2).sum())


def _most_likely(weights: np.ndarray) -> list[int]:
    """The places that hold nine tenths of the weight, the heaviest first."""
    kept: list[int] = []
    for place in np.argsort(-weights):
        kept.append(int(place))
        if weights[kept].sum() >= SHARE:
            break
    return kept
