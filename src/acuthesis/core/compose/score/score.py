"""The score: what a sequence of stops is, with what is planned, said and left out. Laid out by `arrange`."""

from collections.abc import Sequence
from datetime import date
from itertools import pairwise
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from acuthesis.core.atlas.entries.model import Contact, Position
from acuthesis.core.atlas.locating.finding import WayBeside
from acuthesis.core.compose.knowledge.dose import Dose, Hold, Side, dose_in_words, duration_s
from acuthesis.core.compose.knowledge.technique import Technique, techniques
from acuthesis.core.compose.score.course import CourseStep, Phrase, course, rhythm
from acuthesis.core.errors import CoreError, UnknownId
from acuthesis.core.message import message
from acuthesis.core.reason import Reason
from acuthesis.core.safety.first_aid import Help
from acuthesis.core.safety.pressure import pressure_table
from acuthesis.core.safety.screening import Decision
from acuthesis.core.safety.soreness import Meaning
from acuthesis.core.safety.touching import StopSide

MOVE_S = 5  # from one place to the next: hands off, find, settle
TURN_S = 30  # the person turns over or sits up
TALKED_IN: tuple[Position, ...] = ("seated", "half_reclined", "supine")  # where somebody is talked to, best first
MAX_STOPS = 160
LEAST_ABOUT_S = 90  # a moment that is shorter is told in seconds
REASON_LEAST = 8  # letters of a reason that is more than a full stop

StopKind = Literal["point", "area", "stroke", "loosen", "stretch", "breathe", "rate", "second_look", "close"]
# Why a stop is in: chosen for the complaints, part of the school's general round, or once more at a place.
Round = Literal["chosen", "general", "again"]
PRESSED: tuple[StopKind, ...] = ("point", "area")
UNTOUCHED: tuple[StopKind, ...] = ("rate", "second_look")
# Stops that are moments of the session and touch nothing in particular, by id.
MOMENTS: dict[str, str] = {
    "first_rating": "Talk and rate",
    "arrive": "Settle in and breathe",
    "rest": "Rest",
    "second_look": "Recheck of the sorest points",
    "close": "Quiet close",
    "last_rating": "Rate again",
    "breathe": "Settle in and breathe",
}
EARS = ("ear", "ear_back")


class Before(BaseModel):
    """What was felt at a place at an earlier visit: soreness at first and at last (0 to 10), and what eased it."""

    on: date
    side: StopSide
    first: int
    last: int
    way: Literal["ease", "rim", "firm"] | None = None


class SoreWay(BaseModel):
    """What a sore spot gets in the school of the score, the school's name where that is its own way, and whether it may
    be pressed once firmer for some seconds.
    """

    then: Literal["leave", "ease", "rim", "short_firm_press"] = "ease"
    school: str = ""
    firm: bool = False


class DraftStop(BaseModel):
    """A stop as the practitioner writes it: what, where, how, how hard.

    `contact` what presses, where it is not the usual; `override` the reason under which a refusal is lifted.
    """

    model_config = ConfigDict(extra="ignore")

    key: str = Field(min_length=1, max_length=64)
    kind: StopKind
    id: str = Field(min_length=1, max_length=80)
    side: StopSide
    position: Position
    dose: Dose
    level: int = Field(ge=1, le=5)
    muted: bool = False
    contact: Contact | None = None
    override: str = Field("", max_length=400)
    phase: str = Field("", max_length=40)
    why: tuple[str, ...] = ()
    first: Literal["right", "left"] = "right"  # the side that is worked first, where one follows the other
    core_of: tuple[str, ...] = Field((), max_length=12)  # complaints that anybody would begin with it for
    round: Round = "chosen"
    turn_s: int = Field(0, ge=0, le=120)  # seconds more than usual for coming into the position, where it is another


