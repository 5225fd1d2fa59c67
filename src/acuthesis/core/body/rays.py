"""Casts rays at the skin (Embree, through embreex) and finds its nearest place (a box tree, libigl)."""

import igl
import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

Vectors = NDArray[np.float64]


def cross(a: Vectors, b: Vectors) -> Vectors:
    """Cross products of (n, 3) and (n, 3); for a few vectors several times as fast as numpy's general one."""
    x, y, z = a.T
    u, v, w = b.T
    return np.stack([y * w - z * v, z * u - x * w, x * v - y * u], axis=1)


class SkinRays:
    """A ray caster over one skin: `vertices` (f, 3) cm and `triangles` (t, 3) int."""

    def __init__(self, vertices: Vectors, triangles: NDArray[np.int64]) -> None:
        self._vertices = vertices
        self._triangles = triangles
        if 2 * len(triangles) < len(vertices):  # the caster copies every vertex, so it gets those that are used
            used, corners = np.unique(triangles, return_inverse=True)
            self._vertices, self._triangles = vertices[used], corners.reshape(-1, 3)
        # The ray caster counts in single precision: the body is moved to the origin to keep a micrometre of it, and
        # where a ray meets the triangle that was found is worked out in double precision.
        self._origin = self._vertices.min(axis=0)
        self._caster = EmbreeScene()
        moved = (self._vertices - self._origin).astype(np.float32)
        self._mesh = TriangleMesh(self._caster, moved, self._triangles.astype(np.int32))

    def first(self, origins: Vectors, directions: Vectors) -> NDArray[np.int64]:
        """Index of the first triangle on each ray, (n,) int; -1 where a ray meets nothing."""
        found = self._caster.run((origins - self._origin).astype(np.float32), directions.astype(np.float32))
        return np.asarray(found, dtype=np.int64)

    def meet_one(self, origin: Vectors, direction: Vectors) -> Vectors | None:
        """Place (3,) where one ray meets the skin; None if it meets nothing.

        In plain numbers: a rule casts one ray at a time, and arrays of one are slow.
        """
        triangle = int(self.first(origin[None], direction[None])[0])
        if triangle < 0:
            return None
        (ax, ay, az), (bx, by, bz), (cx, cy, cz) = self._vertices[self._triangles[triangle]].tolist()
        ux, uy, uz, vx, vy, vz = bx - ax, by - ay, bz - az, cx - ax, cy - ay, cz - az
        nx, ny, nz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        (ox, oy, oz), (dx, dy, dz) = origin.tolist(), direction.tolist()
        distance = ((ax - ox) * nx + (ay - oy) * ny + (az - oz) * nz) / (dx * nx + dy * ny + dz * nz)
        return np.array([ox + distance * dx, oy + distance * dy, oz + distance * dz])

    def meet(self, origins: Vectors, directions: Vectors) -> tuple[Vectors, NDArray[np.int64]]:
        """Places (n, 3) where rays meet the skin, in double precision, and the triangles; rows of misses are NaN."""
        triangles = self.first(origins, directions)
        corners = self._vertices[self._triangles[triangles]]
        normals = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        with np.errstate(divide="ignore", invalid="ignore"):
            distance = np.einsum("ij,ij->i", corners[:, 0] - origins, normals) / np.einsum(
                "ij,ij->i", directions, normals
            )
        places = origins + distance[:, None] * directions
        places[triangles < 0] = np.nan
        return places, triangles


class NearestSkin:
    """Finds the nearest place of a skin: `vertices` (f, 3) cm and `triangles` (t, 3) int."""

    def __init__(self, vertices: Vectors, triangles: NDArray[np.int64]) -> None:
        self._vertices = vertices
        self._triangles = triangles.astype(np.int64)
        self._tree = igl.AABB()
        self._tree.init(self._vertices, self._triangles)

    def nearest(self, places: Vectors) -> tuple[Vectors, NDArray[np.int64]]:
        """Nearest places (n, 3) of the skin to places (n, 3), and the triangles (n,) they lie on."""
        _, triangles, found = self._tree.squared_distance(self._vertices, self._triangles, np.atleast_2d(places))
        return np.asarray(found).reshape(-1, 3), np.asarray(triangles).reshape(-1)
