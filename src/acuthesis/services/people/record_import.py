"""Import of a person's record with the ids it has: all of it or nothing."""

import uuid
from typing import Any

from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.message import message
from acuthesis.core.treat.fold import fold
from acuthesis.exchange.parts import (
    ComplaintPart,
    VisitPart,
)
from acuthesis.exchange.record import PersonRecord, check_dates
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.services.visit.preparing import laid_out
from acuthesis.store import access, booking, people, treatments
from acuthesis.store.model import (
    ActivityRatingRow,
    AddendumRow,
    ClearanceRow,
    ComplaintAnswersRow,
    ComplaintPlaceRow,
    ComplaintRow,
    ConfirmationRow,
    ConsentRow,
    DecisionRow,
    DraftRow,
    EpisodeRow,
    FindingRow,
    HomeFlagRow,
    HomePlanRow,
    LetterRow,
    LogRow,
    MeasureRow,
    PaperRow,
    PersonRow,
    PlaceRow,
    PlannedVisitRow,
    PractitionerRow,
    RatingRow,
    ScreeningRow,
    SettlementRow,
    StoryRow,
    ThresholdRow,
    VisitRow,
)
from acuthesis.store.treatments import EventToStore


def import_person(here: Here, record: PersonRecord) -> PersonRow:
    """Keep a record in this practice, with the ids it has. Who did what stays, also where they do not work here.

    Scores that are still to be played are laid out anew against what the record says of the person.

    Raises: Conflict if the person is here already; OutOfRange for a date that cannot be; NotAllowed for a score to come
    that may not be played.
    """
    check_dates(record, now())
    db = here.db
    if db.get(PersonRow, record.person.id) is not None:
        raise people.Conflict(
            message("record-import-already-practice", given_name=record.person.given_name), where="person.id"
        )
    who = _people_here(here, record)
    row = PersonRow(
        **record.person.model_dump(exclude={"fingers", "story", "in_charge"}),
        in_charge=who.get(record.person.in_charge),
        fingers=record.person.fingers.model_dump(exclude_none=True),
        version=1,
        practice_id=here.practice_id,
    )
    db.add(row)
    db.flush()
    of_person: dict[str, Any] = {"practice_id": here.practice_id, "person_id": row.id}
    _keep_file(here, record, who, of_person)
    for screening in record.screenings:
        plain = screening.model_dump(exclude={"answered_by"})
        db.add(ScreeningRow(**plain, answered_by=who.get(screening.answered_by), **of_person))
    for clearance in record.clearances:
        plain = clearance.model_dump(exclude={"recorded_by"})
        db.add(ClearanceRow(**plain, recorded_by=who.get(clearance.recorded_by), **of_person))
    db.add_all(ThresholdRow(**part.model_dump(), **of_person) for part in record.thresholds)
    db.add_all(_complaint_row(part, of_person) for part in record.complaints)
    db.add_all(MeasureRow(**part.model_dump(), **of_person) for part in record.measures)
    held = {part.id: _visit_row(part, who.get(part.held_by, here.practitioner.id), of_person) for part in record.visits}
    db.add_all(held.values())
    db.flush()
    for part in record.visits:
        _keep_events(here, held[part.id], part, who)
    _keep_planned(here, record, who, of_person)
    _keep_asked(here, record, who, of_person)
    db.add_all(FindingRow(**part.model_dump(), **of_person) for part in record.findings)
    for draft in record.drafts:
        plain = draft.model_dump(exclude={"score", "kept_by"})
        score = draft.score.model_dump(mode="json")
        db.add(DraftRow(**plain, score=score, kept_by=who.get(draft.kept_by), **of_person))
    _keep_followed(here, record, who, of_person)
    db.flush()
    here.forget(row.id)
    _lay_out_what_comes(here, record, held)
    return row


def _place_here(here: Here, name: str) -> uuid.UUID | None:
    """The place of a visit by its name; one that is not known here is kept as one that is no longer used."""
    if not name:
        return None
    known = next((place.id for place in booking.places(here.db) if place.name == name), None)
    if known is None:
        row = PlaceRow(id=uuid.uuid4(), practice_id=here.practice_id, name=name, version=1, archived_at=now())
        here.db.add(row)
        here.db.flush()
        known = row.id
    return known


