"""Accounts: passwords, browser sessions, devices, and limits on sign-in attempts."""

import hashlib
import secrets
import uuid
from dataclasses import dataclass
from datetime import datetime, timedelta

from pwdlib import PasswordHash
from sqlalchemy import case, delete, func, select, text, update
from sqlalchemy.orm.attributes import flag_modified

from acuthesis.core.errors import CoreError
from acuthesis.core.message import message
from acuthesis.store.database import Db, see_practice
from acuthesis.store.links import token_hash
from acuthesis.store.model import (
    AuthSessionRow,
    DeviceRow,
    PasskeyRow,
    PracticeRow,
    PractitionerRow,
    SignInAttemptRow,
    VisitRow,
)
from acuthesis.store.people import NotFound

PASSWORDS = PasswordHash.recommended()  # Argon2id
# Checked when no such practitioner exists, so that a wrong name takes as long as a wrong password.
NOBODY = PASSWORDS.hash(secrets.token_hex(16))
SEEN_EVERY = timedelta(minutes=1)  # how exactly it is known when a browser was last used
RUNS_FOR = timedelta(hours=14)  # a treatment that is still open after so long was forgotten
KNOWN_FOR = timedelta(days=180)  # an address that somebody signed in from is not a stranger's for so long


@dataclass(frozen=True)
class FreshSession:
    """A fresh session: the token goes into the cookie, the CSRF value into the page."""

    token: str
    csrf: str
    row: AuthSessionRow


@dataclass(frozen=True)
class TryLimits:
    """How many failures stop further tries within a window: of a name from one address, of one address, and of a name
    from addresses that nobody with that name ever signed in from."""

    window: timedelta = timedelta(minutes=5)
    of_name_here: int = 8
    of_address: int = 60
    of_name_elsewhere: int = 100


@dataclass(frozen=True)
class Account:
    """What signing in needs to know of a practitioner before any practice is in sight."""

    practitioner_id: uuid.UUID
    practice_id: uuid.UUID
    password_hash: str


def add_practice(db: Db, name: str, time_zone: str = "UTC", id: uuid.UUID | None = None) -> PracticeRow:
    """A new practice; from here on the transaction sees it."""
    practice = PracticeRow(id=id or uuid.uuid4(), name=name, time_zone=time_zone)
    see_practice(db, practice.id)
    db.add(practice)
    db.flush()
    return practice


def add_practitioner(
    db: Db, practice_id: uuid.UUID, name: str, email: str, password: str, role: str = "owner"
) -> PractitionerRow:
    """A new practitioner of a practice.

    Raises: CoreError if somebody signs in with this email already.
    """
    if account(db, email) is not None:
        raise CoreError(message("staff-email-already-used-another-account"), where="email")
    row = PractitionerRow(
        id=uuid.uuid4(),
        practice_id=practice_id,
        name=name,
        email=email.strip().lower(),
        password_hash=PASSWORDS.hash(password),
        role=role,
    )
    db.add(row)
    db.flush()
    return row


def account(db: Db, email: str) -> Account | None:
    """The account with this name in whatever practice, or None. The only look over the wall between practices."""
    found = db.execute(text("SELECT * FROM sign_in_lookup(:email)"), {"email": email.strip().lower()}).one_or_none()
    return None if found is None else Account(found.practitioner_id, found.practice_id, found.password_hash)


def _key(email: str) -> str:
    return hashlib.sha256(email.encode()).hexdigest()


def too_many_tries(db: Db, email: str, address: str, limits: TryLimits, now: datetime) -> bool:
    """Whether a try has to wait.

    A name is limited address by address, so that strangers cannot lock its owner out; over all strange addresses it is
    limited too, which addresses that the name has been signed in from before do not feel.
    """
    row, key = SignInAttemptRow, _key(email)
    lately = (row.at > now - limits.window) & ~row.succeeded
    counted = db.execute(
        select(
            func.count(case((lately & (row.key == key) & (row.address == address), 1))),
            func.count(case((lately & (row.address == address), 1))),
            func.count(case((lately & (row.key == key) & (row.address != address), 1))),
            func.count(case((row.succeeded & (row.key == key) & (row.address == address), 1))),
        ).where((row.key == key) | (row.address == address))
    ).one()
    of_name_here, of_address, of_name_elsewhere, known = counted
    attacked = of_name_elsewhere >= limits.of_name_elsewhere and not known
    return of_name_here >= limits.of_name_here or of_address >= limits.of_address or attacked


