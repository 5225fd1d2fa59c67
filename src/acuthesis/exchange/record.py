"""A person's whole record as documented JSON (docs/guide/record.md): export, and import without loss."""

import uuid
from collections.abc import Sequence
from datetime import UTC, date, datetime, timedelta
from typing import Any, Literal, TypeVar

from pydantic import Field, model_validator

from acuthesis.core.body.person import BodyFacts, check_measure
from acuthesis.core.compose.knowledge.complaints import complaint_kind
from acuthesis.core.compose.knowledge.layer import OWN_COMPLAINT
from acuthesis.core.compose.score.score import check_score
from acuthesis.core.errors import CoreError, OutOfRange
from acuthesis.core.message import message
from acuthesis.core.safety.screening import check_threshold, parse_screening, questions
from acuthesis.core.treat.fold import fold
from acuthesis.exchange.parts import (
    MOST_ANSWERS,
    MOST_ROWS,
    ActivityRatingPart,
    AnswersPart,
    ClearancePart,
    ComplaintPart,
    ComplaintPlacePart,
    ConfirmationPart,
    ConsentPart,
    CorrectedPart,
    DecisionPart,
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
    RecordPart,
    ScreeningPart,
    StoryPart,
    ThresholdPart,
    VisitPart,
)
from acuthesis.words.reader import english

FORMAT: Literal["acuthesis.person"] = "acuthesis.person"
VERSION: Literal[1] = 1
MOST_EVENTS = 50_000  # of all visits together


