"""What leaves the application: the visit and the home sheet as PDF, and a person's whole record as JSON, out and in."""

import uuid
from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Query, Response

from acuthesis.api.access import Here, SignedIn, now
from acuthesis.api.atlas import entry_here, own_entries
from acuthesis.api.complaints import judged
from acuthesis.api.figures import kept_body, screening_here
from acuthesis.api.find import located_for
from acuthesis.api.knowledge import knowledge_here
from acuthesis.api.people import PersonOut, person_out
from acuthesis.api.records import export_person, import_person
from acuthesis.core.atlas import catalogue
from acuthesis.core.atlas.catalogue import Entry, part_of
from acuthesis.core.atlas.groups import GROUPS, group_of
from acuthesis.core.atlas.model import Point
from acuthesis.core.atlas.placed import place_one
from acuthesis.core.atlas.plate import plate
from acuthesis.core.atlas.plates import FACINGS, PARTS, drawn, pages
from acuthesis.core.body.figure import Side
from acuthesis.core.compose.home import TIMES_A_DAY, home_set
from acuthesis.core.compose.score import PRESSED, Score
from acuthesis.core.errors import CoreError, UnknownId
from acuthesis.core.safety.rules import limit_strip, sides_of
from acuthesis.exchange.pdf import Drawn, Rated, Row, home_pdf, plates_pdf, score_pdf, visit_pdf
from acuthesis.exchange.record import PersonRecord
from acuthesis.store import people as store
from acuthesis.store import visits
from acuthesis.store.model import PersonRow, PracticeRow, VisitRow

router = APIRouter(tags=["take away"])
PDF: dict[int | str, dict[str, object]] = {200: {"content": {"application/pdf": {}}}}


def _drawn(here: Here, person: PersonRow, id: str, side: Side) -> Drawn:
    found, target, kept = located_for(here, person, id, side)
    return Drawn(found, plate(found, part_of(target), kept.body))


def _practice(here: Here) -> str:
    return here.session.get_one(PracticeRow, here.practice_id).name


def _rated(here: Here, row: VisitRow) -> list[Rated]:
    ratings = store.ratings(here.session, row.person_id)
    known = knowledge_here(here)
    rated = []
    for complaint in store.complaints(here.session, row.person_id):
        own = [rating for rating in ratings if rating.complaint_id == complaint.id]
        at_visit = {rating.moment: rating.value for rating in own if rating.visit_id == row.id}
        rated.append(
            Rated(
                name=known.name_of(complaint.kind),
                side=complaint.side,
                act=complaint.act,
                before=at_visit.get("before"),
                after=at_visit.get("after"),
                change=judged(own),
            )
        )
    return rated


def _pdf(content: bytes, name: str) -> Response:
    return Response(
        content, media_type="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}.pdf"'}
    )


@router.get("/visits/{visit_id}/visit.pdf", response_class=Response, responses=PDF)
def visit_sheet(visit_id: uuid.UUID, here: SignedIn) -> Response:
    """The write-up of a visit, with a drawing of every point."""
    row = visits.visit(here.session, visit_id)
    if row.score is None:
        raise CoreError("this visit has no score yet, so there is nothing to write up", where="visit_id")
    person = store.person(here.session, row.person_id)
    score = Score.model_validate(row.score)
    drawings = [
        _drawn(here, person, stop.id, sides_of(stop.side)[0])
        for stop in score.stops
        if stop.kind in ("point", "area") and not stop.muted
    ]
    store.audit(here.session, here.practice_id, here.practitioner.id, person.id, "visit printed")
    content = visit_pdf(
        person=f"{person.given_name} {person.family_name}".strip(),
        practice=_practice(here),
        practitioner=here.practitioner.name,
        starts_at=row.starts_at,
        limits=list(limit_strip(store.screening_of(here.session, person.id, here.practitioner))),
        score=score,
        treatment=visits.treatment(here.session, row.id),
        rated=_rated(here, row),
        drawn=drawings,
    )
    return _pdf(content, "visit")


@router.get("/visits/{visit_id}/score.pdf", response_class=Response, responses=PDF)
def score_sheet(visit_id: uuid.UUID, here: SignedIn) -> Response:
    """The score on one page, for the table: drawn, and stop by stop with where, how long, how hard and why not more."""
    row = visits.visit(here.session, visit_id)
    if row.score is None:
        raise CoreError("compose first: there is no score yet", where="visit_id")
    score = Score.model_validate(row.score)
    person = store.person(here.session, row.person_id)
    where = {stop.id: _where(entry_here(here, stop.id)) for stop in score.stops if stop.kind in PRESSED}
    limits = limit_strip(store.screening_of(here.session, person.id, here.practitioner))
    store.audit(here.session, here.practice_id, here.practitioner.id, person.id, "score printed")
    return _pdf(score_pdf(person.given_name, _practice(here), row.starts_at, score, where, limits), "score")


