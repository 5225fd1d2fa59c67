"""Sample size: how many more ratings until a change of two points could be detected, and a plan for asking.

Assumptions: ratings scatter as they have so far, and independently. Source: power of a two-group comparison (eight
chances in ten to see the change, one in twenty to see one that is not there), statsmodels'.
"""

from math import ceil

from pydantic import BaseModel

from acuthesis.core.message import Message, message

POINTS = 2.0
CHANCE = 0.05
POWER = 0.8
MOST = 60  # ratings; more is no plan
A_WEEK = 2  # how often people can be asked without tiring of it


class Needed(BaseModel):
    """`more`: ratings still needed now; `baseline_more`: ratings before work, where one could still wait; `weeks`: how
    long that takes with `a_week`; `plan` and why, in words."""

    more: int
    weeks: int
    a_week: int
    enough: bool
    plan: Message


def needed(scatter: float, baseline: int, now: int) -> Needed:
    """Ratings still needed with a scatter (points) and so many ratings in each phase.

    >>> needed(1.2, 4, 3).more
    13
    >>> needed(0.6, 4, 6).enough
    True
    """
    # statsmodels takes seconds to import, which nobody should wait for who does not ask for it.
    from statsmodels.stats.power import TTestIndPower

    power = TTestIndPower()
    effect = POINTS / max(scatter, 0.3)
    varies = round(scatter, 1)
    # One rating has no scatter of its own; that of the whole course stands in for it.
    first = max(baseline, 2)
    if power.power(effect_size=effect, nobs1=first, ratio=max(now, 2) / first, alpha=CHANCE) >= POWER and now >= 2:
        return Needed(
            more=0,
            weeks=0,
            a_week=A_WEEK,
            enough=True,
            plan=message("needed-enough", scatter=varies),
        )
    for count in range(max(now, 1) + 1, MOST + 1):
        if power.power(effect_size=effect, nobs1=first, ratio=count / first, alpha=CHANCE) >= POWER:
            return _plan(varies, count - now)
    return Needed(
        more=MOST,
        weeks=0,
        a_week=A_WEEK,
        enough=False,
        plan=message("needed-too-few-before", scatter=varies, baseline=baseline, points=POINTS),
    )


def _plan(scatter: float, more: int) -> Needed:
    weeks = ceil(more / A_WEEK)
    said = message("needed-more", scatter=scatter, more=more, points=POINTS, weeks=weeks)
    return Needed(more=more, weeks=weeks, a_week=A_WEEK, enough=False, plan=said)
