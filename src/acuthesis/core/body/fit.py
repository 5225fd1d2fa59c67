"""Fits the figure to a person: bounded least squares over the shape keys until its measures are the measured ones.

The solver works on chains of places that are linear in the shape weights and cheap: two joints for a length, a ring of
skin places for a girth. What a person measures is the distance between landmarks on the skin, or the tape around. So
each solve is followed by a look at these, and the lengths aimed at are corrected, until the two agree. While it looks,
rays are cast only at the skin near the landmarks: a caster over the whole skin takes longer than the fit.
"""

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import lsq_linear
from scipy.spatial import ConvexHull, cKDTree

from acuthesis.core.body.asset import GIRTH_TARGETS, LENGTH_TARGETS, SEXES, WEIGHTS, BodyAsset
from acuthesis.core.body.catalogue import segments
from acuthesis.core.body.figure import Figure, Vector
from acuthesis.core.body.frames import frame_of
from acuthesis.core.body.person import BodyFacts, BodyMeasure, Ring, body_measures
from acuthesis.core.body.places import Places
from acuthesis.core.errors import CoreError

DENSITY_KG_PER_L = 1.01  # a breathing adult; general physiology
YOUNG_AGE, OLD_AGE = 25, 85  # ages at which the young and the old shape keys hold in full
MAX_WEIGHT = 1.4  # shape weights beyond this deform the figure
HEAVINESS = (-1.0, 1.8)  # from very light to very heavy; beyond it the figure deforms
GIRTH_SHARE = 0.75  # girths follow heaviness at this rate
AGREE_CM = 0.05
ROUNDS = 6
SOLVES = 3
NEAR_CM = 7.0  # how far a landmark moves over the skin between builds, at most
SLICE_CM, LIMB_CM = 1.0, 14.0  # how thick a slice through a limb is taken, and how far it may reach
RING_STEPS = 36
# Scales of the residuals: how far (cm) a length may be off, and how far (in weights) the shape may stray, for the same
# cost. Lengths bind tightly; shape only decides between figures that meet the lengths equally well.
LENGTH_TOLERANCE_CM = 0.02
SHAPE_TOLERANCE = 2.0
PROPORTION_TOLERANCE = 0.8
SCALE_TOLERANCE = 0.5


@dataclass(frozen=True)
class FittedBody:
    """A person's figure with what it was fitted to.

    `residuals_cm`: figure minus measured, per measure (and `height`). `notes`: sentences on what could not be met.
    """

    facts: BodyFacts
    figure: Figure
    places: Places
    residuals_cm: dict[str, float]
    notes: tuple[str, ...]

    def is_measured(self, segment: str) -> bool:
        """Whether the length of a segment comes from the tape."""
        return segments()[segment].measure in self.facts.measures_cm


class _Shape:
    """Key weights as a linear function of what the solver varies: `fixed + moves @ amounts`, amounts all >= 0.

    Lengthening and shortening (and tall and small proportions) are amounts of their own, because each sign has a shape
    key of its own.
    """

    def __init__(self, asset: BodyAsset, sexes: tuple[str, ...], age: int) -> None:
        self.names = asset.key_names
        old = float(np.clip((age - YOUNG_AGE) / (OLD_AGE - YOUNG_AGE), 0, 1))
        self.mix = {
            f"{sex}-{stage}": share / len(sexes) for sex in sexes for stage, share in (("young", 1 - old), ("old", old))
        }
        moves = [{f"{who}-{tall}": share for who, share in self.mix.items()} for tall in ("maxheight", "minheight")]
        names = [*(name for name, _, _ in LENGTH_TARGETS), *GIRTH_TARGETS]
        moves += [{f"{name}{sign}": 1.0} for name in names for sign in "+-"]
        self.moves = np.array([[move.get(key, 0.0) for key in self.names] for move in moves]).T
        self.tolerance = np.array([PROPORTION_TOLERANCE] * 2 + [SHAPE_TOLERANCE] * (len(moves) - 2))
        self.limit = np.array([1.0] * 2 + [MAX_WEIGHT] * (len(moves) - 2))
        self.heaviness = 0.0

    @property
    def fixed(self) -> NDArray[np.float64]:
        """Weights of the keys that sex, age and heaviness set."""
        share = float(np.clip(self.heaviness, -1, 1))
        parts = dict(zip(WEIGHTS, (max(-share, 0.0), 1 - abs(share), max(share, 0.0)), strict=True))
        keys = {f"{who}-{build}": a * b for who, a in self.mix.items() for build, b in parts.items()}
        sign = "+" if self.heaviness > 0 else "-"
        keys |= {f"{girth}{sign}": GIRTH_SHARE * abs(self.heaviness) for girth in GIRTH_TARGETS}
        return np.array([keys.get(name, 0.0) for name in self.names])

    def weights(self, amounts: NDArray[np.float64]) -> NDArray[np.float64]:
        """Weights (k,) of all shape keys."""
        return np.asarray(self.fixed + self.moves @ amounts)


