"""Ways over the skin: the shortest one between two places, and its length, by geodesics on the figure's own mesh."""

from dataclasses import dataclass

import numpy as np
import potpourri3d
from numpy.typing import NDArray

from acuthesis.core.body.figure import Figure, Vector
from acuthesis.core.errors import CoreError

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
    near = _between(figure, start, end, MARGIN_CM + MARGIN_SHARE * straight)
    used, corners = np.unique(near, return_inverse=True)
    vertices, triangles = figure.skin[used], corners.reshape(-1, 3)
    first, last = (int(np.linalg.norm(vertices - place, axis=1).argmin()) for place in (start, end))
    if first == last:
        return WayOverSkin(np.array([start, end]), straight, straight)
    try:
        solver = potpourri3d.EdgeFlipGeodesicSolver(vertices, triangles)
        inner = np.asarray(solver.find_geodesic_path(v_start=first, v_end=last))
    except RuntimeError as error:
        raise CoreError("there is no way over the skin between these places", where="path") from error
    # Going to the nearest vertex and back again would lengthen the way: its two ends are the places themselves.
    path = np.concatenate([start[None], inner[1:-1], end[None]])
    return WayOverSkin(path, float(np.linalg.norm(np.diff(path, axis=0), axis=1).sum()), straight)


def _between(figure: Figure, start: Vector, end: Vector, margin: float) -> NDArray[np.int64]:
    """Triangles (n, 3) around the straight line between two places: the whole skin would take a second."""
    axis = end - start
    length = float(axis @ axis) or 1.0
    away = figure.triangle_middles - start
    share = np.clip(away @ axis / length, 0, 1)
    distance = np.linalg.norm(away - share[:, None] * axis, axis=1)
    return np.asarray(figure.asset.triangles[distance < margin])
