"""Plates of a person's body, drawn in a worker process from facts alone, so that no body has to be sent to it."""

from collections.abc import Sequence
from functools import lru_cache

from acuthesis.core.atlas.drawing.plates import Plate, drawn, pages
from acuthesis.core.atlas.entries.catalogue import Entry
from acuthesis.core.atlas.locating.placed import place_one
from acuthesis.core.body.asset import load_asset
from acuthesis.core.body.figure import Side
from acuthesis.core.body.fit import FittedBody, fit
from acuthesis.core.body.person import BodyFacts
from acuthesis.core.errors import CoreError
from acuthesis.core.message import message
from acuthesis.settings import settings


@lru_cache(maxsize=4)
def _body(facts: str) -> FittedBody:
    return fit(load_asset(settings().body_asset), BodyFacts.model_validate_json(facts))


def plates_of(
    facts: BodyFacts,
    entries: Sequence[Entry],
    side: Side,
    facing: str | None,
    page: int | None,
) -> list[Plate]:
    """Drawings (SVG) of points and areas on a body; of one page, or of all of them. Raises: CoreError for a page that
    there is not."""
    body = _body(facts.model_dump_json())
    placed = [one.on(side) if side in entry.sides else one for entry in entries for one in place_one(entry, body)[:1]]
    shared_out = pages(placed, facing)
    if page is not None and page > len(shared_out):
        raise CoreError(message("plates-there-pages", count=len(shared_out)), where="page")
    wanted = shared_out if page is None else shared_out[page - 1 : page]
    return [drawn(one, body, chosen=facing is not None) for one in wanted]
