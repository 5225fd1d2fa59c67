"""The audit as the practice reads it: who read or changed whose record, and when."""

import csv
import io
import uuid
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel

from acuthesis.api.access import SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import Day
from acuthesis.services.here import Here
from acuthesis.store import audit
from acuthesis.store.audit import Entry

router = APIRouter(route_class=StrictRoute, tags=["audit"])
PAGE, WHOLE = 100, 100_000


class AuditEntry(BaseModel):
    """One thing that was done. `person` is empty for what concerns nobody's record, or somebody who was erased."""

    id: int
    at: datetime
    who: str
    person_id: uuid.UUID | None
    person: str
    action: str


class AuditPage(BaseModel):
    """A page of the audit, newest first; `before` asks for the next one, where there is more."""

    entries: list[AuditEntry]
    before: int | None


@router.get("/audit")
def read_audit(
    here: SignedIn,
    person_id: uuid.UUID | None = None,
    practitioner_id: uuid.UUID | None = None,
    day: Day | None = None,
    before: Annotated[int | None, Query(ge=1, lt=2**63)] = None,
) -> AuditPage:
    """What was done, newest first; of one person, by one practitioner, on one day of the practice."""
    found = _entries(here, person_id, practitioner_id, day, before, PAGE + 1)
    shown = [_shown(one) for one in found[:PAGE]]
    return AuditPage(entries=shown, before=shown[-1].id if len(found) > PAGE else None)


@router.get("/audit.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}})
def audit_file(
    here: SignedIn,
    person_id: uuid.UUID | None = None,
    practitioner_id: uuid.UUID | None = None,
    day: Day | None = None,
) -> Response:
    """The same as a file, with moments by the practice's clock."""
    rows = _entries(here, person_id, practitioner_id, day, None, WHOLE)
    here.audit(None, "audit exported")
    written = io.StringIO()
    out = csv.writer(written)
    out.writerow(["at", "who", "person_id", "person", "action"])
    for one in rows:
        cells = (one.who, str(one.row.person_id or ""), one.person, one.row.action)
        out.writerow([here.local(one.row.at).isoformat(timespec="seconds"), *(_cell(cell) for cell in cells)])
    name = f"audit-{day or here.today}.csv"
    return Response(
        written.getvalue(),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


def _entries(
    here: Here,
    person_id: uuid.UUID | None,
    practitioner_id: uuid.UUID | None,
    day: Day | None,
    before: int | None,
    most: int,
) -> list[Entry]:
    between = here.day_bounds(day) if day else None
    return audit.entries(here.db, person_id, practitioner_id, between, before, most)


def _shown(one: Entry) -> AuditEntry:
    row = one.row
    return AuditEntry(id=row.id, at=row.at, who=one.who, person_id=row.person_id, person=one.person, action=row.action)


def _cell(text: str) -> str:
    """A cell that a spreadsheet does not take for a formula."""
    return f"'{text}" if text.startswith(("=", "+", "-", "@", "\t", "\r")) else text
