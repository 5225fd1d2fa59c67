"""Tables of a visit: its score, and the events of its treatment."""

import uuid
from datetime import date, datetime
from typing import Any

from sqlalchemy import (
    BigInteger,
    CheckConstraint,
    Computed,
    ForeignKeyConstraint,
    Identity,
    Index,
    LargeBinary,
    UniqueConstraint,
    func,
    text,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, declared_attr, mapped_column

from acuthesis.store.tables.base import SAID_BY, Base, OfPerson, of_same_person, person_key, practitioner_key


class VisitRow(OfPerson, Base):
    """An appointment with its score; how the treatment went is in its events."""

    __tablename__ = "visit"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            practitioner_key("practitioner_id"),
            UniqueConstraint("id", "person_id"),
            CheckConstraint("minutes BETWEEN 3 AND 240", name="minutes"),
            CheckConstraint("treatment IN ('not_begun', 'open', 'over')", name="treatment"),
            CheckConstraint("attendance IN ('expected', 'cancelled', 'not_come')", name="attendance"),
            CheckConstraint("attendance = 'expected' OR treatment = 'not_begun'", name="held"),
            CheckConstraint("came IN ('booked', 'walk_in')", name="came"),
            CheckConstraint("(closed_at IS NULL) = (closed_by IS NULL)", name="closed"),
            practitioner_key("booked_by"),
            practitioner_key("closed_by"),
            ForeignKeyConstraint(["place_id", "practice_id"], ["place.id", "place.practice_id"]),
            Index(None, "place_id"),
            Index(None, "practice_id", "starts_at"),
            Index(None, "person_id", "starts_at"),
        )

    version: Mapped[int] = mapped_column(server_default="1")
    practitioner_id: Mapped[uuid.UUID]
    starts_at: Mapped[datetime]
    minutes: Mapped[int]
    place_id: Mapped[uuid.UUID | None]
    purpose: Mapped[str] = mapped_column(server_default="")
    came: Mapped[str] = mapped_column(server_default="booked")
    attendance: Mapped[str] = mapped_column(server_default="expected")
    attendance_reason: Mapped[str] = mapped_column(server_default="")
    # Of the appointment alone: whoever moves it does not stand in the way of whoever composes for it.
    booking_version: Mapped[int] = mapped_column(server_default="1")
    booked_by: Mapped[uuid.UUID | None]
    booked_at: Mapped[datetime] = mapped_column(server_default=func.now())
    # What the fold over its events says, kept with every event, so that lists need not fold: how far it is, and what
    # was sore (rows of `Sore`).
    treatment: Mapped[str] = mapped_column(server_default="not_begun")
    felt: Mapped[list[Any] | None] = mapped_column(JSONB(none_as_null=True))
    # A score is large: it is read where it is asked for, and never by the way.
    score: Mapped[dict[str, Any] | None] = mapped_column(
        JSONB(none_as_null=True), deferred=True, deferred_raiseload=True
    )
    note: Mapped[str] = mapped_column(server_default="")
    # The record of the visit in the practitioner's words (rows of `Written`); closed, it is never changed again.
    written: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    closed_at: Mapped[datetime | None]
    closed_by: Mapped[uuid.UUID | None]


class AddendumRow(OfPerson, Base):
    """What was added to the record of a visit after it was closed."""

    __tablename__ = "addendum"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            practitioner_key("added_by"),
            of_same_person("visit_id", "visit"),
            CheckConstraint("said <> ''", name="said"),
            Index(None, "visit_id"),
        )

    visit_id: Mapped[uuid.UUID]
    said: Mapped[str]
    added_by: Mapped[uuid.UUID]
    added_at: Mapped[datetime] = mapped_column(server_default=func.now())


class PlannedVisitRow(OfPerson, Base):
    """One visit of a series that is planned: when it is due and what it is for; booked, or dropped, or neither yet."""

    __tablename__ = "planned_visit"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            practitioner_key("planned_by"),
            of_same_person("visit_id", "visit"),
            UniqueConstraint("visit_id"),
            UniqueConstraint("series_id", "number"),
            CheckConstraint("number BETWEEN 1 AND 60", name="number"),
            CheckConstraint("minutes BETWEEN 3 AND 240", name="minutes"),
            CheckConstraint("visit_id IS NULL OR dropped_at IS NULL", name="dropped"),
            Index(None, "practice_id", "due_on"),
        )

    series_id: Mapped[uuid.UUID]
    number: Mapped[int]
    due_on: Mapped[date]
    minutes: Mapped[int]
    purpose: Mapped[str] = mapped_column(server_default="")
    visit_id: Mapped[uuid.UUID | None]
    dropped_at: Mapped[datetime | None]
    planned_by: Mapped[uuid.UUID]
    planned_at: Mapped[datetime] = mapped_column(server_default=func.now())


