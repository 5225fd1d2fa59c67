"""The log between visits, decisions, and stored outcomes (so that lists need not judge anew)."""

import uuid
from collections import defaultdict
from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any

from sqlalchemy import select, text, update
from sqlalchemy.dialects.postgresql import insert

from acuthesis.core.message import message
from acuthesis.store.database import Db
from acuthesis.store.model import ComplaintRow, DecisionRow, LogRow, OutcomeRow
from acuthesis.store.people import NotFound, holding


def log(db: Db, person_id: uuid.UUID, every: bool = False) -> list[LogRow]:
    """A person's log in order of time: the entries that hold, or every one that was ever made."""
    query = select(LogRow).where(LogRow.person_id == person_id).order_by(LogRow.on_day, LogRow.recorded_at, LogRow.id)
    return list(db.scalars(query if every else query.where(holding(LogRow))))


def entry(db: Db, entry_id: uuid.UUID) -> LogRow:
    """One entry of a log. Raises: NotFound."""
    row = db.scalar(select(LogRow).where(LogRow.id == entry_id))
    if row is None:
        raise NotFound(message("follow-there-no-such-entry-practice"), where="entry_id")
    return row


def holds(db: Db, row: LogRow) -> bool:
    """Whether an entry counts: it is not dropped, and no other has taken its place."""
    return db.scalar(select(LogRow.id).where(LogRow.id == row.id, holding(LogRow))) is not None


def decisions(db: Db, complaint_ids: Sequence[uuid.UUID]) -> Mapping[uuid.UUID, list[DecisionRow]]:
    """What was decided about complaints, oldest first."""
    query = select(DecisionRow).where(DecisionRow.complaint_id.in_(complaint_ids))
    found: dict[uuid.UUID, list[DecisionRow]] = defaultdict(list)
    for row in db.scalars(query.order_by(DecisionRow.decided_at, DecisionRow.id)):
        found[row.complaint_id].append(row)
    return found


def decision(db: Db, decision_id: uuid.UUID) -> DecisionRow:
    """One decision. Raises: NotFound."""
    row = db.scalar(select(DecisionRow).where(DecisionRow.id == decision_id))
    if row is None:
        raise NotFound(message("follow-there-no-such-decision-practice"), where="decision_id")
    return row


def outcomes(db: Db, complaint_ids: Sequence[uuid.UUID], method: int) -> dict[uuid.UUID, OutcomeRow]:
    """Outcomes that hold: judged in this way, and no rating has come since."""
    query = select(OutcomeRow).join(ComplaintRow, ComplaintRow.id == OutcomeRow.id)
    holds = OutcomeRow.method == method, OutcomeRow.rated == ComplaintRow.rated
    found = db.scalars(query.where(OutcomeRow.id.in_(complaint_ids), *holds).execution_options(populate_existing=True))
    return {row.id: row for row in found}


def earlier_outcomes(
    db: Db, person_id: uuid.UUID, method: int, before: date
) -> Sequence[tuple[str, date, dict[str, Any]]]:
    """Of complaints of everybody else that were first rated before a day: the kind, the day of the last rating, and
    what the ratings told.
    """
    query = (
        select(ComplaintRow.kind, OutcomeRow.last_on, OutcomeRow.told)
        .join(OutcomeRow, OutcomeRow.id == ComplaintRow.id)
        .where(OutcomeRow.person_id != person_id, OutcomeRow.method == method, OutcomeRow.first_on < before)
        .order_by(OutcomeRow.first_on, OutcomeRow.id)
    )
    return [(kind, last_on, told) for kind, last_on, told in db.execute(query)]


def rated(db: Db, complaint_ids: Sequence[uuid.UUID]) -> dict[uuid.UUID, int]:
    """How often the ratings of complaints have changed. Asked before the ratings are read: an outcome that is kept with
    it
    can be too old, which is seen, and never newer than it says."""
    rows = db.execute(select(ComplaintRow.id, ComplaintRow.rated).where(ComplaintRow.id.in_(complaint_ids)))
    return {row.id: row.rated for row in rows}


def save_outcomes(db: Db, rows: Sequence[Mapping[str, Any]]) -> None:
    """Keep outcomes in the place of older ones."""
    if not rows:
        return
    made = insert(OutcomeRow).values(list(rows))
    names = ("method", "rated", "trend", "first_on", "last_on", "told", "analysis", "made_at")
    changed = {name: made.excluded[name] for name in names}
    db.execute(made.on_conflict_do_update(index_elements=["id"], set_=changed))


def save_analysis(db: Db, outcome: OutcomeRow, analysis: Mapping[str, Any]) -> None:
    """Keep what was worked out beside an outcome, unless another took its place meanwhile."""
    same = OutcomeRow.id == outcome.id, OutcomeRow.rated == outcome.rated, OutcomeRow.method == outcome.method
    db.execute(update(OutcomeRow).where(*same).values(analysis=dict(analysis)))


def lock_entry(db: Db, entry_id: uuid.UUID) -> None:
    """Let nobody else who asks for it have an entry of a log until the transaction ends: entries are never changed, so
    their rows cannot be locked."""
    db.execute(text("SELECT pg_advisory_xact_lock(hashtextextended(:id, 8))"), {"id": str(entry_id)})


def complaint_of(db: Db, complaint_id: uuid.UUID, person_id: uuid.UUID) -> ComplaintRow:
    """A complaint of this person. Raises: NotFound."""
    row = db.scalar(select(ComplaintRow).where(ComplaintRow.id == complaint_id, ComplaintRow.person_id == person_id))
    if row is None:
        raise NotFound(message("letters-person-no-such-complaint"), where="complaint_id")
    return row
