"""The audit as the practice reads it: who read or changed whose record, when, from which device, and why."""

import csv
import io
import uuid
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel

from acuthesis.api.access import SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import Day, Line
from acuthesis.services.request.here import Here
from acuthesis.store import audit
from acuthesis.store.audit import Filter, NamedAuditRow

router = APIRouter(route_class=StrictRoute, tags=["audit"])
PAGE, WHOLE = 100, 100_000
EntryId = Annotated[int | None, Query(ge=1, lt=2**63)]


class AuditEntry(BaseModel):
    """One thing that was done. `person` is empty for what concerns nobody's record, or somebody who was erased.

    `reason`: why somebody opened the record of a person whom they do not treat. `number`: place in the chain of hashes.
    """

    id: int
    number: int | None
    at: datetime
    who: str
    person_id: uuid.UUID | None
    person: str
    action: str
    device: str
    address: str
    reason: str


class AuditPage(BaseModel):
    """A page of the audit, newest first; `before` asks for the next one, where there is more."""

    entries: list[AuditEntry]
    before: int | None


class AuditStretch(BaseModel):
    """The same action by the same practitioner on the same record, again and again: the newest entry, how often, since
    when; `first` is the id of the oldest, with which its entries are read."""

    newest: AuditEntry
    count: int
    since: datetime
    first: int


class AuditStretches(BaseModel):
    """Stretches, newest first; `before` asks for older ones, where there are any."""

    stretches: list[AuditStretch]
    before: int | None


class AuditChain(BaseModel):
    """Whether every entry is as it was written and none is missing: `broken_at` is the number of the first that is not.

    `number` and `hash` of the newest entry can be written down elsewhere, to prove later that nothing changed.
    """

    number: int
    hash: str
    broken_at: int | None


@router.get("/audit")
def read_audit(
    here: SignedIn,
    person_id: uuid.UUID | None = None,
    practitioner_id: uuid.UUID | None = None,
    action: Line | None = None,
    day: Day | None = None,
    before: EntryId = None,
    first: EntryId = None,
    last: EntryId = None,
) -> AuditPage:
    """What was done, newest first; of one person, by one practitioner, on one day of the practice, in one stretch."""
    until = before - 1 if before is not None else last
    wanted = Filter(person_id, practitioner_id, action, here.day_bounds(day) if day else None, first, until)
    found = audit.entries(here.db, wanted, PAGE + 1)
    here.reads(None, "audit")
    shown = [_shown(entry) for entry in found[:PAGE]]
    return AuditPage(entries=shown, before=shown[-1].id if len(found) > PAGE else None)


@router.get("/audit/stretches")
def read_audit_stretches(
    here: SignedIn,
    person_id: uuid.UUID | None = None,
    practitioner_id: uuid.UUID | None = None,
    day: Day | None = None,
    before: EntryId = None,
) -> AuditStretches:
    """The same with one row for each stretch of the same action: a treatment is one row, and not one for each press."""
    wanted = Filter(person_id, practitioner_id, None, here.day_bounds(day) if day else None, None, before)
    found, more = audit.stretches(here.db, wanted)
    here.reads(None, "audit")
    rows = [AuditStretch(newest=_shown(one.newest), count=one.count, since=one.since, first=one.first) for one in found]
    return AuditStretches(stretches=rows, before=more)


@router.get("/audit/chain")
def verify_audit(here: SignedIn) -> AuditChain:
    """Verify the hashes of the practice's whole audit."""
    here.require("manage")
    broken = audit.broken_at(here.db, here.practice_id)
    number, newest = audit.newest_hash(here.db, here.practice_id)
    here.audit(None, "audit verified")
    return AuditChain(number=number, hash=newest, broken_at=broken.number if broken else None)


@router.get("/audit.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}})
def audit_file(
    here: SignedIn,
    person_id: uuid.UUID | None = None,
    practitioner_id: uuid.UUID | None = None,
    day: Day | None = None,
) -> Response:
    """The same as a file, with moments by the practice's clock."""
    wanted = Filter(person_id, practitioner_id, None, here.day_bounds(day) if day else None)
    rows = audit.entries(here.db, wanted, WHOLE)
    here.audit(None, "audit exported")
    written = io.StringIO()
    out = csv.writer(written)
    out.writerow(["number", "at", "who", "person_id", "person", "action", "reason", "device", "address"])
    for entry in rows:
        out.writerow([_cell(cell) for cell in _cells(here, entry)])
    name = f"audit-{day or here.today}.csv"
    return Response(
        written.getvalue(),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


def _cells(here: Here, entry: NamedAuditRow) -> list[str]:
    row = entry.row
    at = here.local(row.at).isoformat(timespec="seconds")
    of = [str(row.person_id or ""), entry.person]
    return [str(row.number or ""), at, entry.who, *of, row.action, row.reason, row.device, row.address]


def _shown(entry: NamedAuditRow) -> AuditEntry:
    row = entry.row
    return AuditEntry(
        id=row.id,
        number=row.number,
        at=row.at,
        who=entry.who,
        person_id=row.person_id,
        person=entry.person,
        action=row.action,
        device=row.device,
        address=row.address,
        reason=row.reason,
    )


def _cell(text: str) -> str:
    """A cell that a spreadsheet does not take for a formula."""
    return f"'{text}" if text.startswith(("=", "+", "-", "@", "\t", "\r")) else text