def count_try(db: Db, email: str, address: str, limits: TryLimits, now: datetime) -> int | None:
    """Count a try as a failure until it proves to be none, and sweep out what no longer counts.

    Returns its id; None where it has to wait. Tries of one name, and of one address, are counted one after the other,
    so that many at once cannot all pass before the first is counted.
    """
    row, key = SignInAttemptRow, _key(email)
    for whose in sorted((f"name {key}", f"address {address}")):
        db.execute(select(func.pg_advisory_xact_lock(func.hashtextextended(whose, 0))))
    if too_many_tries(db, email, address, limits, now):
        return None
    db.execute(delete(row).where(~row.succeeded, row.at < now - limits.window))
    db.execute(delete(row).where(row.succeeded, row.at < now - KNOWN_FOR))
    counted = SignInAttemptRow(key=key, address=address, succeeded=False, at=now)
    db.add(counted)
    db.flush()
    return counted.id


def forgive_tries(db: Db, email: str, address: str, now: datetime) -> None:
    """A try has succeeded: own slips are forgiven, and one success an address is enough to know it by."""
    row, key = SignInAttemptRow, _key(email)
    db.execute(delete(row).where(row.key == key, row.address == address))
    db.add(SignInAttemptRow(key=key, address=address, succeeded=True, at=now))


def take_back_try(db: Db, counted: int) -> None:
    """A try that was counted was none."""
    db.execute(delete(SignInAttemptRow).where(SignInAttemptRow.id == counted))


def is_password(found: Account | None, password: str) -> tuple[bool, str | None]:
    """Whether the password is right, and its new hash where the old one was made with weaker parameters."""
    right, renewed = PASSWORDS.verify_and_update(password, found.password_hash if found else NOBODY)
    return right and found is not None, renewed if right and found else None


def practitioner(db: Db, practitioner_id: uuid.UUID, lock: bool = False) -> PractitionerRow:
    """A practitioner of the practice in sight; with `lock` nobody else changes them until the transaction ends."""
    return db.get_one(PractitionerRow, practitioner_id, with_for_update=lock or None)


def colleague(db: Db, practitioner_id: uuid.UUID, lock: bool = False) -> PractitionerRow:
    """A practitioner of the practice in sight. Raises: NotFound."""
    query = select(PractitionerRow).where(PractitionerRow.id == practitioner_id)
    row = db.scalar(query.with_for_update() if lock else query)
    if row is None:
        raise NotFound(message("access-no-one-practice-id"), where="practitioner_id")
    return row


def owners(db: Db) -> list[PractitionerRow]:
    """The owners of the practice in sight whose accounts are open."""
    row = PractitionerRow
    query = select(row).where(row.role == "owner", row.email.is_not(None)).with_for_update()
    return list(db.scalars(query))


def someone_is_here(owner_session: Db) -> bool:
    """Whether any practice has somebody in it: asked by the owner of the tables, who sees the accounts of all."""
    return owner_session.scalar(select(PractitionerRow.id).limit(1)) is not None


def practitioners(db: Db) -> list[PractitionerRow]:
    """Everybody who works or worked in the practice, by name."""
    return list(db.scalars(select(PractitionerRow).order_by(PractitionerRow.name, PractitionerRow.id)))


def open_session(
    db: Db, practitioner: PractitionerRow, now: datetime, hours: int, device: str = "", address: str = ""
) -> FreshSession:
    """Sign a practitioner in; the practice's old sessions are swept out on the way.

    The token says which practice it opens: its session can then be looked up behind the wall.
    """
    db.execute(delete(AuthSessionRow).where(AuthSessionRow.expires_at < now))
    token = f"{practitioner.practice_id.hex}.{secrets.token_urlsafe(32)}"
    csrf = secrets.token_urlsafe(24)
    row = AuthSessionRow(
        token_hash=token_hash(token),
        practice_id=practitioner.practice_id,
        practitioner_id=practitioner.id,
        device=device,
        address=address,
        seen_at=now,
        csrf=csrf,
        expires_at=now + timedelta(hours=hours),
    )
    db.add(row)
    db.flush()
    return FreshSession(token, csrf, row)


