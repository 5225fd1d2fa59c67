"""A standing rule as data: its condition, its targets, and its effect."""

from collections.abc import Iterator
from functools import cached_property, lru_cache
from pathlib import Path
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, model_validator

from acuthesis.core.atlas.entries.model import Position, Tissue
from acuthesis.core.data_file import read

DATA = Path(__file__).parent / "data"

SourceClass = Literal["first_aid", "tradition", "manual", "practice"]
Motion = Literal["bent", "turned", "moved", "loaded"]  # what a technique does with a joint


class Asked(BaseModel):
    """One thing that is asked of a person: a question answered with anything but no (or with so much), an age, a sex,
    or a complaint that they have.

    `places` and `same_limb_as` narrow a question for places: one of these sites or parts is among them; one of them is
    on a limb on which the other answer names a place too. `complaint_side` narrows a complaint to one side or to both.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    question: str | None = None
    at_least: int | None = None
    at_most: int | None = None
    choice: tuple[str, ...] = ()  # of the answers that a question offers
    reading: tuple[int, int] | None = None  # mmHg, upper and lower: one of both reached is enough
    reading_under: tuple[int, int] | None = None  # one of both not above
    places: tuple[str, ...] = ()
    same_limb_as: str | None = None
    age_over: int | None = None
    age_under: int | None = None
    sex: Literal["female", "male"] | None = None
    complaint: tuple[str, ...] = ()  # one of them
    complaint_side: Literal["left", "right", "both"] | None = None

    @cached_property
    def number(self) -> int:
        """How many things it asks."""
        told = (self.question, self.age_over, self.age_under, self.sex, self.complaint or None)
        return sum(value is not None for value in told)


class Condition(Asked):
    """What wakes a rule: one thing that is asked, or one of several (`either`).

    `also`: all of these hold too, and one of `also_either`. `unless`: none of these does.
    """

    either: tuple[Asked, ...] = ()
    also: tuple[Asked, ...] = ()
    also_either: tuple[Asked, ...] = ()
    unless: tuple[Asked, ...] = ()

    @model_validator(mode="after")
    def _one(self) -> "Condition":
        number = self.number + bool(self.either)
        if number > 1 or (number == 0 and not self.unless) or any(one.number != 1 for one in self.inner()):
            raise ValueError("a condition asks one question, or for an age, a sex or a complaint, or one of several")
        return self

    @cached_property
    def of_person(self) -> bool:
        """Whether something about the person wakes it; what only `unless` speaks of holds for everybody else."""
        return self.number > 0 or bool(self.either)

    @cached_property
    def questions(self) -> tuple[str, ...]:
        """The questions whose answers say where or on which side the rule holds."""
        return tuple(one.question for one in (self, *self.either) if one.question)

    @cached_property
    def complaints(self) -> tuple[str, ...]:
        """The complaints whose side says on which side the rule holds."""
        return tuple(id for one in (self, *self.either) for id in one.complaint)

    def inner(self) -> Iterator[Asked]:
        """Everything that is asked within it, beside its own."""
        yield from (*self.either, *self.also, *self.also_either, *self.unless)


class Touches(BaseModel):
    """What a rule is about. Empty lists touch nothing; `side: same` narrows it to the side that was answered.

    On a body a rule reaches further: `margin_cm` over the skin around what `ids` or `answered` name, the whole `limb`
    that holds them, and the `joints` within. `joints` alone names joints that a technique moves; `lain_on` takes away
    the positions in which a person would lie on what was answered. `kinds` narrows it to points, strokes and so on;
    `motions` names every technique that moves a joint in one of these ways, so that a new one is held by it too.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    ids: tuple[str, ...] = ()
    tissues: tuple[Tissue, ...] = ()
    parts: tuple[str, ...] = ()
    sites: tuple[str, ...] = ()
    quarters: tuple[str, ...] = ()
    positions: tuple[Position, ...] = ()
    techniques: tuple[str, ...] = ()
    joints: tuple[str, ...] = ()
    motions: tuple[Motion, ...] = ()
    kinds: tuple[str, ...] = ()
    complaints: tuple[str, ...] = ()
    answered: bool = False  # the places named in the answer
    margin_cm: float = Field(0, ge=0, le=30)
    limb: bool = False
    lain_on: bool = False
    everything: bool = False
    side: Literal["any", "same"] = "any"


class Size(BaseModel):
    """How much a person takes in one session. `minutes` from the first stop to the last; `stay_min` in one position."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    points: int | None = Field(None, ge=1)
    minutes: float | None = Field(None, gt=0)
    turns: int | None = Field(None, ge=0)
    stay_min: float | None = Field(None, gt=0)


class Rule(BaseModel):
    """One standing rule: what wakes it, what it refuses or limits, where, and the words that are said for it."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str = Field(pattern=r"^[a-z0-9_]{2,60}$")
    when: Condition | None = None  # None: it always holds
    touches: Touches = Touches()
    session: Size | None = None
    unplaced: bool = False  # speaks only where the answer names no place
    severity: Literal["emergency", "refer", "ask", "refuse", "limit", "note"]
    until_answered: tuple[str, ...] = ()  # sleeps once one of these questions is answered, with yes or with no
    ceiling: int | None = Field(None, ge=1, le=5)
    longest_s: int | None = Field(None, ge=3)
    override: Literal["never", "signed"] = "signed"
    clear: str = ""  # id under which a referral is cleared; its own if empty
    no_stick: bool = False
    no_glide: bool = False
    one_side: bool = False
    discreet: bool = False  # for the practitioner's eyes: on no paper, and not on the person's screen
    consent: bool = False  # asked and recorded before a hand goes there
    short: str = Field(max_length=120)
    reason: str = Field(max_length=300)
    source: SourceClass


@lru_cache
def written_rules() -> tuple[Rule, ...]:
    """The standing rules as they are written; what they name is checked where they are used (`limits.rules`).

    >>> written_rules()[0].id
    'never_pressed'
    """
    return tuple(TypeAdapter(list[Rule]).validate_python(read(DATA / "rules.yaml")))
