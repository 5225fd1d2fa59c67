"""Events of a treatment: append-only, each with an id the client made, so that sending one twice changes nothing."""

from datetime import datetime
from functools import lru_cache
from pathlib import Path
from typing import Annotated, Literal, get_args
from uuid import UUID

import yaml
from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, TypeAdapter

from acuthesis.core.compose.score import Score

DATA = Path(__file__).parent / "data"

ReactionKind = Literal[
    "relaxed",
    "bracing",
    "jump",
    "holding_breath",
    "pulse_felt",
    "warm",
    "tingling",
    "numb",
    "dizzy",
    "nauseous",
    "tearful",
    "asleep",
    "asks_to_stop",
]
Follows = Literal["none", "lighten", "leave", "stop_session"]


class Reaction(BaseModel):
    """What a reaction means, and what follows from it the first and the second time."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: str
    then: Follows
    say: str
    second: Follows | None = None
    second_say: str = ""


@lru_cache
def reactions() -> dict[ReactionKind, Reaction]:
    """The decision table. Raises: ValueError if it lacks a reaction."""
    table = TypeAdapter(dict[ReactionKind, Reaction]).validate_python(
        yaml.safe_load((DATA / "reactions.yaml").read_text())
    )
    missing = set(get_args(ReactionKind)) - set(table)
    if missing:
        raise ValueError(f"reactions.yaml lacks {', '.join(sorted(missing))}")
    return table


class _Event(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)

    id: UUID
    at: AwareDatetime


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
    """The clock goes on."""

    kind: Literal["resume"] = "resume"


class SetLevel(_Event):
    """Another level of pressure."""

    kind: Literal["level"] = "level"
    level: int = Field(ge=1, le=5)


class Soreness(_Event):
    """How sore the point is, said by the person, at the level in use; on one side if it was named."""

    kind: Literal["soreness"] = "soreness"
    value: int = Field(ge=0, le=10)
    side: Literal["left", "right"] | None = None


class Reacted(_Event):
    """Something seen or said."""

    kind: Literal["reaction"] = "reaction"
    reaction: ReactionKind


class ChangeTechnique(_Event):
    """Another way of working the sore spot: lighten and hold, or circle the rim."""

    kind: Literal["technique"] = "technique"
    technique: Literal["ease", "rim"]


class Later(_Event):
    """Come back to this stop for a second look."""

    kind: Literal["later"] = "later"


class End(_Event):
    """The treatment is over."""

    kind: Literal["end"] = "end"
    reason: Literal["finished", "stopped"]


Event = Annotated[
    Begin | StartStop | Pause | Resume | SetLevel | Soreness | Reacted | ChangeTechnique | Later | End,
    Field(discriminator="kind"),
]
EVENTS: TypeAdapter[list[Event]] = TypeAdapter(list[Event])
EVENT: TypeAdapter[Event] = TypeAdapter(Event)


def seconds_between(earlier: datetime, later: datetime) -> float:
    """Seconds from one moment to another, never negative: a client's clock may be set back."""
    return max((later - earlier).total_seconds(), 0.0)
