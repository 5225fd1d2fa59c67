"""One-time links: made, looked at, used once. A link's token names its practice, as a session's does."""

import hashlib
import secrets
import uuid
from datetime import datetime, timedelta

from sqlalchemy import select, update

from acuthesis.core.message import message
from acuthesis.store.database import Db, see_practice
from acuthesis.store.model import OneTimeLinkRow
from acuthesis.store.people import NotFound

HOLDS = {"set_up": timedelta(days=7), "invitation": timedelta(days=7), "reset": timedelta(days=1)}


def token_hash(token: str) -> bytes:
    """What is kept of a token that is random."""
    return hashlib.sha256(token.encode()).digest()


def practice_of(token: str) -> uuid.UUID | None:
    """The practice a token names, or None for what is no token."""
    try:
        return uuid.UUID(hex=token.partition(".")[0])
    except ValueError:
        return None


def make(db: Db, practice_id: uuid.UUID, kind: str, now: datetime, **more: object) -> tuple[str, datetime]:
    """A new link. Returns its token, which is kept nowhere, and until when it holds."""
    token = f"{practice_id.hex}.{secrets.token_urlsafe(32)}"
    until = now + HOLDS[kind]
    see_practice(db, practice_id)
    db.add(
        OneTimeLinkRow(
            token_hash=token_hash(token), id=uuid.uuid4(), practice_id=practice_id, kind=kind, expires_at=until, **more
        )
    )
    db.flush()
    return token, until


def look(db: Db, token: str, now: datetime) -> OneTimeLinkRow | None:
    """The link of a token, as long as it holds. From here on the transaction sees its practice."""
    practice_id = practice_of(token)
    if practice_id is None:
        return None
    see_practice(db, practice_id)
    row = OneTimeLinkRow
    return db.scalar(
        select(row).where(row.token_hash == token_hash(token), row.used_at.is_(None), row.expires_at > now)
    )


def spend(db: Db, token: str, now: datetime) -> OneTimeLinkRow | None:
    """The same, and from now on it does not hold: of two who come together one gets it."""
    row = OneTimeLinkRow
    if look(db, token, now) is None:
        return None
    holds = (row.token_hash == token_hash(token)) & row.used_at.is_(None) & (row.expires_at > now)
    return db.scalar(update(row).where(holds).values(used_at=now).returning(row))


def open_invitations(db: Db, now: datetime) -> list[OneTimeLinkRow]:
    """Invitations that nobody has used yet, newest first."""
    row = OneTimeLinkRow
    query = select(row).where(row.kind == "invitation", row.used_at.is_(None), row.expires_at > now)
    return list(db.scalars(query.order_by(row.made_at.desc(), row.id)))


def withdraw(db: Db, link_id: uuid.UUID, now: datetime) -> OneTimeLinkRow:
    """A link that is not used yet holds no longer. Raises: NotFound."""
    row = OneTimeLinkRow
    found: OneTimeLinkRow | None = db.scalar(
        update(row)
        .where(row.id == link_id, row.kind == "invitation", row.used_at.is_(None))
        .values(used_at=now)
        .returning(row)
    )
    if found is None:
        raise NotFound(message("links-there-no-such-invitation-practice"), where="link_id")
    return found


def withdraw_resets(db: Db, practitioner_id: uuid.UUID, now: datetime) -> None:
    """Links to a new password for somebody hold no longer."""
    row = OneTimeLinkRow
    db.execute(update(row).where(row.practitioner_id == practitioner_id, row.used_at.is_(None)).values(used_at=now))
