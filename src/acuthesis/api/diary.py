"""The diary's endpoints for a person's own device: no account, but a key that this device made itself.

It can add, and see what is asked. Nothing that was told comes back.
"""

from typing import Annotated

from fastapi import APIRouter, Depends, Header, Request, Response
from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from acuthesis.api.access import OWN_TRANSACTION, Database
from acuthesis.api.door import StrictRoute, bearer, own_address
from acuthesis.core.follow.diary import MOST_AT_ONCE, DiaryEntry
from acuthesis.core.instant import Instant
from acuthesis.services.between import diary, home_reports
from acuthesis.services.between.diary import DiaryShown
from acuthesis.services.between.home_reports import WhatBecame
from acuthesis.services.request.here import Here
from acuthesis.store.model import DiaryRow

router = APIRouter(route_class=StrictRoute, tags=["diary"])
SVG: dict[int | str, dict[str, object]] = {200: {"content": {"image/svg+xml": {}}}}
ICS: dict[int | str, dict[str, object]] = {200: {"content": {"text/calendar": {}}}}
Secret = Annotated[str, StringConstraints(min_length=50, max_length=120, pattern=r"^[0-9a-f]{32}\.[A-Za-z0-9_-]+$")]


class _In(BaseModel):
    model_config = ConfigDict(extra="forbid")


class OpenWith(_In):
    """The code of a link, and the key that this device made for itself."""

    code: Secret
    key: Secret


class ToldFromHome(_In):
    """What was told, oldest first; `sent_at`: now, by the device's clock."""

    sent_at: Instant
    told: Annotated[list[DiaryEntry], Field(min_length=1, max_length=MOST_AT_ONCE)]


def at_home(db: Database, authorization: Annotated[str, Header(max_length=200)] = "") -> tuple[Here, DiaryRow]:
    """The diary of the key in `Authorization: Bearer`. Raises: DiaryEnded."""
    return diary.at_home(db, bearer(authorization))


AtHome = Annotated[tuple[Here, DiaryRow], Depends(at_home, scope="function")]


@router.post("/diary/open", status_code=204, dependencies=OWN_TRANSACTION)
def open_own_diary(wanted: OpenWith) -> None:
    """Open a diary on this device. The code works once."""
    diary.open_with(wanted.code, wanted.key)


@router.get("/diary")
def read_diary(at_home: AtHome) -> DiaryShown:
    """What is asked, what is pressed, and whom to call."""
    return diary.shown(*at_home)


@router.post("/diary/told")
def save_diary_entries(sent: ToldFromHome, at_home: AtHome) -> list[WhatBecame]:
    """Tell something; each is kept, or says why not."""
    return home_reports.save_report(*at_home, sent.sent_at, sent.told)


@router.get("/diary/places/{id}.svg", response_class=Response, responses=SVG)
def diary_drawing(id: str, at_home: AtHome) -> Response:
    """The drawing of a place of the plan, on the person's own figure."""
    return Response(diary.drawing(*at_home, id), media_type="image/svg+xml")


@router.get("/diary/reminders.ics", response_class=Response, responses=ICS)
def diary_reminders(request: Request, at_home: AtHome) -> Response:
    """Reminders for the person's own calendar."""
    content = diary.reminders(*at_home, own_address(request) + "/diary")
    return Response(content, media_type="text/calendar")
