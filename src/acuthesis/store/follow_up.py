"""Queries of the follow-up list: a fixed number of statements for any number of people and visits."""

import uuid
from collections.abc import Sequence
from datetime import date, datetime
from typing import Any, NamedTuple

from sqlalchemy import text

from acuthesis.store.database import Db

# Complaints on which work has begun: of people who have been treated since the complaint was taken up.
BEGAN = """
    SELECT complaint.id, complaint.kind, complaint.person_id, complaint.closed_on, complaint.rated FROM complaint
    WHERE EXISTS (SELECT FROM visit WHERE visit.person_id = complaint.person_id AND visit.treatment <> 'not_begun'
        AND visit.starts_at >= complaint.created_at - interval '1 day')
"""


class OfKind(NamedTuple):
    """How people with one kind of complaint did; those that nobody has judged yet are `waiting`."""

    kind: str
    began: int
    better: int
    no_change: int
    worse: int
    cannot_tell: int
    too_early: int
    no_rating: int
    waiting: int
    stopped: int


class PersonOnList(NamedTuple):
    """A person on a follow-up list, with a day and, where it is about one, a complaint."""

    person_id: uuid.UUID
    given_name: str
    family_name: str
    on_day: date
    complaint_id: uuid.UUID | None
    kind: str
    told: Any  # a message as it is stored, or a text


def by_kind(db: Db, method: int, gone_since: datetime, now: datetime) -> list[OfKind]:
    """By kind of complaint how everybody did with whom work began. `stopped`: no session since a moment, none to come,
    and
    the complaint is still open."""
    rows = db.execute(
        text(
            f"WITH began AS ({BEGAN}), seen AS ("  # noqa: S608 - no value in it
            "  SELECT person_id, max(starts_at) AS last FROM visit WHERE attendance = 'expected' AND "
            "  (treatment <> 'not_begun' OR starts_at >= :now) GROUP BY person_id) "
            "SELECT began.kind, count(*) AS began, "
            "count(*) FILTER (WHERE trend = 'better') AS better, "
            "count(*) FILTER (WHERE trend = 'no_change') AS no_change, "
            "count(*) FILTER (WHERE trend = 'worse') AS worse, "
            "count(*) FILTER (WHERE trend = 'cannot_tell') AS cannot_tell, "
            "count(*) FILTER (WHERE trend = 'too_early') AS too_early, "
            "count(*) FILTER (WHERE trend = 'no_rating') AS no_rating, "
            "count(*) FILTER (WHERE trend IS NULL) AS waiting, "
            "count(*) FILTER (WHERE seen.last < :gone AND began.closed_on IS NULL) AS stopped "
            "FROM began LEFT JOIN outcome ON outcome.id = began.id AND outcome.method = :method "
            "AND outcome.rated = began.rated "
            "LEFT JOIN seen ON seen.person_id = began.person_id GROUP BY began.kind ORDER BY count(*) DESC, began.kind"
        ),
        {"method": method, "gone": gone_since, "now": now},
    )
    return [OfKind._make(row) for row in rows]


def getting_worse(db: Db, method: int) -> list[PersonOnList]:
    """Open complaints that are worse, or seem to rise, the newest rating first."""
    return _people(
        db,
        "SELECT person.id, given_name, family_name, outcome.last_on, complaint.id, complaint.kind, "
        "outcome.told -> 'sentence' FROM outcome JOIN complaint ON complaint.id = outcome.id "
        "JOIN person ON person.id = complaint.person_id "
        "WHERE outcome.method = :method AND outcome.rated = complaint.rated "
        "AND (trend = 'worse' OR outcome.told ->> 'rising' = 'true') AND closed_on IS NULL "
        "AND archived_at IS NULL "
        "ORDER BY outcome.last_on DESC NULLS LAST, person.id",
        {"method": method},
    )


def not_back(db: Db, before: datetime, now: datetime, zone: str) -> list[PersonOnList]:
    """People with an open complaint whose last session lies before a moment, and who have no visit to come; the last
    first.
    """
    return _people(
        db,
        "SELECT person.id, given_name, family_name, (last AT TIME ZONE :zone)::date, NULL, '', '' FROM ("
        "  SELECT person_id, max(starts_at) FILTER (WHERE treatment <> 'not_begun') AS last, "
        "  bool_or(starts_at >= :now AND attendance = 'expected') AS comes FROM visit GROUP BY person_id) AS seen "
        "JOIN person ON person.id = seen.person_id WHERE last < :before AND NOT comes AND archived_at IS NULL "
        "AND EXISTS (SELECT FROM complaint WHERE complaint.person_id = person.id AND closed_on IS NULL) "
        "ORDER BY last DESC, person.id",
        {"before": before, "now": now, "zone": zone},
    )


def near_the_end(db: Db, today: date) -> list[PersonOnList]:
    """People whose series has one visit left at most, and was not over long ago; the soonest first."""
    return _people(
        db,
        "SELECT person.id, given_name, family_name, last, NULL, '', purpose FROM ("
        "  SELECT person_id, series_id, max(due_on) AS last, max(purpose) AS purpose, "
        "  count(*) FILTER (WHERE due_on >= :today) AS still FROM planned_visit WHERE dropped_at IS NULL "
        "  GROUP BY person_id, series_id HAVING count(*) > 1) AS series JOIN person ON person.id = series.person_id "
        "WHERE still <= 1 AND last >= :today - 14 AND archived_at IS NULL ORDER BY last, person.id",
        {"today": today},
    )


def waiting(db: Db, method: int, most: int) -> list[uuid.UUID]:
    """Complaints with ratings that nobody has judged in this way yet, some of them."""
    rows = db.execute(
        text(
            "SELECT complaint.id FROM complaint LEFT JOIN outcome ON outcome.id = complaint.id AND method = :method "
            "AND outcome.rated = complaint.rated "
            "WHERE outcome.id IS NULL ORDER BY complaint.created_at DESC LIMIT :most"
        ),
        {"method": method, "most": most},
    )
    return [row.id for row in rows]


def _people(db: Db, query: str, values: dict[str, object]) -> list[PersonOnList]:
    found: Sequence[object] = db.execute(text(query), values).all()
    return [PersonOnList._make(row) for row in found]  # type: ignore[arg-type]
