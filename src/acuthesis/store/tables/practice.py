"""Tables of the practice, its staff, and their access."""

import secrets
import uuid
from datetime import datetime
from typing import Any

from sqlalchemy import (
    BigInteger,
    CheckConstraint,
    ForeignKey,
    Identity,
    Index,
    LargeBinary,
    UniqueConstraint,
    func,
    text,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from acuthesis.store.sealed import SealedBytes, SealedText
from acuthesis.store.tables.base import Base, practitioner_key


class PracticeRow(Base):
    """A practice: the people in it see each other's work, nobody else does."""

    __tablename__ = "practice"
    __table_args__ = (CheckConstraint("idle_minutes BETWEEN 5 AND 720", name="idle_minutes"),)

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    name: Mapped[str]
    local_rules: Mapped[str] = mapped_column(server_default="")
    emergency: Mapped[str] = mapped_column(server_default="")  # whom to call where they work, and how
    quick_words: Mapped[list[str]] = mapped_column(JSONB, server_default=text("'[]'::jsonb"))  # notes in one touch
    time_zone: Mapped[str] = mapped_column(server_default="UTC")  # IANA name: what "today" is here
    # When they work: from and to ("09:00") by day of the week, 0 for Monday; a day that is missing is free.
    hours: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'::jsonb"))
    second_factor_required: Mapped[bool] = mapped_column(server_default=text("false"))
    idle_minutes: Mapped[int] = mapped_column(server_default="30")  # a session that does nothing for so long has ended
    own_people_only: Mapped[bool] = mapped_column(server_default=text("false"))  # others' records ask for a reason
    earlier_people: Mapped[bool] = mapped_column(server_default=text("false"))  # weigh in beside an outcome (pooled.py)
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class PractitionerRow(Base):
    """Somebody who works here; without a password, only a name on what they did: from a record, or they left."""

    __tablename__ = "practitioner"
    __table_args__ = (
        UniqueConstraint("id", "practice_id"),
        CheckConstraint("theme IN ('auto', 'light', 'dim')", name="theme"),
        CheckConstraint("lock_minutes BETWEEN 1 AND 120", name="lock_minutes"),
        CheckConstraint("(email IS NULL) = (password_hash IS NULL)", name="account"),
        CheckConstraint("role IN ('owner', 'practitioner', 'helper', 'reader')", name="role"),
        CheckConstraint("usual_minutes BETWEEN 3 AND 240", name="usual_minutes"),
        CheckConstraint("closed_at IS NULL OR email IS NULL", name="closed"),
        Index(None, "practice_id"),
    )

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    practice_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("practice.id"))
    name: Mapped[str]
    email: Mapped[str | None] = mapped_column(unique=True)
    password_hash: Mapped[str | None]
    role: Mapped[str] = mapped_column(server_default="practitioner")
    closed_at: Mapped[datetime | None]
    # The second factor: its secret from the moment it is offered, and since when it has been in use.
    totp_secret: Mapped[str | None] = mapped_column(SealedText)
    totp_since: Mapped[datetime | None]
    totp_last_step: Mapped[int] = mapped_column(BigInteger, server_default="0")  # no code counts twice
    wrong_codes: Mapped[int] = mapped_column(server_default="0")  # in a row, each after the right password
    codes_stopped_at: Mapped[datetime | None]  # too many of them: codes count no more
    pin_hash: Mapped[str | None]  # of the short PIN that unlocks a screen
    wrong_pins: Mapped[int] = mapped_column(server_default="0")
    recovery_hashes: Mapped[list[Any]] = mapped_column(JSONB, server_default=text("'[]'::jsonb"))
    calendar_hash: Mapped[bytes | None] = mapped_column(LargeBinary, unique=True)
    calendar_names: Mapped[bool] = mapped_column(server_default=text("false"))
    # How they work: schools they begin with (none: all), minutes of a visit, which names of points they want to see.
    schools: Mapped[list[Any]] = mapped_column(JSONB, server_default=text("'[]'::jsonb"))
    usual_minutes: Mapped[int] = mapped_column(server_default="45")
    name_languages: Mapped[list[Any]] = mapped_column(
        JSONB, server_default=text("""'["english", "romanised", "characters"]'::jsonb""")
    )
    fingers: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'::jsonb"))
    scale_g: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'::jsonb"))
    theme: Mapped[str] = mapped_column(server_default="auto")
    lock_minutes: Mapped[int] = mapped_column(server_default="10")
    # Seals what waits on this practitioner's devices; given back at every sign-in, so it is random and never changes.
    device_key: Mapped[bytes] = mapped_column(SealedBytes, default=lambda: secrets.token_bytes(32))


class OneTimeLinkRow(Base):
    """A link that works once: to set a practice up, to join one, to choose a new password. Only its hash is kept.

    `practice_id` of a link to set up is the id that the practice will have: there is none yet.
    """

    __tablename__ = "one_time_link"
    __table_args__ = (
        CheckConstraint("kind IN ('set_up', 'invitation', 'reset')", name="kind"),
        CheckConstraint("role IN ('owner', 'practitioner', 'helper', 'reader')", name="role"),
        UniqueConstraint("id"),
        Index(None, "practice_id"),
    )

    token_hash: Mapped[bytes] = mapped_column(LargeBinary, primary_key=True)
    id: Mapped[uuid.UUID] = mapped_column(default=uuid.uuid4)
    practice_id: Mapped[uuid.UUID]
    kind: Mapped[str]
    role: Mapped[str | None]
    name: Mapped[str] = mapped_column(server_default="")
    email: Mapped[str] = mapped_column(server_default="")
    practitioner_id: Mapped[uuid.UUID | None]  # whose password a reset is for
    made_by: Mapped[uuid.UUID | None]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    expires_at: Mapped[datetime]
    used_at: Mapped[datetime | None]


