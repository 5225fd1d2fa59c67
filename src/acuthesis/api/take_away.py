"""Downloads: the visit and plates as PDF, and a person's whole record as JSON, export and import."""

import uuid
from collections.abc import Sequence
from typing import Annotated

from fastapi import APIRouter, Depends, Query, Response

from acuthesis.api.access import SignedIn
from acuthesis.api.concurrency import printing_turn
from acuthesis.api.door import StrictRoute
from acuthesis.api.files import file
from acuthesis.api.spoken import current_reader
from acuthesis.core.atlas.drawing.plates import FACINGS, PARTS
from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.entries.catalogue import Entry, part_of
from acuthesis.core.atlas.entries.groups import GROUPS, group_of
from acuthesis.core.atlas.entries.model import Point
from acuthesis.core.body.figure import Side
from acuthesis.core.compose.score.score import PRESSED, Score, Stop
from acuthesis.core.errors import CoreError, UnknownId
from acuthesis.core.message import message
from acuthesis.core.safety.limits import limit_strip
from acuthesis.core.safety.touching import StopSide, sides_of
from acuthesis.exchange.drawn import DrawnPlace
from acuthesis.exchange.pdf import Added, Aside, PlateRow, RatedComplaint, VisitPaper, plates_pdf, score_pdf, visit_pdf
from acuthesis.exchange.record import PersonRecord
from acuthesis.services import workers
from acuthesis.services.body.locating import located_for
from acuthesis.services.body.plates import plates_of
from acuthesis.services.people.record_export import export_person
from acuthesis.services.people.record_import import import_person
from acuthesis.services.ratings.outcomes import outcomes_of
from acuthesis.services.request.columns import age_on
from acuthesis.services.request.here import Here
from acuthesis.services.request.known import Known
from acuthesis.services.request.person_view import PersonOut, person_out
from acuthesis.services.visit.treatment import disputed_of
from acuthesis.services.visit.write_up import record_for
from acuthesis.store import access, treatments, visits
from acuthesis.store.model import VisitRow

router = APIRouter(route_class=StrictRoute, tags=["take away"])
PDF: dict[int | str, dict[str, object]] = {200: {"content": {"application/pdf": {}}}}


def _drawn(here: Here, known: Known, stops: Sequence[Stop]) -> list[DrawnPlace]:
    """Each place that is pressed, once, on a side on which it is pressed."""
    sides: dict[str, list[StopSide]] = {}
    for stop in stops:
        own = sides.setdefault(stop.id, [])
        own += [side for side in (sides_of(stop.side) if stop.side == "both" else [stop.side]) if side not in own]
    drawn = []
    for id, pressed in sides.items():
        found, target, ready = located_for(here, known, id, sides_of(pressed[0])[0])
        plate = ready.plate_on_paper(found, part_of(target))
        drawn.append(DrawnPlace(found, plate.svg, plate.landmarks, _sides_in_words(pressed)))
    return drawn


def _sides_in_words(pressed: Sequence[StopSide]) -> str:
    say = current_reader().say
    if len(pressed) > 1:
        both, shown = say(message("paper-left-and-right")), say(message(f"side-{pressed[0]}"))
        return say(message("paper-shown-on", sides=both, shown=shown))
    return "" if pressed[0] == "midline" else say(message(f"side-{pressed[0]}"))


def _rated(here: Here, known: Known, row: VisitRow) -> list[RatedComplaint]:
    rated = []
    outcomes = outcomes_of(here, known.complaints)
    for complaint in known.complaints:
        own = known.ratings_of[complaint.id]
        at_visit = {rating.moment: rating.value for rating in own if rating.visit_id == row.id}
        rated.append(
            RatedComplaint(
                name=here.knowledge.name_of(complaint.kind),
                side=complaint.side,
                act=complaint.act,
                before=at_visit.get("before"),
                after=at_visit.get("after"),
                outcome=outcomes[complaint.id],
            )
        )
    return rated


PRINTS = [Depends(printing_turn, scope="function")]


@router.get("/visits/{visit_id}/visit.pdf", response_class=Response, responses=PDF, dependencies=PRINTS)
def visit_sheet(visit_id: uuid.UUID, here: SignedIn) -> Response:
    """The write-up of a visit, with a drawing of every point."""
    row = visits.visit(here.db, visit_id)
    if row.score is None:
        raise CoreError(message("take-away-visit-no-score-yet-so"), where="visit_id")
    known = here.person(row.person_id)
    record = record_for(here, known, row)
    here.audit(known.id, "visit printed")
    held_by = access.practitioner(here.db, row.practitioner_id)
    starts_at = here.local(row.starts_at)
    paper = VisitPaper(
        person=f"{known.row.given_name} {known.row.family_name}".strip(),
        born=known.row.born,
        age=age_on(known.row.born, starts_at.date()),
        practice=here.practice.name,
        practitioner=held_by.name,
        starts_at=starts_at,
        limits=limit_strip(known.screening, on_paper=True),
        score=Score.model_validate(row.score),
        treatment=treatments.treatment(here.db, row.id),
        stops=record.stops,
        rated=_rated(here, known, row),
        record=record.written or record.begun,
        closed_at=None if record.closed_at is None else here.local(record.closed_at),
        closed_by=record.closed_by,
        addenda=[Added(here.local(one.added_at), one.added_by, one.said) for one in record.addenda],
        asides=[
            Aside(here.local(one.at), one.words, one.reason, one.note)
            for one in disputed_of(here, row)
            if one.settled != "set_aside"
        ],
        back_on=None if record.next is None else here.day_of(record.next.starts_at),
    )
    pressed = [stop for stop in paper.score.stops if stop.kind in PRESSED and not stop.muted]
    _ready_to_draw(here, known)
    drawn = _drawn(here, known, pressed)
    return file(workers.printing.run(visit_pdf, paper, drawn), "application/pdf", "visit.pdf")


