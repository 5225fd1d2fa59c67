"""Who may come in: passwords, signed-in browsers, and the limit on trying."""

import hashlib
import secrets
import uuid
from dataclasses import dataclass
from datetime import datetime, timedelta

from pwdlib import PasswordHash
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from acuthesis.store.model import AuthSessionRow, PracticeRow, PractitionerRow, SignInAttemptRow

PASSWORDS = PasswordHash.recommended()  # Argon2id
# Checked when no such practitioner exists, so that a wrong name takes as long as a wrong password.
NOBODY = PASSWORDS.hash(secrets.token_hex(16))


@dataclass(frozen=True)
class SignedIn:
    """A fresh session: the token goes into the cookie, the CSRF value into the page."""

    token: str
    csrf: str
    practitioner: PractitionerRow


def _token_hash(token: str) -> bytes:
    return hashlib.sha256(token.encode()).digest()


def add_practice(session: Session, name: str) -> PracticeRow:
    """A new practice."""
    practice = PracticeRow(id=uuid.uuid4(), name=name)
    session.add(practice)
    session.flush()
    return practice


def add_practitioner(session: Session, practice_id: uuid.UUID, name: str, email: str, password: str) -> PractitionerRow:
    """A new practitioner of a practice."""
    row = PractitionerRow(
        id=uuid.uuid4(), practice_id=practice_id, name=name, email=email.lower(), password_hash=PASSWORDS.hash(password)
    )
    session.add(row)
    session.flush()
    return row


def too_many_tries(session: Session, key: str, tries: int, window: timedelta, now: datetime) -> bool:
    """Whether a name has failed so often lately that it has to wait."""
    since = now - window
    count = session.scalar(
        select(func.count())
        .select_from(SignInAttemptRow)
        .where(SignInAttemptRow.key == key, SignInAttemptRow.at > since)
    )
    return (count or 0) >= tries


def note_failed_try(session: Session, key: str) -> None:
    """Remember a failed attempt."""
    session.add(SignInAttemptRow(key=key))


def check_password(session: Session, email: str, password: str) -> PractitionerRow | None:
    """The practitioner with this name and password, or None."""
    row = session.scalar(select(PractitionerRow).where(PractitionerRow.email == email.strip().lower()))
    right = PASSWORDS.verify(password, row.password_hash if row else NOBODY)
    return row if right else None


def open_session(session: Session, practitioner: PractitionerRow, now: datetime, hours: int) -> SignedIn:
    """Sign a practitioner in; old sessions and old attempts are swept out on the way."""
    session.execute(delete(AuthSessionRow).where(AuthSessionRow.expires_at < now))
    session.execute(delete(SignInAttemptRow).where(SignInAttemptRow.key == practitioner.email))
    token, csrf = secrets.token_urlsafe(32), secrets.token_urlsafe(24)
    session.add(
        AuthSessionRow(
            token_hash=_token_hash(token),
            practitioner_id=practitioner.id,
            csrf=csrf,
            expires_at=now + timedelta(hours=hours),
        )
    )
    return SignedIn(token, csrf, practitioner)


def find_session(session: Session, token: str, now: datetime) -> tuple[AuthSessionRow, PractitionerRow] | None:
    """The session a token opens, with its practitioner; None if it does not exist or has expired."""
    found = session.execute(
        select(AuthSessionRow, PractitionerRow)
        .join(PractitionerRow, PractitionerRow.id == AuthSessionRow.practitioner_id)
        .where(AuthSessionRow.token_hash == _token_hash(token), AuthSessionRow.expires_at > now)
    ).one_or_none()
    return None if found is None else (found[0], found[1])


def close_session(session: Session, token: str) -> None:
    """Sign a browser out."""
    session.execute(delete(AuthSessionRow).where(AuthSessionRow.token_hash == _token_hash(token)))
