"""Accuracy: the error of each method on this person, and the ring within which nine of ten hands would find the place.

Errors are one standard deviation in cm (data/errors.yaml): estimates for drawing the ring and for weighing ways against
each other, not measurements of anybody's skill. Source: docs/guide/locating.md.

The first method is the one that is drawn and trusted. The others check it: where they lead elsewhere they widen the
ring, and none ever narrows it, so a way that repeats the first in other words gains nothing.
"""

from dataclasses import dataclass, replace
from fnmatch import fnmatch
from functools import lru_cache

import numpy as np
from pydantic import BaseModel, ConfigDict
from scipy.special import gammaincinv

from acuthesis.core.atlas.entries.catalogue import DATA
from acuthesis.core.atlas.entries.fingers import uses_fingers
from acuthesis.core.atlas.entries.model import Point
from acuthesis.core.body import catalogue
from acuthesis.core.body.construct import Around, Beside, FingerSpan, Move, OnArc, OnLine, Place
from acuthesis.core.body.figure import Side, Vector, unit
from acuthesis.core.body.fit import FittedBody
from acuthesis.core.body.places import Places
from acuthesis.core.data_file import read
from acuthesis.core.errors import CoreError

COVERED = 0.9  # of all hands find the place within the ring
STEP_CM = 0.5  # a landmark is shifted by so much to see what the place does


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class LandmarkError(_Row):
    """How far a hand misses some landmarks, one standard deviation along the skin (cm); `across_cm` to the side."""

    ids: tuple[str, ...]
    cm: float
    across_cm: float | None = None


class Errors(_Row):
    """How far each way of finding a place is off (one standard deviation), with its reason in data/errors.yaml."""

    tape_cm: float
    unmeasured_share: float
    hand_laid_cm: float
    hand_share: float
    guessed_hand_share: float
    search_share: float
    felt_cm: float
    landmarks: tuple[LandmarkError, ...]


@lru_cache
def errors() -> Errors:
    """The errors that ways of finding are judged by.

    >>> errors().tape_cm
    0.4
    """
    return Errors.model_validate(read(DATA / "errors.yaml"))


@lru_cache
def landmark_error_cm(landmark: str) -> tuple[float, float]:
    """How far a hand misses a landmark: to the side, and up or down; one standard deviation along the skin (cm).

    >>> landmark_error_cm("l2_lower_border"), landmark_error_cm("patella_apex")
    ((0.3, 1.6), (0.4, 0.4))
    """
    row = next(row for row in errors().landmarks if any(fnmatch(landmark, pattern) for pattern in row.ids))
    return (row.cm if row.across_cm is None else row.across_cm), row.cm


@dataclass(frozen=True)
class Judged:
    """One method: its error (one standard deviation, cm), and in a few words why."""

    error_cm: float
    why: str


@dataclass(frozen=True)
class Judgement:
    """All methods in their order, the first of which is trusted, and the radius of the ring (cm)."""

    methods: tuple[Judged, ...]
    uncertainty_cm: float

    @property
    def best(self) -> Judged:
        """The method that is drawn and trusted."""
        return self.methods[0]


def judge(point: Point, places: list[Vector], body: FittedBody, side: Side) -> Judgement:
    """Judge the methods of a point that lead to `places` (each (3,) cm)."""
    found = [
        _method(method.place, point, place, body, side) for method, place in zip(point.methods, places, strict=True)
    ]
    methods = tuple(judged for judged, _ in found)
    weights = np.array([1 / method.error_cm**2 for method in methods])
    off = np.array([float(np.linalg.norm(place - places[0])) for place in places])
    spread = float(np.sqrt((weights * off**2).sum() / weights.sum())) / 2
    return Judgement(methods, round(float(np.hypot(nine_of_ten(found[0][1]), spread)), 2))


def nine_of_ten(scatter: Vector) -> float:
    """Radius (cm) of the circle that holds nine of ten places of a normal scatter with this covariance (3, 3), cm².

    The sum of squares is taken for a scaled chi-squared variable of the same mean and variance (Satterthwaite 1946);
    that is exact for a round scatter and for one along a line, and within a few hundredths between.

    >>> round(nine_of_ten(np.diag([1.0, 1.0, 0.0])), 2), round(nine_of_ten(np.diag([1.0, 0.0, 0.0])), 2)
    (2.15, 1.64)
    """
    spreads = np.linalg.eigvalsh(scatter)
    mean, squares = float(spreads.sum()), float((spreads**2).sum())
    freedom = mean**2 / squares
    return float(np.sqrt(2 * squares / mean * gammaincinv(freedom / 2, COVERED)))


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


def _method(place: Place, point: Point, at: Vector, body: FittedBody, side: Side) -> tuple[Judged, Vector]:
    """A method's error, and its covariance (3, 3) along the skin, cm²."""
    felt = errors().search_share * point.search_radius_cm + errors().felt_cm
    normal = body.figure.facing(at)
    on_skin = np.eye(3) - np.outer(normal, normal)
    landmarks = on_skin @ _of_landmarks(place, body, side) @ on_skin
    counted, why, direction = _counted(place, body, side)
    if direction is None:
        direction_scatter = on_skin / 2
    else:
        direction = on_skin @ direction
        direction_scatter = np.outer(direction, direction)
    scatter = landmarks + counted**2 * direction_scatter + felt**2 / 2 * on_skin
    return Judged(float(np.sqrt(np.trace(scatter))), why), scatter


