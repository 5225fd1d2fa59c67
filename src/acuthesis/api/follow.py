"""Following: the day's list with the next step for each, and the course of a person over their visits."""

import uuid
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from acuthesis.api.access import SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import Day
from acuthesis.core.treat.tenderness import Tenderness, tenderness
from acuthesis.services.complaints_shown import ComplaintOut, complaints_out
from acuthesis.services.day import DayVisit, visit_now, visits_on
from acuthesis.store import visits

router = APIRouter(route_class=StrictRoute, tags=["follow"])


class Course(BaseModel):
    """A person's course: complaints with ratings and judgement, soreness by point and side, visits."""

    complaints: list[ComplaintOut]
    tenderness: list[Tenderness]
    visits: list[datetime]


@router.get("/day")
def read_day(
    here: SignedIn, on: Annotated[Day | None, Query(description="a day of the practice; today without it")] = None
) -> list[DayVisit]:
    """The visits of a day, by the practice's clock."""
    return visits_on(here, on or here.today)


@router.get("/people/{person_id}/today")
def read_today(person_id: uuid.UUID, here: SignedIn) -> DayVisit | None:
    """The visit a person is here for."""
    return visit_now(here, here.person(person_id, "visit of today"))


@router.get("/people/{person_id}/course")
def read_course(person_id: uuid.UUID, here: SignedIn) -> Course:
    """How a person has been doing."""
    known = here.person(person_id, "course")
    own = visits.felt_at(here.db, known.id, here.day_bounds(here.today)[1])
    return Course(
        complaints=complaints_out(here, known),
        tenderness=tenderness((here.day_of(starts_at), felt) for starts_at, felt in own),
        visits=[starts_at for starts_at, _ in own],
    )
