"""Plans for home, diaries and what they reported. The database shows only the practice that the transaction named."""

import uuid
from typing import NamedTuple

from sqlalchemy import select

from acuthesis.core.message import message
from acuthesis.store.database import Db, see_practice
from acuthesis.store.links import practice_of, token_hash
from acuthesis.store.model import DiaryRow, HomeFlagRow, HomePlanRow, PersonRow
from acuthesis.store.people import NotFound


def plans(db: Db, person_id: uuid.UUID) -> list[HomePlanRow]:
    """Every plan a person was given, oldest first."""
    query = select(HomePlanRow).where(HomePlanRow.person_id == person_id)
    return list(db.scalars(query.order_by(HomePlanRow.made_at, HomePlanRow.id)))


def newest_plan(db: Db, person_id: uuid.UUID) -> HomePlanRow | None:
    """The plan that counts, or None."""
    query = select(HomePlanRow).where(HomePlanRow.person_id == person_id)
    return db.scalar(query.order_by(HomePlanRow.made_at.desc(), HomePlanRow.id).limit(1))


def diaries(db: Db, person_id: uuid.UUID) -> list[DiaryRow]:
    """Every way in to a person's diary, newest first."""
    query = select(DiaryRow).where(DiaryRow.person_id == person_id)
    return list(db.scalars(query.order_by(DiaryRow.made_at.desc(), DiaryRow.id)))


def diary(db: Db, diary_id: uuid.UUID) -> DiaryRow:
    """One of them. Raises: NotFound."""
    row = db.scalar(select(DiaryRow).where(DiaryRow.id == diary_id))
    if row is None:
        raise NotFound(message("home-there-no-such-diary-practice"), where="diary_id")
    return row


def of_code(db: Db, code: str) -> DiaryRow | None:
    """The diary that a code opens or opened, locked. From here on the transaction sees its practice."""
    practice_id = practice_of(code)
    if practice_id is None:
        return None
    see_practice(db, practice_id)
    return db.scalar(select(DiaryRow).where(DiaryRow.code_hash == token_hash(code)).with_for_update())


def of_key(db: Db, key: str) -> DiaryRow | None:
    """The diary that a device's key opens. From here on the transaction sees its practice."""
    practice_id = practice_of(key)
    if practice_id is None:
        return None
    see_practice(db, practice_id)
    return db.scalar(select(DiaryRow).where(DiaryRow.key_hash == token_hash(key)))


class Reported(NamedTuple):
    """A red flag that was reported from home, with whose it is."""

    flag: HomeFlagRow
    person: PersonRow


def open_flags(db: Db) -> list[Reported]:
    """What was reported from home and not looked after yet, oldest first."""
    query = select(HomeFlagRow, PersonRow).join(PersonRow, PersonRow.id == HomeFlagRow.person_id)
    rows = db.execute(query.where(HomeFlagRow.looked_at.is_(None)).order_by(HomeFlagRow.heard_at, HomeFlagRow.id))
    return [Reported(*row) for row in rows]


def flags_of(db: Db, person_id: uuid.UUID) -> list[HomeFlagRow]:
    """Everything that a person ever reported so, oldest first."""
    query = select(HomeFlagRow).where(HomeFlagRow.person_id == person_id)
    return list(db.scalars(query.order_by(HomeFlagRow.heard_at, HomeFlagRow.id)))


def flag(db: Db, flag_id: uuid.UUID) -> HomeFlagRow:
    """One of them, locked. Raises: NotFound."""
    row = db.scalar(select(HomeFlagRow).where(HomeFlagRow.id == flag_id).with_for_update())
    if row is None:
        raise NotFound(message("home-nothing-kind-reported-practice"), where="flag_id")
    return row
