"""Letters and summaries, and the practice's own templates for them."""

import uuid
from collections.abc import Sequence

from sqlalchemy import select, update

from acuthesis.core.message import message
from acuthesis.store.database import Db
from acuthesis.store.model import LetterTemplateRow, PaperRow
from acuthesis.store.people import NotFound


def papers(db: Db, person_id: uuid.UUID) -> list[PaperRow]:
    """A person's letters and summaries, newest first."""
    query = select(PaperRow).where(PaperRow.person_id == person_id)
    return list(db.scalars(query.order_by(PaperRow.asked_at.desc(), PaperRow.id)))


def paper(db: Db, paper_id: uuid.UUID) -> PaperRow:
    """One of them. Raises: NotFound."""
    row = db.scalar(select(PaperRow).where(PaperRow.id == paper_id))
    if row is None:
        raise NotFound(message("papers-there-no-such-letter-practice"), where="paper_id")
    return row


def pdf(db: Db, paper_id: uuid.UUID) -> bytes | None:
    """The PDF of one, where it has one."""
    return db.scalar(select(PaperRow.pdf).where(PaperRow.id == paper_id))


def move(db: Db, paper_id: uuid.UUID, of: Sequence[str], **to: object) -> bool:
    """Change a paper that is in one of some states; false where it is not, which somebody else has then changed."""
    row = PaperRow
    moved = update(row).where(row.id == paper_id, row.state.in_(of)).values(**to).returning(row.id)
    return db.scalar(moved) is not None


def templates(db: Db) -> dict[str, LetterTemplateRow]:
    """The practice's own words, by kind of letter."""
    return {row.kind: row for row in db.scalars(select(LetterTemplateRow))}
