"""What every table stands on: names by one rule, and the keys that tie a row to practice, person and practitioner."""

import uuid
from datetime import datetime
from typing import Any, ClassVar

from sqlalchemy import DateTime, ForeignKeyConstraint, MetaData
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


# Who said something: the person to the practitioner, the person alone (from home), a carer, or the practitioner who saw
# it.
SAID_BY = "said_by IN ('person', 'from_home', 'carer', 'practitioner')"


class Base(DeclarativeBase):
    """Base of all tables."""

    metadata = MetaData(naming_convention=NAMING)
    type_annotation_map: ClassVar = {datetime: DateTime(timezone=True), dict[str, Any]: JSONB}


def practitioner_key(column: str) -> ForeignKeyConstraint:
    """A practitioner of the same practice: the pair must exist."""
    return ForeignKeyConstraint([column, "practice_id"], ["practitioner.id", "practitioner.practice_id"])


def person_key() -> ForeignKeyConstraint:
    """A person of the same practice: the pair must exist.

    Like every key that names a person, it can wait until a transaction ends: two records are joined row by row.
    """
    return ForeignKeyConstraint(
        ["person_id", "practice_id"], ["person.id", "person.practice_id"], deferrable=True, initially="IMMEDIATE"
    )


def of_same_person(column: str, table: str) -> ForeignKeyConstraint:
    """A visit, complaint or event of the same person: the pair must exist."""
    return ForeignKeyConstraint(
        [column, "person_id"], [f"{table}.id", f"{table}.person_id"], deferrable=True, initially="IMMEDIATE"
    )


class OfPerson:
    """Columns and the key of whatever belongs to a person: the pair (person, practice) must exist."""

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    practice_id: Mapped[uuid.UUID]
    person_id: Mapped[uuid.UUID] = mapped_column(index=True)

    @declared_attr.directive
    def __table_args__(cls) -> tuple[Any, ...]:  # noqa: N805
        return (person_key(),)