def recognise_device(db: Db, practitioner: PractitionerRow, token: str, name: str, now: datetime) -> tuple[str, bool]:
    """The browser that somebody signs in with: its token (a new one where it has none), and whether it is new to an
    account that was used in another before."""
    row = DeviceRow
    mine = select(row).where(row.practitioner_id == practitioner.id)
    known = db.scalar(mine.where(row.token_hash == token_hash(token))) if token else None
    if known is not None:
        known.last_seen_at = now
        return token, False
    is_new = db.scalar(select(mine.exists())) or False
    made = secrets.token_urlsafe(32)
    db.add(
        DeviceRow(
            practice_id=practitioner.practice_id,
            practitioner_id=practitioner.id,
            token_hash=token_hash(made),
            name=name,
            first_seen_at=now,
            last_seen_at=now,
        )
    )
    return made, is_new


def uncover(db: Db, session_id: uuid.UUID) -> None:
    """A session reads again."""
    db.execute(update(AuthSessionRow).where(AuthSessionRow.id == session_id).values(covered_at=None))


def _is_idle(db: Db, opened: AuthSessionRow, practice: PracticeRow, now: datetime) -> bool:
    """Whether a session has done nothing for longer than the practice allows, and no treatment of theirs is running."""
    if now - opened.seen_at <= timedelta(minutes=practice.idle_minutes):
        return False
    row = VisitRow
    running = (row.practitioner_id == opened.practitioner_id) & (row.treatment == "open")
    return db.scalar(select(row.id).where(running, row.starts_at > now - RUNS_FOR).limit(1)) is None


def find_session(
    db: Db, token: str, now: datetime, acts: bool = True
) -> tuple[AuthSessionRow, PractitionerRow, PracticeRow] | None:
    """The session a token opens, with its practitioner and practice; None if there is none, or it expired or was idle.

    From here on the transaction sees that practice. `acts`: somebody does something, so it is not idle from now on.
    """
    try:
        practice_id = uuid.UUID(hex=token.partition(".")[0])
    except ValueError:
        return None
    see_practice(db, practice_id)
    found = db.execute(
        select(AuthSessionRow, PractitionerRow, PracticeRow)
        .join(PractitionerRow, PractitionerRow.id == AuthSessionRow.practitioner_id)
        .join(PracticeRow, PracticeRow.id == AuthSessionRow.practice_id)
        .where(AuthSessionRow.token_hash == token_hash(token), AuthSessionRow.expires_at > now)
    ).one_or_none()
    if found is None or _is_idle(db, found[0], found[2], now):
        return None
    if acts and now - found[0].seen_at > SEEN_EVERY:
        found[0].seen_at = now
    return found[0], found[1], found[2]


def has_passkey(db: Db, practitioner_id: uuid.UUID) -> bool:
    """Whether an account of the practice in sight has a passkey."""
    return db.scalar(select(PasskeyRow.id).where(PasskeyRow.practitioner_id == practitioner_id).limit(1)) is not None


def is_open(db: Db, session_id: uuid.UUID, now: datetime) -> bool:
    """Whether a session of the practice in sight exists and has not expired."""
    row = AuthSessionRow
    return db.scalar(select(row.id).where(row.id == session_id, row.expires_at > now)) is not None


def sessions_of(db: Db, practitioner_id: uuid.UUID, now: datetime) -> list[AuthSessionRow]:
    """The browsers that a practitioner is signed in with, the one used last first."""
    row = AuthSessionRow
    query = select(row).where(row.practitioner_id == practitioner_id, row.expires_at > now)
    return list(db.scalars(query.order_by(row.seen_at.desc(), row.id)))


def end_sessions(
    db: Db, practitioner_id: uuid.UUID, only: uuid.UUID | None = None, but: uuid.UUID | None = None
) -> int:
    """Sign a practitioner out: everywhere, of one browser alone, or everywhere but in one. Returns of how many."""
    row = AuthSessionRow
    ended = delete(row).where(row.practitioner_id == practitioner_id)
    if only is not None:
        ended = ended.where(row.id == only)
    if but is not None:
        ended = ended.where(row.id != but)
    return len(db.scalars(ended.returning(row.id)).all())


def close_session(db: Db, token: str) -> None:
    """Sign a browser out."""
    db.execute(delete(AuthSessionRow).where(AuthSessionRow.token_hash == token_hash(token)))


def reseal(db: Db) -> int:
    """Encrypt the secrets of all accounts of the practice in sight with the newest key. Returns how many there are."""
    rows = db.scalars(select(PractitionerRow)).all()
    for row in rows:
        if row.device_key:  # where no key fits, what is stored stays: the key may come back
            flag_modified(row, "device_key")
        if row.totp_secret is not None:
            flag_modified(row, "totp_secret")
    db.flush()
    return len(rows)
