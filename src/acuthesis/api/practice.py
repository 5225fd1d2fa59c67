"""The practice: set up once, then changed by its owners; its hours and its places."""

import uuid
from datetime import datetime, time
from typing import Annotated, Literal

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import SIGNS_IN, Booking, Me, NameLanguage, Owner, Password, let_in
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import Line, LineOrNone, Paragraph
from acuthesis.core.body.person import Fingers
from acuthesis.services.practice import practice
from acuthesis.services.practice.practice import WorkingHours, spans
from acuthesis.store import booking
from acuthesis.store.model import PlaceRow

router = APIRouter(route_class=StrictRoute, tags=["practice"])


class _In(BaseModel):
    model_config = ConfigDict(extra="forbid")


Hours = Annotated[dict[Annotated[int, Field(ge=0, le=6)], WorkingHours], Field(max_length=7)]


class PlaceOut(BaseModel):
    """A place where people are treated."""

    id: uuid.UUID
    version: int
    name: str
    address: str
    archived_at: datetime | None


class PracticeOut(BaseModel):
    """The practice. `hours`: by day of the week, 0 for Monday; days off are missing. `quick_words`: notes that are
    taken in one touch while treating. `idle_minutes`: after which a session that does nothing ends. `own_people_only`:
    whether practitioners give a reason before they open the record of somebody whom they do not treat.
    `earlier_people`: whether outcomes are shown a second time, with what the practice's earlier people tell beforehand.
    """

    name: str
    time_zone: str
    local_rules: str
    emergency: str
    quick_words: list[str]
    hours: dict[int, WorkingHours]
    second_factor_required: bool
    idle_minutes: int
    own_people_only: bool
    earlier_people: bool
    places: list[PlaceOut]


class PracticeChange(_In):
    """What an owner changes."""

    name: Line | None = None
    time_zone: Line | None = None
    local_rules: Paragraph | None = None
    emergency: Paragraph | None = None
    quick_words: Annotated[list[Line], Field(max_length=12)] | None = None
    hours: Hours | None = None
    second_factor_required: bool | None = None
    idle_minutes: Annotated[int, Field(ge=5, le=720)] | None = None
    own_people_only: bool | None = None
    earlier_people: bool | None = None


class NewPlace(_In):
    """A place to add."""

    name: Line
    address: LineOrNone = ""


class PlaceChange(_In):
    """Changes to a place; `version` is the one that was seen."""

    version: int
    name: Line | None = None
    address: LineOrNone | None = None
    archived: bool | None = None


class SetUpPractice(_In):
    """The practice to be."""

    name: Line
    time_zone: Line
    local_rules: Paragraph = ""
    emergency: Paragraph = ""


class SetUpPractitioner(_In):
    """The first practitioner, an owner; and how they work."""

    name: Line
    email: Line
    password: Password
    fingers: Fingers | None = None
    schools: Annotated[list[str], Field(max_length=20)] = []
    usual_minutes: Annotated[int, Field(ge=3, le=240)] = 45
    theme: Literal["auto", "light", "dim"] = "auto"
    name_languages: Annotated[list[NameLanguage], Field(min_length=1, max_length=3)] = [
        "english",
        "romanised",
        "characters",
    ]


class SetUp(_In):
    """All that a practice begins with."""

    token: Line
    practice: SetUpPractice
    practitioner: SetUpPractitioner


@router.post("/links/set-up", status_code=201, dependencies=SIGNS_IN)
def set_up(wanted: SetUp, request: Request, response: Response) -> Me:
    """Set the practice up, and be signed in. All of it is kept or nothing."""
    who = wanted.practitioner
    works = {
        "schools": practice.check_schools(who.schools),
        "usual_minutes": who.usual_minutes,
        "theme": who.theme,
        "name_languages": who.name_languages,
    }
    first = practice.FirstPractitioner(who.name, who.email, who.password, who.fingers, works)
    found = practice.set_up(wanted.token, wanted.practice.model_dump(), first)
    return let_in(found, request, response)


@router.get("/practice")
def read_practice(here: Booking) -> PracticeOut:
    """The practice as everybody in it sees it."""
    row = here.practice
    return PracticeOut(
        name=row.name,
        time_zone=row.time_zone,
        local_rules=row.local_rules,
        emergency=row.emergency,
        quick_words=row.quick_words,
        hours=spans(practice.hours_of(row.hours)),
        second_factor_required=row.second_factor_required,
        idle_minutes=row.idle_minutes,
        own_people_only=row.own_people_only,
        earlier_people=row.earlier_people,
        places=[_place(place) for place in booking.places(here.db)],
    )


@router.patch("/practice")
def change_practice(change: PracticeChange, here: Owner) -> PracticeOut:
    """Change the practice."""
    row = here.practice
    if change.time_zone is not None:
        row.time_zone = practice.check_time_zone(change.time_zone)
        here.__dict__.pop("zone", None)
    if change.hours is not None:
        row.hours = practice.hours_to_keep(
            {day: (time.fromisoformat(one.opens), time.fromisoformat(one.closes)) for day, one in change.hours.items()}
        )
    if change.second_factor_required is not None:
        practice.require_second_factor(here, change.second_factor_required)
    kept = ("name", "local_rules", "emergency", "quick_words", "idle_minutes", "own_people_only", "earlier_people")
    for name in kept:
        value = getattr(change, name)
        if value is not None:
            setattr(row, name, value)
    here.audit(None, "practice changed")
    here.db.flush()
    return read_practice(here)


@router.post("/places", status_code=201)
def add_place(new: NewPlace, here: Owner) -> PlaceOut:
    """Add a place."""
    return _place(practice.add_place(here, new.name, new.address))


@router.patch("/places/{place_id}")
def change_place(place_id: uuid.UUID, change: PlaceChange, here: Owner) -> PlaceOut:
    """Rename a place, or put it away."""
    return _place(practice.change_place(here, place_id, change.version, change.name, change.address, change.archived))


def _place(row: PlaceRow) -> PlaceOut:
    return PlaceOut(id=row.id, version=row.version, name=row.name, address=row.address, archived_at=row.archived_at)