def _keep_file(
    here: Here, record: PersonRecord, who: dict[uuid.UUID | None, uuid.UUID], of_person: dict[str, Any]
) -> None:
    """Story, consents and letters. The one text of earlier versions becomes the first piece of the story."""
    add = here.db.add
    if record.person.story:
        told_on = here.day_of(record.person.created_at)
        add(StoryRow(id=uuid.uuid4(), told=record.person.story, told_on=told_on, written_at=now(), **of_person))
    for told in record.stories:
        add(StoryRow(**told.model_dump(exclude={"written_by"}), written_by=who.get(told.written_by), **of_person))
    for said in record.consents:
        add(ConsentRow(**said.model_dump(exclude={"recorded_by"}), recorded_by=who[said.recorded_by], **of_person))
    for sent in record.letters:
        add(LetterRow(**sent.model_dump(exclude={"sent_by"}), sent_by=who[sent.sent_by], version=1, **of_person))


def _complaint_row(part: ComplaintPart, of_person: dict[str, Any]) -> ComplaintRow:
    """A complaint; the one act of earlier versions becomes the first of its acts."""
    acts = [act.model_dump(mode="json") for act in part.acts]
    if part.act and not acts:
        acts = [{"id": str(uuid.uuid4()), "words": part.act}]
    return ComplaintRow(**part.model_dump(exclude={"act", "acts"}), acts=acts, version=1, **of_person)


def _keep_asked(
    here: Here, record: PersonRecord, who: dict[uuid.UUID | None, uuid.UUID], of_person: dict[str, Any]
) -> None:
    """What was answered about complaints, doctors' looks, ratings of acts, episodes."""
    add = here.db.add
    for said in record.answers:
        plain = said.model_dump(mode="json", include={"answers"})
        row = ComplaintAnswersRow(
            id=said.id, complaint_id=said.complaint_id, asked_at=said.asked_at, **plain, **of_person
        )
        row.asked_by = who[said.asked_by]
        add(row)
    for place in record.complaint_places:
        add(
            ComplaintPlaceRow(**place.model_dump(exclude={"painted_by"}), painted_by=who[place.painted_by], **of_person)
        )
    for seen in record.confirmations:
        add(ConfirmationRow(**seen.model_dump(exclude={"recorded_by"}), recorded_by=who[seen.recorded_by], **of_person))
    for episode in record.episodes:
        earlier = [
            {**before.model_dump(mode="json"), "changed_by": str(who[before.changed_by])} for before in episode.earlier
        ]
        plain = episode.model_dump(exclude={"recorded_by", "earlier"})
        add(EpisodeRow(**plain, earlier=earlier, recorded_by=who.get(episode.recorded_by), version=1, **of_person))


def _keep_followed(
    here: Here, record: PersonRecord, who: dict[uuid.UUID | None, uuid.UUID], of_person: dict[str, Any]
) -> None:
    """Ratings and the log, a correction after what it corrects; decisions."""
    tables = ((RatingRow, record.ratings), (ActivityRatingRow, record.act_ratings), (LogRow, record.log))
    for table, parts in tables:
        # What is corrected must be there before its correction: one flush a generation.
        waiting = list(parts)
        placed: set[uuid.UUID | None] = {None}
        while waiting:
            ready = [part for part in waiting if part.replaces in placed]
            here.db.add_all(
                table(**part.model_dump(exclude={"recorded_by"}), recorded_by=who.get(part.recorded_by), **of_person)
                for part in ready
            )
            here.db.flush()
            placed |= {part.id for part in ready}
            waiting = [part for part in waiting if part.id not in placed]
    for plan in record.home_plans:
        plain = {**plan.model_dump(exclude={"made_by", "plan"}), "plan": plan.plan.model_dump(mode="json")}
        here.db.add(HomePlanRow(**plain, made_by=who[plan.made_by], **of_person))
    for flag in record.home_flags:
        plain = flag.model_dump(exclude={"looked_by"})
        here.db.add(HomeFlagRow(**plain, looked_by=who.get(flag.looked_by), **of_person))
    for paper in record.papers:
        plain = paper.model_dump(exclude={"asked_by"})
        here.db.add(PaperRow(**plain, asked_by=who[paper.asked_by], state="made", step=0, told="", **of_person))
    for decision in record.decisions:
        plain = decision.model_dump(exclude={"decided_by", "proposed"})
        proposed = decision.proposed.model_dump(mode="json")
        row = DecisionRow(**plain, proposed=proposed, decided_by=who[decision.decided_by], version=1, **of_person)
        here.db.add(row)


