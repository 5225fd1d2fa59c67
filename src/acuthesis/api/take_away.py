"""What leaves the application: the visit and the home sheet as PDF, and a person's whole record as JSON, out and in."""

import uuid
from dataclasses import replace

from fastapi import APIRouter, Response

from acuthesis.api.access import Here, SignedIn, now
from acuthesis.api.complaints import judged
from acuthesis.api.find import located_for
from acuthesis.api.people import PersonOut, person_out
from acuthesis.api.records import export_person, import_person
from acuthesis.core.atlas.finding import part_of
from acuthesis.core.atlas.plate import plate
from acuthesis.core.body.figure import Side
from acuthesis.core.compose.home import TIMES_A_DAY, home_set
from acuthesis.core.compose.knowledge import complaint_kind
from acuthesis.core.compose.score import Score
from acuthesis.core.errors import CoreError
from acuthesis.core.safety.rules import limit_strip, sides_of
from acuthesis.exchange.pdf import Drawn, Rated, home_pdf, visit_pdf
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
    rated = []
    for complaint in store.complaints(here.session, row.person_id):
        own = [rating for rating in ratings if rating.complaint_id == complaint.id]
        at_visit = {rating.moment: rating.value for rating in own if rating.visit_id == row.id}
        rated.append(
            Rated(
                name=complaint_kind(complaint.kind).name,
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
    drawn = [
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
        limits=list(limit_strip(store.screening_of(here.session, person.id))),
        score=score,
        treatment=visits.treatment(here.session, row.id),
        rated=_rated(here, row),
        drawn=drawn,
    )
    return _pdf(content, "visit")


@router.get("/people/{person_id}/home.pdf", response_class=Response, responses=PDF)
def home_sheet(person_id: uuid.UUID, here: SignedIn) -> Response:
    """The home sheet: a few points the person reaches alone, drawn on their own figure."""
    person = store.person(here.session, person_id)
    screening = store.screening_of(here.session, person.id)
    open_complaints = [c.kind for c in store.complaints(here.session, person.id) if c.closed_on is None]
    points = []
    for point in home_set(open_complaints, screening):
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
