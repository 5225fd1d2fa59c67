"""Level and carry-over together: what is the level's change, and what of it sessions still ease.

Model: a rating is the level (a slow random walk that may move more in the first weeks, as in course.py) less what
sessions still ease, plus scatter. Each session eases by about the same, give or take `OWN_SD`, and what is eased halves
every half-life. Ratings after a session tell of the level too, once what a session eases is known; where nothing tells
a half-life, all of them stay open, and the interval of the change is as wide as that makes it.
Scatter, drift and half-life run over a grid with the priors below; the rest is exact: a Kalman filter that runs over
all cells of the grid at once (the tests hold one cell of it against statsmodels').
Assumptions: sessions ease alike; what is eased fades evenly; ratings after a session are meant like those before it.
Source: washout and carry-over in single-person trials, state-space teaching.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from acuthesis.core.follow.course import DRIFTS, LEVEL_MEAN, LEVEL_SD, ROUNDING, SCATTERS, STEP_DAYS, STEP_SD, WEEK
from acuthesis.core.follow.estimate import Estimate, Mixture, weighted_estimate
from acuthesis.core.follow.ratings import Rating, Series

# Days, with what each is worth beforehand: mostly some hours to a day or two, and sometimes a week.
HALF_LIVES = {0.2: 2, 0.4: 3, 0.8: 4, 1.5: 4, 3.0: 3, 6.0: 2, 10.0: 0.5}
EASES_MEAN, EASES_SD, OWN_SD = 1.0, 2.0, 0.6  # points: what a session eases before anything is known
ORDER = {"before": 0, "home": 1, "after": 2}
LEVEL, EASED, EASES, LEVELS, LEFT = range(5)  # the state: the last two sum what is asked for


@dataclass(frozen=True)
class Change:
    """The change of the level from one set of ratings to another, and what of the sessions' ease is in the second
    (points, each a mixture over the grid).
    """

    level: Mixture
    carried: Mixture


class JointCourse:
    """Level and carry-over of one complaint, fitted to all of its ratings, those after sessions too.

    Without a session that was rated before and after, sessions are taken to ease nothing: nothing tells what they do.
    """

    def __init__(self, series: Series) -> None:
        self.ratings = sorted(series.ratings, key=lambda one: (one.day, ORDER[one.moment]))
        paired = {one.on for one in self.ratings if one.moment == "after"} & {
            one.on for one in self.ratings if one.moment == "before"
        }
        self.eases = bool(paired)
        if not self.eases:
            self.ratings = [one for one in self.ratings if one.moment != "after"]
        self.days = np.array([one.day for one in self.ratings])
        self.values = np.array([one.value for one in self.ratings], dtype=float)
        self.began = series.held[0].day if series.held else None
        self.sessions = sessions_between(self.ratings, series)
        halves = HALF_LIVES if self.eases else {1.0: 1}
        grid = [
            (scatter, drift, half, np.log(a * b * c))
            for scatter, a in SCATTERS.items()
            for drift, b in DRIFTS.items()
            for half, c in halves.items()
        ]
        self.scatters, self.drifts, self.halves, self.prior = (np.array(column) for column in zip(*grid, strict=True))

    def change(self, first: Sequence[Rating], last: Sequence[Rating]) -> Change:
        """The mean level at the last of these ratings less that at the first."""
        told, means, covariances = self._filtered(self._weights_of(last) - self._weights_of(first))
        return Change(_mixture(told, means, covariances, LEVELS), _mixture(told, means, covariances, LEFT))

    def level_at(self, ratings: Sequence[Rating]) -> Mixture:
        """The mean level at these ratings."""
        told, means, covariances = self._filtered(self._weights_of(ratings))
        return _mixture(told, means, covariances, LEVELS)

    @cached_property
    def scatter(self) -> Estimate:
        """How far a rating lies from the level by itself (one standard deviation, points)."""
        told, _, _ = self._filtered(np.zeros(len(self.days)))
        return weighted_estimate(self.scatters.tolist(), told.tolist())

    def _weights_of(self, ratings: Sequence[Rating]) -> np.ndarray:
        chosen = {id(one) for one in ratings}
        inside = np.array([id(one) in chosen for one in self.ratings], dtype=float)
        return np.asarray(inside / max(inside.sum(), 1))

    def _fading(self, step: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """From a rating to the next, for each cell: what is left of the ease, what the sessions between add, and by how
        much sessions differ among themselves (variance).
        """
        left = 0.5 ** ((self.days[step + 1] - self.days[step]) / self.halves)
        added, own = np.zeros_like(left), np.zeros_like(left)
        for at in self.sessions[step] if self.eases else ():
            share = 0.5 ** ((self.days[step + 1] - at) / self.halves)
            added += share
            own += OWN_SD**2 * share**2
        return left, added, own

    def _moves(self, step: int) -> np.ndarray:
        """Variance of the level from a rating to the next, for each cell."""
        moves = self.drifts**2 / WEEK * (self.days[step + 1] - self.days[step])
        if self.began is not None:
            since = np.maximum(self.days[step : step + 2] - self.began, 0)
            moves = moves + STEP_SD**2 * (np.exp(-since[0] / STEP_DAYS) - np.exp(-since[1] / STEP_DAYS))
        return np.asarray(moves)

    def _filtered(self, weights: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """How likely each cell is (shares of 1), and mean and covariance of the state after the last rating, in which
        `LEVELS` is the sum of the levels with these weights, and `LEFT` that of what was eased.
        """
        cells = len(self.halves)
        mean = np.zeros((cells, 5))
        mean[:, LEVEL], mean[:, EASES] = LEVEL_MEAN, EASES_MEAN if self.eases else 0.0
        spread = np.zeros((cells, 5, 5))
        spread[:, LEVEL, LEVEL], spread[:, EASES, EASES] = LEVEL_SD**2, EASES_SD**2 if self.eases else 0.0
        noise = self.scatters**2 + ROUNDING
        likely = self.prior.copy()
        for step, value in enumerate(self.values):
            seen = spread[:, :, LEVEL] - spread[:, :, EASED]
            expected, variance = mean[:, LEVEL] - mean[:, EASED], seen[:, LEVEL] - seen[:, EASED] + noise
            surprise = value - expected
            likely -= 0.5 * (np.log(2 * np.pi * variance) + surprise**2 / variance)
            gain = seen / variance[:, None]
            mean = mean + gain * surprise[:, None]
            spread = spread - gain[:, :, None] * seen[:, None, :]
            moved = np.broadcast_to(np.eye(5), (cells, 5, 5)).copy()
            moved[:, LEVELS, LEVEL] = moved[:, LEFT, EASED] = weights[step]
            if step + 1 < len(self.days):
                left, added, own = self._fading(step)
                moved[:, EASED, EASED], moved[:, EASED, EASES] = left, added
            mean = np.einsum("cij,cj->ci", moved, mean)
            spread = moved @ spread @ moved.transpose(0, 2, 1)
            if step + 1 < len(self.days):
                spread[:, LEVEL, LEVEL] += self._moves(step)
                spread[:, EASED, EASED] += own
        shares = np.exp(likely - likely.max())
        return shares / shares.sum(), mean, spread


def _mixture(shares: np.ndarray, means: np.ndarray, spreads: np.ndarray, part: int) -> Mixture:
    kept = shares > 1e-4
    return Mixture(
        shares[kept] / shares[kept].sum(), means[kept, part], np.sqrt(np.maximum(spreads[kept, part, part], 1e-9))
    )


def sessions_between(ratings: Sequence[Rating], series: Series) -> list[list[float]]:
    """For each rating the days of the sessions that lie between it and the next. A session lies after the rating before
    it and before the one after it, whatever their hours say.
    """
    found: list[list[float]] = [[] for _ in ratings]
    for session in series.held:
        same = [n for n, one in enumerate(ratings) if one.moment == "before" and one.on == session.on]
        earlier = same or [n for n, one in enumerate(ratings) if one.day <= session.day and one.moment != "after"]
        if earlier:
            at = max(session.day, ratings[earlier[-1]].day)
            found[earlier[-1]].append(min(at, ratings[min(earlier[-1] + 1, len(ratings) - 1)].day))
    return found
