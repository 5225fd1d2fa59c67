"""Episodes: their rate before the first session and since, length and strength, triggers, and what helped.

Model: episodes come one by one at a steady rate in each of the two times; given how many there were in all, those since
are a binomial share of them, which gives the ratio of the rates an exact interval.
Assumptions: a steady rate, episodes independent of each other (said where they plainly come in clusters), and a log
that was kept: time without a word for more than two weeks is not counted, for silence is not a good week.
Source: epidemiology teaching (rate ratio, exact by conditioning); scipy's exact binomial interval.
"""

from collections import Counter
from collections.abc import Iterable, Sequence
from datetime import date, timedelta
from itertools import pairwise
from math import inf
from statistics import median

import numpy as np
from pydantic import BaseModel
from scipy import stats

from acuthesis.core.follow.estimate import INTERVAL, Estimate
from acuthesis.core.message import Message, message

SILENCE_DAYS = 14
WEEK = 7
FEWEST_WEEKS = 1.0  # of log on either side before rates are compared
CLUSTERED = 0.01  # chance below which weekly counts are called clustered


class EpisodeEntry(BaseModel):
    """One episode: its day, how long (hours), how strong (0-10), what set it off, what helped."""

    on: date
    hours: float | None = None
    strength: int | None = None
    trigger: str = ""
    helped: str = ""


class DayRange(BaseModel):
    """From one day to another, both included."""

    first: date
    last: date


class Rate(BaseModel):
    """Episodes in a time: how many in how many weeks of kept log, and their middle length and strength."""

    count: int
    weeks: float
    per_week: float | None
    hours: float | None
    strength: float | None


class Counted(BaseModel):
    """Something said of `count` of the `of` episodes that say anything of the kind."""

    words: str
    count: int
    of: int


class Episodes(BaseModel):
    """Before the first session and since. `ratio`: the rate since as a share of the rate before, exact interval."""

    before: Rate
    since: Rate
    ratio: Estimate | None
    triggers: list[Counted]
    helped: list[Counted]
    silent: list[DayRange]
    clustered: bool
    sentence: Message


def episodes_over(told: Sequence[EpisodeEntry], words_on: Iterable[date], began: date | None, today: date) -> Episodes:
    """Judge episodes.

    Parameters: words_on, days on which anything was said of this complaint (a rating, an entry, a visit at which it was
    asked); began, the day of the first session; today, until when the log runs.

    >>> first = date(2026, 1, 1)
    >>> told = [EpisodeEntry(on=first + timedelta(days=n)) for n in (1, 3, 6, 8, 11, 13, 25, 40)]
    >>> kept = [first + timedelta(days=n) for n in range(0, 43)]
    >>> found = episodes_over(told, kept, date(2026, 1, 15), date(2026, 2, 12))
    >>> found.before.count, found.since.count, found.ratio.rounded(2)
    (6, 2, Estimate(middle=0.16, low=0.02, high=0.9))
    """
    days = sorted({*words_on, *(one.on for one in told)} | {today})
    silent = _silent(days)
    start = days[0]
    split = min(max(began or today + timedelta(days=1), start), today + timedelta(days=1))
    first = _rate([one for one in told if one.on < split], start, split, silent)
    later = _rate([one for one in told if one.on >= split], split, today + timedelta(days=1), silent)
    ratio = rate_ratio(first, later)
    return Episodes(
        before=first,
        since=later,
        ratio=ratio,
        triggers=_counted([one.trigger for one in told]),
        helped=_counted([one.helped for one in told]),
        silent=silent,
        clustered=_clustered(told, start, today),
        sentence=_sentence(first, later, ratio, silent),
    )


def _silent(days: Sequence[date]) -> list[DayRange]:
    """Times without a word, beyond the two weeks that a log may rest."""
    return [
        DayRange(first=a + timedelta(days=SILENCE_DAYS), last=b - timedelta(days=1))
        for a, b in pairwise(days)
        if (b - a).days > SILENCE_DAYS
    ]


def _rate(told: Sequence[EpisodeEntry], start: date, end: date, silent: Sequence[DayRange]) -> Rate:
    lost = sum(max((min(one.last, end - timedelta(days=1)) - max(one.first, start)).days + 1, 0) for one in silent)
    weeks = max((end - start).days - lost, 0) / WEEK
    hours = [one.hours for one in told if one.hours is not None]
    strengths = [one.strength for one in told if one.strength is not None]
    return Rate(
        count=len(told),
        weeks=weeks,
        per_week=len(told) / weeks if weeks >= FEWEST_WEEKS else None,
        hours=round(median(hours), 1) if hours else None,
        strength=float(median(strengths)) if strengths else None,
    )


def rate_ratio(before: Rate, since: Rate, confidence: float = INTERVAL) -> Estimate | None:
    """The rate since as a share of the rate before, with its exact interval; none where either time is too short."""
    whole = before.count + since.count
    if before.per_week is None or since.per_week is None or whole == 0:
        return None
    share = stats.binomtest(since.count, whole).proportion_ci(confidence, method="exact")
    exposure = before.weeks / since.weeks

    def as_ratio(part: float) -> float:
        return inf if part >= 1 else exposure * part / (1 - part)

    return Estimate(middle=as_ratio(since.count / whole), low=as_ratio(share.low), high=as_ratio(share.high))


def _clustered(told: Sequence[EpisodeEntry], start: date, today: date) -> bool:
    """Whether weekly counts differ by more than a steady rate lets them, by the usual test of dispersion."""
    weeks = (today - start).days // WEEK
    if weeks < 4 or len(told) < 6:
        return False
    counts = np.bincount([(one.on - start).days // WEEK for one in told], minlength=weeks)[:weeks]
    spread = float(((counts - counts.mean()) ** 2).sum() / max(counts.mean(), 1e-9))
    return bool(stats.chi2.sf(spread, weeks - 1) < CLUSTERED)


def _counted(words: Iterable[str]) -> list[Counted]:
    said = [word.strip().lower() for word in words if word.strip()]
    return [Counted(words=text, count=count, of=len(said)) for text, count in Counter(said).most_common()]


def _sentence(before: Rate, since: Rate, ratio: Estimate | None, silent: Sequence[DayRange]) -> Message:
    said = _compared(before, since, ratio)
    return message("episodes-silent", episodes=said) if silent else said


def _compared(before: Rate, since: Rate, ratio: Estimate | None) -> Message:
    if before.count + since.count == 0:
        return message("episodes-none")
    if ratio is None or before.per_week is None or since.per_week is None:
        return message("episodes-so-far", count=before.count + since.count)
    rates = {"before": round(before.per_week, 1), "since": round(since.per_week, 1)}
    if ratio.high < 1:
        shares = {name: round(100 * getattr(ratio, name)) for name in ("middle", "low", "high")}
        return message("episodes-fewer", **rates, **shares)
    if ratio.low > 1:
        times = {name: round(getattr(ratio, name), 1) for name in ("middle", "low", "high")}
        return message("episodes-more", **rates, **times)
    high = message("any-number") if ratio.high == inf else message("end-of-interval", points=round(ratio.high, 1))
    return message("episodes-unclear", **rates, low=round(ratio.low, 1), high=high)
