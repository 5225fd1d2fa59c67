"""The day: each visit with what changed, what is due and the next step, in a fixed number of statements."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from pydantic import BaseModel

from acuthesis.core.follow.next_step import NextStep, Standing, next_step
from acuthesis.core.follow.outcome import Outcome
from acuthesis.core.safety.limits import limit_strip
from acuthesis.services.ratings.outcomes import outcomes_of
from acuthesis.services.request.here import Here
from acuthesis.services.request.known import Known
from acuthesis.store import people, visits
from acuthesis.store.visits import Listed


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


def visits_on(here: Here, day: date) -> list[DayVisit]:
    """The visits of a day of the practice, in order."""
    listed = visits.visits_between(here.db, *here.day_bounds(day))
    here.reads(None, "day")
    return _shown(here, [row for row in listed if here.may_list(row.row.person_id)])


def visit_now(here: Here, known: Known) -> DayVisit | None:
    """The visit a person is here for: the last one that begins by the end of today, and not before yesterday."""
    _, tonight = here.day_bounds(here.today)
    yesterday, _ = here.day_bounds(date.fromordinal(here.today.toordinal() - 1))
    found = visits.latest_between(here.db, known.id, yesterday, tonight)
    return _shown(here, [found])[0] if found else None


@dataclass(frozen=True)
class _Rated:
    """What lists need of ratings: the outcome of each complaint, and what was rated at the visits listed."""

    outcomes: dict[uuid.UUID, Outcome]
    at: dict[tuple[uuid.UUID, str], set[uuid.UUID]]


def _shown(here: Here, listed: Sequence[Listed]) -> list[DayVisit]:
    ids = [row.row.person_id for row in listed]
    persons = here.persons(ids)
    rated = _Rated(
        outcomes_of(here, [row for known in persons.values() for row in known.complaints]),
        people.rated_at_visits(here.db, [row.row.id for row in listed]),
    )
    assert here.knowledge  # read once and always, so that every day takes as many statements
    return [_day_visit(here, row, persons[row.row.person_id], rated) for row in listed]


def _day_visit(here: Here, one: Listed, known: Known, rated: _Rated) -> DayVisit:
    standing = _standing(one, known, rated)
    return DayVisit(
        visit_id=one.row.id,
        person_id=known.id,
        given_name=known.row.given_name,
        family_name=known.row.family_name,
        age=known.age,
        starts_at=one.row.starts_at,
        minutes=one.row.minutes,
        visits_before=one.visits_before,
        news=_news(here, known, standing, rated),
        limits=list(limit_strip(known.screening)),
        next=next_step(standing),
        done=standing.treatment == "over" and standing.rated_after >= standing.complaints,
    )


def _standing(one: Listed, known: Known, rated: _Rated) -> Standing:
    return Standing(
        visits_before=one.visits_before,
        screened=known.answered_on is not None,
        screening_stale=known.stale,
        allowed=known.verdict.decision == "ok",
        complaints=len(known.open_complaints),
        rated_before=len(rated.at.get((one.row.id, "before"), ())),
        rated_after=len(rated.at.get((one.row.id, "after"), ())),
        measured=known.row.height_cm is not None,
        composed=one.composed,
        treatment=one.row.treatment,
    )


def _news(here: Here, known: Known, standing: Standing, rated: _Rated) -> str:
    """What changed, in a few words: the clearest trend of all complaints."""
    if standing.visits_before == 0:
        return "First visit"
    told = []
    for complaint in known.complaints:
        found = rated.outcomes[complaint.id]
        if found.start is None or found.now is None:
            continue
        told.append((found.trend, f"{here.knowledge.name_of(complaint.kind)} {found.start:.0f} → {found.now:.0f}"))
    order = ("worse", "better", "no_change", "cannot_tell", "too_early", "no_rating")
    return min(told, key=lambda item: order.index(item[0]))[1] if told else f"Visit {standing.visits_before + 1}"
