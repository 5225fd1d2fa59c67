"""Poses: the fitted figure turned at its joints for showing, and every place and direction on it carried along.

Places are found on the reference stance, where the rules hold; a pose only shows them the way they are reached.
"""

from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.body.catalogue import DATA, read_yaml
from acuthesis.core.body.construct import Directions
from acuthesis.core.body.figure import SIDES, Figure, Side, Vector
from acuthesis.core.body.frames import direction, frame_of
from acuthesis.core.errors import UnknownId
from acuthesis.core.message import message

REFERENCE = "standing"
STEP_CM = 0.5  # a direction is carried along as a step of this length
# Where a turn has its centre, among the joints of the figure.
CENTRES = {
    "shoulder": "shoulder",
    "elbow": "elbow",
    "forearm": "elbow",
    "hip": "upper-leg",
    "knee": "knee",
    "ankle": "ankle",
    "neck": "neck",
    "thumb": "finger-1-2",
    "index": "finger-2-1",
    "ring": "finger-4-1",
    "little": "finger-5-1",
}
Joint = Literal["shoulder", "elbow", "forearm", "hip", "knee", "ankle", "neck", "thumb", "index", "ring", "little"]


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)


class Turn(_Row):
    """A turn at a joint, on both sides."""

    joint: Joint
    about: Directions
    part: str = Field(alias="in")
    degrees: float


class Lie(_Row):
    """A turn of the whole body about an axis of the room, degrees: how somebody who stands comes to lie."""

    about: Literal["x", "z"]
    degrees: float


class Pose(_Row):
    """A pose, the sites of the body that it is chosen for, and the single points that are looked for in it."""

    id: str
    name: str
    turns: tuple[Turn, ...]
    lie: Lie | None = None
    sites: tuple[str, ...]
    points: tuple[str, ...] = ()


@lru_cache
def poses() -> dict[str, Pose]:
    """Every pose by id, the reference stance first.

    >>> sorted(poses())[:2]
    ['arm_up', 'chin_up']
    """
    return {pose.id: pose for pose in read_yaml(DATA / "poses.yaml", Pose)}


@lru_cache
def pose_for(site: str, point: str = "") -> str:
    """Id of the pose in which a point, or a stretch of the body (a site), is shown as it is found and reached; the
    reference stance by default.

    >>> pose_for("sole"), pose_for("leg_inner"), pose_for("leg_inner", "SP9")
    ('foot_up', 'standing', 'leg_out')
    """
    asked = (pose.id for pose in poses().values() if point in pose.points)
    usual = (pose.id for pose in poses().values() if site in pose.sites)
    return next(asked, next(usual, REFERENCE))


@lru_cache
def posture(point: str) -> str:
    """The posture in which the standard looks for a point, in words; empty where any will do.

    >>> posture("LI11"), posture("SP6")
    ('elbow at a right angle', '')
    """
    return next((pose.name for pose in poses().values() if point in pose.points), "")


@dataclass(frozen=True)
class _Rotation:
    """About an axis (3,) through a centre (3,), by an angle (radians); each vertex follows by a share (f,)."""

    centre: Vector
    axis: Vector
    angle: float
    follow: Vector

    def of(self, places: Vector, follow: Vector) -> Vector:
        """Places (n, 3) turned, each by its own share (n,) of the angle (Rodrigues' formula)."""
        away = places - self.centre
        angle = (follow * self.angle)[:, None]
        along = (away @ self.axis)[:, None] * self.axis
        return np.asarray(
            self.centre + along + np.cos(angle) * (away - along) + np.sin(angle) * np.cross(self.axis, away)
        )


@dataclass(frozen=True)
class _Held:
    """Places of the skin (n, 3), the corners (n, 3) of the triangles they lie in, and the corners' shares (n, 3)."""

    on_skin: Vector
    corners: NDArray[np.int64]
    shares: Vector


