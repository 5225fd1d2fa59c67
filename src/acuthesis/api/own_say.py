"""The person's own screen during a treatment: its code, what it shows, and what the person tells by it.

Their screen has no account: a code that works once, then a key that ends with the treatment.
"""

import uuid
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Depends, Header, Request
from pydantic import BaseModel, ConfigDict, StringConstraints

from acuthesis.api.access import OWN_TRANSACTION, Database, SignedIn, address_of
from acuthesis.api.door import StrictRoute, bearer, own_address
from acuthesis.core.treat.moment import LiveMoment
from acuthesis.services.between.diary_links import qr_of
from acuthesis.services.request.here import Here
from acuthesis.services.visit import person_screen
from acuthesis.services.visit.person_screen import OwnSay, ToldHere
from acuthesis.store.model import OwnSayRow

router = APIRouter(route_class=StrictRoute, tags=["treat"])


class SayCode(BaseModel):
    """A code for the person's own screen, the address to type it at, and both as a picture to photograph."""

    code: str
    until: datetime
    address: str
    qr: str


class ScreenCode(BaseModel):
    """The code as it was scanned or typed: eight characters; case, spaces and hyphens do not matter."""

    model_config = ConfigDict(extra="forbid")

    code: Annotated[str, StringConstraints(pattern=r"^[ -]*([A-Za-z0-9][ -]*){8}$", max_length=20)]


class SayKey(BaseModel):
    """What the person's device says everything with from then on."""

    key: str


@router.get("/visits/{visit_id}/own-say")
def read_own_say(visit_id: uuid.UUID, here: SignedIn) -> OwnSay:
    """Whether the person has a screen of their own at this treatment."""
    return person_screen.standing(here, visit_id)


@router.post("/visits/{visit_id}/own-say", status_code=201)
def offer_own_say(visit_id: uuid.UUID, here: SignedIn, request: Request) -> SayCode:
    """A code for a screen of the person's own; one that was given before works no more."""
    code, until = person_screen.offer(here, visit_id)
    address = f"{own_address(request)}/say"
    return SayCode(code=code, until=until, address=address, qr=qr_of(f"{address}#{code}"))


@router.post("/visits/{visit_id}/own-say/end")
def end_own_say(visit_id: uuid.UUID, here: SignedIn) -> OwnSay:
    """End the person's screen at once."""
    return person_screen.end(here, visit_id)


def beside(db: Database, authorization: Annotated[str, Header(max_length=200)] = "") -> tuple[Here, OwnSayRow]:
    """The screen of the key in `Authorization: Bearer`. Raises: SayEnded."""
    return person_screen.beside(db, bearer(authorization))


ScreenBeside = Annotated[tuple[Here, OwnSayRow], Depends(beside, scope="function")]


@router.post("/say/join", dependencies=OWN_TRANSACTION)
def join_treatment(wanted: ScreenCode, request: Request) -> SayKey:
    """Open the person's screen on this device. The code works once."""
    return SayKey(key=person_screen.open_screen(person_screen.as_typed(wanted.code), address_of(request)))


@router.get("/say")
def read_moment(beside: ScreenBeside) -> LiveMoment:
    """Where the breath is."""
    return person_screen.shown(*beside)


@router.post("/say")
def say(told: ToldHere, beside: ScreenBeside) -> LiveMoment:
    """A number, less, or stop; it arrives in the treatment as theirs."""
    return person_screen.say(*beside, told)
