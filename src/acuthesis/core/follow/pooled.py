"""What the practice's own earlier people say beforehand of somebody new: a prior for the change of a complaint.

Model: people of one complaint change by about `mean`, give or take `spread`; complaints of a practice differ among
themselves by about `KINDS_SD`. Mean and spread run over a grid; each earlier person enters with the change that their
own ratings tell, as uncertain as it is. Who stopped coming before a change could be told enters as unchanged, and as
uncertain as that is: to forget them would make the practice look better than it is.
Assumptions: the next person is one more of the same; nothing is known of why somebody came.
Source: multilevel models and shrinkage, general teaching; docs/guide/following.md shows what it does when simulated.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from pydantic import BaseModel
from scipy.stats import norm

from acuthesis.core.follow.estimate import Estimate, Mixture
from acuthesis.core.message import Message

FEWEST = 10  # people who began
MEANS = np.linspace(-6, 4, 41)  # points
SPREADS = np.array([0.4, 0.8, 1.2, 1.7, 2.3, 3.0])  # points
KINDS_SD = 1.0  # points: how far complaints of one practice lie apart
NEUTRAL_SD = 2.0  # points: of the mean, where nothing is known of other complaints
STOPPED_SD = 2.0  # points: how little is known of who stopped coming
APART, APART_SD = 0.15, 1.0  # share of people for whom the others say nothing: unchanged, give or take
NEGLIGIBLE = 1e-4  # of the weight
BAND = 3.92  # standard deviations that an interval of 95 in 100 is wide


class EarlierPerson(BaseModel):
    """Somebody of the practice who began with a complaint: which kind, and the change that their ratings told (points,
    with its interval); none where they stopped coming before one could be told.
    """

    kind: str
    change: Estimate | None = None


class Beforehand(BaseModel):
    """What earlier people say: of how many, how many of them stopped coming, the mean change and how far people lie
    from it (points).
    """

    people: int
    stopped: int
    mean: float
    spread: float


class WithPractice(BaseModel):
    """The judgement with what earlier people say beforehand, beside the one without it."""

    beforehand: Beforehand
    points: Estimate
    trend: str
    sentence: Message


@dataclass(frozen=True)
class Prior:
    """A prior for the change of somebody new: a mixture over the grid, and what it rests on."""

    change: Mixture
    told: Beforehand


def prior_for(kind: str, earlier: Sequence[EarlierPerson]) -> Prior | None:
    """The prior for somebody new with a complaint of this kind; none where fewer than ten began with it.

    >>> prior_for("knee_pain", []) is None
    True
    """
    same = [one for one in earlier if one.kind == kind]
    if len(same) < FEWEST:
        return None
    others = [one for one in earlier if one.kind != kind]
    middle, sd = _elsewhere(others)
    weights = _likely(same) * np.asarray(norm.pdf(MEANS, middle, sd))[:, None]
    weights = weights / weights.sum()
    means, spreads = np.repeat(MEANS, len(SPREADS)), np.tile(SPREADS, len(MEANS))
    flat = weights.ravel()
    kept = flat > NEGLIGIBLE
    told = Beforehand(
        people=len(same),
        stopped=sum(one.change is None for one in same),
        mean=round(float(flat @ means), 1) + 0.0,
        spread=round(float(flat @ spreads), 1),
    )
    shares = np.append(flat[kept] / flat[kept].sum() * (1 - APART), APART)
    return Prior(Mixture(shares, np.append(means[kept], 0.0), np.append(spreads[kept], APART_SD)), told)


def with_prior(own: Mixture, prior: Mixture) -> Mixture:
    """What ratings and prior say together: each curve of the one with each of the other."""
    precision = 1 / own.sds[:, None] ** 2 + 1 / prior.sds[None, :] ** 2
    means = (own.means[:, None] / own.sds[:, None] ** 2 + prior.means[None, :] / prior.sds[None, :] ** 2) / precision
    apart = np.sqrt(own.sds[:, None] ** 2 + prior.sds[None, :] ** 2)
    agree = norm.pdf(own.means[:, None], prior.means[None, :], apart)
    weights = (own.weights[:, None] * prior.weights[None, :] * agree).ravel()
    kept = weights > weights.max() * 1e-5
    return Mixture(weights[kept] / weights[kept].sum(), means.ravel()[kept], (precision**-0.5).ravel()[kept])


def _elsewhere(others: Sequence[EarlierPerson]) -> tuple[float, float]:
    """What the practice's other complaints say of the mean: its middle and how uncertain it is."""
    if len(others) < FEWEST:
        return 0.0, NEUTRAL_SD
    by_mean = _likely(others).sum(axis=1)
    weights = by_mean * np.asarray(norm.pdf(MEANS, 0.0, NEUTRAL_SD))
    weights = weights / weights.sum()
    middle = float(weights @ MEANS)
    variance = float(weights @ (MEANS - middle) ** 2)
    return middle, (variance + KINDS_SD**2) ** 0.5


def _likely(people: Sequence[EarlierPerson]) -> np.ndarray:
    """How likely the changes of these people are, for each mean (rows) and spread (columns)."""
    changes = np.array([0.0 if one.change is None else one.change.middle for one in people])
    sds = np.array([STOPPED_SD if one.change is None else (one.change.high - one.change.low) / BAND for one in people])
    away = np.sqrt(np.maximum(sds, 0.1)[None, :] ** 2 + SPREADS[:, None] ** 2)  # spreads, people
    logs = np.asarray(norm.logpdf(changes[None, None, :], MEANS[:, None, None], away[None, :, :]))
    likely: np.ndarray = np.add.reduce(logs, axis=2)
    return np.asarray(np.exp(likely - likely.max()))
