"""Offline pack of a visit of today: everything that a treatment needs on a device that may lose the network."""

import uuid

from pydantic import BaseModel

from acuthesis.core.atlas.locating.locate import Located, in_pose, with_way
from acuthesis.core.body.figure import Side
from acuthesis.core.body.pose import REFERENCE
from acuthesis.core.compose.score.score import PRESSED, Score
from acuthesis.core.errors import CoreError
from acuthesis.services.body.locating import located_for
from acuthesis.services.request.here import Here
from acuthesis.services.request.known import Known
from acuthesis.services.request.person_view import PersonOut, person_out
from acuthesis.services.visit.composing import VisitOut, visit_out
from acuthesis.services.visit.preparing import laid_out
from acuthesis.services.visit.treatment import Treatment, require_fit_answers, treatment_of
from acuthesis.store import visits
from acuthesis.store.model import VisitRow

SIDES: dict[str, tuple[Side, ...]] = {
    "left": ("left",),
    "right": ("right",),
    "both": ("left", "right"),
    "midline": ("left",),
}


class AtHand(BaseModel):
    """A visit with its score as it would begin now, the person, where the treatment stands, and where its places are.

    `refused`: why it would not be begun as it is; a device that is away must not begin it then.
    """

    visit: VisitOut
    person: PersonOut
    treatment: Treatment
    places: list[Located]
    refused: str


def at_hand(here: Here, visit_id: uuid.UUID) -> AtHand:
    """Everything a treatment needs. Nothing is begun, and nothing is kept. Raises: NotFound."""
    row = visits.visit(here.db, visit_id)
    known = here.person(row.person_id, "visit made available offline")
    score, refused = _as_it_would_begin(here, row)
    return AtHand(
        visit=visit_out(row).model_copy(update={"score": score}),
        person=person_out(known),
        treatment=treatment_of(here, row),
        places=[] if score is None or refused else _places(here, known, score),
        refused=refused,
    )


def _as_it_would_begin(here: Here, row: VisitRow) -> tuple[Score | None, str]:
    if row.score is None:
        return None, "There is no score yet."
    if row.treatment != "not_begun":
        return Score.model_validate(row.score), ""
    try:
        require_fit_answers(here, row.person_id)
        return laid_out(here, row), ""
    except CoreError as refusal:
        return Score.model_validate(row.score), here.say(refusal.message)


def _places(here: Here, known: Known, score: Score) -> list[Located]:
    """Every place of the score on this person, on the sides that are worked."""
    stops = [stop for stop in score.stops if stop.kind in PRESSED and not stop.muted]
    wanted = dict.fromkeys((stop.id, side) for stop in stops for side in SIDES[stop.side])
    found = []
    for id, side in wanted:
        located, target, ready = located_for(here, known, id, side)
        stance = ready.posed(REFERENCE)
        with ready.lock:
            found.append(in_pose(with_way(located, target, ready.body), stance))
    return found
