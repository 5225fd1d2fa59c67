"""Composing: the score of a visit, made by the core and edited by the practitioner, checked at every change."""

import uuid
from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Depends
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import SignedIn
from acuthesis.api.concurrency import composing_turn
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import Line
from acuthesis.core.compose.choose.one_stop import stop_for
from acuthesis.core.compose.choose.programme import Programme, ProgrammeRequest
from acuthesis.core.compose.knowledge.dose import Dose, Form, in_form, stretched
from acuthesis.core.compose.knowledge.dose_text import read_dose
from acuthesis.core.compose.knowledge.school import DEFAULT_SCHOOL
from acuthesis.core.compose.score.arrange import arrange
from acuthesis.core.compose.score.score import (
    PRESSED,
    REASON_LEAST,
    DraftStop,
    Objective,
    Score,
    position_changes,
    total_s,
)
from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.message import message
from acuthesis.core.safety.screening import Screening
from acuthesis.core.safety.verdict import verdict
from acuthesis.services import workers
from acuthesis.services.body.bodies import screening_on_body
from acuthesis.services.request.here import Here
from acuthesis.services.visit.composing import (
    CompositionInput,
    VisitOut,
    request_for,
    require_untreated,
    save_score,
    visit_out,
)
from acuthesis.store import compose as stored
from acuthesis.store import people as store
from acuthesis.store import visits
from acuthesis.store.model import DraftRow

router = APIRouter(route_class=StrictRoute, tags=["compose"])
Id = Annotated[str, Field(max_length=80)]


class ComposeWish(CompositionInput):
    """A wish whose score is kept; `version` is the visit that was seen."""

    version: int


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
    form: Form | None = None


class NewDraft(BaseModel):
    """The label under which the score is kept as it is now."""

    model_config = ConfigDict(extra="forbid")

    label: Line


class DraftOut(BaseModel):
    """A draft of a visit."""

    id: uuid.UUID
    label: str
    kept_at: datetime
    score: Score


class Restore(BaseModel):
    """Which visit was seen when going back to a draft."""

    model_config = ConfigDict(extra="forbid")

    version: int


@router.get("/visits/{visit_id}")
def read_visit(visit_id: uuid.UUID, here: SignedIn) -> VisitOut:
    """One visit."""
    row = visits.visit(here.db, visit_id)
    here.reads(row.person_id, "visit")
    return visit_out(row)


COMPOSES = [Depends(composing_turn, scope="function")]


@router.post("/visits/{visit_id}/compose", dependencies=COMPOSES)
def compose_visit(visit_id: uuid.UUID, wish: ComposeWish, here: SignedIn) -> VisitOut:
    """Compose a score for a visit. Where the screening says no, the answer says why and no score is kept."""
    row = visits.visit(here.db, visit_id)
    require_untreated(row)
    request, screening = request_for(here, row, wish), screening_on_body(here, row.person_id)
    layer, own = here.layer, here.own
    here.release()  # solving takes seconds: nobody waits for it but who asked
    score = workers.composed(request, screening, layer, own)
    row = visits.visit(here.db, visit_id, lock=True)
    require_untreated(row)
    if score.decision != "ok":
        return VisitOut(**{**visit_out(row).model_dump(), "score": score})
    store.check_version(row, wish.version, "This visit")
    return save_score(here, row, score)


@router.post("/visits/{visit_id}/what-if", dependencies=COMPOSES)
def what_if(visit_id: uuid.UUID, wish: CompositionInput, here: SignedIn) -> Score:
    """What a score would be; nothing is kept."""
    row = visits.visit(here.db, visit_id)
    here.reads(row.person_id, "visit")
    request, screening = request_for(here, row, wish), screening_on_body(here, row.person_id)
    layer, own = here.layer, here.own
    here.release()
    return workers.composed(request, screening, layer, own)


@router.post("/visits/{visit_id}/programme", dependencies=COMPOSES)
def plan_programme(
    visit_id: uuid.UUID, wish: CompositionInput, here: SignedIn, number: Annotated[int, Field(ge=2, le=12)] = 6
) -> Programme:
    """A programme of several visits from this one on; nothing is kept."""
    row = visits.visit(here.db, visit_id)
    here.reads(row.person_id, "visit")
    first, screening = request_for(here, row, wish), screening_on_body(here, row.person_id)
    layer, own = here.layer, here.own
    here.release()
    return workers.programme_of(ProgrammeRequest(first=first, visits=number), screening, layer, own)


def rearranged(here: Here, old: Score, stops: list[DraftStop], screening: Screening) -> Score:
    """A score with other stops, each checked. What is in now is no longer listed as left out."""
    laid = arrange(stops, screening, here.school(old.school), here.entry, alone=old.alone)
    present = {(stop.id, stop.side) for stop in laid}
    return old.model_copy(
        update={
            "stops": laid,
            "total_s": total_s(laid),
            "left_out": tuple(row for row in old.left_out if (row.id, row.side) not in present),
            # What a changed score is worth was not asked of the composer, so nothing is claimed.
            "objective": old.objective
            if laid == old.stops
            else Objective(value=0, position_changes=position_changes(laid)),
        }
    )


def require_session(screening: Screening) -> None:
    """Raises: NotAllowed with the reason where the screening allows no session."""
    decided = verdict(screening)
    if decided.decision != "ok":
        raise NotAllowed(decided.reasons[0].text, where="screening")


