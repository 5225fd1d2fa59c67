"""Tables of letters and summaries, and the practice's own templates."""

import uuid
from datetime import datetime
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, LargeBinary, func
from sqlalchemy.orm import Mapped, declared_attr, mapped_column

from acuthesis.store.tables.base import Base, OfPerson, of_same_person, person_key, practitioner_key

KINDS = "kind IN ('doctor', 'midwife', 'summary')"


class PaperRow(OfPerson, Base):
    """A letter or summary: what was asked of it, how far its making is, and then its text and PDF.

    `body` is the template as it was then. Once made, nothing of it is changed. One that came with a record has its
    text and no PDF.
    """

    __tablename__ = "paper"

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (
            person_key(),
            practitioner_key("asked_by"),
            of_same_person("consent_id", "consent"),
            CheckConstraint(KINDS, name="kind"),
            CheckConstraint("state IN ('waiting', 'making', 'made', 'failed', 'cancelled')", name="state"),
            CheckConstraint("pdf IS NULL OR state = 'made'", name="made"),
            CheckConstraint("kind = 'summary' OR consent_id IS NOT NULL", name="consent"),
        )

    kind: Mapped[str]
    asked: Mapped[dict[str, Any]]  # rows of `PaperWish`
    body: Mapped[str]
    consent_id: Mapped[uuid.UUID | None]  # what the person agreed to, for what goes to somebody else
    state: Mapped[str] = mapped_column(server_default="waiting")
    step: Mapped[int] = mapped_column(server_default="0")
    told: Mapped[str] = mapped_column(server_default="")  # what is being done, or why it failed
    text: Mapped[str] = mapped_column(server_default="")  # with the marks of headings, items and figures
    plain: Mapped[str] = mapped_column(server_default="")  # the same without them, figures told
    pdf: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    asked_by: Mapped[uuid.UUID]
    asked_at: Mapped[datetime] = mapped_column(server_default=func.now())
    made_at: Mapped[datetime | None]


class LetterTemplateRow(Base):
    """The practice's own words for a kind of letter, in place of the shipped ones."""

    __tablename__ = "letter_template"
    __table_args__ = (practitioner_key("changed_by"), CheckConstraint(KINDS, name="kind"))

    practice_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("practice.id"), primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(server_default="1")
    body: Mapped[str]
    changed_by: Mapped[uuid.UUID]
    changed_at: Mapped[datetime] = mapped_column(server_default=func.now())