@router.get("/people/{person_id}/home.pdf", response_class=Response, responses=PDF)
def home_sheet(person_id: uuid.UUID, here: SignedIn) -> Response:
    """The home sheet: a few points the person reaches alone, drawn on their own figure."""
    person = store.person(here.session, person_id)
    screening = screening_here(here, person.id)
    open_complaints = [c.kind for c in store.complaints(here.session, person.id) if c.closed_on is None]
    points = []
    for point in home_set(open_complaints, screening, knowledge_here(here)):
        one = _drawn(here, person, point.id, "left")
        # At home the person presses with their own hand: the practitioner's width is no help there.
        alone = [check.model_copy(update={"practitioner_cm": None}) for check in one.located.fingers]
        located = one.located.model_copy(update={"fingers": alone})
        _, target, kept = located_for(here, person, point.id, "left")
        points.append((point, replace(one, located=located, svg=plate(located, part_of(target), kept.body))))
    store.audit(here.session, here.practice_id, here.practitioner.id, person.id, "home sheet printed")
    return _pdf(
        home_pdf(person.given_name, _practice(here), now().date(), points, TIMES_A_DAY),
        "home",
    )


def _chosen(here: Here, ids: list[str] | None, group: str | None, part: str | None) -> tuple[str, list[Entry]]:
    """Title and entries of plates: those named, those of a group (a channel, a map), or the points of a body part.

    Raises: UnknownId, CoreError where nothing is chosen.
    """
    everything = [*catalogue.entries(), *own_entries(here).values()]
    if ids:
        chosen = [entry_here(here, id) for id in dict.fromkeys(ids)]
        return (chosen[0].names.english if len(chosen) == 1 else "A set of points"), chosen
    if group is not None:
        if group not in GROUPS:
            raise UnknownId(f"there is no group '{group}'; there are {', '.join(GROUPS)}", where="group")
        return GROUPS[group], [entry for entry in everything if group_of(entry) == group]
    if part is not None:
        if part not in PARTS:
            raise UnknownId(f"there is no body part '{part}'; there are {', '.join(PARTS)}", where="part")
        points: list[Entry] = [one for one in everything if isinstance(one, Point) and one.part == part]
        return f"Points of the {PARTS[part].lower()}", points
    raise CoreError("say which: ids of points, a group, or a body part", where="group")


@router.get(
    "/people/{person_id}/plates",
    response_class=Response,
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
        raise UnknownId(f"there is no view '{facing}'; there are {', '.join(FACINGS)}", where="facing")
    person = store.person(here.session, person_id)
    title, chosen = _chosen(here, ids, group, part)
    if not chosen:
        raise CoreError("there is nothing in this group yet", where="group")
    kept = kept_body(here, person)
    with kept.lock:
        placed = [
            one.on(side) if side in entry.sides else one for entry in chosen for one in place_one(entry, kept.body)[:1]
        ]
        shared_out = pages(placed, facing)
        if page is not None and page > len(shared_out):
            raise CoreError(f"there are {len(shared_out)} pages", where="page")
        wanted = shared_out if page is None else shared_out[page - 1 : page]
        drawings = [drawn(one, kept.body, chosen=facing is not None) for one in wanted]
    if page is not None:
        return Response(drawings[0].svg, media_type="image/svg+xml")
    store.audit(here.session, here.practice_id, here.practitioner.id, person.id, "plates printed")
    rows = [Row(entry.id, entry.names.english, _where(entry), entry.feel) for entry in chosen]
    return _pdf(plates_pdf(title, person.given_name, _practice(here), now().date(), drawings, rows), "plates")


def _where(entry: Entry) -> str:
    return entry.where if entry.kind == "area" else entry.methods[0].name


@router.get("/people/{person_id}/record")
def export_record(person_id: uuid.UUID, here: SignedIn) -> PersonRecord:
    """Everything that is kept of a person."""
    store.audit(here.session, here.practice_id, here.practitioner.id, person_id, "record exported")
    return export_person(here.session, person_id)


@router.post("/records", status_code=201)
def import_record(record: PersonRecord, here: SignedIn) -> PersonOut:
    """Take in a person's record as it was exported. All of it is kept or nothing."""
    row = import_person(here.session, record, here.practitioner)
    store.audit(here.session, here.practice_id, here.practitioner.id, row.id, "record imported")
    return person_out(here, row)
