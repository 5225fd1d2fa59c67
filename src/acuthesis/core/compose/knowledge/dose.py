"""Doses: the ways of pressing and moving, each with a duration that is computed and never typed."""

from functools import lru_cache
from pathlib import Path
from typing import Annotated, Literal, get_args

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, model_validator

from acuthesis.core.data_file import read

DATA = Path(__file__).parent.parent / "data"
Side = Literal["left", "right", "both", "midline"]
Form = Literal["hold", "pulse", "circles", "breaths", "glide", "walk", "sets", "pumps", "rubs", "until", "compound"]
Sign = Literal["eases", "pulse", "letting_go", "warm"]
SIGN_WORDS: dict[Sign, str] = {
    "eases": "soreness eases",
    "pulse": "a pulse is felt",
    "letting_go": "release is felt",
    "warm": "warmth is felt",
}
# Forms that slide over the skin: what may bruise is not worked with them (see `no_glide` in the rules).
LONGEST_COMPOUND_S = 900
SLIDING: frozenset[Form] = frozenset({"glide", "walk", "rubs"})


class _Dose(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)

    together: bool = False  # both sides at the same time, instead of one after the other


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
    """Strokes or sweeps along the area."""

    form: Literal["glide"] = "glide"
    strokes: int = Field(ge=1, le=100)
    seconds_each: float = Field(3, ge=0.5, le=20)


class Walk(_Dose):
    """The thumb creeps over the area in small bends, so many passes."""

    form: Literal["walk"] = "walk"
    passes: int = Field(ge=1, le=60)
    seconds_each: float = Field(10, ge=2, le=30)


class Sets(_Dose):
    """Sets of a count, with a release between two sets."""

    form: Literal["sets"] = "sets"
    sets: int = Field(ge=1, le=20)
    count: int = Field(ge=1, le=50)
    seconds_each: float = Field(3, ge=0.5, le=60)
    release_s: float = Field(4, ge=0, le=60)


class Pumps(_Dose):
    """Rhythmic small presses without leaving the skin."""

    form: Literal["pumps"] = "pumps"
    count: int = Field(ge=1, le=200)
    seconds_each: float = Field(1.5, ge=0.3, le=10)


class Rubs(_Dose):
    """Up and down over the skin; up and down is one."""

    form: Literal["rubs"] = "rubs"
    count: int = Field(ge=1, le=200)
    seconds_each: float = Field(1, ge=0.3, le=10)


class Until(_Dose):
    """Held until a sign shows, no longer than the cap; planned at the cap, so that a session never runs over."""

    form: Literal["until"] = "until"
    sign: Sign
    cap_s: float = Field(ge=5, le=600)


SimpleDose = Annotated[
    Hold | Pulse | Circles | Breaths | Glide | Walk | Sets | Pumps | Rubs | Until, Field(discriminator="form")
]


class Compound(_Dose):
    """Several doses one after the other, the whole of them so many rounds. `lengths_s`: seconds of each part."""

    form: Literal["compound"] = "compound"
    parts: tuple[SimpleDose, ...] = Field(min_length=1, max_length=6)
    rounds: int = Field(1, ge=1, le=20)
    lengths_s: tuple[float, ...] = ()

    @model_validator(mode="after")
    def _measure(self) -> "Compound":
        object.__setattr__(self, "lengths_s", tuple(duration_s(part) for part in self.parts))
        if sum(self.lengths_s) * self.rounds > LONGEST_COMPOUND_S:
            raise ValueError(f"together they take more than {LONGEST_COMPOUND_S} s")
        return self


Dose = Annotated[
    Hold | Pulse | Circles | Breaths | Glide | Walk | Sets | Pumps | Rubs | Until | Compound,
    Field(discriminator="form"),
]


