"""The log between visits: medicines, sleep, pressing at home, events. Corrections keep what was said before."""

import uuid
from datetime import date, datetime, timedelta
from typing import Literal

from pydantic import BaseModel

from acuthesis.core.errors import CoreError, OutOfRange
from acuthesis.core.message import message
from acuthesis.services.ratings.rating import SaidBy
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.store import follow as store
from acuthesis.store.model import LogRow
from acuthesis.store.people import Conflict

Kind = Literal["medicine", "sleep", "practice", "event"]
LONGEST_DAYS = 366  # of one entry
# How far back somebody remembers: a note on the time line may be of years ago.
EARLIEST_DAYS = 100 * 366


class LogInput(BaseModel):
    """One entry as it is told; `amount` is times taken, hours slept, or minutes pressed, by kind."""

    kind: Kind
    complaint_id: uuid.UUID | None
    on_day: date
    until: date | None
    amount: float | None
    words: str
    other_care: bool
    pressed: list[str]
    said_by: SaidBy


class EntryOut(LogInput):
    """An entry as it is kept: `corrects` where it took the place of another."""

    id: uuid.UUID
    corrects: bool
    recorded_by: str
    recorded_at: datetime


def entry_out(here: Here, row: LogRow) -> EntryOut:
    """An entry with who wrote it down; nobody, where it came from home."""
    names = {colleague.id: colleague.name for colleague in here.colleagues}
    plain = {name: getattr(row, name) for name in LogInput.model_fields}
    return EntryOut(
        **plain,
        id=row.id,
        corrects=row.replaces is not None,
        recorded_by=names.get(row.recorded_by, "") if row.recorded_by else "",
        recorded_at=row.recorded_at,
    )


def add(here: Here, person_id: uuid.UUID, id: uuid.UUID, entry: LogInput) -> LogRow:
    """Keep an entry; sending it twice changes nothing.

    Raises: NotFound for a complaint of somebody else; OutOfRange for days and amounts that cannot be; UnknownId for a
    place that there is none of; CoreError for words that are missing.
    """
    person = here.person(person_id).row
    _check(here, person_id, entry)
    known = here.db.get(LogRow, id)
    return known if known is not None else _kept(here, person.id, id, entry, None, dropped=False)


def correct(here: Here, entry_id: uuid.UUID, id: uuid.UUID, entry: LogInput | None) -> LogRow:
    """Put another entry in the place of one, or (none) take it back; what was said first stays, and no longer counts.

    Raises: NotFound; Conflict where it was corrected already; and as `add`.
    """
    row = store.entry(here.db, entry_id)
    known = here.db.get(LogRow, id)
    if known is not None:
        return known
    store.lock_entry(here.db, row.id)  # of two corrections at once the second sees the first
    if not store.holds(here.db, row):
        raise Conflict(message("log-entry-already-been-corrected-reload"), where="entry_id")
    told = entry or LogInput(**{name: getattr(row, name) for name in LogInput.model_fields})
    if entry is not None:
        _check(here, row.person_id, entry)
    return _kept(here, row.person_id, id, told, row.id, dropped=entry is None)


def _kept(
    here: Here, person_id: uuid.UUID, id: uuid.UUID, entry: LogInput, replaces: uuid.UUID | None, dropped: bool
) -> LogRow:
    row = LogRow(
        id=id,
        practice_id=here.practice_id,
        person_id=person_id,
        replaces=replaces,
        dropped=dropped,
        recorded_by=here.practitioner.id,
        recorded_at=now(),
        **entry.model_dump(),
    )
    here.db.add(row)
    done = "withdrawn" if dropped else "corrected" if replaces else "added"
    here.audit(person_id, f"log entry {done}")
    here.db.flush()
    return row


def _check(here: Here, person_id: uuid.UUID, entry: LogInput) -> None:
    if entry.complaint_id is not None:
        store.complaint_of(here.db, entry.complaint_id, person_id)
    last = entry.until or entry.on_day
    if max(entry.on_day, last) > here.today:
        raise OutOfRange(message("day-in-the-future", day=max(entry.on_day, last)), where="on_day")
    if entry.on_day < here.today - timedelta(days=EARLIEST_DAYS):
        raise OutOfRange(message("log-too-far-past", on_day=entry.on_day), where="on_day")
    if not timedelta(0) <= last - entry.on_day <= timedelta(days=LONGEST_DAYS):
        raise OutOfRange(message("log-entry-must-end-after-starts"), where="until")
    if entry.kind in ("medicine", "event") and not entry.words:
        raise CoreError(message("log-enter-medicine" if entry.kind == "medicine" else "log-enter-event"), where="words")
    if entry.kind == "sleep" and (entry.amount is None or entry.amount > 24):
        raise OutOfRange(message("log-hours-slept"), where="amount")
    for id in entry.pressed:
        here.entry(id)
