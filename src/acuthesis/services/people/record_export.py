"""Export of a person's record: everything that is stored of them."""

import uuid
from typing import TypeVar

from acuthesis.core.compose.score.score import Score
from acuthesis.core.treat.account import WriteUp
from acuthesis.core.treat.events import EVENT
from acuthesis.exchange.parts import (
    ActivityPart,
    ActivityRatingPart,
    AddendumPart,
    AnswersPart,
    ClearancePart,
    ComplaintPart,
    ComplaintPlacePart,
    ConfirmationPart,
    ConsentPart,
    DecisionPart,
    DisputedPart,
    DraftPart,
    EpisodePart,
    FindingPart,
    HomeFlagPart,
    HomePlanPart,
    LetterPart,
    LogPart,
    MeasurePart,
    PaperPart,
    PersonPart,
    PlannedPart,
    PractitionerPart,
    RatingPart,
    ScreeningPart,
    SettledPart,
    StoryPart,
    ThresholdPart,
    VisitPart,
)
from acuthesis.exchange.record import PersonRecord
from acuthesis.services.request.columns import fingers_of
from acuthesis.services.request.known import clearance_from
from acuthesis.store import (
    access,
    atlas,
    booking,
    complaints,
    compose,
    follow,
    home,
    papers,
    people,
    treatments,
    visits,
)
from acuthesis.store.database import Db

CONTACT = ("phone", "email", "address", "doctor", "emergency_contact", "guardian", "in_charge", "archived_at")
BOOKED = ("purpose", "came", "attendance", "attendance_reason", "closed_at", "closed_by")
SomePart = TypeVar(
    "SomePart",
    StoryPart,
    ConsentPart,
    LetterPart,
    PlannedPart,
    AddendumPart,
    AnswersPart,
    ComplaintPlacePart,
    ConfirmationPart,
    ActivityRatingPart,
    EpisodePart,
    RatingPart,
    LogPart,
    DecisionPart,
    HomePlanPart,
    HomeFlagPart,
    PaperPart,
)
SomeCorrected = TypeVar("SomeCorrected", RatingPart, ActivityRatingPart, LogPart)


def _in_turn(parts: list[SomeCorrected]) -> list[SomeCorrected]:
    """The same, each correction after what it corrects, whatever the moments say."""
    known = {part.id: part for part in parts}
    placed: dict[uuid.UUID, SomeCorrected] = {}
    for part in parts:
        chain = [part]
        while chain[-1].replaces is not None and chain[-1].replaces not in placed:
            chain.append(known[chain[-1].replaces])
        placed.update({one.id: one for one in reversed(chain)})
    return list(placed.values())


def _part(kind: type[SomePart], row: object) -> SomePart:
    """A row as its part of the record, column by column."""
    return kind(**{name: getattr(row, name) for name in kind.model_fields})


