"""The moment at the table for another screen's clock: which side the hands are on, how the breath goes."""

from datetime import datetime
from typing import Literal

from pydantic import BaseModel

from acuthesis.core.compose.score.course import calm_breath
from acuthesis.core.treat.moves import pressed_s
from acuthesis.core.treat.state import OVER, Sided, TreatmentState


class LiveMoment(BaseModel):
    """What a second clock needs to go along: whether hands press, for how many seconds they have, and the breath.

    `at_s`: seconds of pressing at this stop, by which the breath goes; `in_share`: the part of a breath that goes in.
    """

    status: Literal["waiting", "pressing", "held", "over"]
    at_s: float
    breath_s: float
    in_share: float


def moment(treatment: TreatmentState, at: datetime) -> LiveMoment:
    """Where the breath of a treatment is."""
    over, begun = treatment.status in OVER, treatment.current is not None
    pressing = treatment.running_since is not None
    return LiveMoment(
        status="over" if over else "pressing" if pressing else "held" if begun else "waiting",
        at_s=round(pressed_s(treatment, at), 3),
        breath_s=treatment.breath_s or calm_breath().seconds,
        in_share=calm_breath().in_share,
    )


def sided(treatment: TreatmentState, at: datetime) -> Sided:
    """The side that a number is said of: that of the stop; of two in turn the one that hands are on by now."""
    stop = treatment.stops.get(treatment.current or "")
    if stop is None or stop.side == "midline":
        return None
    if stop.side != "both":
        return stop.side
    if stop.dose.together:
        return "right"
    second = pressed_s(treatment, at) >= stop.duration_s / 2
    return "left" if second != (stop.first == "left") else "right"
