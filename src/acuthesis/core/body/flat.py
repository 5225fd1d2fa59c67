"""Flattened surfaces: a piece of skin with plane coordinates, made once on the average figure and valid for everybody.

The base mesh has one topology. What is marked on it, a place as a share of the three corners of a triangle, is carried
by every figure, in every pose; so lines and areas are worked out in the plane once, and never again for a person.
Sources: least squares conformal maps by libigl for what folds (the ear); otherwise plain projection.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Literal

import igl
import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from acuthesis.core.body.asset import BodyAsset
from acuthesis.core.body.construct import Directions
from acuthesis.core.body.figure import Figure, Vector, unit
from acuthesis.core.body.fit import FittedBody, fit
from acuthesis.core.body.frames import direction, frame_of
from acuthesis.core.body.person import BodyFacts
from acuthesis.core.errors import CoreError
from acuthesis.core.message import message

Triangles = NDArray[np.int64]
FACING = 0.12  # skin that is seen more aslant than this belongs to the next surface
OUTSIDE_CM = 30.0
SAME_CM = 0.25  # skin this close behind what a ray meets first still counts as seen
SEAM_CM = 0.02  # triangles beside one another are one piece in spite of rounding
GRAIN_CM = 1e-5
ROLL_CM = 8.0  # radius of the drum on which a head is unrolled: about a head's own


class Laid(BaseModel):
    """How a surface is laid flat.

    `seen`: projected along `look`, or unrolled from a drum around the upright axis of the head. `unfold`: cut out along
    a closed chain of vertices of the base mesh, `within` it, and spread without bending angles, with `pins` (two
    vertices) upright. `moves` and `least` name the skin that belongs to it: what follows that turn at least so far.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    look: Directions | Literal["drum"] | None = None
    moves: str | None = None
    least: float = 0.5
    unfold: tuple[int, ...] = ()
    within: int = 0
    pins: tuple[int, int] = (0, 0)


@dataclass(frozen=True)
class Marked:
    """Places (n) marked on the mesh: `corners` (n, 3) vertices of the skin, and their `weights` (n, 3)."""

    corners: NDArray[np.int64]
    weights: Vector

    def on(self, skin: Vector) -> Vector:
        """Where they lie (n, 3) on a figure with this skin (f, 3)."""
        return np.asarray((skin[self.corners] * self.weights[:, :, None]).sum(axis=1))


@dataclass(frozen=True, eq=False)
class Flat:
    """A surface laid flat: `triangles` (m,) of the skin, the plane coordinates `corners` (m, 3, 2) of theirs, cm.

    x and y are as somebody sees it who looks at the surface: for a drum x is the way around it from the middle.
    """

    body: FittedBody
    laid: Laid
    part: str
    triangles: Triangles
    corners: Vector

    @cached_property
    def shapes(self) -> NDArray[np.object_]:
        """The triangles as shapes of the plane (m,)."""
        return np.asarray(shapely.polygons(self.corners))

    @cached_property
    def tree(self) -> shapely.STRtree:
        """An index of them."""
        return shapely.STRtree(self.shapes)

    def pieces(self, shape: shapely.Polygon) -> tuple[NDArray[np.int64], NDArray[np.object_]]:
        """The triangles (rows) that a polygon touches, and what of each lies within it."""
        shapely.prepare(shape)
        rows = self.tree.query(shape, predicate="intersects")
        found = self.shapes[rows]
        cut = ~shapely.covers(shape, found)
        found[cut] = shapely.intersection(found[cut], shape)
        return rows, found

    def clipped(self, shape: shapely.Polygon) -> shapely.Geometry:
        """What of a polygon lies on the surface: itself, if all of it does."""
        _, pieces = self.pieces(shape)
        if abs(shapely.area(pieces).sum() - shape.area) < GRAIN_CM * shape.area:
            return shape
        joined = shapely.union_all(pieces)
        return shapely.buffer(joined, SEAM_CM, join_style="mitre").buffer(-SEAM_CM, join_style="mitre")

    def stretches(self, start: Vector, end: Vector) -> list[tuple[float, float]]:
        """Where a straight way (2,) to (2,) runs on the surface: from and to, in cm from its start, in order."""
        line, way = shapely.LineString([start, end]), unit(end - start)
        pieces = shapely.intersection(self.shapes[self.tree.query(line, predicate="intersects")], line)
        reach = [(shapely.get_coordinates(piece) - start) @ way for piece in pieces]
        found: list[tuple[float, float]] = []
        for low, high in sorted((float(one.min()), float(one.max())) for one in reach if len(one)):
            if found and low - found[-1][1] < SEAM_CM:
                found[-1] = (found[-1][0], max(found[-1][1], high))
            else:
                found.append((low, high))
        return found

    @cached_property
    def triangle_corners(self) -> Triangles:
        """Of each triangle (m, 3) the vertices of the skin."""
        return np.asarray(self.body.figure.asset.triangles[self.triangles])

    def mark(self, plane: Vector) -> Marked:
        """Places (n, 2) of the plane as places of the mesh; what lies beside the surface comes to its edge."""
        points = shapely.points(plane)
        (asked, found) = self.tree.query_nearest(points, all_matches=False)
        order = np.argsort(asked)
        found = found[order]
        nearest = shapely.get_point(shapely.shortest_line(self.shapes[found], points), 0)
        return self.mark_in(found, shapely.get_coordinates(nearest))

    def mark_in(self, rows: NDArray[np.int64], plane: Vector) -> Marked:
        """Places (n, 2) of the plane, each in the triangle of that row (n,), as places of the mesh."""
        return Marked(self.triangle_corners[rows], _shares(plane, self.corners[rows]))

    def flat(self, places: Vector) -> Vector:
        """Plane coordinates (n, 2) of places (n, 3) on the average figure."""
        if self.laid.look == "drum":
            return _unrolled(places, self.body.figure)
        if self.laid.look is not None:
            _, right, up = self.axes
            return np.stack([places @ right, places @ up], axis=1)
        skin = self.body.figure.skin
        rows = []
        for place in places:
            nearest = int(np.linalg.norm(skin[self.triangle_corners].mean(axis=1) - place, axis=1).argmin())
            share = np.clip(_shares_in_space(place, skin[self.triangle_corners[nearest]]), 0, 1)
            rows.append(share / share.sum() @ self.corners[nearest])
        return np.array(rows)

    @cached_property
    def axes(self) -> tuple[Vector, Vector, Vector]:
        """Of a projection: the direction of looking, and right and up as one sees them."""
        assert isinstance(self.laid.look, dict)
        return _axes(direction(frame_of(self.body.figure, self.part, "left"), self.laid.look))

    def vertex(self, number: int) -> Vector:
        """Plane coordinates (2,) of a vertex of the base mesh. Raises: CoreError if it lies elsewhere."""
        control = _control(self.body.figure.asset)
        at = np.argwhere(self.triangle_corners == control.get(number, -1))
        if not len(at):
            raise CoreError(message("flat-vertex-does-not-lie-on", number=number), where=str(number))
        return np.asarray(self.corners[at[0, 0], at[0, 1]])


