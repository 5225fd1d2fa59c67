"""The tables. Everything about a person carries its practice, and the database itself keeps practices apart (row-level
security, see the first migration); what is recorded of a treatment is only ever added."""

import secrets
import uuid
from datetime import date, datetime
from typing import Any, ClassVar

from sqlalchemy import (
    BigInteger,
    CheckConstraint,
    DateTime,
    ForeignKey,
    ForeignKeyConstraint,
    Identity,
    Index,
    LargeBinary,
    MetaData,
    UniqueConstraint,
    func,
    text,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, declared_attr, mapped_column

# One rule for every name: what it is, the table, its columns; a check has a word in place of the columns.
NAMING = {
    "ix": "ix_%(table_name)s_%(column_0_N_name)s",
    "uq": "uq_%(table_name)s_%(column_0_N_name)s",
    "ck": "ck_%(table_name)s_%(constraint_name)s",
    "fk": "fk_%(table_name)s_%(column_0_N_name)s",
    "pk": "pk_%(table_name)s",
}


class Base(DeclarativeBase):
    """Base of all tables."""

    metadata = MetaData(naming_convention=NAMING)
    type_annotation_map: ClassVar = {datetime: DateTime(timezone=True), dict[str, Any]: JSONB}


class PracticeRow(Base):
    """A practice: the people in it see each other's work, nobody else does."""

    __tablename__ = "practice"

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    name: Mapped[str]
    local_rules: Mapped[str] = mapped_column(server_default="")
    time_zone: Mapped[str] = mapped_column(server_default="UTC")  # IANA name: what "today" is here
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class PractitionerRow(Base):
    """Somebody who works here; without a password, only a name on what they did (it came with a record)."""

    __tablename__ = "practitioner"
    __table_args__ = (
        UniqueConstraint("id", "practice_id"),
        CheckConstraint("theme IN ('auto', 'light', 'dim')", name="theme"),
        CheckConstraint("lock_minutes BETWEEN 1 AND 120", name="lock_minutes"),
        CheckConstraint("(email IS NULL) = (password_hash IS NULL)", name="account"),
        Index(None, "practice_id"),
    )

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    practice_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("practice.id"))
    name: Mapped[str]
    email: Mapped[str | None] = mapped_column(unique=True)
    password_hash: Mapped[str | None]
    fingers: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'::jsonb"))
    scale_g: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'::jsonb"))
    theme: Mapped[str] = mapped_column(server_default="auto")
    lock_minutes: Mapped[int] = mapped_column(server_default="10")
    # Seals what waits on this practitioner's devices; given back at every sign-in, so it is random and never changes.
    device_key: Mapped[bytes] = mapped_column(LargeBinary, default=lambda: secrets.token_bytes(32))


def _practitioner_key(column: str) -> ForeignKeyConstraint:
    """A practitioner of the same practice: the pair must exist."""
    return ForeignKeyConstraint([column, "practice_id"], ["practitioner.id", "practitioner.practice_id"])


class AuthSessionRow(Base):
    """A signed-in browser; only a hash of its token is kept."""

    __tablename__ = "auth_session"
    __table_args__ = (_practitioner_key("practitioner_id"), Index(None, "practitioner_id"))

    token_hash: Mapped[bytes] = mapped_column(LargeBinary, primary_key=True)
    practice_id: Mapped[uuid.UUID]
    practitioner_id: Mapped[uuid.UUID]
    csrf: Mapped[str]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    expires_at: Mapped[datetime]


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


