"""Whether there may be a session at all: emergencies and referrals come before every rule and every plan."""

from pydantic import BaseModel

from acuthesis.core.reason import Reason
from acuthesis.core.safety.screening import Decision, Screening, questions
from acuthesis.core.safety.standing import awake, rules_for


class Verdict(BaseModel):
    """Whether this person may be treated now, and every reason for it."""

    decision: Decision
    reasons: tuple[Reason, ...]


ORDER: tuple[Decision, ...] = ("emergency", "refer", "ask", "ok")


def verdict(screening: Screening) -> Verdict:
    """Whether a session may take place. An emergency cannot be cleared; a referral can, by a doctor.

    `ask`: something was answered with yes that asks where, and the place is not named yet; or a question is open on
    which it depends whether there may be a session; or answers contradict each other. Nothing is composed until that is
    answered, because a margin around nowhere protects nothing.

    >>> from acuthesis.core.safety.screening import parse_screening
    >>> verdict(parse_screening({"chest_pain": True})).decision
    'emergency'
    """
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
        Reason(
            rule=rule.id,
            severity=rule.severity,
            text=rule.reason,
            clear=(rule.clear or rule.id) if rule.severity == "refer" else "",
        )
        for rule in rules_for(screening)
        if rule.severity in ("emergency", "refer")
        and awake(rule, screening)
        and not (rule.severity == "refer" and (rule.clear or rule.id) in screening.cleared)
    ]
    open_rules = [
        Reason(rule=rule.id, severity="ask", text=rule.reason)
        for rule in rules_for(screening)
        if rule.severity == "ask" and awake(rule, screening)
    ]
    where = [
        Reason(rule=question.id, severity="ask", text=f"{question.ask} Name or mark the place first.")
        for question in screening.unplaced()
    ]
    reasons = sorted([*asked, *ruled, *open_rules, *where], key=lambda reason: ORDER.index(reason.severity))
    decision: Decision = reasons[0].severity if reasons else "ok"  # type: ignore[assignment]
    return Verdict(decision=decision, reasons=tuple(reasons))