@lru_cache(maxsize=1)
def average(asset: BodyAsset) -> FittedBody:
    """The figure that everything is marked on: the average adult."""
    return fit(asset, BodyFacts())


def lay(asset: BodyAsset, laid: Laid, part: str) -> Flat:
    """Lay a surface of the left side (or the middle) flat. Raises: CoreError if there is nothing to lay."""
    body = average(asset)
    if laid.unfold:
        triangles, corners = _unfolded(body.figure, laid)
    else:
        triangles, corners = _seen(body.figure, laid, part)
    if not len(triangles):
        raise CoreError(message("flat-there-no-skin-lay-flat"), where=part)
    return Flat(body, laid, part, triangles, corners)


def _axes(look: Vector) -> tuple[Vector, Vector, Vector]:
    up = np.array([0.0, 0.0, 1.0]) if abs(look[1]) > 0.8 else np.array([0.0, 1.0, 0.0])
    up = unit(up - look * (up @ look))
    return look, np.cross(look, up), up


def _unrolled(places: Vector, figure: Figure) -> Vector:
    centre = figure.joint("head", "left")
    around = np.arctan2(places[:, 0], places[:, 2] - centre[2])
    return np.stack([ROLL_CM * around, places[:, 1]], axis=1)


def _seen(figure: Figure, laid: Laid, part: str) -> tuple[Triangles, Vector]:
    """The triangles (m,) of a part that are seen from outside, with nothing before them, and their corners' places."""
    asset, skin = figure.asset, figure.skin
    mine = np.ones(len(asset.triangles), dtype=bool)
    if laid.moves is not None:
        follow = asset.subdivision @ asset.follow[asset.turn_names.index(laid.moves)].astype(float)
        mine = (follow[asset.triangles] >= laid.least).all(axis=1)
    middles = figure.triangle_middles
    corners = skin[asset.triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1), 1e-12)[:, None]
    if laid.look == "drum":
        outward = (middles - figure.joint("head", "left")) * [1, 0, 1]
        look = -outward / np.linalg.norm(outward, axis=1)[:, None]
        flat = _unrolled(skin, figure)[asset.triangles]
        mine &= np.ptp(flat[:, :, 0], axis=1) < ROLL_CM  # not across the seam at the back
    else:
        assert isinstance(laid.look, dict)
        one, right, up = _axes(direction(frame_of(figure, part, "left"), laid.look))
        look = np.broadcast_to(one, middles.shape)
        flat = np.stack([skin @ right, skin @ up], axis=1)[asset.triangles]
    facing = mine & ((normals * -look).sum(axis=1) > FACING)
    asked = np.flatnonzero(facing)
    met, hit = figure.rays.meet(middles[asked] - OUTSIDE_CM * look[asked], look[asked])
    before = ((middles[asked] - met) * look[asked]).sum(axis=1)
    # Another limb may hang before it (a hand before the hip): what counts is only skin of the same part.
    hidden = (hit >= 0) & mine[np.maximum(hit, 0)] & (before > SAME_CM)
    kept = asked[~hidden]
    return kept, flat[kept]