class PlaceRow(Base):
    """A place where people are treated. One that is no longer used stays with the visits that were there."""

    __tablename__ = "place"
    __table_args__ = (UniqueConstraint("id", "practice_id"), UniqueConstraint("practice_id", "name"))

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    practice_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("practice.id"))
    version: Mapped[int] = mapped_column(server_default="1")
    name: Mapped[str]
    address: Mapped[str] = mapped_column(server_default="")
    archived_at: Mapped[datetime | None]


class AuthSessionRow(Base):
    """A signed-in browser; only a hash of its token is kept."""

    __tablename__ = "auth_session"
    __table_args__ = (practitioner_key("practitioner_id"), UniqueConstraint("id"), Index(None, "practitioner_id"))

    token_hash: Mapped[bytes] = mapped_column(LargeBinary, primary_key=True)
    id: Mapped[uuid.UUID] = mapped_column(default=uuid.uuid4)
    practice_id: Mapped[uuid.UUID]
    practitioner_id: Mapped[uuid.UUID]
    device: Mapped[str] = mapped_column(server_default="")  # browser and system, in words
    address: Mapped[str] = mapped_column(server_default="")  # from which it was opened
    covered_at: Mapped[datetime | None]  # locked: it reads nothing until it is unlocked
    seen_at: Mapped[datetime] = mapped_column(server_default=func.now())
    csrf: Mapped[str]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    expires_at: Mapped[datetime]


class DeviceRow(Base):
    """A browser that somebody has signed in with, known by a cookie of its own; only its hash is stored."""

    __tablename__ = "device"
    __table_args__ = (practitioner_key("practitioner_id"), Index(None, "practitioner_id"))

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    practice_id: Mapped[uuid.UUID]
    practitioner_id: Mapped[uuid.UUID]
    token_hash: Mapped[bytes] = mapped_column(LargeBinary, unique=True)
    name: Mapped[str] = mapped_column(server_default="")
    first_seen_at: Mapped[datetime] = mapped_column(server_default=func.now())
    last_seen_at: Mapped[datetime] = mapped_column(server_default=func.now())


class NoticeRow(Base):
    """Something about an account that its owner has to hear of: a new device, a changed factor or password."""

    __tablename__ = "notice"
    __table_args__ = (
        practitioner_key("practitioner_id"),
        CheckConstraint(
            "kind IN ('new_device', 'factor_on', 'factor_off', 'passkey_added', 'passkey_removed', 'codes_stopped', "
            "'password_changed', 'pin_set')",
            name="kind",
        ),
        Index(None, "practitioner_id"),
    )

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    practice_id: Mapped[uuid.UUID]
    practitioner_id: Mapped[uuid.UUID]
    session_id: Mapped[uuid.UUID | None]  # in which it was done: that one cannot dismiss it
    kind: Mapped[str]
    device: Mapped[str] = mapped_column(server_default="")
    address: Mapped[str] = mapped_column(server_default="")
    at: Mapped[datetime] = mapped_column(server_default=func.now())
    seen_at: Mapped[datetime | None]


class PasskeyRow(Base):
    """A passkey of an account: its public key, and how often it has signed."""

    __tablename__ = "passkey"
    __table_args__ = (practitioner_key("practitioner_id"), Index(None, "practitioner_id"))

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    practice_id: Mapped[uuid.UUID]
    practitioner_id: Mapped[uuid.UUID]
    credential_id: Mapped[bytes] = mapped_column(LargeBinary, unique=True)
    public_key: Mapped[bytes] = mapped_column(LargeBinary)
    sign_count: Mapped[int] = mapped_column(BigInteger, server_default="0")
    name: Mapped[str] = mapped_column(server_default="")
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    used_at: Mapped[datetime | None]


class AnsweredChallengeRow(Base):
    """A challenge for a passkey that has been answered: it counts once. Rows go when the challenge has ended."""

    __tablename__ = "answered_challenge"

    hash: Mapped[bytes] = mapped_column(LargeBinary, primary_key=True)
    until: Mapped[datetime]


class SignInAttemptRow(Base):
    """An attempt to sign in, for the limit: a hash of the name that was given, and from where.

    Failures are kept as long as they count; of successes the last one, because an address that somebody has signed in
    from is not a stranger's.
    """

    __tablename__ = "sign_in_attempt"
    __table_args__ = (Index(None, "key", "at"), Index(None, "address", "at"))

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    key: Mapped[str]
    address: Mapped[str] = mapped_column(server_default="")
    succeeded: Mapped[bool] = mapped_column(server_default=text("false"))
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class AuditRow(Base):
    """Who read or wrote a person's record, and when.

    The database sets the time, and when the transaction commits the number and a hash over this row and the hash before
    it (migration 0013): a row that is changed or removed later breaks the chain.
    """

    __tablename__ = "audit"
    __table_args__ = (
        practitioner_key("practitioner_id"),
        Index(None, "practice_id", "at"),
        UniqueConstraint("practice_id", "number"),
    )

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    practice_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("practice.id"))
    practitioner_id: Mapped[uuid.UUID | None]
    person_id: Mapped[uuid.UUID | None] = mapped_column(index=True)  # outlives the person: that they were erased, too
    action: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=func.now())
    address: Mapped[str] = mapped_column(server_default="")
    device: Mapped[str] = mapped_column(server_default="")
    reason: Mapped[str] = mapped_column(server_default="")  # given for looking at somebody whom they do not treat
    number: Mapped[int | None] = mapped_column(BigInteger)
    hash: Mapped[bytes | None] = mapped_column(LargeBinary)
