"""Places every point and area on a figure at once, to draw them all and to tell what lies under a finger."""

from dataclasses import dataclass

import numpy as np

from acuthesis.core.atlas.areas.on_body import areas_on_body
from acuthesis.core.atlas.entries.catalogue import Entry, areas, entries, points
from acuthesis.core.atlas.entries.model import Area
from acuthesis.core.body.figure import Side, Vector
from acuthesis.core.body.fit import FittedBody
from acuthesis.core.body.places import MIRROR


@dataclass(frozen=True)
class Placed:
    """One entry on one side: position (3,) cm, outward normal (3,), and the outline (n, 3) of an area."""

    entry: Entry
    side: Side
    position: Vector
    normal: Vector
    outline: Vector | None = None

    def on(self, side: Side) -> "Placed":
        """The same on a side; figures are symmetric."""
        if side == self.side:
            return self
        outline = None if self.outline is None else self.outline * MIRROR
        return Placed(self.entry, side, self.position * MIRROR, self.normal * MIRROR, outline)


def place_all(body: FittedBody) -> list[Placed]:
    """Every point and area on all its sides, by its first rule. Raises: CoreError naming what cannot be placed."""
    found = points().values()
    positions = np.array([body.places.at(point.methods[0].place, "left") for point in found])
    normals = body.figure.normals_at(positions)
    left = {point.id: Placed(point, "left", *row) for point, *row in zip(found, positions, normals, strict=True)}
    kept = list(areas().values())
    for area, drawn in zip(kept, areas_on_body(kept, body.places), strict=True):
        left[area.id] = Placed(area, "left", drawn.centre, drawn.normal, drawn.outline)
    return [left[entry.id].on(side) for entry in entries() for side in entry.sides]


def place_one(entry: Entry, body: FittedBody) -> list[Placed]:
    """One point or area on all its sides. Raises: CoreError if it cannot be placed."""
    if isinstance(entry, Area):
        (drawn,) = areas_on_body([entry], body.places)
        left = Placed(entry, "left", drawn.centre, drawn.normal, drawn.outline)
    else:
        position = body.places.at(entry.methods[0].place, "left")
        left = Placed(entry, "left", position, body.figure.normals_at(position[None])[0])
    return [left.on(side) for side in entry.sides]