def _keep_planned(
    here: Here, record: PersonRecord, who: dict[uuid.UUID | None, uuid.UUID], of_person: dict[str, Any]
) -> None:
    for part in record.planned:
        plain = part.model_dump(exclude={"planned_by"})
        here.db.add(PlannedVisitRow(**plain, planned_by=who[part.planned_by], **of_person))


def _people_here(here: Here, record: PersonRecord) -> dict[uuid.UUID | None, uuid.UUID]:
    """The practitioners of a record as they are known here; who is from elsewhere becomes a name without an account."""
    known = {row.id for row in access.practitioners(here.db)}
    who: dict[uuid.UUID | None, uuid.UUID] = {}
    for part in record.practitioners:
        # The id may be taken in the practice that the record comes from, which this one cannot see.
        own = part.id if part.id in known else uuid.uuid5(here.practice_id, str(part.id))
        if own not in known:
            here.db.add(PractitionerRow(id=own, practice_id=here.practice_id, name=part.name))
            known.add(own)
        who[part.id] = own
    here.db.flush()
    return who


def _visit_row(part: VisitPart, held_by: uuid.UUID, of_person: dict[str, Any]) -> VisitRow:
    score = None if part.score is None else part.score.model_dump(mode="json")
    plain = part.model_dump(
        include={"id", "starts_at", "minutes", "note", "purpose", "came", "attendance", "attendance_reason"}
    )
    written = None if part.written is None else part.written.model_dump()
    return VisitRow(**plain, score=score, written=written, version=1, practitioner_id=held_by, **of_person)


def _keep_events(here: Here, row: VisitRow, part: VisitPart, who: dict[uuid.UUID | None, uuid.UUID]) -> None:
    told = [EventToStore(event) for event in part.events] + [
        EventToStore(dispute.event, dispute.reason) for dispute in part.disputed
    ]
    if treatments.add(here.db, row, told):
        raise people.Conflict(message("record-import-event-record-already-belongs-another"), where="visits")
    treatments.save_state(row, fold(part.events))
    row.place_id = _place_here(here, part.place)
    here.db.flush()
    if part.closed_at is not None:
        row.closed_at, row.closed_by = part.closed_at, who[part.closed_by]
    for added in part.addenda:
        here.db.add(
            AddendumRow(
                **added.model_dump(exclude={"added_by"}),
                added_by=who[added.added_by],
                visit_id=row.id,
                practice_id=row.practice_id,
                person_id=row.person_id,
            )
        )
    for one in part.disputed:
        if one.settled is not None:
            here.db.add(
                SettlementRow(
                    id=uuid.uuid4(),
                    practice_id=row.practice_id,
                    person_id=row.person_id,
                    event_id=one.event.id,
                    how=one.settled.how,
                    note=one.settled.note,
                    settled_at=one.settled.settled_at,
                    settled_by=who[one.settled.settled_by],
                )
            )


def _lay_out_what_comes(here: Here, record: PersonRecord, held: dict[uuid.UUID, VisitRow]) -> None:
    begin_of_today, _ = here.day_bounds(here.today)
    for rank, part in enumerate(record.visits):
        row = held[part.id]
        if part.score is None or row.treatment != "not_begun" or part.starts_at < begin_of_today:
            continue
        try:
            row.score = laid_out(here, row).model_dump(mode="json")
        except CoreError as refused:
            where = f"visits.{rank}.score.{refused.where}"
            raise NotAllowed(
                message("error-at", where=where, said=refused.message), where=where, details=refused.details
            ) from refused
    here.db.flush()
