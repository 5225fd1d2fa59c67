"""The parts of a person's record as they are written in JSON (docs/guide/record.md), with the ranges they keep."""

import uuid
from datetime import date
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from acuthesis.core.atlas.locating.finding import FARTHEST_MM, Texture
from acuthesis.core.body.person import Fingers
from acuthesis.core.body.regions import MOST_PAINTED
from acuthesis.core.compose.home.plan import HomePlan
from acuthesis.core.compose.knowledge.complaint_questions import MOST_ACTS, Answers
from acuthesis.core.compose.score.score import Score
from acuthesis.core.follow.decide import Proposal, ProposedStep
from acuthesis.core.instant import Instant
from acuthesis.core.safety.clearance import Clearance
from acuthesis.core.safety.touching import StopSide
from acuthesis.core.treat.account import WriteUp
from acuthesis.core.treat.events import Event

SaidBy = Literal["person", "from_home", "carer", "practitioner"]
MOST_ROWS = 5000
MOST_ANSWERS = 200


class RecordPart(BaseModel):
    """What every part is: an unknown key is refused."""

    model_config = ConfigDict(extra="forbid")


class CorrectedPart(RecordPart):
    """Something that was said, and that a later one may take the place of."""

    id: uuid.UUID
    said_by: SaidBy = "person"
    recorded_by: uuid.UUID | None = None
    replaces: uuid.UUID | None = Field(None, description="the one that this corrects, earlier in the list")
    dropped: bool = False


class PersonPart(RecordPart):
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
    archived_at: Instant | None = None
    story: str = Field("", max_length=4000, description="of earlier versions, which had one text; now see `stories`")
    created_at: Instant


class StoryPart(RecordPart):
    """A piece of the story."""

    id: uuid.UUID
    told: str = Field(min_length=1, max_length=4000)
    told_on: date
    written_by: uuid.UUID | None = None
    written_at: Instant


class ConsentPart(RecordPart):
    """A consent, or (`given` false) its withdrawal."""

    id: uuid.UUID
    about: str = Field(max_length=120)
    given: bool
    said: str = Field("", max_length=4000)
    how: Literal["in_writing", "spoken", "by_guardian"]
    given_on: date
    recorded_by: uuid.UUID
    recorded_at: Instant


class LetterPart(RecordPart):
    """A letter about the person, and the answer to it."""

    id: uuid.UUID
    recipient: str = Field(max_length=120)
    about: str = Field(max_length=120)
    sent_on: date
    answer_due: date | None = None
    answered_on: date | None = None
    answer: str = Field("", max_length=4000)
    sent_by: uuid.UUID


class PlannedPart(RecordPart):
    """A planned visit of a series: booked (`visit_id`), dropped, or neither."""

    id: uuid.UUID
    series_id: uuid.UUID
    number: int = Field(ge=1, le=60)
    due_on: date
    minutes: int = Field(ge=3, le=240)
    purpose: str = Field("", max_length=120)
    visit_id: uuid.UUID | None = None
    dropped_at: Instant | None = None
    planned_by: uuid.UUID
    planned_at: Instant


class PractitionerPart(RecordPart):
    """Somebody who is named in the record, for what they did."""

    id: uuid.UUID
    name: str = Field(min_length=1, max_length=120)


class ScreeningPart(RecordPart):
    """One screening; not `in_full` where single answers were added to those before."""

    id: uuid.UUID
    answered_at: Instant
    answered_by: uuid.UUID | None = None
    in_full: bool = True
    answers: dict[str, Any] = Field(max_length=MOST_ANSWERS)


class ClearancePart(Clearance):
    """One clearance, or the taking back of one."""

    id: uuid.UUID
    recorded_at: Instant
    recorded_by: uuid.UUID | None = None


class ThresholdPart(RecordPart):
    """One measured pressure-pain threshold (N/cm²); none takes back what was measured before."""

    id: uuid.UUID
    part: str
    n_per_cm2: float | None = Field(allow_inf_nan=False)
    taken_at: Instant


