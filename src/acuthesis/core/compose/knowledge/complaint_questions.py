"""The questions of a complaint: its own, and those that every complaint is asked."""

from datetime import date, timedelta
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

# Words for how it feels, and how it goes. Source: general history taking.
Quality = Literal[
    "aching", "sharp", "burning", "pulling", "throbbing", "stiff", "tingling", "heavy", "cramping", "pressing"
]
Pattern = Literal["constant", "waves", "episodes"]
Short = Annotated[str, StringConstraints(max_length=200, strip_whitespace=True)]
MOST_ACTS = 3
# How long a doctor's examination that a complaint calls for can be relied on. Source: general care; findings a year old
# are looked at again.
CHECKED_HOLDS_DAYS = 365


class Answers(BaseModel):
    """Answers about a complaint. `own`: to its own questions, by the question as it was asked."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    own: Annotated[dict[Short, Short], Field(max_length=20)] = {}
    quality: Annotated[tuple[Quality, ...], Field(max_length=10)] = ()
    brings_on: Short = ""
    eases: Short = ""
    pattern: Pattern | None = None
    medicines_per_week: Annotated[float, Field(ge=0, le=200, allow_inf_nan=False)] | None = None


def check_is_stale(seen_on: date, today: date) -> bool:
    """Whether a doctor's examination is too long ago to rely on.

    >>> check_is_stale(date(2025, 11, 29), date(2026, 11, 30)), check_is_stale(date(2025, 11, 30), date(2026, 11, 30))
    (True, False)
    """
    return today > seen_on + timedelta(days=CHECKED_HOLDS_DAYS)


def changed(before: Answers, now: Answers) -> dict[str, tuple[str, str]]:
    """What is answered otherwise than last time: by question, the old and the new answer in words.

    >>> changed(Answers(brings_on="stairs"), Answers(brings_on="stairs", pattern="waves"))
    {'pattern': ('', 'waves')}
    """
    old, new = _in_words(before), _in_words(now)
    return {
        question: (old.get(question, ""), new.get(question, ""))
        for question in dict.fromkeys([*old, *new])
        if old.get(question, "") != new.get(question, "")
    }


def _in_words(answers: Answers) -> dict[str, str]:
    plain = {
        "quality": ", ".join(answers.quality),
        "brings on": answers.brings_on,
        "eases": answers.eases,
        "pattern": answers.pattern or "",
        "medicines per week": "" if answers.medicines_per_week is None else f"{answers.medicines_per_week:g}",
        **answers.own,
    }
    return {question: answer for question, answer in plain.items() if answer}
