"""Events of a treatment: append-only, each with an id the client made, so that sending one twice changes nothing."""

from datetime import datetime
from functools import lru_cache
from pathlib import Path
from typing import Annotated, Literal, get_args
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from acuthesis.core.atlas.locating.finding import Offset, Texture
from acuthesis.core.body.figure import Side
from acuthesis.core.compose.knowledge.dose import SIGN_WORDS, Sign
from acuthesis.core.compose.score.score import MAX_STOPS, Score, Stop
from acuthesis.core.data_file import read
from acuthesis.core.instant import Instant

DATA = Path(__file__).parent / "data"

ReactionKind = Literal[
    "relaxed",
    "warm",
    "pulse_felt",
    "asleep",
    "awake",
    "tearful",
    "own_word",
    "bracing",
    "jump",
    "holding_breath",
    "tingling",
    "sharp_pain",
    "shooting_pain",
    "numb",
    "nauseous",
    "bruise",
    "bad_pain",
    "travelling_pain",
    "lump",
    "guarding",
    "asks_to_stop",
    "dizzy",
    "faint",
    "low_sugar",
    "breathless",
    "chest_pain",
    "sudden_headache",
    "sight_or_speech",
    "fit",
    "bleeding",
    "contractions",
]
Follows = Literal["none", "lighten", "leave", "stop_session"]
# What is done with a sore spot: carry on and come back; lighten and hold; circle the rim; once firmer.
SoreSpotWay = Literal["later", "ease", "rim", "firm"]
Why = Literal["very", "helped", "mild", "area", "school", "usual", "again", "hand"]
By = Literal["hand", "person"]  # who said it: whoever treats, or the person on a screen of their own


class Reaction(BaseModel):
    """What a reaction means, and what follows from it the first and the second time."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: str
    group: Literal["fine", "lighten", "stop"]
    key: str = Field(pattern=r"^[a-z0-9]$")
    then: Follows
    lay: str = ""  # what the person needs; {lay} in the words is how they are laid for it
    say: str
    second: Follows | None = None
    second_say: str = ""


@lru_cache
def reactions() -> dict[ReactionKind, Reaction]:
    """The decision table. Raises: ValueError if it lacks a reaction.

    >>> "sharp_pain" in reactions()
    True
    """
    table = TypeAdapter(dict[ReactionKind, Reaction]).validate_python(read(DATA / "reactions.yaml"))
    missing = set(get_args(ReactionKind)) - set(table)
    if missing:
        raise ValueError(f"reactions.yaml lacks {', '.join(sorted(missing))}")
    if len({one.key for one in table.values()}) != len(table):
        raise ValueError("two reactions in reactions.yaml have the same key")
    return table


class Words(BaseModel):
    """What is said when; the names are those of advice.yaml."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    very_sore_twice: str
    grows: str
    sore: str
    eases: str
    carry_on: str
    enough: str
    as_before: str
    lowered: str
    asleep: str
    refused: str
    no_session: str
    keeps: str
    as_planned: str
    came: str
    undone: str
    asks_lighter: str
    asks_lightest: str


class LoopTimes(BaseModel):
    """The loop at a sore spot: seconds of each way, how often something is tried, and what its answers mean.

    `eased_by`: a fall by so much is enough; `hardly`: no second look below or at this; `firm_most`: nothing firmer is
    tried above this.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    ease_s: float
    rim_s: float
    firm_s: float
    rounds: int
    eased_by: int
    hardly: int
    firm_most: int


class Care(BaseModel):
    """The whole of advice.yaml: soreness (0 to 10) at which something follows, and the words for it."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    too_sore: int
    worse_by: int
    sore_enough: int
    asleep_most: int
    keeps_coming: int
    loop: LoopTimes
    words: Words
    ways: dict[SoreSpotWay, str]
    whys: dict[Why, str]


@lru_cache
def care() -> Care:
    """Thresholds (0 to 10) and words of soreness: when to lighten, when to leave a place, what the conductor says.

    >>> care().asleep_most
    2
    """
    return Care.model_validate(read(DATA / "advice.yaml"))


class _Event(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)

    id: UUID
    at: Instant
    hands: int = Field(1, ge=0, le=99)  # touches of the screen, keys or pedals that it took; 0: said by the conductor


class _AtStop(_Event):
    """Something said of a stop: the one of that key, or the one that hands are at.

    A device that was away tells late what was said at a stop that the hands have left since; with its key it is booked
    where it was said.
    """

    key: str | None = None


class Begin(_Event):
    """The treatment begins with this score."""

    kind: Literal["begin"] = "begin"
    score: Score


class StartStop(_Event):
    """Hands on: a stop starts, or starts again."""

    kind: Literal["start_stop"] = "start_stop"
    key: str


class Pause(_Event):
    """Hands off or talking: the clock stands."""

    kind: Literal["pause"] = "pause"


class Resume(_Event):
    """The clock goes on after a pause; seconds are counted again from its time."""

    kind: Literal["resume"] = "resume"


class SetLevel(_AtStop):
    """Another level of pressure (1 to 5) at a stop."""

    kind: Literal["level"] = "level"
    level: int = Field(ge=1, le=5)
    by: By = "hand"


class Soreness(_AtStop):
    """How sore the point is, said by the person, at the level in use; on one side if it was named."""

    kind: Literal["soreness"] = "soreness"
    value: int = Field(ge=0, le=10)
    side: Literal["left", "right"] | None = None
    by: By = "hand"


class Reacted(_AtStop):
    """Something seen on the person or said by them at a stop."""

    kind: Literal["reaction"] = "reaction"
    reaction: ReactionKind
    words: str = Field("", max_length=200)  # the person's own
    by: By = "hand"


