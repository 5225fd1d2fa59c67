"""Security notices, shown to the owner of an account at the next sign-in (new device, changed factor or password)."""

import uuid
from datetime import datetime, timedelta
from typing import Literal

from pydantic import BaseModel
from sqlalchemy import select

from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.store.database import Db
from acuthesis.store.model import AuthSessionRow, NoticeRow, PractitionerRow

NoticeKind = Literal[
    "new_device",
    "factor_on",
    "factor_off",
    "passkey_added",
    "passkey_removed",
    "codes_stopped",
    "password_changed",
    "pin_set",
]
LISTED_FOR = timedelta(days=90)


class Notice(BaseModel):
    """A security notice. `unseen`: it was not dismissed yet, and was caused from another session than this one."""

    id: uuid.UUID
    kind: NoticeKind
    device: str
    address: str
    at: datetime
    unseen: bool


def add(db: Db, practitioner: PractitionerRow, kind: NoticeKind, by: AuthSessionRow | None = None) -> None:
    """Note something for the owner of an account; `by` is the session in which it was done, if any."""
    db.add(
        NoticeRow(
            practice_id=practitioner.practice_id,
            practitioner_id=practitioner.id,
            session_id=by.id if by else None,
            kind=kind,
            device=by.device if by else "",
            address=by.address if by else "",
        )
    )


def of(here: Here) -> list[Notice]:
    """The notices of whoever is signed in, newest first, of the last three months."""
    row = NoticeRow
    query = select(row).where(row.practitioner_id == here.practitioner.id, row.at > now() - LISTED_FOR)
    return [
        Notice(
            id=found.id,
            kind=found.kind,
            device=found.device,
            address=found.address,
            at=found.at,
            unseen=found.seen_at is None and found.session_id != here.browser.id,
        )
        for found in here.db.scalars(query.order_by(row.at.desc(), row.id))
    ]


def dismiss(here: Here) -> None:
    """Whoever is signed in has seen them; a session cannot dismiss what was done in itself."""
    for found in here.db.scalars(
        select(NoticeRow).where(NoticeRow.practitioner_id == here.practitioner.id, NoticeRow.seen_at.is_(None))
    ):
        if found.session_id != here.browser.id:
            found.seen_at = now()