class ActivityPart(RecordPart):
    """Something that a complaint stops the person doing."""

    id: uuid.UUID
    words: str = Field(min_length=1, max_length=120)


class ComplaintPart(RecordPart):
    """One complaint."""

    id: uuid.UUID
    kind: str
    side: StopSide
    act: str = Field("", max_length=120, description="of earlier versions, which had one; now see `acts`")
    acts: list[ActivityPart] = Field([], max_length=MOST_ACTS)
    since: date | None
    closed_on: date | None
    created_at: Instant


class AnswersPart(RecordPart):
    """What was answered about a complaint, once."""

    id: uuid.UUID
    complaint_id: uuid.UUID
    answers: Answers
    asked_by: uuid.UUID
    asked_at: Instant


class ComplaintPlacePart(RecordPart):
    """Where a complaint was, as it was painted on the figure."""

    id: uuid.UUID
    complaint_id: uuid.UUID
    skin: list[Annotated[int, Field(ge=0, lt=10**6)]] = Field(min_length=1, max_length=MOST_PAINTED)
    words: str = Field(max_length=400)
    painted_by: uuid.UUID
    painted_at: Instant


class ConfirmationPart(RecordPart):
    """That a doctor has looked at what a complaint calls for."""

    id: uuid.UUID
    complaint_id: uuid.UUID
    by: str = Field(min_length=1, max_length=120)
    seen_on: date
    recorded_by: uuid.UUID
    recorded_at: Instant


class ActivityRatingPart(CorrectedPart):
    """One rating of an act."""

    complaint_id: uuid.UUID
    act_id: uuid.UUID
    visit_id: uuid.UUID | None
    moment: Literal["before", "after", "home"]
    value: int = Field(ge=0, le=10)
    rated_at: Instant


class EarlierEpisodePart(RecordPart):
    """What an episode said before it was changed."""

    started_at: Instant
    ended_at: Instant | None
    goes_on: bool
    day_only: bool
    day_said: bool
    strength: int | None = Field(ge=0, le=10)
    trigger: str = Field(max_length=120)
    helped: str = Field(max_length=120)
    medicine: str = Field(max_length=120)
    said_by: SaidBy = "person"
    changed_at: Instant
    changed_by: uuid.UUID


class EpisodePart(RecordPart):
    """An episode of a complaint."""

    id: uuid.UUID
    complaint_id: uuid.UUID
    started_at: Instant
    ended_at: Instant | None = None
    goes_on: bool = False
    day_only: bool = False
    day_said: bool = True
    strength: int | None = Field(None, ge=0, le=10)
    trigger: str = Field("", max_length=120)
    helped: str = Field("", max_length=120)
    medicine: str = Field("", max_length=120)
    said_by: SaidBy = "person"
    earlier: list[EarlierEpisodePart] = Field([], max_length=MOST_ANSWERS)
    recorded_by: uuid.UUID | None
    recorded_at: Instant

    @model_validator(mode="after")
    def _in_order(self) -> "EpisodePart":
        if self.ended_at is not None and (self.ended_at < self.started_at or self.goes_on):
            raise ValueError("an episode ends after it began, or still goes on")
        return self


class LogPart(CorrectedPart):
    """One entry of the log between visits."""

    kind: Literal["medicine", "sleep", "practice", "event"]
    complaint_id: uuid.UUID | None = None
    on_day: date
    until: date | None = None
    amount: float | None = Field(None, ge=0, le=10_000, allow_inf_nan=False)
    words: str = Field("", max_length=120)
    other_care: bool = False
    pressed: list[str] = Field([], max_length=MOST_ANSWERS)
    recorded_at: Instant


