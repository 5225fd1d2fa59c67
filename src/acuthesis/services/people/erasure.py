"""Erasure of a record: asked for, sealed for seven days, then erased for good; and erased again after a restore.

A ledger outside the database lists what was erased, by ids alone: a dump from before knows nothing of it.
"""

import json
import os
import uuid
from collections.abc import Iterable
from datetime import datetime, timedelta
from pathlib import Path

from pydantic import BaseModel
from sqlalchemy import select, text

from acuthesis.services import jobs
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.settings import settings
from acuthesis.store import booking, people
from acuthesis.store import own_say as persons_screens
from acuthesis.store.database import Db, transaction
from acuthesis.store.model import DiaryRow, PersonRow

GRACE = timedelta(days=7)
AGAIN = "erased before the dump was restored"


class Sealed(BaseModel):
    """A record that will be erased, and until when that can be taken back."""

    person_id: uuid.UUID
    given_name: str
    family_name: str
    reason: str
    asked_by: str
    erase_at: datetime


def ask(here: Here, person_id: uuid.UUID, reason: str) -> datetime:
    """Seal a record from now on and have it erased in seven days; returns when.

    Diaries and the person's screen end, and appointments to come are cancelled.
    Raises: NotFound.
    """
    row = people.person(here.db, person_id)
    for one in booking.of_person(here.db, row.id):
        persons_screens.end(here.db, one.visit.id, now())
        if one.visit.starts_at > now() and one.visit.attendance == "expected":
            one.visit.attendance = "cancelled"
    for diary in here.db.scalars(select(DiaryRow).where(DiaryRow.person_id == row.id, DiaryRow.ended_at.is_(None))):
        diary.ended_at = now()
    here.audit(row.id, f"erasure requested: {reason}")
    row.erase_at, row.erase_reason, row.erase_by = now() + GRACE, reason, here.practitioner.id
    row.archived_at = row.archived_at or now()
    here.db.flush()
    jobs.ask(here.db, erase_due, at=row.erase_at, practice_id=str(row.practice_id), person_id=str(row.id))
    return row.erase_at


def cancel(here: Here, person_id: uuid.UUID) -> PersonRow:
    """Do not erase a record after all: it is in the archive then. Raises: NotFound where nothing was asked for."""
    row = people.person(here.db, person_id, sealed=True)
    row.erase_at, row.erase_reason, row.erase_by = None, "", None
    here.db.flush()
    here.unseal(row.id)
    here.audit(row.id, "erasure withdrawn")
    return row


def asked_for(here: Here) -> list[Sealed]:
    """The records that will be erased, the next first."""
    here.reads(None, "records to be erased")
    names = {colleague.id: colleague.name for colleague in here.colleagues}
    query = select(PersonRow).where(PersonRow.erase_at.is_not(None)).order_by(PersonRow.erase_at, PersonRow.id)
    return [
        Sealed(
            person_id=row.id,
            given_name=row.given_name,
            family_name=row.family_name,
            reason=row.erase_reason,
            asked_by=names.get(row.erase_by, "") if row.erase_by else "",
            erase_at=row.erase_at,
        )
        for row in here.db.scalars(query)
        if row.erase_at is not None
    ]


@jobs.job()
def erase_due(practice_id: str, person_id: str) -> None:
    """Erase a record whose days are over, and write it into the ledger. Taken back meanwhile, nothing happens."""
    practice, person = uuid.UUID(practice_id), uuid.UUID(person_id)
    with transaction(practice) as db:
        row = db.scalar(select(PersonRow).where(PersonRow.id == person).with_for_update())
        if row is None or row.erase_at is None or row.erase_at > now():
            return
        people.erase(db, row, row.erase_by, row.erase_reason)
    note([(practice, person)])


# --- the ledger


def note(erased: Iterable[tuple[uuid.UUID, uuid.UUID]]) -> None:
    """Add to the ledger what it does not hold yet: (practice, person). On disk before this returns."""
    path = settings().erasures
    known = set(read_ledger(path))
    fresh = [row for row in erased if row not in known]
    if not fresh:
        return
    path.parent.mkdir(parents=True, exist_ok=True)
    with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_APPEND, 0o600), "a") as ledger:
        for practice, person in fresh:
            ledger.write(json.dumps({"practice": str(practice), "person": str(person)}) + "\n")
        ledger.flush()
        os.fsync(ledger.fileno())


def read_ledger(path: Path) -> list[tuple[uuid.UUID, uuid.UUID]]:
    """What was erased: (practice, person), the earliest first."""
    if not path.exists():
        return []
    rows = [json.loads(line) for line in path.read_text().splitlines() if line.strip()]
    return [(uuid.UUID(row["practice"]), uuid.UUID(row["person"])) for row in rows]


def note_from_audit(owner: Db, practices: Iterable[uuid.UUID]) -> None:
    """Bring the ledger up to date with what the audit says was erased: a process may have died in between."""
    for practice in practices:
        owner.execute(text("SELECT set_config('acuthesis.practice', :id, true)"), {"id": str(practice)})
        found = owner.execute(
            text("SELECT DISTINCT person_id FROM audit WHERE practice_id = :id AND action LIKE 'record erased%'"),
            {"id": practice},
        )
        note([(practice, row.person_id) for row in found if row.person_id is not None])


def erase_again() -> int:
    """Erase what the ledger lists and the database still has: it came back with a dump. Returns how many."""
    count = 0
    for practice, person in read_ledger(settings().erasures):
        with transaction(practice) as db:
            row = db.scalar(select(PersonRow).where(PersonRow.id == person))
            if row is not None:
                people.erase(db, row, None, AGAIN)
                count += 1
    return count
