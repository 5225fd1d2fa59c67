"""People and what is known of them. Row-level security shows only the practice that the transaction named."""

import uuid
from collections.abc import Sequence
from datetime import date, datetime, timedelta
from functools import cache
from typing import Any, NamedTuple, TypeVar

from sqlalchemy import ColumnElement, and_, case, exists, func, or_, select, text, update
from sqlalchemy.orm import InstrumentedAttribute, aliased

from acuthesis.core.errors import CoreError, UnknownId
from acuthesis.core.message import message
from acuthesis.core.safety.clearance import Clearance
from acuthesis.core.safety.screening import parse_screening
from acuthesis.store.database import Db
from acuthesis.store.model import (
    ActivityRatingRow,
    ClearanceRow,
    ComplaintRow,
    ConsentRow,
    LetterRow,
    LogRow,
    MeasureRow,
    PersonRow,
    RatingRow,
    ReadingGrantRow,
    ScreeningRow,
    StoryRow,
    ThresholdRow,
    VisitRow,
)

OfPersonRow = TypeVar("OfPersonRow", ScreeningRow, ClearanceRow, ThresholdRow, MeasureRow, ComplaintRow)


class NotFound(UnknownId):
    """No such row in this practice; another practice's row is no different from none."""

    code = "not_found"


class Conflict(CoreError):
    """Somebody else changed the row since it was read."""

    code = "conflict"


def person(db: Db, person_id: uuid.UUID, sealed: bool = False) -> PersonRow:
    """A person of this practice; one whose record is to be erased only where `sealed` ones are asked for, and no other.

    Raises: NotFound.
    """
    row = db.scalar(select(PersonRow).where(PersonRow.id == person_id))
    if row is None or (row.erase_at is not None) != sealed:
        raise NotFound(message("people-there-no-such-person-practice"), where="person_id")
    return row


def sealed_people(db: Db) -> set[uuid.UUID]:
    """Everybody whose record is to be erased."""
    return set(db.scalars(select(PersonRow.id).where(PersonRow.erase_at.is_not(None))))


# Word similarity (trigrams) from which a name is a near miss: one or two letters off.
NEAR_NAME = 0.42


def people(db: Db, wanted: str = "", archived: bool = False, most: int | None = None) -> list[PersonRow]:
    """Everybody of this practice, by name; narrowed to whoever may be meant, the likeliest first.

    Accents, case and the order of names do not count, and a letter or two may be off; a telephone number or an email
    will do.
    """
    shown = PersonRow.archived_at.is_not(None) if archived else PersonRow.archived_at.is_(None)
    query = select(PersonRow).where(shown, PersonRow.erase_at.is_(None))
    by_name = (PersonRow.given_name, PersonRow.family_name, PersonRow.id)
    words = wanted.split()
    if not words:
        return list(db.scalars(query.order_by(*by_name).limit(most)))
    plain = func.lower(func.unaccent(PersonRow.given_name + " " + PersonRow.family_name))
    near = []
    for word in words:
        sought = func.lower(func.unaccent(word))
        near.append(
            func.greatest(
                case(
                    (func.strpos(" " + plain, " " + sought) > 0, 2.0), (func.strpos(plain, sought) > 0, 1.0), else_=0.0
                ),
                func.word_similarity(sought, plain),
            )
        )
    score = sum(near[1:], near[0])
    found = and_(*(one >= NEAR_NAME for one in near))
    digits = "".join(letter for letter in wanted if letter.isdigit())
    if len(digits) >= LEAST_DIGITS:
        found = or_(found, func.regexp_replace(PersonRow.phone, "[^0-9]", "", "g").contains(digits))
    if "@" in wanted:
        found = or_(found, func.lower(PersonRow.email).contains(wanted.strip().lower(), autoescape=True))
    return list(db.scalars(query.where(found).order_by(score.desc(), *by_name).limit(most)))


LEAST_DIGITS = 4  # of a telephone number, so that it is one


