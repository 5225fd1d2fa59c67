"""Complaints and their ratings."""

import uuid
from datetime import date, datetime
from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import Here, SignedIn, now
from acuthesis.api.knowledge import knowledge_here
from acuthesis.api.text import Day, LineOrNone
from acuthesis.core.compose.knowledge import ComplaintKind
from acuthesis.core.compose.layer import Knowledge
from acuthesis.core.errors import CoreError
from acuthesis.core.follow.change import Change, Rating, Series, change
from acuthesis.core.safety.rules import StopSide
from acuthesis.store import people as store
from acuthesis.store import visits
from acuthesis.store.model import ComplaintRow, RatingRow

router = APIRouter(tags=["complaints"])
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


def judged(ratings: list[RatingRow], name: str = "") -> Change:
    """What ratings say, by the core."""
    rows = [Rating(on=row.rated_at.date(), value=row.value, moment=row.moment) for row in ratings]
    return change(Series(complaint=name, ratings=rows))


def complaint_out(row: ComplaintRow, ratings: list[RatingRow], known: Knowledge) -> ComplaintOut:
    """A complaint as the API gives it."""
    own = [rating for rating in ratings if rating.complaint_id == row.id]
    name = known.name_of(row.kind)
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
            RatingOut(id=r.id, visit_id=r.visit_id, moment=r.moment, value=r.value, rated_at=r.rated_at) for r in own
        ],
        change=judged(own, name),
    )


def _one(here: Here, row: ComplaintRow) -> ComplaintOut:
    return complaint_out(row, store.ratings(here.session, row.person_id), knowledge_here(here))


@router.get("/complaint-kinds")
def list_kinds(here: SignedIn) -> list[ComplaintKind]:
    """The complaints that can be composed for, the practice's own last, with what is traditionally used."""
    return list(knowledge_here(here).complaints.values())


@router.get("/people/{person_id}/complaints")
def list_complaints(person_id: uuid.UUID, here: SignedIn) -> list[ComplaintOut]:
    """A person's complaints with their ratings."""
    person = store.person(here.session, person_id)
    ratings = store.ratings(here.session, person.id)
    known = knowledge_here(here)
    return [complaint_out(row, ratings, known) for row in store.complaints(here.session, person.id)]


@router.post("/people/{person_id}/complaints", status_code=201)
def add_complaint(person_id: uuid.UUID, new: NewComplaint, here: SignedIn) -> ComplaintOut:
    """Add a complaint."""
    person = store.person(here.session, person_id)
    knowledge_here(here).complaint(new.kind)
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
    store.audit(here.session, here.practice_id, here.practitioner.id, person.id, "complaint added")
    here.session.flush()
    return _one(here, row)


@router.post("/complaints/{complaint_id}/ratings", status_code=201)
def add_rating(complaint_id: uuid.UUID, new: NewRating, here: SignedIn) -> ComplaintOut:
    """Keep a rating. Raises: 422 if the moment and the visit do not fit together."""
    row = store.complaint(here.session, complaint_id)
    if (new.moment == "home") != (new.visit_id is None):
        raise CoreError("a rating before or after needs its visit, one from home has none", where="visit_id")
    if new.visit_id is not None and visits.visit(here.session, new.visit_id).person_id != row.person_id:
        raise CoreError("this visit is another person's", where="visit_id")
    if here.session.get(RatingRow, new.id) is None:
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
        store.audit(here.session, here.practice_id, here.practitioner.id, row.person_id, "rated")
        here.session.flush()
    return _one(here, row)
