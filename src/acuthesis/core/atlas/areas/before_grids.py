"""Converts own areas from before surfaces had grids: corners given in a rectangle over the part become grid
coordinates.

What was drawn comes to lie within a few millimetres of where it lay. Rows that name a `grid` are newer.
"""

from typing import Any

import numpy as np

# Shares of the old rectangle's length at which the levels of the grid lie, the first to the last.
LEVELS = {
    "sole": (0.0, 0.26, 0.40, 0.59, 0.77),
    "foot_top": (0.0, 0.17, 0.53, 0.66),
    "palm": (0.0, 0.22, 0.38, 0.5, 0.6),
    "hand_back": (0.0, 0.22, 0.38, 0.5, 0.6),
    "face": (0.0, 0.06, 0.16, 0.31, 0.48, 0.60, 0.70, 1.0),
}
ZONES = {"face": (0.0, 0.12, 0.21, 0.31, 0.5, 1.0)}
TOES = {"sole": "sole_toe", "foot_top": "top_toe"}  # what lay beyond the last level lies on a toe
TOE_ENDS = (0.33, 0.62, 0.78, 0.88)  # across: where the first four toes end
TOE_TIPS = (0.99, 1.0, 0.97, 0.92, 0.87)


def _is_polygon(value: Any) -> bool:
    """Whether a value is what a polygon may be; if not, the models of the atlas say what is wrong with it."""
    return (
        isinstance(value, list | tuple)
        and len(value) >= 3
        and all(isinstance(corner, list | tuple) and len(corner) == 2 for corner in value)
        and all(isinstance(one, int | float) and -0.5 <= one <= 1.2 for corner in value for one in corner)
    )


def in_grid(row: dict[str, Any]) -> dict[str, Any]:
    """The row of an own area with its corners in the grid of its surface; as it is, if it is newer or no area."""
    if "polygon" not in row or "grid" in row or not _is_polygon(row["polygon"]):
        return row
    surface, corners = row.get("surface"), np.array(row["polygon"], dtype=float)
    if surface == "face_middle":  # ran from pupil to pupil; the middle line is zone 0 now
        surface, corners = "face", np.stack([corners[:, 0], (corners[:, 1] - 0.5) * 0.42], axis=1)
    along, across = corners[:, 0], corners[:, 1]
    levels, grid = LEVELS.get(str(surface)), surface
    if levels and surface in TOES and along.min() > levels[-1]:
        toe = int(np.searchsorted(TOE_ENDS, across.mean()))
        first, last = (0.0, *TOE_ENDS)[toe], (*TOE_ENDS, 1.0)[toe]
        along = (along - levels[-1]) / (TOE_TIPS[toe] - levels[-1])
        grid, across = f"{TOES[str(surface)]}_{toe + 1}", (across - first) / (last - first)
    elif levels:
        along = np.interp(along, levels, np.linspace(0, 1, len(levels)))
    zones = ZONES.get(str(surface))
    if zones:
        across = np.sign(across) * np.interp(np.abs(across), zones, np.linspace(0, 1, len(zones)))
    polygon = np.clip(np.stack([along, across], axis=1), -1, 1.2).round(4).tolist()
    return {**row, "surface": surface, "grid": grid, "polygon": polygon}