def is_treated_by(db: Db, person_id: uuid.UUID, practitioner_id: uuid.UUID) -> bool:
    """Whether a practitioner is responsible for a person, or has or had an appointment with them."""
    visit = select(VisitRow.id).where(VisitRow.person_id == person_id, VisitRow.practitioner_id == practitioner_id)
    person = select(PersonRow.id).where(PersonRow.id == person_id, PersonRow.in_charge == practitioner_id)
    return bool(db.scalar(select(visit.exists() | person.exists())))


def treated_by(db: Db, practitioner_id: uuid.UUID) -> set[uuid.UUID]:
    """Everybody of whom `is_treated_by` is true."""
    visits = select(VisitRow.person_id).where(VisitRow.practitioner_id == practitioner_id)
    return set(db.scalars(visits.union(select(PersonRow.id).where(PersonRow.in_charge == practitioner_id))))


def reading_grant(db: Db, person_id: uuid.UUID, practitioner_id: uuid.UUID, now: datetime) -> ReadingGrantRow | None:
    """The reason that a practitioner gave for looking at a person, as long as it is valid."""
    row = ReadingGrantRow
    query = select(row).where(row.person_id == person_id, row.practitioner_id == practitioner_id, row.until > now)
    return db.scalar(query.order_by(row.until.desc()).limit(1))


def check_version(row: Any, version: int, what: str) -> None:
    """Raises: Conflict if the row has been changed since the version that the caller saw; raises the version."""
    if row.version != version:
        raise Conflict(
            message("people-changed-another-window-meantime-load", what=what),
            where="version",
        )
    row.version += 1


def persons(db: Db, ids: Sequence[uuid.UUID]) -> list[PersonRow]:
    """Several persons of this practice."""
    return list(db.scalars(select(PersonRow).where(PersonRow.id.in_(ids)))) if ids else []


def _of_persons(
    db: Db, table: type[OfPersonRow], ids: Sequence[uuid.UUID], order: ColumnElement[Any]
) -> list[OfPersonRow]:
    """Rows of a table that belong to persons, in an order in which rows of one moment keep their places."""
    return list(db.scalars(select(table).where(table.person_id.in_(ids)).order_by(order, table.id)))


def screenings(db: Db, person_ids: Sequence[uuid.UUID]) -> list[ScreeningRow]:
    """All answers that persons ever gave, newest first."""
    return _of_persons(db, ScreeningRow, person_ids, ScreeningRow.answered_at.desc())


def clearances(db: Db, person_ids: Sequence[uuid.UUID]) -> list[ClearanceRow]:
    """Everything that doctors cleared for persons, and what was taken back, oldest first."""
    return _of_persons(db, ClearanceRow, person_ids, ClearanceRow.recorded_at.asc())


def _after(db: Db, moment: InstrumentedAttribute[datetime], whose: ColumnElement[bool], at: datetime) -> datetime:
    """The moment for a row of which the newest counts: `at`, or just after the newest where the clock stood or was set
    back, so that what is said last is never overtaken by what was said before it."""
    newest = db.scalar(select(func.max(moment)).where(whose))
    return at if newest is None else max(at, newest + timedelta(microseconds=1))


def add_clearance(db: Db, row: PersonRow, clearance: Clearance, by: uuid.UUID) -> ClearanceRow:
    """Keep a clearance, or the taking back of one."""
    whose = and_(ClearanceRow.person_id == row.id, ClearanceRow.flag == clearance.flag)
    clearance = clearance.model_copy(
        update={"recorded_at": _after(db, ClearanceRow.recorded_at, whose, clearance.recorded_at)}
    )
    kept = ClearanceRow(
        id=uuid.uuid4(), practice_id=row.practice_id, person_id=row.id, recorded_by=by, **clearance.model_dump()
    )
    db.add(kept)
    db.flush()
    return kept


def thresholds(db: Db, person_ids: Sequence[uuid.UUID]) -> list[ThresholdRow]:
    """Every measured pressure-pain threshold, oldest first; one without a value takes back what was measured before."""
    return _of_persons(db, ThresholdRow, person_ids, ThresholdRow.taken_at.asc())


def complaints(db: Db, person_ids: Sequence[uuid.UUID]) -> list[ComplaintRow]:
    """Persons' complaints, oldest first."""
    return _of_persons(db, ComplaintRow, person_ids, ComplaintRow.created_at.asc())


