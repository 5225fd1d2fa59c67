"""Non-overlap of two phases: how often a rating now lies below one of the baseline, whatever the size of the change.

Assumption: ratings may be swapped between the phases if nothing changed. With a trend in the baseline already there, it
is taken out before (what was getting better anyway is not counted for the work).
Source: single-case design teaching. Mann-Whitney, Theil-Sen, Kendall and the permutation test are scipy's.
"""

from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel
from scipy import stats

from acuthesis.core.follow.ratings import Phases, values

FEWEST = 3  # ratings in each phase; fewer cannot be told from chance
FOR_A_TREND = 4  # ratings in the baseline before a trend in it can be seen
REDRAWS = 4999  # of the permutation test, where not all can be counted; the seed is fixed, so the answer is too
CHANCE = 0.05


class Overlap(BaseModel):
    """`lower_now`: of all pairs, the share in which the rating now is the lower one (half for equal ones; 0.5 is no
    difference). `by_chance`: how often chance alone would show as much, in either direction. `trend_taken_out`: points
    per
    week that the baseline fell by itself."""

    lower_now: float
    by_chance: float
    pairs: int
    trend_taken_out: float | None


def overlap(parts: Phases) -> Overlap | None:
    """How far the phases lie apart; none with fewer than three ratings in either.

    >>> from datetime import date, timedelta
    >>> from acuthesis.core.follow.ratings import Rating
    >>> told = [Rating(on=date(2026, 3, 1) + timedelta(days=n), value=v) for n, v in enumerate([7, 8, 7, 3, 4, 7, 3])]
    >>> found = overlap(Phases(baseline=told[:3], now=told[3:]))
    >>> round(found.lower_now, 2), found.pairs
    (0.92, 12)
    """
    before, now = np.array(values(parts.baseline), float), np.array(values(parts.now), float)
    if min(len(before), len(now)) < FEWEST:
        return None
    slope = _own_trend(parts)
    if slope is not None:
        start = parts.baseline[0].day
        before = before - slope * np.array([rating.day - start for rating in parts.baseline])
        now = now - slope * np.array([one.day - start for one in parts.now])
    pairs = len(before) * len(now)
    tested = stats.permutation_test(
        (before, now),
        _higher_before,
        permutation_type="independent",
        n_resamples=REDRAWS,
        vectorized=True,
        rng=np.random.default_rng(0),
    )
    return Overlap(
        lower_now=float(tested.statistic) / pairs,
        by_chance=float(tested.pvalue),
        pairs=pairs,
        trend_taken_out=None if slope is None else slope * 7,
    )


def _higher_before(before: np.ndarray, now: np.ndarray, axis: int = -1) -> np.ndarray:
    """In how many pairs the rating before is the higher one, half for equal ones; for many redraws at once."""
    return np.asarray(stats.mannwhitneyu(before, now, axis=axis, method="asymptotic").statistic)


def _own_trend(parts: Phases) -> float | None:
    """Points a day by which the baseline moved by itself, where that is more than chance."""
    days = [rating.day for rating in parts.baseline]
    told: Sequence[int] = values(parts.baseline)
    if len(set(days)) < FOR_A_TREND or len(set(told)) < 2:
        return None
    # Two small phases of equal direction are common by chance: only a clear trend is taken out.
    if stats.kendalltau(days, told).pvalue > CHANCE:
        return None
    return float(stats.theilslopes(told, days).slope)
