"""Shipped and own areas on one figure: outline, middle, normal, size and fill on its skin."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from acuthesis.core.atlas.areas.baked import drawing
from acuthesis.core.atlas.areas.chart import Drawing
from acuthesis.core.atlas.entries.model import Area
from acuthesis.core.body.figure import Vector
from acuthesis.core.body.places import MIRROR, Places
from acuthesis.core.body.rays import cross


@dataclass(frozen=True)
class AreaOnBody:
    """An area on one figure: outline (n, 3), middle (3,) and outward normal (3,) on the skin, and its size."""

    outline: Vector
    centre: Vector
    normal: Vector
    size_cm2: float

    def mirrored(self) -> "AreaOnBody":
        """The same area on the other side."""
        return AreaOnBody(self.outline * MIRROR, self.centre * MIRROR, self.normal * MIRROR, self.size_cm2)


def areas_on_body(areas: Sequence[Area], places: Places) -> list[AreaOnBody]:
    """Areas on a figure's left side, or the midline. Raises: CoreError, naming the area, if one cannot be drawn."""
    figure = places.figure
    drawn = [drawing(figure.asset, area) for area in areas]
    middles = np.concatenate([one.middle.on(figure.skin) for one in drawn])
    outlines = [one.outline.on(figure.skin) for one in drawn]
    return [
        AreaOnBody(outline, middle, normal, _size(one, places))
        for one, outline, middle, normal in zip(drawn, outlines, middles, figure.normals_at(middles), strict=True)
    ]


def _size(one: Drawing, places: Places) -> float:
    """Size on this person's skin, cm²."""
    triangles, shares = one.covers
    corners = places.figure.skin[places.figure.asset.triangles[triangles]]
    doubled = np.linalg.norm(cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    return float(doubled @ shares / 2)


def filled(area: Area, places: Places) -> Vector:
    """Its skin on a figure's left side as triangles (n, 3, 3), which end exactly at the outline."""
    return drawing(places.figure.asset, area).fill.on(places.figure.skin).reshape(-1, 3, 3)
