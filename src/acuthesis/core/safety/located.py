"""A place on one person with its limits: whether it is refused, the highest level, and what to mind."""

from collections.abc import Mapping

from acuthesis.core.atlas.entries.model import Area, Point
from acuthesis.core.atlas.locating.locate import Located, locate
from acuthesis.core.body.construct import FingerSpan
from acuthesis.core.body.figure import Side
from acuthesis.core.body.fit import FittedBody
from acuthesis.core.safety.limits import limits_for
from acuthesis.core.safety.screening import Screening


def locate_within(
    target: Point | Area,
    side: Side,
    body: FittedBody,
    screening: Screening,
    practitioner: Mapping[FingerSpan, float] | None = None,
) -> Located:
    """Locate a target, with the limits that follow from a screening.

    Parameters as of `locate`; screening, what is known of the person's health.
    Returns the place; `refused` with its reason where it must not be pressed, `press.max_level` (1 to 5) with all
    reasons that set it, cautions of the rules before those of the place itself.
    Raises: CoreError if the rule cannot be followed on this body.
    """
    found = locate(target, side, body, practitioner)
    limits = limits_for(target, side if target.paired else "midline", screening)
    press = found.press.model_copy(
        update={"max_level": limits.ceiling, "max_level_reasons": list(limits.ceiling_reasons)}
    )
    cautions = [*(reason.text for reason in limits.cautions), *found.cautions]
    return found.model_copy(update={"press": press, "cautions": cautions, "refused": limits.refused})
