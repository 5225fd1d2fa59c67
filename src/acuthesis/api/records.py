"""Between the store and a person's record: reads one out of the tables, and keeps one that comes in."""

import uuid

from sqlalchemy import select
from sqlalchemy.orm import Session

from acuthesis.core.compose.score import Score
from acuthesis.exchange.record import (
    ClearancePart,
    ComplaintPart,
    DraftPart,
    FindingPart,
    MeasurePart,
    PersonPart,
    PersonRecord,
    RatingPart,
    ScreeningPart,
    ThresholdPart,
    VisitPart,
)
from acuthesis.store import atlas, compose, people, visits
from acuthesis.store.model import (
    ClearanceRow,
    ComplaintRow,
    DraftRow,
    FindingRow,
    MeasureRow,
    PersonRow,
    PractitionerRow,
    RatingRow,
    ScreeningRow,
    ThresholdRow,
    TreatmentEventRow,
    VisitRow,
)


def export_person(session: Session, person_id: uuid.UUID) -> PersonRecord:
    """The record of a person. Raises: NotFound."""
    row = people.person(session, person_id)
    own = visits.visits_of(session, person_id)
    events = visits.events_of(session, [visit.id for visit in own])
    measures = session.scalars(
        select(MeasureRow).where(MeasureRow.person_id == person_id).order_by(MeasureRow.taken_at, MeasureRow.id)
    )
    thresholds = session.scalars(
        select(ThresholdRow).where(ThresholdRow.person_id == person_id).order_by(ThresholdRow.taken_at, ThresholdRow.id)
    )
    return PersonRecord(
        person=PersonPart(
            id=row.id,
            given_name=row.given_name,
            family_name=row.family_name,
            born=row.born,
            sex=row.sex,
            height_cm=row.height_cm,
            weight_kg=row.weight_kg,
            fingers=people.fingers_of(row.fingers),
            breaths_per_minute=row.breaths_per_minute,
            story=row.story,
            created_at=row.created_at,
        ),
        screenings=[
            ScreeningPart(id=s.id, answered_at=s.answered_at, answers=s.answers)
            for s in reversed(people.screenings(session, person_id))
        ],
        clearances=[
            ClearancePart(id=c.id, **people.clearance_from(c).model_dump())
            for c in people.clearances(session, person_id)
        ],
        thresholds=[
            ThresholdPart(id=t.id, part=t.part, n_per_cm2=t.n_per_cm2, taken_at=t.taken_at) for t in thresholds
        ],
        complaints=[
            ComplaintPart(
                id=c.id,
                kind=c.kind,
                side=c.side,
                act=c.act,
                since=c.since,
                closed_on=c.closed_on,
                created_at=c.created_at,
            )
            for c in people.complaints(session, person_id)
        ],
        measures=[MeasurePart(id=m.id, name=m.name, value_cm=m.value_cm, taken_at=m.taken_at) for m in measures],
        visits=[
            VisitPart(
                id=v.id,
                starts_at=v.starts_at,
                minutes=v.minutes,
                note=v.note,
                score=None if v.score is None else Score.model_validate(v.score),
                events=events[v.id],
            )
            for v in own
        ],
        ratings=[
            RatingPart(
                id=r.id,
                complaint_id=r.complaint_id,
                visit_id=r.visit_id,
                moment=r.moment,
                value=r.value,
                rated_at=r.rated_at,
            )
            for r in people.ratings(session, person_id)
        ],
        findings=[
            FindingPart(
                id=f.id,
                entry=f.entry,
                side=f.side,
                offset_mm=f.offset_mm,
                soreness=f.soreness,
                texture=f.texture,
                note=f.note,
                at=f.at,
            )
            for f in atlas.findings_of(session, person_id)
        ],
        drafts=[
            DraftPart(
                id=d.id, visit_id=d.visit_id, label=d.label, score=Score.model_validate(d.score), kept_at=d.kept_at
            )
            for v in own
            for d in compose.drafts_of(session, v.id)
        ],
    )


def import_person(session: Session, record: PersonRecord, practitioner: PractitionerRow) -> PersonRow:
    """Keep a record in the practitioner's practice, with the ids it has; visits become theirs.

    Raises: Conflict if the person is here already.
    """
    home = {"practice_id": practitioner.practice_id}
    if session.get(PersonRow, record.person.id) is not None:
        raise people.Conflict(f"{record.person.given_name} is in this practice already.", where="person.id")
    row = PersonRow(
        **record.person.model_dump(exclude={"fingers"}),
        fingers=record.person.fingers.model_dump(exclude_none=True),
        version=1,
        **home,
    )
    session.add(row)
    session.flush()
    of_person = {**home, "person_id": row.id}
    session.add_all(ScreeningRow(**part.model_dump(), **of_person) for part in record.screenings)
    session.add_all(ClearanceRow(**part.model_dump(), **of_person) for part in record.clearances)
    session.add_all(ThresholdRow(**part.model_dump(), **of_person) for part in record.thresholds)
    session.add_all(ComplaintRow(**part.model_dump(), version=1, **of_person) for part in record.complaints)
    session.add_all(MeasureRow(**part.model_dump(), **of_person) for part in record.measures)
    for part in record.visits:
        score = None if part.score is None else part.score.model_dump(mode="json")
        plain = part.model_dump(exclude={"score", "events"})
        session.add(VisitRow(**plain, score=score, version=1, practitioner_id=practitioner.id, **of_person))
    session.flush()
    for part in record.visits:
        for event in part.events:
            session.add(
                TreatmentEventRow(
                    id=event.id, visit_id=part.id, at=event.at, body=event.model_dump(mode="json"), **of_person
                )
            )
            session.flush()  # one by one: their order is the order of the treatment
    session.add_all(FindingRow(**part.model_dump(), **of_person) for part in record.findings)
    for draft in record.drafts:
        kept = draft.model_dump(exclude={"score"})
        session.add(DraftRow(**kept, score=draft.score.model_dump(mode="json"), **of_person))
    session.add_all(RatingRow(**part.model_dump(), **of_person) for part in record.ratings)
    session.flush()
    return row
