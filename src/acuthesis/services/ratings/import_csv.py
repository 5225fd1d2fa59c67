"""CSV import of ratings with per-row errors: previewed first, then all or nothing."""

import uuid
from datetime import UTC, datetime

from pydantic import BaseModel
from sqlalchemy import select

from acuthesis.core.errors import CoreError
from acuthesis.core.message import message
from acuthesis.exchange.course_csv import Columns, ReadRow, read_rows, read_table
from acuthesis.services.ratings.outcomes import soon_judged
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.store import people
from acuthesis.store.model import ComplaintRow, RatingRow

SHOWN = 6  # rows that are shown as they are understood
MOST_REFUSED = 200


class Heads(BaseModel):
    """The columns of a list, and which are likely meant."""

    heads: list[str]
    rows: int
    suggested: dict[str, str]


class Understood(BaseModel):
    """A row as it is understood."""

    number: int
    at: datetime
    value: int


class Refused(BaseModel):
    """A row that cannot be, and why. Rows count from the first below the heads."""

    number: int
    why: str


class Preview(BaseModel):
    """What would be kept, or (`kept`) was: ratings that are new, those here already, and rows that cannot be."""

    new: int
    already: int
    first: list[Understood]
    refused: list[Refused]
    kept: bool


def heads(text: str) -> Heads:
    """The columns of a list. Raises: CoreError for what is no list."""
    table = read_table(text)
    return Heads(heads=table.heads, rows=len(table.rows), suggested=table.suggested)


def import_rows(here: Here, complaint_id: uuid.UUID, text: str, columns: Columns, keep: bool) -> Preview:
    """Understand a list of ratings of a complaint from home, and with `keep` keep it: all of it, or nothing.

    The same list a second time adds nothing.

    Raises: NotFound; CoreError for no list, a column that is not there, or rows that cannot be and are to be kept.
    """
    complaint = people.complaint(here.db, complaint_id, lock=keep)
    told, refused = read_rows(read_table(text), columns, here.today)
    rows = {_id(complaint, one): one for one in told}
    here_already = set(here.db.scalars(select(RatingRow.id).where(RatingRow.id.in_(rows))))
    new = {id: one for id, one in rows.items() if id not in here_already}
    if keep and refused:
        raise CoreError(message("import-csv-rows-cannot-imported-nothing-saved", count=len(refused)), where="text")
    if keep:
        here.db.add_all(_row(here, complaint, id, one) for id, one in new.items())
        here.audit(complaint.person_id, f"{len(new)} ratings imported")
        here.db.flush()
        soon_judged(here)
    return Preview(
        new=len(new),
        already=len(told) - len(new),
        first=[Understood(number=one.number, at=_moment(here, one), value=one.value) for one in told[:SHOWN]],
        refused=[Refused(number=refusal.number, why=refusal.why) for refusal in refused[:MOST_REFUSED]],
        kept=keep,
    )


def _id(complaint: ComplaintRow, one: ReadRow) -> uuid.UUID:
    """The same row has the same id, whenever it comes."""
    return uuid.uuid5(complaint.id, f"{one.day} {one.at} {one.value}")


def _moment(here: Here, one: ReadRow) -> datetime:
    return datetime.combine(one.day, one.at, here.zone).astimezone(UTC)


def _row(here: Here, complaint: ComplaintRow, id: uuid.UUID, one: ReadRow) -> RatingRow:
    return RatingRow(
        id=id,
        practice_id=complaint.practice_id,
        person_id=complaint.person_id,
        complaint_id=complaint.id,
        visit_id=None,
        moment="home",
        value=one.value,
        rated_at=min(_moment(here, one), now()),
        said_by="from_home",
        recorded_by=here.practitioner.id,
    )
