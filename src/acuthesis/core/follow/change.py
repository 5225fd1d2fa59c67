"""Judges change: what a complaint's ratings over the visits allow one to say, and what they do not yet."""

from datetime import date
from itertools import pairwise
from statistics import median
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

# A change on the 0-10 numeric scale that people call real: two points, or about a third.
# Source: published studies of the numeric rating scale for pain; see docs/guide/following.md.
REAL_POINTS = 2
REAL_PER_CENT = 30
# A fair trial before anything is concluded. Source: general teaching of manual therapy (some weeks of regular work).
FAIR_VISITS = 3
FAIR_DAYS = 14

Moment = Literal["before", "after", "home"]
Trend = Literal["no_rating", "too_early", "better", "no_change", "worse"]


class Rating(BaseModel):
    """One rating, 0 (none) to 10 (worst)."""

    model_config = ConfigDict(extra="forbid")

    on: date
    value: int = Field(ge=0, le=10)
    moment: Moment = "before"


class Series(BaseModel):
    """Ratings (0 to 10) of one complaint of one person: before and after visits, and from home."""

    model_config = ConfigDict(extra="forbid")

    complaint: str = ""
    ratings: list[Rating] = []


class Change(BaseModel):
    """What the ratings say. `start` and `now` are medians of the first and the last ones; `scatter` is how much
    neighbouring ratings differ anyway; a change within it proves nothing."""

    trend: Trend
    visits: int
    days: int
    start: float | None = None
    now: float | None = None
    points: float | None = None
    per_cent: float | None = None
    scatter: float | None = None
    within_session: float | None = None
    sentence: str


EDGE = 2  # how many ratings stand for the start and for now; one where there are few
FEW = 4


class Edges(BaseModel):
    """Of the ratings that carry a course (before a session or from home) what a list needs: the first and the last two
    values, how many there are, on how many days there was one before a session, and from the first to the last day."""

    first: list[int]
    last: list[int]
    count: int
    visits: int
    days: int


def at_a_glance(edges: Edges) -> tuple[Trend, float | None, float | None]:
    """Trend, start and now: the same as `change` gives, from the edges of a course alone."""
    if edges.count == 0:
        return "no_rating", None, None
    edge = EDGE if edges.count >= FEW else 1
    start, now = float(median(edges.first[:edge])), float(median(edges.last[-edge:]))
    return _finding(edges.visits, edges.days, now - start, 100 * (now - start) / start if start else None), start, now


def change(series: Series) -> Change:
    """Judge one complaint. Ratings before a session and from home carry the course; those after show the session."""
    course = sorted((r for r in series.ratings if r.moment != "after"), key=lambda r: r.on)
    within = _within_session(series.ratings)
    visits = len({r.on for r in series.ratings if r.moment == "before"})
    if not course:
        return Change(
            trend="no_rating",
            visits=visits,
            days=0,
            within_session=within,
            sentence="No rating yet: ask for the first one.",
        )
    values = [rating.value for rating in course]
    days = (course[-1].on - course[0].on).days
    edges = Edges(first=values[:EDGE], last=values[-EDGE:], count=len(values), visits=visits, days=days)
    trend, start, now = at_a_glance(edges)
    assert start is not None and now is not None  # there are ratings
    points = now - start
    per_cent = 100 * points / start if start else None
    steps = [abs(b - a) for a, b in pairwise(values)]
    scatter = float(median(steps)) if steps else None
    return Change(
        trend=trend,
        visits=visits,
        days=days,
        start=start,
        now=now,
        points=points,
        per_cent=None if per_cent is None else round(per_cent),
        scatter=scatter,
        within_session=within,
        sentence=_sentence(trend, visits, days, start, now, points, per_cent, scatter),
    )


def _finding(visits: int, days: int, points: float, per_cent: float | None) -> Trend:
    # Worse counts at once: waiting for a fair trial would be no kindness.
    if visits >= 2 and points >= REAL_POINTS:
        return "worse"
    if visits < FAIR_VISITS or days < FAIR_DAYS:
        return "too_early"
    if points <= -REAL_POINTS or (per_cent is not None and per_cent <= -REAL_PER_CENT and points <= -1):
        return "better"
    return "no_change"


def _sentence(
    trend: Trend,
    visits: int,
    days: int,
    start: float,
    now: float,
    points: float,
    per_cent: float | None,
    scatter: float | None,
) -> str:
    course = f"{start:g} at the start, {now:g} now"
    share = "" if per_cent is None else f", {per_cent:+.0f} %"
    noise = "" if not scatter else f" Ratings differ by about {scatter:g} from one time to the next anyway."
    match trend:
        case "too_early":
            missing = []
            if visits < FAIR_VISITS:
                missing.append(f"{FAIR_VISITS} visits (so far {visits})")
            if days < FAIR_DAYS:
                missing.append(f"{FAIR_DAYS} days (so far {days})")
            return f"Too early to say: {course}. A fair trial needs {' and '.join(missing)}."
        case "better":
            return f"{-points:g} points better ({course}{share}). That is a change people notice.{noise}"
        case "worse":
            return f"{points:g} points worse ({course}{share}). Change the plan, or refer.{noise}"
        case _:
            return (
                f"No real change after {visits} visits in {days} days ({course}{share}); "
                f"real would be {REAL_POINTS} points or {REAL_PER_CENT} %. Change the plan, or refer.{noise}"
            )


def _within_session(ratings: list[Rating]) -> float | None:
    """Median change from before to after on the same day."""
    before = {rating.on: rating.value for rating in ratings if rating.moment == "before"}
    changes = [r.value - before[r.on] for r in ratings if r.moment == "after" and r.on in before]
    return float(median(changes)) if changes else None
