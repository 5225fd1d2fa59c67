"""Composing: the score of a visit, made by the core and edited by the practitioner, checked at every change."""

import uuid
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import Here, SignedIn
from acuthesis.core.atlas.model import Position
from acuthesis.core.compose.composer import ComplaintNow, ComposeRequest, compose
from acuthesis.core.compose.dose import Dose, in_form, stretched
from acuthesis.core.compose.score import DraftStop, Objective, Score, arrange, position_changes, total_s
from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.safety.screening import Screening, verdict
from acuthesis.store import people as store
from acuthesis.store import visits
from acuthesis.store.model import VisitRow

router = APIRouter(tags=["compose"])


class VisitOut(BaseModel):
    """A visit with its score."""

    id: uuid.UUID
    person_id: uuid.UUID
    version: int
    starts_at: datetime
    minutes: int
    note: str
    score: Score | None


class ComposeWish(BaseModel):
    """What to compose for; complaints and their strength come from the person's record."""

    model_config = ConfigDict(extra="forbid")

    version: int
    complaint_ids: list[uuid.UUID] = Field(min_length=1, max_length=12)
    minutes: Annotated[float, Field(ge=3, le=120, allow_inf_nan=False)] = 40
    positions_excluded: list[Position] = []
    avoid: list[Annotated[str, Field(max_length=60)]] = Field([], max_length=60)
    pinned: list[Annotated[str, Field(max_length=60)]] = Field([], max_length=60)


class ScoreEdit(BaseModel):
    """The stops as the practitioner wants them; `version` is the one that was seen."""

    model_config = ConfigDict(extra="forbid")

    version: int
    stops: list[DraftStop] = Field(max_length=120)


class Reshape(BaseModel):
    """Another length or another form for a dose."""

    model_config = ConfigDict(extra="forbid")

    dose: Dose
    seconds: Annotated[float, Field(ge=1, le=1200, allow_inf_nan=False)]
    form: str | None = None


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


def _require_untreated(here: Here, row: VisitRow) -> None:
    if visits.treatment(here.session, row.id).status != "not_begun":
        raise NotAllowed("the treatment has begun; its score stays as it was played", where="visit_id")


def _keep(here: Here, row: VisitRow, score: Score) -> VisitOut:
    row.score = score.model_dump(mode="json")
    store.audit(here.session, here.practice_id, here.practitioner.id, row.person_id, "score changed")
    here.session.flush()
    return visit_out(row)


@router.get("/visits/{visit_id}")
def read_visit(visit_id: uuid.UUID, here: SignedIn) -> VisitOut:
    """One visit."""
    return visit_out(visits.visit(here.session, visit_id))


@router.post("/visits/{visit_id}/compose")
def compose_visit(visit_id: uuid.UUID, wish: ComposeWish, here: SignedIn) -> VisitOut:
    """Compose a score for a visit. Where the screening says no, the answer says why and no score is kept."""
    row = visits.visit(here.session, visit_id, lock=True)
    _require_untreated(here, row)
    ratings = store.ratings(here.session, row.person_id)
    now_rated = []
    for complaint_id in dict.fromkeys(wish.complaint_ids):
        complaint = store.complaint(here.session, complaint_id)
        if complaint.person_id != row.person_id:
            raise CoreError("this complaint is another person's", where="complaint_ids")
        course = [r.value for r in ratings if r.complaint_id == complaint_id and r.moment != "after"]
        now_rated.append(ComplaintNow(id=complaint.kind, rating=course[-1] if course else 5, side=complaint.side))
    score = compose(
        ComposeRequest(
            complaints=now_rated,
            minutes=wish.minutes,
            positions_excluded=wish.positions_excluded,
            avoid=wish.avoid,
            pinned=wish.pinned,
        ),
        store.screening_of(here.session, row.person_id),
    )
    if score.decision != "ok":
        return VisitOut(**{**visit_out(row).model_dump(), "score": score})
    store.check_version(row, wish.version, "This visit")
    return _keep(here, row, score)


def _rearranged(old: Score, stops: list[DraftStop], screening: Screening) -> Score:
    laid = arrange(stops, screening)
    return old.model_copy(
        update={
            "stops": laid,
            "total_s": total_s(laid),
            "objective": Objective(value=old.objective.value, position_changes=position_changes(laid)),
        }
    )


@router.put("/visits/{visit_id}/score")
def edit_score(visit_id: uuid.UUID, edit: ScoreEdit, here: SignedIn) -> VisitOut:
    """Replace the stops of a score. Each is checked against the person's limits; one that may not be is refused."""
    row = visits.visit(here.session, visit_id, lock=True)
    _require_untreated(here, row)
    screening = store.screening_of(here.session, row.person_id)
    decided = verdict(screening)
    if decided.decision != "ok":
        raise NotAllowed(decided.reasons[0].text, where="screening")
    old = Score.model_validate(row.score) if row.score else None
    if old is None:
        raise CoreError("compose first: there is no score yet", where="visit_id")
    score = _rearranged(old, edit.stops, screening)
    store.check_version(row, edit.version, "This score")
    return _keep(here, row, score)


@router.post("/doses/reshape")
def reshape(wish: Reshape) -> Dose:
    """A dose stretched to about so many seconds, or turned into another form of that length."""
    if wish.form is None:
        return stretched(wish.dose, wish.seconds)
    if wish.form not in ("hold", "pulse", "circles", "breaths", "glide"):
        raise CoreError(f"there is no form '{wish.form}'", where="form")
    return in_form(wish.form, wish.seconds)
