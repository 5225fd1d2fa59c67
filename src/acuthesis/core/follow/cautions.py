"""Automatic cautions: reasons why an outcome may be less than it looks, each with its number.

Source: single-case and trial teaching (regression to the mean, multiple comparisons, confounding, raters).
"""

from collections.abc import Sequence
from datetime import date
from typing import Literal

import numpy as np
from pydantic import BaseModel

from acuthesis.core.follow.estimate import Estimate
from acuthesis.core.follow.outcome import Outcome, still_at_work, thresholds
from acuthesis.core.follow.ratings import Series, longest_gap, phases, raters_changed
from acuthesis.core.follow.trend import trend
from acuthesis.core.words import counted

FEW = 8  # ratings
FALSE_ALARM = 0.025  # chance that one complaint without any change is called better
SEASON_DAYS = 100  # from here the time of year is another one
SAYABLE = 0.3  # points: less is no number to say
FEWEST_TO_FOLLOW_BACK = 4  # ratings
FLOOR = 2.0  # a level from which it can hardly fall

CautionId = Literal[
    "began_at_worst",
    "many_complaints",
    "other_began",
    "season",
    "few_ratings",
    "rater_changed",
    "gap",
    "asked_elsewhere",
    "near_none",
    "still_working",
    "rising",
]


class Caution(BaseModel):
    """A caution and its sentence."""

    id: CautionId
    words: str


class LifeEvent(BaseModel):
    """Something that may explain a jump: another treatment, a new medicine, an event of life. `other_care`: the first
    two.
    """

    on: date
    words: str
    other_care: bool = False


def cautions(
    series: Series,
    found: Outcome,
    looked_at: int,
    better: int,
    events: Sequence[LifeEvent],
) -> list[Caution]:
    """What a reader of an outcome should bear in mind.

    Parameters: looked_at, how many complaints of this person are followed; better, how many of them are called better;
    events, what else happened.
    """
    course = series.course
    if not course or found.points is None:
        return []
    parts, made = phases(series), []
    seems_less = found.points.middle <= -1
    if seems_less and _began_at_worst(series, found):
        made.append(
            Caution(
                id="began_at_worst",
                words="It began at its worst. People come when it is worst, so some of the fall, about "
                f"{_selected(found):.1f} points, may have come by itself.",
            )
        )
    if found.trend == "better" and looked_at >= 3 and better <= 1:
        chance = 1 - (1 - FALSE_ALARM) ** looked_at
        made.append(
            Caution(
                id="many_complaints",
                words=f"One of {looked_at} complaints is better. With {looked_at} looked at, one would seem so by "
                f"chance in {chance:.0%} of people whom nothing changed.",
            )
        )
    since = parts.baseline[0].on if parts.baseline else course[0].on
    other = [event for event in events if event.other_care and since <= event.on <= course[-1].on]
    if other:
        told = "; ".join(f"{one.words} ({one.on:%-d %B})" for one in other)
        made.append(
            Caution(id="other_began", words=f"Other care began meanwhile: {told}. Which of them did it cannot be told.")
        )
    if found.days >= SEASON_DAYS:
        made.append(
            Caution(
                id="season",
                words=f"{found.days} days lie between: it is another time of year, which may matter by itself.",
            )
        )
    if found.rising:
        made.append(
            Caution(
                id="rising",
                words=f"It seems to rise, from about {found.start:.0f} to about {found.now:.0f}: "
                "a warning, not a verdict.",
            )
        )
    if found.ratings < FEW:
        made.append(
            Caution(
                id="few_ratings", words=f"Only {counted(found.ratings, 'rating')}: the next one or two can change this."
            )
        )
    first, last = ({rating.said_by for rating in phase if rating.said_by} for phase in (parts.baseline, parts.now))
    if raters_changed(parts):
        made.append(
            Caution(
                id="rater_changed",
                words=f"Rated by {' and '.join(sorted(first))} at first, by {' and '.join(sorted(last))} now: people "
                "mean different things by the same number, so the interval is wider.",
            )
        )
    gap = longest_gap(course)
    if gap is not None and gap[1].day - gap[0].day >= thresholds().gap_days:
        made.append(
            Caution(
                id="gap",
                words=f"{(gap[1].on - gap[0].on).days} days without a rating, from {gap[0].on:%-d %B} to "
                f"{gap[1].on:%-d %B}: what else happened in them is not known, so the interval is wider.",
            )
        )
    if parts.now and {rating.moment for rating in parts.baseline}.isdisjoint(one.moment for one in parts.now):
        made.append(
            Caution(
                id="asked_elsewhere",
                words="The ratings at the start and those now were asked in different places (at a visit, at home), "
                "where people answer differently.",
            )
        )
    if found.start is not None and found.start <= FLOOR:
        made.append(Caution(id="near_none", words="It began near none: there was little that could have become less."))
    if still_at_work(found) and found.carried is not None:
        made.append(Caution(id="still_working", words=_still_working(found.carried)))
    return made


def _still_working(carried: Estimate) -> str:
    about = f"about {carried.middle:.1f} points of it" if carried.middle >= SAYABLE else "some of it"
    return (
        f"Part of what is rated lower may be the sessions still at work: {about}, {carried.high:.1f} at most. "
        "Ratings on the days between sessions, or a longer gap, would tell what stays."
    )


def _began_at_worst(series: Series, found: Outcome) -> bool:
    """Whether the first rating is the highest of all, and higher by more than half its scatter than where the later
    ones, followed back, would have begun: of a steady fall the first is the highest too, and that is no bad luck.
    """
    told = [rating.value for rating in series.course]
    if len(told) < FEWEST_TO_FOLLOW_BACK or told[0] != max(told):
        return False
    later = series.course[1:]
    falling = trend(later)
    apart = later[-1].day - later[0].day
    a_day = falling.per_week.middle / 7 if falling else (later[-1].value - later[0].value) / apart if apart else 0.0
    slope = min(0.0, a_day)
    days, values = np.array([one.day for one in later]), np.array([float(one.value) for one in later])
    back = float(np.median(values - slope * days)) + slope * series.course[0].day
    return told[0] - back >= 0.5 * (found.scatter or 1)


def _selected(found: Outcome) -> float:
    """By how much a single rating lies above its level if it was given because it was high (points): the mean of the
    upper
    half of a bell curve is 0.8 of its spread, and that of more ratings less."""
    return float(0.8 * (found.scatter or 0.0) / max(found.baseline, 1) ** 0.5)
