"""The outcome: what the ratings of a complaint or an activity support, and what they do not yet, in a sentence.

Better is said only where the interval of the change lies below none and the change is a point at least, with whether
people would notice it; worse only where it lies above none; no change only where a noticeable one is ruled out; in
between, that it cannot be told yet, with what would tell it. None of them is said before a fair trial is over: what
seems to rise is a warning until then. What sessions still ease is no change of the level (joint.py). Other raters, and
a long time without a rating, make the interval wider.
"""

from functools import lru_cache
from pathlib import Path
from statistics import median
from typing import Literal

from pydantic import BaseModel, ConfigDict

from acuthesis.core.data_file import read
from acuthesis.core.follow.estimate import Estimate
from acuthesis.core.follow.joint import JointCourse
from acuthesis.core.follow.pooled import Prior, WithPractice, with_prior
from acuthesis.core.follow.ratings import Phases, Series, longest_gap, phases, raters_changed
from acuthesis.core.message import NOTHING, Message, in_turn, message

DATA = Path(__file__).parent / "data"
LIKELY = 5  # chances in ten from which a change is called noticeable
METHOD = 4  # counts up whenever the same ratings would give another outcome

OutcomeTrend = Literal["no_rating", "too_early", "cannot_tell", "better", "no_change", "worse"]


TREND_WORDS: dict[OutcomeTrend, Message] = {
    "no_rating": message("trend-no-rating"),
    "too_early": message("trend-too-early"),
    "cannot_tell": message("trend-unclear"),
    "better": message("trend-better"),
    "no_change": message("trend-no-change"),
    "worse": message("trend-worse"),
}