class RatingRow(OfPerson, Base):
    """One rating of a complaint, 0 to 10: before or after a visit, or from home."""

    __tablename__ = "rating"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            of_same_person("complaint_id", "complaint"),
            of_same_person("visit_id", "visit"),
            practitioner_key("recorded_by"),
            of_same_person("replaces", "rating"),
            UniqueConstraint("id", "person_id"),
            UniqueConstraint("replaces"),
            CheckConstraint(SAID_BY, name="said_by"),
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
    # Who said it, and who wrote it down; none, where it came from home or from before this was asked.
    said_by: Mapped[str] = mapped_column(server_default="person")
    recorded_by: Mapped[uuid.UUID | None]
    # A correction takes the place of another rating, which stays; one that is dropped counts for nothing.
    replaces: Mapped[uuid.UUID | None]
    dropped: Mapped[bool] = mapped_column(server_default=text("false"))


class TreatmentEventRow(OfPerson, Base):
    """One event of a treatment. Its id comes from the client, so that it is kept once however often it is sent.

    `disputed`: why it does not move the state, where it could not follow what was there. `clock_offset_ms`: how far the
    device's clock was behind the server's when it was sent.
    """

    __tablename__ = "treatment_event"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            of_same_person("visit_id", "visit"),
            UniqueConstraint("id", "person_id"),
            Index(None, "visit_id", "seq"),
        )

    visit_id: Mapped[uuid.UUID]
    seq: Mapped[int] = mapped_column(BigInteger, Identity())
    at: Mapped[datetime]
    received_at: Mapped[datetime] = mapped_column(server_default=func.now())
    clock_offset_ms: Mapped[int] = mapped_column(BigInteger, server_default="0")
    # Touches of a screen, keys and pedals that it took; 0 where the conductor said it by itself.
    hands: Mapped[int] = mapped_column(Computed("coalesce((body ->> 'hands')::integer, 1)", persisted=True))
    body: Mapped[dict[str, Any]]
    disputed: Mapped[str | None]


class OwnSayRow(OfPerson, Base):
    """A screen of the person's own at a treatment: a code that works once, and then the key of the device that used it.

    Only hashes are kept; a code's goes once it is used or ended, so that the code is free again.
    """

    __tablename__ = "own_say"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            of_same_person("visit_id", "visit"),
            practitioner_key("made_by"),
            UniqueConstraint("code_hash"),
            UniqueConstraint("key_hash"),
            CheckConstraint("(key_hash IS NULL) = (opened_at IS NULL)", name="opened"),
            CheckConstraint("code_hash IS NULL OR (opened_at IS NULL AND ended_at IS NULL)", name="code"),
        )

    visit_id: Mapped[uuid.UUID] = mapped_column(index=True)
    code_hash: Mapped[bytes | None] = mapped_column(LargeBinary)
    code_until: Mapped[datetime]
    key_hash: Mapped[bytes | None] = mapped_column(LargeBinary)
    made_by: Mapped[uuid.UUID]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    opened_at: Mapped[datetime | None]
    ended_at: Mapped[datetime | None]


class SettlementRow(OfPerson, Base):
    """How a disputed event was settled in the write-up: told as it happened, or set aside, with a word on why."""

    __tablename__ = "settlement"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            practitioner_key("settled_by"),
            of_same_person("event_id", "treatment_event"),
            UniqueConstraint("event_id"),
            CheckConstraint("how IN ('happened', 'set_aside')", name="how"),
        )

    event_id: Mapped[uuid.UUID]
    how: Mapped[str]
    note: Mapped[str] = mapped_column(server_default="")
    settled_by: Mapped[uuid.UUID]
    settled_at: Mapped[datetime] = mapped_column(server_default=func.now())


class DraftRow(OfPerson, Base):
    """A score of a visit that was kept under a label, to go back to or to compare with. Never changed."""

    __tablename__ = "draft"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            practitioner_key("kept_by"),
            of_same_person("visit_id", "visit"),
        )

    visit_id: Mapped[uuid.UUID] = mapped_column(index=True)
    label: Mapped[str]
    score: Mapped[dict[str, Any]]
    kept_by: Mapped[uuid.UUID | None]
    kept_at: Mapped[datetime] = mapped_column(server_default=func.now())