class Stop(DraftStop):
    """A stop in its place in the score: when it starts, how long it takes, the ceiling and the force."""

    contact: Contact
    name: str
    start_s: float
    duration_s: float
    ceiling: int
    ceiling_reasons: tuple[str, ...]
    force_n: float
    entering: tuple[int, ...] = ()
    warnings: tuple[str, ...] = ()
    words: str = ""
    dose_words: str = ""
    stand: str = ""  # where the practitioner stands or sits for it
    settle: str = ""  # how the person is laid or seated, at the first stop in a position
    turn: str = ""  # how the person is helped into a position that is not the one before
    hand: str = ""  # what presses, and what the other hand does meanwhile
    find_s: float = 0  # before the hands are on: letting go of the place before, turning, looking for this one
    before: tuple[Before, ...] = ()  # what was felt here at the last visits, oldest first; from the beginning on
    beside: tuple[WayBeside, ...] = ()  # where a hand may find it instead: two directions along, two across
    found: str = ""  # where it was found last time on this person, where that is not where it is looked for
    consent: bool = False  # the person is asked before a hand goes there, and has not agreed yet
    sore_means: tuple[Meaning, ...] = ()  # what soreness here may mean for this person
    rhythm: tuple[Phrase, ...] = ()  # the beats of the dose on one side
    course: tuple[CourseStep, ...] = ()  # find, enter, dose, release, side after side

    @model_validator(mode="after")
    def _say(self) -> "Stop":
        if self.id in MOMENTS and isinstance(self.dose, Hold):
            self.dose_words = about_minutes(self.dose.seconds)
        else:
            self.dose_words = dose_in_words(self.dose)
        self.rhythm = rhythm(self.dose)
        self.course = course(sides_of(self), self.level, duration_s(self.dose), self.find_s) if self.pressed else ()
        return self

    @property
    def pressed(self) -> bool:
        """Whether hands press or stroke, so that it is entered and let go of."""
        return self.kind in (*PRESSED, "stroke", "loosen", "stretch")


class LeftOut(BaseModel):
    """Something that is not in the score, and why."""

    id: str
    name: str
    side: StopSide
    reason: str
    rule: str
    severity: Literal["refuse", "limit", "note"]
    overridable: bool = False
    core_of: tuple[str, ...] = ()  # complaints that anybody would begin with it for
    needs_s: float | None = None  # what it would take, where it is time or a turn that keeps it out


class Objective(BaseModel):
    """What the composition is worth: the value and the bound that nothing can beat; what of the cores is in, in their
    own unit; how often the person turns; what the order costs and the least that any could; metres that the
    practitioner walks, and how often what presses changes.
    """

    value: float
    bound: float = 0
    gap: float = 0
    core: float = 0
    position_changes: int
    order: float = 0
    order_bound: float = 0
    walked_m: float = 0
    tool_changes: int = 0


class Coverage(BaseModel):
    """What a complaint gets; `missing` says why something is not there."""

    complaint: str
    name: str
    local: bool
    far: bool
    calm: bool
    missing: tuple[str, ...] = ()
    core: tuple[str, ...] = ()  # ids that anybody would begin with, those that are in
    core_out: tuple[str, ...] = ()  # and those that are not


class Score(BaseModel):
    """A composed sequence, or the reasons why there is none."""

    decision: Decision
    reasons: tuple[Reason, ...] = ()
    minutes: float
    total_s: float
    school: str = ""
    alone: bool = False  # the person presses their own points
    stops: tuple[Stop, ...] = ()
    left_out: tuple[LeftOut, ...] = ()
    coverage: tuple[Coverage, ...] = ()
    notes: tuple[str, ...] = ()
    asks: tuple[str, ...] = ()  # to be asked before hands go on
    sore: SoreWay = SoreWay()
    help: Help | None = None  # what helps this person when something is wrong, from the beginning of the treatment on
    objective: Objective

    @property
    def spare_s(self) -> float:
        """Seconds of the booked time that the session does not take."""
        return max(self.minutes * 60 - self.total_s, 0.0)


