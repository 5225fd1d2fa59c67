"""Carry-over: how much a session eases and how long that lasts, from ratings after sessions and from home.

Model: a rating is the level (a slow random walk, as in course.py) less what sessions still ease, plus scatter. Each
session eases by about the same (`eases`, points, give or take `OWN_SD`), and what is eased halves every half-life.
Scatter, drift and half-life run over a grid with flat priors in the logarithm; the rest is exact. The Kalman filter is
statsmodels'.
Assumptions: sessions ease alike; what is eased fades evenly; ratings after a session are meant like those before it
(people are polite: an hour later is better than at the door).
Source: washout and carry-over in single-person trials, general teaching.
"""

from math import log2
from typing import TYPE_CHECKING

import numpy as np
from pydantic import BaseModel

from acuthesis.core.follow.course import LEVEL_MEAN, LEVEL_SD, NEGLIGIBLE, ROUNDING, STEP_DAYS, WEEK
from acuthesis.core.follow.estimate import Estimate, Mixture, weighted_estimate
from acuthesis.core.follow.joint import sessions_between
from acuthesis.core.follow.ratings import Rating, Series
from acuthesis.core.message import NOTHING, Message, message

if TYPE_CHECKING:
    from statsmodels.tsa.statespace.kalman_smoother import KalmanSmoother

SCATTERS = (0.5, 0.8, 1.2, 1.8)
DRIFTS = (0.0, 0.3, 0.8)
# Less than in course.py: part of what changes in the first weeks is told by what sessions ease.
STEP_SD = 3.0
HALF_LIVES = (0.15, 0.25, 0.4, 0.65, 1.0, 1.6, 2.5, 4.0, 6.5, 10.0, 16.0, 26.0, 42.0)  # days
EASES_MEAN, EASES_SD, OWN_SD = 1.0, 2.0, 0.6  # points: what a session eases before anything is known
FEWEST_PAIRS = 3  # sessions rated before and after
FEWEST_HOME = 4  # ratings from home between sessions
HARDLY = 0.4  # points: less is not worth a sentence about how long it lasts
SURE = 0.95
WIDEST = 20.0  # times: an interval of the half-life that is wider says nothing
EDGE = 0.25  # of the weight at the end of the grid: then only "shorter" or "longer than" can be said
LESS_THAN_A_DAY = 0.9  # days: less is said in hours
KEEPS = 1.0  # points of ease that must be left for a gain to be still there


class CarryOver(BaseModel):
    """`eases`: points within a session, from the pairs before and after (`pairs`); `half_life_days`: how long until
    half of it is gone, where that can be told; `apart_days`: after how many days less than a point of it is left (an
    interval that holds 80 of 100). `sentence` says what can be said, `why_not` what is missing.
    """

    pairs: int
    eases: Estimate | None
    half_life_days: Estimate | None
    apart_days: Estimate | None
    sentence: Message
    why_not: Message = NOTHING


def carry_over(series: Series) -> CarryOver:
    """What sessions ease and how long that lasts, as far as it can be told."""
    pairs = _pairs(series)
    if not pairs:
        return CarryOver(
            pairs=0,
            eases=None,
            half_life_days=None,
            apart_days=None,
            sentence=message("relief-unknown"),
            why_not=message("relief-unknown-needs"),
        )
    home = _home_between(series)
    fit = _Fit(series)
    eases = fit.eases.estimate()
    interval = {"low": _end(eases.low), "high": _end(eases.high)}
    relief = message("relief", points=in_points(eases.middle), **interval)
    if eases.middle < 0:
        relief = message("relief-none-higher", points=in_points(-eases.middle), **interval)
    nothing = {"pairs": len(pairs), "eases": eases.rounded(), "half_life_days": None, "apart_days": None}
    if len(pairs) >= FEWEST_PAIRS and eases.middle < HARDLY:
        return CarryOver(**nothing, sentence=message("relief-not-clear", **interval))
    if len(pairs) < FEWEST_PAIRS:
        missing = message("relief-needs-sessions", sessions=FEWEST_PAIRS)
        return CarryOver(**nothing, sentence=message("relief-uncertain", relief=relief), why_not=missing)
    if fit.eases.below(0.5) > 1 - SURE:
        missing = message("relief-needs-effect")
        return CarryOver(**nothing, sentence=message("relief-uncertain", relief=relief), why_not=missing)
    if len(home) < FEWEST_HOME:
        missing = message("relief-needs-home", wanted=FEWEST_HOME, **{"so-far": len(home)})
        return CarryOver(**nothing, sentence=message("relief-length-unclear", relief=relief), why_not=missing)
    half_life = weighted_estimate(HALF_LIVES, fit.half_life_weights.tolist())
    if fit.half_life_weights[-1] > EDGE:
        said = message("relief-stays", relief=relief, time=in_days(half_life.low))
        return CarryOver(**nothing, sentence=said, why_not=message("relief-needs-intervals"))
    lasts = {"low": in_days(half_life.low), "high": in_days(half_life.high)}
    if half_life.high > WIDEST * half_life.low:
        said = message("relief-length-wide", relief=relief, **lasts)
        return CarryOver(**nothing, sentence=said, why_not=message("relief-needs-days"))
    apart = fit.apart()
    return CarryOver(
        pairs=len(pairs),
        eases=eases.rounded(),
        half_life_days=half_life.rounded(),
        apart_days=apart.rounded() if apart else None,
        sentence=message("relief-fades", relief=relief, time=in_days(half_life.middle), **lasts),
    )


