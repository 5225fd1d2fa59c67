"""Prepares a score for its treatment: checked against today's limits, with everything the table needs.

What goes with it is at hand without the server: what earlier visits say of each place, and what helps this person when
something is wrong.
"""

import uuid
from collections import defaultdict
from collections.abc import Mapping, Sequence

from acuthesis.core.atlas.entries.catalogue import part_of
from acuthesis.core.atlas.locating.finding import Finding, Offset, WayBeside, beside, finding_in_words
from acuthesis.core.atlas.locating.placed import place_one
from acuthesis.core.body.figure import Side
from acuthesis.core.body.frames import frame_of
from acuthesis.core.compose.score.arrange import arrange
from acuthesis.core.compose.score.score import PRESSED, Before, DraftStop, Score, Stop, total_s
from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.message import message
from acuthesis.core.safety.first_aid import help_for
from acuthesis.core.treat.state import TreatmentState
from acuthesis.core.words import short_id
from acuthesis.services.body.bodies import ReadyBody, body_of, screening_on_body
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.store import atlas, booking, visits
from acuthesis.store.model import FindingRow, VisitRow

MOST_BEFORE = 4  # earlier visits that are told of a place: the last ones


def laid_out(here: Here, row: VisitRow) -> Score:
    """The score of a visit as it may be played today. Raises: NotAllowed with every reason why it may not."""
    old = Score.model_validate(row.score)
    if old.decision != "ok":
        raise NotAllowed(message("fold-screening-does-not-allow-session"), where="screening")
    screening, school = screening_on_body(here, row.person_id), here.school(old.school)
    reasons: list[tuple[str, str]] = []
    for rank, stop in enumerate(old.stops):
        try:
            arrange([stop], screening, school, here.entry)
        except CoreError as refused:
            name = short_id(stop.id) if stop.kind in PRESSED else stop.name
            said = f"{name}: {here.say(refused.message).removeprefix(f'{stop.id}: ')}"
            reasons.append((refused.where.replace("stops.0", f"stops.{rank}", 1), said))
    if reasons:
        raise NotAllowed(
            message("preparing-stops-no-longer-allowed", count=len(reasons)), where=reasons[0][0], details=reasons
        )
    stops = arrange(old.stops, screening, school, here.entry, alone=old.alone)
    helped = help_for(screening, here.practice.emergency, _room(here, row))
    told = told_of_places(here, row.person_id, stops)
    return old.model_copy(update={"stops": told, "total_s": total_s(stops), "help": helped})


def laid_after(here: Here, row: VisitRow, state: TreatmentState, drafts: Sequence[DraftStop]) -> tuple[Stop, ...]:
    """Stops laid out after the one that hands are at, each checked against what holds now. Raises: NotAllowed."""
    assert state.score is not None
    screening, school = screening_on_body(here, row.person_id), here.school(state.score.school)
    current = state.stops.get(state.current or "")
    laid = arrange(drafts, screening, school, here.entry, alone=state.score.alone, after=current)
    base = current.start_s + current.duration_s if current is not None else 0.0
    return tuple(Stop.model_validate({**stop.model_dump(), "start_s": round(stop.start_s + base, 1)}) for stop in laid)


def told_of_places(here: Here, person_id: uuid.UUID, stops: Sequence[Stop]) -> tuple[Stop, ...]:
    """The stops with what earlier visits say of their places: soreness, what eased it, where they were found.

    It goes with the score from the beginning on, so that it is at hand without the server.
    """
    felt: dict[str, list[Before]] = defaultdict(list)
    for starts_at, sores in visits.felt_at(here.db, person_id, now()):
        for one in sores:
            way = one.way if one.way != "later" else None
            before = Before(on=here.day_of(starts_at), side=one.side, first=one.first, last=one.last, way=way)
            felt[one.id].append(before)
    found: dict[str, dict[str, FindingRow]] = defaultdict(dict)
    for row in atlas.findings_of(here.db, person_id):
        found[row.entry][row.side] = row
    known = here.person(person_id)
    ready = body_of(known) if known.has_figure else None
    return tuple(
        stop.model_copy(
            update={
                "before": tuple(sore for sore in felt[stop.id] if _same_side(sore.side, stop.side))[-MOST_BEFORE:],
                "found": _found_words(here, stop, found[stop.id]),
                "beside": _beside(here, ready, stop) if ready else (),
            }
        )
        if stop.kind in PRESSED
        else stop
        for stop in stops
    )


def _beside(here: Here, ready: ReadyBody, stop: Stop) -> tuple[WayBeside, ...]:
    """The four ways in which a hand may find a place elsewhere, as they lie on this person."""
    entry, middle = here.entry(stop.id), stop.side == "midline"
    side: Side = "right" if stop.side == "right" else "left"
    with ready.lock:
        placed = place_one(entry, ready.body)[0].on(side)
        frame = frame_of(ready.body.figure, part_of(entry), side)
    return beside(part_of(entry), frame, placed.normal, middle=middle)


def _same_side(felt: str, stop: str) -> bool:
    return felt == stop or "both" in (felt, stop)


def _found_words(here: Here, stop: Stop, rows: Mapping[str, FindingRow]) -> str:
    """Where hands found the place on this person, side by side; empty where nobody noted it."""
    part = part_of(here.entry(stop.id))
    told = []
    for side in ("right", "left"):
        row = rows.get(side)
        if row is None or not _same_side(side, stop.side):
            continue
        finding = Finding(
            entry=row.entry, side=row.side, offset=Offset(mm=row.offset_mm), texture=row.texture, at=row.at
        )
        if finding.offset.mm or finding.texture:
            told.append(f"{side}: {finding_in_words(finding, part)}")
    return "; ".join(told)


def _room(here: Here, row: VisitRow) -> str:
    """Where the visit is held, as it is said on the phone: the place with its address, else the practice's name."""
    if row.place_id is None:
        return here.practice.name
    place = booking.place(here.db, row.place_id)
    return ", ".join(part for part in (place.name, place.address) if part)
