"""Charts: local coordinates of a surface (sole, foot edge, ear) on which areas are drawn, and the way back to 3D."""

from dataclasses import dataclass

import numpy as np
from shapely import Polygon, contains_xy

from acuthesis.core.atlas.model import Area, Surface
from acuthesis.core.body.figure import Side, Vector, unit
from acuthesis.core.body.frames import direction, frame_of
from acuthesis.core.body.places import Places
from acuthesis.core.errors import CoreError

STAND_OFF_CM = 9.0  # rays start this far outside the plane of the chart: beyond the widest part of the foot
DEPTH_CM = 3.5  # skin farther behind the chart's plane than this belongs to another part
REACH_CM = 9.0  # and skin farther to the side than this to another limb
BINS = 40
SNAP_CM = 4.0
BEHIND_CM = 2.2  # a hit farther than this behind the chart's plane is on another part
EDGE_STEPS = 12


@dataclass(frozen=True)
class Chart:
    """A surface of one figure. `origin` (3,), unit axes `u`, `v` and the viewing direction `look`; `length_cm` along u.

    `inner_cm` and `outer_cm` (BINS,) are where v = 0 and v = 1 lie at each share of the length.
    """

    places: Places
    origin: Vector
    u: Vector
    v: Vector
    look: Vector
    length_cm: float
    inner_cm: Vector
    outer_cm: Vector

    def flat(self, uv: Vector) -> Vector:
        """(n, 2) chart coordinates to (n, 2) cm along u and v."""
        at = np.linspace(0, 1, BINS)
        inner, outer = np.interp(uv[:, 0], at, self.inner_cm), np.interp(uv[:, 0], at, self.outer_cm)
        return np.stack([uv[:, 0] * self.length_cm, inner + uv[:, 1] * (outer - inner)], axis=1)

    def on_skin(self, uv: Vector) -> Vector:
        """(n, 2) chart coordinates to places (n, 3) on the skin, seen from outside. Raises: CoreError if one misses."""
        cm = self.flat(uv)
        starts = self.origin + cm[:, :1] * self.u + cm[:, 1:] * self.v - STAND_OFF_CM * self.look
        figure = self.places.figure
        places, triangles = figure.rays.meet(starts, np.broadcast_to(self.look, starts.shape))
        behind = np.nan_to_num((places - self.origin) @ self.look, nan=np.inf)
        for miss in np.flatnonzero((triangles < 0) | (behind > BEHIND_CM)):
            # Between two toes or under the arch a ray goes past: there the outline follows the nearest skin.
            flat = starts[miss] + STAND_OFF_CM * self.look
            places[miss], _ = figure.nearest_on_skin(flat)
            if np.linalg.norm(places[miss] - flat) > SNAP_CM:
                raise CoreError("the outline leaves the surface", where="polygon")
        return np.asarray(places)


def chart(surface: Surface, places: Places, side: Side) -> Chart:
    """Lay the chart of a surface onto a figure."""
    frame = frame_of(places.figure, surface.part, side)
    look = direction(frame, surface.look)
    origin, far = (places.at(place, side) for place in surface.along)
    u = far - origin
    if surface.straight is not None:
        u = frame[surface.straight] * (u @ frame[surface.straight])
    length = float(np.linalg.norm(u - look * (u @ look)))
    u = unit(u - look * (u @ look))
    low, high = (places.at(place, side) - origin for place in surface.across)
    v = np.cross(look, u)
    if v @ (high - low) < 0:
        v = -v
    if surface.fit == "box":
        inner, outer = np.full(BINS, low @ v), np.full(BINS, high @ v)
    else:
        inner, outer = _outline(places.figure.skin - origin, u, v, look, length)
    return Chart(places, origin, u, v, look, length, inner, outer)


def _outline(skin: Vector, u: Vector, v: Vector, look: Vector, length: float) -> tuple[Vector, Vector]:
    """The body's own outline at each share of the length: least and greatest v of the skin near the chart's plane."""
    along, across, depth = skin @ u, skin @ v, skin @ look
    near = (np.abs(across) < REACH_CM) & (depth > -1.5) & (depth < DEPTH_CM)
    inner, outer = np.empty(BINS), np.empty(BINS)
    for i, share in enumerate(np.linspace(0, 1, BINS)):
        strip = across[near & (np.abs(along - np.clip(share, 0.02, 0.98) * length) < length / BINS)]
        if not len(strip):
            raise CoreError("the surface has a gap along its length", where="surface")
        inner[i], outer[i] = strip.min(), strip.max()
    return inner, outer


@dataclass(frozen=True)
class AreaOnBody:
    """An area on one figure: outline (n, 3) and centre (3,) on the skin, covered skin triangles, size in cm²."""

    outline: Vector
    centre: Vector
    normal: Vector
    triangles: list[int]
    size_cm2: float


def area_on_body(area: Area, surface: Surface, places: Places, side: Side) -> AreaOnBody:
    """Draw an area onto a figure. Raises: CoreError if its outline leaves the surface."""
    on = chart(surface, places, side)
    corners = np.array(area.polygon)
    edges = np.concatenate(
        [
            start + np.linspace(0, 1, EDGE_STEPS, endpoint=False)[:, None] * (end - start)
            for start, end in zip(corners, np.roll(corners, -1, axis=0), strict=True)
        ]
    )
    outline = on.on_skin(edges)
    middle_uv = Polygon(corners).centroid
    centre = on.on_skin(np.array([[middle_uv.x, middle_uv.y]]))[0]

    figure = places.figure
    near = np.flatnonzero((np.abs(figure.triangle_middles - centre) < np.ptp(outline, axis=0) + 1.0).all(axis=1))
    middle = figure.triangle_middles[near] - on.origin
    corners_3d = figure.skin[figure.asset.triangles[near]]
    normals = np.cross(corners_3d[:, 1] - corners_3d[:, 0], corners_3d[:, 2] - corners_3d[:, 0])
    inside = contains_xy(Polygon(on.flat(edges)), middle @ on.u, middle @ on.v)
    depth, at = (outline - on.origin) @ on.look, middle @ on.look
    seen = inside & (normals @ on.look < 0) & (at > depth.min() - 1.0) & (at < depth.max() + 1.0)
    size = float(np.linalg.norm(normals[seen], axis=1).sum() / 2)
    _, normal = figure.nearest_on_skin(centre)
    return AreaOnBody(outline, centre, normal, [int(i) for i in near[seen]], size)