def _check_overrides(here: Here, old: Score, stops: list[DraftStop]) -> list[str]:
    """Ids that are newly signed for. Raises: NotAllowed where the practice does not allow it."""
    known = {stop.id for stop in old.stops if stop.override}
    signed = [stop.id for stop in stops if len(stop.override.strip()) >= REASON_LEAST and stop.id not in known]
    if signed and not here.layer.overrides:
        raise NotAllowed(
            message("compose-overrides-turned-off-practice-they", signed=signed[0]),
            where="stops",
        )
    return signed


@router.put("/visits/{visit_id}/score")
def edit_score(visit_id: uuid.UUID, edit: ScoreEdit, here: SignedIn) -> VisitOut:
    """Replace the stops of a score. Each is checked against the person's limits; one that may not be is refused."""
    row = visits.visit(here.db, visit_id, lock=True)
    require_untreated(row)
    screening = screening_on_body(here, row.person_id)
    require_session(screening)
    old = Score.model_validate(row.score) if row.score else None
    if old is None:
        raise CoreError(message("compose-there-no-score-yet-compose"), where="visit_id")
    signed = _check_overrides(here, old, edit.stops)
    score = rearranged(here, old, edit.stops, screening)
    store.check_version(row, edit.version, "This score")
    for id in signed:
        reason = next(stop.override for stop in edit.stops if stop.id == id)
        here.audit(row.person_id, f"{id} overridden: {reason}")
    return save_score(here, row, score)


@router.post("/doses/reshape")
def reshape(wish: Reshape) -> Dose:
    """A dose stretched to about so many seconds, or turned into another form of that length."""
    if wish.form is None:
        return stretched(wish.dose, wish.seconds)
    return in_form(wish.form, wish.seconds, together=wish.dose.together)


class DoseText(BaseModel):
    """A dose in the practitioner's own words."""

    model_config = ConfigDict(extra="forbid")

    text: Annotated[str, Field(min_length=1, max_length=200)]


@router.post("/doses/read")
def read_told(told: DoseText) -> Dose:
    """The dose that words mean. Raises: CoreError naming the words that were not understood."""
    return read_dose(told.text)


def _draft_out(row: DraftRow) -> DraftOut:
    return DraftOut(id=row.id, label=row.label, kept_at=row.kept_at, score=Score.model_validate(row.score))


@router.get("/visits/{visit_id}/drafts")
def list_drafts(visit_id: uuid.UUID, here: SignedIn) -> list[DraftOut]:
    """Drafts of a visit, oldest first."""
    row = visits.visit(here.db, visit_id)
    here.reads(row.person_id, "visit")
    return [_draft_out(draft) for draft in stored.drafts_of(here.db, row.id)]


@router.post("/visits/{visit_id}/drafts", status_code=201)
def save_draft(visit_id: uuid.UUID, new: NewDraft, here: SignedIn) -> DraftOut:
    """Keep the score as it is now under a label, to go back to or to compare with."""
    row = visits.visit(here.db, visit_id, lock=True)
    if row.score is None:
        raise CoreError(message("compose-there-no-score-yet-compose"), where="visit_id")
    here.audit(row.person_id, "draft saved")
    return _draft_out(stored.save_draft(here.db, row, new.label, here.practitioner.id))


@router.post("/drafts/{draft_id}/restore")
def restore_draft(draft_id: uuid.UUID, seen: Restore, here: SignedIn) -> VisitOut:
    """Go back to a draft. It is checked anew: the person's answers may have changed since."""
    found = stored.draft(here.db, draft_id)
    row = visits.visit(here.db, found.visit_id, lock=True)
    require_untreated(row)
    screening = screening_on_body(here, row.person_id)
    require_session(screening)
    old = Score.model_validate(found.score)
    score = rearranged(here, old, list(old.stops), screening)
    store.check_version(row, seen.version, "This score")
    return save_score(here, row, score, "draft restored")


class StopWish(BaseModel):
    """A stop to add to a score: a point, an area or a technique."""

    model_config = ConfigDict(extra="forbid")

    id: Id
    side: Literal["left", "right", "both"] | None = None
    override: Annotated[str, Field(max_length=400)] = ""


@router.post("/visits/{visit_id}/stops")
def new_stop(visit_id: uuid.UUID, wish: StopWish, here: SignedIn) -> DraftStop:
    """A stop as the core would do it in this score: dose, level, side and position for this person. Nothing is kept.

    Raises: NotAllowed where it may not be pressed, with the reason.
    """
    row = visits.visit(here.db, visit_id)
    here.reads(row.person_id, "visit")
    screening = screening_on_body(here, row.person_id)
    require_session(screening)
    score = Score.model_validate(row.score) if row.score else None
    school = here.school(score.school if score else DEFAULT_SCHOOL)
    played = [stop.position for stop in score.stops if not stop.muted and stop.kind in PRESSED] if score else []
    taken = {stop.key for stop in score.stops} if score else set()
    return stop_for(
        wish.id,
        wish.side,
        screening,
        school or here.knowledge.school(DEFAULT_SCHOOL),
        tuple(dict.fromkeys(played)),
        taken,
        here.entry,
        wish.override,
        here.knowledge.doses,
    )
