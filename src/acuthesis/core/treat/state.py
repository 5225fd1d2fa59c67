"""The state of a treatment, as values only: the fold over its events is in treatment.py and the files beside it."""

from collections.abc import Collection
from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from pydantic import BaseModel

from acuthesis.core.atlas.locating.finding import Offset, Texture
from acuthesis.core.body.figure import Side
from acuthesis.core.compose.knowledge.dose import Sign
from acuthesis.core.compose.score.score import Score, Stop
from acuthesis.core.treat.events import By, Follows, ReactionKind, SoreSpotWay, Why

Status = Literal["not_begun", "ready", "running", "paused", "stopped", "finished"]
OVER: tuple[Status, ...] = ("stopped", "finished")
Sided = Literal["left", "right"] | None  # None: the middle, or both at once


class Felt(BaseModel):
    """One soreness said at a stop, with the level it was said at, and by whom."""

    value: int
    level: int
    at: datetime
    side: Sided = None
    by: By = "hand"


class SoreSpotTry(BaseModel):
    """One try at a sore spot: the way that was proposed (None where the hand chose by itself) and why, the way that was
    taken, the soreness before and after, and the level that it is pressed at when asked again.
    """

    side: Sided
    proposed: SoreSpotWay | None
    why: Why
    taken: SoreSpotWay
    level: int
    before: int | None
    after: int | None = None
    at: datetime


class Loop(BaseModel):
    """A round that is going on at the current stop: since how many seconds of pressing, and for how many."""

    key: str
    side: Sided
    way: SoreSpotWay
    at_s: float
    seconds: float


class StopRecord(BaseModel):
    """What happened at one stop: times, seconds of pressing, level, soreness in its order, reactions, tries."""

    key: str
    started: int = 0
    active_s: float = 0
    level: int
    ceiling: int
    ceiling_reasons: tuple[str, ...] = ()
    soreness: list[Felt] = []
    rounds: list[SoreSpotTry] = []
    reactions: list[ReactionKind] = []
    techniques: list[str] = []
    signs: list[Sign] = []
    look_s: float | None = None  # after how many seconds of pressing its second look began, where one goes on
    came_s: float | None = None  # after how many seconds of pressing the sign came that was waited for
    said: list[str] = []  # in the person's own words
    left: bool = False

    def own(self) -> "StopRecord":
        """A record of its own, which can be changed; what was said stays shared, for it never is."""
        lists: dict[str, Any] = {name: list(getattr(self, name)) for name in _LISTS}
        return self.model_copy(update={**lists, "rounds": [one.model_copy() for one in self.rounds]})

    def felt(self, side: Sided) -> list[Felt]:
        """What was said of one side, in its order."""
        return [felt for felt in self.soreness if felt.side == side]


_LISTS = ("soreness", "reactions", "techniques", "signs", "said")


class WrongStep(BaseModel):
    """One step of finding out what is wrong: the question and its answer, and where that led (empty at the start)."""

    at: datetime
    step: str
    answer: Literal["begun", "yes", "no", "closed"]
    to: str


class Advice(BaseModel):
    """What to do now: the words, and what follows of itself from them (`follows`)."""

    follows: Follows
    text: str


class Lighter(BaseModel):
    """The rest made lighter for a reaction that kept coming: the levels before, by stop, until it was taken back."""

    reaction: ReactionKind
    before: dict[str, int]
    taken_back: bool = False


class Jotted(BaseModel):
    """A note of whoever treats, at a stop (None before the first) and a time."""

    at: datetime
    key: str | None
    text: str


class FoundHere(BaseModel):
    """What a hand found at the place of a stop, on a side: how it feels, how far beside its place (mm)."""

    id: UUID
    key: str
    side: Side
    texture: Texture | None
    offset: Offset
    at: datetime


class GivenUp(BaseModel):
    """A stop that was in the score and gave way when the rest was composed anew: why."""

    key: str
    id: str
    name: str
    side: str
    kind: str
    why: str


class Past(BaseModel):
    """What one event changed, as it was before: by name what is said of the treatment, by stop what is said of it, and
    the stops that came in with it.
    """

    id: UUID
    what: str
    session: dict[str, Any]
    records: dict[str, StopRecord]
    added: list[str] = []


class TreatmentState(BaseModel):
    """State of a treatment after some events. `past`: what can be taken back, the latest last."""

    status: Status = "not_begun"
    score: Score | None = None
    records: dict[str, StopRecord] = {}
    current: str | None = None
    running_since: datetime | None = None
    advice: Advice | None = None
    second_looks: list[str] = []
    loop: Loop | None = None
    lighter: Lighter | None = None
    asleep: bool = False
    breath_s: float | None = None
    wrong: list[WrongStep] = []
    notes: list[Jotted] = []
    found: list[FoundHere] = []
    given_up: list[GivenUp] = []
    began_at: datetime | None = None
    ended_at: datetime | None = None
    past: list[Past] = []
    event_count: int = 0

    @property
    def stops(self) -> dict[str, Stop]:
        """Stops of the score that sound, by key.

        >>> TreatmentState().stops
        {}
        """
        return {stop.key: stop for stop in self.score.stops if not stop.muted} if self.score else {}

    def copied(self, keys: Collection[str]) -> "TreatmentState":
        """A treatment of its own, in which the records of `keys` can be changed; others, and the score, are shared."""
        records = {key: record.own() if key in keys else record for key, record in self.records.items()}
        grows = ("second_looks", "wrong", "notes", "found", "given_up", "past")
        lists = {name: list(getattr(self, name)) for name in grows}
        return self.model_copy(update={"records": records, **lists})
