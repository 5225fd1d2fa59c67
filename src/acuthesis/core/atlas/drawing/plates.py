"""Plates of many points: a set, a channel or a region of one person, as few flat drawings as show them all."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from acuthesis.core.atlas.drawing.naming import spread
from acuthesis.core.atlas.drawing.plate import FRAMES, ROUND_PARTS, look_at, text
from acuthesis.core.atlas.entries.catalogue import part_of
from acuthesis.core.atlas.locating.placed import Placed
from acuthesis.core.body.drawing import INK, View, body_paths, document
from acuthesis.core.body.figure import unit
from acuthesis.core.body.fit import FittedBody
from acuthesis.core.body.places import MIRROR

FACINGS = {
    "front": np.array([0, 0, 1.0]),
    "back": np.array([0, 0, -1.0]),
    "outer": np.array([1.0, 0, 0]),
    "inner": np.array([-1.0, 0, 0]),
    "top": np.array([0, 1.0, 0]),
    "sole": np.array([0, -1.0, 0]),
}
PARTS = {
    "head": "Head",
    "trunk": "Trunk",
    "upper_arm": "Upper arm",
    "forearm": "Forearm",
    "hand": "Hand",
    "thigh": "Thigh",
    "lower_leg": "Lower leg",
    "foot": "Foot",
    "ear": "Ear",
}
LEAST_WIDTH_CM = {"ear": 8.0, "hand": 20.0, "foot": 24.0, "head": 26.0}
ROOM = 1.55  # names stand beside the body, so the picture is wider than the points are apart
ROWS = 23  # lines of names that fit at the edge of a picture
NAMES = 1 / 30  # of the width: the size of a name, 8 points where two pictures share the width of a page


@dataclass(frozen=True)
class Plate:
    """One drawing: its title, the points on it, and the SVG."""

    title: str
    ids: tuple[str, ...]
    svg: str


@dataclass(frozen=True)
class Page:
    """What one drawing will show, before it is drawn: a part of the body, seen from a side, with what lies there."""

    part: str
    facing: str
    side: str
    ones: tuple[Placed, ...]


def pages(placed: Sequence[Placed], facing: str | None = None) -> list[Page]:
    """How these are shared out over drawings: by body part and by the side of it that they lie on.

    `facing` (a key of FACINGS) looks at every part from there instead.
    """
    groups: dict[tuple[str, str, str], list[Placed]] = defaultdict(list)
    for one in placed:
        groups[_part(one), facing or _facing(one), one.side].append(one)
    return [
        Page(part, seen_from, side, tuple(ones[start : start + 2 * ROWS]))
        for (part, seen_from, side), ones in groups.items()
        for start in range(0, len(ones), 2 * ROWS)
    ]


def plates(placed: Sequence[Placed], body: FittedBody, facing: str | None = None) -> list[Plate]:
    """Drawings that show all of these; what lies on the far side of a chosen `facing` is drawn as an open ring."""
    return [drawn(page, body, chosen=facing is not None) for page in pages(placed, facing)]


def _part(one: Placed) -> str:
    return "ear" if one.entry.id.startswith("ear") else part_of(one.entry)


def _facing(one: Placed) -> str:
    """Which way the skin faces there, on the side where it lies; limbs and trunk are looked at level."""
    normal = one.normal if one.side == "left" else one.normal * MIRROR
    level = _part(one) not in ROUND_PARTS
    names = [name for name in FACINGS if not (level and name in ("top", "sole"))]
    return max(names, key=lambda name: float(normal @ FACINGS[name]))


def drawn(page: Page, body: FittedBody, *, chosen: bool) -> Plate:
    """The drawing of a page; `chosen` where its side was asked for and is not the one that the points face."""
    part, facing, side, ones = page.part, page.facing, page.side, page.ones
    places = np.array([one.position for one in ones])
    normal = unit(np.mean([one.normal for one in ones], axis=0))
    if chosen:
        normal = FACINGS[facing] if side == "left" else FACINGS[facing] * MIRROR
    centre = (places.min(axis=0) + places.max(axis=0)) / 2
    look = look_at(normal, part)
    flat = View(centre, look, 100.0)
    extent = np.ptp(np.stack([(places - centre) @ flat.right, (places - centre) @ flat.up], axis=1), axis=0).max()
    _, stand_off, depth = FRAMES[part]
    view = View(centre, look, max(float(extent) * ROOM, LEAST_WIDTH_CM.get(part, 30.0)), stand_off, depth)
    sided = "" if all(not one.entry.paired for one in ones) else f", {side}"
    title = f"{PARTS[part]}, {facing}{sided}"
    marks = "".join(_area(one, view) for one in ones if one.outline is not None) + _names(ones, view)
    svg = document(body_paths(body.figure, view), marks, view, title)
    return Plate(title, tuple(one.entry.id for one in ones), svg)


def _area(one: Placed, view: View) -> str:
    assert one.outline is not None
    points = " ".join(f"{x:.2f},{y:.2f}" for x, y in view.flat(one.outline))
    line = view.width_cm / 300
    return f'<polygon points="{points}" fill="{INK}" fill-opacity="0.1" stroke="{INK}" stroke-width="{line:.3f}"/>'


def _names(ones: Sequence[Placed], view: View) -> str:
    """A dot for each, and its name at the nearer edge with a line to it, in the order of height."""
    width = view.width_cm
    size = width * NAMES
    flat = view.flat(np.array([one.position for one in ones]))
    order = np.argsort(flat[:, 0])
    left = set(order[: (len(ones) + 1) // 2].tolist())
    drawn = []
    for at_left in (True, False):
        column = sorted((i for i in range(len(ones)) if (i in left) == at_left), key=lambda i: flat[i, 1])
        if not column:
            continue
        heights = spread(flat[column, 1], size * 1.25, size * 1.25, width - size)
        for i, height in zip(column, heights, strict=True):
            x, y = (float(value) for value in flat[i])
            edge = size * 0.6 if at_left else width - size * 0.6
            name = ones[i].entry.id if ones[i].entry.kind == "point" else ones[i].entry.names.english.split(" (")[0]
            letters = 0.58 * size * len(name)
            start = edge + letters if at_left else edge - letters
            drawn.append(
                f'<path d="M{start:.2f} {height - size / 3:.2f}L{x:.2f} {y:.2f}" stroke="{INK}" '
                f'stroke-width="{width / 700:.3f}" fill="none"/>'
                + _dot(x, y, width, hidden=float(ones[i].normal @ view.look) > 0)
                + text(edge, float(height), name, size, "start" if at_left else "end")
            )
    return "".join(drawn)


def _dot(x: float, y: float, width: float, *, hidden: bool) -> str:
    """A filled dot on the side that is seen, an open ring for a place on the far side."""
    fill = f'fill="none" stroke="{INK}" stroke-width="{width / 400:.3f}"' if hidden else f'fill="{INK}"'
    return f'<circle cx="{x:.2f}" cy="{y:.2f}" r="{width / 130:.2f}" {fill}/>'
