"""Tables between visits: home plans, diary access, urgent reports."""

import uuid
from datetime import date, datetime
from typing import Any

from sqlalchemy import CheckConstraint, Index, LargeBinary, UniqueConstraint, func, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, declared_attr, mapped_column

from acuthesis.store.tables.base import Base, OfPerson, of_same_person, person_key, practitioner_key


class HomePlanRow(OfPerson, Base):
    """A plan for home (rows of `HomePlan`), from its first day on. Never changed: the newest counts."""

    __tablename__ = "home_plan"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (person_key(), practitioner_key("made_by"), CheckConstraint("until >= first_day", name="until"))

    plan: Mapped[dict[str, Any]]
    hours: Mapped[list[Any]] = mapped_column(JSONB)  # times of the day, "08:00", by the person's own clock
    first_day: Mapped[date]
    until: Mapped[date]
    made_by: Mapped[uuid.UUID]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())


class DiaryRow(OfPerson, Base):
    """A person's way in to their diary: a code that works once, and then the key of the device that used it.

    Only hashes of both are kept. It ends by itself after `until`, or at once when somebody ends it. `asks`: what is
    asked for (rows of `Asks`).
    """

    __tablename__ = "diary"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            practitioner_key("made_by"),
            UniqueConstraint("id", "person_id"),
            UniqueConstraint("code_hash"),
            UniqueConstraint("key_hash"),
            CheckConstraint("(key_hash IS NULL) = (opened_at IS NULL)", name="opened"),
        )

    code_hash: Mapped[bytes] = mapped_column(LargeBinary)
    code_until: Mapped[datetime]
    key_hash: Mapped[bytes | None] = mapped_column(LargeBinary)
    asks: Mapped[dict[str, Any]]
    until: Mapped[date]
    made_by: Mapped[uuid.UUID]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    opened_at: Mapped[datetime | None]
    heard_at: Mapped[datetime | None]  # when something last came from it
    ended_at: Mapped[datetime | None]
    # How much came on the last day that anything came: a device that has lost its mind fills no disk.
    told_on: Mapped[date | None]
    told: Mapped[int] = mapped_column(server_default="0")


class HomeFlagRow(OfPerson, Base):
    """A red flag that somebody reported from home: marks the day until a practitioner has looked after it."""

    __tablename__ = "home_flag"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            practitioner_key("looked_by"),
            of_same_person("diary_id", "diary"),
            CheckConstraint("(looked_at IS NULL) = (looked_by IS NULL)", name="looked"),
            CheckConstraint("looked_at IS NULL OR words <> ''", name="words"),
            Index("ix_home_flag_practice_id", "practice_id", postgresql_where=text("looked_at IS NULL")),
        )

    diary_id: Mapped[uuid.UUID | None]  # none, where it came with a record
    question: Mapped[str]
    said_at: Mapped[datetime]  # by the person's own clock
    heard_at: Mapped[datetime] = mapped_column(server_default=func.now())
    looked_at: Mapped[datetime | None]
    looked_by: Mapped[uuid.UUID | None]
    words: Mapped[str] = mapped_column(server_default="")  # what came of it