class _Chains:
    """Lengths of chains of places (and the height last) as functions of key weights, reduced to the rows they need."""

    def __init__(self, asset: BodyAsset, rough: Figure, measures: list[BodyMeasure]) -> None:
        control = asset.control_count
        top = int(rough.skin[:control, 1].argmax())
        sole = int(rough.skin[:control, 1].argmin())
        spans: list[tuple[int, int]] = []
        self.starts: list[int] = []
        for measure in measures:
            self.starts.append(len(spans))
            if measure.ring is not None:
                ring = _nearest_controls(rough, measure.ring)
                spans += list(zip(ring, np.roll(ring, -1), strict=True))
            elif measure.proxy:
                spans.append(tuple(control + _joint(asset, joint) for joint in measure.proxy))  # type: ignore[arg-type]
            else:
                spans.append((_vertex(asset, EAR_PROXY[0]), _vertex(asset, EAR_PROXY[1])))
        self.starts.append(len(spans))
        picked = np.array([*spans, (sole, top)])
        self.base = asset.base[picked[:, 1]] - asset.base[picked[:, 0]]
        self.keys = asset.keys[:, picked[:, 1]] - asset.keys[:, picked[:, 0]]
        self.base[-1, [0, 2]] = 0  # of the height only y counts
        self.keys[:, -1, [0, 2]] = 0

    def __call__(self, weights: NDArray[np.float64], scale: float) -> NDArray[np.float64]:
        """Lengths (m + 1,) cm: one a measure, the height last."""
        spans = (self.base + np.tensordot(weights, self.keys, axes=1)) * scale
        return np.asarray(np.add.reduceat(np.linalg.norm(spans, axis=1), self.starts))

    def slopes(self, weights: NDArray[np.float64], scale: float) -> NDArray[np.float64]:
        """Change of each length with each key's weight, (m + 1, k)."""
        spans = (self.base + np.tensordot(weights, self.keys, axes=1)) * scale
        toward = spans / np.linalg.norm(spans, axis=1, keepdims=True)
        each = scale * np.einsum("sj,ksj->sk", toward, self.keys)
        return np.asarray(np.add.reduceat(each, self.starts, axis=0))


def _nearest_controls(rough: Figure, ring: Ring) -> list[int]:
    """Control vertices along a girth on a rough figure, in their order around, each once."""
    places = Places(rough, {})
    tree = cKDTree(rough.skin[: rough.asset.control_count])
    near = np.atleast_1d(tree.query(ring_on(places, ring))[1])
    return list(dict.fromkeys(int(index) for index in near))


def ring_on(places: Places, ring: Ring) -> NDArray[np.float64]:
    """The places (RING_STEPS, 3) where a girth's plane meets the skin on the left side, in their order around."""
    start, end = (places.at(place, "left") for place in ring.core)
    frame = frame_of(places.figure, ring.square_to, "left")
    a, b = frame["anterior"], frame["lateral"]
    turn = np.linspace(0, 2 * np.pi, RING_STEPS, endpoint=False)[:, None]
    around, core = np.cos(turn) * a + np.sin(turn) * b, start + ring.at * (end - start)
    try:
        return places.figure.exit_points(core, around)
    except CoreError:  # on a very thin or bent limb the line between its joints leaves it: its middle does not
        return places.figure.exit_points(_middle_of(places.figure, core, np.cross(a, b)), around)