class PersonRecord(RecordPart):
    """Everything that is kept of one person."""

    format: Literal["acuthesis.person"] = FORMAT
    version: Literal[1] = VERSION
    person: PersonPart
    practitioners: list[PractitionerPart] = Field([], max_length=MOST_ANSWERS)
    stories: list[StoryPart] = Field([], max_length=MOST_ROWS)
    consents: list[ConsentPart] = Field([], max_length=MOST_ROWS)
    letters: list[LetterPart] = Field([], max_length=MOST_ROWS)
    planned: list[PlannedPart] = Field([], max_length=MOST_ROWS)
    screenings: list[ScreeningPart] = Field([], max_length=MOST_ROWS)
    clearances: list[ClearancePart] = Field([], max_length=MOST_ROWS)
    thresholds: list[ThresholdPart] = Field([], max_length=MOST_ROWS)
    complaints: list[ComplaintPart] = Field([], max_length=MOST_ROWS)
    answers: list[AnswersPart] = Field([], max_length=MOST_ROWS)
    complaint_places: list[ComplaintPlacePart] = Field([], max_length=MOST_ROWS)
    confirmations: list[ConfirmationPart] = Field([], max_length=MOST_ROWS)
    act_ratings: list[ActivityRatingPart] = Field([], max_length=MOST_ROWS)
    episodes: list[EpisodePart] = Field([], max_length=MOST_ROWS)
    log: list[LogPart] = Field([], max_length=MOST_ROWS)
    decisions: list[DecisionPart] = Field([], max_length=MOST_ROWS)
    home_plans: list[HomePlanPart] = Field([], max_length=MOST_ROWS)
    home_flags: list[HomeFlagPart] = Field([], max_length=MOST_ROWS)
    papers: list[PaperPart] = Field([], max_length=MOST_ROWS)
    measures: list[MeasurePart] = Field([], max_length=MOST_ROWS)
    visits: list[VisitPart] = Field([], max_length=MOST_ROWS)
    ratings: list[RatingPart] = Field([], max_length=MOST_ROWS)
    findings: list[FindingPart] = Field([], max_length=MOST_ROWS)
    drafts: list[DraftPart] = Field([], max_length=MOST_ROWS)

    @model_validator(mode="after")
    def _sound(self) -> "PersonRecord":
        """Everything that is mentioned is there, and nothing is impossible."""
        known = {
            name: value for name in ("height_cm", "weight_kg") if (value := getattr(self.person, name)) is not None
        }
        BodyFacts(**known)
        for screening in self.screenings:
            _checked("screenings", lambda answers=screening.answers: parse_screening(answers))
        for threshold in self.thresholds:
            if threshold.n_per_cm2 is not None:
                _checked("thresholds", lambda one=threshold: check_threshold(one.part, one.n_per_cm2))
        for complaint in self.complaints:
            if not OWN_COMPLAINT.fullmatch(complaint.kind):  # one that a practice added is kept by its name
                _checked("complaints", lambda kind=complaint.kind: complaint_kind(kind))
        for measure in self.measures:
            check_measure(measure.name, measure.value_cm)
        for rank, visit in enumerate(self.visits):
            _checked(f"visits.{rank}", lambda events=visit.events: fold(events))
            if (visit.closed_at is None) != (visit.closed_by is None):
                raise ValueError(f"visits.{rank}: a closed record says when and by whom")
            if visit.addenda and visit.closed_at is None:
                raise ValueError(f"visits.{rank}: only a closed record has addenda")
            if visit.attendance != "expected" and visit.events:
                raise ValueError(f"visits.{rank}: a visit that did not take place cannot have a treatment")
            if visit.score is not None:
                _checked(f"visits.{rank}.score", lambda score=visit.score: check_score(score))
        for draft in self.drafts:
            _checked(f"drafts: {draft.label}", lambda score=draft.score: check_score(score))
        if sum(len(visit.events) + len(visit.disputed) for visit in self.visits) > MOST_EVENTS:
            raise ValueError(f"visits: there are more than {MOST_EVENTS} events in all")
        named = {row.id for row in self.practitioners}
        for id in self.done_by():
            if id not in named:
                raise ValueError(f"practitioners: {id} is mentioned, and is not in the list")
        complaints, own_visits = {row.id for row in self.complaints}, {row.id for row in self.visits}
        for draft in self.drafts:
            if draft.visit_id not in own_visits:
                raise ValueError(f"drafts: {draft.id} mentions a visit that is not in the record")
        for part in ("answers", "complaint_places", "confirmations", "act_ratings", "episodes", "decisions", "log"):
            for row in getattr(self, part):
                if row.complaint_id not in complaints and (part != "log" or row.complaint_id is not None):
                    raise ValueError(f"{part}: {row.id} mentions a complaint that is not in the record")
        for part in ("ratings", "act_ratings", "log"):
            _check_corrections(part, getattr(self, part))
        for rank, decision in enumerate(self.decisions):
            if (decision.came_of == "") != (decision.came_of_at is None):
                raise ValueError(f"decisions.{rank}: what came of it has a day")
        for rank, entry in enumerate(self.log):
            if entry.until is not None and entry.until < entry.on_day:
                raise ValueError(f"log.{rank}: an entry ends after it begins")
            if entry.kind == "sleep" and (entry.amount is None or entry.amount > 24):
                raise ValueError(f"log.{rank}: sleep has hours, 24 at most")
            if entry.kind in ("medicine", "event") and not entry.words:
                raise ValueError(f"log.{rank}: says no words")
        for plan in self.home_plans:
            if plan.until < plan.first_day:
                raise ValueError(f"home_plans: {plan.id} ends before it begins")
        for flag in self.home_flags:
            if flag.question not in questions() or (flag.looked_at is None) != (flag.looked_by is None):
                raise ValueError(f"home_flags: {flag.id} is of no question, or only half says who dealt with it")
            if flag.looked_at is not None and not flag.words:
                raise ValueError(f"home_flags: {flag.id} says nothing of what came of it")
        agreed = {row.id for row in self.consents}
        for paper in self.papers:
            if paper.consent_id not in {*agreed, None} or (paper.kind != "summary" and paper.consent_id is None):
                raise ValueError(f"papers: {paper.id} mentions a consent that is not in the record")
        acts = {act.id: row.id for row in self.complaints for act in row.acts}
        for row in self.act_ratings:
            if row.visit_id not in {*own_visits, None} or (row.moment == "home") != (row.visit_id is None):
                raise ValueError(f"act_ratings: {row.id} is from '{row.moment}', which does not fit its visit")
            # An act that was dropped since keeps its ratings; one of another complaint never does.
            if acts.get(row.act_id, row.complaint_id) != row.complaint_id:
                raise ValueError(f"act_ratings: {row.id} mentions another complaint's act")
        for planned in self.planned:
            if planned.visit_id not in {*own_visits, None}:
                raise ValueError(f"planned: {planned.id} mentions a visit that is not in the record")
            if planned.visit_id is not None and planned.dropped_at is not None:
                raise ValueError(f"planned: {planned.id} is booked and dropped at once")
        for letter in self.letters:
            if letter.answer_due is not None and letter.answer_due < letter.sent_on:
                raise ValueError(f"letters: the answer to {letter.id} is due before it was sent")
        for rating in self.ratings:
            if rating.complaint_id not in complaints or rating.visit_id not in {*own_visits, None}:
                raise ValueError(f"ratings: {rating.id} mentions a complaint or visit that is not in the record")
            if (rating.moment == "home") != (rating.visit_id is None):
                raise ValueError(f"ratings: {rating.id} is from '{rating.moment}', which does not fit its visit")
        return self

    def done_by(self) -> set[uuid.UUID]:
        """Ids of the practitioners that the record mentions."""
        settled = [dispute.settled for visit in self.visits for dispute in visit.disputed if dispute.settled]
        found = [
            *(row.answered_by for row in self.screenings),
            *(row.recorded_by for row in self.clearances),
            *(row.held_by for row in self.visits),
            *(row.kept_by for row in self.drafts),
            *(row.settled_by for row in settled),
            self.person.in_charge,
            *(row.written_by for row in self.stories),
            *(row.recorded_by for row in self.consents),
            *(row.sent_by for row in self.letters),
            *(row.planned_by for row in self.planned),
            *(row.asked_by for row in self.answers),
            *(row.recorded_by for row in self.confirmations),
            *(row.painted_by for row in self.complaint_places),
            *(row.recorded_by for row in self.episodes),
            *(one.changed_by for row in self.episodes for one in row.earlier),
            *(row.recorded_by for row in (*self.ratings, *self.act_ratings, *self.log)),
            *(row.decided_by for row in self.decisions),
            *(row.made_by for row in self.home_plans),
            *(row.looked_by for row in self.home_flags),
            *(row.asked_by for row in self.papers),
            *(row.closed_by for row in self.visits),
            *(addendum.added_by for row in self.visits for addendum in row.addenda),
        ]
        return {id for id in found if id is not None}


