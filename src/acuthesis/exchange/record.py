"""A person's whole record as documented JSON (docs/guide/record.md), which can be taken in again without loss."""

import uuid
from datetime import UTC, date, datetime, timedelta
from typing import Annotated, Any, Literal, TypeVar

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, model_validator

from acuthesis.core.atlas.finding import FARTHEST_MM, Texture
from acuthesis.core.body.person import BodyFacts, Fingers, check_measure
from acuthesis.core.body.regions import MOST_PAINTED
from acuthesis.core.compose.asked import MOST_ACTS, Answers
from acuthesis.core.compose.knowledge import complaint_kind
from acuthesis.core.compose.layer import OWN_COMPLAINT
from acuthesis.core.compose.score import Score, check_score
from acuthesis.core.errors import CoreError, OutOfRange
from acuthesis.core.safety.clearance import Clearance
from acuthesis.core.safety.screening import check_threshold, parse_screening
from acuthesis.core.safety.touching import StopSide
from acuthesis.core.treat.account import WriteUp
from acuthesis.core.treat.events import Event
from acuthesis.core.treat.session import fold

FORMAT: Literal["acuthesis.person"] = "acuthesis.person"
VERSION: Literal[1] = 1
MOST_ROWS = 5000
MOST_ANSWERS = 200
MOST_EVENTS = 50_000  # of all visits together


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid")


class PersonPart(_Part):
    """The person."""

    id: uuid.UUID
    given_name: str = Field(min_length=1, max_length=120)
    family_name: str = Field("", max_length=120)
    born: date
    sex: Literal["female", "male", "unspecified"]
    height_cm: float | None
    weight_kg: float | None
    fingers: Fingers
    breaths_per_minute: float | None = Field(None, ge=3, le=30, allow_inf_nan=False)
    phone: str = Field("", max_length=120)
    email: str = Field("", max_length=120)
    address: str = Field("", max_length=4000)
    doctor: str = Field("", max_length=4000)
    emergency_contact: str = Field("", max_length=4000)
    guardian: str = Field("", max_length=4000)
    in_charge: uuid.UUID | None = None
    archived_at: AwareDatetime | None = None
    story: str = Field("", max_length=4000, description="of earlier versions, which had one text; now see `stories`")
    created_at: AwareDatetime


class StoryPart(_Part):
    """A piece of the story."""

    id: uuid.UUID
    told: str = Field(min_length=1, max_length=4000)
    told_on: date
    written_by: uuid.UUID | None = None
    written_at: AwareDatetime


class ConsentPart(_Part):
    """A consent, or (`given` false) its withdrawal."""

    id: uuid.UUID
    about: str = Field(max_length=120)
    given: bool
    said: str = Field("", max_length=4000)
    how: Literal["in_writing", "spoken", "by_guardian"]
    given_on: date
    recorded_by: uuid.UUID
    recorded_at: AwareDatetime


class LetterPart(_Part):
    """A letter about the person, and the answer to it."""

    id: uuid.UUID
    recipient: str = Field(max_length=120)
    about: str = Field(max_length=120)
    sent_on: date
    answer_due: date | None = None
    answered_on: date | None = None
    answer: str = Field("", max_length=4000)
    sent_by: uuid.UUID


class PlannedPart(_Part):
    """A planned visit of a series: booked (`visit_id`), dropped, or neither."""

    id: uuid.UUID
    series_id: uuid.UUID
    number: int = Field(ge=1, le=60)
    due_on: date
    minutes: int = Field(ge=3, le=240)
    purpose: str = Field("", max_length=120)
    visit_id: uuid.UUID | None = None
    dropped_at: AwareDatetime | None = None
    planned_by: uuid.UUID
    planned_at: AwareDatetime


class PractitionerPart(_Part):
    """Somebody who is named in the record, for what they did."""

    id: uuid.UUID
    name: str = Field(min_length=1, max_length=120)


class ScreeningPart(_Part):
    """One screening."""

    id: uuid.UUID
    answered_at: AwareDatetime
    answered_by: uuid.UUID | None = None
    answers: dict[str, Any] = Field(max_length=MOST_ANSWERS)


