"""A person, and what is asked, measured and found of them outside a visit."""

import uuid
from datetime import date, datetime
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, Index, UniqueConstraint, Uuid, func, text
from sqlalchemy.dialects.postgresql import ARRAY, JSONB
from sqlalchemy.orm import Mapped, declared_attr, mapped_column

from acuthesis.store.tables.base import SAID_BY, Base, OfPerson, of_same_person, person_key, practitioner_key


class PersonRow(Base):
    """A person who comes for treatment."""

    __tablename__ = "person"
    __table_args__ = (
        UniqueConstraint("id", "practice_id"),
        CheckConstraint("sex IN ('female', 'male', 'unspecified')", name="sex"),
        CheckConstraint("height_cm BETWEEN 120 AND 220", name="height"),
        CheckConstraint("weight_kg BETWEEN 30 AND 220", name="weight"),
        CheckConstraint("breaths_per_minute BETWEEN 3 AND 30", name="breaths"),
        practitioner_key("in_charge"),
        Index(None, "in_charge"),
        Index(None, "erase_at", postgresql_where=text("erase_at IS NOT NULL")),
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
    in_charge: Mapped[uuid.UUID | None]  # the practitioner whose person this is
    phone: Mapped[str] = mapped_column(server_default="")
    email: Mapped[str] = mapped_column(server_default="")
    address: Mapped[str] = mapped_column(server_default="")
    doctor: Mapped[str] = mapped_column(server_default="")
    emergency_contact: Mapped[str] = mapped_column(server_default="")
    guardian: Mapped[str] = mapped_column(server_default="")
    archived_at: Mapped[datetime | None]
    # When the record is erased for good, why and who asked; it is sealed until then.
    erase_at: Mapped[datetime | None]
    erase_reason: Mapped[str] = mapped_column(server_default="")
    erase_by: Mapped[uuid.UUID | None]
    # Ids of records that were merged into this one: the audit names them as it did.
    merged_ids: Mapped[list[uuid.UUID]] = mapped_column(ARRAY(Uuid), server_default=text("'{}'"))
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class ReadingGrantRow(OfPerson, Base):
    """A look at somebody whom one does not treat, with a reason, for a while."""

    __tablename__ = "reading_grant"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (person_key(), practitioner_key("practitioner_id"))

    practitioner_id: Mapped[uuid.UUID]
    reason: Mapped[str]
    until: Mapped[datetime]


class ScreeningRow(OfPerson, Base):
    """Answers of one screening; the history is kept.

    `in_full`: all questions were asked. Otherwise single answers were added to those that stood there, which got no
    younger by it.
    """

    __tablename__ = "screening"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (person_key(), practitioner_key("answered_by"))

    answered_at: Mapped[datetime] = mapped_column(server_default=func.now())
    answered_by: Mapped[uuid.UUID | None]
    answers: Mapped[dict[str, Any]]
    in_full: Mapped[bool] = mapped_column(server_default="true")


class ClearanceRow(OfPerson, Base):
    """A doctor's word that lifts a referral, or (`granted` false) the taking back of one; the newest counts."""

    __tablename__ = "clearance"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            practitioner_key("recorded_by"),
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
        return (person_key(), CheckConstraint("n_per_cm2 > 0", name="n_per_cm2"))

    part: Mapped[str]
    n_per_cm2: Mapped[float | None]
    taken_at: Mapped[datetime] = mapped_column(server_default=func.now())


class ComplaintRow(OfPerson, Base):
    """What troubles a person: kind, side, the act it hinders, since when."""

    __tablename__ = "complaint"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            UniqueConstraint("id", "person_id"),
            CheckConstraint("side IN ('left', 'right', 'both', 'midline')", name="side"),
            Index(None, "practice_id"),
        )

    version: Mapped[int] = mapped_column(server_default="1")
    kind: Mapped[str]
    side: Mapped[str]
    # Up to three things it stops the person doing, each `{"id", "words"}`: what is rated beside the complaint itself.
    acts: Mapped[list[Any]] = mapped_column(JSONB, server_default=text("'[]'::jsonb"))
    since: Mapped[date | None]
    closed_on: Mapped[date | None]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    # Counted by the database: how often its ratings changed. Read where it is asked for, for it moves by itself.
    rated: Mapped[int] = mapped_column(server_default="0", deferred=True)

    @property
    def act(self) -> str:
        """The first act in words, which lists and papers show."""
        return str(self.acts[0]["words"]) if self.acts else ""


class ComplaintAnswersRow(OfPerson, Base):
    """What was answered about a complaint, as often as it was asked; the newest counts (rows of `Answers`)."""

    __tablename__ = "complaint_answers"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            practitioner_key("asked_by"),
            of_same_person("complaint_id", "complaint"),
            Index(None, "complaint_id"),
        )

    complaint_id: Mapped[uuid.UUID]
    answers: Mapped[dict[str, Any]]
    asked_by: Mapped[uuid.UUID]
    asked_at: Mapped[datetime] = mapped_column(server_default=func.now())


class ComplaintPlaceRow(OfPerson, Base):
    """Where a complaint was, as it was painted on the figure: numbers of skin vertices, the same on every figure."""

    __tablename__ = "complaint_place"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            practitioner_key("painted_by"),
            of_same_person("complaint_id", "complaint"),
            Index(None, "complaint_id"),
        )

    complaint_id: Mapped[uuid.UUID]
    skin: Mapped[list[Any]] = mapped_column(JSONB)
    words: Mapped[str]
    painted_by: Mapped[uuid.UUID]
    painted_at: Mapped[datetime] = mapped_column(server_default=func.now())


