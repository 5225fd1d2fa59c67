"""Labels on a drawing of areas: inside the area where there is room, else in a column beside it with a leader line.

No name covers another, and none a small area that lies over its own.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely

from acuthesis.core.body.figure import Vector

LETTER_WIDTH = 0.55  # of a letter's height, on average
LINE = 1.22  # of a name in a column, in letters
GAP = 0.9  # between the areas and a column, in letters
OVER_EDGE = 0.02  # of a name may lie outside its area
TRIES = (0.0, 0.25, -0.25, 0.45, -0.45)  # of the area's height up or down from its middle

Anchor = Literal["start", "middle", "end"]


@dataclass(frozen=True)
class Name:
    """Where a name stands: `at` (x, y) the foot of its letters, and the two ends of a line to its area, if any."""

    at: tuple[float, float]
    anchor: Anchor
    leader: tuple[tuple[float, float], tuple[float, float]] | None


def width_of(text: str, letter: float) -> float:
    """About how wide a text is, in the unit of its letters' height.

    >>> round(width_of("Liver", 10.0), 1)
    27.5
    """
    return LETTER_WIDTH * letter * len(text)


def place_names(
    shapes: Sequence[Vector], middles: Vector, texts: Sequence[str], letter: float, extent: tuple[float, float]
) -> list[Name]:
    """A place for the name of every area.

    Parameters: shapes, the outlines (n, 2) each; middles (areas, 2); texts; letter, the height of the letters; extent,
    from where to where areas reach across. All in the unit of the drawing, y down. Returns: names, area by area.
    """
    areas = [shapely.make_valid(shapely.Polygon(shape)) for shape in shapes]
    tree = shapely.STRtree(areas)
    taken: list[shapely.Geometry] = []
    names: dict[int, Name] = {}
    # The small ones first: they lie over others, whose names give way.
    for index in sorted(range(len(areas)), key=lambda one: areas[one].area):
        found = _inside(areas, tree, index, middles[index], texts[index], letter, taken)
        if found is not None:
            box, names[index] = found
            taken.append(box)
    outside = [index for index in range(len(areas)) if index not in names]
    for left, members in zip((True, False), _columns(outside, middles, texts, shapes, letter), strict=True):
        names |= _column(members, middles, shapes, letter, extent, left=left)
    return [names[index] for index in range(len(areas))]


def _inside(
    areas: Sequence[shapely.Geometry],
    tree: shapely.STRtree,
    index: int,
    middle: Vector,
    text: str,
    letter: float,
    taken: Sequence[shapely.Geometry],
) -> tuple[shapely.Geometry, Name] | None:
    """A box and a name within an area, if there is room for it."""
    area, half = areas[index], width_of(text, letter) / 2
    _, low, _, high = area.bounds
    smaller = [areas[one] for one in tree.query(area) if one != index and areas[one].area < area.area]
    for share in TRIES:
        x, y = float(middle[0]), float(middle[1] + share * (high - low) / 2)
        box = shapely.box(x - half, y - letter / 2, x + half, y + letter / 2)
        if area.intersection(box).area < (1 - OVER_EDGE) * box.area:
            continue
        if any(box.intersects(other) for other in (*taken, *smaller)):
            continue
        return box, Name((x, y + letter * 0.34), "middle", None)
    return None


def _columns(
    outside: Sequence[int], middles: Vector, texts: Sequence[str], shapes: Sequence[Vector], letter: float
) -> tuple[list[int], list[int]]:
    """What stands in the column on the left and on the right: all on the right, if one column is narrower than two."""
    order = sorted(outside, key=lambda one: float(middles[one][0]))
    half = (len(order) + 1) // 2
    two = (order[:half], order[half:])
    heights = np.concatenate(list(shapes))[:, 1]
    if len(order) * LINE * letter > np.ptp(heights):
        return two
    longest = [max((len(texts[one]) for one in column), default=0) + 2 * GAP for column in (*two, order)]
    return two if longest[0] + longest[1] < longest[2] else ([], order)


def _column(
    members: Sequence[int],
    middles: Vector,
    shapes: Sequence[Vector],
    letter: float,
    extent: tuple[float, float],
    *,
    left: bool,
) -> dict[int, Name]:
    if not members:
        return {}
    everything = np.concatenate(list(shapes))
    low, high = everything[:, 1].min(), everything[:, 1].max()
    edge = extent[0] - GAP * letter if left else extent[1] + GAP * letter
    order = sorted(members, key=lambda one: float(middles[one][1]))
    heights = spread(np.array([middles[one][1] for one in order]), LINE * letter, float(low), float(high))
    begin = float(edge + (0.2 if left else -0.2) * letter)
    return {
        one: Name(
            (float(edge), float(height + letter * 0.34)),
            "end" if left else "start",
            ((begin, float(height)), (float(middles[one][0]), float(middles[one][1]))),
        )
        for one, height in zip(order, heights, strict=True)
    }


def spread(heights: Vector, line: float, low: float, high: float) -> Vector:
    """Heights in order, at least a line apart, as near to where they were as may be; centred where they are many.

    >>> spread(np.array([1.0, 1.0]), 2.0, 0.0, 10.0)
    array([0., 2.])
    """
    slots = np.arange(len(heights)) * line
    # Least movement under the order: the running mean of what each would ask of a column without gaps.
    wanted = heights - slots
    blocks: list[list[float]] = []
    for value in wanted:
        blocks.append([float(value), 1.0])
        while len(blocks) > 1 and blocks[-2][0] >= blocks[-1][0]:
            mean, count = blocks.pop()
            before, other = blocks.pop()
            blocks.append([(mean * count + before * other) / (count + other), count + other])
    placed = np.concatenate([np.full(int(count), mean) for mean, count in blocks])
    room = max(high - low - slots[-1], 0.0)
    start = low if room > 0 else (low + high - slots[-1]) / 2
    return np.asarray(np.clip(placed, start, start + room) + slots)
