"""The input of a composition: the person, complaints, minutes, school, and the practitioner's wishes."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.atlas.entries.model import Position
from acuthesis.core.compose.knowledge.layer import Knowledge
from acuthesis.core.compose.knowledge.school import DEFAULT_SCHOOL
from acuthesis.core.compose.knowledge.technique import techniques
from acuthesis.core.errors import CoreError
from acuthesis.core.message import message
from acuthesis.core.safety.touching import StopSide

SHORTEST_MIN, LONGEST_MIN = 3, 180
Setting = Literal["practice", "self_care"]
Map = Literal["standard", "second"]
Id = Annotated[str, Field(min_length=1, max_length=80)]


class _Asked(BaseModel):
    model_config = ConfigDict(extra="forbid")


class ComplaintNow(_Asked):
    """A complaint as it is today: which, how strong (0 to 10), which side."""

    id: str
    rating: float = Field(5, ge=0, le=10)
    side: StopSide = "both"


class Helped(_Asked):
    """What happened after a stop before: by how much the rating fell on average (negative: it rose), how often."""

    id: Id
    side: StopSide | None = None
    change: float = Field(ge=-10, le=10)
    times: int = Field(1, ge=1, le=1000)


class Done(_Asked):
    """A stop that was done already, when the rest of a treatment is composed anew."""

    id: Id
    side: StopSide = "both"


class ComposeRequest(_Asked):
    """What to compose for.

    `avoid` leaves ids out, `prefer` makes them weigh more, `pinned` puts them in whatever they are worth. `also` mixes
    in other schools knowingly. `remaining_minutes`, `done` and `lying` compose the rest of a treatment that has begun.
    """

    complaints: list[ComplaintNow] = Field(min_length=1, max_length=12)
    minutes: float = Field(40, gt=0, le=LONGEST_MIN, allow_inf_nan=False)
    school: str = DEFAULT_SCHOOL
    also: list[str] = Field([], max_length=6)
    setting: Setting = "practice"
    positions_excluded: list[Position] = []
    avoid: list[Id] = Field([], max_length=100)
    prefer: list[Id] = Field([], max_length=100)
    pinned: list[Id] = Field([], max_length=40)
    history: list[Helped] = Field([], max_length=400)
    ear_map: Map = "standard"
    foot_chart: Map | Literal["common"] = "standard"
    breaths_per_minute: float | None = Field(None, ge=3, le=30)
    remaining_minutes: float | None = Field(None, gt=0, le=LONGEST_MIN, allow_inf_nan=False)
    done: list[Done] = Field([], max_length=120)
    lying: Position | None = None  # of a treatment that has begun: the position that the person is in now
    resting: list[Id] = Field([], max_length=100)  # had its turn last time: others come first
    gentle: bool = False  # a first visit: one level lighter than usual
    seed: int = Field(0, ge=0, lt=2**31)

    @property
    def begun(self) -> bool:
        """Whether the rest of a running treatment is composed."""
        return self.remaining_minutes is not None

    @property
    def slot_s(self) -> float:
        """Seconds that there are."""
        return (self.minutes if self.remaining_minutes is None else self.remaining_minutes) * 60

    def within_minutes(self, most: float | None) -> "ComposeRequest":
        """The same request for no more than `most` minutes."""
        if most is None or self.slot_s <= most * 60:
            return self
        return self.model_copy(update={"remaining_minutes" if self.begun else "minutes": most})


def check_request(request: ComposeRequest, knowledge: Knowledge) -> None:
    """What cannot be meant is refused before anything is composed.

    Raises: UnknownId for an id that does not exist; CoreError for minutes that hold no session, complaints named twice
    and contradictory wishes.
    """
    if request.minutes < SHORTEST_MIN and not request.begun:
        raise CoreError(
            message("request-minutes-too-short-settling-pressing", minutes=request.minutes, shortest_min=SHORTEST_MIN),
            where="minutes",
        )
    names = [complaint.id for complaint in request.complaints]
    for id in names:
        knowledge.complaint(id)
        if names.count(id) > 1:
            raise CoreError(message("request-listed-twice-list-once-with", id=id), where="complaints")
    for school in (request.school, *request.also):
        knowledge.school(school)
    for field in ("avoid", "prefer", "pinned"):
        for id in getattr(request, field):
            _known(id, field, knowledge)
    for id in request.pinned:
        if id in request.avoid:
            raise CoreError(message("request-both-pinned-avoided-remove-from", id=id), where="pinned")


def _known(id: str, field: str, knowledge: Knowledge) -> None:
    if id in techniques():
        return
    try:
        knowledge.find(id)
    except CoreError as error:
        raise type(error)(error.message, where=field) from error
