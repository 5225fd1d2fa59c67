"""Draws an area: as a polygon on its surface laid flat, then as marks on the mesh that every figure carries."""

from dataclasses import dataclass
from functools import lru_cache
from typing import TypeVar

import numpy as np
import shapely
from numpy.typing import NDArray

from acuthesis.core.atlas.areas.grid import GridSurface, Node, corner, ground
from acuthesis.core.atlas.entries.model import Area
from acuthesis.core.body.asset import BodyAsset
from acuthesis.core.body.figure import Vector
from acuthesis.core.body.flat import Flat, Marked
from acuthesis.core.body.rays import cross
from acuthesis.core.errors import CoreError
from acuthesis.core.message import message

T = TypeVar("T")
OUTLINE_CM = 0.2  # at most so far apart lie the places of an outline
DISC_CORNERS = 8  # of a quarter of a round place
LEAST_SHARE = 0.4  # of an area at least so much has to lie on its surface
LEAST_CM2 = 0.01
LEAST_OF_TRIANGLE = 1e-6
WELL_INSIDE = 0.6  # of the radius of the widest circle within


@dataclass(frozen=True, eq=False)
class Drawing:
    """An area on the mesh, the same for everybody: `shape` in the plane, its `outline` and `middle` marked.

    `fill`: its skin as triangles, three places each (3 n), that end exactly at the outline. `covers`: the triangles of
    the skin (m,) that it covers, and the share (m,) of each that lies within.
    """

    shape: shapely.Polygon
    outline: Marked
    middle: Marked
    fill: Marked
    covers: tuple[NDArray[np.int64], Vector]


def _filled(found: NDArray[np.int64], parts: NDArray[np.object_], flat: Flat) -> Marked:
    pieces = [_triangles(part) for part in parts]
    rows = np.repeat(found, [3 * len(each) for each in pieces])
    return flat.mark_in(
        rows, np.array([corner for each in pieces for triangle in each for corner in triangle]).reshape(-1, 2)
    )


def _triangles(part: shapely.Geometry) -> list[Vector]:
    """Triangles (3, 2) of a piece of a triangle; nothing of lines and points."""
    return [
        shapely.get_coordinates(piece)[:3]
        for polygon in shapely.get_parts(part)
        if polygon.geom_type == "Polygon" and polygon.area > 1e-9
        for piece in shapely.get_parts(shapely.constrained_delaunay_triangles(polygon))
    ]


@lru_cache(maxsize=1024)
def draw(asset: BodyAsset, area: Area) -> Drawing:
    """Draw an area on its surface. Raises: CoreError (or UnknownId), naming the area, if it leaves the surface."""
    try:
        on = ground(asset, area.surface)
        shape = _on_ground(_shape(area, on), on)
        outline = shapely.get_coordinates(shapely.segmentize(shape.exterior, OUTLINE_CM))[:-1]
        found, pieces = on.flat.pieces(shape)
        shares = shapely.area(pieces) / shapely.area(on.flat.shapes[found])
        kept = shares > LEAST_OF_TRIANGLE
        return Drawing(
            shape=shape,
            outline=on.flat.mark(outline),
            middle=on.flat.mark(_middle(shape)),
            fill=_filled(found, pieces, on.flat),
            covers=(on.flat.triangles[found[kept]], shares[kept]),
        )
    except CoreError as error:
        raise CoreError(message("error-of", id=area.id, said=error.message), where=area.id) from error


def _shape(area: Area, on: GridSurface) -> shapely.Polygon:
    """The shape as its entry says it, in the plane."""
    if area.at:
        return _disc(area, on)
    if area.line:
        return _strip(area, on)
    if area.around:
        nodes = [on.node(str(text)) for text in area.around]
        return shapely.Polygon(np.concatenate([on.path(*pair) for pair in _pairs(nodes)]))
    grid = on.grid(area.grid or area.surface)
    corners = np.array(area.polygon) * [grid.levels, grid.zones]
    corners = np.where(np.abs(corners - corners.round()) < 1e-9, corners.round(), corners)
    shape = shapely.Polygon(np.concatenate([grid.path(*pair) for pair in _pairs(list(corners))]))
    rounded = min(grid.grid.rounded, 0.4 * shapely.maximum_inscribed_circle(shape).length) if shape.is_valid else 0
    if rounded:
        soft = shape.buffer(-rounded).buffer(rounded)
        shape = soft if soft.geom_type == "Polygon" and not soft.is_empty else shape
    return shape


def _middle(shape: shapely.Polygon) -> Vector:
    """Where an area is pressed and named (1, 2): its centroid, or where it is widest if that lies at its edge."""
    circle = shapely.maximum_inscribed_circle(shape, tolerance=0.01)
    inside = shape.contains(shape.centroid) and shape.exterior.distance(shape.centroid) > WELL_INSIDE * circle.length
    return np.asarray(shapely.get_coordinates(shape.centroid if inside else circle)[:1])


def _pairs(ring: list[T]) -> list[tuple[T, T]]:
    return list(zip(ring, [*ring[1:], ring[0]], strict=True))


def _disc(area: Area, on: GridSurface) -> shapely.Polygon:
    """A round place whose width is true on the skin, not in the plane, which is drawn smaller where the skin folds."""
    middle: Node = on.node(area.at)
    place = shapely.Point(middle.place)
    return place.buffer(area.across_cm / 2 * _scale(place, on), quad_segs=DISC_CORNERS)


def _strip(area: Area, on: GridSurface) -> shapely.Polygon:
    """A strip from one place to another, straight in the plane, as wide on the skin as it says at its middle."""
    assert area.line is not None
    line = shapely.LineString(np.array([corner(place, on) for place in area.line]))
    return line.buffer(area.across_cm / 2 * _scale(line.centroid, on), cap_style="flat")


def _scale(place: shapely.Point, on: GridSurface) -> float:
    """How much smaller the plane is than the skin around a place of it."""
    flat = on.flat
    nearest = int(flat.tree.query_nearest(place, all_matches=False)[0])
    corners = flat.body.figure.skin[flat.triangle_corners[nearest]]
    on_skin = np.linalg.norm(cross((corners[1] - corners[0])[None], (corners[2] - corners[0])[None])) / 2
    return float(np.sqrt(flat.shapes[nearest].area / on_skin))


def _on_ground(shape: shapely.Polygon, on: GridSurface) -> shapely.Polygon:
    """What of a shape lies on its surface. Raises: CoreError if that is too little, or nothing."""
    if not shape.is_valid:
        shape = max(shapely.get_parts(shapely.make_valid(shape)), key=lambda part: part.area)
    kept = on.flat.clipped(shape)
    if kept is shape:
        return shape
    parts = [part for part in shapely.get_parts(kept) if part.geom_type == "Polygon"]
    if not parts or kept.area < max(LEAST_SHARE * shape.area, LEAST_CM2):
        raise CoreError(message("chart-outline-leaves-surface"), where="polygon")
    largest = max(parts, key=lambda part: part.area)
    return shapely.Polygon(largest.exterior)
