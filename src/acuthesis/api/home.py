"""Home plans (as a sheet and as a calendar), and access links to a person's diary."""

import uuid
from datetime import time
from typing import Annotated

from fastapi import APIRouter, Depends, Query, Request, Response
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import SignedIn
from acuthesis.api.concurrency import printing_turn
from acuthesis.api.door import StrictRoute, own_address
from acuthesis.api.files import file
from acuthesis.api.text import Day, Line, Paragraph
from acuthesis.core.compose.home.plan import HomePosition, HomeWish, rules
from acuthesis.core.follow.diary import Asks
from acuthesis.services.between import diary_links, home_plan
from acuthesis.services.between.diary_links import DiaryOut, FlagOut
from acuthesis.services.between.home_plan import GivenPlan, Proposed

router = APIRouter(route_class=StrictRoute, tags=["home"])
PDF: dict[int | str, dict[str, object]] = {200: {"content": {"application/pdf": {}}}}
ICS: dict[int | str, dict[str, object]] = {200: {"content": {"text/calendar": {}}}}


class _In(BaseModel):
    model_config = ConfigDict(extra="forbid")


class NewPlan(_In):
    """A plan to give: how and where it is pressed, at which hours, from which day to which. The id makes sending it
    twice harmless."""

    id: uuid.UUID
    wish: HomeWish
    hours: Annotated[list[time], Field(min_length=1, max_length=6)]
    first_day: Day
    until: Day


class NewDiary(_In):
    """A diary to open: what it asks for, and its last day."""

    id: uuid.UUID
    until: Day
    asks: Asks


class NewDiaryLink(BaseModel):
    """The way in to a new diary: an address that works once, until when, and the same as a picture to photograph (SVG).

    It is shown now and never again.
    """

    diary: DiaryOut
    address: str
    qr: str


class Looked(_In):
    """What came of something that was reported from home."""

    words: Annotated[Paragraph, Field(min_length=1)]


@router.get("/people/{person_id}/home-plan")
def propose_home_plan(
    person_id: uuid.UUID,
    here: SignedIn,
    position: HomePosition = "seated",
    weak_hands: bool | None = None,
    reaches_feet: bool | None = None,
    times_a_day: Annotated[int, Query(ge=1, le=6)] = 2,
    places: Annotated[list[Line] | None, Query(max_length=rules().most_places)] = None,
) -> Proposed:
    """What this person could press at home now; nothing is kept."""
    wish = HomeWish(
        position=position,
        weak_hands=weak_hands,
        reaches_feet=reaches_feet,
        times_a_day=times_a_day,
        places=tuple(places or ()),
    )
    return home_plan.proposed(here, person_id, wish)


@router.get("/people/{person_id}/home-plan/given")
def read_given_plan(person_id: uuid.UUID, here: SignedIn) -> GivenPlan | None:
    """The plan that was given last."""
    return home_plan.given(here, person_id)


@router.post("/people/{person_id}/home-plans", status_code=201)
def give_home_plan(person_id: uuid.UUID, new: NewPlan, here: SignedIn) -> GivenPlan:
    """Give a plan; it takes the place of the one before."""
    row = home_plan.give(here, person_id, new.id, new.wish, new.hours, new.first_day, new.until)
    return home_plan.given_out(here, row)


@router.get(
    "/people/{person_id}/home.pdf",
    response_class=Response,
    responses=PDF,
    dependencies=[Depends(printing_turn, scope="function")],
)
def home_sheet(person_id: uuid.UUID, here: SignedIn, large: bool = False) -> Response:
    """The sheet for home on one page, drawn on the person's own figure; `large` in large print."""
    return file(home_plan.sheet(here, person_id, large), "application/pdf", "home.pdf")


@router.get("/people/{person_id}/home.ics", response_class=Response, responses=ICS)
def home_calendar(person_id: uuid.UUID, here: SignedIn) -> Response:
    """The plan that was given as a calendar, its sets in turn."""
    return file(home_plan.as_calendar(here, person_id), "text/calendar", "home.ics", saved=True)


@router.get("/people/{person_id}/diaries")
def read_diaries(person_id: uuid.UUID, here: SignedIn) -> list[DiaryOut]:
    """Every way in to a person's diary, newest first."""
    return diary_links.of_person(here, person_id)


@router.post("/people/{person_id}/diaries", status_code=201)
def open_diary(person_id: uuid.UUID, new: NewDiary, request: Request, here: SignedIn) -> NewDiaryLink:
    """Open a diary for a person."""
    row, code = diary_links.make(here, person_id, new.id, new.until, new.asks)
    address = f"{own_address(request)}/diary#{code}"
    return NewDiaryLink(diary=diary_links.diary_out(here, row), address=address, qr=diary_links.qr_of(address))


@router.post("/diaries/{diary_id}/end")
def end_diary(diary_id: uuid.UUID, here: SignedIn) -> DiaryOut:
    """End a diary at once."""
    return diary_links.diary_out(here, diary_links.end(here, diary_id))


@router.get("/home-flags")
def read_home_flags(here: SignedIn) -> list[FlagOut]:
    """Red flags that were reported from home and not looked after yet."""
    return diary_links.open_flags(here)


@router.post("/home-flags/{flag_id}/looked")
def look_after_flag(flag_id: uuid.UUID, looked: Looked, here: SignedIn) -> list[FlagOut]:
    """Note that a red flag was looked after, and what came of it."""
    diary_links.look_after(here, flag_id, looked.words)
    return diary_links.open_flags(here)
