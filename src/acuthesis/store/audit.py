"""The audit: read by the practice, and only ever added to."""

import uuid
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select

from acuthesis.store.database import Db
from acuthesis.store.model import AuditRow, PersonRow, PractitionerRow


@dataclass(frozen=True)
class Entry:
    """A row of the audit with the names that go with it; empty where there is nobody, or nobody any more."""

    row: AuditRow
    who: str
    person: str


def entries(
    db: Db,
    person_id: uuid.UUID | None,
    practitioner_id: uuid.UUID | None,
    between: tuple[datetime, datetime] | None,
    before: int | None,
    most: int,
) -> list[Entry]:
    """Up to so many entries, newest first; narrowed to a person, a practitioner, a stretch of time, or older ones."""
    query = (
        select(AuditRow, PractitionerRow.name, PersonRow.given_name, PersonRow.family_name)
        .outerjoin(PractitionerRow, PractitionerRow.id == AuditRow.practitioner_id)
        .outerjoin(PersonRow, PersonRow.id == AuditRow.person_id)
    )
    if person_id is not None:
        query = query.where(AuditRow.person_id == person_id)
    if practitioner_id is not None:
        query = query.where(AuditRow.practitioner_id == practitioner_id)
    if between is not None:
        query = query.where(AuditRow.at >= between[0], AuditRow.at < between[1])
    if before is not None:
        query = query.where(AuditRow.id < before)
    rows = db.execute(query.order_by(AuditRow.id.desc()).limit(most))
    return [Entry(row, who or "", f"{given or ''} {family or ''}".strip()) for row, who, given, family in rows]