class PersonRow(Base):
    """A person who comes for treatment."""

    __tablename__ = "person"
    __table_args__ = (
        UniqueConstraint("id", "practice_id"),
        CheckConstraint("sex IN ('female', 'male', 'unspecified')", name="sex"),
        CheckConstraint("height_cm BETWEEN 120 AND 220", name="height"),
        CheckConstraint("weight_kg BETWEEN 30 AND 220", name="weight"),
        CheckConstraint("breaths_per_minute BETWEEN 3 AND 30", name="breaths"),
    )

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    practice_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("practice.id"), index=True)
    version: Mapped[int] = mapped_column(server_default="1")
    given_name: Mapped[str]
    family_name: Mapped[str] = mapped_column(server_default="")
    born: Mapped[date]
    sex: Mapped[str] = mapped_column(server_default="unspecified")
    height_cm: Mapped[float | None]
    weight_kg: Mapped[float | None]
    fingers: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'::jsonb"))
    breaths_per_minute: Mapped[float | None]
    story: Mapped[str] = mapped_column(server_default="")
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class OfPerson:
    """Columns and the key of whatever belongs to a person: the pair (person, practice) must exist."""

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    practice_id: Mapped[uuid.UUID]
    person_id: Mapped[uuid.UUID] = mapped_column(index=True)

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (_person_key(),)


def _person_key() -> ForeignKeyConstraint:
    return ForeignKeyConstraint(["person_id", "practice_id"], ["person.id", "person.practice_id"])


class ScreeningRow(OfPerson, Base):
    """Answers of one screening; the history is kept."""

    __tablename__ = "screening"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (_person_key(), _practitioner_key("answered_by"))

    answered_at: Mapped[datetime] = mapped_column(server_default=func.now())
    answered_by: Mapped[uuid.UUID | None]
    answers: Mapped[dict[str, Any]]


class ClearanceRow(OfPerson, Base):
    """A doctor's word that lifts a referral, or (`granted` false) the taking back of one; the newest counts."""

    __tablename__ = "clearance"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            _person_key(),
            _practitioner_key("recorded_by"),
            CheckConstraint("until >= given_on", name="until"),
        )

    flag: Mapped[str]
    by: Mapped[str]
    given_on: Mapped[date]
    what_for: Mapped[str]
    until: Mapped[date]
    granted: Mapped[bool]
    recorded_by: Mapped[uuid.UUID | None]
    recorded_at: Mapped[datetime] = mapped_column(server_default=func.now())


class ThresholdRow(OfPerson, Base):
    """A measured pressure-pain threshold of a body part (N/cm²); none takes back what was measured before."""

    __tablename__ = "threshold"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (_person_key(), CheckConstraint("n_per_cm2 > 0", name="n_per_cm2"))

    part: Mapped[str]
    n_per_cm2: Mapped[float | None]
    taken_at: Mapped[datetime] = mapped_column(server_default=func.now())


class ComplaintRow(OfPerson, Base):
    """What troubles a person: kind, side, the act it hinders, since when."""

    __tablename__ = "complaint"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            _person_key(),
            UniqueConstraint("id", "person_id"),
            CheckConstraint("side IN ('left', 'right', 'both', 'midline')", name="side"),
            Index(None, "practice_id"),
        )

    version: Mapped[int] = mapped_column(server_default="1")
    kind: Mapped[str]
    side: Mapped[str]
    act: Mapped[str] = mapped_column(server_default="")
    since: Mapped[date | None]
    closed_on: Mapped[date | None]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class MeasureRow(OfPerson, Base):
    """One length, taken once; a new one is added, the newest counts."""

    __tablename__ = "measure"

    name: Mapped[str]
    value_cm: Mapped[float]
    taken_at: Mapped[datetime] = mapped_column(server_default=func.now())


