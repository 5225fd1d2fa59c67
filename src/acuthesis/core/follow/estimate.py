"""Estimates with intervals, and how to read them from a mixture of normal distributions."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from pydantic import BaseModel
from scipy.stats import norm

INTERVAL = 0.95


class Estimate(BaseModel):
    """A number that is not known exactly: the middle, and the ends of its interval (95 of 100 unless said)."""

    middle: float
    low: float
    high: float

    def rounded(self, digits: int = 1) -> "Estimate":
        """The same with so many digits after the point.

        >>> Estimate(middle=1.26, low=0.44, high=2.1).rounded(1)
        Estimate(middle=1.3, low=0.4, high=2.1)
        """
        return Estimate(**{name: round(value, digits) + 0.0 for name, value in self.model_dump().items()})


@dataclass(frozen=True)
class Mixture:
    """Bell curves with weights: what is known of a number when the spread it was estimated with is not known either.

    `weights`, `means`, `sds`: one each a curve, weights add up to 1.
    """

    weights: np.ndarray
    means: np.ndarray
    sds: np.ndarray

    def wider(self, sd: float) -> "Mixture":
        """The same with an unknown of its own added, of so many points (one standard deviation)."""
        return Mixture(self.weights, self.means, np.sqrt(self.sds**2 + sd**2))

    def below(self, value: float) -> float:
        """The chance that the number is below a value."""
        return float(self.weights @ norm.cdf(value, self.means, np.maximum(self.sds, 1e-9)))

    def estimate(self, share: float = INTERVAL) -> Estimate:
        """Middle and interval.

        >>> one = Mixture(np.array([1.0]), np.array([2.0]), np.array([0.5]))
        >>> one.estimate().rounded(2)
        Estimate(middle=2.0, low=1.02, high=2.98)
        """
        tail = (1 - share) / 2
        return Estimate(middle=self.at(0.5), low=self.at(tail), high=self.at(1 - tail))

    def at(self, chance: float) -> float:
        """The value that the number is below with this chance."""
        low = float((self.means - 8 * self.sds).min()) - 1e-6
        high = float((self.means + 8 * self.sds).max()) + 1e-6
        for _ in range(60):
            middle = (low + high) / 2
            low, high = (middle, high) if self.below(middle) < chance else (low, middle)
        return (low + high) / 2


def weighted_estimate(values: Sequence[float], weights: Sequence[float], share: float = INTERVAL) -> Estimate:
    """Middle and interval of a number that takes a few values with weights, read between them.

    >>> weighted_estimate([1, 2, 3], [0.25, 0.5, 0.25], share=0.5)
    Estimate(middle=2.0, low=1.333, high=2.667)
    """
    heights = np.asarray(weights, dtype=float) / np.sum(weights)
    order = np.argsort(values)
    sorted_values, middles = np.asarray(values, dtype=float)[order], np.cumsum(heights[order]) - heights[order] / 2
    tail = (1 - share) / 2
    middle, low, high = (float(np.interp(chance, middles, sorted_values)) for chance in (0.5, tail, 1 - tail))
    return Estimate(middle=round(middle, 3), low=round(low, 3), high=round(high, 3))