def _counted(place: Place, body: FittedBody, side: Side) -> tuple[float, str, Vector | None]:
    """The error of counting: one standard deviation (cm), why, and its direction (None: any along the skin)."""
    if uses_fingers(place):
        return *_by_hand(place, body, side), None
    if laid := _laid_straight(place, body, side):
        return errors().unmeasured_share * laid, "a straightened limb; its length is estimated from the figure", None
    counted = catalogue.counted(place)
    error, why, direction = 0.0, "felt directly: bone, crease or tendon", None
    if isinstance(counted, OnLine | OnArc):
        segment = body.places.segment(_segment(counted), side)
        error, why = _along(counted, body, side)
        direction = segment.axis if isinstance(counted, OnLine) else None
    if isinstance(place, Beside | Around):
        across = errors().unmeasured_share * body.places.amount(place, side)
        if across:
            both = error > 0
            error = float(np.hypot(error, across))
            why = why if both else "counted across; the width is estimated from the figure"
            direction = None if both else np.array([1.0, 0.0, 0.0])
    return error, why, direction


def _laid_straight(place: object, body: FittedBody, side: Side) -> float:
    """Length (cm) of the limb or hand that a rule lays straight (a chain in a move); 0 where it does not."""
    if isinstance(place, Move) and place.of is not None and len(place.of) > 2:
        return body.places.chain_cm(place.of, side)
    if not isinstance(place, BaseModel):
        return 0.0
    values = [getattr(place, name) for name in type(place).model_fields]
    inner = [one for value in values for one in (value if isinstance(value, tuple) else (value,))]
    return max((_laid_straight(one, body, side) for one in inner if isinstance(one, BaseModel)), default=0.0)


def _of_landmarks(place: Place, body: FittedBody, side: Side) -> Vector:
    """Covariance (3, 3), cm², of a place from the errors of the landmarks it rests on: each is shifted a little along
    the skin, the others staying, and the place is found again. Worked out once a figure; the right side mirrors it.
    """
    key = ("landmark errors", repr(place))  # not the point's id: a practice may prefer another place for it
    if key not in body.places.memory:
        body.places.memory[key] = _worked_out(place, body.places)
    scatter = body.places.memory[key]
    assert isinstance(scatter, np.ndarray)
    mirror = np.diag([1.0 if side == "left" else -1.0, 1.0, 1.0])
    return np.asarray(mirror @ scatter @ mirror)


def _worked_out(place: Place, places: Places) -> Vector:
    names = catalogue.mentioned(place)
    fixed: dict[tuple[str, Side], Vector] = {(name, "left"): places.landmark(name, "left") for name in names}
    here = places.at(place, "left")
    if not names:  # it is itself the crease, bone or cord that the hand looks for
        outward = places.figure.facing(here)
        return np.asarray(landmark_error_cm("")[1] ** 2 * (np.eye(3) - np.outer(outward, outward)))
    scatter = np.zeros((3, 3))
    for name in names:
        at = fixed[name, "left"]
        outward = places.figure.facing(at)
        across = unit(np.cross(outward, [0.0, 1.0, 0.0] if abs(outward[1]) < 0.9 else [0.0, 0.0, 1.0]))
        for along, error_cm in zip((across, np.cross(outward, across)), landmark_error_cm(name), strict=True):
            shifted = replace(
                places, _landmarks={**fixed, (name, "left"): at + STEP_CM * along}, _segments={}, memory={}
            )
            try:
                change = (shifted.at(place, "left") - here) / STEP_CM
            except CoreError:
                change = along  # off the body: as far as the landmark itself
            size = float(np.linalg.norm(change))
            change = change / max(1.0, size)  # at the edge of a limb a step can lead round it
            scatter += error_cm**2 * np.outer(change, change)
    return scatter


def _along(place: OnLine | OnArc, body: FittedBody, side: Side) -> tuple[float, str]:
    """Error of a level: nothing at a landmark at the segment's end, most in its middle."""
    segment = body.places.segment(_segment(place), side)
    level = segment.level_cun(body.places.at(place, side))
    share = min(abs(level), abs(segment.segment.cun - level)) / segment.segment.cun
    if body.is_measured(segment.segment.id):
        return share * errors().tape_cm, f"{segment.segment.name} was measured on this person"
    return (
        share * errors().unmeasured_share * segment.length_cm,
        f"{segment.segment.name} not measured; estimated from the figure",
    )


def _by_hand(place: Place, body: FittedBody, side: Side) -> tuple[float, str]:
    spans = _spans(place)
    length = sum(body.places.fingers_cm[span] for span in spans)
    measured = all(span in body.facts.fingers.measured() for span in spans)
    share = errors().hand_share if measured else errors().hand_share + errors().guessed_hand_share
    why = "the person's own fingers, measured" if measured else "the person's fingers, not measured yet"
    return float(np.hypot(share * length, errors().hand_laid_cm * np.sqrt(len(spans)))), why
