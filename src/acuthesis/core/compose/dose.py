"""Doses: the ways of pressing, each with a duration that is computed and never typed."""

from functools import lru_cache
from pathlib import Path
from typing import Annotated, Literal

import yaml
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

DATA = Path(__file__).parent / "data"


class _Dose(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Hold(_Dose):
    """Held evenly for so many seconds."""

    form: Literal["hold"] = "hold"
    seconds: float = Field(ge=3, le=600)


class Pulse(_Dose):
    """Pressed and released: seconds on, seconds off, so many times."""

    form: Literal["pulse"] = "pulse"
    on_s: float = Field(ge=1, le=60)
    off_s: float = Field(ge=1, le=60)
    cycles: int = Field(ge=1, le=100)


class Circles(_Dose):
    """So many circles one way, then as many the other."""

    form: Literal["circles"] = "circles"
    each_way: int = Field(ge=1, le=100)
    seconds_each: float = Field(1.5, ge=0.5, le=10)


class Breaths(_Dose):
    """Held for so many of the person's breaths at a pace."""

    form: Literal["breaths"] = "breaths"
    count: int = Field(ge=1, le=60)
    per_minute: float = Field(12, ge=3, le=30)


class Glide(_Dose):
    """Strokes along the area."""

    form: Literal["glide"] = "glide"
    strokes: int = Field(ge=1, le=100)
    seconds_each: float = Field(3, ge=0.5, le=20)


Dose = Annotated[Hold | Pulse | Circles | Breaths | Glide, Field(discriminator="form")]


class DoseDefault(_Dose):
    """A named default: the dose and the level it aims at."""

    dose: Dose
    level: int = Field(ge=1, le=5)


@lru_cache
def dose_defaults() -> dict[str, DoseDefault]:
    """The named defaults of doses.yaml."""
    return TypeAdapter(dict[str, DoseDefault]).validate_python(yaml.safe_load((DATA / "doses.yaml").read_text()))


def duration_s(dose: Dose) -> float:
    """Seconds a dose takes on one side.

    >>> duration_s(Pulse(on_s=5, off_s=3, cycles=6))
    48.0
    """
    match dose:
        case Hold():
            seconds = dose.seconds
        case Pulse():
            seconds = (dose.on_s + dose.off_s) * dose.cycles
        case Circles():
            seconds = 2 * dose.each_way * dose.seconds_each
        case Breaths():
            seconds = dose.count * 60 / dose.per_minute
        case Glide():
            seconds = dose.strokes * dose.seconds_each
    return float(seconds)


def stretched(dose: Dose, seconds: float) -> Dose:
    """The dose of the same form whose duration is nearest to `seconds`: whole cycles, circles, breaths, strokes."""
    match dose:
        case Hold():
            return Hold(seconds=min(max(round(seconds), 3), 600))
        case Pulse():
            cycles = round(seconds / (dose.on_s + dose.off_s))
            return dose.model_copy(update={"cycles": min(max(cycles, 1), 100)})
        case Circles():
            return dose.model_copy(update={"each_way": min(max(round(seconds / 2 / dose.seconds_each), 1), 100)})
        case Breaths():
            return dose.model_copy(update={"count": min(max(round(seconds * dose.per_minute / 60), 1), 60)})
        case Glide():
            return dose.model_copy(update={"strokes": min(max(round(seconds / dose.seconds_each), 1), 100)})


def in_form(form: str, seconds: float) -> Dose:
    """A dose of a form that takes about `seconds`: what the editor offers when the way of pressing is changed."""
    starts: dict[str, Dose] = {
        "hold": Hold(seconds=30),
        "pulse": Pulse(on_s=5, off_s=3, cycles=4),
        "circles": Circles(each_way=10, seconds_each=1.5),
        "breaths": Breaths(count=6, per_minute=10),
        "glide": Glide(strokes=8, seconds_each=3),
    }
    return stretched(starts[form], seconds)
