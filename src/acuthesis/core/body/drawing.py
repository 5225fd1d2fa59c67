"""Flat drawings of the fitted figure: ink contours and two light tones, as SVG, from the same mesh as the 3D view.

A grid of rays looks at the body; where neighbouring rays meet skin at different depths there is a contour. The result
holds in black and white, and prints at any size.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from html import escape

import numpy as np
import shapely
from contourpy import contour_generator
from numpy.typing import NDArray

from acuthesis.core.body.cloth import PIECES, cloth_depths
from acuthesis.core.body.figure import Figure, Vector, unit

PIXELS = 220
STEP_SHARE = 1 / 45  # a jump in depth of this share of the width between neighbouring rays is a contour
TONES = ((0.42, 1.0), (0.66, 0.45))  # shares of light below which a tone is laid, and how dark it is
# For the folds of an ear, which no contour shows: more steps of tone.
RELIEF = ((0.5, 1.0), (0.66, 0.7), (0.78, 0.5), (0.88, 0.35))
FAR_CM = 60.0
FEWEST_POINTS = 6  # shorter contours are specks
OFF_SHARE = 1 / 900  # of the width: how far a drawn line may run beside the contour, a fifth of a mm on a page
INK, STONE, SHADE, DEEP_SHADE, CLOTH = "#1c1d1f", "#f1f1ee", "#d9d9d4", "#aeaca4", "#fbfbfa"
HEM_STEPS = 10.0  # a centimetre to either side of the hem, which is all that its line is made of
UP = np.array([0.0, 1.0, 0.0])


@dataclass(frozen=True)
class View:
    """How to look: at `centre` (3,), from outside along `look` (3,), `width_cm` wide, starting `stand_off_cm` away.

    What lies more than `depth_cm` behind the centre is another part of the body and is not drawn.
    """

    centre: Vector
    look: Vector
    width_cm: float
    stand_off_cm: float = 40.0
    depth_cm: float = 30.0
    top: Vector | None = None  # what points to the top of the picture, where it is not the head

    @property
    def right(self) -> Vector:
        """Unit vector to the right of the picture."""
        up = UP if abs(self.look @ UP) < 0.9 else np.array([0.0, 0.0, 1.0])
        up = up if self.top is None else self.top
        return unit(np.cross(self.look, up))

    @property
    def up(self) -> Vector:
        """Unit vector to the top of the picture."""
        return np.asarray(np.cross(self.right, self.look))

    def flat(self, places: Vector) -> Vector:
        """Places (n, 3) to picture coordinates (n, 2) in cm, y down, the centre at half the width."""
        away = places - self.centre
        half = self.width_cm / 2
        return np.stack([away @ self.right + half, half - away @ self.up], axis=-1)


@dataclass(frozen=True)
class _Raster:
    """What the rays met: mask, depth (cm), light (0 to 1) and how deep in the cloth (steps, above 0 where it covers),
    each (PIXELS, PIXELS), row 0 at the top.
    """

    mask: NDArray[np.bool_]
    depth: Vector
    light: Vector
    cloth: Vector


def _look_at(figure: Figure, view: View, draped: Sequence[str]) -> _Raster:
    steps = (np.arange(PIXELS) + 0.5) / PIXELS - 0.5
    x, y = np.meshgrid(steps * view.width_cm, -steps * view.width_cm)
    plane = view.centre - view.stand_off_cm * view.look
    origins = plane + x.reshape(-1, 1) * view.right + y.reshape(-1, 1) * view.up
    places, triangles = figure.rays.meet(origins, np.broadcast_to(view.look, origins.shape))
    hit = triangles >= 0
    vertices = figure.asset.triangles[triangles]
    corners = figure.skin[vertices]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    lamp = unit(-view.look + 0.7 * view.up - 0.5 * view.right)
    shape = (PIXELS, PIXELS)
    depth = np.where(hit, np.nan_to_num(places - view.centre) @ view.look, FAR_CM)
    hit &= depth < view.depth_cm
    depth[~hit] = FAR_CM
    light = np.where(hit, normals @ lamp, 1.0)
    cloth = np.full(hit.shape, -1.0)
    if draped:
        depths = cloth_depths(figure.asset)[[PIECES.index(piece) for piece in draped]].max(axis=0)
        cloth = np.where(hit, _cloth_at(places, corners, depths[vertices]), -1.0)
    return _Raster(hit.reshape(shape), depth.reshape(shape), light.reshape(shape), cloth.reshape(shape))


def _cloth_at(places: Vector, corners: Vector, depths: Vector) -> Vector:
    """How deep in the cloth places (n, 3) lie, between the corners (n, 3, 3) of their triangles with depths (n, 3)."""
    one, two = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    away = np.nan_to_num(places) - corners[:, 0]
    normal = np.cross(one, two)
    twice = np.maximum((normal**2).sum(axis=1), 1e-12)
    second = (np.cross(away, two) * normal).sum(axis=1) / twice
    third = (np.cross(one, away) * normal).sum(axis=1) / twice
    shares = np.stack([1 - second - third, second, third], axis=1)
    return np.asarray((shares * depths).sum(axis=1))


def _smooth(field: Vector, times: int = 2) -> Vector:
    for _ in range(times):
        padded = np.pad(field, 1, mode="edge")
        field = (padded[:-2, 1:-1] + padded[2:, 1:-1] + padded[1:-1, :-2] + padded[1:-1, 2:] + 4 * field) / 8
    return field


def _path(field: Vector, level: float, width_cm: float, closed: bool) -> str:
    """Contours of a field (rows from the top) as one SVG path in centimetres.

    With `closed` the field is framed with nothing, so that a shape cut by the picture's edge closes along it.
    """
    shift = -0.5 if closed else 0.5
    parts = []
    lines: list[Vector] = contour_generator(z=np.pad(field, 1) if closed else field).lines(level)  # type: ignore[assignment]
    for line in lines:
        if len(line) < FEWEST_POINTS:
            continue
        points = _rounded(line + shift, closed=bool((line[0] == line[-1]).all())) * width_cm / PIXELS
        kept = shapely.get_coordinates(shapely.simplify(shapely.linestrings(points), width_cm * OFF_SHARE))
        ends_meet = closed or np.allclose(points[0], points[-1])
        parts.append("M" + "L".join(f"{x:.2f} {y:.2f}" for x, y in kept) + ("Z" if ends_meet else ""))
    return "".join(parts)


def _rounded(points: Vector, closed: bool, times: int = 4) -> Vector:
    """A contour (n, 2) without the steps of the grid that it was found on; the ends of an open one stay."""
    for _ in range(times):
        before, after = np.roll(points, 1, axis=0), np.roll(points, -1, axis=0)
        if closed:  # its last point is its first
            before[0], after[-1] = points[-2], points[1]
        else:
            before[0], after[-1] = points[0], points[-1]
        points = (before + 2 * points + after) / 4
    return points


def body_paths(
    figure: Figure,
    view: View,
    tones: tuple[tuple[float, float], ...] = TONES,
    shade: str = SHADE,
    draped: Sequence[str] = (),
) -> str:
    """SVG elements of the body itself, in centimetres of the view; `tones` as (light below, opacity of the shade);
    `draped` names the pieces of plain cloth that are laid over it (`cloth.worn`).
    """
    raster = _look_at(figure, view, draped)
    width = view.width_cm
    step = width * STEP_SHARE
    mask = _smooth(raster.mask.astype(float))
    light = _smooth(np.where(raster.mask, raster.light, 1.0), 6)
    jump = np.zeros_like(raster.depth)
    jump[:, 1:] = np.abs(np.diff(raster.depth, axis=1))
    jump[1:] = np.maximum(jump[1:], np.abs(np.diff(raster.depth, axis=0)))
    inner = _smooth(np.where(mask > 0.95, np.minimum(jump, 3 * step), 0.0), 1)
    shades = "".join(
        f'<path d="{_path(_smooth(((light < tone) & (mask > 0.5)).astype(float), 1), 0.5, width, closed=True)}" '
        f'fill="{shade}" fill-rule="evenodd" opacity="{opacity}"/>'
        for tone, opacity in tones
    )
    line = width / 260
    return (
        f'<path d="{_path(mask, 0.5, width, closed=True)}" fill="{STONE}" fill-rule="evenodd"/>{shades}'
        f'<path d="{_path(inner, step, width, closed=False)}" fill="none" stroke="{INK}" '
        f'stroke-width="{line * 0.6:.3f}"/>{_cloth(raster, width) if draped else ""}'
        f'<path d="{_path(mask, 0.5, width, closed=False)}" fill="none" stroke="{INK}" stroke-width="{line:.3f}" '
        'stroke-linejoin="round"/>'
    )


def _cloth(raster: _Raster, width_cm: float) -> str:
    """The cloth that is seen: plain, so that the lines of the body below it do not show, with its hem."""
    covered = _smooth(np.clip(np.where(raster.mask, raster.cloth, -HEM_STEPS), -HEM_STEPS, HEM_STEPS))
    path = _path(covered + HEM_STEPS, HEM_STEPS, width_cm, closed=True)
    line = width_cm / 520
    return f'<path d="{path}" fill="{CLOTH}" fill-rule="evenodd" stroke="{INK}" stroke-width="{line:.3f}"/>'


def document(body: str, marks: str, view: View, title: str) -> str:
    """A whole SVG document, `view.width_cm` square, one unit a cm. `body` and `marks`: SVG fragments in those units;
    `title`: what a screen reader says of the picture.
    """
    width = view.width_cm
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:g} {width:g}" role="img" '
        f'aria-label="{escape(title)}"><title>{escape(title)}</title>'
        f'<rect width="{width:g}" height="{width:g}" fill="#ffffff"/>{body}{marks}</svg>'
    )