class Wrong(_Event):
    """Something is wrong: `begun` stops the clock; then each question with its answer (see `wrong`). `closed`: it was
    opened by mistake.
    """

    kind: Literal["wrong"] = "wrong"
    step: str = Field("", max_length=40)
    answer: Literal["begun", "yes", "no", "closed"]


class ChangeTechnique(_AtStop):
    """A way of working the sore spot, chosen by whoever treats: instead of what the loop proposes, or without it."""

    kind: Literal["technique"] = "technique"
    technique: Literal["ease", "rim"]


class AsPlanned(_Event):
    """What was made lighter for a reaction that kept coming goes back to its planned level."""

    kind: Literal["as_planned"] = "as_planned"


class Came(_AtStop):
    """The sign that was waited for has come."""

    kind: Literal["sign"] = "sign"
    sign: Sign


class Breath(_Event):
    """How long this person's breath is, tapped along: everything that goes by the breath follows it from here on."""

    kind: Literal["breath"] = "breath"
    seconds: float = Field(ge=2, le=20, allow_inf_nan=False)


class Note(_AtStop):
    """A line of whoever treats, at the stop and the time where it was written; after the end, too."""

    kind: Literal["note"] = "note"
    text: str = Field(min_length=1, max_length=300)


class Found(_AtStop):
    """What a hand found at the place of a stop: how it feels, and how far beside the rule's place it lies (mm along
    directions of the body part).
    """

    kind: Literal["found"] = "found"
    side: Side
    texture: Texture | None = None
    offset: Offset = Offset()


class PutTime(_Event):
    """How long a stop really was pressed, put right by hand; after the end, too."""

    kind: Literal["time"] = "time"
    key: str
    active_s: float = Field(ge=0, le=3600, allow_inf_nan=False)


class ChangeRest(_Event):
    """What has not begun gives way to these stops, laid out after the one that hands are at; why, in a word.

    Made by the application from the stops that were taken, and checked like any score.
    """

    kind: Literal["rest"] = "rest"
    stops: tuple[Stop, ...] = Field(max_length=MAX_STOPS)
    why: str = Field("", max_length=120)


class Undo(_Event):
    """The last thing that was said is taken back; it stays in the log."""

    kind: Literal["undo"] = "undo"
    of: UUID


class Later(_AtStop):
    """Come back to this stop for a second look."""

    kind: Literal["later"] = "later"


class Ceiling(BaseModel):
    """The highest level of a stop, and why not more."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    ceiling: int = Field(ge=1, le=5)
    reasons: tuple[str, ...]


class NewLimits(_Event):
    """What is known of the person changed while they lie there: what holds now, by stop.

    `refused`: why a stop must be left. `no_session`: why the whole treatment must end; empty where it may go on.
    Made by the application, never by whoever treats.
    """

    kind: Literal["limits"] = "limits"
    ceilings: dict[str, Ceiling]
    refused: dict[str, str] = {}
    no_session: str = ""


class End(_Event):
    """The treatment is over: finished as planned, or stopped before; nothing follows it."""

    kind: Literal["end"] = "end"
    reason: Literal["finished", "stopped"]


# What whoever treats can say once it has begun.
EventBody = (
    StartStop
    | Pause
    | Resume
    | SetLevel
    | Soreness
    | Reacted
    | Wrong
    | ChangeTechnique
    | Later
    | AsPlanned
    | Came
    | Breath
    | Note
    | Found
    | PutTime
    | Undo
    | End
)
Event = Annotated[Begin | EventBody | ChangeRest | NewLimits, Field(discriminator="kind")]
EVENTS: TypeAdapter[list[Event]] = TypeAdapter(list[Event])
EVENT: TypeAdapter[Event] = TypeAdapter(Event)


def seconds_between(earlier: datetime, later: datetime) -> float:
    """Seconds from one moment to another, never negative: a client's clock may be set back.

    >>> from datetime import UTC, timedelta
    >>> at = datetime(2026, 3, 1, 9, tzinfo=UTC)
    >>> seconds_between(at, at + timedelta(minutes=2))
    120.0
    """
    return max((later - earlier).total_seconds(), 0.0)


def event_in_words(event: Event) -> str:
    """An event as a write-up tells it.

    >>> from datetime import UTC
    >>> event_in_words(Soreness(id=UUID(int=1), at=datetime(2026, 3, 1, 9, tzinfo=UTC), value=6, side="left"))
    'soreness 6, left'
    """
    match event:
        case Begin():
            return "the start of the session"
        case StartStop():
            return f"hands on at {event.key}"
        case SetLevel():
            return f"level {event.level}"
        case Soreness():
            return f"soreness {event.value}" + (f", {event.side}" if event.side else "")
        case Reacted():
            return event.words or reactions()[event.reaction].name.lower()
        case Wrong():
            return {"begun": "something was wrong", "closed": "nothing was wrong"}.get(
                event.answer, f"{event.step}: {event.answer}"
            )
        case ChangeTechnique():
            return {"ease": "eased and held", "rim": "circled the rim"}[event.technique]
        case NewLimits():
            return "new limits"
        case ChangeRest():
            return (
                f"a new plan for the remaining time: {event.why}" if event.why else "a new plan for the remaining time"
            )
        case Came():
            return f"sign: {SIGN_WORDS[event.sign]}"
        case Breath():
            return f"a breath of {event.seconds:g} s"
        case Note():
            return f"“{event.text}”"
        case Found():
            return f"found {event.texture}" if event.texture else "found beside the calculated spot"
        case PutTime():
            return f"{event.active_s:g} s at {event.key}"
        case Undo():
            return "an entry undone"
        case AsPlanned():
            return "levels as planned again"
        case End():
            return f"the end of the session ({event.reason})"
        case _:
            return {"pause": "timer paused", "resume": "timer resumed", "later": "marked for later"}[event.kind]
