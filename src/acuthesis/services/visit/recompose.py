"""Recomposes the rest of a running treatment: offered first, laid out once it is accepted."""

import uuid

from pydantic import BaseModel

from acuthesis.core.compose.score.score import Score, Stop, total_s
from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.message import message
from acuthesis.core.treat.rest import RestWish, drafts_of_rest, looks_s, only_the_end, rest_request
from acuthesis.core.treat.state import GivenUp
from acuthesis.services import workers
from acuthesis.services.body.bodies import screening_on_body
from acuthesis.services.request.here import Here
from acuthesis.services.visit.composing import CompositionInput, request_for
from acuthesis.services.visit.preparing import laid_after
from acuthesis.store import people, treatments, visits
from acuthesis.store.model import VisitRow


class RestOffer(BaseModel):
    """What the rest would be: its stops, what would give way, the seconds kept for second looks, and whether nothing
    better fits (`proven`).
    """

    stops: list[Stop]
    seconds: float
    looks_s: float
    gives_way: list[GivenUp]
    proven: bool


def offer(here: Here, visit_id: uuid.UUID, wish: RestWish) -> RestOffer:
    """The rest of a treatment as it would be. Nothing is kept. Raises: NotFound, NotAllowed, CoreError."""
    row = visits.visit(here.db, visit_id)
    here.reads(row.person_id, "treatment")
    state = treatments.treatment(here.db, row.id)
    score = state.score
    if score is None:
        raise NotAllowed(message("rest-no-session-progress"), where="visit_id")
    request = rest_request(state, request_for(here, row, _wish(here, row, score)), wish)
    screening = screening_on_body(here, row.person_id)
    try:
        composed = workers.composed(request, screening, here.layer, here.own)
    except CoreError as nothing_fits:
        if wish.add is not None:
            raise
        ending = only_the_end(state)
        if not ending:
            raise NotAllowed(nothing_fits.message, where="minutes") from nothing_fits
        composed = score.model_copy(update={"stops": tuple(ending), "objective": score.objective})
    if composed.decision != "ok":
        raise NotAllowed(composed.reasons[0].text, where="screening")
    stops = laid_after(here, row, state, drafts_of_rest(state, composed.stops, wish.minutes))
    again = {(stop.id, stop.side) for stop in stops}
    gone = [
        GivenUp(key=key, id=stop.id, name=stop.name, side=stop.side, kind=stop.kind, why="")
        for key, stop in state.stops.items()
        if not state.records[key].started and not state.records[key].left and (stop.id, stop.side) not in again
        if stop.kind in ("point", "area")
    ]
    return RestOffer(
        stops=list(stops),
        seconds=round(total_s(stops) - stops[0].start_s + stops[0].find_s, 1) if stops else 0,
        looks_s=looks_s(state, wish.minutes),
        gives_way=gone,
        proven=composed.objective.gap == 0,
    )


def _wish(here: Here, row: VisitRow, score: Score) -> CompositionInput:
    """What the score that is played was composed for: its complaints as the person has them."""
    kinds = {one.complaint for one in score.coverage}
    all_of_theirs = people.complaints(here.db, [row.person_id])
    own = [their.id for their in all_of_theirs if their.kind in kinds and their.closed_on is None][-12:]
    if not own:
        raise NotAllowed(message("recompose-score-no-complaint-compose"), where="visit_id")
    setting = "self_care" if score.alone else "practice"
    return CompositionInput(complaint_ids=own, minutes=score.minutes, school=score.school, setting=setting)
