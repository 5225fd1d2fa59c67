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
from acuthesis.core.message import Message, day, in_turn, message

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
    words: Message


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
        made.append(_caution("began_at_worst", message("caution-began-at-worst", points=round(_selected(found), 1))))
    if found.trend == "better" and looked_at >= 3 and better <= 1:
        chance = 1 - (1 - FALSE_ALARM) ** looked_at
        said = message("caution-many-complaints", complaints=looked_at, **{"per-cent": round(100 * chance)})
        made.append(_caution("many_complaints", said))
    since = parts.baseline[0].on if parts.baseline else course[0].on
    other = [event for event in events if event.other_care and since <= event.on <= course[-1].on]
    if other:
        care = in_turn([message("care-on-day", care=one.words, day=day(one.on, "short")) for one in other])
        made.append(_caution("other_began", message("caution-other-care", care=care)))
    if found.days >= SEASON_DAYS:
        made.append(_caution("season", message("caution-season", days=found.days)))
    if found.rising:
        levels = {"start": round(found.start or 0), "now": round(found.now or 0)}
        made.append(_caution("rising", message("caution-rising", **levels)))
    if found.ratings < FEW:
        rated = message("ratings-counted", count=found.ratings)
        made.append(_caution("few_ratings", message("caution-few-ratings", ratings=rated)))
    first, last = ({rating.said_by for rating in phase if rating.said_by} for phase in (parts.baseline, parts.now))
    if raters_changed(parts):
        raters = {"first": in_turn(sorted(first)), "last": in_turn(sorted(last))}
        made.append(_caution("rater_changed", message("caution-raters", **raters)))
    gap = longest_gap(course)
    if gap is not None and gap[1].day - gap[0].day >= thresholds().gap_days:
        apart = (gap[1].on - gap[0].on).days
        days = {"from": day(gap[0].on, "short"), "to": day(gap[1].on, "short")}
        made.append(_caution("gap", message("caution-gap", days=apart, **days)))
    if parts.now and {rating.moment for rating in parts.baseline}.isdisjoint(one.moment for one in parts.now):
        made.append(_caution("asked_elsewhere", message("caution-asked-elsewhere")))
    if found.start is not None and found.start <= FLOOR:
        made.append(_caution("near_none", message("caution-near-none")))
    if still_at_work(found) and found.carried is not None:
        made.append(_caution("still_working", _still_working(found.carried)))
    return made


def _caution(id: CautionId, words: Message) -> Caution:
    return Caution(id=id, words=words)


def _still_working(carried: Estimate) -> Message:
    most = round(carried.high, 1)
    if carried.middle < SAYABLE:
        return message("caution-carried-some", most=most)
    return message("caution-carried", points=round(carried.middle, 1), most=most)


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
