"""Charts: local coordinates of a surface (sole, foot edge, ear) on which areas are drawn, and the way back to 3D."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from shapely import Polygon, contains_xy

from acuthesis.core.atlas.model import Area, Surface
from acuthesis.core.body.figure import Vector, unit
from acuthesis.core.body.frames import direction, frame_of
from acuthesis.core.body.places import MIRROR, Places
from acuthesis.core.body.rays import cross
from acuthesis.core.errors import CoreError

STAND_OFF_CM = 9.0  # rays start this far outside the plane of the chart: beyond the widest part of the foot
DEPTH_CM = 3.5  # skin farther behind the chart's plane than this belongs to another part
REACH_CM = 9.0  # and skin farther to the side than this to another limb
BINS = 40
BIN_SHARES = np.linspace(0, 1, BINS)
SNAP_CM = 1.5  # how far beside the skin an outline may run, as between two toes
DEPTH_WEIGHT = 0.02  # of two places as near, the one in front
EDGE_STEP_CM = 0.35


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
    behind_cm: float

    def flat(self, uv: Vector) -> Vector:
        """(n, 2) chart coordinates to (n, 2) cm along u and v."""
        inner = np.interp(uv[:, 0], BIN_SHARES, self.inner_cm)
        outer = np.interp(uv[:, 0], BIN_SHARES, self.outer_cm)
        return np.stack([uv[:, 0] * self.length_cm, inner + uv[:, 1] * (outer - inner)], axis=1)

    def on_skin(self, uv: Vector) -> Vector:
        """(n, 2) chart coordinates to places (n, 3) on the skin, seen from outside. Raises: CoreError if one misses."""
        cm = self.flat(uv)
        starts = self.origin + cm[:, :1] * self.u + cm[:, 1:] * self.v - STAND_OFF_CM * self.look
        figure = self.places.figure
        places, triangles = figure.rays.meet(starts, np.broadcast_to(self.look, starts.shape))
        behind = np.nan_to_num((places - self.origin) @ self.look, nan=np.inf)
        misses = (triangles < 0) | (behind > self.behind_cm)
        if misses.any():
            # Between two toes or under the arch a ray goes past: there the outline follows the nearest skin.
            places[misses] = self._beside(cm[misses])
        return np.asarray(places)

    def _beside(self, cm: Vector) -> Vector:
        """The skin (n, 3) that is seen nearest to places (n, 2) of the plane that have none. Raises: CoreError."""
        skin, normals = self.places.figure.skin, self.places.figure.vertex_normals
        depth = (skin - self.origin) @ self.look
        seen = np.flatnonzero((depth > -STAND_OFF_CM) & (depth < self.behind_cm) & (normals @ self.look < 0))
        plane = np.stack([(skin[seen] - self.origin) @ self.u, (skin[seen] - self.origin) @ self.v], axis=1)
        apart = np.linalg.norm(cm[:, None] - plane, axis=2)
        if apart.min(axis=1).max() > SNAP_CM:
            raise CoreError("the outline leaves the surface", where="polygon")
        return np.asarray(skin[seen[(apart + DEPTH_WEIGHT * depth[seen]).argmin(axis=1)]])


def chart(surface: Surface, places: Places) -> Chart:
    """The chart of a surface on a figure's left (or its midline), laid once per figure."""
    key = ("chart", surface.id)
    if key not in places.memory:
        places.memory[key] = _laid(surface, places)
    kept = places.memory[key]
    assert isinstance(kept, Chart)
    return kept


def _laid(surface: Surface, places: Places) -> Chart:
    frame = frame_of(places.figure, surface.part, "left")
    look = direction(frame, surface.look)
    origin, far = (places.at(place, "left") for place in surface.along)
    u = far - origin
    if surface.straight is not None:
        u = frame[surface.straight] * (u @ frame[surface.straight])
    length = float(np.linalg.norm(u - look * (u @ look)))
    u = unit(u - look * (u @ look))
    low, high = (places.at(place, "left") - origin for place in surface.across)
    v = np.cross(look, u)
    if v @ (high - low) < 0:
        v = -v
    if surface.fit == "box":
        inner, outer = np.full(BINS, low @ v), np.full(BINS, high @ v)
    else:
        inner, outer = _outline(places.figure.skin - origin, u, v, look, length)
    return Chart(places, origin, u, v, look, length, inner, outer, surface.behind_cm)