def export_person(db: Db, person_id: uuid.UUID) -> PersonRecord:
    """The record of a person. Raises: NotFound."""
    row = people.person(db, person_id)
    own = visits.visits_of(db, person_id, scores=True)
    events = treatments.events_of(db, [visit.id for visit in own])
    names = {row.id: row.name for row in access.practitioners(db)}
    places = {place.id: place.name for place in booking.places(db)}
    complaints_rows = people.complaints(db, [person_id])
    ids = [row.id for row in complaints_rows]
    answers = complaints.answers(db, ids)
    painted = complaints.places(db, ids)
    record = PersonRecord(
        practitioners=[PractitionerPart(id=id, name=name) for id, name in names.items()],
        person=PersonPart(
            id=row.id,
            given_name=row.given_name,
            family_name=row.family_name,
            born=row.born,
            sex=row.sex,
            height_cm=row.height_cm,
            weight_kg=row.weight_kg,
            fingers=fingers_of(row.fingers),
            breaths_per_minute=row.breaths_per_minute,
            **{name: getattr(row, name) for name in CONTACT},
            created_at=row.created_at,
        ),
        stories=[_part(StoryPart, story) for story in people.stories(db, person_id)],
        consents=[_part(ConsentPart, consent) for consent in people.consents(db, person_id)],
        letters=[_part(LetterPart, letter) for letter in people.letters(db, person_id)],
        planned=[_part(PlannedPart, one) for one in booking.planned_of(db, person_id)],
        screenings=[
            ScreeningPart(
                id=s.id,
                answered_at=s.answered_at,
                answered_by=s.answered_by,
                in_full=s.in_full,
                answers=s.answers,
            )
            for s in reversed(people.screenings(db, [person_id]))
        ],
        clearances=[
            ClearancePart(id=c.id, recorded_by=c.recorded_by, **clearance_from(c).model_dump())
            for c in people.clearances(db, [person_id])
        ],
        thresholds=[
            ThresholdPart(id=t.id, part=t.part, n_per_cm2=t.n_per_cm2, taken_at=t.taken_at)
            for t in people.thresholds(db, [person_id])
        ],
        complaints=[
            ComplaintPart(
                id=c.id,
                kind=c.kind,
                side=c.side,
                acts=[ActivityPart.model_validate(act) for act in c.acts],
                since=c.since,
                closed_on=c.closed_on,
                created_at=c.created_at,
            )
            for c in complaints_rows
        ],
        answers=[_part(AnswersPart, one) for id in ids for one in reversed(answers.get(id, []))],
        complaint_places=[_part(ComplaintPlacePart, one) for id in ids for one in reversed(painted.get(id, []))],
        confirmations=[_part(ConfirmationPart, confirmation) for confirmation in complaints.all_confirmations(db, ids)],
        act_ratings=_in_turn(
            [_part(ActivityRatingPart, rating) for rating in complaints.activity_ratings(db, ids, every=True)]
        ),
        episodes=[_part(EpisodePart, episode) for episode in complaints.episodes(db, ids)],
        log=_in_turn([_part(LogPart, entry) for entry in follow.log(db, person_id, every=True)]),
        decisions=[_part(DecisionPart, one) for rows in follow.decisions(db, ids).values() for one in rows],
        home_plans=[_part(HomePlanPart, plan) for plan in home.plans(db, person_id)],
        home_flags=[_part(HomeFlagPart, one) for one in home.flags_of(db, person_id)],
        papers=[_part(PaperPart, paper) for paper in reversed(papers.papers(db, person_id)) if paper.state == "made"],
        measures=[
            MeasurePart(id=m.id, name=m.name, value_cm=m.value_cm, taken_at=m.taken_at)
            for m in people.measures(db, [person_id])
        ],
        visits=[
            VisitPart(
                id=v.id,
                held_by=v.practitioner_id,
                starts_at=v.starts_at,
                minutes=v.minutes,
                note=v.note,
                place=places[v.place_id] if v.place_id else "",
                **{name: getattr(v, name) for name in BOOKED},
                written=None if v.written is None else WriteUp.model_validate(v.written),
                addenda=[_part(AddendumPart, one) for one in visits.addenda_of(db, v.id)],
                score=None if v.score is None else Score.model_validate(v.score),
                events=events[v.id],
                disputed=_disputed(db, v.id),
            )
            for v in own
        ],
        ratings=_in_turn([_part(RatingPart, rating) for rating in people.ratings(db, [person_id], every=True)]),
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
            for f in atlas.findings_of(db, person_id)
        ],
        drafts=[
            DraftPart(
                id=d.id,
                visit_id=d.visit_id,
                label=d.label,
                score=Score.model_validate(d.score),
                kept_at=d.kept_at,
                kept_by=d.kept_by,
            )
            for v in own
            for d in compose.drafts_of(db, v.id)
        ],
    )
    mentioned = record.done_by()
    return record.model_copy(
        update={
            "practitioners": [practitioner for practitioner in record.practitioners if practitioner.id in mentioned]
        }
    )


def _disputed(db: Db, visit_id: uuid.UUID) -> list[DisputedPart]:
    return [
        DisputedPart(
            event=EVENT.validate_python(event.body),
            reason=str(event.disputed),
            settled=settled
            and SettledPart(
                how=settled.how,
                note=settled.note,
                settled_at=settled.settled_at,
                settled_by=settled.settled_by,
            ),
        )
        for event, settled in treatments.disputed_of(db, visit_id)
    ]
