"""Programmes over several visits: alternating sets, a gentle start, widening intervals, and a day to review."""

from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.request import ComposeRequest
from acuthesis.core.compose.home.plan import HomeSet, home_sets
from acuthesis.core.compose.knowledge.layer import Knowledge, shipped
from acuthesis.core.compose.score.score import PRESSED, Score
from acuthesis.core.safety.screening import Screening

# Days from one visit to the next: close together at first, then spaced out. Source: manual-therapy teaching.
SPACING_DAYS: tuple[int, ...] = (5, 5, 7, 7, 10, 14)
FAIR_TRIAL = 5  # visits after which no change is a reason to change the plan or to refer


class ProgrammeRequest(BaseModel):
    """What a programme is asked for: the first visit, and how many there are."""

    model_config = ConfigDict(extra="forbid")

    first: ComposeRequest
    visits: int = Field(6, ge=2, le=12)


class PlannedVisit(BaseModel):
    """One visit of a programme: its number from 1, the day counted from the first visit, its set of points, and its
    score.
    """

    number: int
    day: int
    set: str
    gentle: bool
    score: Score
    new: tuple[str, ...]  # points that the visit before did not have
    rested: tuple[str, ...]  # points of the visit before that rest this time


class Programme(BaseModel):
    """Visits with their days, home sets, and when to judge."""

    visits: tuple[PlannedVisit, ...]
    home: tuple[HomeSet, ...]
    judge_on_day: int
    words: str


def programme(request: ProgrammeRequest, screening: Screening, knowledge: Knowledge | None = None) -> Programme:
    """A programme. Main points come back at every visit; what supplies, far points and the rest alternate.

    Raises: what `compose` raises.
    """
    known = knowledge or shipped()
    visits: list[PlannedVisit] = []
    day = 0
    before: list[str] = []
    for number in range(1, request.visits + 1):
        alternate = _resting(visits[-1].score, request.first, known) if visits else []
        wish = request.first.model_copy(update={"resting": alternate, "gentle": number == 1})
        score = compose(wish, screening, known)
        ids = [stop.id for stop in score.stops if stop.kind in PRESSED]
        new = tuple(id for id in dict.fromkeys(ids) if visits and id not in before)
        letter = visits[-1].set if visits else "A"
        visits.append(
            PlannedVisit(
                number=number,
                day=day,
                set=("B" if letter == "A" else "A") if new else letter,  # where all of it fits, nothing alternates
                gentle=number == 1,
                score=score,
                new=new,
                rested=tuple(id for id in dict.fromkeys(before) if id not in ids),
            )
        )
        before = ids
        day += SPACING_DAYS[min(number - 1, len(SPACING_DAYS) - 1)]
        if score.decision != "ok":
            break
    judged = visits[min(FAIR_TRIAL, len(visits)) - 1].day
    return Programme(
        visits=tuple(visits),
        home=tuple(home_sets([complaint.id for complaint in request.first.complaints], screening, known)),
        judge_on_day=judged,
        words=(
            f"Review on day {judged}, after {min(FAIR_TRIAL, len(visits))} visits with home pressing in between. If "
            "there is no change by then, or it worsens at any time, change the plan or refer."
        ),
    )


def _resting(score: Score, first: ComposeRequest, knowledge: Knowledge) -> list[str]:
    """What rests next time: everything pressed that is no main point of a complaint, nor pinned."""
    kept = {
        use.id for complaint in first.complaints for use in knowledge.complaint(complaint.id).uses if use.role == "main"
    }
    kept |= set(first.pinned)
    return [stop.id for stop in score.stops if stop.kind in PRESSED and stop.id not in kept]