def _ready_to_draw(here: Here, known: Known) -> None:
    """Read what drawing needs, and end the transaction: drawing and printing hold no connection and no lock."""
    assert known.facts
    assert here.own is not None
    here.release()


@router.get("/visits/{visit_id}/score.pdf", response_class=Response, responses=PDF, dependencies=PRINTS)
def score_sheet(visit_id: uuid.UUID, here: SignedIn) -> Response:
    """The score on one page, for the table: drawn, and stop by stop with where, how long, how hard and why not more."""
    row = visits.visit(here.db, visit_id)
    if row.score is None:
        raise CoreError(message("compose-there-no-score-yet-compose"), where="visit_id")
    score = Score.model_validate(row.score)
    known = here.person(row.person_id)
    where = {stop.id: _where(here.entry(stop.id)) for stop in score.stops if stop.kind in PRESSED}
    limits = limit_strip(known.screening, on_paper=True)
    here.audit(known.id, "score printed")
    here.release()
    starts_at = here.local(row.starts_at)
    content = workers.printing.run(score_pdf, known.row.given_name, here.practice.name, starts_at, score, where, limits)
    return file(content, "application/pdf", "score.pdf")


def _chosen(here: Here, ids: list[str] | None, group: str | None, part: str | None) -> tuple[str, list[Entry]]:
    """Title and entries of plates: those named, those of a group (a channel, a map), or the points of a body part.

    Raises: UnknownId, CoreError where nothing is chosen.
    """
    everything = [*catalogue.entries(), *here.own.values()]
    if ids:
        chosen = [here.entry(id) for id in dict.fromkeys(ids)]
        return (chosen[0].names.english if len(chosen) == 1 else "A set of points"), chosen
    if group is not None:
        if group not in GROUPS:
            raise UnknownId(
                message("take-away-there-no-group-there", group=group, groups=", ".join(GROUPS)), where="group"
            )
        return GROUPS[group], [entry for entry in everything if group_of(entry) == group]
    if part is not None:
        if part not in PARTS:
            raise UnknownId(
                message("take-away-there-no-body-part-there", part=part, parts=", ".join(PARTS)), where="part"
            )
        points: list[Entry] = [one for one in everything if isinstance(one, Point) and one.part == part]
        return f"Points of the {PARTS[part].lower()}", points
    raise CoreError(message("take-away-choose-points-group-or-body"), where="group")


@router.get(
    "/people/{person_id}/plates",
    response_class=Response,
    dependencies=PRINTS,
    responses={200: {"content": {"application/pdf": {}, "image/svg+xml": {}}}},
)
def read_plates(
    person_id: uuid.UUID,
    here: SignedIn,
    ids: Annotated[list[str] | None, Query(max_length=100)] = None,
    group: Annotated[str | None, Query(max_length=20)] = None,
    part: Annotated[str | None, Query(max_length=20)] = None,
    side: Side = "left",
    facing: Annotated[str | None, Query(max_length=20)] = None,
    page: Annotated[int | None, Query(ge=1, le=60)] = None,
) -> Response:
    """Plates of some points, of a channel or a map (`group`), or of a body part, on a person: PDF, or a page as SVG.

    `facing` looks at all of them from one side (front, back, outer, inner, top, sole) instead of at each from its own.
    """
    if facing is not None and facing not in FACINGS:
        raise UnknownId(
            message("take-away-there-no-view-there", facing=facing, facings=", ".join(FACINGS)), where="facing"
        )
    known = here.person(person_id)
    title, chosen = _chosen(here, ids, group, part)
    if not chosen:
        raise CoreError(message("take-away-there-nothing-group-yet"), where="group")
    facts = known.facts
    here.audit(known.id, "plates printed")
    here.release()
    drawings = workers.printing.run(plates_of, facts, chosen, side, facing, page)
    if page is not None:
        return Response(drawings[0].svg, media_type="image/svg+xml")
    rows = [PlateRow(entry.id, entry.names.english, _where(entry), entry.feel) for entry in chosen]
    content = workers.printing.run(
        plates_pdf, title, known.row.given_name, here.practice.name, here.today, drawings, rows
    )
    return file(content, "application/pdf", "plates.pdf")


def _where(entry: Entry) -> str:
    return entry.where if entry.kind == "area" else entry.methods[0].name


@router.get("/people/{person_id}/record")
def export_record(person_id: uuid.UUID, here: SignedIn) -> PersonRecord:
    """Everything that is kept of a person."""
    here.audit(here.person(person_id).id, "record exported")
    return export_person(here.db, person_id)


@router.post("/records", status_code=201)
def import_record(record: PersonRecord, here: SignedIn) -> PersonOut:
    """Take in a person's record as it was exported. All of it is kept or nothing."""
    row = import_person(here, record)
    here.audit(row.id, "record imported")
    return person_out(here.person(row.id))
