"""Diary access links, and the red flags that were reported from home."""

import secrets
import uuid
from datetime import date, datetime, timedelta
from typing import Literal

import segno
from pydantic import BaseModel

from acuthesis.core.errors import CoreError, NotAllowed, OutOfRange
from acuthesis.core.follow.diary import Asks
from acuthesis.core.message import message
from acuthesis.core.safety.screening import questions
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.store import home as store
from acuthesis.store.links import token_hash
from acuthesis.store.model import DiaryRow

CODE_HOLDS = timedelta(days=7)
LONGEST = timedelta(days=366)


class DiaryOut(BaseModel):
    """A way in to somebody's diary: what it asks, until when, and what came of it."""

    id: uuid.UUID
    asks: Asks
    until: date
    made_by: str
    made_at: datetime
    state: Literal["waiting", "open", "ended"]
    opened_at: datetime | None
    heard_at: datetime | None


class FlagOut(BaseModel):
    """A red flag that was reported from home: whose, what, when, and whom it concerns at once."""

    id: uuid.UUID
    person_id: uuid.UUID
    given_name: str
    family_name: str
    phone: str
    words: str
    emergency: bool
    said_at: datetime
    heard_at: datetime


def make(here: Here, person_id: uuid.UUID, id: uuid.UUID, until: date, asks: Asks) -> tuple[DiaryRow, str]:
    """A new way in. Returns its row and the code, which is kept nowhere.

    Raises: NotFound; OutOfRange for a last day that cannot be; CoreError for a complaint of somebody else's.
    """
    known = here.person(person_id)
    if not here.today <= until <= here.today + LONGEST:
        raise OutOfRange(message("diary-links-end-date-must-today-or"), where="until")
    own = {row.id for row in known.open_complaints}
    for asked in (*asks.complaints, *asks.episodes):
        if asked not in own:
            raise CoreError(message("diary-links-person-no-such-open-complaint"), where="asks.complaints")
    if here.db.get(DiaryRow, id) is not None:
        raise CoreError(message("diary-links-diary-already-been-created-create"), where="id")
    code = f"{here.practice_id.hex}.{secrets.token_urlsafe(24)}"
    row = DiaryRow(
        id=id,
        practice_id=here.practice_id,
        person_id=known.id,
        code_hash=token_hash(code),
        code_until=now() + CODE_HOLDS,
        asks=asks.model_dump(mode="json"),
        until=until,
        made_by=here.practitioner.id,
        made_at=now(),
        told=0,
    )
    here.db.add(row)
    here.audit(known.id, "diary opened")
    here.db.flush()
    return row, code


def qr_of(address: str) -> str:
    """An address as a picture to photograph: an SVG document."""
    return str(segno.make(address, error="m").svg_inline(scale=4, dark="#1c1d1f", light="#ffffff", border=3))


def of_person(here: Here, person_id: uuid.UUID) -> list[DiaryOut]:
    """Every way in to a person's diary. Raises: NotFound."""
    known = here.person(person_id, "diaries")
    return [diary_out(here, row) for row in store.diaries(here.db, known.id)]


def diary_out(here: Here, row: DiaryRow) -> DiaryOut:
    """One of them, as the practice sees it."""
    names = {colleague.id: colleague.name for colleague in here.colleagues}
    over = row.ended_at is not None or row.until < here.today or (row.opened_at is None and row.code_until < now())
    return DiaryOut(
        id=row.id,
        asks=Asks.model_validate(row.asks),
        until=row.until,
        made_by=names[row.made_by],
        made_at=row.made_at,
        state="ended" if over else "waiting" if row.opened_at is None else "open",
        opened_at=row.opened_at,
        heard_at=row.heard_at,
    )


def end(here: Here, diary_id: uuid.UUID) -> DiaryRow:
    """End a diary at once: nothing comes in any more, and the device forgets it. Raises: NotFound."""
    row = store.diary(here.db, diary_id)
    row.ended_at = row.ended_at or now()
    here.audit(row.person_id, "diary ended")
    here.db.flush()
    return row


def open_flags(here: Here) -> list[FlagOut]:
    """Red flags from home that nobody has looked after yet, the oldest first."""
    here.reads(None, "reports from home")
    found = [flag for flag in store.open_flags(here.db) if here.may_list(flag.person.id)]
    for one in found:
        here.reads(one.person.id, "report from home")
    asked = questions()
    return [
        FlagOut(
            id=flag.id,
            person_id=person.id,
            given_name=person.given_name,
            family_name=person.family_name,
            phone=person.phone,
            words=asked[flag.question].ask,
            emergency=asked[flag.question].severity == "emergency",
            said_at=flag.said_at,
            heard_at=flag.heard_at,
        )
        for flag, person in found
    ]


def look_after(here: Here, flag_id: uuid.UUID, words: str) -> None:
    """Note that somebody looked after a red flag. The screening keeps it until it is answered anew.

    Raises: NotFound; CoreError where nothing is said of what came of it; NotAllowed where it was looked after before.
    """
    row = store.flag(here.db, flag_id)
    if row.looked_at is not None:
        raise NotAllowed(message("diary-links-already-been-dealt-with"), where="flag_id")
    if not words.strip():
        raise CoreError(message("diary-links-enter-action-taken"), where="words")
    row.looked_at, row.looked_by, row.words = now(), here.practitioner.id, words.strip()
    here.audit(row.person_id, "report from home dealt with")
    here.db.flush()
