"""Simulated courses whose truth is known: people who improve, or not, with sessions that ease for a while.

What following says is held against these: how often an interval holds the truth, how often "better" is said of nobody.
"""

import random
from dataclasses import dataclass
from datetime import date, time, timedelta
from math import exp, sqrt

from acuthesis.core.follow.ratings import HeldSession, Rating, RatingMoment, Series

BEGAN = date(2026, 1, 5)
HOURS_AFTER = 1 / 24  # a rating after a session is given an hour later


@dataclass(frozen=True)
class Truth:
    """How somebody truly does: the level at first and in the end (0-10), what time it takes to get there (days), how
    much ratings scatter, how much the level wanders by itself, and by how much and how long a session eases."""

    first: float
    last: float
    takes_days: float
    scatter: float
    wander: float
    eases: float
    half_life_days: float
    sessions: int
    every_days: int
    home_ratings: int  # between two sessions
    baseline: int = 1  # ratings before the first session, the one at the door included

    def level(self, day: float) -> float:
        """The level by itself, without what sessions ease: a fall that slows down."""
        return self.last + (self.first - self.last) * exp(-max(day, 0.0) / self.takes_days)

    def eased(self, day: float) -> float:
        """By how much the sessions before a day ease on it."""
        ages: list[float] = [day - number * self.every_days for number in range(self.sessions)]
        return sum((self.eases * 0.5 ** (age / self.half_life_days) for age in ages if age > 0), 0.0)


def drawn_truth(dice: random.Random, *, better: bool, eases: bool = True) -> Truth:
    """Somebody who gets better by two to five points, or who stays as they are."""
    first = dice.uniform(4.5, 8.5)
    last = first - dice.uniform(2.0, min(5.0, first - 0.5)) if better else first
    return Truth(
        first=first,
        last=last,
        takes_days=dice.uniform(8, 30),
        scatter=dice.uniform(0.5, 1.6),
        wander=dice.choice([0.0, 0.0, 0.3, 0.6]),
        eases=dice.uniform(1.0, 3.0) if eases else 0.0,
        half_life_days=dice.choice([0.3, 0.7, 1.5, 3.0, 6.0]),
        sessions=dice.randint(4, 10),
        every_days=dice.choice([5, 7, 7, 10, 14]),
        home_ratings=dice.choice([0, 1, 1, 2, 4]),
        baseline=dice.choice([1, 1, 2, 4]),
    )


def rated(truth: Truth, dice: random.Random) -> Series:
    """The ratings such a person gives: whole numbers from 0 to 10, before and after each session, and from home."""
    moments: list[tuple[float, RatingMoment]] = [(-3.0 * n, "home") for n in range(truth.baseline - 1, 0, -1)]
    for number in range(truth.sessions):
        at = float(number * truth.every_days)
        moments += [(at, "before"), (at + HOURS_AFTER, "after")]
        gap = truth.every_days / (truth.home_ratings + 1)
        moments += [(at + gap * (n + 1) * dice.uniform(0.75, 1.0), "home") for n in range(truth.home_ratings)]
    moments.sort(key=lambda moment: moment[0])
    wandered, before = dice.gauss(0, truth.wander), moments[0][0]
    ratings = []
    for day, moment in moments:
        keeps = exp(-(day - before) / 10)  # what wanders comes back within some ten days
        wandered = keeps * wandered + sqrt(1 - keeps**2) * dice.gauss(0, truth.wander)
        before = day
        # A rating before a session is given minutes before it: its own session has not eased yet.
        eased = truth.eased(day if moment != "before" else day - 1e-9)
        value = round(truth.level(day) + wandered - eased + dice.gauss(0, truth.scatter))
        on = BEGAN + timedelta(days=int(day // 1))
        minutes = int((day % 1) * 24 * 60)
        clock = time(minutes // 60, minutes % 60)
        ratings.append(Rating(on=on, at=clock, value=min(max(value, 0), 10), moment=moment))
    held = [
        HeldSession(on=BEGAN + timedelta(days=n * truth.every_days), at=time(0, 0, 30)) for n in range(truth.sessions)
    ]
    return Series(ratings=ratings, sessions=held)