class VisitRow(OfPerson, Base):
    """An appointment with its score; how the treatment went is in its events."""

    __tablename__ = "visit"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            _person_key(),
            _practitioner_key("practitioner_id"),
            UniqueConstraint("id", "person_id"),
            CheckConstraint("minutes BETWEEN 3 AND 240", name="minutes"),
            CheckConstraint("treatment IN ('not_begun', 'open', 'over')", name="treatment"),
            Index(None, "practice_id", "starts_at"),
            Index(None, "person_id", "starts_at"),
        )

    version: Mapped[int] = mapped_column(server_default="1")
    practitioner_id: Mapped[uuid.UUID]
    starts_at: Mapped[datetime]
    minutes: Mapped[int]
    # What the fold over its events says, kept with every event, so that lists need not fold: how far it is, and what
    # was sore (rows of `Sore`).
    treatment: Mapped[str] = mapped_column(server_default="not_begun")
    felt: Mapped[list[Any] | None] = mapped_column(JSONB(none_as_null=True))
    # A score is large: it is read where it is asked for, and never by the way.
    score: Mapped[dict[str, Any] | None] = mapped_column(
        JSONB(none_as_null=True), deferred=True, deferred_raiseload=True
    )
    note: Mapped[str] = mapped_column(server_default="")


class RatingRow(OfPerson, Base):
    """One rating of a complaint, 0 to 10: before or after a visit, or from home."""

    __tablename__ = "rating"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            _person_key(),
            ForeignKeyConstraint(["complaint_id", "person_id"], ["complaint.id", "complaint.person_id"]),
            ForeignKeyConstraint(["visit_id", "person_id"], ["visit.id", "visit.person_id"]),
            CheckConstraint("value BETWEEN 0 AND 10", name="value"),
            CheckConstraint("moment IN ('before', 'after', 'home')", name="moment"),
            CheckConstraint("(moment = 'home') = (visit_id IS NULL)", name="visit"),
            Index(None, "visit_id", "complaint_id"),
            Index(None, "complaint_id", "rated_at"),
        )

    complaint_id: Mapped[uuid.UUID]
    visit_id: Mapped[uuid.UUID | None]
    moment: Mapped[str]
    value: Mapped[int]
    rated_at: Mapped[datetime] = mapped_column(server_default=func.now())


class TreatmentEventRow(OfPerson, Base):
    """One event of a treatment. Its id comes from the client, so that it is kept once however often it is sent.

    `disputed`: why it does not move the state, where it could not follow what was there. `clock_offset_ms`: how far the
    device's clock was behind the server's when it was sent.
    """

    __tablename__ = "treatment_event"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            _person_key(),
            ForeignKeyConstraint(["visit_id", "person_id"], ["visit.id", "visit.person_id"]),
            UniqueConstraint("id", "person_id"),
            Index(None, "visit_id", "seq"),
        )

    visit_id: Mapped[uuid.UUID]
    seq: Mapped[int] = mapped_column(BigInteger, Identity())
    at: Mapped[datetime]
    received_at: Mapped[datetime] = mapped_column(server_default=func.now())
    clock_offset_ms: Mapped[int] = mapped_column(server_default="0")
    body: Mapped[dict[str, Any]]
    disputed: Mapped[str | None]


class SettlementRow(OfPerson, Base):
    """How a disputed event was settled in the write-up: told as it happened, or set aside, with a word on why."""

    __tablename__ = "settlement"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            _person_key(),
            _practitioner_key("settled_by"),
            ForeignKeyConstraint(["event_id", "person_id"], ["treatment_event.id", "treatment_event.person_id"]),
            UniqueConstraint("event_id"),
            CheckConstraint("how IN ('happened', 'set_aside')", name="how"),
        )

    event_id: Mapped[uuid.UUID]
    how: Mapped[str]
    note: Mapped[str] = mapped_column(server_default="")
    settled_by: Mapped[uuid.UUID]
    settled_at: Mapped[datetime] = mapped_column(server_default=func.now())


