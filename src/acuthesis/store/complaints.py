"""Complaints: their answers, the ratings of their activities, and their episodes."""

import uuid
from collections import defaultdict
from collections.abc import Mapping, Sequence

from sqlalchemy import select

from acuthesis.core.message import message
from acuthesis.store.database import Db
from acuthesis.store.model import (
    ActivityRatingRow,
    ComplaintAnswersRow,
    ComplaintPlaceRow,
    ConfirmationRow,
    EpisodeRow,
)
from acuthesis.store.people import NotFound, holding


def answers(db: Db, complaint_ids: Sequence[uuid.UUID]) -> Mapping[uuid.UUID, list[ComplaintAnswersRow]]:
    """What was ever answered about complaints, newest first."""
    row = ComplaintAnswersRow
    query = select(row).where(row.complaint_id.in_(complaint_ids)).order_by(row.asked_at.desc(), row.id)
    found: dict[uuid.UUID, list[ComplaintAnswersRow]] = defaultdict(list)
    for one in db.scalars(query):
        found[one.complaint_id].append(one)
    return found


def all_confirmations(db: Db, complaint_ids: Sequence[uuid.UUID]) -> list[ConfirmationRow]:
    """Every doctor's look that complaints call for, oldest first."""
    row = ConfirmationRow
    query = select(row).where(row.complaint_id.in_(complaint_ids)).order_by(row.recorded_at, row.id)
    return list(db.scalars(query))


def confirmations(db: Db, complaint_ids: Sequence[uuid.UUID]) -> dict[uuid.UUID, ConfirmationRow]:
    """The newest doctor's look of each complaint."""
    return {confirmation.complaint_id: confirmation for confirmation in all_confirmations(db, complaint_ids)}


def places(db: Db, complaint_ids: Sequence[uuid.UUID]) -> Mapping[uuid.UUID, list[ComplaintPlaceRow]]:
    """Where complaints were painted, newest first."""
    row = ComplaintPlaceRow
    query = select(row).where(row.complaint_id.in_(complaint_ids)).order_by(row.painted_at.desc(), row.id)
    found: dict[uuid.UUID, list[ComplaintPlaceRow]] = defaultdict(list)
    for one in db.scalars(query):
        found[one.complaint_id].append(one)
    return found


def activity_ratings(db: Db, complaint_ids: Sequence[uuid.UUID], every: bool = False) -> list[ActivityRatingRow]:
    """Ratings of the acts of complaints, in order of time: those that hold, or every one that was ever given."""
    row = ActivityRatingRow
    query = select(row).where(row.complaint_id.in_(complaint_ids)).order_by(row.rated_at, row.id)
    return list(db.scalars(query if every else query.where(holding(row))))


def episodes(db: Db, complaint_ids: Sequence[uuid.UUID]) -> list[EpisodeRow]:
    """Episodes of complaints, in order of time, without those that were dropped."""
    row = EpisodeRow
    query = select(row).where(row.complaint_id.in_(complaint_ids), row.dropped_at.is_(None))
    return list(db.scalars(query.order_by(row.started_at, row.id)))


def episode(db: Db, episode_id: uuid.UUID) -> EpisodeRow:
    """One episode. Raises: NotFound."""
    row = db.scalar(select(EpisodeRow).where(EpisodeRow.id == episode_id))
    if row is None:
        raise NotFound(message("complaints-there-no-such-episode-practice"), where="episode_id")
    return row
