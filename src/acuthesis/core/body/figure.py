"""A figure: the body of one person in the reference stance, with its skin to cast rays against.

Coordinates everywhere in the core: cm, x to the person's left, y up from the floor, z forward.
"""

from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from acuthesis.core.body.asset import BodyAsset
from acuthesis.core.body.rays import NearestSkin, SkinRays, cross
from acuthesis.core.errors import CoreError, UnknownId
from acuthesis.core.message import message

Vector = NDArray[np.float64]
Side = Literal["left", "right"]
SIDES: tuple[Side, Side] = ("left", "right")
FINGERTIP_CM = 0.7  # half a finger's width: the skin that a fingertip covers
NO_SKIN = message("figure-ray-from-inside-body-does")


def unit(vector: Vector) -> Vector:
    """The vector (3,) scaled to length one; it must have a length."""
    return np.asarray(vector / np.sqrt(vector @ vector))


def other_side(side: Side) -> Side:
    """left for right and right for left.

    >>> other_side("left")
    'right'
    """
    return "right" if side == "left" else "left"


@dataclass(frozen=True)
class Figure:
    """Control vertices (c, 3) and joints (j, 3) of a fitted body, standing on y = 0."""

    asset: BodyAsset
    control: Vector
    joint_positions: Vector
    skin: Vector = field(repr=False)
    only: NDArray[np.int64] | None = field(default=None, repr=False)  # triangles that rays are cast at; None: all

    @staticmethod
    def from_weights(
        asset: BodyAsset, weights: NDArray[np.float64], scale: float, only: NDArray[np.int64] | None = None
    ) -> "Figure":
        """Shape the figure: `weights` (k,) of the shape keys, then an overall `scale`. Its soles come to y = 0.

        With `only` (indices of triangles) rays meet nothing but these: a caster over a few is built in a millisecond.
        """
        used = np.flatnonzero(weights)  # a figure needs a third of the keys
        shaped = (asset.base + np.tensordot(weights[used].astype(np.float32), asset.keys[used], axes=1)) * scale
        skin = asset.subdivision @ shaped[: asset.control_count]
        floor = np.array([0.0, skin[:, 1].min(), 0.0])
        shaped = shaped - floor
        return Figure(asset, shaped[: asset.control_count], shaped[asset.control_count :], skin - floor, only)

    @cached_property
    def height_cm(self) -> float:
        """From the sole to the top of the head."""
        return float(self.skin[:, 1].max())

    @cached_property
    def volume_l(self) -> float:
        """Volume inside the skin, litres."""
        # The coarse mesh is as good for this, and a quarter the work.
        a, b, c = (self.skin[self.asset.coarse_triangles[:, i]] for i in range(3))
        return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6000)

    @cached_property
    def rays(self) -> SkinRays:
        """Ray caster over the skin (built at first use)."""
        return SkinRays(self.skin, self.asset.triangles if self.only is None else self.asset.triangles[self.only])

    @cached_property
    def triangle_middles(self) -> Vector:
        """Middle of every skin triangle, (t, 3) cm."""
        return np.asarray(self.skin[self.asset.triangles].mean(axis=1))

    @cached_property
    def _nearest(self) -> NearestSkin:
        return NearestSkin(self.skin, self.asset.triangles)

    @cached_property
    def _joint_index(self) -> dict[str, int]:
        return {name: i for i, name in enumerate(self.asset.joint_names)}

    @cached_property
    def _vertex_index(self) -> dict[int, int]:
        return {int(number): i for i, number in enumerate(self.asset.vertex_ids)}

    def joint(self, name: str, side: Side) -> Vector:
        """Centre of a joint. `name` without its side where the joint is paired. Raises: UnknownId."""
        for candidate in (f"{side[0]}-{name}", name):
            if candidate in self._joint_index:
                return np.asarray(self.joint_positions[self._joint_index[candidate]])
        raise UnknownId(message("figure-body-no-joint", name=name), where=name)

    def vertex(self, number: int, side: Side) -> Vector:
        """Skin at a vertex of the base mesh, given by its number on the left side. Raises: UnknownId."""
        if number not in self._vertex_index:
            raise UnknownId(message("figure-body-no-vertex", number=number), where=str(number))
        index = self._vertex_index[number]
        if side == "right":
            index = int(self.asset.mirror[index])
        # The first rows of the subdivided skin are the control vertices, moved onto the smooth surface.
        return np.asarray(self.skin[index])

    def exit_point(self, inside: Vector, direction: Vector) -> Vector:
        """Where a ray from inside the body leaves the skin. Raises: CoreError if it never does."""
        place = self.rays.meet_one(inside, unit(direction))
        if place is None:
            raise CoreError(NO_SKIN, "skin")
        return place

    def exit_points(self, inside: Vector, directions: Vector) -> Vector:
        """The same for (n, 3) origins and (n, 3) directions."""
        directions = directions / np.sqrt((directions * directions).sum(axis=1, keepdims=True))
        origins = np.broadcast_to(inside, directions.shape)
        places, triangles = self.rays.meet(origins, directions)
        if (triangles < 0).any():
            raise CoreError(NO_SKIN, "skin")
        return places

    @cached_property
    def _vertices(self) -> tuple[Vector, cKDTree]:
        corners = self.skin[self.asset.triangles]
        facing = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        sums = np.stack(
            [
                np.bincount(self.asset.triangles.ravel(), np.repeat(facing[:, axis], 3), len(self.skin))
                for axis in range(3)
            ],
            axis=1,
        )
        with np.errstate(invalid="ignore"):  # a vertex of no triangle has no normal
            normals = sums / np.linalg.norm(sums, axis=1, keepdims=True)
        # A tree that is asked a few hundred times need not be balanced.
        return normals, cKDTree(self.skin, balanced_tree=False, compact_nodes=False)

    @property
    def vertex_normals(self) -> Vector:
        """Outward unit normal (n, 3) at every vertex of the skin; not a number at one that no triangle uses."""
        return self._vertices[0]

    def normals_at(self, places: Vector) -> Vector:
        """Outward unit normals (n, 3) of the skin at places (n, 3) on it: those of the nearest vertices."""
        normals, tree = self._vertices
        return np.asarray(normals[tree.query(places)[1]])

    def facing(self, place: Vector) -> Vector:
        """Which way the skin faces around a place (3,) on it: the mean outward normal (3,) under a fingertip.

        A single vertex in a crease or on a nail faces anywhere.
        """
        normals, tree = self._vertices
        own = normals[tree.query(place)[1]]
        around = normals[tree.query_ball_point(place, FINGERTIP_CM)]
        same = around[(around @ own) > 0]
        return unit(same.sum(axis=0)) if len(same) else own

    def nearest_on_skin(self, place: Vector) -> tuple[Vector, Vector]:
        """Nearest place (3,) of the skin, and the outward unit normal (3,) of the skin around it."""
        found, _ = self._nearest.nearest(place)
        return found[0], self.normals_at(found)[0]

    def nearest_triangles(self, places: Vector) -> tuple[Vector, NDArray[np.int64]]:
        """Nearest places (n, 3) of the skin to places (n, 3), and the triangles (n,) that they lie in."""
        return self._nearest.nearest(places)

    def nearest_with_normals(self, places: Vector) -> tuple[Vector, Vector]:
        """Nearest places (n, 3) of the skin to places (n, 3), and the outward unit normals (n, 3) of its triangles."""
        found, triangles = self._nearest.nearest(places)
        corners = self.skin[self.asset.triangles[triangles]]
        normals = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        return found, normals / np.linalg.norm(normals, axis=1, keepdims=True)