class DoseDefault(BaseModel):
    """A named default: the dose and the level it aims at."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    dose: Dose
    level: int = Field(ge=1, le=5)


@lru_cache
def dose_defaults() -> dict[str, DoseDefault]:
    """The named defaults of doses.yaml: how a place is worked (form, seconds, level) unless a school says otherwise.

    >>> dose_defaults()["quiet_hold"].dose.form
    'hold'
    """
    return TypeAdapter(dict[str, DoseDefault]).validate_python(read(DATA / "doses.yaml"))


def _count(dose: Dose) -> tuple[str, float, float]:
    """What a form counts: the field, the seconds of one, the seconds once on top."""
    match dose:
        case Hold():
            return "seconds", 1, 0
        case Pulse():
            return "cycles", dose.on_s + dose.off_s, 0
        case Circles():
            return "each_way", 2 * dose.seconds_each, 0
        case Breaths():
            return "count", 60 / dose.per_minute, 0
        case Glide():
            return "strokes", dose.seconds_each, 0
        case Walk():
            return "passes", dose.seconds_each, 0
        case Sets():
            return "sets", dose.count * dose.seconds_each + dose.release_s, -dose.release_s
        case Pumps() | Rubs():
            return "count", dose.seconds_each, 0
        case Until():
            return "cap_s", 1, 0
        case Compound():
            return "rounds", sum(dose.lengths_s), 0


def slides(dose: Dose) -> bool:
    """Whether anything of a dose slides over the skin.

    >>> slides(Glide(strokes=3, seconds_each=4)), slides(Hold(seconds=30))
    (True, False)
    """
    return any(part.form in SLIDING for part in (dose.parts if isinstance(dose, Compound) else (dose,)))


def duration_s(dose: Dose) -> float:
    """Seconds a dose takes on one side.

    >>> duration_s(Pulse(on_s=5, off_s=3, cycles=6))
    48.0
    >>> duration_s(Sets(sets=2, count=6, seconds_each=3, release_s=4))
    40.0
    """
    field, each, once = _count(dose)
    return float(getattr(dose, field) * each + once)


def whole_s(dose: Dose, side: Side) -> float:
    """Seconds of a stop: both sides one after the other take twice as long, unless they are pressed together.

    >>> whole_s(Hold(seconds=30), "left")
    30.0
    """
    return duration_s(dose) * (2 if side == "both" and not dose.together else 1)


def stretched(dose: Dose, seconds: float) -> Dose:
    """The dose of the same form whose duration is nearest to `seconds`: whole cycles, circles, breaths, strokes.

    >>> duration_s(stretched(Hold(seconds=45), 27))
    27.0
    """
    field, each, once = _count(dose)
    limits = type(dose).model_fields[field].metadata
    least = next(limit.ge for limit in limits if hasattr(limit, "ge"))
    most = next(limit.le for limit in limits if hasattr(limit, "le"))
    count = min(max(round((seconds - once) / each), least), most)
    return dose.model_copy(update={field: count})


def within(dose: Dose, most_s: float | None) -> Dose:
    """The dose, no longer than `most_s`: shorter in its form, or a hold where a single round of it is too long.

    >>> within(Hold(seconds=90), 45)
    Hold(together=False, form='hold', seconds=45)
    """
    if most_s is None or duration_s(dose) <= most_s:
        return dose
    _, each, _ = _count(dose)
    for seconds in (most_s, most_s - each):  # the nearest may be a part of a round too long; then one round fewer
        shorter = stretched(dose, seconds)
        if duration_s(shorter) <= most_s:
            return shorter
    return in_form("hold", most_s, together=dose.together)


def paced(dose: Dose, breaths_per_minute: float | None) -> Dose:
    """A dose of breaths at the person's own pace, where it was measured; a slower pace than theirs stays.

    >>> paced(Hold(seconds=90), None)
    Hold(together=False, form='hold', seconds=90.0)
    """
    if not isinstance(dose, Breaths) or breaths_per_minute is None:
        return dose
    return dose.model_copy(update={"per_minute": min(dose.per_minute, breaths_per_minute)})


_STARTS: dict[Form, Dose] = {
    "hold": Hold(seconds=30),
    "pulse": Pulse(on_s=5, off_s=3, cycles=4),
    "circles": Circles(each_way=10, seconds_each=1.5),
    "breaths": Breaths(count=6, per_minute=10),
    "glide": Glide(strokes=8, seconds_each=3),
    "walk": Walk(passes=3, seconds_each=10),
    "sets": Sets(sets=2, count=6, seconds_each=3, release_s=4),
    "pumps": Pumps(count=20, seconds_each=1.5),
    "rubs": Rubs(count=20, seconds_each=1),
    "until": Until(sign="eases", cap_s=60),
    "compound": Compound(parts=(Hold(seconds=20), Circles(each_way=4))),
}
FORMS: tuple[Form, ...] = get_args(Form)


def in_form(form: Form, seconds: float, *, together: bool = False) -> Dose:
    """A dose of a form that takes about `seconds`: what the editor offers when the way of pressing is changed.

    >>> in_form("hold", 40)
    Hold(together=False, form='hold', seconds=40)
    """
    return stretched(_STARTS[form], seconds).model_copy(update={"together": together})


def dose_in_words(dose: Dose) -> str:
    """A dose as it is said: "hold 45 s", "6 times 5 s on, 3 s off".

    >>> dose_in_words(Pulse(on_s=5, off_s=3, cycles=6, together=True))
    '6 times 5 s on, 3 s off, both sides together'
    """
    match dose:
        case Hold():
            words = f"hold {dose.seconds:g} s"
        case Pulse():
            words = f"{dose.cycles} times {dose.on_s:g} s on, {dose.off_s:g} s off"
        case Circles():
            words = f"{dose.each_way} circles each way"
        case Breaths():
            words = f"{dose.count} {('breath' if dose.count == 1 else 'breaths')} at {dose.per_minute:g} per minute"
        case Glide():
            words = f"{dose.strokes} {'stroke' if dose.strokes == 1 else 'strokes'} of {dose.seconds_each:g} s"
        case Walk():
            words = f"{dose.passes} thumb-walking passes"
        case Sets():
            words = f"{dose.sets} sets of {dose.count}, {dose.seconds_each:g} s each, {dose.release_s:g} s between"
        case Pumps():
            words = f"{dose.count} pumps"
        case Rubs():
            words = f"{dose.count} rubs up and down"
        case Until():
            words = f"until {SIGN_WORDS[dose.sign]}, {dose.cap_s:g} s at most"
        case Compound():
            words = ", then ".join(dose_in_words(part) for part in dose.parts)
            if dose.rounds > 1:
                words = f"{dose.rounds} rounds of: {words}"
    return f"{words}, both sides together" if dose.together else words