class ClearancePart(Clearance):
    """One clearance, or the taking back of one."""

    id: uuid.UUID
    recorded_at: AwareDatetime
    recorded_by: uuid.UUID | None = None


class ThresholdPart(_Part):
    """One measured pressure-pain threshold (N/cm²); none takes back what was measured before."""

    id: uuid.UUID
    part: str
    n_per_cm2: float | None = Field(allow_inf_nan=False)
    taken_at: AwareDatetime


class ActPart(_Part):
    """Something that a complaint stops the person doing."""

    id: uuid.UUID
    words: str = Field(min_length=1, max_length=120)


class ComplaintPart(_Part):
    """One complaint."""

    id: uuid.UUID
    kind: str
    side: StopSide
    act: str = Field("", max_length=120, description="of earlier versions, which had one; now see `acts`")
    acts: list[ActPart] = Field([], max_length=MOST_ACTS)
    since: date | None
    closed_on: date | None
    created_at: AwareDatetime


class AnswersPart(_Part):
    """What was answered about a complaint, once."""

    id: uuid.UUID
    complaint_id: uuid.UUID
    answers: Answers
    asked_by: uuid.UUID
    asked_at: AwareDatetime


class ComplaintPlacePart(_Part):
    """Where a complaint was, as it was painted on the figure."""

    id: uuid.UUID
    complaint_id: uuid.UUID
    skin: list[Annotated[int, Field(ge=0, lt=10**6)]] = Field(min_length=1, max_length=MOST_PAINTED)
    words: str = Field(max_length=400)
    painted_by: uuid.UUID
    painted_at: AwareDatetime


class ConfirmationPart(_Part):
    """That a doctor has looked at what a complaint calls for."""

    id: uuid.UUID
    complaint_id: uuid.UUID
    by: str = Field(min_length=1, max_length=120)
    seen_on: date
    recorded_by: uuid.UUID
    recorded_at: AwareDatetime


class ActRatingPart(_Part):
    """One rating of an act."""

    id: uuid.UUID
    complaint_id: uuid.UUID
    act_id: uuid.UUID
    visit_id: uuid.UUID | None
    moment: Literal["before", "after", "home"]
    value: int = Field(ge=0, le=10)
    rated_at: AwareDatetime


class EpisodePart(_Part):
    """An episode of a complaint."""

    id: uuid.UUID
    complaint_id: uuid.UUID
    started_at: AwareDatetime
    ended_at: AwareDatetime | None = None
    goes_on: bool = False
    day_only: bool = False
    day_said: bool = True
    strength: int | None = Field(None, ge=0, le=10)
    trigger: str = Field("", max_length=120)
    helped: str = Field("", max_length=120)
    medicine: str = Field("", max_length=120)
    recorded_by: uuid.UUID
    recorded_at: AwareDatetime

    @model_validator(mode="after")
    def _in_order(self) -> "EpisodePart":
        if self.ended_at is not None and (self.ended_at < self.started_at or self.goes_on):
            raise ValueError("an episode ends after it began, or still goes on")
        return self


class MeasurePart(_Part):
    """One length."""

    id: uuid.UUID
    name: str
    value_cm: float = Field(allow_inf_nan=False)
    taken_at: AwareDatetime


class SettledPart(_Part):
    """How a disputed event was settled."""

    how: Literal["happened", "set_aside"]
    note: str = Field("", max_length=4000)
    settled_at: AwareDatetime
    settled_by: uuid.UUID


class DisputedPart(_Part):
    """An event that happened and could not be applied, with why, and how it was settled."""

    event: Event
    reason: str = Field(min_length=1, max_length=1000)
    settled: SettledPart | None = None


class AddendumPart(_Part):
    """What was added after the record of a visit was closed."""

    id: uuid.UUID
    said: str = Field(min_length=1, max_length=4000)
    added_by: uuid.UUID
    added_at: AwareDatetime


