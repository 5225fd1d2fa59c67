"""The screening: questions as data, answers as a model built from them, and what the answers decide."""

from datetime import date
from functools import lru_cache
from pathlib import Path
from typing import Any, Literal

import yaml
from pydantic import BaseModel, ConfigDict, TypeAdapter

from acuthesis.core.errors import CoreError, UnknownId

DATA = Path(__file__).parent / "data"
SCREENING_VALID_DAYS = 180  # health changes; half a year is this application's choice, to be tightened by a practice
PREGNANCY_VALID_DAYS = 28  # the week moves on, and with it the limits
LYING = ("prone", "supine", "left_side", "right_side")
SIDE_ANSWERS = ("left", "right", "both")

Decision = Literal["ok", "refer", "emergency"]
Kind = Literal["flag", "weeks", "side", "lying"]


class Question(BaseModel):
    """One question of the screening."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    ask: str
    kind: Kind
    severity: Literal["emergency", "refer", "context"]
    source: Literal["first_aid", "tradition", "manual"]
    say: str = ""


class QuestionGroup(BaseModel):
    """Questions that are asked together."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    group: str
    title: str
    lead: str
    questions: tuple[Question, ...]


@lru_cache
def question_groups() -> tuple[QuestionGroup, ...]:
    """The screening in the order in which it is asked."""
    rows = yaml.safe_load((DATA / "questions.yaml").read_text())
    return tuple(TypeAdapter(list[QuestionGroup]).validate_python(rows))


@lru_cache
def questions() -> dict[str, Question]:
    """Every question by id."""
    return {question.id: question for group in question_groups() for question in group.questions}


class Reason(BaseModel):
    """Why something is decided: the rule or question behind it, and a sentence for people."""

    model_config = ConfigDict(frozen=True)

    rule: str
    severity: Literal["emergency", "refer", "refuse", "limit", "note"]
    text: str


class Screening(BaseModel):
    """Answers of one screening. Unanswered means no. Built by `parse_screening`, which checks every key."""

    model_config = ConfigDict(frozen=True)

    answers: dict[str, bool | int | str | tuple[str, ...]] = {}
    cleared: tuple[str, ...] = ()

    def answer(self, question: str) -> bool | int | str | tuple[str, ...] | None:
        """The answer to a question, None where it was not given."""
        return self.answers.get(question)

    @property
    def light_sensitive(self) -> bool:
        """Whether the dim room is this person's default."""
        return bool(self.answers.get("light_sensitive"))


class Verdict(BaseModel):
    """Whether there may be a session at all, and why not."""

    decision: Decision
    reasons: tuple[Reason, ...]


def parse_screening(data: dict[str, Any]) -> Screening:
    """Answers from their open form: one key a question, `red_flags` and `cleared` as lists of question ids.

    Raises: UnknownId naming the key; CoreError naming the field whose value does not fit the question.
    """
    answers: dict[str, bool | int | str | tuple[str, ...]] = {}
    cleared = _ids(data.get("cleared", []), "cleared")
    for flag in _ids(data.get("red_flags", []), "red_flags"):
        answers[flag] = True
    for key, value in data.items():
        if key in ("cleared", "red_flags") or value is None or value is False:
            continue
        if key not in questions():
            raise UnknownId(f"screening: there is no question '{key}'", where=f"screening.{key}")
        answers[key] = _checked(questions()[key], value)
    return Screening(answers=answers, cleared=cleared)


def _ids(value: Any, where: str) -> tuple[str, ...]:
    if not isinstance(value, list | tuple):
        raise CoreError(f"screening: {where} must be a list of question ids", where=f"screening.{where}")
    for id in value:
        question = questions().get(str(id))
        if question is None or question.severity == "context":
            raise UnknownId(f"screening: '{id}' is not a red flag", where=f"screening.{where}")
    return tuple(str(id) for id in value)


def _checked(question: Question, value: Any) -> bool | int | str | tuple[str, ...]:
    where = f"screening.{question.id}"
    if question.kind == "weeks":
        if isinstance(value, bool) or not isinstance(value, int) or not 0 <= value <= 43:
            raise CoreError(f"{where}: weeks of pregnancy are a whole number from 0 to 43", where=where)
        return value
    if question.kind == "side":
        if value not in SIDE_ANSWERS:
            raise CoreError(f"{where}: must be left, right or both", where=where)
        return str(value)
    if question.kind == "lying":
        if not isinstance(value, list | tuple) or any(position not in LYING for position in value):
            raise CoreError(f"{where}: a list of {', '.join(LYING)}", where=where)
        return tuple(value)
    if value is not True:
        raise CoreError(f"{where}: must be true or false", where=where)
    return True


def open_form(screening: Screening) -> dict[str, Any]:
    """The open form again: what `parse_screening` reads."""
    data: dict[str, Any] = {
        key: list(value) if isinstance(value, tuple) else value for key, value in screening.answers.items()
    }
    if screening.cleared:
        data["cleared"] = list(screening.cleared)
    return data


def verdict(screening: Screening) -> Verdict:
    """Whether a session may take place. An emergency cannot be cleared; a referral can, by a doctor."""
    reasons = [
        Reason(rule=question.id, severity=question.severity, text=f"{question.ask}. {question.say}")
        for question in questions().values()
        if question.severity in ("emergency", "refer")
        and screening.answer(question.id)
        and not (question.severity == "refer" and question.id in screening.cleared)
    ]
    reasons.sort(key=lambda reason: reason.severity)  # emergency before refer
    decision: Decision = reasons[0].severity if reasons else "ok"  # type: ignore[assignment]
    return Verdict(decision=decision, reasons=tuple(reasons))


def is_stale(answered: date, today: date, screening: Screening) -> bool:
    """Whether the answers are too old to work on."""
    pregnant = screening.answer("pregnancy_weeks") is not None
    return (today - answered).days > (PREGNANCY_VALID_DAYS if pregnant else SCREENING_VALID_DAYS)