def _middle_of(figure: Figure, near: Vector, axis: Vector) -> Vector:
    """The middle (3,) of the limb that a place lies on or beside, in the plane through it square to `axis`."""
    away = figure.skin - near
    here = (np.abs(away @ axis) < SLICE_CM) & (np.linalg.norm(away, axis=1) < LIMB_CM)
    section = figure.skin[here]
    return np.asarray((section.min(axis=0) + section.max(axis=0)) / 2) if len(section) else near


def _tape(around: NDArray[np.float64]) -> float:
    """Length of a tape around places (n, 3) in a plane: it spans the hollows."""
    middle = around.mean(axis=0)
    _, _, axes = np.linalg.svd(around - middle)
    flat = (around - middle) @ axes[:2].T
    return float(ConvexHull(flat).area)  # of a flat hull, `area` is the perimeter


EAR_PROXY = (12019, 12034)  # base-mesh vertices of lobe and apex, as in the landmarks of the head


def _joint(asset: BodyAsset, name: str) -> int:
    return asset.joint_names.index(f"l-{name}" if f"l-{name}" in asset.joint_names else name)


def _vertex(asset: BodyAsset, number: int) -> int:
    return int(np.flatnonzero(asset.vertex_ids == number)[0])


def measured_length(places: Places, measure: BodyMeasure) -> float:
    """What a tape would read on the figure, cm: round a limb, along a segment, or straight between two ends (left
    side).
    """
    if measure.ring is not None:
        return _tape(ring_on(places, measure.ring))
    if measure.segment is not None:
        return places.segment(measure.segment, "left").length_cm
    assert measure.ends is not None  # a measure has a segment, two ends or a ring
    start, end = (places.at(place, "left") for place in measure.ends)
    return float(np.linalg.norm(end - start))


def _look(figure: Figure, measures: list[BodyMeasure]) -> NDArray[np.float64]:
    """The measures and the height of a figure, (m + 1,) cm."""
    try:
        places = Places(figure, {})
        lengths = [measured_length(places, measure) for measure in measures]
    except CoreError:  # an unusual build: a landmark has left the skin on which it was looked for
        places = Places(replace(figure, only=None), {})
        lengths = [measured_length(places, measure) for measure in measures]
    return np.array([*lengths, figure.height_cm])


@lru_cache(maxsize=1)
def _rough(asset: BodyAsset) -> Figure:
    """The average figure, on which it is seen which skin a measure rests on."""
    shape = _Shape(asset, SEXES, YOUNG_AGE)
    return Figure.from_weights(asset, shape.fixed, 1.0)


@lru_cache(maxsize=64)
def _near(asset: BodyAsset, names: tuple[str, ...]) -> NDArray[np.int64]:
    """Triangles of the skin that the landmarks of some measures can come to lie on, whatever the build."""
    rough = _rough(asset)
    places = Places(rough, {})
    for name in names:
        measured_length(places, body_measures()[name])
    touched = places.visited()
    for name in names:
        measure = body_measures()[name]
        touched += [places.at(end, "left") for end in measure.ends or ()]
        touched += list(ring_on(places, measure.ring)) if measure.ring else []
    if not touched:
        return np.arange(1)
    distance, _ = cKDTree(np.array(touched)).query(rough.triangle_middles, distance_upper_bound=NEAR_CM)
    return np.flatnonzero(np.isfinite(distance))


