"""Places pressed beside the change that followed: a question for the next visit, never a finding.

For each place the sessions with it and those without are set side by side: by how much the next rating was lower.
Sessions follow each other and differ in much else, so nothing is tested. Units: points. Source: single-case teaching
(no comparison without a plan for one).
"""

from collections.abc import Mapping
from itertools import pairwise
from statistics import mean

from pydantic import BaseModel

from acuthesis.core.follow.outcome import signed
from acuthesis.core.follow.ratings import Series
from acuthesis.core.message import Message, message

FEWEST = 3  # sessions with a place, and without it
WORTH_ASKING = 1.5  # points
MOST = 2


class VisitQuestion(BaseModel):
    """A place, the sessions with and without it, the mean change to the next rating after either, and what to ask."""

    id: str
    with_it: int
    without_it: int
    change_with: float
    change_without: float
    words: Message


def questions(series: Series, names: Mapping[str, str]) -> list[VisitQuestion]:
    """The places whose sessions differ most from the others, two at most."""
    steps = _steps(series)
    places = sorted({id for pressed, _ in steps for id in pressed})
    found = []
    for id in places:
        there = [change for pressed, change in steps if id in pressed]
        elsewhere = [change for pressed, change in steps if id not in pressed]
        if min(len(there), len(elsewhere)) < FEWEST:
            continue
        gap = mean(there) - mean(elsewhere)
        if gap > -WORTH_ASKING:
            continue
        name = names.get(id, id)
        found.append(
            VisitQuestion(
                id=id,
                with_it=len(there),
                without_it=len(elsewhere),
                change_with=round(mean(there), 1),
                change_without=round(mean(elsewhere), 1),
                words=message(
                    "question-pressed",
                    name=name,
                    **{"with": len(there), "without": len(elsewhere)},
                    **{"change-with": signed(mean(there)), "change-without": signed(mean(elsewhere))},
                ),
            )
        )
    return sorted(found, key=lambda one: one.change_with - one.change_without)[:MOST]


def _steps(series: Series) -> list[tuple[frozenset[str], int]]:
    """What each session pressed, and how the rating before the next session differed from the one before it."""
    before = {rating.on: rating.value for rating in series.ratings if rating.moment == "before"}
    held = [one for one in series.held if one.on in before]
    return [(one.pressed, before[after.on] - before[one.on]) for one, after in pairwise(held)]
