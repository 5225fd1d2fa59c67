"""The record of a visit: drafted from its events, worded by the practitioner, closed, append-only from then on."""

import uuid
from collections.abc import Mapping
from datetime import datetime

from pydantic import BaseModel

from acuthesis.core.compose.score.score import Score
from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.message import message
from acuthesis.core.treat.account import RatedAtVisit, StopAccount, WriteUp, account, was_wrong, write_up
from acuthesis.services.calendar import booking
from acuthesis.services.calendar.booking import Appointment
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.services.request.known import Known
from acuthesis.services.visit.treatment import Disputed, disputed_of
from acuthesis.store import treatments, visits
from acuthesis.store.model import AddendumRow, VisitRow
from acuthesis.store.people import check_version


class Addendum(BaseModel):
    """What was added after the record was closed."""

    id: uuid.UUID
    said: str
    added_by: str
    added_at: datetime


class VisitRecord(BaseModel):
    """A visit on one page. `begun` is what the events say; `written` what the practitioner made of it, if anything."""

    appointment: Appointment
    version: int
    composed: bool
    rated: list[RatedAtVisit]
    began_at: datetime | None
    ended_at: datetime | None
    stops: list[StopAccount]
    begun: WriteUp
    written: WriteUp | None
    closed_at: datetime | None
    closed_by: str
    addenda: list[Addendum]
    disputed: list[Disputed]
    next: Appointment | None


def record_of(here: Here, visit_id: uuid.UUID) -> VisitRecord:
    """The record of a visit. Raises: NotFound."""
    row = visits.visit(here.db, visit_id)
    return record_for(here, here.person(row.person_id, "visit record"), row)


def record_for(here: Here, known: Known, row: VisitRow) -> VisitRecord:
    """The record of a visit of a person who was read already."""
    state = treatments.treatment(here.db, row.id)
    score = Score.model_validate(row.score) if row.score else None
    rated, stops = _rated(here, known, row), account(state, score)
    names = {colleague.id: colleague.name for colleague in here.colleagues}
    own = booking.of_person(here, known.id)
    return VisitRecord(
        appointment=booking.appointment(here, row.id),
        version=row.version,
        composed=score is not None,
        rated=rated,
        began_at=state.began_at,
        ended_at=state.ended_at,
        stops=stops,
        begun=write_up(rated, stops, state),
        written=None if row.written is None else WriteUp.model_validate(row.written),
        closed_at=row.closed_at,
        closed_by=names[row.closed_by] if row.closed_by else "",
        addenda=[
            Addendum(id=one.id, said=one.said, added_by=names[one.added_by], added_at=one.added_at)
            for one in visits.addenda_of(here.db, row.id)
        ],
        disputed=disputed_of(here, row),
        next=next((one for one in own if one.starts_at > row.starts_at and one.attendance == "expected"), None),
    )


def write(here: Here, visit_id: uuid.UUID, version: int, words: WriteUp) -> VisitRecord:
    """Keep the words of a record that is still open. Raises: NotFound, Conflict; NotAllowed once it is closed."""
    row = visits.visit(here.db, visit_id, lock=True)
    visits.require_open(row)
    check_version(row, version, "This record")
    row.written = words.model_dump()
    here.audit(row.person_id, "visit record written")
    here.db.flush()
    return record_of(here, row.id)


def close(here: Here, visit_id: uuid.UUID, version: int) -> VisitRecord:
    """Close the record of a visit: from now on it is only added to.

    What was never written down is closed as it began. Raises: NotFound, Conflict; NotAllowed where the treatment is
    still going on, or something that happened has not been settled.
    """
    row = visits.visit(here.db, visit_id, lock=True)
    visits.require_open(row)
    check_version(row, version, "This record")
    if row.treatment == "open":
        raise NotAllowed(message("write-up-session-still-progress"), where="visit_id")
    if row.starts_at > now() and row.treatment == "not_begun":
        raise NotAllowed(message("write-up-visit-future"), where="visit_id")
    if any(one.settled is None for one in disputed_of(here, row)):
        raise NotAllowed(message("write-up-resolve-disputed-entries-first"), where="disputed")
    something_wrong = was_wrong(treatments.treatment(here.db, row.id))
    if something_wrong and not (row.written and WriteUp.model_validate(row.written).observed.strip()):
        raise NotAllowed(message("write-up-something-went-wrong-at-visit"), where="observed")
    if row.written is None:
        row.written = record_of(here, row.id).begun.model_dump()
    row.closed_at, row.closed_by = now(), here.practitioner.id
    here.audit(row.person_id, "visit record closed")
    here.db.flush()
    return record_of(here, row.id)


def add(here: Here, visit_id: uuid.UUID, said: str) -> VisitRecord:
    """Add to a record that is closed. Raises: NotFound; NotAllowed while it is open; CoreError for nothing said."""
    row = visits.visit(here.db, visit_id, lock=True)
    if row.closed_at is None:
        raise NotAllowed(message("write-up-record-still-open-edit-directly"), where="visit_id")
    if not said.strip():
        raise CoreError(message("write-up-enter-addendum"), where="said")
    here.db.add(
        AddendumRow(
            id=uuid.uuid4(),
            practice_id=row.practice_id,
            person_id=row.person_id,
            visit_id=row.id,
            said=said.strip(),
            added_by=here.practitioner.id,
            added_at=now(),
        )
    )
    here.audit(row.person_id, "addendum to a visit record")
    here.db.flush()
    return record_of(here, row.id)


def _rated(here: Here, known: Known, row: VisitRow) -> list[RatedAtVisit]:
    found = []
    for complaint in known.complaints:
        at: Mapping[str, int] = {
            one.moment: one.value for one in known.ratings_of[complaint.id] if one.visit_id == row.id
        }
        if not at and complaint.closed_on is not None:
            continue
        found.append(
            RatedAtVisit(
                name=here.knowledge.name_of(complaint.kind),
                side=complaint.side,
                act=complaint.act,
                before=at.get("before"),
                after=at.get("after"),
            )
        )
    return found
