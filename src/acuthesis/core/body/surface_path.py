"""Shortest paths over the skin between two places, and their length, by geodesics on the figure's own mesh."""

from dataclasses import dataclass

import numpy as np
import potpourri3d
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from acuthesis.core.body.figure import Figure, Vector
from acuthesis.core.errors import CoreError
from acuthesis.core.message import message

Triangles = NDArray[np.int64]
MARGIN_CM = 4.0  # how far a shortest way may leave the straight line, beyond a share of its length
MARGIN_SHARE = 0.35


@dataclass(frozen=True)
class WayOverSkin:
    """The shortest way: its places (n, 3) cm from start to end, and its length. `straight_cm` for comparison."""

    path: Vector
    length_cm: float
    straight_cm: float


def way_over_skin(figure: Figure, start: Vector, end: Vector) -> WayOverSkin:
    """The shortest way over the skin between two places (3,) on it.

    Edge-flip geodesics run between vertices of the mesh; the last millimetres to the places themselves are straight.
    Raises: CoreError if the skin between them is not connected.
    """
    straight = float(np.linalg.norm(end - start))
    near = _in_one_piece(_between(figure, start, end, MARGIN_CM + MARGIN_SHARE * straight), figure, start, end)
    used, corners = np.unique(near, return_inverse=True)
    vertices, triangles = figure.skin[used], corners.reshape(-1, 3)
    first, last = (_nearest(vertices, place) for place in (start, end))
    if first == last:
        return WayOverSkin(np.array([start, end]), straight, straight)
    try:
        solver = potpourri3d.EdgeFlipGeodesicSolver(vertices, triangles)
        inner = np.asarray(solver.find_geodesic_path(v_start=first, v_end=last))
    except RuntimeError as error:
        raise CoreError(message("surface-path-there-no-way-over-skin"), where="path") from error
    # Going to the nearest vertex and back again would lengthen the way: its two ends are the places themselves.
    path = np.concatenate([start[None], inner[1:-1], end[None]])
    return WayOverSkin(path, float(np.linalg.norm(np.diff(path, axis=0), axis=1).sum()), straight)


def _nearest(vertices: Vector, place: Vector) -> int:
    return int(np.linalg.norm(vertices - place, axis=1).argmin())


def _in_one_piece(triangles: Triangles, figure: Figure, start: Vector, end: Vector) -> Triangles:
    """Of triangles (n, 3) the piece of skin that both places lie on, without places where it only hangs together at a
    point.

    Eyeballs, teeth and the inside of the mouth are pieces of their own; and what is cut out around a straight line may
    touch itself in single vertices at its edge, which no way leads through.
    """
    while True:
        triangles = _component(triangles, figure, start, end)
        pinched = _pinched(triangles)
        if not len(pinched):
            return triangles
        triangles = triangles[~np.isin(triangles, pinched).any(axis=1)]


def _component(triangles: Triangles, figure: Figure, start: Vector, end: Vector) -> Triangles:
    """The triangles that hang together and come nearest to both places."""
    used, corners = np.unique(triangles, return_inverse=True)
    edges = _edges(corners.reshape(-1, 3))
    joined = coo_matrix((np.ones(len(edges)), (edges[:, 0], edges[:, 1])), (len(used), len(used)))
    count, piece = connected_components(joined, directed=False)
    if count == 1:
        return triangles
    reach = np.zeros(count)  # how far both places are from a piece, together
    for place in (start, end):
        nearest = np.full(count, np.inf)
        np.minimum.at(nearest, piece, np.linalg.norm(figure.skin[used] - place, axis=1))
        reach += nearest
    return np.asarray(triangles[piece[corners.reshape(-1, 3)[:, 0]] == int(reach.argmin())])


def _pinched(triangles: Triangles) -> NDArray[np.int64]:
    """Vertices at which more than two edges of the border meet."""
    edges = np.sort(_edges(triangles), axis=1)
    once, count = np.unique(edges, axis=0, return_counts=True)
    vertex, meeting = np.unique(once[count == 1], return_counts=True)
    return np.asarray(vertex[meeting > 2])


def _edges(triangles: Triangles) -> NDArray[np.int64]:
    return np.asarray(np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]))


def _between(figure: Figure, start: Vector, end: Vector, margin: float) -> Triangles:
    """Triangles (n, 3) around the straight line between two places: the whole skin would take a second."""
    axis = end - start
    length = float(axis @ axis) or 1.0
    away = figure.triangle_middles - start
    share = np.clip(away @ axis / length, 0, 1)
    distance = np.linalg.norm(away - share[:, None] * axis, axis=1)
    return np.asarray(figure.asset.triangles[distance < margin])
