"""Outcomes of complaints: judged by the core, cached for lists, and analysed in full for a course."""

import uuid
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from acuthesis.core.follow.analysis import Analysis, analyse
from acuthesis.core.follow.outcome import METHOD, Outcome, judge
from acuthesis.core.follow.pooled import EarlierPerson, Prior, prior_for
from acuthesis.core.follow.ratings import Rating, Series
from acuthesis.services import jobs
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.store import access, follow_up, people
from acuthesis.store import follow as store
from acuthesis.store.database import transaction
from acuthesis.store.model import ActivityRatingRow, ComplaintRow, PracticeRow
from acuthesis.store.people import RatingRead

STOPPED_DAYS = 42  # without a rating, after which somebody has stopped coming
AT_ONCE = 8  # complaints in one transaction
# What a reader is told of who said a rating: the person, wherever they were, or somebody else.
RATERS = {"person": "the person", "from_home": "the person", "carer": "a carer", "practitioner": "the practitioner"}


def series_of(here: Here, ratings: Iterable[RatingRead | ActivityRatingRow], name: str = "") -> Series:
    """Ratings as the core reads them, by the practice's clock."""
    told = []
    for row in ratings:
        local = here.local(row.rated_at)
        said_by = RATERS[row.said_by]
        told.append(Rating(on=local.date(), at=local.time(), value=row.value, moment=row.moment, said_by=said_by))
    return Series(complaint=name, ratings=told)


def outcomes_of(here: Here, complaints: Sequence[ComplaintRow]) -> dict[uuid.UUID, Outcome]:
    """The outcome of each complaint; those that are not kept are judged now, and kept."""
    kept = store.outcomes(here.db, [row.id for row in complaints], METHOD)
    missing = [row for row in complaints if row.id not in kept]
    found = {id: Outcome.model_validate(row.told) for id, row in kept.items()}
    return {**found, **_judged(here, missing)} if missing else found


def soon_judged(here: Here) -> None:
    """Have what the ratings of this practice say judged anew in a while, with whatever else comes in until then."""
    jobs.ask(here.db, judge_waiting, once=f"judge {here.practice_id}", soon=True, practice_id=str(here.practice_id))


@jobs.job()
def judge_waiting(practice_id: str) -> None:
    """Judge every complaint of a practice whose ratings have changed, some at a time: nobody waits for the rest."""
    practice = uuid.UUID(practice_id)
    while True:
        with transaction(practice) as db:
            ids = follow_up.waiting(db, METHOD, AT_ONCE)
            if not ids:
                return
            # Nobody is signed in, and nothing here depends on whose hands they are.
            here = Here(db, access.practitioners(db)[0], db.get_one(PracticeRow, practice))
            outcomes_of(here, [people.complaint(db, id) for id in ids])


def analysis_of(here: Here, complaint: ComplaintRow) -> Analysis:
    """Everything that the ratings of a complaint say; worked out once for the same ratings, and kept."""
    kept = store.outcomes(here.db, [complaint.id], METHOD).get(complaint.id)
    if kept is not None and kept.analysis is not None:
        return Analysis.model_validate(kept.analysis)
    series = series_of(here, people.ratings_about(here.db, [complaint.id]), complaint.kind)
    found = analyse(series, judge(series))
    if kept is not None:
        store.save_analysis(here.db, kept, found.model_dump(mode="json"))
    return found


def prior_of(here: Here, complaint: ComplaintRow, series: Series) -> Prior | None:
    """What the practice's earlier people say beforehand of this complaint; none where it is not switched on, or fewer
    than ten began with it. Who is still too early in their trial says nothing; who stopped coming in it is counted.
    """
    if not here.practice.earlier_people or not series.course:
        return None
    earlier = []
    for kind, last_on, told in store.earlier_outcomes(here.db, complaint.person_id, METHOD, series.course[0].on):
        outcome = Outcome.model_validate(told)
        if outcome.visits == 0:
            continue
        if outcome.points is not None and outcome.trend != "too_early":
            earlier.append(EarlierPerson(kind=kind, change=outcome.points))
        elif (here.today - last_on).days > STOPPED_DAYS:
            earlier.append(EarlierPerson(kind=kind))
    return prior_for(complaint.kind, earlier)


def _judged(here: Here, complaints: Sequence[ComplaintRow]) -> Mapping[uuid.UUID, Outcome]:
    ids = [row.id for row in complaints]
    counts = store.rated(here.db, ids)
    ratings: dict[uuid.UUID, list[RatingRead]] = defaultdict(list)
    for rating in people.ratings_about(here.db, ids):
        ratings[rating.complaint_id].append(rating)
    found, rows = {}, list[dict[str, Any]]()
    for row in complaints:
        series = series_of(here, ratings[row.id], row.kind)
        found[row.id] = outcome = judge(series)
        course = series.course
        rows.append(
            {
                "id": row.id,
                "practice_id": row.practice_id,
                "person_id": row.person_id,
                "method": METHOD,
                "rated": counts[row.id],
                "trend": outcome.trend,
                "first_on": course[0].on if course else None,
                "last_on": course[-1].on if course else None,
                "told": outcome.model_dump(mode="json"),
                "analysis": None,
                "made_at": now(),
            }
        )
    store.save_outcomes(here.db, rows)
    return found
