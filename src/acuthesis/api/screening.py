"""The screening: its questions, a person's answers, and their history."""

import uuid
from datetime import datetime
from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict

from acuthesis.api.access import Here, SignedIn, now
from acuthesis.core.safety.pressure import PressureTable, pressure_table
from acuthesis.core.safety.rule import Rule
from acuthesis.core.safety.rules import limit_strip, rules
from acuthesis.core.safety.screening import QuestionGroup, open_form, parse_screening, question_groups
from acuthesis.core.safety.verdict import Verdict, verdict
from acuthesis.store import people as store
from acuthesis.store.compose import house_rules_of
from acuthesis.store.model import PersonRow, ScreeningRow

router = APIRouter(tags=["screening"])


class Answers(BaseModel):
    """Answers in their open form: one key a question (see `person.json` in the guide)."""

    model_config = ConfigDict(extra="forbid")

    answers: dict[str, Any]


class ScreeningOut(BaseModel):
    """One screening and what it decides."""

    id: uuid.UUID
    answered_at: datetime
    answers: dict[str, Any]
    verdict: Verdict
    limits: list[str]


class SafetyBook(BaseModel):
    """Everything the safety core works with, for the page that lists it."""

    questions: tuple[QuestionGroup, ...]
    rules: tuple[Rule, ...]
    house: tuple[Rule, ...]
    pressure: PressureTable


def _out(here: Here, person: PersonRow, row: ScreeningRow) -> ScreeningOut:
    screening = store.screening_from(here.session, person, row)
    return ScreeningOut(
        id=row.id,
        answered_at=row.answered_at,
        answers=open_form(screening),
        verdict=verdict(screening),
        limits=list(limit_strip(screening)),
    )


@router.get("/safety")
def safety_book(here: SignedIn) -> SafetyBook:
    """Questions, standing rules, the practice's own rules, and levels of pressure."""
    return SafetyBook(
        questions=question_groups(),
        rules=rules(),
        house=house_rules_of(here.session),
        pressure=pressure_table(),
    )


@router.get("/people/{person_id}/screenings")
def list_screenings(person_id: uuid.UUID, here: SignedIn) -> list[ScreeningOut]:
    """All screenings of a person, newest first."""
    row = store.person(here.session, person_id)
    return [_out(here, row, screening) for screening in store.screenings(here.session, row.id)]


@router.post("/people/{person_id}/screenings", status_code=201)
def add_screening(person_id: uuid.UUID, answers: Answers, here: SignedIn) -> ScreeningOut:
    """Keep a screening and say what it decides."""
    row = store.person(here.session, person_id)
    form = open_form(parse_screening(answers.answers))
    screening = store.add_screening(here.session, row, form, here.practitioner.id, now())
    store.audit(here.session, here.practice_id, here.practitioner.id, row.id, "screened")
    return _out(here, row, screening)