def complaint(db: Db, complaint_id: uuid.UUID, lock: bool = False) -> ComplaintRow:
    """One complaint; with `lock` nobody else who locks it has it until the transaction ends. Raises: NotFound.

    What only names it as its complaint does not wait for the lock: an outcome can be kept while somebody rates.
    """
    query = select(ComplaintRow).where(ComplaintRow.id == complaint_id)
    row = db.scalar(query.with_for_update(key_share=True) if lock else query)
    if row is None:
        raise NotFound(message("people-there-no-such-complaint-practice"), where="complaint_id")
    return row


def complaints_in_use(db: Db) -> set[str]:
    """Kinds of complaint that somebody of this practice has or had."""
    return set(db.scalars(select(ComplaintRow.kind).distinct()))


class RatingRead(NamedTuple):
    """A rating as it is read. A course has hundreds: they are no objects that could be changed."""

    id: uuid.UUID
    person_id: uuid.UUID
    complaint_id: uuid.UUID
    visit_id: uuid.UUID | None
    moment: str
    value: int
    rated_at: datetime
    said_by: str
    recorded_by: uuid.UUID | None
    replaces: uuid.UUID | None
    dropped: bool


@cache
def holding(table: type[RatingRow] | type[ActivityRatingRow] | type[LogRow]) -> ColumnElement[bool]:
    """Whether a row counts: it is not dropped, and no other has taken its place."""
    later = aliased(table)
    return and_(table.dropped.is_(False), ~exists().where(later.replaces == table.id))


def ratings(db: Db, person_ids: Sequence[uuid.UUID], every: bool = False) -> list[RatingRead]:
    """Persons' ratings in order of time: those that hold, or every one that was ever given."""
    return _ratings(db, RatingRow.person_id.in_(person_ids), every)


def ratings_about(db: Db, complaint_ids: Sequence[uuid.UUID]) -> list[RatingRead]:
    """Ratings of complaints that hold, in order of time."""
    return _ratings(db, RatingRow.complaint_id.in_(complaint_ids), every=False)


def _ratings(db: Db, whose: ColumnElement[bool], every: bool) -> list[RatingRead]:
    columns = [getattr(RatingRow, name) for name in RatingRead._fields]
    query = select(*columns).where(whose).order_by(RatingRow.rated_at, RatingRow.id)
    return [RatingRead._make(row) for row in db.execute(query if every else query.where(holding(RatingRow)))]


def rated_at_visits(db: Db, visit_ids: Sequence[uuid.UUID]) -> dict[tuple[uuid.UUID, str], set[uuid.UUID]]:
    """Which complaints were rated at visits, by visit and moment."""
    query = select(RatingRow.visit_id, RatingRow.moment, RatingRow.complaint_id)
    found: dict[tuple[uuid.UUID, str], set[uuid.UUID]] = {}
    for visit_id, moment, complaint_id in db.execute(
        query.where(RatingRow.visit_id.in_(visit_ids), holding(RatingRow))
    ):
        found.setdefault((visit_id, moment), set()).add(complaint_id)  # type: ignore[arg-type]
    return found


def measures(db: Db, person_ids: Sequence[uuid.UUID]) -> list[MeasureRow]:
    """Every measure taken, oldest first: of each length the last counts."""
    return _of_persons(db, MeasureRow, person_ids, MeasureRow.taken_at.asc())


def add_screening(
    db: Db, row: PersonRow, answers: dict[str, Any], by: uuid.UUID | None, at: datetime, in_full: bool = True
) -> ScreeningRow:
    """Keep a screening; not `in_full` where only some questions were asked and `answers` are the old ones with those.

    Raises: UnknownId, CoreError if the answers do not fit the questions.
    """
    parse_screening(answers)
    of_person = {"practice_id": row.practice_id, "person_id": row.id}
    answered_at = _after(db, ScreeningRow.answered_at, ScreeningRow.person_id == row.id, at)
    screening = ScreeningRow(
        id=uuid.uuid4(), answers=answers, answered_by=by, answered_at=answered_at, in_full=in_full, **of_person
    )
    db.add(screening)
    db.flush()
    return screening