@dataclass(frozen=True)
class Posed:
    """A figure in a pose. Raises nothing: a figure can take every pose."""

    figure: Figure
    pose: Pose

    @cached_property
    def _rotations(self) -> list[_Rotation]:
        made = [
            self._turn(turn, side) for turn in self.pose.turns for side in SIDES[: 1 if turn.joint == "neck" else 2]
        ]
        if self.pose.lie is not None:
            axis = np.eye(3)[0 if self.pose.lie.about == "x" else 2]
            everything = np.ones(len(self.figure.skin))
            made.append(_Rotation(np.zeros(3), axis, np.radians(self.pose.lie.degrees), everything))
        return made

    def _turn(self, turn: Turn, side: Side) -> _Rotation:
        asset = self.figure.asset
        name = turn.joint if turn.joint == "neck" else f"{side[0]}-{turn.joint}"
        follow = asset.subdivision @ asset.follow[asset.turn_names.index(name)].astype(float)
        axis = direction(frame_of(self.figure, turn.part, "left"), turn.about)
        angle = np.radians(turn.degrees)
        if side == "right":  # the mirror image of a turn: its axis mirrored, the other way round
            axis, angle = axis * [-1, 1, 1], -angle
        return _Rotation(self.figure.joint(CENTRES[turn.joint], side), axis, angle, np.clip(follow, 0, 1))

    def _turned(self, places: Vector, held: "_Held") -> Vector:
        for rotation in self._rotations:
            places = rotation.of(places, (held.shares * rotation.follow[held.corners]).sum(axis=1))
        return places - self._sunk

    @cached_property
    def _sunk(self) -> Vector:
        """How far the pose has to be let down to stand or lie on the floor again, (3,)."""
        places = self.figure.skin
        for rotation in self._rotations:
            places = rotation.of(places, rotation.follow)
        return np.array([0.0, np.nanmin(places[:, 1]), 0.0])

    @cached_property
    def skin(self) -> Vector:
        """Skin vertices (f, 3) in the pose."""
        places = self.figure.skin
        for rotation in self._rotations:
            places = rotation.of(places, rotation.follow)
        return places - self._sunk if self._rotations else places

    def places(self, places: Vector) -> Vector:
        """Where places (n, 3) on or under the skin come to lie: what is on the skin stays on it."""
        if not self._rotations or len(places) == 0:
            return places
        held = self._held(places)
        # Between its corners a triangle bends a little otherwise than a turn would have it: that much is put right.
        flat = (held.shares[:, :, None] * self.skin[held.corners]).sum(axis=1)
        return np.asarray(self._turned(places, held) + flat - self._turned(held.on_skin, held))

    def directions(self, places: Vector, vectors: Vector) -> Vector:
        """Unit vectors (n, 3) at places (n, 3), turned along."""
        if not self._rotations or len(places) == 0:
            return vectors
        held = self._held(places)
        moved = self._turned(places + STEP_CM * vectors, held) - self._turned(places, held)
        return np.asarray(moved / np.linalg.norm(moved, axis=1, keepdims=True))

    def _held(self, places: Vector) -> "_Held":
        """The triangles of the skin nearest to places (n, 3), and the shares of their corners in it."""
        on_skin, triangles = self.figure.nearest_triangles(places)
        corners = self.figure.asset.triangles[triangles]
        a, b, c = (self.figure.skin[corners[:, k]] for k in range(3))
        normal = np.cross(b - a, c - a)
        whole = (normal**2).sum(axis=1)
        second = (np.cross(on_skin - a, c - a) * normal).sum(axis=1) / whole
        third = (np.cross(b - a, on_skin - a) * normal).sum(axis=1) / whole
        return _Held(on_skin, corners, np.stack([1 - second - third, second, third], axis=1))

    def back(self, place: Vector) -> Vector:
        """The place (3,) of the reference stance that comes to lie at a place (3,) of the posed skin."""
        nearest = int(np.nanargmin(np.linalg.norm(self.skin - place, axis=1)))
        away = place - self.skin[nearest]
        axes = self.directions(np.repeat(self.figure.skin[nearest][None], 3, axis=0), np.eye(3))
        return np.asarray(self.figure.skin[nearest] + axes @ away)


def posed(figure: Figure, pose: str) -> Posed:
    """A figure (standing, cm) in a pose by id: what carries places and directions there and back. Raises: UnknownId."""
    if pose not in poses():
        raise UnknownId(message("pose-there-no-pose-there", pose=pose, poses=", ".join(poses())), where="pose")
    return Posed(figure, poses()[pose])
