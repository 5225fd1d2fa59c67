"""The course of a complaint: a level that may drift, seen through ratings that scatter, at irregular times.

Model: the level is a random walk whose spread grows with the root of time (drift, points per square root of a week),
and that may move more, up or down, in the first weeks after work began; a rating is the level plus scatter (points).
Neither spread is known beforehand: both run over a grid with the prior below, and every answer is the mixture over the
grid. The Kalman filter and smoother are statsmodels'.
Assumptions: scatter is alike over the whole time; ratings are given independently of each other; nothing else is known.
Source: state-space teaching (local level model); tests hold it against the Nile example that statsmodels ships.
"""

from collections.abc import Sequence
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from pydantic import BaseModel

from acuthesis.core.follow.estimate import Estimate, weighted_estimate
from acuthesis.core.follow.ratings import Rating

if TYPE_CHECKING:
    from statsmodels.tsa.statespace.kalman_smoother import KalmanSmoother

# The prior, in points of the 0-10 scale: a level anywhere on it; scatter of most people about one point, of some half,
# of some two; drift from none at all to a point in a week. What work may change lies in no side's favour, mostly within
# four points, and two thirds of it show within `STEP_DAYS`.
LEVEL_MEAN, LEVEL_SD = 5.0, 6.0
SCATTERS = {0.4: 1, 0.6: 2, 0.8: 3, 1.0: 4, 1.3: 4, 1.7: 3, 2.2: 2, 2.8: 1}
DRIFTS = {0.0: 2, 0.15: 3, 0.3: 3, 0.5: 2, 0.8: 1, 1.2: 1}
STEP_SD, STEP_DAYS = 4.0, 14.0
ROUNDING = 1 / 12  # variance that rounding to whole points adds
NEGLIGIBLE = 1e-3  # of the weight: less changes no answer
WEEK = 7.0
BAND = 1.96  # spreads to either side: 95 of 100


class BandPoint(BaseModel):
    """The level on a day (days since the calendar began): middle and interval, in points."""

    day: float
    level: Estimate


class Course:
    """The course of one complaint (or act), fitted to its ratings in order, at least one. `began`: the day of the first
    session (days since the calendar began); none before there was one.
    """

    def __init__(self, ratings: Sequence[Rating], began: float | None = None) -> None:
        self.began = began
        self.days = np.array([rating.day for rating in ratings])
        self.values = np.array([rating.value for rating in ratings], dtype=float)
        self._grid = [(scatter, drift, a * b) for scatter, a in SCATTERS.items() for drift, b in DRIFTS.items()]

    @cached_property
    def _weights(self) -> np.ndarray:
        """How likely each pair of scatter and drift is, after the ratings."""
        filter_ = local_level(self.days, self.values)
        logs = []
        for scatter, drift, prior in self._grid:
            set_spreads(filter_, self.days, scatter, drift, self.began)
            logs.append(filter_.loglike() + np.log(prior))
        likely: np.ndarray = np.exp(np.array(logs) - max(logs))
        return np.asarray(likely / likely.sum())

    def _kept(self) -> list[tuple[float, float, float]]:
        """Scatter, drift and weight of whatever counts."""
        return [(s, d, w) for (s, d, _), w in zip(self._grid, self._weights, strict=True) if w > NEGLIGIBLE]

    @cached_property
    def scatter(self) -> Estimate:
        """How far a rating lies from the level by itself (one standard deviation, points)."""
        return weighted_estimate([s for s, _, _ in self._grid], self._weights.tolist())

    def level_on(self, days: Sequence[float]) -> list[BandPoint]:
        """The level on any days, each with the 95 of 100 interval: the line and the band that are drawn."""
        times = np.concatenate([self.days, np.asarray(days, dtype=float)])
        order = np.argsort(times, kind="stable")
        values = np.concatenate([self.values, np.full(len(days), np.nan)])[order]
        filter_, kept = local_level(times[order], values), self._kept()
        share = np.array([weight for _, _, weight in kept]) / sum(weight for _, _, weight in kept)
        means, variances = [], []
        for scatter, drift, _ in kept:
            set_spreads(filter_, times[order], scatter, drift, self.began)
            smooth = filter_.smooth()
            means.append(smooth.smoothed_state[0])
            variances.append(smooth.smoothed_state_cov[0, 0])
        # A band is drawn, not argued with: its edges are those of one bell curve with the mixture's mean and spread.
        middle = share @ np.array(means)
        sd = np.sqrt(share @ (np.array(variances) + (np.array(means) - middle) ** 2))
        places = np.empty_like(order)
        places[order] = np.arange(len(order))
        return [
            BandPoint(
                day=float(day),
                level=Estimate(
                    middle=middle[place],
                    low=max(middle[place] - BAND * sd[place], 0.0),
                    high=min(middle[place] + BAND * sd[place], 10.0),
                ),
            )
            for day, place in zip(days, places[len(self.days) :], strict=True)
        ]


def local_level(days: np.ndarray, values: np.ndarray) -> "KalmanSmoother":
    """A filter over ratings (nan: a day without one) at days in order, to which `set_spreads` gives the spreads."""
    # statsmodels takes seconds to import, which nobody should wait for who does not ask how a course runs.
    from statsmodels.tsa.statespace.kalman_smoother import KalmanSmoother

    made = KalmanSmoother(k_endog=1, k_states=1, k_posdef=1)
    made.bind(values)
    made["design"], made["selection"] = np.eye(1), np.eye(1)
    made["transition"] = np.ones((1, 1, len(days)))
    made.initialize_known(np.array([LEVEL_MEAN]), np.array([[LEVEL_SD**2]]))
    return made


def set_spreads(
    filter_: "KalmanSmoother", days: np.ndarray, scatter: float, drift: float, began: float | None = None
) -> None:
    """Give a filter the scatter (points), the drift (points per square root of a week), and when work began."""
    moves = drift**2 / WEEK * np.diff(days)
    if began is not None:
        moves -= STEP_SD**2 * np.diff(np.exp(-np.maximum(days - began, 0) / STEP_DAYS))
    filter_["obs_cov"] = np.array([[scatter**2 + ROUNDING]])
    filter_["state_cov"] = np.append(moves, 0.0)[None, None, :]
