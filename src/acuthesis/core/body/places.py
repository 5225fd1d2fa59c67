"""Evaluates places on a fitted figure: from the words of a rule to a point on this person's skin."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from acuthesis.core.body import catalogue
from acuthesis.core.body.construct import (
    Around,
    Beside,
    Between,
    Drop,
    FingerSpan,
    Level,
    Move,
    OnArc,
    OnLine,
    Place,
    Segment,
    Skin,
    Vertex,
)
from acuthesis.core.body.figure import Figure, Side, Vector, other_side, unit
from acuthesis.core.body.frames import Frame, direction, frame_of, known_directions
from acuthesis.core.errors import CoreError, UnknownId
from acuthesis.core.message import message

MIRROR = np.array([-1.0, 1.0, 1.0])
JUST_OUTSIDE_CM = 1.5  # how far a rule's start may miss the body on an unusual build
OUTSIDE_CM = 20.0  # beyond any part of the head
ARC_STEPS = 181  # places swept over the head between a segment's ends: about one every 2 mm
AROUND_STEPS = 90  # rays swept from the midline outward: about one every 3 mm
AROUND_TURN = 1.35  # how far they sweep, in right angles
AS_FAR_AS_IT_REACHES = (1.0, 0.97, 0.94, 0.9, 0.86, 0.82)  # shares of a width, on somebody narrower than it
ON_HEAD = ("head_midline", "head_by_bones", "brow_to_hairline", "mastoid_width")


@dataclass(frozen=True)
class SegmentOnBody:
    """A segment of this figure: its ends (3,) cm, its length as a tape finds it, and one cun of that in cm.

    `axis`: unit vector (3,) that levels are square to, from the first end toward the second; levels lie `level_cm`
    apart, a cun each. On a limb the axis runs from joint to joint, where the tape from skin to skin is tilted and a
    little longer: so many twelfths of the tape end at so many twelfths of the axis.
    """

    segment: Segment
    start: Vector
    end: Vector
    length_cm: float
    cun_cm: float
    path: Vector  # (n, 3) places from start to end; two for a straight segment
    axis: Vector
    level_cm: float

    def level_cun(self, place: Vector) -> float:
        """How far a place lies from the first end, in cun: along the axis, or along the tape for a head segment."""
        if self.segment.along == "axis":
            return float((place - self.start) @ self.axis) / self.level_cm
        steps = np.linalg.norm(np.diff(self.path, axis=0), axis=1)
        return float(np.concatenate([[0.0], steps.cumsum()])[np.linalg.norm(self.path - place, axis=1).argmin()]) / (
            self.cun_cm
        )


@dataclass
class Places:
    """Places on one figure. `fingers_cm` are the person's own widths, for rules that count in fingers."""

    figure: Figure
    fingers_cm: dict[FingerSpan, float]
    _landmarks: dict[tuple[str, Side], Vector] = field(default_factory=dict)
    _segments: dict[tuple[str, Side], SegmentOnBody] = field(default_factory=dict)
    _frames: dict[tuple[str, Side], Frame] = field(default_factory=dict)
    memory: dict[tuple[str, str], object] = field(default_factory=dict)  # what others work out once per figure

    def landmark(self, name: str, side: Side) -> Vector:
        """Position (3,) of a landmark. Raises: UnknownId."""
        if side == "right":
            return np.asarray(self.landmark(name, "left") * MIRROR)
        if (name, side) not in self._landmarks:
            table = catalogue.landmarks()
            if name not in table:
                raise UnknownId(message("places-there-no-landmark", name=name), where=name)
            try:
                self._landmarks[name, side] = self.at(table[name].place, side)
            except CoreError as error:
                raise type(error)(message("places-landmark", name=name, said=error.message), where=name) from error
        return self._landmarks[name, side]

    def _frame(self, part: str, side: Side) -> Frame:
        if (part, side) not in self._frames:
            self._frames[part, side] = frame_of(self.figure, part, side)
        return self._frames[part, side]

    def on_side(self, place: Place, side: Side) -> Vector:
        """A rule's place on a side. Figures are symmetric, so the right is the left's mirror image."""
        left = self.at(place, "left")
        return left if side == "left" else np.asarray(left * MIRROR)

    def visited(self) -> list[Vector]:
        """Every landmark that was worked out so far, and every place of a tape over the skin."""
        return [*self._landmarks.values(), *(place for segment in self._segments.values() for place in segment.path)]

    def segment(self, name: str, side: Side) -> SegmentOnBody:
        """A proportional segment on this figure. Raises: UnknownId."""
        if (name, side) not in self._segments:
            table = catalogue.segments()
            if name not in table:
                raise UnknownId(message("places-there-no-segment", name=name), where=name)
            row = table[name]
            start, end = self.at(row.start, side), self.at(row.end, side)
            path = np.stack([start, end])
            if row.along == "skin" and row.hub is not None:
                path = self._arc(self.at(row.hub, side), start, end)
            length = float(np.linalg.norm(np.diff(path, axis=0), axis=1).sum())
            axis, counted = unit(end - start), length
            if row.limb is not None:
                first, last = (self.at(joint, side) for joint in row.limb)
                axis = unit(last - first)
                counted = float((end - start) @ axis)
            self._segments[name, side] = SegmentOnBody(
                row, start, end, length, length / row.cun, path, axis, counted / row.cun
            )
        return self._segments[name, side]

    def at(self, place: Place, side: Side) -> Vector:
        """Position (3,) cm of a place. Raises: UnknownId, CoreError."""
        match place:
            case str():
                return self._reference(place, side)
            case Vertex():
                return self.figure.vertex(place.vertex, side)
            case Between():
                a, b = (self.at(end, side) for end in place.between)
                return np.asarray(a + place.at * (b - a))
            case Level():
                frame = self._frame(place.part, side)
                axis = frame["superior" if "superior" in frame else "proximal"]
                first, last = (self.at(end, side) for end in place.over)
                return _cross_level(first, last, axis, float(self.at(place.level, side) @ axis))
            case Move():
                frame = self._frame(place.part, side)
                known_directions(frame, place.by)
                steps = sum((amount * frame[name] for name, amount in place.by.items()), np.zeros(3))
                return np.asarray(self.at(place.move, side) + self._unit_length(place, side) * steps)
            case Skin():
                inside = self.at(place.skin, side)
                if place.through is not None:
                    toward = unit(self.at(place.through, side) - inside)
                else:
                    toward = direction(self._frame(place.part, side), place.toward or {})
                if place.outside:
                    return self.figure.exit_point(inside + OUTSIDE_CM * toward, -toward)
                return self._out(inside, toward)
            case Drop():
                return self.figure.nearest_on_skin(self.at(place.drop, side))[0]
            case OnLine():
                return self._on_line(place, side)
            case OnArc():
                segment = self.segment(place.arc, side)
                steps = np.linalg.norm(np.diff(segment.path, axis=0), axis=1)
                gone = np.concatenate([[0.0], steps.cumsum()])
                wanted = place.cun * segment.cun_cm
                return np.array([np.interp(wanted, gone, segment.path[:, axis]) for axis in range(3)])
            case Beside():
                return self._beside(place, side)
            case Around():
                return self._around(place, side)

    def _out(self, inside: Vector, toward: Vector) -> Vector:
        """From inside the body out onto the skin. A start that comes to lie just outside it (in the tip of a child's
        finger) takes the skin that it lies on.

        Raises: CoreError for one that lies farther out than that.
        """
        try:
            return self.figure.exit_point(inside, toward)
        except CoreError:
            nearest, _ = self.figure.nearest_on_skin(inside)
            if np.linalg.norm(nearest - inside) > JUST_OUTSIDE_CM:
                raise
            return nearest

    def _reference(self, reference: str, side: Side) -> Vector:
        head, _, rest = reference.partition(".")
        if head in ("left", "right"):
            return self._reference(rest, "left" if head == "left" else "right")
        if head == "other":
            return self._reference(rest, other_side(side))
        if head == "joint":
            return self.figure.joint(rest, side)
        return self.landmark(reference, side)

    def chain_cm(self, chain: Sequence[Place], side: Side) -> float:
        """The way from place to place of a chain, laid straight."""
        places = np.array([self.at(place, side) for place in chain])
        return float(np.linalg.norm(np.diff(places, axis=0), axis=1).sum())

    def _unit_length(self, move: Move, side: Side) -> float:
        if move.of is not None:
            return self.chain_cm(move.of, side)
        if move.cun is not None:
            return self.segment(move.cun, side).cun_cm
        assert move.width is not None  # the model allows exactly one unit
        return self.fingers_cm[move.width]

    def amount(self, place: OnLine | Beside | Around, side: Side) -> float:
        """The distance that a counting form asks for on this person, cm."""
        if place.cun is not None:
            if isinstance(place, OnLine):
                return place.cun * self.segment(place.segment, side).level_cm
            return place.cun * self.segment(place.of, side).cun_cm
        return sum(self.fingers_cm[span] for span in place.span or ())

    def _beside(self, place: Beside, side: Side) -> Vector:
        """Straight across, then onto the skin from outside: what lies between is air, whatever the build.

        Raises: CoreError where the body is much narrower than that.
        """
        frame = self._frame("trunk", side)
        outward = frame["anterior" if place.face == "front" else "posterior"]
        start, across = self.at(place.beside, side), self.amount(place, side) * frame["lateral"]
        for share in AS_FAR_AS_IT_REACHES:
            found = self.figure.rays.meet_one(start + share * across + (OUTSIDE_CM * 2) * outward, -outward)
            if found is not None:
                return np.asarray(found)
        raise CoreError(message("places-distance-leads-off-body"), where="cun")

    def _around(self, place: Around, side: Side) -> Vector:
        """Sweep rays from the core outward, and walk the skin that they meet until the length is reached."""
        core, start = self.at(place.around, side), self.at(place.start, side)
        first = unit(start - core)
        lateral = self._frame("trunk", side)["lateral"]
        last = unit(lateral - first * (first @ lateral))
        rays = _sweep(first, last, np.linspace(0, AROUND_TURN, AROUND_STEPS)[:, None])
        if place.of in ON_HEAD:  # the head has hollows within: come from outside
            path = self.figure.exit_points(core + OUTSIDE_CM * rays, -rays)
        else:
            path = self.figure.exit_points(core, rays)
        gone = np.concatenate([[0.0], np.linalg.norm(np.diff(path, axis=0), axis=1).cumsum()])
        at = int(np.searchsorted(gone, self.amount(place, side)))
        if at >= len(path):
            raise CoreError(message("places-distance-leads-around-body-off"), where="cun")
        share = (self.amount(place, side) - gone[at - 1]) / (gone[at] - gone[at - 1])
        turn = unit(rays[at - 1] + share * (rays[at] - rays[at - 1]))
        if place.of in ON_HEAD:
            return self.figure.exit_point(core + OUTSIDE_CM * turn, -turn)
        return self.figure.exit_point(core, turn)

    def _on_line(self, place: OnLine, side: Side) -> Vector:
        """Cut the line with the plane at the wanted level, then push out from the core within that plane."""
        segment = self.segment(place.segment, side)
        table = catalogue.lines()
        if place.line not in table:
            raise UnknownId(message("places-there-no-line", line=place.line), where=place.line)
        line = table[place.line]
        amount = self.amount(place, side)
        start = self.at(place.start, side)
        # Counting goes into the segment, away from the end that is nearer to where it starts.
        into = 1 if segment.level_cun(start) < segment.segment.cun / 2 else -1
        level = float(start @ segment.axis) + into * amount
        chord = _cross_level(self.at(line.start, side), self.at(line.end, side), segment.axis, level)
        core = _cross_level(self.at(line.core[0], side), self.at(line.core[1], side), segment.axis, level)
        return self.figure.exit_point(core, chord - core)

    def _arc(self, hub: Vector, start: Vector, end: Vector) -> Vector:
        """Sweep rays in the plane of hub, start and end, the way round that goes over the top of the head."""
        first, last = unit(start - hub), unit(end - hub)
        turn = np.linspace(0, 1, ARC_STEPS)[:, None]
        over = unit(np.array([0.0, 1.0, 0.0]))
        # Two quarter sweeps, by way of straight up, so that an angle beyond 180 degrees is no difficulty.
        if first @ last < 0.5:
            rays = np.concatenate([_sweep(first, over, turn), _sweep(over, last, turn)[1:]])
        else:
            rays = _sweep(first, last, turn)
        return np.concatenate([start[None], self.figure.exit_points(hub, rays)[1:-1], end[None]])


def _sweep(first: Vector, last: Vector, turn: Vector) -> Vector:
    """Directions (n, 3) turning evenly from `first` to `last` (great-circle interpolation)."""
    angle = np.arccos(np.clip(first @ last, -1, 1))
    return np.asarray((np.sin((1 - turn) * angle) * first + np.sin(turn * angle) * last) / np.sin(angle))


def _cross_level(start: Vector, end: Vector, axis: Vector, level: float) -> Vector:
    """Where the line through two places crosses the plane `place @ axis == level`."""
    share = (level - start @ axis) / ((end - start) @ axis)
    return np.asarray(start + share * (end - start))
