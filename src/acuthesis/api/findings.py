"""Findings of the hand on a person, shown on today's figure."""

import uuid
from datetime import datetime
from typing import Annotated

import numpy as np
from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import LineOrNone, PoseId
from acuthesis.core.atlas.entries.catalogue import is_shipped, part_of
from acuthesis.core.atlas.locating.finding import Finding, Offset, Texture, finding_in_words, moved, offset_to
from acuthesis.core.atlas.locating.locate import Triple, triple
from acuthesis.core.atlas.locating.placed import place_one
from acuthesis.core.body.figure import Side
from acuthesis.core.body.frames import frame_of
from acuthesis.core.body.pose import REFERENCE
from acuthesis.core.errors import OutOfRange, UnknownId
from acuthesis.core.message import message
from acuthesis.services.body.bodies import ReadyBody, body_of
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.store import atlas as atlas_store
from acuthesis.store import people as store
from acuthesis.store.model import FindingRow

router = APIRouter(route_class=StrictRoute, tags=["findings"])
Coordinate = Annotated[float, Field(ge=-300, le=300, allow_inf_nan=False)]
Place = tuple[Coordinate, Coordinate, Coordinate]


class FindingIn(BaseModel):
    """What a hand found: beside the rule's place by mm, or at a place on the skin; how sore; how it felt."""

    model_config = ConfigDict(extra="forbid")

    id: uuid.UUID
    entry: Annotated[str, Field(max_length=60)]
    side: Side
    offset: Offset = Offset()
    found_cm: Place | None = None
    pose: Annotated[str, Field(max_length=20)] = REFERENCE  # in which `found_cm` was touched
    soreness: Annotated[int, Field(ge=0, le=10)] | None = None
    texture: Texture | None = None
    note: LineOrNone = ""


class FoundOut(BaseModel):
    """A finding with its place on the figure of today, and in words."""

    id: uuid.UUID
    entry: str
    name: str
    side: Side
    offset: Offset
    position_cm: Triple
    normal: Triple
    soreness: int | None
    texture: Texture | None
    note: str
    at: datetime
    words: str


def _found(here: Here, row: FindingRow, ready: ReadyBody, pose: str = REFERENCE) -> FoundOut:
    target = here.entry(row.entry)
    side: Side = "left" if row.side == "left" else "right"
    finding = Finding(
        entry=row.entry,
        side=side,
        offset=Offset(mm=row.offset_mm),
        soreness=row.soreness,
        texture=row.texture,
        at=row.at,
    )
    stance = ready.posed(pose)
    with ready.lock:
        place = moved(place_one(target, ready.body)[0].on(side).position, finding.offset, target, side, ready.body)
        normal = stance.directions(place[None], ready.body.figure.normals_at(place[None]))[0]
        place = stance.places(place[None])[0]
    return FoundOut(
        id=row.id,
        name=target.names.english,
        position_cm=triple(place),
        normal=triple(normal),
        words=finding_in_words(finding, part_of(target)),
        **finding.model_dump(),
    )


@router.get("/people/{person_id}/findings")
def list_findings(person_id: uuid.UUID, here: SignedIn, pose: PoseId = REFERENCE) -> list[FoundOut]:
    """The person's own map: everything that hands found, oldest first."""
    known = here.person(person_id, "findings")
    ready = body_of(known)
    found = [
        one for one in atlas_store.findings_of(here.db, known.id) if one.entry in here.own or is_shipped(one.entry)
    ]
    return [_found(here, one, ready, pose) for one in found]


@router.post("/people/{person_id}/findings", status_code=201)
def add_finding(person_id: uuid.UUID, wanted: FindingIn, here: SignedIn) -> FoundOut:
    """Keep what a hand found. Sent twice with the same id, it is ready once."""
    person = here.person(person_id)
    row = person.row
    target = here.entry(wanted.entry)
    if wanted.side not in target.sides:
        raise OutOfRange(message("findings-not-on", id=target.id, side=wanted.side), where="side")
    ready = body_of(person)
    offset = wanted.offset
    if wanted.found_cm is not None:
        stance = ready.posed(wanted.pose)
        with ready.lock:
            place = place_one(target, ready.body)[0].on(wanted.side).position
            found, _ = ready.body.figure.nearest_on_skin(stance.back(np.array(wanted.found_cm)))
            offset = offset_to(found, place, target, wanted.side, ready.body)
    directions = frame_of(ready.body.figure, part_of(target), wanted.side)
    for name in offset.mm:
        if name not in directions:
            raise UnknownId(
                message("findings-not-direction-there-there", name=name, directions=", ".join(directions)),
                where="offset.mm",
            )
    known = here.db.get(FindingRow, wanted.id)
    if known is None:
        known = FindingRow(
            id=wanted.id,
            practice_id=row.practice_id,
            person_id=row.id,
            entry=target.id,
            side=wanted.side,
            offset_mm=offset.mm,
            soreness=wanted.soreness,
            texture=wanted.texture,
            note=wanted.note,
            at=now(),
        )
        here.db.add(known)
        here.db.flush()
        here.audit(row.id, f"found at {target.id}")
    elif known.person_id != row.id:
        raise store.Conflict(message("findings-finding-belongs-another-person"), where="id")
    return _found(here, known, ready)
