"""The size of a session that a person tolerates: points, minutes, turns, and the longest stay in one position."""

from pydantic import BaseModel, ConfigDict

from acuthesis.core.safety.rule import Rule, Size
from acuthesis.core.safety.screening import Screening
from acuthesis.core.safety.standing import awake, rules_for


class Capacity(BaseModel):
    """The least that any rule leaves of each, None where none speaks of it; and the reason of the rule that set it."""

    model_config = ConfigDict(frozen=True)

    points: int | None = None
    minutes: float | None = None
    turns: int | None = None
    stay_min: float | None = None
    reasons: dict[str, str] = {}  # by field


def capacity(screening: Screening) -> Capacity:
    """How much this person takes at once.

    >>> from acuthesis.core.safety.screening import parse_screening
    >>> capacity(parse_screening({"frail": True}, age=82)).points
    8
    """
    speaking = [rule for rule in rules_for(screening) if rule.session is not None and awake(rule, screening)]
    found, reasons = {}, {}
    for field in Size.model_fields:
        setting = [rule for rule in speaking if _of(rule, field) is not None]
        if setting:
            least = min(setting, key=lambda rule: _of(rule, field) or 0)
            found[field], reasons[field] = _of(least, field), least.reason
    return Capacity(**found, reasons=reasons)


def _of(rule: Rule, field: str) -> float | None:
    return getattr(rule.session, field)  # type: ignore[no-any-return]
