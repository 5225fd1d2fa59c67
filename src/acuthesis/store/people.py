"""Persons and what is known of them. The database shows only the practice that the transaction named."""

import uuid
from datetime import UTC, date, datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from acuthesis.core.body.person import BodyFacts, Fingers
from acuthesis.core.compose.layer import Layer
from acuthesis.core.errors import CoreError, UnknownId
from acuthesis.core.safety.clearance import Clearance, holding, raised_since
from acuthesis.core.safety.pressure import calibrated
from acuthesis.core.safety.screening import Screening, parse_screening
from acuthesis.store.model import (
    AuditRow,
    ClearanceRow,
    ComplaintRow,
    LayerRow,
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


def audit(
    session: Session,
    practice_id: uuid.UUID,
    practitioner_id: uuid.UUID | None,
    person_id: uuid.UUID | None,
    action: str,
) -> None:
    """Note who did what with whose record."""
    session.add(AuditRow(practice_id=practice_id, practitioner_id=practitioner_id, person_id=person_id, action=action))


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


def latest_screening(session: Session, person_id: uuid.UUID) -> ScreeningRow | None:
    """The newest answers, or None."""
    return session.scalar(
        select(ScreeningRow)
        .where(ScreeningRow.person_id == person_id)
        .order_by(ScreeningRow.answered_at.desc())
        .limit(1)
    )


def screening_of(session: Session, person_id: uuid.UUID, presser: PractitionerRow) -> Screening:
    """The newest answers as the core reads them, with everything else that decides for this person and this hand."""
    return screening_from(session, person(session, person_id), latest_screening(session, person_id), presser)


def screening_from(
    session: Session, row: PersonRow, answered: ScreeningRow | None, presser: PractitionerRow
) -> Screening:
    """Answers of one screening as the core reads them today; none if there are none.

    With them: the person's age and measured thresholds, what a doctor cleared, the practice's own rules, and the levels
    of whoever presses.
    """
    today = datetime.now(UTC).date()
    house = session.scalar(select(LayerRow))
    screening = parse_screening(
        answered.answers if answered else {},
        age_on(row.born, today),
        {part: one.n_per_cm2 for part, one in thresholds(session, row.id).items() if one.n_per_cm2 is not None},
        house=Layer.model_validate(house.layer).rules if house else (),
        pressure=calibrated(scale_of(presser)),
    )
    given = [clearance_from(one) for one in clearances(session, row.id)]
    if not given:
        return screening
    history = [(one.answered_at, screening.model_copy(update=_answers_of(one))) for one in screenings(session, row.id)]
    lifted = holding(given, raised_since(history), today)
    return screening.model_copy(update={"cleared": (*screening.cleared, *lifted)})


def _answers_of(row: ScreeningRow) -> dict[str, Any]:
    read = parse_screening(row.answers)
    return {"answers": read.answers, "cleared": read.cleared}


def scale_of(row: PractitionerRow) -> dict[int, float]:
    """What a kitchen scale showed (g) under a practitioner's thumb, by level."""
    return {int(level): grams for level, grams in row.scale_g.items()}


def clearances(session: Session, person_id: uuid.UUID) -> list[ClearanceRow]:
    """Everything that doctors cleared for a person, and what was taken back, oldest first."""
    query = select(ClearanceRow).where(ClearanceRow.person_id == person_id)
    return list(session.scalars(query.order_by(ClearanceRow.recorded_at, ClearanceRow.id)))


def clearance_from(row: ClearanceRow) -> Clearance:
    """A clearance as the core reads it."""
    return Clearance(**{name: getattr(row, name) for name in Clearance.model_fields})


def add_clearance(session: Session, row: PersonRow, clearance: Clearance, by: uuid.UUID) -> ClearanceRow:
    """Keep a clearance, or the taking back of one."""
    kept = ClearanceRow(
        id=uuid.uuid4(), practice_id=row.practice_id, person_id=row.id, recorded_by=by, **clearance.model_dump()
    )
    session.add(kept)
    session.flush()
    return kept


def thresholds(session: Session, person_id: uuid.UUID) -> dict[str, ThresholdRow]:
    """The newest measured pressure-pain threshold of each body part; one without a value was taken back."""
    query = select(ThresholdRow).where(ThresholdRow.person_id == person_id)
    return {row.part: row for row in session.scalars(query.order_by(ThresholdRow.taken_at, ThresholdRow.id))}


def screenings(session: Session, person_id: uuid.UUID) -> list[ScreeningRow]:
    """All answers ever given, newest first."""
    return list(
        session.scalars(
            select(ScreeningRow).where(ScreeningRow.person_id == person_id).order_by(ScreeningRow.answered_at.desc())
        )
    )


def complaints(session: Session, person_id: uuid.UUID) -> list[ComplaintRow]:
    """A person's complaints, oldest first."""
    return list(
        session.scalars(
            select(ComplaintRow)
            .where(ComplaintRow.person_id == person_id)
            .order_by(ComplaintRow.created_at, ComplaintRow.id)
        )
    )


def complaint(session: Session, complaint_id: uuid.UUID) -> ComplaintRow:
    """One complaint. Raises: NotFound."""
    row = session.scalar(select(ComplaintRow).where(ComplaintRow.id == complaint_id))
    if row is None:
        raise NotFound("there is no such complaint in this practice", where="complaint_id")
    return row


def complaints_in_use(session: Session) -> set[str]:
    """Kinds of complaint that somebody of this practice has or had."""
    return set(session.scalars(select(ComplaintRow.kind).distinct()))


def ratings(session: Session, person_id: uuid.UUID) -> list[RatingRow]:
    """A person's ratings in order of time."""
    return list(session.scalars(select(RatingRow).where(RatingRow.person_id == person_id).order_by(RatingRow.rated_at)))


def measures(session: Session, person_id: uuid.UUID) -> dict[str, MeasureRow]:
    """The newest measure of each length."""
    rows = session.scalars(
        select(MeasureRow).where(MeasureRow.person_id == person_id).order_by(MeasureRow.taken_at, MeasureRow.id)
    )
    return {row.name: row for row in rows}


def age_on(born: date, day: date) -> int:
    """Age in whole years."""
    return day.year - born.year - ((day.month, day.day) < (born.month, born.day))


DEFAULT_HEIGHT_CM = {"female": 164.0, "male": 177.0, "unspecified": 170.0}  # rounded adult averages


def body_facts(session: Session, row: PersonRow, today: date) -> BodyFacts:
    """What the figure is fitted to; with no height yet, an average one for the sex."""
    return BodyFacts(
        sex=row.sex,
        age=min(max(age_on(row.born, today), 12), 105),
        height_cm=row.height_cm or DEFAULT_HEIGHT_CM[row.sex],
        weight_kg=row.weight_kg,
        measures_cm={name: measure.value_cm for name, measure in sorted(measures(session, row.id).items())},
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