def _outline(skin: Vector, u: Vector, v: Vector, look: Vector, length: float) -> tuple[Vector, Vector]:
    """The body's own outline at each share of the length: least and greatest v of the skin near the chart's plane."""
    along, across, depth = skin @ u, skin @ v, skin @ look
    near = (np.abs(across) < REACH_CM) & (depth > -1.5) & (depth < DEPTH_CM)
    inner, outer = np.empty(BINS), np.empty(BINS)
    for i, share in enumerate(BIN_SHARES):
        strip = across[near & (np.abs(along - np.clip(share, 0.02, 0.98) * length) < length / BINS)]
        if not len(strip):
            raise CoreError("the surface has a gap along its length", where="surface")
        inner[i], outer[i] = strip.min(), strip.max()
    return inner, outer


@dataclass(frozen=True)
class AreaOnBody:
    """An area on one figure: outline (n, 3), centre (3,) and outward normal (3,) on the skin."""

    outline: Vector
    centre: Vector
    normal: Vector

    @property
    def size_cm2(self) -> float:
        """Size on the skin, as a fan of triangles from the centre to the outline."""
        rays = self.outline - self.centre
        return float(np.linalg.norm(cross(rays, np.roll(rays, -1, axis=0)), axis=1).sum() / 2)

    def mirrored(self) -> "AreaOnBody":
        """The same area on the other side."""
        return AreaOnBody(self.outline * MIRROR, self.centre * MIRROR, self.normal * MIRROR)


@lru_cache
def _after(count: int) -> list[int]:
    """Of each corner of a polygon the next one."""
    return [*range(1, count), 0]


def _edges(area: Area, on: Chart) -> Vector:
    """The outline in chart coordinates (n, 2), each edge in steps short enough to follow the skin."""
    corners = np.array(area.polygon)
    following = corners[_after(len(corners))]
    flat = on.flat(corners)
    away = flat[_after(len(corners))] - flat
    lengths = np.sqrt((away * away).sum(axis=1))
    counts = np.maximum(np.ceil(lengths / EDGE_STEP_CM), 1).astype(int)
    gone = np.arange(counts.sum()) - np.repeat(counts.cumsum() - counts, counts)
    share = (gone / np.repeat(counts, counts))[:, None]
    return np.asarray(np.repeat(corners, counts, axis=0) * (1 - share) + np.repeat(following, counts, axis=0) * share)


@lru_cache(maxsize=1024)
def _inside(polygon: tuple[tuple[float, float], ...]) -> tuple[float, float]:
    """A place well inside a polygon: its centroid where that lies inside, as it does for all but horseshoes."""
    shape = Polygon(polygon)
    middle = shape.centroid if shape.contains(shape.centroid) else shape.representative_point()
    return middle.x, middle.y


def areas_on_body(areas: Sequence[Area], surface: Surface, places: Places) -> list[AreaOnBody]:
    """Draw areas of one surface onto a figure, all at once, on the left or the midline.

    Raises: CoreError, naming the area, if an outline leaves the surface.
    """
    on = chart(surface, places)
    wanted = [np.vstack([_edges(area, on), [_inside(area.polygon)]]) for area in areas]
    ends = np.cumsum([len(one) for one in wanted])
    try:
        found = np.split(on.on_skin(np.concatenate(wanted)), ends[:-1])
    except CoreError:  # say which one it was
        found = [_on_skin(area, on, one) for area, one in zip(areas, wanted, strict=True)]
    normals = places.figure.normals_at(np.array([one[-1] for one in found]))
    return [AreaOnBody(one[:-1], one[-1], normal) for one, normal in zip(found, normals, strict=True)]


def _on_skin(area: Area, on: Chart, uv: Vector) -> Vector:
    try:
        return on.on_skin(uv)
    except CoreError as error:
        raise CoreError(f"{area.id}: {error.message}", where=area.id) from error


def covered(area: Area, surface: Surface, places: Places, drawn: AreaOnBody) -> list[int]:
    """Triangles of the skin that an area on the left covers: those whose middle lies inside it."""
    on = chart(surface, places)
    figure = places.figure
    near = np.flatnonzero(
        (np.abs(figure.triangle_middles - drawn.centre) < np.ptp(drawn.outline, axis=0) + 1.0).all(axis=1)
    )
    middle = figure.triangle_middles[near] - on.origin
    corners = figure.skin[figure.asset.triangles[near]]
    normals = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    inside = contains_xy(Polygon(on.flat(_edges(area, on))), middle @ on.u, middle @ on.v)
    depth, at = (drawn.outline - on.origin) @ on.look, middle @ on.look
    seen = inside & (normals @ on.look < 0) & (at > depth.min() - 1.0) & (at < depth.max() + 1.0)
    return [int(i) for i in near[seen]]
