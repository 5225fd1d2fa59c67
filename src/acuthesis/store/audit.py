"""The audit: read by the practice, only ever added to, and verified by the hashes that its rows carry."""

import uuid
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import Select, and_, any_, func, or_, select, text

from acuthesis.store.database import Db
from acuthesis.store.model import AuditRow, PersonRow, PractitionerRow

WINDOW = 2_000  # rows that one page of stretches looks at
STRETCH_GAP = timedelta(minutes=30)  # a pause that ends a stretch of the same action


@dataclass(frozen=True)
class Filter:
    """Which entries: of a person, by a practitioner, of an action, within a time, between two ids (inclusive)."""

    person_id: uuid.UUID | None = None
    practitioner_id: uuid.UUID | None = None
    action: str | None = None
    between: tuple[datetime, datetime] | None = None
    first: int | None = None
    last: int | None = None

    def over(self, query: Select[tuple[AuditRow]]) -> Select[tuple[AuditRow]]:
        """The query narrowed down. A person's entries include those of records that were merged into theirs."""
        row = AuditRow
        if self.person_id is not None:
            merged = select(func.unnest(PersonRow.merged_ids)).where(PersonRow.id == self.person_id)
            query = query.where(or_(row.person_id == self.person_id, row.person_id.in_(merged)))
        if self.practitioner_id is not None:
            query = query.where(row.practitioner_id == self.practitioner_id)
        if self.action is not None:
            query = query.where(row.action == self.action)
        if self.between is not None:
            query = query.where(row.at >= self.between[0], row.at < self.between[1])
        if self.first is not None:
            query = query.where(row.id >= self.first)
        if self.last is not None:
            query = query.where(row.id <= self.last)
        return query


@dataclass(frozen=True)
class NamedAuditRow:
    """A row of the audit with the names that go with it; empty where there is nobody, or nobody any more."""

    row: AuditRow
    who: str
    person: str


@dataclass(frozen=True)
class Stretch:
    """The same action by the same practitioner on the same record, again and again: its last entry, how often, since
    when, and the id of the first."""

    newest: NamedAuditRow
    count: int
    since: datetime
    first: int


@dataclass(frozen=True)
class Broken:
    """Where the chain of a practice's audit is broken: number, time and action of the first row that is wrong."""

    number: int
    at: datetime
    action: str


def entries(db: Db, wanted: Filter, most: int) -> list[NamedAuditRow]:
    """Up to so many entries, newest first."""
    chosen = wanted.over(select(AuditRow)).order_by(AuditRow.id.desc()).limit(most).subquery()
    return _named(db, chosen.c.id)


def _named(db: Db, ids: object) -> list[NamedAuditRow]:
    person = or_(PersonRow.id == AuditRow.person_id, AuditRow.person_id == any_(PersonRow.merged_ids))
    rows = db.execute(
        select(AuditRow, PractitionerRow.name, PersonRow.given_name, PersonRow.family_name)
        .outerjoin(PractitionerRow, PractitionerRow.id == AuditRow.practitioner_id)
        .outerjoin(PersonRow, and_(AuditRow.person_id.is_not(None), person))
        .where(AuditRow.id.in_(select(ids)))  # type: ignore[call-overload]  # a column of a subquery
        .order_by(AuditRow.id.desc())
    )
    return [NamedAuditRow(row, who or "", f"{given or ''} {family or ''}".strip()) for row, who, given, family in rows]


def stretches(db: Db, wanted: Filter) -> tuple[list[Stretch], int | None]:
    """The newest entries, those of one stretch as one, newest first; and the id to go on from, if there is more."""
    found = entries(db, wanted, WINDOW)
    newest: dict[tuple[object, ...], int] = {}
    made: list[list[NamedAuditRow]] = []
    for entry in found:
        row = entry.row
        key = (row.practitioner_id, row.person_id, row.action, row.reason, row.address, row.device)
        known = newest.get(key)
        if known is not None and made[known][-1].row.at - row.at <= STRETCH_GAP:
            made[known].append(entry)
            continue
        newest[key] = len(made)
        made.append([entry])
    more = found[-1].row.id - 1 if len(found) == WINDOW else None
    return [Stretch(one[0], len(one), one[-1].row.at, one[-1].row.id) for one in made], more


def broken_at(db: Db, practice_id: uuid.UUID) -> Broken | None:
    """Where a practice's chain does not hold; None where every row is as it was written, and none is missing."""
    found = db.execute(text("SELECT * FROM audit_broken_at(:practice)"), {"practice": practice_id}).one_or_none()
    return None if found is None else Broken(found.number, found.at, found.action)


def newest_hash(db: Db, practice_id: uuid.UUID) -> tuple[int, str]:
    """Number and hash (hex) of a practice's newest entry: written down elsewhere, they prove that nothing before them
    was changed since, even by whoever can rewrite the whole table."""
    row = AuditRow
    query = select(row.number, row.hash).where(row.practice_id == practice_id, row.number.is_not(None))
    found = db.execute(query.order_by(row.number.desc()).limit(1)).one_or_none()
    return (0, "") if found is None or found[0] is None else (found[0], (found[1] or b"").hex())
