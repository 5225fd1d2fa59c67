"""Tables of following: log entries between visits, decisions, outcomes."""

import uuid
from datetime import date, datetime
from typing import Any

from sqlalchemy import CheckConstraint, Index, UniqueConstraint, func, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, declared_attr, mapped_column

from acuthesis.store.tables.base import SAID_BY, Base, OfPerson, of_same_person, person_key, practitioner_key


class LogRow(OfPerson, Base):
    """One entry of the log between visits. Never changed: a correction is an entry that replaces another, and one that
    was a mistake is replaced by one that is `dropped`.

    `amount` by kind: medicine, times taken in the time from `on_day` to `until`; sleep, hours of the night before
    `on_day`; practice, minutes; event, none. `other_care`: an event that is another treatment. `pressed`: ids of what
    was pressed.
    """

    __tablename__ = "log"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            practitioner_key("recorded_by"),
            of_same_person("complaint_id", "complaint"),
            of_same_person("replaces", "log"),
            UniqueConstraint("id", "person_id"),
            UniqueConstraint("replaces"),
            CheckConstraint("kind IN ('medicine', 'sleep', 'practice', 'event')", name="kind"),
            CheckConstraint(SAID_BY, name="said_by"),
            CheckConstraint("until >= on_day", name="until"),
            CheckConstraint("amount >= 0", name="amount"),
            CheckConstraint("kind <> 'sleep' OR (amount IS NOT NULL AND amount <= 24)", name="sleep"),
            CheckConstraint("kind IN ('sleep', 'practice') OR words <> ''", name="words"),
            Index(None, "person_id", "on_day"),
        )

    kind: Mapped[str]
    complaint_id: Mapped[uuid.UUID | None]
    on_day: Mapped[date]
    until: Mapped[date | None]
    amount: Mapped[float | None]
    words: Mapped[str] = mapped_column(server_default="")
    other_care: Mapped[bool] = mapped_column(server_default=text("false"))
    pressed: Mapped[list[Any]] = mapped_column(JSONB, server_default=text("'[]'::jsonb"))
    said_by: Mapped[str]
    replaces: Mapped[uuid.UUID | None]
    dropped: Mapped[bool] = mapped_column(server_default=text("false"))
    recorded_by: Mapped[uuid.UUID | None]
    recorded_at: Mapped[datetime] = mapped_column(server_default=func.now())


class DecisionRow(OfPerson, Base):
    """What a practitioner decided about a complaint, beside what was proposed then, and later what came of it."""

    __tablename__ = "decision"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            practitioner_key("decided_by"),
            of_same_person("complaint_id", "complaint"),
            CheckConstraint(
                "step IN ('go_on', 'change_plan', 'space_out', 'finish', 'refer', 'look_again')", name="step"
            ),
            CheckConstraint("(came_of = '') = (came_of_at IS NULL)", name="came_of"),
            Index(None, "complaint_id", "decided_at"),
        )

    complaint_id: Mapped[uuid.UUID]
    version: Mapped[int] = mapped_column(server_default="1")
    proposed: Mapped[dict[str, Any]]  # the proposal as it was shown (rows of `Proposal`)
    step: Mapped[str]
    because: Mapped[str] = mapped_column(server_default="")
    decided_by: Mapped[uuid.UUID]
    decided_at: Mapped[datetime] = mapped_column(server_default=func.now())
    came_of: Mapped[str] = mapped_column(server_default="")
    came_of_at: Mapped[datetime | None]


class OutcomeRow(OfPerson, Base):
    """What a complaint's ratings say, kept so that lists need not judge anew. It holds while `rated` is the complaint's
    own count, which the database raises with whatever changes the ratings; `method` is the way it was judged.
    """

    __tablename__ = "outcome"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            of_same_person("id", "complaint"),
            Index(None, "practice_id", "trend"),
        )

    # `id` is the complaint's.
    method: Mapped[int]
    rated: Mapped[int]
    trend: Mapped[str]
    first_on: Mapped[date | None]
    last_on: Mapped[date | None]
    told: Mapped[dict[str, Any]]  # rows of `Outcome`
    # Rows of `Analysis`, worked out when a course is looked at for the first time.
    analysis: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