def _unfolded(figure: Figure, laid: Laid) -> tuple[Triangles, Vector]:
    """The triangles within a closed chain of the mesh, spread by a least squares conformal map."""
    asset = figure.asset
    control = _control(asset)
    triangles = _within(asset, [control[number] for number in laid.unfold], control[laid.within])
    used, corners = np.unique(asset.triangles[triangles], return_inverse=True)
    corners = corners.reshape(-1, 3)
    low, high = (int(np.searchsorted(used, control[pin])) for pin in laid.pins)
    skin = figure.skin[used]
    length = float(np.linalg.norm(skin[high] - skin[low]))
    pins = np.array([[0.0, 0.0], [0.0, length]])
    spread = igl.lscm(skin, corners.astype(np.int64), np.array([low, high], dtype=np.int64), pins)
    flat = np.asarray(spread[0] if isinstance(spread, tuple) else spread)
    return triangles, flat[corners]


@lru_cache(maxsize=2)
def _control(asset: BodyAsset) -> dict[int, int]:
    """Row of a control vertex by its number in the published base mesh."""
    return {int(number): row for row, number in enumerate(asset.vertex_ids)}


def _within(asset: BodyAsset, chain: Sequence[int], inside: int) -> Triangles:
    """Triangles (m,) of the skin that a closed chain of control vertices encloses, on the side of `inside`.

    Raises: CoreError naming two vertices of the chain that no edge joins.
    """
    middle = _middle_of_edge(asset)
    fence = []
    for a, b in zip(chain, [*chain[1:], chain[0]], strict=True):
        pair = (min(a, b), max(a, b))
        if pair not in middle:
            names = " and ".join(str(asset.vertex_ids[one]) for one in (a, b))
            raise CoreError(message("flat-no-edge-joins-vertices", names=names), where="unfold")
        fence += [(a, middle[pair]), (b, middle[pair])]  # a middle's number is the higher one
    count = len(asset.triangles)
    ends = np.concatenate([asset.triangles[:, pair] for pair in ([0, 1], [1, 2], [2, 0])])
    edges = np.sort(ends, axis=1) @ [1 << 32, 1]
    fenced = np.isin(edges, np.array(fence) @ [1 << 32, 1])
    order = np.argsort(edges, kind="stable")
    twins = np.flatnonzero((np.diff(edges[order]) == 0) & ~fenced[order][:-1])
    one, other = order[twins] % count, order[twins + 1] % count
    beside = coo_array((np.ones(len(one)), (one, other)), shape=(count, count))
    _, piece = connected_components(beside, directed=False)
    found = np.flatnonzero(piece == piece[np.flatnonzero((asset.triangles == inside).any(axis=1))[0]])
    if len(found) > count // 4:
        raise CoreError(message("flat-chain-does-not-close-around"), where="unfold")
    return np.asarray(found)


def _middle_of_edge(asset: BodyAsset) -> dict[tuple[int, int], int]:
    """The skin's vertex on the middle of each edge between control vertices; subdivision's four blocks tell it."""
    quarter = len(asset.triangles) // 4
    ends = [asset.triangles[i * quarter : (i + 1) * quarter, 0] for i in range(3)]
    middles = [asset.triangles[i * quarter : (i + 1) * quarter, 1] for i in range(3)]
    table: dict[tuple[int, int], int] = {}
    for first, second, middle in zip(ends, [*ends[1:], ends[0]], middles, strict=True):
        low, high = np.minimum(first, second).tolist(), np.maximum(first, second).tolist()
        table.update(zip(zip(low, high, strict=True), middle.tolist(), strict=True))
    return table


def _shares(plane: Vector, corners: Vector) -> Vector:
    """Barycentric shares (n, 3) of places (n, 2) in triangles (n, 3, 2)."""
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    first, second, at = b - a, c - a, plane - a
    area = first[:, 0] * second[:, 1] - first[:, 1] * second[:, 0]
    area = np.where(np.abs(area) < 1e-12, 1e-12, area)
    v = (at[:, 0] * second[:, 1] - at[:, 1] * second[:, 0]) / area
    w = (first[:, 0] * at[:, 1] - first[:, 1] * at[:, 0]) / area
    return np.clip(np.stack([1 - v - w, v, w], axis=1), 0, 1)


def _shares_in_space(place: Vector, corners: Vector) -> Vector:
    edges = np.stack([corners[1] - corners[0], corners[2] - corners[0]], axis=1)
    v, w = np.linalg.lstsq(edges, place - corners[0], rcond=None)[0]
    return np.array([1 - v - w, v, w])