class ConfirmationRow(OfPerson, Base):
    """That a doctor has looked at what a complaint calls for: who, and when; the newest counts."""

    __tablename__ = "confirmation"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            practitioner_key("recorded_by"),
            of_same_person("complaint_id", "complaint"),
            CheckConstraint("by <> ''", name="by"),
            Index(None, "complaint_id"),
        )

    complaint_id: Mapped[uuid.UUID]
    by: Mapped[str]
    seen_on: Mapped[date]
    recorded_by: Mapped[uuid.UUID]
    recorded_at: Mapped[datetime] = mapped_column(server_default=func.now())


class ActivityRatingRow(OfPerson, Base):
    """One rating of an act, 0 (not hindered) to 10 (not possible): before or after a visit, or from home."""

    __tablename__ = "act_rating"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            of_same_person("complaint_id", "complaint"),
            of_same_person("visit_id", "visit"),
            practitioner_key("recorded_by"),
            of_same_person("replaces", "act_rating"),
            UniqueConstraint("id", "person_id"),
            UniqueConstraint("replaces"),
            CheckConstraint(SAID_BY, name="said_by"),
            CheckConstraint("value BETWEEN 0 AND 10", name="value"),
            CheckConstraint("moment IN ('before', 'after', 'home')", name="moment"),
            CheckConstraint("(moment = 'home') = (visit_id IS NULL)", name="visit"),
            Index(None, "complaint_id", "rated_at"),
            Index(None, "visit_id"),
        )

    complaint_id: Mapped[uuid.UUID]
    act_id: Mapped[uuid.UUID]
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


class EpisodeRow(OfPerson, Base):
    """An episode of a complaint: when it began and ended (neither, while it goes on), how strong, what helped.

    `day_only`: people told the day and not the hour. `day_said` false: only the time that it lies in was told.
    """

    __tablename__ = "episode"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            practitioner_key("recorded_by"),
            of_same_person("complaint_id", "complaint"),
            CheckConstraint(SAID_BY, name="said_by"),
            CheckConstraint("strength BETWEEN 0 AND 10", name="strength"),
            CheckConstraint("ended_at >= started_at", name="ended"),
            CheckConstraint("NOT (goes_on AND ended_at IS NOT NULL)", name="goes_on"),
            Index(None, "complaint_id", "started_at"),
        )

    complaint_id: Mapped[uuid.UUID]
    version: Mapped[int] = mapped_column(server_default="1")
    started_at: Mapped[datetime]
    ended_at: Mapped[datetime | None]
    goes_on: Mapped[bool] = mapped_column(server_default=text("false"))
    day_only: Mapped[bool] = mapped_column(server_default=text("false"))
    day_said: Mapped[bool] = mapped_column(server_default=text("true"))
    strength: Mapped[int | None]
    trigger: Mapped[str] = mapped_column(server_default="")
    helped: Mapped[str] = mapped_column(server_default="")
    medicine: Mapped[str] = mapped_column(server_default="")
    dropped_at: Mapped[datetime | None]  # written down by mistake: in no list, and not gone
    said_by: Mapped[str] = mapped_column(server_default="person")
    # What it said before it was changed, oldest first: the same columns, with `changed_at` and `changed_by`.
    earlier: Mapped[list[Any]] = mapped_column(JSONB, server_default=text("'[]'::jsonb"))
    recorded_by: Mapped[uuid.UUID | None]
    recorded_at: Mapped[datetime] = mapped_column(server_default=func.now())


class MeasureRow(OfPerson, Base):
    """One length, taken once; a new one is added, the newest counts."""

    __tablename__ = "measure"

    name: Mapped[str]
    value_cm: Mapped[float]
    taken_at: Mapped[datetime] = mapped_column(server_default=func.now())


class FindingRow(OfPerson, Base):
    """What a hand found at one point or area: how far beside it (mm by direction), how sore, how it felt."""

    __tablename__ = "finding"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
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


class ConsentRow(OfPerson, Base):
    """A consent, or (`given` false) its withdrawal; the newest about a thing counts."""

    __tablename__ = "consent"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            practitioner_key("recorded_by"),
            UniqueConstraint("id", "person_id"),
            CheckConstraint("how IN ('in_writing', 'spoken', 'by_guardian')", name="how"),
        )

    about: Mapped[str]
    given: Mapped[bool]
    said: Mapped[str]
    how: Mapped[str]
    given_on: Mapped[date]
    recorded_by: Mapped[uuid.UUID]
    recorded_at: Mapped[datetime] = mapped_column(server_default=func.now())


class StoryRow(OfPerson, Base):
    """A piece of a person's story, as it was told on a day. Never changed: what is told later comes after it."""

    __tablename__ = "story"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (person_key(), practitioner_key("written_by"), CheckConstraint("told <> ''", name="told"))

    told: Mapped[str]
    told_on: Mapped[date]
    written_by: Mapped[uuid.UUID | None]
    written_at: Mapped[datetime] = mapped_column(server_default=func.now())


class LetterRow(OfPerson, Base):
    """A letter to somebody about a person, and until when an answer is awaited; none, where none is."""

    __tablename__ = "letter"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            practitioner_key("sent_by"),
            CheckConstraint("answer_due >= sent_on", name="answer_due"),
            Index(None, "practice_id", "answer_due"),
        )

    recipient: Mapped[str]
    about: Mapped[str]
    sent_on: Mapped[date]
    answer_due: Mapped[date | None]
    answered_on: Mapped[date | None]
    answer: Mapped[str] = mapped_column(server_default="")
    sent_by: Mapped[uuid.UUID]
    version: Mapped[int] = mapped_column(server_default="1")
