"""Screens of people during a treatment: found by a code before the practice is known, then by a key."""

import uuid
from datetime import datetime

from sqlalchemy import select, text, update

from acuthesis.store.database import Db, see_practice
from acuthesis.store.links import practice_of, token_hash
from acuthesis.store.model import OwnSayRow


def of_visit(db: Db, visit_id: uuid.UUID) -> OwnSayRow | None:
    """The screen of a visit that has not ended, if there is one."""
    query = select(OwnSayRow).where(OwnSayRow.visit_id == visit_id, OwnSayRow.ended_at.is_(None))
    return db.scalar(query.order_by(OwnSayRow.made_at.desc()).limit(1))


def end(db: Db, visit_id: uuid.UUID, now: datetime) -> None:
    """Whatever screens a visit has end, and their codes are free again."""
    running = (OwnSayRow.visit_id == visit_id) & OwnSayRow.ended_at.is_(None)
    db.execute(update(OwnSayRow).where(running).values(ended_at=now, code_hash=None))


def of_code(db: Db, code: str) -> OwnSayRow | None:
    """The screen that a code opens, locked. From here on the transaction sees its practice."""
    found: uuid.UUID | None = db.scalar(text("SELECT own_say_lookup(:code)"), {"code": token_hash(code)})
    if found is None:
        return None
    see_practice(db, found)
    return db.scalar(select(OwnSayRow).where(OwnSayRow.code_hash == token_hash(code)).with_for_update())


def is_free(db: Db, code: str) -> bool:
    """Whether no screen anywhere waits for this code."""
    return db.scalar(text("SELECT own_say_lookup(:code)"), {"code": token_hash(code)}) is None


def of_key(db: Db, key: str) -> OwnSayRow | None:
    """The screen that a device's key opens. From here on the transaction sees its practice."""
    practice_id = practice_of(key)
    if practice_id is None:
        return None
    see_practice(db, practice_id)
    return db.scalar(select(OwnSayRow).where(OwnSayRow.key_hash == token_hash(key)))
