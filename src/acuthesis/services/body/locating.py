"""Places on a person, with their limits and the practitioner's fingers; a trial of a practice's own rules."""

from typing import Any

from acuthesis.core.atlas.entries.catalogue import Entry, is_shipped
from acuthesis.core.atlas.locating.locate import Located
from acuthesis.core.atlas.locating.own import TRIED_ON, own_entry, try_on
from acuthesis.core.atlas.locating.placed import place_one
from acuthesis.core.body.figure import Side
from acuthesis.core.safety.located import locate_within
from acuthesis.core.safety.near import refused_near
from acuthesis.services.body.bodies import ReadyBody, body_of, seen_on_body, shelf
from acuthesis.services.request.columns import fingers_of
from acuthesis.services.request.here import Here
from acuthesis.services.request.known import Known


def located_for(here: Here, known: Known, id: str, side: Side) -> tuple[Located, Entry, ReadyBody]:
    """A target on a person, with their limits and the practitioner's fingers."""
    target, ready = here.entry(id), body_of(known)
    return located_on(here, known, target, side, ready), target, ready


def located_on(here: Here, known: Known, target: Entry, side: Side, ready: ReadyBody) -> Located:
    """A target on a body that is at hand: refused also where one's own or preferred place lies on a refused one."""
    practitioner = fingers_of(here.practitioner.fingers).measured()
    screening = seen_on_body(known)
    with ready.lock:
        found = locate_within(target, side, ready.body, screening, practitioner)
        moved = not is_shipped(target.id) or target.id in here.knowledge.preferred
        own = place_one(target, ready.body)[0] if moved and found.refused is None else None
    refused = None if own is None else refused_near(own.on(side), ready.placed(), screening)
    return found if refused is None else found.model_copy(update={"refused": refused})


def checked(row: dict[str, Any], where: str = "row") -> Entry:
    """An own entry that can be placed on every build it is tried on. Raises: CoreError."""
    found = own_entry(row, where)
    for facts in TRIED_ON:
        ready = shelf.body(facts)
        with ready.lock:
            try_on(found, [ready.body], where)
    return found
