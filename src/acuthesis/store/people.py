"""Persons and what is known of them. The database shows only the practice that the transaction named."""

import uuid
from collections.abc import Sequence
from datetime import date, datetime
from typing import Any

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from acuthesis.core.body.person import BodyFacts, Fingers
from acuthesis.core.errors import CoreError, UnknownId
from acuthesis.core.safety.clearance import Clearance
from acuthesis.core.safety.screening import parse_screening
from acuthesis.store.model import (
    ClearanceRow,
    ComplaintRow,
    MeasureRow,
    PersonRow,
    PractitionerRow,
    RatingRow,
    ScreeningRow,
    ThresholdRow,
)


class NotFound(UnknownId):
    """No such row in this practice; another practice's row is no different from none."""

    code = "not_found"


class Conflict(CoreError):
    """Somebody else changed the row since it was read."""

    code = "conflict"


def person(session: Session, person_id: uuid.UUID) -> PersonRow:
    """A person of this practice. Raises: NotFound."""
    row = session.scalar(select(PersonRow).where(PersonRow.id == person_id))
    if row is None:
        raise NotFound("there is no such person in this practice", where="person_id")
    return row


def people(session: Session) -> list[PersonRow]:
    """Everybody of this practice, by name."""
    return list(session.scalars(select(PersonRow).order_by(PersonRow.given_name, PersonRow.family_name)))


def check_version(row: Any, version: int, what: str) -> None:
    """Raises: Conflict if the row has been changed since the version that the caller saw; raises the version."""
    if row.version != version:
        raise Conflict(
            f"{what} was changed in another window in the meantime. Load it again; nothing was overwritten.",
            where="version",
        )
    row.version += 1


def scale_of(row: PractitionerRow) -> dict[int, float]:
    """What a kitchen scale showed (g) under a practitioner's thumb, by level."""
    return {int(level): grams for level, grams in row.scale_g.items()}


def persons(session: Session, ids: Sequence[uuid.UUID]) -> list[PersonRow]:
    """Several persons of this practice."""
    return list(session.scalars(select(PersonRow).where(PersonRow.id.in_(ids)))) if ids else []


def screenings(session: Session, person_ids: Sequence[uuid.UUID]) -> list[ScreeningRow]:
    """All answers that persons ever gave, newest first."""
    query = select(ScreeningRow).where(ScreeningRow.person_id.in_(person_ids))
    return list(session.scalars(query.order_by(ScreeningRow.answered_at.desc(), ScreeningRow.id)))


def clearances(session: Session, person_ids: Sequence[uuid.UUID]) -> list[ClearanceRow]:
    """Everything that doctors cleared for persons, and what was taken back, oldest first."""
    query = select(ClearanceRow).where(ClearanceRow.person_id.in_(person_ids))
    return list(session.scalars(query.order_by(ClearanceRow.recorded_at, ClearanceRow.id)))


def add_clearance(session: Session, row: PersonRow, clearance: Clearance, by: uuid.UUID) -> ClearanceRow:
    """Keep a clearance, or the taking back of one."""
    kept = ClearanceRow(
        id=uuid.uuid4(), practice_id=row.practice_id, person_id=row.id, recorded_by=by, **clearance.model_dump()
    )
    session.add(kept)
    session.flush()
    return kept


def thresholds(session: Session, person_ids: Sequence[uuid.UUID]) -> list[ThresholdRow]:
    """Every measured pressure-pain threshold, oldest first; one without a value takes back what was measured before."""
    query = select(ThresholdRow).where(ThresholdRow.person_id.in_(person_ids))
    return list(session.scalars(query.order_by(ThresholdRow.taken_at, ThresholdRow.id)))


def complaints(session: Session, person_ids: Sequence[uuid.UUID]) -> list[ComplaintRow]:
    """Persons' complaints, oldest first."""
    query = select(ComplaintRow).where(ComplaintRow.person_id.in_(person_ids))
    return list(session.scalars(query.order_by(ComplaintRow.created_at, ComplaintRow.id)))


def complaint(session: Session, complaint_id: uuid.UUID) -> ComplaintRow:
    """One complaint. Raises: NotFound."""
    row = session.scalar(select(ComplaintRow).where(ComplaintRow.id == complaint_id))
    if row is None:
        raise NotFound("there is no such complaint in this practice", where="complaint_id")
    return row


def complaints_in_use(session: Session) -> set[str]:
    """Kinds of complaint that somebody of this practice has or had."""
    return set(session.scalars(select(ComplaintRow.kind).distinct()))


def ratings(session: Session, person_ids: Sequence[uuid.UUID]) -> list[RatingRow]:
    """Persons' ratings in order of time."""
    query = select(RatingRow).where(RatingRow.person_id.in_(person_ids))
    return list(session.scalars(query.order_by(RatingRow.rated_at, RatingRow.id)))


def measures(session: Session, person_ids: Sequence[uuid.UUID]) -> list[MeasureRow]:
    """Every measure taken, oldest first: of each length the last counts."""
    query = select(MeasureRow).where(MeasureRow.person_id.in_(person_ids))
    return list(session.scalars(query.order_by(MeasureRow.taken_at, MeasureRow.id)))


def age_on(born: date, day: date) -> int:
    """Age in whole years."""
    return day.year - born.year - ((day.month, day.day) < (born.month, born.day))


DEFAULT_HEIGHT_CM = {"female": 164.0, "male": 177.0, "unspecified": 170.0}  # rounded adult averages


def body_facts(row: PersonRow, age: int, measures_cm: dict[str, float]) -> BodyFacts:
    """What the figure is fitted to; with no height yet, an average one for the sex."""
    return BodyFacts(
        sex=row.sex,
        age=min(max(age, 12), 105),
        height_cm=row.height_cm or DEFAULT_HEIGHT_CM[row.sex],
        weight_kg=row.weight_kg,
        measures_cm=measures_cm,
        fingers=fingers_of(row.fingers),
    )


def fingers_of(widths: dict[str, Any]) -> Fingers:
    """Finger widths from their column."""
    return Fingers(**{name: widths.get(name) for name in Fingers.model_fields})


def add_screening(
    session: Session, row: PersonRow, answers: dict[str, Any], by: uuid.UUID | None, at: datetime
) -> ScreeningRow:
    """Keep a screening. Raises: UnknownId, CoreError if the answers do not fit the questions."""
    parse_screening(answers)
    screening = ScreeningRow(
        id=uuid.uuid4(), practice_id=row.practice_id, person_id=row.id, answers=answers, answered_by=by, answered_at=at
    )
    session.add(screening)
    session.flush()
    return screening


def erase(session: Session, row: PersonRow, by: uuid.UUID, reason: str) -> None:
    """Erase a person's whole record, noting who did it and why. Only the owner's function can; it sees one practice."""
    session.execute(text("SELECT erase_person(:person, :by, :reason)"), {"person": row.id, "by": by, "reason": reason})
    session.expunge_all()  # nothing of it may be written again