def about_minutes(seconds: float) -> str:
    """How long a moment takes, as people say it: half a minute more or less does not matter.

    >>> about_minutes(45), about_minutes(123), about_minutes(150)
    ('45 s', 'about 2 minutes', 'about 2.5 minutes')
    """
    if seconds < LEAST_ABOUT_S:
        return f"{seconds:g} s"
    return f"about {round(seconds / 30) / 2:g} minutes"


def sides_of(stop: DraftStop) -> tuple[Side, ...]:
    """The sides of a stop as they are worked, one after the other; both at once are one."""
    if stop.side != "both" or stop.dose.together:
        return (stop.side,)
    return ("left", "right") if stop.first == "left" else ("right", "left")


def side_count(side: StopSide) -> int:
    """How many sides a stop is worked on: 2 for `both`, else 1 (the midline is one).

    >>> side_count("both"), side_count("midline")
    (2, 1)
    """
    return 2 if side == "both" else 1


def technique_of(stop: DraftStop) -> Technique | None:
    """The technique of a stop; None for a point, an area or a moment. Raises: UnknownId."""
    if stop.kind in PRESSED or stop.id in MOMENTS:
        return None
    if stop.id not in techniques():
        raise UnknownId(message("score-there-no-technique", id=stop.id), where=stop.id)
    return techniques()[stop.id]


def tool_changes(stops: Sequence[Stop]) -> int:
    """How often what presses changes from one stop to the next.

    >>> tool_changes([])
    0
    """
    hands = [stop.contact for stop in stops if not stop.muted and stop.kind not in UNTOUCHED and stop.id not in MOMENTS]
    return sum(a != b for a, b in pairwise(hands))


LONGEST_S = 6 * 3600  # no session is longer


def check_keys(stops: Sequence[DraftStop]) -> None:
    """As many stops as a score holds, each with a key of its own. Raises: CoreError."""
    if len(stops) > MAX_STOPS:
        raise CoreError(message("score-score-have-at-most-stops", max_stops=MAX_STOPS, count=len(stops)), where="stops")
    if len({stop.key for stop in stops}) != len(stops):
        raise CoreError(message("score-two-stops-have-same-key"), where="stops")


def check_score(score: Score) -> None:
    """What any score has to be that comes from outside, whoever it was made for.

    Raises: CoreError naming the stop: too many stops, one key twice, harder than its own ceiling, or longer than a day
    at work.
    """
    check_keys(score.stops)
    for rank, stop in enumerate(score.stops):
        where = f"stops.{rank}"
        if not stop.muted and stop.level > stop.ceiling:
            raise CoreError(
                message(
                    "score-at-level-above-its-maximum", where=where, id=stop.id, level=stop.level, ceiling=stop.ceiling
                ),
                where=where,
            )
        if not (0 <= stop.start_s <= LONGEST_S and 0 <= stop.duration_s <= LONGEST_S):
            raise CoreError(message("score-starts-or-lasts-beyond-any", where=where, id=stop.id), where=where)


def total_s(stops: Sequence[Stop]) -> float:
    """Seconds from the first stop to the end of the last that sounds.

    >>> total_s([])
    0.0
    """
    return max((stop.start_s + stop.duration_s for stop in stops if not stop.muted), default=0.0)


def position_changes(stops: Sequence[DraftStop]) -> int:
    """How often the person has to turn on the way through the stops in their order; muted ones do not count, nor do
    the ways to the couch after the first talk and up from it for the last.

    >>> position_changes([])
    0
    """
    played = [stop.position for stop in stops if not stop.muted and stop.kind != "rate"]
    return sum(a != b for a, b in pairwise(played))


def default_level(wanted: int, ceiling: int) -> int:
    """The level to start from: what the dose aims at, kept under the ceiling and under deep.

    >>> default_level(3, 2)
    2
    """
    return max(1, min(wanted, ceiling, pressure_table().default_ceiling))