def fit(asset: BodyAsset, facts: BodyFacts) -> FittedBody:
    """Fit the figure to what is known of a person. Deterministic.

    Source of the method: bounded least squares on the shape keys of a blend-shape figure; with nothing measured the
    result is the average for sex, age and height.
    """
    shape = _Shape(asset, SEXES if facts.sex == "unspecified" else (facts.sex,), facts.age)
    measures = [body_measures()[name] for name in facts.measures_cm]
    wanted = np.array([*facts.measures_cm.values(), facts.height_cm])

    amounts = np.zeros(len(shape.limit))
    rough = _rough(asset)
    near = _near(asset, tuple(facts.measures_cm))
    scale = facts.height_cm / Figure.from_weights(asset, shape.fixed, 1.0, near).height_cm
    chains = _Chains(asset, rough, measures)
    ratio = np.ones(len(wanted))
    fingers = facts.fingers.complete(facts.height_cm)
    slope = 0.0
    tried: list[tuple[float, float]] = []

    for _ in range(ROUNDS):
        amounts, scale = _solve(shape, chains, wanted * ratio, amounts, scale)
        figure = Figure.from_weights(asset, shape.weights(amounts), scale, near)
        actual = _look(figure, measures)
        off = actual - wanted
        ratio = chains(shape.weights(amounts), scale) / actual
        mass = figure.volume_l * DENSITY_KG_PER_L
        mass_off = 0.0 if facts.weight_kg is None else facts.weight_kg - mass
        if np.abs(off).max() < AGREE_CM and (abs(mass_off) < 0.5 or shape.heaviness in HEAVINESS):
            break
        tried.append((shape.heaviness, mass))
        if abs(mass_off) >= 0.5:
            if len(tried) > 1 and tried[-1][0] != tried[-2][0]:
                slope = (tried[-1][1] - tried[-2][1]) / (tried[-1][0] - tried[-2][0])
            slope = slope if slope > 1 else mass * (0.25 if mass_off < 0 else 0.45)
            shape.heaviness = float(np.clip(shape.heaviness + mass_off / slope, *HEAVINESS))

    figure = replace(figure, only=None)
    places = Places(figure, fingers)
    residuals = {
        **dict(zip(facts.measures_cm, (float(v) for v in off[:-1]), strict=True)),
        "height": float(off[-1]),
    }
    return FittedBody(facts, figure, places, residuals, _notes(facts, residuals, mass))


def _solve(
    shape: _Shape, chains: _Chains, aim: NDArray[np.float64], amounts: NDArray[np.float64], scale: float
) -> tuple[NDArray[np.float64], float]:
    """Gauss-Newton: lengths are nearly linear in the weights, so a few bounded linear solves settle it."""
    rest = scale
    for _ in range(SOLVES):
        weights = shape.weights(amounts)
        now = chains(weights, scale)
        slopes = np.column_stack([chains.slopes(weights, scale) @ shape.moves, now / scale])
        held = np.diag(1 / np.append(shape.tolerance, SCALE_TOLERANCE * rest))
        at = np.append(amounts, scale)
        found = _bounded(
            np.concatenate([slopes / LENGTH_TOLERANCE_CM, held]),
            np.concatenate([(aim - now + slopes @ at) / LENGTH_TOLERANCE_CM, held @ np.append(0 * amounts, rest)]),
            (np.append(0 * amounts, rest * 0.6), np.append(shape.limit, rest * 1.6)),
        )
        amounts, scale = found[:-1], float(found[-1])
    return amounts, scale


def _bounded(
    rows: NDArray[np.float64], wanted: NDArray[np.float64], bounds: tuple[NDArray[np.float64], NDArray[np.float64]]
) -> NDArray[np.float64]:
    """Bounded linear least squares. The active-set method is exact and quick; where it divides by nothing, at bounds
    that are met exactly, the trust region finds the same.
    """
    try:
        with np.errstate(divide="raise", invalid="raise"):
            return np.asarray(lsq_linear(rows, wanted, bounds=bounds, method="bvls").x)
    except (FloatingPointError, np.linalg.LinAlgError):
        return np.asarray(lsq_linear(rows, wanted, bounds=bounds, method="trf").x)


def _notes(facts: BodyFacts, residuals: dict[str, float], mass_kg: float) -> tuple[str, ...]:
    notes = []
    for name, off in residuals.items():
        if abs(off) > 0.2:
            shown = body_measures()[name].name if name in body_measures() else "Height"
            girth = name in body_measures() and body_measures()[name].ring is not None
            words = ("wide", "narrow") if girth else ("long", "short")
            notes.append(
                f"{shown}: the figure is {abs(off):.1f} cm too {words[0] if off > 0 else words[1]}; "
                f"check this {'girth' if girth else 'length'} against the others."
            )
    if facts.weight_kg is not None and abs(facts.weight_kg - mass_kg) > 3:
        notes.append(f"Weight: the figure corresponds to about {mass_kg:.0f} kg; girths are approximate.")
    return tuple(notes)
