"""Tables of a practice's own knowledge: points, protocols, changes; and the texts of the search."""

import uuid
from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, UniqueConstraint, func
from sqlalchemy.orm import Mapped, mapped_column

from acuthesis.store.tables.base import Base, practitioner_key


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
    __table_args__ = (practitioner_key("changed_by"),)

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
