"""The path of a walking thumb or a stroking hand along an area: over its skin, from end to end."""

import numpy as np

from acuthesis.core.body.figure import Figure, Vector

STATIONS = 12  # steps of a pass that can be told apart while it is looked at
LEVEL_CM = 1.0  # ends that lie nearer in height than this are not one above the other


def walk(fill: Vector, figure: Figure) -> Vector:
    """Places (12, 3) of one pass along an area, cm: along its longest direction, in the middle of its breadth.

    Parameters: fill (n, 3, 3), the triangles of its skin; figure, on whose skin the places lie. A pass goes upward as
    the figure stands; where both ends are level, from the middle of the body outward. Source: how a pass is taught
    differs; the ends are anatomy, their order is ours.
    """
    centres = fill.mean(axis=1)
    sizes = np.linalg.norm(np.cross(fill[:, 1] - fill[:, 0], fill[:, 2] - fill[:, 0]), axis=1)
    middle = np.average(centres, axis=0, weights=sizes)
    spread = (centres - middle) * sizes[:, None]
    axis = np.linalg.svd(spread, full_matrices=False)[2][0]
    corners = (fill.reshape(-1, 3) - middle) @ axis
    low, high = float(corners.min()), float(corners.max())
    step = (high - low) / STATIONS
    along = (centres - middle) @ axis
    places = []
    for nth in range(STATIONS):
        at = low + (nth + 0.5) * step
        # Weighed by how near a triangle lies to this station: a narrow place of the area has few.
        weight = sizes * np.exp(-(((along - at) / step) ** 2))
        near = np.average(centres, axis=0, weights=weight + 1e-12)
        places.append(near + axis * (at - float((near - middle) @ axis)))
    on_skin = np.array([figure.nearest_on_skin(place)[0] for place in places])
    return on_skin if _forward(on_skin[0], on_skin[-1]) else on_skin[::-1]


def _forward(first: Vector, last: Vector) -> bool:
    if abs(last[1] - first[1]) >= LEVEL_CM:
        return bool(last[1] > first[1])
    return bool(abs(last[0]) >= abs(first[0]))
