"""Finding: each point or area located on a person, what lies at a place, what to measure next."""

import uuid
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, ConfigDict

from acuthesis.api.access import SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import PoseId
from acuthesis.core.atlas.entries.catalogue import part_of, points
from acuthesis.core.atlas.entries.model import Point
from acuthesis.core.atlas.locating.assistant import WorthMeasuring, worth_measuring
from acuthesis.core.atlas.locating.locate import Located, in_pose, with_way
from acuthesis.core.atlas.locating.nearby import Nearby, nearby
from acuthesis.core.body.figure import Side
from acuthesis.core.body.pose import REFERENCE
from acuthesis.services.body.bodies import body_of, placed_here
from acuthesis.services.body.locating import checked, located_for, located_on
from acuthesis.store import visits

router = APIRouter(route_class=StrictRoute, tags=["find"])
Centimetres = Annotated[float, Query(ge=-300, le=300, allow_inf_nan=False)]


class Trial(BaseModel):
    """A rule to be seen on a person before it is ready."""

    model_config = ConfigDict(extra="forbid")

    row: dict[str, Any]
    side: Side = "left"


@router.get("/people/{person_id}/places/{id}")
def read_place(person_id: uuid.UUID, id: str, here: SignedIn, side: Side = "left", pose: PoseId = REFERENCE) -> Located:
    """One point or area on a person: place, methods, way over the skin, fingers, steps, cautions."""
    found, target, ready = located_for(here, here.person(person_id, "place"), id, side)
    stance = ready.posed(pose)
    with ready.lock:
        return in_pose(with_way(found, target, ready.body), stance)


@router.post("/people/{person_id}/trial")
def try_rule(person_id: uuid.UUID, trial: Trial, here: SignedIn) -> Located:
    """Where a rule of one's own leads on a person; nothing is ready."""
    known = here.person(person_id, "place")
    return located_on(here, known, checked(trial.row), trial.side, body_of(known))


@router.get("/people/{person_id}/nearby")
def what_is_near(
    person_id: uuid.UUID, here: SignedIn, x: Centimetres, y: Centimetres, z: Centimetres, pose: PoseId = REFERENCE
) -> list[Nearby]:
    """Points, areas and landmarks around a place on a person's skin, the nearest first."""
    ready = body_of(here.person(person_id, "place"))
    placed, stance = placed_here(here, ready), ready.posed(pose)
    with ready.lock:
        place, _ = ready.body.figure.nearest_on_skin(stance.back(np.array([x, y, z])))
        return nearby(place, ready.body, placed)


@router.get("/people/{person_id}/measure-next")
def what_to_measure_next(
    person_id: uuid.UUID, here: SignedIn, ids: Annotated[list[str] | None, Query(max_length=400)] = None
) -> list[WorthMeasuring]:
    """Which measure would make the places of some points surer (by default those of the visit's score, or all)."""
    known = here.person(person_id, "place")
    if ids is None:
        last = visits.visits_of(here.db, known.id)[-1:]
        ids = [id for visit in last for id in visits.planned(visits.visit(here.db, visit.id))]
    wanted = [here.entry(id) for id in ids]
    chosen = [one for one in wanted if isinstance(one, Point)] or list(points().values())
    ready = body_of(known)
    with ready.lock:
        return worth_measuring(chosen, ready.body)


@router.get(
    "/people/{person_id}/places/{id}/drawing",
    response_class=Response,
    responses={200: {"content": {"image/svg+xml": {}}}},
)
def read_drawing(person_id: uuid.UUID, id: str, here: SignedIn, side: Side = "left") -> Response:
    """The flat drawing of a point or area on a person, as SVG."""
    found, target, ready = located_for(here, here.person(person_id, "place"), id, side)
    return Response(ready.plate(found, part_of(target)), media_type="image/svg+xml")
