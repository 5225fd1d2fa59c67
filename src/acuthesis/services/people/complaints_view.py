"""Read model of complaints: ratings and their outcome, activities, answers, a doctor's examination."""

import uuid
from collections import Counter
from collections.abc import Sequence
from datetime import date, datetime

from pydantic import BaseModel

from acuthesis.core.compose.knowledge.complaint_questions import Answers, changed, check_is_stale
from acuthesis.core.compose.knowledge.said import can_be_one_sided
from acuthesis.core.follow.outcome import Outcome
from acuthesis.core.safety.touching import StopSide
from acuthesis.services.people.complaints import by_complaint
from acuthesis.services.ratings.outcomes import outcomes_of
from acuthesis.services.ratings.rating import RatingMoment, SaidBy
from acuthesis.services.request.here import Here
from acuthesis.services.request.known import Known
from acuthesis.store import complaints as store
from acuthesis.store.model import ActivityRatingRow, ComplaintAnswersRow, ComplaintRow
from acuthesis.store.people import RatingRead

SHOWN_PLACES = 2  # the last painting, and the one before to see it beside


class RatingOut(BaseModel):
    """One rating as kept."""

    id: uuid.UUID
    visit_id: uuid.UUID | None
    moment: RatingMoment
    value: int
    rated_at: datetime
    said_by: SaidBy


class ActivityOut(BaseModel):
    """Something that a complaint stops the person doing, with its ratings (0 not hindered, 10 not possible)."""

    id: uuid.UUID
    words: str
    ratings: list[RatingOut]


class AskedOut(BaseModel):
    """Answers about a complaint as they were given on a day, and what was different from the time before."""

    answers: Answers
    asked_at: datetime
    changed: dict[str, tuple[str, str]]


class ConfirmedOut(BaseModel):
    """A doctor's look that a complaint calls for; `stale` where it is too long ago to rely on."""

    by: str
    seen_on: date
    stale: bool


class PaintedOut(BaseModel):
    """Where a complaint was, as it was painted: numbers of skin vertices, and in words."""

    skin: list[int]
    words: str
    painted_at: datetime


class ComplaintOut(BaseModel):
    """A complaint with its ratings and what they say, its acts, and what was answered about it, newest first."""

    id: uuid.UUID
    version: int
    kind: str
    name: str
    one_sided: bool
    side: StopSide
    act: str
    acts: list[ActivityOut]
    since: date | None
    closed_on: date | None
    ratings: list[RatingOut]
    outcome: Outcome
    asked: list[AskedOut]
    checked: str
    confirmed: ConfirmedOut | None
    episodes: int
    places: list[PaintedOut]


def complaints_out(here: Here, known: Known) -> list[ComplaintOut]:
    """A person's complaints as the API gives them: ratings and what these say, acts, answers."""
    return shown(here, known, known.complaints)


def shown(here: Here, known: Known, rows: Sequence[ComplaintRow]) -> list[ComplaintOut]:
    """Some of a person's complaints, in a fixed number of statements."""
    ids = [row.id for row in rows]
    answers, noted = store.answers(here.db, ids), store.confirmations(here.db, ids)
    acts = by_complaint(store.activity_ratings(here.db, ids))
    painted = store.places(here.db, ids)
    counted = Counter(episode.complaint_id for episode in store.episodes(here.db, ids))
    outcomes = outcomes_of(here, rows)
    found = []
    for row in rows:
        kind = here.knowledge.complaints.get(row.kind)
        ratings = known.ratings_of[row.id]
        name = here.knowledge.name_of(row.kind)
        by_act = acts.get(row.id, [])
        confirmed = noted.get(row.id)
        found.append(
            ComplaintOut(
                id=row.id,
                version=row.version,
                kind=row.kind,
                name=name,
                one_sided=kind is not None and can_be_one_sided(kind),
                side=row.side,
                act=row.act,
                acts=[
                    ActivityOut(
                        id=act["id"],
                        words=act["words"],
                        ratings=[_rating(one) for one in by_act if str(one.act_id) == act["id"]],
                    )
                    for act in row.acts
                ],
                since=row.since,
                closed_on=row.closed_on,
                ratings=[_rating(rating) for rating in ratings],
                outcome=outcomes[row.id],
                asked=_asked(answers.get(row.id, [])),
                checked=kind.checked if kind else "",
                confirmed=confirmed
                and ConfirmedOut(
                    by=confirmed.by, seen_on=confirmed.seen_on, stale=check_is_stale(confirmed.seen_on, here.today)
                ),
                episodes=counted[row.id],
                places=[
                    PaintedOut(skin=one.skin, words=one.words, painted_at=one.painted_at)
                    for one in painted.get(row.id, [])[:SHOWN_PLACES]
                ],
            )
        )
    return found


def _rating(row: RatingRead | ActivityRatingRow) -> RatingOut:
    return RatingOut(**{name: getattr(row, name) for name in RatingOut.model_fields})


def _asked(rows: Sequence[ComplaintAnswersRow]) -> list[AskedOut]:
    read = [Answers.model_validate(row.answers) for row in rows]
    before = [*read[1:], None][: len(read)]
    return [
        AskedOut(answers=now, asked_at=row.asked_at, changed=changed(old, now) if old is not None else {})
        for row, now, old in zip(rows, read, before, strict=True)
    ]
