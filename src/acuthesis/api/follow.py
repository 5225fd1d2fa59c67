"""Following: the day's list with the next step for each, and the course of a person over their visits."""

import uuid
from datetime import UTC, datetime, timedelta
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from acuthesis.api.access import Here, SignedIn, now
from acuthesis.api.complaints import ComplaintOut, complaint_out, judged
from acuthesis.api.knowledge import knowledge_here
from acuthesis.core.errors import OutOfRange
from acuthesis.core.follow.next_step import NextStep, Standing, next_step
from acuthesis.core.safety.rules import limit_strip
from acuthesis.core.safety.screening import is_stale
from acuthesis.core.safety.verdict import verdict
from acuthesis.core.treat.session import Session, fold
from acuthesis.core.treat.tenderness import Tenderness, tenderness
from acuthesis.store import people as store
from acuthesis.store import visits
from acuthesis.store.model import VisitRow

router = APIRouter(tags=["follow"])
EARLIEST_YEAR, LATEST_YEAR = 1950, 2150


class DayVisit(BaseModel):
    """One visit of the day: who, when, what changed, what is due, the next step."""

    visit_id: uuid.UUID
    person_id: uuid.UUID
    given_name: str
    family_name: str
    age: int
    starts_at: datetime
    minutes: int
    visits_before: int
    news: str
    limits: list[str]
    next: NextStep
    done: bool


class Course(BaseModel):
    """A person's course: complaints with ratings and judgement, soreness by point and side, visits."""

    complaints: list[ComplaintOut]
    tenderness: list[Tenderness]
    visits: list[datetime]


def _standing(here: Here, row: VisitRow, treatment: Session) -> Standing:
    person_id = row.person_id
    person = store.person(here.session, person_id)
    screening_row = store.latest_screening(here.session, person_id)
    screening = store.screening_from(here.session, person, screening_row, here.practitioner)
    complaints = [c for c in store.complaints(here.session, person_id) if c.closed_on is None]
    ratings = [r for r in store.ratings(here.session, person_id) if r.visit_id == row.id]
    rated = {moment: {r.complaint_id for r in ratings if r.moment == moment} for moment in ("before", "after")}
    return Standing(
        visits_before=sum(v.starts_at < row.starts_at for v in visits.visits_of(here.session, person_id)),
        screened=screening_row is not None,
        screening_stale=screening_row is not None
        and is_stale(screening_row.answered_at.date(), now().date(), screening),
        allowed=verdict(screening).decision == "ok",
        complaints=len(complaints),
        rated_before=len(rated["before"]),
        rated_after=len(rated["after"]),
        measured=person.height_cm is not None,
        composed=row.score is not None,
        treatment="not_begun"
        if treatment.status == "not_begun"
        else "over"
        if treatment.status in ("stopped", "finished")
        else "open",
    )


def _news(here: Here, row: VisitRow, standing: Standing) -> str:
    """What changed, in a few words: the clearest finding of all complaints."""
    if standing.visits_before == 0:
        return "First visit"
    ratings = store.ratings(here.session, row.person_id)
    known = knowledge_here(here)
    told = []
    for complaint in store.complaints(here.session, row.person_id):
        own = [rating for rating in ratings if rating.complaint_id == complaint.id]
        found = judged(own)
        name = known.name_of(complaint.kind)
        if found.start is not None and found.now is not None:
            told.append((found.finding, f"{name} {found.start:g} → {found.now:g}"))
    order = ("worse", "better", "no_change", "too_early", "no_rating")
    return min(told, key=lambda item: order.index(item[0]))[1] if told else f"Visit {standing.visits_before + 1}"


def day_visit(here: Here, row: VisitRow) -> DayVisit:
    """A visit as the day's list shows it."""
    person = store.person(here.session, row.person_id)
    treatment = visits.treatment(here.session, row.id)
    standing = _standing(here, row, treatment)
    return DayVisit(
        visit_id=row.id,
        person_id=person.id,
        given_name=person.given_name,
        family_name=person.family_name,
        age=store.age_on(person.born, now().date()),
        starts_at=row.starts_at,
        minutes=row.minutes,
        visits_before=standing.visits_before,
        news=_news(here, row, standing),
        limits=list(limit_strip(store.screening_of(here.session, person.id, here.practitioner))),
        next=next_step(standing),
        done=standing.treatment == "over" and standing.rated_after >= standing.complaints,
    )


@router.get("/day")
def read_day(
    here: SignedIn, start: Annotated[datetime | None, Query(description="when the day begins")] = None
) -> list[DayVisit]:
    """The visits of a day (24 hours from `start`; today by the server's clock without it)."""
    begin = start or now().replace(hour=0, minute=0, second=0, microsecond=0)
    if not EARLIEST_YEAR <= begin.year <= LATEST_YEAR:
        raise OutOfRange(f"the year {begin.year} is outside {EARLIEST_YEAR} to {LATEST_YEAR}", where="start")
    if begin.tzinfo is None:
        begin = begin.replace(tzinfo=UTC)
    return [day_visit(here, row) for row in visits.visits_between(here.session, begin, begin + timedelta(days=1))]


@router.get("/people/{person_id}/today")
def read_today(person_id: uuid.UUID, here: SignedIn) -> DayVisit | None:
    """The visit a person is here for: the last one that began by the end of today, if it is not long over."""
    row = store.person(here.session, person_id)
    soon = now() + timedelta(hours=24)
    recent = [v for v in visits.visits_of(here.session, row.id) if now() - timedelta(hours=24) < v.starts_at < soon]
    return day_visit(here, recent[-1]) if recent else None


@router.get("/people/{person_id}/course")
def read_course(person_id: uuid.UUID, here: SignedIn) -> Course:
    """How a person has been doing."""
    row = store.person(here.session, person_id)
    ratings = store.ratings(here.session, row.id)
    own = visits.visits_of(here.session, row.id)
    events = visits.events_of(here.session, [visit.id for visit in own])
    treatments = {visit.starts_at.date(): fold(events[visit.id]) for visit in own if events[visit.id]}
    known = knowledge_here(here)
    return Course(
        complaints=[complaint_out(one, ratings, known) for one in store.complaints(here.session, row.id)],
        tenderness=tenderness(treatments),
        visits=[visit.starts_at for visit in own],
    )