class DecisionPart(RecordPart):
    """What was decided about a complaint, beside what was proposed."""

    id: uuid.UUID
    complaint_id: uuid.UUID
    proposed: Proposal
    step: ProposedStep
    because: str = Field("", max_length=4000)
    decided_by: uuid.UUID
    decided_at: Instant
    came_of: str = Field("", max_length=4000)
    came_of_at: Instant | None = None


class HomePlanPart(RecordPart):
    """A plan for home that was given; `hours` of the day ("08:00") from `first_day` to `until`."""

    id: uuid.UUID
    plan: HomePlan
    hours: list[str] = Field(min_length=1, max_length=6)
    first_day: date
    until: date
    made_by: uuid.UUID
    made_at: Instant


class HomeFlagPart(RecordPart):
    """A red flag that was reported from home (`question` of the screening), and what came of it."""

    id: uuid.UUID
    question: str = Field(max_length=60)
    said_at: Instant
    heard_at: Instant
    looked_at: Instant | None = None
    looked_by: uuid.UUID | None = None
    words: str = Field("", max_length=4000)


class PaperPart(RecordPart):
    """A letter or summary that was made here: its text with marks, and plain. The PDF does not go with a record."""

    id: uuid.UUID
    kind: Literal["doctor", "midwife", "summary"]
    asked: dict[str, Any] = Field(max_length=20)
    body: str = Field(max_length=12_000)
    consent_id: uuid.UUID | None = Field(None, description="the consent to it, of `consents`")
    text: str = Field(max_length=60_000)
    plain: str = Field(max_length=80_000)
    asked_by: uuid.UUID
    asked_at: Instant
    made_at: Instant


class MeasurePart(RecordPart):
    """One length."""

    id: uuid.UUID
    name: str
    value_cm: float = Field(allow_inf_nan=False)
    taken_at: Instant


class SettledPart(RecordPart):
    """How a disputed event was settled."""

    how: Literal["happened", "set_aside"]
    note: str = Field("", max_length=4000)
    settled_at: Instant
    settled_by: uuid.UUID


class DisputedPart(RecordPart):
    """An event that happened and could not be applied, with why, and how it was settled."""

    event: Event
    reason: str = Field(min_length=1, max_length=1000)
    settled: SettledPart | None = None


class AddendumPart(RecordPart):
    """What was added after the record of a visit was closed."""

    id: uuid.UUID
    said: str = Field(min_length=1, max_length=4000)
    added_by: uuid.UUID
    added_at: Instant


class VisitPart(RecordPart):
    """One visit with its score, who held it, and the events of its treatment."""

    id: uuid.UUID
    held_by: uuid.UUID | None = None
    starts_at: Instant
    minutes: int = Field(ge=3, le=240)
    note: str = Field("", max_length=4000)
    place: str = Field("", max_length=120, description="its name; in another practice only a word")
    purpose: str = Field("", max_length=120)
    came: Literal["booked", "walk_in"] = "booked"
    attendance: Literal["expected", "cancelled", "not_come"] = "expected"
    attendance_reason: str = Field("", max_length=120)
    written: WriteUp | None = None
    closed_at: Instant | None = None
    closed_by: uuid.UUID | None = None
    addenda: list[AddendumPart] = Field([], max_length=MOST_ANSWERS)
    score: Score | None
    events: list[Event] = Field([], max_length=MOST_ROWS)
    disputed: list[DisputedPart] = Field([], max_length=MOST_ROWS)


class DraftPart(RecordPart):
    """One draft of a visit's score."""

    id: uuid.UUID
    visit_id: uuid.UUID
    label: str = Field(max_length=120)
    score: Score
    kept_at: Instant
    kept_by: uuid.UUID | None = None


class RatingPart(CorrectedPart):
    """One rating."""

    complaint_id: uuid.UUID
    visit_id: uuid.UUID | None
    moment: Literal["before", "after", "home"]
    value: int = Field(ge=0, le=10)
    rated_at: Instant


class FindingPart(RecordPart):
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
    at: Instant
