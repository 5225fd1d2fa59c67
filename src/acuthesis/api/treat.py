"""Treatments: events in, state out. The state is always a fold over the stored events."""

import uuid
from typing import Annotated, Literal

from fastapi import APIRouter, Header, Response
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import Paragraph
from acuthesis.core.instant import Instant
from acuthesis.core.treat.events import Reaction, ReactionKind, reactions
from acuthesis.core.treat.rest import RestWish
from acuthesis.services.visit import recompose, treatment
from acuthesis.services.visit.offline_pack import AtHand, at_hand
from acuthesis.services.visit.recompose import RestOffer
from acuthesis.services.visit.treatment import Sent, Treatment
from acuthesis.store import treatments, visits

router = APIRouter(route_class=StrictRoute, tags=["treat"])


class Events(BaseModel):
    """Events in the order in which they happened; sending one again changes nothing.

    `sent_at`: the device's clock at this moment, by which the server sees how far it is off. An event whose time cannot
    be (to come, or of weeks ago) is kept as disputed.
    """

    model_config = ConfigDict(extra="forbid")

    events: Annotated[list[Sent], Field(min_length=1, max_length=500)]
    sent_at: Instant


class Settle(BaseModel):
    """How something that could not be applied stands in the write-up."""

    model_config = ConfigDict(extra="forbid")

    how: Literal["happened", "set_aside"]
    note: Paragraph = ""


@router.get("/reactions")
def list_reactions() -> dict[ReactionKind, Reaction]:
    """What can be seen, and what follows from it."""
    return reactions()


@router.get("/visits/{visit_id}/treatment", response_model=Treatment, responses={304: {"description": "As it was"}})
def read_treatment(
    visit_id: uuid.UUID,
    here: SignedIn,
    response: Response,
    if_none_match: Annotated[str | None, Header(include_in_schema=False)] = None,
) -> Treatment | Response:
    """Where the treatment stands. Asked with the `ETag` of the last answer, it says only whether that still holds.

    Such a look reads nothing of the record, so it leaves no trace in the audit.
    """
    tag = f'"{treatments.events_told(here.db, visit_id)}"'
    if if_none_match == tag:
        return Response(status_code=304, headers={"ETag": tag})
    row = visits.visit(here.db, visit_id)
    here.reads(row.person_id, "treatment")
    response.headers["ETag"] = tag
    return treatment.treatment_of(here, row)


@router.get("/visits/{visit_id}/at-hand")
def read_at_hand(visit_id: uuid.UUID, here: SignedIn) -> AtHand:
    """Everything a treatment needs, for a device that may lose the network. Nothing is begun."""
    return at_hand(here, visit_id)


@router.post("/visits/{visit_id}/events")
def add_events(visit_id: uuid.UUID, sent: Events, here: SignedIn) -> Treatment:
    """Keep events and answer with the state after them. What cannot be applied is kept as disputed."""
    return treatment.save_events(here, visit_id, sent.events, sent.sent_at)


@router.post("/visits/{visit_id}/rest")
def offer_rest(visit_id: uuid.UUID, wish: RestWish, here: SignedIn) -> RestOffer:
    """The rest of a treatment that is under way, composed anew: what it would be. Nothing is kept."""
    return recompose.offer(here, visit_id, wish)


@router.post("/visits/{visit_id}/disputed/{event_id}")
def settle_disputed(visit_id: uuid.UUID, event_id: uuid.UUID, wanted: Settle, here: SignedIn) -> Treatment:
    """Settle something that happened and could not be applied: tell it in the write-up, or set it aside."""
    return treatment.settle(here, visit_id, event_id, wanted.how, wanted.note)
