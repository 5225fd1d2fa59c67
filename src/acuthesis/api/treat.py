"""Treating: events in, state out. The state is always a fold over what is kept."""

import uuid

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import Here, SignedIn, now
from acuthesis.core.errors import NotAllowed
from acuthesis.core.safety.screening import is_stale
from acuthesis.core.safety.verdict import verdict
from acuthesis.core.treat.events import Begin, Event, Reaction, ReactionKind, reactions
from acuthesis.core.treat.session import Session
from acuthesis.store import people as store
from acuthesis.store import visits

router = APIRouter(tags=["treat"])


class Events(BaseModel):
    """Events in the order in which they happened; sending one again changes nothing."""

    model_config = ConfigDict(extra="forbid")

    events: list[Event] = Field(min_length=1, max_length=500)


@router.get("/reactions")
def list_reactions() -> dict[ReactionKind, Reaction]:
    """What can be seen, and what follows from it."""
    return reactions()


@router.get("/visits/{visit_id}/treatment")
def read_treatment(visit_id: uuid.UUID, here: SignedIn) -> Session:
    """Where the treatment stands."""
    row = visits.visit(here.session, visit_id)
    return visits.treatment(here.session, row.id)


def _require_fit_answers(here: Here, person_id: uuid.UUID) -> None:
    """Raises: NotAllowed where nobody was asked, the answers are too old, or they allow no session."""
    answered = store.latest_screening(here.session, person_id)
    screening = store.screening_of(here.session, person_id, here.practitioner)
    decided = verdict(screening)
    if decided.decision != "ok":
        raise NotAllowed(decided.reasons[0].text, where="screening")
    if answered is None:
        raise NotAllowed("nobody has been asked the screening yet", where="screening")
    if is_stale(answered.answered_at.date(), now().date(), screening):
        raise NotAllowed(
            f"the answers are of {answered.answered_at.date():%-d %B %Y}; ask them again before the session",
            where="screening",
        )


@router.post("/visits/{visit_id}/events")
def add_events(visit_id: uuid.UUID, sent: Events, here: SignedIn) -> Session:
    """Keep events and answer with the state after them. All are kept or none."""
    row = visits.visit(here.session, visit_id, lock=True)
    if any(isinstance(event, Begin) for event in sent.events):
        _require_fit_answers(here, row.person_id)
    store.audit(here.session, here.practice_id, here.practitioner.id, row.person_id, "treatment events")
    return visits.keep_events(here.session, row, sent.events)
