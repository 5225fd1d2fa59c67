"""Whether there may be a session at all: what stops the work stands above every rule and every plan."""

from pydantic import BaseModel

from acuthesis.core.reason import Reason
from acuthesis.core.safety.limits import awake, rules
from acuthesis.core.safety.screening import Decision, Screening, questions


class Verdict(BaseModel):
    """Whether this person may be treated now, and every reason for it."""

    decision: Decision
    reasons: tuple[Reason, ...]


def verdict(screening: Screening) -> Verdict:
    """Whether a session may take place. An emergency cannot be cleared; a referral can, by a doctor."""
    asked = [
        Reason(
            rule=question.id,
            severity=question.severity,
            text=f"{question.ask}. {question.say}",
            clear=question.id if question.severity == "refer" else "",
        )
        for question in questions().values()
        if question.severity in ("emergency", "refer")
        and screening.answer(question.id)
        and not (question.severity == "refer" and question.id in screening.cleared)
    ]
    ruled = [
        Reason(rule=rule.id, severity="refer", text=rule.reason, clear=rule.clear or rule.id)
        for rule in (*rules(), *screening.house)
        if rule.severity == "refer" and awake(rule, screening) and (rule.clear or rule.id) not in screening.cleared
    ]
    reasons = sorted([*asked, *ruled], key=lambda reason: reason.severity)  # emergency before refer
    decision: Decision = reasons[0].severity if reasons else "ok"  # type: ignore[assignment]
    return Verdict(decision=decision, reasons=tuple(reasons))
