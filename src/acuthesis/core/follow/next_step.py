"""The next step for a person: the one thing that a practitioner would do now, and what else is due."""

from typing import Literal

from pydantic import BaseModel

from acuthesis.core.message import Message, message

Station = Literal["screening", "complaints", "rate_before", "measures", "compose", "treat", "rate_after", "take_away"]

STEP_WORDS: dict[Station, Message] = {
    "screening": message("next-screening"),
    "complaints": message("next-complaints"),
    "rate_before": message("next-rate-before"),
    "measures": message("next-measures"),
    "compose": message("next-compose"),
    "treat": message("next-treat"),
    "rate_after": message("next-rate-after"),
    "take_away": message("next-take-away"),
}


class Standing(BaseModel):
    """Where a person stands today on the way from first word to follow-up; `next_step` reads what is due from it."""

    visits_before: int
    screened: bool
    screening_stale: bool
    allowed: bool
    complaints: int
    rated_before: int
    rated_after: int
    measured: bool
    composed: bool
    treatment: Literal["not_begun", "open", "over"]


class NextStep(BaseModel):
    """The next step, its button, and what is due besides."""

    station: Station
    label: Message
    due: tuple[Message, ...]


def next_step(now: Standing) -> NextStep:
    """Decide the next step. Screening stands above everything; a treatment that is open goes on."""
    station: Station
    if now.treatment == "open":
        station = "treat"
    elif not now.screened or now.screening_stale or not now.allowed:
        station = "screening"
    elif now.treatment == "over":
        station = "rate_after" if now.rated_after < now.complaints else "take_away"
    elif not now.complaints:
        station = "complaints"
    elif now.rated_before < now.complaints:
        station = "rate_before"
    elif not now.measured:
        station = "measures"
    elif not now.composed:
        station = "compose"
    else:
        station = "treat"
    return NextStep(station=station, label=STEP_WORDS[station], due=_due(now))


def _due(now: Standing) -> tuple[Message, ...]:
    due = []
    if not now.screened:
        due.append(message("due-screening"))
    elif now.screening_stale:
        due.append(message("due-screening-again"))
    elif not now.allowed:
        due.append(message("due-no-session"))
    if not now.complaints:
        due.append(message("due-complaint"))
    if not now.measured:
        due.append(message("due-measures"))
    return tuple(due)
