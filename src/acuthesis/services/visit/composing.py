"""A visit and its score: shown, saved, and open to change until its treatment begins."""

import uuid
from collections import defaultdict
from collections.abc import Sequence
from datetime import datetime
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.atlas.entries.model import Position
from acuthesis.core.compose.choose.history import Played, helped
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest, Map, Setting
from acuthesis.core.compose.knowledge.complaint_questions import check_is_stale
from acuthesis.core.compose.knowledge.school import DEFAULT_SCHOOL
from acuthesis.core.compose.score.score import Score
from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.message import message
from acuthesis.services.request.here import Here
from acuthesis.services.request.known import Known
from acuthesis.store import people as store
from acuthesis.store import visits
from acuthesis.store.complaints import confirmations
from acuthesis.store.model import ComplaintRow, VisitRow

Id = Annotated[str, Field(max_length=80)]


class VisitOut(BaseModel):
    """A visit with its score."""

    id: uuid.UUID
    person_id: uuid.UUID
    version: int
    starts_at: datetime
    minutes: int
    note: str
    score: Score | None


class CompositionInput(BaseModel):
    """What to compose for; complaints and ratings come from the person's record, what helped from their visits."""

    model_config = ConfigDict(extra="forbid")

    complaint_ids: list[uuid.UUID] = Field(min_length=1, max_length=12)
    minutes: Annotated[float, Field(gt=0, le=180, allow_inf_nan=False)] = 40
    school: Id = DEFAULT_SCHOOL
    also: list[Id] = Field([], max_length=6)
    setting: Setting = "practice"
    positions_excluded: list[Position] = Field([], max_length=7)
    avoid: list[Id] = Field([], max_length=100)
    prefer: list[Id] = Field([], max_length=100)
    pinned: list[Id] = Field([], max_length=40)
    ear_map: Map = "standard"
    foot_chart: Map = "standard"
    seed: int = Field(0, ge=0, lt=2**31)


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
        raise NotAllowed(message("composing-session-started-so-its-score"), where="visit_id")


def save_score(here: Here, row: VisitRow, score: Score, action: str = "score changed") -> VisitOut:
    """Keep a score with its visit, audited."""
    row.score = score.model_dump(mode="json")
    here.audit(row.person_id, action)
    here.db.flush()
    return visit_out(row)


def request_for(here: Here, row: VisitRow, wish: CompositionInput) -> ComposeRequest:
    """A wish as the core's request: complaints as they are rated now, and what helped at earlier visits."""
    known = here.person(row.person_id)
    complaints, taken = [], []
    for complaint_id in dict.fromkeys(wish.complaint_ids):
        complaint = store.complaint(here.db, complaint_id)
        if complaint.person_id != row.person_id:
            raise CoreError(message("composing-complaint-another-persons"), where="complaint_ids")
        taken.append(complaint)
        course = [r.value for r in known.ratings if r.complaint_id == complaint_id and r.moment != "after"]
        complaints.append(ComplaintNow(id=complaint.kind, rating=course[-1] if course else 5, side=complaint.side))
    require_confirmed(here, taken)
    joined: dict[str, ComplaintNow] = {}
    for one in complaints:  # the same complaint on two sides is one on both
        before = joined.get(one.id)
        both = before is not None and before.side != one.side
        rating = max(one.rating, before.rating if before else 0)
        joined[one.id] = one.model_copy(update={"rating": rating, **({"side": "both"} if both else {})})
    told = wish.model_dump(exclude={"complaint_ids", "version"})
    return ComposeRequest(
        complaints=list(joined.values()),
        history=helped(_played(here, known, row)),
        breaths_per_minute=known.row.breaths_per_minute,
        **told,
    )


def _played(here: Here, known: Known, row: VisitRow) -> list[Played]:
    """Past visits of the person of a visit that were rated before and after."""
    rated: dict[uuid.UUID, dict[str, dict[uuid.UUID, int]]] = defaultdict(lambda: {"before": {}, "after": {}})
    for rating in known.ratings:
        if rating.visit_id not in (None, row.id):
            rated[rating.visit_id][rating.moment][rating.complaint_id] = rating.value
    eased = {}
    for visit_id, by_moment in rated.items():
        before, after = by_moment["before"], by_moment["after"]
        both = [before[id] - after[id] for id in before if id in after]
        if both:
            eased[visit_id] = sum(both) / len(both)
    pressed = visits.pressed_at(here.db, list(eased))
    return [Played(pressed[visit_id], change) for visit_id, change in eased.items() if visit_id in pressed]


def require_confirmed(here: Here, rows: Sequence[ComplaintRow]) -> None:
    """Raises: NotAllowed where a complaint calls for a doctor's look that is not noted, or too long ago."""
    calling = [row for row in rows if (kind := here.knowledge.complaints.get(row.kind)) and kind.checked]
    if not calling:
        return
    noted = confirmations(here.db, [row.id for row in calling])
    missing = []
    for row in calling:
        kind = here.knowledge.complaints[row.kind]
        newest = noted.get(row.id)
        if newest is None:
            missing.append(
                (f"complaints.{row.kind}", f"{kind.name}: {kind.checked} Record who and when under Complaints.")
            )
        elif check_is_stale(newest.seen_on, here.today):
            told = f"{kind.name}: last medical check {newest.seen_on:%-d %B %Y}. Ask whether it still applies."
            missing.append((f"complaints.{row.kind}", told))
    if missing:
        raise NotAllowed(missing[0][1], where=missing[0][0], details=missing)