class VisitPart(_Part):
    """One visit with its score, who held it, and the events of its treatment."""

    id: uuid.UUID
    held_by: uuid.UUID | None = None
    starts_at: AwareDatetime
    minutes: int = Field(ge=3, le=240)
    note: str = Field("", max_length=4000)
    place: str = Field("", max_length=120, description="its name; in another practice only a word")
    purpose: str = Field("", max_length=120)
    came: Literal["booked", "walk_in"] = "booked"
    attendance: Literal["expected", "cancelled", "not_come"] = "expected"
    attendance_reason: str = Field("", max_length=120)
    written: WriteUp | None = None
    closed_at: AwareDatetime | None = None
    closed_by: uuid.UUID | None = None
    addenda: list[AddendumPart] = Field([], max_length=MOST_ANSWERS)
    score: Score | None
    events: list[Event] = Field([], max_length=MOST_ROWS)
    disputed: list[DisputedPart] = Field([], max_length=MOST_ROWS)


class DraftPart(_Part):
    """One draft of a visit's score."""

    id: uuid.UUID
    visit_id: uuid.UUID
    label: str = Field(max_length=120)
    score: Score
    kept_at: AwareDatetime
    kept_by: uuid.UUID | None = None


class RatingPart(_Part):
    """One rating."""

    id: uuid.UUID
    complaint_id: uuid.UUID
    visit_id: uuid.UUID | None
    moment: Literal["before", "after", "home"]
    value: int = Field(ge=0, le=10)
    rated_at: AwareDatetime


class FindingPart(_Part):
    """What a hand found at one place."""

    id: uuid.UUID
    entry: str = Field(max_length=60)
    side: Literal["left", "right"]
    offset_mm: dict[str, Annotated[float, Field(ge=-FARTHEST_MM, le=FARTHEST_MM, allow_inf_nan=False)]] = Field(
        {}, max_length=3
    )
    soreness: int | None = Field(None, ge=0, le=10)
    texture: Texture | None = None
    note: str = Field("", max_length=120)
    at: AwareDatetime


class PersonRecord(_Part):
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
    act_ratings: list[ActRatingPart] = Field([], max_length=MOST_ROWS)
    episodes: list[EpisodePart] = Field([], max_length=MOST_ROWS)
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
                raise ValueError(f"visits.{rank}: nobody is treated at a visit that was not held")
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
        for part in ("answers", "complaint_places", "confirmations", "act_ratings", "episodes"):
            for row in getattr(self, part):
                if row.complaint_id not in complaints:
                    raise ValueError(f"{part}: {row.id} mentions a complaint that is not in the record")
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
        settled = [one.settled for visit in self.visits for one in visit.disputed if one.settled]
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
            *(row.closed_by for row in self.visits),
            *(one.added_by for row in self.visits for one in row.addenda),
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
        "planned": [row.planned_at for row in record.planned],
        "addenda": [one.added_at for visit in record.visits for one in visit.addenda],
        "closed": [visit.closed_at for visit in record.visits if visit.closed_at is not None],
        "events": [event.at for visit in record.visits for event in visit.events],
    }
    for part, moments in done.items():
        for rank, moment in enumerate(moments):
            _within(f"{part}.{rank}", moment, EARLIEST, now + CLOCKS_DIFFER)
    for rank, visit in enumerate(record.visits):
        _within(f"visits.{rank}.starts_at", visit.starts_at, EARLIEST, now + BOOKED_AHEAD)
    for rank, row in enumerate(record.complaints):
        if row.since is not None:
            _within(f"complaints.{rank}.since", row.since, record.person.born, today)
        if row.closed_on is not None:
            _within(f"complaints.{rank}.closed_on", row.closed_on, row.since or record.person.born, today)


Moment = TypeVar("Moment", date, datetime)


def _within(where: str, moment: Moment, low: Moment, high: Moment) -> None:
    if not low <= moment <= high:
        raise OutOfRange(f"{where}: {moment:%-d %B %Y} cannot be", where=where)


def _checked(where: str, check: Any) -> None:
    """Run a check of the core inside validation, where only ValueErrors are understood."""
    try:
        check()
    except CoreError as error:
        raise ValueError(f"{where}: {error.message}") from error
