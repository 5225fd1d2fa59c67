"""Facts about a person's body: the input of fitting, from the shell, the store or a test alike."""

from functools import lru_cache
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, model_validator

from acuthesis.core.body.catalogue import DATA, read_yaml
from acuthesis.core.body.construct import FingerSpan, Place
from acuthesis.core.data_file import read
from acuthesis.core.errors import OutOfRange, UnknownId
from acuthesis.core.message import message

Sex = Literal["female", "male", "unspecified"]

HEIGHT_CM = (120.0, 220.0)
WEIGHT_KG = (30.0, 220.0)
AGE_YEARS = (12, 105)
# Usual finger widths at the middle joints and the range an adult hand can have, cm. Source: general hand
# anthropometry (hand breadth at the knuckles without the thumb 7 to 10 cm; at the middle joints a little less).
FINGER_RANGE_CM: dict[FingerSpan, tuple[float, float]] = {
    "thumb_width": (1.4, 3.2),
    "two_fingers": (2.2, 5.0),
    "three_fingers": (3.4, 7.5),
    "four_fingers": (4.8, 10.5),
}
# An unmeasured hand is taken in proportion to body height; shares for an adult of average build.
FINGER_SHARE_OF_HEIGHT: dict[FingerSpan, float] = {
    "thumb_width": 0.0122,
    "two_fingers": 0.0193,
    "three_fingers": 0.0291,
    "four_fingers": 0.0398,
}


@lru_cache
def _usual_heights() -> dict[Sex, float]:
    return TypeAdapter(dict[Sex, float]).validate_python(read(DATA / "heights.yaml"))


def usual_height_cm(sex: Sex) -> float:
    """Height of a figure until the person's own is known.

    >>> usual_height_cm("female")
    164.0
    """
    return _usual_heights()[sex]


class Ring(BaseModel):
    """Where a girth is taken: around the core at a share `at` between two joints, square to a body part's long axis."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    core: tuple[Place, Place]
    at: float
    square_to: str


class BodyMeasure(BaseModel):
    """One length or girth that can be taken on a person; see measures.yaml. It has a segment, two ends or a ring."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    name: str
    segment: str | None = None
    ends: tuple[Place, Place] | None = None
    ring: Ring | None = None
    proxy: tuple[str, ...]
    targets: tuple[str, ...]
    min: float
    max: float
    usual_share: tuple[float, float]
    how: str = ""


@lru_cache
def body_measures() -> dict[str, BodyMeasure]:
    """Every measurable length by id, with what it is called and the bounds in cm outside which it is refused.

    >>> body_measures()["forearm"].segment
    'forearm'
    """
    return {row.id: row for row in read_yaml(DATA / "measures.yaml", BodyMeasure)}


FINGER_HOW = "Across the middle joints, held together."
HAND_SPAN_CM = (12.0, 30.0)  # thumb tip to little finger tip, hand spread; general hand anthropometry


class Fingers(BaseModel):
    """Finger widths of one hand at the middle joints, and its span when spread, cm; what is not measured is None."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    thumb_width: float | None = None
    two_fingers: float | None = None
    three_fingers: float | None = None
    four_fingers: float | None = None
    hand_span: float | None = None

    @model_validator(mode="after")
    def _in_range(self) -> "Fingers":
        for name, (low, high) in FINGER_RANGE_CM.items():
            _check_range(name, getattr(self, name), low, high, "cm")
        _check_range("hand_span", self.hand_span, *HAND_SPAN_CM, "cm")
        widths = [width for name in FINGER_RANGE_CM if (width := getattr(self, name)) is not None]
        if widths != sorted(widths):
            raise ValueError("finger widths must grow from thumb to four fingers")
        return self

    def measured(self) -> dict[FingerSpan, float]:
        """The widths that were measured."""
        return {name: value for name in FINGER_RANGE_CM if (value := getattr(self, name)) is not None}

    def complete(self, height_cm: float) -> dict[FingerSpan, float]:
        """All four widths; the missing ones follow the measured ones, or body height where none was measured."""
        measured = self.measured()
        usual = {name: share * height_cm for name, share in FINGER_SHARE_OF_HEIGHT.items()}
        size = sum(width / usual[name] for name, width in measured.items()) / len(measured) if measured else 1.0
        return {name: measured.get(name, usual[name] * size) for name in usual}


def figure_fits(age: int) -> bool:
    """Whether a figure can be made for somebody of this age (years).

    >>> figure_fits(8), figure_fits(35)
    (False, True)
    """
    return AGE_YEARS[0] <= age <= AGE_YEARS[1]


class BodyFacts(BaseModel):
    """Sex, age, height, weight and whatever lengths were measured (cm, kg, years).

    Raises: pydantic.ValidationError naming the field, with the range, for values no person has.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    sex: Sex = "unspecified"
    age: int = Field(35, description="years")
    height_cm: float = Field(166.0)
    weight_kg: float | None = None
    measures_cm: dict[str, float] = Field(default_factory=dict)
    fingers: Fingers = Field(default_factory=Fingers)

    @model_validator(mode="after")
    def _in_range(self) -> "BodyFacts":
        _check_range("height_cm", self.height_cm, *HEIGHT_CM, "cm")
        _check_range("weight_kg", self.weight_kg, *WEIGHT_KG, "kg")
        if not figure_fits(self.age):
            raise ImpossibleValue(
                message("person-no-figure", age=self.age, youngest=AGE_YEARS[0], oldest=AGE_YEARS[1]), where="age"
            )
        for name, value in self.measures_cm.items():
            check_measure(name, value)
        return self


def check_measure(name: str, value_cm: float) -> None:
    """Raises: ValueError with the human range, or naming a measure that does not exist."""
    if name not in body_measures():
        raise UnknownMeasure(
            message("person-there-no-measure-there", name=name, body_measures=", ".join(body_measures())), where=name
        )
    row = body_measures()[name]
    _check_range(name, value_cm, row.min, row.max, "cm")


class UnknownMeasure(UnknownId, ValueError):
    """A length that nobody measures; a ValueError too, so that validation reports it at its field."""


class ImpossibleValue(OutOfRange, ValueError):
    """A value no person has; a ValueError too, so that validation reports it at its field."""


def _check_range(name: str, value: float | None, low: float, high: float, unit: str) -> None:
    if value is not None and not low <= value <= high:
        raise ImpossibleValue(
            message("person-measure-out-of-range", name=name, value=value, unit=unit, low=low, high=high), where=name
        )


def unusual_measures(facts: BodyFacts) -> dict[str, str]:
    """Measures that are possible but rare for this height, with a sentence each: worth measuring again."""
    notes = {}
    for name, value in facts.measures_cm.items():
        row = body_measures()[name]
        low, high = (round(share * facts.height_cm, 1) for share in row.usual_share)
        if not low <= value <= high:
            notes[name] = f"{row.name} {value:g} cm is unusual at {facts.height_cm:g} cm height ({low:g} to {high:g})."
    return notes


def facts_from(data: dict[str, Any]) -> BodyFacts:
    """Body facts from the keys of `person.json`, where finger widths stand among the measures."""
    measures = dict(data.get("measures_cm") or {})
    fingers = {name: measures.pop(name) for name in FINGER_RANGE_CM if name in measures}
    known = {key: data[key] for key in ("sex", "age", "height_cm", "weight_kg") if data.get(key) is not None}
    return BodyFacts(**known, measures_cm=measures, fingers=Fingers(**fingers))