class FindingRow(OfPerson, Base):
    """What a hand found at one point or area: how far beside it (mm by direction), how sore, how it felt."""

    __tablename__ = "finding"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            _person_key(),
            CheckConstraint("side IN ('left', 'right')", name="side"),
            CheckConstraint("soreness BETWEEN 0 AND 10", name="soreness"),
        )

    entry: Mapped[str]
    side: Mapped[str]
    offset_mm: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'::jsonb"))
    soreness: Mapped[int | None]
    texture: Mapped[str | None]
    note: Mapped[str] = mapped_column(server_default="")
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class OwnEntryRow(Base):
    """A point or area of a practice's own, as the row that the atlas reads."""

    __tablename__ = "own_entry"
    __table_args__ = (UniqueConstraint("practice_id", "entry"),)

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    practice_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("practice.id"))
    entry: Mapped[str]
    version: Mapped[int] = mapped_column(server_default="1")
    row: Mapped[dict[str, Any]]
    changed_at: Mapped[datetime] = mapped_column(server_default=func.now())


class DraftRow(OfPerson, Base):
    """A score of a visit that was kept under a label, to go back to or to compare with. Never changed."""

    __tablename__ = "draft"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            _person_key(),
            _practitioner_key("kept_by"),
            ForeignKeyConstraint(["visit_id", "person_id"], ["visit.id", "visit.person_id"]),
        )

    visit_id: Mapped[uuid.UUID] = mapped_column(index=True)
    label: Mapped[str]
    score: Mapped[dict[str, Any]]
    kept_by: Mapped[uuid.UUID | None]
    kept_at: Mapped[datetime] = mapped_column(server_default=func.now())


class ProtocolRow(Base):
    """A score that the practice keeps apart from any person."""

    __tablename__ = "protocol"
    __table_args__ = (UniqueConstraint("practice_id", "name"),)

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    practice_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("practice.id"))
    name: Mapped[str]
    version: Mapped[int] = mapped_column(server_default="1")
    protocol: Mapped[dict[str, Any]]
    changed_at: Mapped[datetime] = mapped_column(server_default=func.now())


class LayerRow(Base):
    """A practice's changes to the shipped knowledge; one row a practice."""

    __tablename__ = "layer"
    __table_args__ = (_practitioner_key("changed_by"),)

    practice_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("practice.id"), primary_key=True)
    version: Mapped[int] = mapped_column(server_default="1")
    layer: Mapped[dict[str, Any]]
    changed_by: Mapped[uuid.UUID | None]
    changed_at: Mapped[datetime] = mapped_column(server_default=func.now())


class AtlasTextRow(Base):
    """One text that a shipped point or area may be found by, for names that are nearly spelled right."""

    __tablename__ = "atlas_text"
    __table_args__ = (Index(None, "text", postgresql_using="gin", postgresql_ops={"text": "gin_trgm_ops"}),)

    entry: Mapped[str] = mapped_column(primary_key=True)
    text: Mapped[str] = mapped_column(primary_key=True)


class AuditRow(Base):
    """Who read or wrote a person's record, and when."""

    __tablename__ = "audit"
    __table_args__ = (_practitioner_key("practitioner_id"), Index(None, "practice_id", "at"))

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    practice_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("practice.id"))
    practitioner_id: Mapped[uuid.UUID | None]
    person_id: Mapped[uuid.UUID | None] = mapped_column(index=True)  # outlives the person: that they were erased, too
    action: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=func.now())


# Tables that row-level security guards by their practice; a test checks that every table with a practice is here. The
# practice itself is guarded by its id.
GUARDED = (
    "practitioner",
    "auth_session",
    "person",
    "screening",
    "clearance",
    "threshold",
    "complaint",
    "measure",
    "visit",
    "rating",
    "treatment_event",
    "settlement",
    "finding",
    "own_entry",
    "draft",
    "protocol",
    "layer",
    "audit",
)
ONLY_ADDED = (
    "screening",
    "clearance",
    "threshold",
    "measure",
    "rating",
    "treatment_event",
    "settlement",
    "finding",
    "draft",
    "audit",
)
# Changed, and never deleted by the application: a person's record goes as a whole, by the owner's `erase_person`.
NEVER_DELETED = ("practice", "practitioner", "person", "complaint", "visit", "layer")
