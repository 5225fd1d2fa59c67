"""Complaints and their ratings."""

import uuid
from datetime import date, datetime
from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import Day, LineOrNone
from acuthesis.core.compose.knowledge import ComplaintKind
from acuthesis.core.errors import CoreError, OutOfRange
from acuthesis.core.follow.change import Change
from acuthesis.core.safety.rules import StopSide
from acuthesis.services.clock import now
from acuthesis.services.day import judged
from acuthesis.services.here import Here
from acuthesis.services.known import Known
from acuthesis.services.write_up import require_open
from acuthesis.store import people as store
from acuthesis.store import visits
from acuthesis.store.model import ComplaintRow, RatingRow
from acuthesis.store.people import RatingRead

router = APIRouter(route_class=StrictRoute, tags=["complaints"])
Moment = Literal["before", "after", "home"]


class RatingOut(BaseModel):
    """One rating as kept."""

    id: uuid.UUID
    visit_id: uuid.UUID | None
    moment: Moment
    value: int
    rated_at: datetime


class ComplaintOut(BaseModel):
    """A complaint with its ratings and what they say."""

    id: uuid.UUID
    version: int
    kind: str
    name: str
    side: StopSide
    act: str
    since: date | None
    closed_on: date | None
    ratings: list[RatingOut]
    change: Change


class NewComplaint(BaseModel):
    """A new complaint: which, where, what it hinders, since when."""

    model_config = ConfigDict(extra="forbid")

    kind: str = Field(max_length=60)
    side: StopSide = "both"
    act: LineOrNone = ""
    since: Day | None = None


class NewRating(BaseModel):
    """A rating; `before` and `after` belong to a visit, `home` to none. The id makes sending it twice harmless."""

    model_config = ConfigDict(extra="forbid")

    id: uuid.UUID
    value: int = Field(ge=0, le=10)
    moment: Moment
    visit_id: uuid.UUID | None = None


def complaints_out(here: Here, known: Known) -> list[ComplaintOut]:
    """A person's complaints as the API gives them, with their ratings and what these say."""
    return [_out(here, row, known.ratings_of[row.id]) for row in known.complaints]


def _out(here: Here, row: ComplaintRow, ratings: list[RatingRead]) -> ComplaintOut:
    name = here.knowledge.name_of(row.kind)
    return ComplaintOut(
        id=row.id,
        version=row.version,
        kind=row.kind,
        name=name,
        side=row.side,
        act=row.act,
        since=row.since,
        closed_on=row.closed_on,
        ratings=[
            RatingOut(id=r.id, visit_id=r.visit_id, moment=r.moment, value=r.value, rated_at=r.rated_at)
            for r in ratings
        ],
        change=judged(here, ratings, name),
    )


def _one(here: Here, row: ComplaintRow) -> ComplaintOut:
    here.forget(row.person_id)
    return _out(here, row, here.person(row.person_id).ratings_of[row.id])


@router.get("/complaint-kinds")
def list_kinds(here: SignedIn) -> list[ComplaintKind]:
    """The complaints that can be composed for, the practice's own last, with what is traditionally used."""
    return list(here.knowledge.complaints.values())


@router.get("/people/{person_id}/complaints")
def list_complaints(person_id: uuid.UUID, here: SignedIn) -> list[ComplaintOut]:
    """A person's complaints with their ratings."""
    return complaints_out(here, here.person(person_id, "complaints"))


@router.post("/people/{person_id}/complaints", status_code=201)
def add_complaint(person_id: uuid.UUID, new: NewComplaint, here: SignedIn) -> ComplaintOut:
    """Add a complaint."""
    person = here.person(person_id).row
    here.knowledge.complaint(new.kind)
    if new.since is not None and new.since > here.today:
        raise OutOfRange(f"{new.since} has not come yet", where="since")
    row = ComplaintRow(
        id=uuid.uuid4(),
        practice_id=here.practice_id,
        person_id=person.id,
        version=1,
        kind=new.kind,
        side=new.side,
        act=new.act,
        since=new.since,
        created_at=now(),
    )
    here.session.add(row)
    here.audit(person.id, "complaint added")
    here.session.flush()
    return _one(here, row)


@router.post("/complaints/{complaint_id}/ratings", status_code=201)
def add_rating(complaint_id: uuid.UUID, new: NewRating, here: SignedIn) -> ComplaintOut:
    """Keep a rating. Raises: 422 if the moment and the visit do not fit together."""
    row = store.complaint(here.session, complaint_id)
    if (new.moment == "home") != (new.visit_id is None):
        raise CoreError("a rating before or after needs its visit, one from home has none", where="visit_id")
    at = visits.visit(here.session, new.visit_id) if new.visit_id is not None else None
    if at is not None and at.person_id != row.person_id:
        raise CoreError("this visit is another person's", where="visit_id")
    if here.session.get(RatingRow, new.id) is None:
        if at is not None:
            require_open(at)
        here.session.add(
            RatingRow(
                id=new.id,
                practice_id=here.practice_id,
                person_id=row.person_id,
                complaint_id=row.id,
                visit_id=new.visit_id,
                moment=new.moment,
                value=new.value,
                rated_at=now(),
            )
        )
        here.audit(row.person_id, "rated")
        here.session.flush()
    return _one(here, row)