def in_points(points: float) -> Message:
    """A number of points: "1.5 points", "1 point"."""
    return message("points-of-scale", points=round(points, 1))


def _end(points: float) -> Message:
    """An end of an interval in points: "0.4", "−1.2"."""
    return message("end-of-interval", points=round(points, 1) + 0.0)


def in_days(days: float) -> Message:
    """A length of time: "8 hours", "a day", "2.5 days"."""
    if days < LESS_THAN_A_DAY:
        return message("hours", hours=max(round(days * 24), 1))
    return message("days", days=round(days) if days >= 3 else round(days * 2) / 2)


def _pairs(series: Series) -> list[int]:
    """How much each session that was rated before and after eased (points)."""
    before = {rating.on: rating.value for rating in series.ratings if rating.moment == "before"}
    return [
        before[rating.on] - rating.value
        for rating in series.ratings
        if rating.moment == "after" and rating.on in before
    ]


def _home_between(series: Series) -> list[Rating]:
    """Ratings from home after the first session: those that can show something fading."""
    held = series.held
    return [rating for rating in series.ratings if rating.moment == "home" and held and rating.day > held[0].day]


class _Fit:
    """The model over its grid. State: level, what is still eased, what a session eases."""

    def __init__(self, series: Series) -> None:
        order = {"before": 0, "home": 1, "after": 2}
        ratings = sorted(series.ratings, key=lambda one: (one.day, order[one.moment]))
        self.days = np.array([rating.day for rating in ratings])
        self.values = np.array([rating.value for rating in ratings], dtype=float)
        self.sessions = sessions_between(ratings, series)
        self.began = series.held[0].day
        self._faded = [self._fading(half_life) for half_life in HALF_LIVES]
        self._run()

    def _run(self) -> None:
        filter_ = self._filter()
        grid = [(place, drift, scatter) for place in range(len(HALF_LIVES)) for drift in DRIFTS for scatter in SCATTERS]
        logs = []
        for cell in grid:
            self._set(filter_, *cell)
            logs.append(filter_.loglike())
        weights = np.exp(np.array(logs) - max(logs))
        weights /= weights.sum()
        self.half_life_weights = np.bincount([place for place, _, _ in grid], weights, minlength=len(HALF_LIVES))
        # Only where there is weight it matters what a session eases there.
        self.cells = []
        for cell, weight in zip(grid, weights, strict=True):
            if weight > NEGLIGIBLE:
                self._set(filter_, *cell)
                told = filter_.filter()
                spread = max(told.predicted_state_cov[2, 2, -1], 1e-9)
                self.cells.append((cell[0], weight, told.predicted_state[2, -1], spread**0.5))
        _, kept, means, sds = (np.array(column) for column in zip(*self.cells, strict=True))
        self.eases = Mixture(kept / kept.sum(), means, sds)

    def _set(self, filter_: "KalmanSmoother", place: int, drift: float, scatter: float) -> None:
        transition, own = self._faded[place]
        filter_["transition"], filter_["state_cov"] = transition, self._moves(drift, own)
        filter_["obs_cov"] = np.array([[scatter**2 + ROUNDING]])

    def apart(self) -> Estimate | None:
        """After how many days less than a point is left, with the interval that holds 80 of 100; none where a session
        eases less than that to begin with.
        """
        lasts, weights = [], []
        for place, weight, mean, sd in self.cells:
            for step in (-1.3, -0.5, 0.0, 0.5, 1.3):  # the middles of five equal parts of a bell curve, nearly
                eased = mean + step * sd
                lasts.append(HALF_LIVES[place] * log2(eased / KEEPS) if eased > KEEPS else 0.0)
                weights.append(weight / 5)
        found = weighted_estimate(lasts, weights, share=0.8)
        return found if found.middle > 0 else None

    def _filter(self) -> "KalmanSmoother":
        # statsmodels takes seconds to import, which nobody should wait for who does not ask how long something lasts.
        from statsmodels.tsa.statespace.kalman_smoother import KalmanSmoother

        made = KalmanSmoother(k_endog=1, k_states=3, k_posdef=2)
        made.bind(self.values)
        made["design"] = np.array([[1.0, -1.0, 0.0]])
        made["selection"] = np.eye(3, 2)
        made.initialize_known(np.array([LEVEL_MEAN, 0.0, EASES_MEAN]), np.diag([LEVEL_SD**2, 0.0, EASES_SD**2]))
        return made

    def _fading(self, half_life: float) -> tuple[np.ndarray, np.ndarray]:
        """From one rating to the next: what is left of the ease, and what the sessions between add to it; and by how
        much
        sessions differ among themselves (variance)."""
        count = len(self.days)
        transition = np.repeat(np.eye(3)[:, :, None], count, axis=2)
        own = np.zeros(count)
        for step in range(count - 1):
            transition[1, 1, step] = 0.5 ** ((self.days[step + 1] - self.days[step]) / half_life)
            left = np.array([0.5 ** ((self.days[step + 1] - at) / half_life) for at in self.sessions[step]])
            transition[1, 2, step], own[step] = left.sum(), OWN_SD**2 * (left**2).sum()
        return transition, own

    def _moves(self, drift: float, own: np.ndarray) -> np.ndarray:
        moves = drift**2 / WEEK * np.diff(self.days)
        moves = moves - STEP_SD**2 * np.diff(np.exp(-np.maximum(self.days - self.began, 0) / STEP_DAYS))
        spreads = np.zeros((2, 2, len(self.days)))
        spreads[0, 0, :-1], spreads[1, 1] = moves, own
        return spreads