EARLIEST = datetime(1950, 1, 1, tzinfo=UTC)
CLOCKS_DIFFER = timedelta(days=1)
BOOKED_AHEAD = timedelta(days=3 * 366)


def check_dates(record: PersonRecord, now: datetime) -> None:
    """Raises: OutOfRange naming the first date that nobody can have: born tomorrow, rated next year, or before 1950."""
    today = now.date()
    _within("person.born", record.person.born, date(1900, 1, 1), today)
    done = {
        "person": [record.person.created_at],
        "screenings": [row.answered_at for row in record.screenings],
        "clearances": [row.recorded_at for row in record.clearances],
        "thresholds": [row.taken_at for row in record.thresholds],
        "complaints": [row.created_at for row in record.complaints],
        "measures": [row.taken_at for row in record.measures],
        "ratings": [row.rated_at for row in record.ratings],
        "findings": [row.at for row in record.findings],
        "drafts": [row.kept_at for row in record.drafts],
        "stories": [row.written_at for row in record.stories],
        "consents": [row.recorded_at for row in record.consents],
        "answers": [row.asked_at for row in record.answers],
        "complaint_places": [row.painted_at for row in record.complaint_places],
        "confirmations": [row.recorded_at for row in record.confirmations],
        "act_ratings": [row.rated_at for row in record.act_ratings],
        "episodes": [row.started_at for row in record.episodes],
        "log": [row.recorded_at for row in record.log],
        "decisions": [row.decided_at for row in record.decisions],
        "home_plans": [row.made_at for row in record.home_plans],
        "home_flags": [row.heard_at for row in record.home_flags],
        "papers": [row.made_at for row in record.papers],
        "planned": [row.planned_at for row in record.planned],
        "addenda": [addendum.added_at for visit in record.visits for addendum in visit.addenda],
        "closed": [visit.closed_at for visit in record.visits if visit.closed_at is not None],
        "events": [event.at for visit in record.visits for event in visit.events],
    }
    for part, moments in done.items():
        for rank, moment in enumerate(moments):
            _within(f"{part}.{rank}", moment, EARLIEST, now + CLOCKS_DIFFER)
    for rank, visit in enumerate(record.visits):
        _within(f"visits.{rank}.starts_at", visit.starts_at, EARLIEST, now + BOOKED_AHEAD)
    for rank, entry in enumerate(record.log):
        _within(f"log.{rank}.on_day", entry.until or entry.on_day, record.person.born, today)
    for rank, row in enumerate(record.complaints):
        if row.since is not None:
            _within(f"complaints.{rank}.since", row.since, record.person.born, today)
        if row.closed_on is not None:
            _within(f"complaints.{rank}.closed_on", row.closed_on, row.since or record.person.born, today)


def _check_corrections(part: str, rows: Sequence[CorrectedPart]) -> None:
    """A correction takes the place of a row before it, and of no row that was corrected already."""
    seen: set[uuid.UUID] = set()
    corrected: set[uuid.UUID] = set()
    for row in rows:
        if row.replaces is not None and (row.replaces not in seen or row.replaces in corrected):
            raise ValueError(f"{part}: {row.id} corrects what is not before it, or was corrected already")
        seen.add(row.id)
        if row.replaces is not None:
            corrected.add(row.replaces)


DateOrTime = TypeVar("DateOrTime", date, datetime)


def _within(where: str, moment: DateOrTime, low: DateOrTime, high: DateOrTime) -> None:
    if not low <= moment <= high:
        raise OutOfRange(message("record-moment-impossible", where=where, moment=moment), where=where)


def _checked(where: str, check: Any) -> None:
    """Run a check of the core inside validation, where only ValueErrors are understood."""
    try:
        check()
    except CoreError as error:
        raise ValueError(f"{where}: {english().say(error.message)}") from error
