"""Visits, their scores, and the events of their treatments."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cache
from typing import NamedTuple

from sqlalchemy import ColumnElement, Select, func, select, text
from sqlalchemy.orm import aliased, undefer

from acuthesis.core.compose.score.score import Score
from acuthesis.core.errors import NotAllowed
from acuthesis.core.message import message
from acuthesis.core.treat.tenderness import Sore
from acuthesis.store.database import Db
from acuthesis.store.model import AddendumRow, VisitRow
from acuthesis.store.people import NotFound

CLOSED = message("visits-record-visit-closed-add-addendum")


def visit(db: Db, visit_id: uuid.UUID, lock: bool = False) -> VisitRow:
    """A visit of this practice with its score; with `lock` nobody else writes to it until the transaction ends.

    Raises: NotFound.
    """
    query = select(VisitRow).where(VisitRow.id == visit_id).options(undefer(VisitRow.score))
    row = db.scalar((query.with_for_update() if lock else query).execution_options(populate_existing=True))
    if row is None:
        raise NotFound(message("booking-there-no-such-visit-practice"), where="visit_id")
    return row


@dataclass(frozen=True)
class Listed:
    """A visit without its score, as lists need it."""

    row: VisitRow
    composed: bool
    visits_before: int


def visits_between(db: Db, start: datetime, end: datetime) -> list[Listed]:
    """Visits that start in a stretch of time, in order; earlier visits of the same person are counted, not read.

    Those that were cancelled or missed are in no list of what is to be done; the diary shows them.
    """
    return _listed(db, VisitRow.starts_at >= start, VisitRow.starts_at < end)


def latest_between(db: Db, person_id: uuid.UUID, start: datetime, end: datetime) -> Listed | None:
    """The last visit of a person that starts in a stretch of time."""
    found = _listed(db, VisitRow.person_id == person_id, VisitRow.starts_at >= start, VisitRow.starts_at < end)
    return found[-1] if found else None


@cache
def _listing() -> Select[VisitRow, bool, int]:
    """Visits that are held, with whether there is a score and how many came before. Built once: building takes longer
    than asking."""
    earlier = aliased(VisitRow)
    before = (
        select(func.count())
        .where(
            earlier.person_id == VisitRow.person_id,
            earlier.starts_at < VisitRow.starts_at,
            earlier.attendance == "expected",
        )
        .scalar_subquery()
    )
    query = select(VisitRow, VisitRow.score.is_not(None), before).where(VisitRow.attendance == "expected")
    return query.order_by(VisitRow.starts_at, VisitRow.id)


def _listed(db: Db, *where: ColumnElement[bool]) -> list[Listed]:
    rows = db.execute(_listing().where(*where))
    return [Listed(row, composed, count) for row, composed, count in rows]


def visits_of(db: Db, person_id: uuid.UUID, scores: bool = False) -> list[VisitRow]:
    """A person's visits in order, with their scores only where these are asked for."""
    query = select(VisitRow).where(VisitRow.person_id == person_id).order_by(VisitRow.starts_at, VisitRow.id)
    return list(db.scalars(query.options(undefer(VisitRow.score)) if scores else query))


def felt_at(db: Db, person_id: uuid.UUID, until: datetime) -> list[tuple[datetime, list[Sore]]]:
    """When a person's visits were, in order and up to a moment, and what was sore at each. Missed ones were none."""
    query = select(VisitRow.starts_at, VisitRow.felt).where(
        VisitRow.person_id == person_id, VisitRow.starts_at < until, VisitRow.attendance == "expected"
    )
    rows = db.execute(query.order_by(VisitRow.starts_at, VisitRow.id))
    return [(starts_at, [Sore.model_validate(one) for one in felt or ()]) for starts_at, felt in rows]


def planned(row: VisitRow) -> list[str]:
    """Ids of the points and areas in a visit's score, in order; none without a score."""
    if row.score is None:
        return []
    stops = Score.model_validate(row.score).stops
    return list(dict.fromkeys(stop.id for stop in stops if stop.kind in ("point", "area")))


def pressed_at(db: Db, visit_ids: Sequence[uuid.UUID]) -> dict[uuid.UUID, frozenset[str]]:
    """Ids of the points and areas in the scores of visits, picked out by the database."""
    if not visit_ids:
        return {}
    rows = db.execute(
        text(
            "SELECT visit.id, array_agg(DISTINCT stop ->> 'id') AS ids "
            "FROM visit, jsonb_array_elements(visit.score -> 'stops') AS stop "
            "WHERE visit.id = ANY(:ids) AND stop ->> 'kind' IN ('point', 'area') GROUP BY visit.id"
        ),
        {"ids": list(visit_ids)},
    )
    return {row.id: frozenset(row.ids) for row in rows}


class OfScore(NamedTuple):
    """What a course tells of a visit's score: the school, and the ids of the points and areas in it."""

    school: str
    pressed: frozenset[str]


def told_of_scores(db: Db, visit_ids: Sequence[uuid.UUID]) -> dict[uuid.UUID, OfScore]:
    """School and pressed places of the scores of visits, picked out by the database."""
    if not visit_ids:
        return {}
    rows = db.execute(
        text(
            "SELECT id, coalesce(score ->> 'school', '') AS school, ARRAY(SELECT DISTINCT stop ->> 'id' "
            "FROM jsonb_array_elements(score -> 'stops') AS stop WHERE stop ->> 'kind' IN ('point', 'area')) AS ids "
            "FROM visit WHERE id = ANY(:ids) AND score IS NOT NULL"
        ),
        {"ids": list(visit_ids)},
    )
    return {row.id: OfScore(row.school, frozenset(row.ids)) for row in rows}


def addenda_of(db: Db, visit_id: uuid.UUID) -> list[AddendumRow]:
    """What was added to the record of a visit after it was closed, oldest first."""
    query = select(AddendumRow).where(AddendumRow.visit_id == visit_id)
    return list(db.scalars(query.order_by(AddendumRow.added_at, AddendumRow.id)))


def require_open(row: VisitRow) -> None:
    """Raises: NotAllowed once the record of a visit is closed."""
    if row.closed_at is not None:
        raise NotAllowed(CLOSED, where="visit_id")