def stories(db: Db, person_id: uuid.UUID) -> list[StoryRow]:
    """What a person told, in the order in which it was told."""
    query = select(StoryRow).where(StoryRow.person_id == person_id)
    return list(db.scalars(query.order_by(StoryRow.told_on, StoryRow.written_at, StoryRow.id)))


def consents(db: Db, person_id: uuid.UUID) -> list[ConsentRow]:
    """A person's consents and withdrawals, oldest first: of each thing the last counts."""
    query = select(ConsentRow).where(ConsentRow.person_id == person_id)
    return list(db.scalars(query.order_by(ConsentRow.recorded_at, ConsentRow.id)))


def letters(db: Db, person_id: uuid.UUID) -> list[LetterRow]:
    """Letters about a person, newest first."""
    query = select(LetterRow).where(LetterRow.person_id == person_id)
    return list(db.scalars(query.order_by(LetterRow.sent_on.desc(), LetterRow.id)))


def letter(db: Db, letter_id: uuid.UUID) -> LetterRow:
    """One letter. Raises: NotFound."""
    row = db.scalar(select(LetterRow).where(LetterRow.id == letter_id))
    if row is None:
        raise NotFound(message("papers-there-no-such-letter-practice"), where="letter_id")
    return row


def letters_awaited(db: Db, until: date) -> list[tuple[LetterRow, PersonRow]]:
    """Letters whose answer is due by a day and has not come."""
    query = (
        select(LetterRow, PersonRow)
        .join(PersonRow, PersonRow.id == LetterRow.person_id)
        .where(LetterRow.answered_on.is_(None), LetterRow.answer_due <= until, PersonRow.archived_at.is_(None))
    )
    return list(db.execute(query.order_by(LetterRow.answer_due, LetterRow.id)).tuples())


def seen_since(db: Db, moment: datetime) -> list[uuid.UUID]:
    """Whoever has or had an appointment after a moment, without the archived."""
    query = select(PersonRow.id).where(
        PersonRow.archived_at.is_(None),
        select(VisitRow.id)
        .where(VisitRow.person_id == PersonRow.id, VisitRow.starts_at > moment, VisitRow.attendance == "expected")
        .exists(),
    )
    return list(db.scalars(query.order_by(PersonRow.given_name, PersonRow.id)))


def last_measured(db: Db, person_ids: Sequence[uuid.UUID]) -> dict[uuid.UUID, datetime]:
    """When each person was last measured."""
    row = MeasureRow
    query = select(row.person_id, func.max(row.taken_at)).where(row.person_id.in_(person_ids))
    return dict(db.execute(query.group_by(row.person_id)).tuples().all())


def merge(db: Db, kept: uuid.UUID, other: uuid.UUID, by: uuid.UUID) -> None:
    """Move all that belongs to one person to another, and let the first row go. Only the owner's function can."""
    db.flush()
    db.execute(text("SELECT join_persons(:kept, :other, :by)"), {"kept": kept, "other": other, "by": by})
    db.expunge_all()


def erase(db: Db, row: PersonRow, by: uuid.UUID | None, reason: str) -> None:
    """Erase a person's whole record, noting who did it and why. Only the owner's function can; it sees one practice."""
    db.execute(text("SELECT erase_person(:person, :by, :reason)"), {"person": row.id, "by": by, "reason": reason})
    db.expunge_all()  # nothing of it may be written again


def in_charge_of(db: Db) -> dict[uuid.UUID, int]:
    """How many people each practitioner is in charge of."""
    row = PersonRow
    query = select(row.in_charge, func.count()).where(row.in_charge.is_not(None), row.archived_at.is_(None))
    return {who: count for who, count in db.execute(query.group_by(row.in_charge)) if who is not None}


def hand_over(db: Db, from_id: uuid.UUID, to_id: uuid.UUID) -> None:
    """Everybody whom one practitioner is in charge of goes to another."""
    db.execute(update(PersonRow).where(PersonRow.in_charge == from_id).values(in_charge=to_id))
