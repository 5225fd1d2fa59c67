"""A visit with its score: shown, kept, and open to change until its treatment begins."""

import uuid
from datetime import datetime

from pydantic import BaseModel

from acuthesis.core.compose.score import Score
from acuthesis.core.errors import NotAllowed
from acuthesis.services.here import Here
from acuthesis.store.model import VisitRow


class VisitOut(BaseModel):
    """A visit with its score."""

    id: uuid.UUID
    person_id: uuid.UUID
    version: int
    starts_at: datetime
    minutes: int
    note: str
    score: Score | None


def visit_out(row: VisitRow) -> VisitOut:
    """A visit as the API gives it."""
    return VisitOut(
        id=row.id,
        person_id=row.person_id,
        version=row.version,
        starts_at=row.starts_at,
        minutes=row.minutes,
        note=row.note,
        score=None if row.score is None else Score.model_validate(row.score),
    )


def require_untreated(row: VisitRow) -> None:
    """Raises: NotAllowed once the treatment has begun."""
    if row.treatment != "not_begun":
        raise NotAllowed("the treatment has begun; its score stays as it was played", where="visit_id")


def keep_score(here: Here, row: VisitRow, score: Score, action: str = "score changed") -> VisitOut:
    """Keep a score with its visit, audited."""
    row.score = score.model_dump(mode="json")
    here.audit(row.person_id, action)
    here.db.flush()
    return visit_out(row)