class Thresholds(BaseModel):
    """What an outcome is judged by, with its sources in data/outcome.yaml. Points of 0-10."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    real_points: float
    real_per_cent: float
    least_points: float
    fair_visits: int
    fair_days: int
    fewest_ratings_to_warn: int
    fewest_visits_to_warn: int
    warn_chance: float
    rater_sd: float
    gap_days: float
    gap_sd: float
    still_points: float
    reliable_scatters: float


@lru_cache
def thresholds() -> Thresholds:
    """What outcomes are judged by.

    >>> thresholds().fair_visits
    3
    """
    return Thresholds.model_validate(read(DATA / "outcome.yaml"))


class Outcome(BaseModel):
    """What the ratings say. Levels and changes in points (0-10).

    `start`, `now`: what is rated at first and in the last weeks, without scatter; `level_now`: the level now, with its
    interval; `points`: the change of the level with its interval; `carried`: what of the difference is what sessions
    still ease, none where nothing tells; `rising`: it seems to rise, which is a warning and no verdict;
    `noticeable`: the chance that it is a change for the better that people notice; `scatter`: how far a rating lies
    from the level by itself; `reliable`: by how much two single ratings must differ to be more than that;
    `within_session`: the middle change from before to after.
    """

    trend: OutcomeTrend
    visits: int
    days: int
    ratings: int
    baseline: int
    start: float | None = None
    now: float | None = None
    level_now: Estimate | None = None
    rising: bool = False
    points: Estimate | None = None
    carried: Estimate | None = None
    per_cent: float | None = None
    noticeable: float | None = None
    scatter: float | None = None
    reliable: float | None = None
    within_session: float | None = None
    sentence: Message


def judge(series: Series) -> Outcome:
    """Judge one complaint. Ratings before a session and from home carry the course; those after show the session."""
    course = series.course
    basis = {"visits": series.visits, "days": series.days, "ratings": len(course), "within_session": within(series)}
    if not course:
        return Outcome(trend="no_rating", baseline=0, sentence=message("outcome-no-rating"), **basis)
    parts = phases(series)
    fitted = JointCourse(series)
    start = fitted.level_at(parts.baseline).estimate().middle
    basis |= {"baseline": len(parts.baseline), "start": round(start, 1), "scatter": round(fitted.scatter.middle, 1)}
    if not parts.now:
        return Outcome(trend="too_early", now=round(start, 1), sentence=_early(series), **basis)
    both = fitted.change(parts.baseline, parts.now)
    change = both.level.wider(_beside(series, parts))
    points = change.estimate()
    carried = both.carried.estimate()
    now = start + points.middle - carried.middle
    # Shares of a level near none say nothing.
    share = 100 * points.middle / start if start >= 1 else None
    by = thresholds()
    wanted = max(-by.real_points, -start * by.real_per_cent / 100) if start >= 1 else -by.real_points
    wanted = min(wanted, -by.least_points)
    rising = _rising(series, points, 1 - change.below(0))
    trend = _trend(series, points, rising)
    level_now = fitted.level_at(parts.now).estimate()
    found = Outcome(
        trend=trend,
        level_now=level_now.rounded(),
        rising=rising and trend != "worse",
        now=round(min(max(now, 0.0), 10.0), 1) + 0.0,
        points=points.rounded(),
        carried=carried.rounded() if fitted.eases else None,
        per_cent=None if share is None else round(share),
        noticeable=round(change.below(wanted), 2),
        reliable=round(thresholds().reliable_scatters * fitted.scatter.middle, 1),
        sentence=NOTHING,
        **basis,
    )
    return found.model_copy(update={"sentence": _sentence(found, series)})


def judged_with(series: Series, prior: Prior) -> WithPractice | None:
    """The same ratings, judged with what the practice's earlier people say beforehand; none where they tell no change
    yet. What people would notice, and a fair trial, are asked for as without them.
    """
    parts = phases(series)
    if not parts.now:
        return None
    fitted = JointCourse(series)
    start = fitted.level_at(parts.baseline).estimate().middle
    change = with_prior(fitted.change(parts.baseline, parts.now).level.wider(_beside(series, parts)), prior.change)
    points = change.estimate()
    told = prior.told
    trend = _trend(series, points, _rising(series, points, 1 - change.below(0)))
    return WithPractice(
        beforehand=told,
        points=points.rounded(),
        trend=trend,
        sentence=message(
            "outcome-with-practice-stopped" if told.stopped else "outcome-with-practice",
            people=told.people,
            mean=signed(told.mean),
            trend=TREND_WORDS[trend],
            middle=signed(points.middle),
            low=signed(points.low),
            high=signed(points.high),
            start=half_points(start),
            **({"stopped": told.stopped} if told.stopped else {}),
        ),
    )


def _beside(series: Series, parts: Phases) -> float:
    """What is unknown beside the ratings themselves (points, one standard deviation): people mean different things by
    the same number, and much may have happened in months that nobody tells of.
    """
    by, gap = thresholds(), longest_gap(series.course)
    unseen = gap is not None and gap[1].day - gap[0].day >= by.gap_days
    return float((raters_changed(parts) * by.rater_sd**2 + unseen * by.gap_sd**2) ** 0.5)


def _rising(series: Series, points: Estimate, worse: float) -> bool:
    """Whether it seems to rise: to wait for a fair trial would be no kindness, and to call it worse no truth."""
    by = thresholds()
    enough = len(series.course) >= by.fewest_ratings_to_warn and series.visits >= by.fewest_visits_to_warn
    return enough and points.middle >= by.real_points and worse >= by.warn_chance


def _trend(series: Series, points: Estimate, rising: bool) -> OutcomeTrend:
    by = thresholds()
    if series.visits < by.fair_visits or series.days < by.fair_days:
        return "too_early"
    if points.high < 0 and points.middle <= -by.least_points:
        return "better"
    if points.low > 0 and points.middle >= by.least_points:
        return "worse"
    return "no_change" if points.low > -by.real_points and not rising else "cannot_tell"


def within(series: Series) -> float | None:
    """Middle change from before to after on the same day."""
    before = {rating.on: rating.value for rating in series.ratings if rating.moment == "before"}
    changes = [
        rating.value - before[rating.on]
        for rating in series.ratings
        if rating.moment == "after" and rating.on in before
    ]
    return float(median(changes)) if changes else None


def still_at_work(found: Outcome) -> bool:
    """Whether what is rated lower now may in part be what sessions still ease."""
    if found.carried is None or found.start is None or found.now is None:
        return False
    fall, by = found.start - found.now, thresholds()
    return fall >= by.least_points and found.carried.high >= by.still_points


def _early(series: Series, levels: Message | None = None) -> Message:
    missing, by = [], thresholds()
    if series.visits < by.fair_visits:
        missing.append(message("trial-visits", wanted=by.fair_visits, **{"so-far": series.visits}))
    if series.days < by.fair_days:
        missing.append(message("trial-days", wanted=by.fair_days, **{"so-far": series.days}))
    if levels is None:
        return message("outcome-early", missing=in_turn(missing))
    return message("outcome-early-levels", levels=levels, missing=in_turn(missing))


def _sentence(found: Outcome, series: Series) -> Message:
    assert found.points is not None
    levels = message("levels", start=half_points(found.start), now=half_points(found.now))
    size = round(abs(found.points.middle), 1)
    change = between(found.points)
    chance = round(10 * (found.noticeable or 0))
    match found.trend:
        case "too_early":
            first, last = series.course[0].value, series.course[-1].value
            if found.rising or last - first >= thresholds().real_points:
                rated = message("ratings-counted", count=found.ratings)
                return message("outcome-early-worse", first=first, last=last, ratings=rated)
            return _early(series, levels)
        case "better" if chance >= LIKELY:
            return message("outcome-better-noticeable", points=size, levels=levels, change=change)
        case "better":
            return message("outcome-better", points=size, levels=levels, change=change, chance=chance)
        case "worse":
            return message("outcome-worse", points=size, levels=levels, change=change)
        case "no_change":
            return message(
                "outcome-no-change",
                visits=message("visits-counted", count=found.visits),
                days=message("days-counted", count=found.days),
                levels=levels,
                change=change,
                points=thresholds().real_points,
            )
        case _ if found.rising:
            return message("outcome-rising", levels=levels, change=change)
        case _:
            code = "outcome-unclear-carried" if still_at_work(found) else "outcome-unclear"
            return message(code, levels=levels, change=change, chance=chance)


def half_points(level: float | None) -> float:
    """A level that is worked out, to the half point.

    >>> half_points(5.8), half_points(None)
    (6.0, 0.0)
    """
    return round(2 * (level or 0)) / 2


def signed(points: float) -> Message:
    """A change in points with its sign: "+1.5", "−0.4"."""
    return message("signed", points=round(points, 1))


def between(change: Estimate) -> Message:
    """The interval of a change in points: "probably 0.4 to 4.0 points less", "between 1.6 less and 2.3 more"."""
    low, high = round(change.low, 1) + 0.0, round(change.high, 1) + 0.0
    if high <= 0:
        return message("change-less", **{"from": abs(high), "to": abs(low)})
    if low >= 0:
        return message("change-more", **{"from": low, "to": high})
    return message("change-either", less=abs(low), more=high)
