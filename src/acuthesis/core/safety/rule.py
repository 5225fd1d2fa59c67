"""A standing rule as data: what wakes it, what it touches, and what then holds."""

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from acuthesis.core.atlas.model import Position, Tissue

SourceClass = Literal["first_aid", "tradition", "manual", "practice"]


class Condition(BaseModel):
    """What wakes a rule: a question answered with anything but no (or with so much), or an age."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    question: str | None = None
    at_least: int | None = None
    reading: tuple[int, int] | None = None  # mmHg, upper and lower: one of both reached is enough
    age_over: int | None = None
    age_under: int | None = None

    @model_validator(mode="after")
    def _one(self) -> "Condition":
        if sum(value is not None for value in (self.question, self.age_over, self.age_under)) != 1:
            raise ValueError("a condition asks one question, or for an age")
        return self


class Touches(BaseModel):
    """What a rule is about. Empty lists touch nothing; `side: same` narrows it to the side that was answered."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    ids: tuple[str, ...] = ()
    tissues: tuple[Tissue, ...] = ()
    parts: tuple[str, ...] = ()
    sites: tuple[str, ...] = ()
    positions: tuple[Position, ...] = ()
    techniques: tuple[str, ...] = ()
    answered: bool = False  # the places named in the answer
    everything: bool = False
    side: Literal["any", "same"] = "any"


class Rule(BaseModel):
    """One standing rule: what wakes it, what it refuses or limits, where, and the words that are said for it."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str = Field(pattern=r"^[a-z0-9_]{2,60}$")
    when: Condition | None = None  # None: it always holds
    touches: Touches
    unplaced: bool = False  # speaks only where the answer names no place
    severity: Literal["refer", "refuse", "limit", "note"]
    ceiling: int | None = Field(None, ge=1, le=5)
    longest_s: int | None = Field(None, ge=3)
    override: Literal["never", "signed"] = "signed"
    clear: str = ""  # id under which a referral is cleared; its own if empty
    no_stick: bool = False
    no_glide: bool = False
    one_side: bool = False
    short: str = Field(max_length=120)
    reason: str = Field(max_length=300)
    source: SourceClass
