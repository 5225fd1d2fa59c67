"""Following: the day's list with the next step for each; a person's course, its log, and what is decided."""

import uuid
from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.api.files import file
from acuthesis.api.text import Day, Line, LineOrNone, Paragraph
from acuthesis.core.follow.decide import Proposal, ProposedStep
from acuthesis.exchange.course_csv import Columns, DayOrder
from acuthesis.services.calendar.day import DayVisit, visit_now, visits_on
from acuthesis.services.follow import decisions, log
from acuthesis.services.follow.course import PersonCourse, course_of
from acuthesis.services.follow.course_files import course_as_csv, course_as_svg
from acuthesis.services.follow.decisions import DecisionOut
from acuthesis.services.follow.follow_up import FollowUp, follow_up
from acuthesis.services.follow.log import EntryOut, Kind, LogInput
from acuthesis.services.ratings.import_csv import Heads, Preview, heads, import_rows
from acuthesis.services.ratings.rating import SaidBy
from acuthesis.store import people

router = APIRouter(route_class=StrictRoute, tags=["follow"])
MOST_PRESSED = 40
SVG: dict[int | str, dict[str, object]] = {200: {"content": {"image/svg+xml": {}}}}
CSV: dict[int | str, dict[str, object]] = {200: {"content": {"text/csv": {}}}}


class EntryIn(BaseModel):
    """An entry of the log: a medicine (`words`, times taken in `amount`), hours slept, minutes pressed at home
    (`pressed`:
    ids of points and areas), or an event that may explain a change (`other_care`: another treatment)."""

    model_config = ConfigDict(extra="forbid")

    kind: Kind
    complaint_id: uuid.UUID | None = None
    on_day: Day
    until: Day | None = None
    amount: Annotated[float, Field(ge=0, le=10_000, allow_inf_nan=False)] | None = None
    words: LineOrNone = ""
    other_care: bool = False
    pressed: Annotated[list[Line], Field(max_length=MOST_PRESSED)] = []
    said_by: SaidBy = "person"

    def told(self) -> LogInput:
        """The entry as the use case takes it."""
        return LogInput(**self.model_dump())


class NewEntry(EntryIn):
    """A new entry. The id makes sending it twice harmless."""

    id: uuid.UUID

    def told(self) -> LogInput:
        """The entry as the use case takes it."""
        return LogInput(**self.model_dump(exclude={"id"}))


class CorrectedEntry(BaseModel):
    """Another entry in the place of one, or none to take it back. The id makes sending it twice harmless."""

    model_config = ConfigDict(extra="forbid")

    id: uuid.UUID
    entry: EntryIn | None


class NewDecision(BaseModel):
    """The step that is taken and why, beside the proposal that was shown."""

    model_config = ConfigDict(extra="forbid")

    id: uuid.UUID
    step: ProposedStep
    because: Paragraph = ""
    proposed: Proposal


class ListText(BaseModel):
    """A list of ratings as text: a row of heads, then one row a rating; commas, semicolons or tabs between."""

    model_config = ConfigDict(extra="forbid")

    text: Annotated[str, Field(min_length=1, max_length=600_000)]


class ListIn(ListText):
    """The same with which column is what, and how days are written; `keep` saves it."""

    day: Line
    value: Line
    time: Line | None = None
    order: DayOrder = "year_first"
    keep: bool = False


class CameOf(BaseModel):
    """What came of a decision; `version` is the one that was seen."""

    model_config = ConfigDict(extra="forbid")

    version: int
    came_of: Paragraph


@router.get("/day")
def read_day(
    here: SignedIn, on: Annotated[Day | None, Query(description="a day of the practice; today without it")] = None
) -> list[DayVisit]:
    """The visits of a day, by the practice's clock."""
    return visits_on(here, on or here.today)


@router.get("/people/{person_id}/today")
def read_today(person_id: uuid.UUID, here: SignedIn) -> DayVisit | None:
    """The visit a person is here for."""
    return visit_now(here, here.person(person_id, "visit of today"))


@router.get("/people/{person_id}/course")
def read_course(person_id: uuid.UUID, here: SignedIn) -> PersonCourse:
    """Everything on a person's time line, what the ratings say, and what comes next."""
    return course_of(here, here.person(person_id, "course"))


@router.post("/people/{person_id}/log", status_code=201)
def add_entry(person_id: uuid.UUID, new: NewEntry, here: SignedIn) -> EntryOut:
    """Keep an entry of the log between visits."""
    return log.entry_out(here, log.add(here, person_id, new.id, new.told()))


@router.post("/log/{entry_id}/corrections", status_code=201)
def correct_entry(entry_id: uuid.UUID, correction: CorrectedEntry, here: SignedIn) -> EntryOut:
    """Correct an entry, or take it back; what was said first stays on record."""
    told = correction.entry.told() if correction.entry else None
    return log.entry_out(here, log.correct(here, entry_id, correction.id, told))


@router.post("/complaints/{complaint_id}/decisions", status_code=201)
def decide(complaint_id: uuid.UUID, new: NewDecision, here: SignedIn) -> DecisionOut:
    """Keep what is decided about a complaint, beside what was proposed."""
    complaint = people.complaint(here.db, complaint_id)
    course = course_of(here, here.person(complaint.person_id))
    mine = next((one.proposal for one in course.complaints if one.id == complaint_id), new.proposed)
    proposed = decisions.as_shown(here, mine, new.proposed)
    row = decisions.record(here, complaint_id, new.id, new.step, new.because, proposed)
    return decisions.decision_out(here, row)


@router.patch("/decisions/{decision_id}")
def note_what_came(decision_id: uuid.UUID, noted: CameOf, here: SignedIn) -> DecisionOut:
    """Note what came of a decision."""
    return decisions.decision_out(here, decisions.came_of(here, decision_id, noted.version, noted.came_of))


@router.get("/follow-up")
def read_follow_up(here: SignedIn) -> FollowUp:
    """Who gets worse, who did not come back, whose series ends; and by complaint how everybody did."""
    return follow_up(here)


@router.post("/ratings-list/columns")
def read_columns(listed: ListText, here: SignedIn) -> Heads:
    """The columns of a list of ratings that somebody kept, and which are likely meant; nothing is kept."""
    return heads(listed.text)


@router.post("/complaints/{complaint_id}/ratings-list")
def import_ratings(complaint_id: uuid.UUID, listed: ListIn, here: SignedIn) -> Preview:
    """How a list is understood, row by row, and with `keep` kept: all of it or nothing."""
    columns = Columns(listed.day, listed.value, listed.time, listed.order)
    return import_rows(here, complaint_id, listed.text, columns, listed.keep)


@router.get("/complaints/{complaint_id}/course.svg", response_class=Response, responses=SVG)
def course_figure(complaint_id: uuid.UUID, here: SignedIn) -> Response:
    """The figure of a complaint's course."""
    return file(course_as_svg(here, complaint_id), "image/svg+xml", "course.svg", saved=True)


@router.get("/complaints/{complaint_id}/course.csv", response_class=Response, responses=CSV)
def course_table(complaint_id: uuid.UUID, here: SignedIn) -> Response:
    """The ratings of a complaint and its acts as a table."""
    return file(course_as_csv(here, complaint_id), "text/csv; charset=utf-8", "course.csv", saved=True)
