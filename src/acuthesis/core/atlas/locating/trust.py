"""Accuracy: the error of each method on this person, which method to trust, and the uncertainty of the place after all
of them.

Errors are one standard deviation in cm (data/errors.yaml): estimates for choosing between methods and for drawing the
ring, not measurements of anybody's skill. Source: docs/guide/locating.md.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from pydantic import BaseModel, ConfigDict

from acuthesis.core.atlas.entries.catalogue import DATA
from acuthesis.core.atlas.entries.fingers import uses_fingers
from acuthesis.core.atlas.entries.model import Point
from acuthesis.core.body import catalogue
from acuthesis.core.body.construct import Around, Beside, FingerSpan, OnArc, OnLine, Place
from acuthesis.core.body.figure import Side, Vector
from acuthesis.core.body.fit import FittedBody
from acuthesis.core.data_file import read


class Errors(BaseModel):
    """How far each way of finding a place is off (one standard deviation), with its reason in data/errors.yaml."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    tape_cm: float
    unmeasured_share: float
    hand_laid_cm: float
    hand_share: float
    guessed_hand_share: float
    search_share: float
    felt_cm: float


@lru_cache
def errors() -> Errors:
    """The errors that ways of finding are judged by.

    >>> errors().tape_cm
    0.4
    """
    return Errors.model_validate(read(DATA / "errors.yaml"))


@dataclass(frozen=True)
class Judged:
    """One method: its error, and in a few words why."""

    error_cm: float
    why: str


@dataclass(frozen=True)
class Judgement:
    """All methods in their order, the most exact one (the earlier in a tie), and the radius of the ring."""

    methods: tuple[Judged, ...]
    best: Judged
    uncertainty_cm: float


def judge(point: Point, places: list[Vector], body: FittedBody, side: Side) -> Judgement:
    """Judge the methods of a point that lead to `places` (each (3,) cm)."""
    methods = tuple(_method(method.place, point, body, side) for method in point.methods)
    best = min(methods, key=lambda one: one.error_cm)
    weights = np.array([1 / method.error_cm**2 for method in methods])
    off = np.array([float(np.linalg.norm(place - places[0])) for place in places])
    spread = float(np.sqrt((weights * off**2).sum() / weights.sum())) / 2
    ring = float(np.hypot(np.hypot(best.error_cm, spread), errors().search_share * point.search_radius_cm))
    return Judgement(methods, best, round(ring, 2))


def measures_behind(place: Place) -> tuple[str, ...]:
    """Ids of the measures that the error of a method depends on: its finger widths, or that of the segment it counts
    along; empty where the hand feels the place.

    >>> from acuthesis.core.atlas.entries.catalogue import entry
    >>> measures_behind(entry("SP6").methods[0].place)
    ('lower_leg_inner',)
    """
    if uses_fingers(place):
        return _spans(place)
    counted = catalogue.counted(place)
    if not isinstance(counted, OnLine | OnArc):
        return ()
    measure = catalogue.segments()[_segment(counted)].measure
    return (measure,) if measure else ()


def _segment(place: OnLine | OnArc) -> str:
    return place.segment if isinstance(place, OnLine) else place.arc


def _spans(place: Place) -> tuple[FingerSpan, ...]:
    return getattr(place, "span", None) or ("thumb_width",)


def _method(place: Place, point: Point, body: FittedBody, side: Side) -> Judged:
    felt = errors().search_share * point.search_radius_cm + errors().felt_cm
    if uses_fingers(place):
        return _by_hand(place, body, side)
    counted = catalogue.counted(place)
    along = _along(counted, body, side) if isinstance(counted, OnLine | OnArc) else Judged(0.0, "")
    across = 0.0
    if isinstance(place, Beside | Around):
        across = errors().unmeasured_share * body.places.amount(place, side)
    if not along.why and not across:
        return Judged(felt, "the hand feels it: bone, crease or cord")
    why = along.why or "counted across; the width is the figure's own"
    return Judged(float(np.hypot(np.hypot(along.error_cm, across), felt)), why)


def _along(place: OnLine | OnArc, body: FittedBody, side: Side) -> Judged:
    """Error of a level: nothing at a landmark at the segment's end, most in its middle."""
    segment = body.places.segment(_segment(place), side)
    level = segment.level_cun(body.places.at(place, side))
    share = min(abs(level), abs(segment.segment.cun - level)) / segment.segment.cun
    if body.is_measured(segment.segment.id):
        return Judged(share * errors().tape_cm, f"{segment.segment.name} was measured on this person")
    return Judged(
        share * errors().unmeasured_share * segment.length_cm,
        f"{segment.segment.name} is not measured: taken from the figure",
    )


def _by_hand(place: Place, body: FittedBody, side: Side) -> Judged:
    spans = _spans(place)
    length = sum(body.places.fingers_cm[span] for span in spans)
    measured = all(span in body.facts.fingers.measured() for span in spans)
    share = errors().hand_share if measured else errors().hand_share + errors().guessed_hand_share
    why = "the person's own fingers, measured" if measured else "the person's fingers, not measured yet"
    return Judged(float(np.hypot(share * length, errors().hand_laid_cm * np.sqrt(len(spans)))), why)
