"""Screening: the questions, a person's answers and their history, and clearances by a doctor."""

import uuid
from datetime import datetime
from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict

from acuthesis.api.access import SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import Day, Line
from acuthesis.core.body.person import BodyFacts
from acuthesis.core.body.regions import patch_of
from acuthesis.core.errors import CoreError
from acuthesis.core.message import message
from acuthesis.core.safety.clearance import Clearance
from acuthesis.core.safety.limits import limit_strip
from acuthesis.core.safety.pressure import PressureTable, calibrated
from acuthesis.core.safety.rule import Rule
from acuthesis.core.safety.screening import (
    Painted,
    QuestionGroup,
    Screening,
    open_form,
    parse_screening,
    question_groups,
)
from acuthesis.core.safety.standing import rules
from acuthesis.core.safety.verdict import Verdict, verdict
from acuthesis.services.body.bodies import body_of, shelf
from acuthesis.services.people.complaints import answer_too
from acuthesis.services.request.clock import now
from acuthesis.services.request.columns import scale_of
from acuthesis.services.request.here import Here
from acuthesis.services.request.known import Known, clearance_from
from acuthesis.services.visit.treatment import person_changed
from acuthesis.store import people as store
from acuthesis.store.model import PersonRow, ScreeningRow

router = APIRouter(route_class=StrictRoute, tags=["screening"])


class OpenAnswers(BaseModel):
    """Answers in their open form: one key a question (see `person.json` in the guide).

    `in_full`: all questions were asked. Otherwise these are added to the newest answers, which stay as old as they are.
    """

    model_config = ConfigDict(extra="forbid")

    answers: dict[str, Any]
    in_full: bool = True


class ScreeningOut(BaseModel):
    """One screening and what it decides."""

    id: uuid.UUID
    answered_at: datetime
    in_full: bool
    answers: dict[str, Any]
    verdict: Verdict
    limits: list[str]


class NewClearance(BaseModel):
    """A doctor's word on something that stops the work: who gave it, when, what for, until when."""

    model_config = ConfigDict(extra="forbid")

    flag: Line
    by: Line
    given_on: Day
    what_for: Line
    until: Day


class ClearanceOut(Clearance):
    """A clearance that was recorded; `holds` says whether it lifts anything today."""

    id: uuid.UUID
    holds: bool


class SafetyBook(BaseModel):
    """Everything the safety core works with, for the page that lists it."""

    questions: tuple[QuestionGroup, ...]
    rules: tuple[Rule, ...]
    house: tuple[Rule, ...]
    pressure: PressureTable


def _out(known: Known, row: ScreeningRow) -> ScreeningOut:
    screening = known.screening_from(row)
    return ScreeningOut(
        id=row.id,
        answered_at=row.answered_at,
        in_full=row.in_full,
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
        house=here.layer.rules,
        pressure=calibrated(scale_of(here.practitioner)),
    )


@router.get("/people/{person_id}/screenings")
def list_screenings(person_id: uuid.UUID, here: SignedIn) -> list[ScreeningOut]:
    """All screenings of a person, newest first."""
    known = here.person(person_id, "screenings")
    return [_out(known, screening) for screening in known.screenings]


@router.post("/people/{person_id}/screenings", status_code=201)
def add_screening(person_id: uuid.UUID, answers: OpenAnswers, here: SignedIn) -> ScreeningOut:
    """Keep a screening and say what it decides."""
    row = here.person(person_id).row
    if answers.answers.get("cleared"):
        raise CoreError(
            message("screening-record-medical-clearance-with-who"),
            where="answers.cleared",
        )
    form = open_form(_worded(here.person(row.id), parse_screening(answers.answers)))
    if not answers.in_full:
        withdrawn = {key: False for key, value in answers.answers.items() if value is False}
        answer_too(here, row, withdrawn | form, "screened")
        known = here.person(row.id)
        return _out(known, known.screenings[0])
    screening = store.add_screening(here.db, row, form, here.practitioner.id, now())
    here.audit(row.id, "screened")
    person_changed(here, row.id)
    return _out(here.person(row.id), screening)


def _worded(known: Known, screening: Screening) -> Screening:
    """The answers, with each painted place called by what it lies on. Raises: CoreError for skin that no figure has."""
    if not screening.painted:
        return screening
    # Of a small child there is no figure; what a painted place lies on is the same on every one.
    ready = body_of(known) if known.has_figure else shelf.body(BodyFacts())
    screening, body = ready.on_body().with_sites(screening), ready.body

    def worded(place: str | Painted) -> str | Painted:
        if isinstance(place, str):
            return place
        return place.model_copy(update={"words": patch_of(list(place.skin), body).words})

    answers = {
        id: tuple(worded(place) for place in screening.places(id)) if screening.places(id) else answer
        for id, answer in screening.answers.items()
    }
    return screening.model_copy(update={"answers": answers})


def _clearances(known: Known) -> list[ClearanceOut]:
    rows, lifted = known.clearances, known.screening.cleared
    newest = {row.flag: row.id for row in rows}
    return [
        ClearanceOut(
            **clearance_from(row).model_dump(),
            id=row.id,
            holds=row.granted and newest[row.flag] == row.id and row.flag in lifted,
        )
        for row in reversed(rows)
    ]


@router.get("/people/{person_id}/clearances")
def list_clearances(person_id: uuid.UUID, here: SignedIn) -> list[ClearanceOut]:
    """What doctors cleared for a person, and what was taken back, newest first."""
    return _clearances(here.person(person_id, "clearances"))


@router.post("/people/{person_id}/clearances", status_code=201)
def add_clearance(person_id: uuid.UUID, new: NewClearance, here: SignedIn) -> list[ClearanceOut]:
    """Record that a doctor has cleared what stops the work. Only what stops it now, and only a referral, can be."""
    known = here.person(person_id)
    stopping = known.verdict.reasons
    if new.flag not in {reason.clear for reason in stopping if reason.clear}:
        raise CoreError(message("screening-does-not-need-clearance-at", flag=new.flag), where="flag")
    today = here.today
    if new.given_on > today:
        raise CoreError(message("screening-future-cannot-have-been-cleared", given_on=new.given_on), where="given_on")
    if new.until < today:
        raise CoreError(message("screening-clearance-ended-on-ask-new", until=new.until), where="until")
    if new.until < new.given_on:
        raise CoreError(message("screening-clearance-would-end-before-given"), where="until")
    return _record(here, known.row, Clearance(**new.model_dump(), recorded_at=now()), "clearance recorded")


@router.delete("/people/{person_id}/clearances/{flag}")
def withdraw_clearance(person_id: uuid.UUID, flag: str, here: SignedIn) -> list[ClearanceOut]:
    """Take back what was cleared under a flag: from now on it stops the work again. The record of it stays."""
    known = here.person(person_id)
    given = [row for row in known.clearances if row.flag == flag]
    if not given or not given[-1].granted:
        raise store.NotFound(message("screening-there-no-clearance"), where="flag")
    back = clearance_from(given[-1]).model_copy(update={"granted": False, "recorded_at": now()})
    return _record(here, known.row, back, "clearance withdrawn")


def _record(here: Here, person: PersonRow, clearance: Clearance, action: str) -> list[ClearanceOut]:
    store.add_clearance(here.db, person, clearance, here.practitioner.id)
    here.audit(person.id, f"{action}: {clearance.flag}")
    person_changed(here, person.id)
    return _clearances(here.person(person.id))
