"""Check drawing: a flattened surface with its feature lines over its curvature, to see whether a line runs where it
says.

Crests are warm, valleys cool. Nobody treats by it; `acuthesis lines ear` prints it.
"""

from html import escape

import igl
import numpy as np

from acuthesis.core.atlas.areas.grid import ground
from acuthesis.core.body.asset import BodyAsset
from acuthesis.core.errors import CoreError
from acuthesis.core.message import message

WIDTH_PX = 900
RINGS = 3  # neighbours around a vertex that its curvature is fitted to
STRONG = 4.0  # curvature, 1/cm, that is drawn in full colour
CREST, VALLEY, FLAT = np.array([176, 52, 40]), np.array([38, 86, 156]), np.array([247, 247, 245])


def lines_plate(asset: BodyAsset, surface: str) -> str:
    """A whole SVG document of a surface by its id. Raises: UnknownId; CoreError if it has no feature lines."""
    on = ground(asset, surface)
    if not on.lines:
        raise CoreError(message("lines-plate-no-feature-lines-ear-ear", name=on.surface.name), where="surface")
    flat, skin = on.flat, on.flat.body.figure.skin
    _, _, first, second, _ = igl.principal_curvature(skin, asset.triangles.astype(np.int64), radius=RINGS)
    bent = np.clip(((first + second) / 2)[flat.triangle_corners].mean(axis=1) / STRONG, -1, 1)
    traced = np.concatenate([line.places for line in on.lines.values()])
    low, high = traced.min(axis=0) - 0.6, traced.max(axis=0) + 0.6
    scale = WIDTH_PX / (high[0] - low[0])
    near = ((flat.corners > low - 1) & (flat.corners < high + 1)).all(axis=(1, 2))

    def points(places: np.ndarray) -> str:
        return " ".join(f"{(x - low[0]) * scale:.1f},{(high[1] - y) * scale:.1f}" for x, y in places)

    drawn = []
    for corners, amount in zip(flat.corners[near], bent[near], strict=True):
        red, green, blue = (FLAT + abs(amount) * ((CREST if amount > 0 else VALLEY) - FLAT)).astype(int)
        fill = f"rgb({red},{green},{blue})"
        drawn.append(f'<polygon points="{points(corners)}" fill="{fill}" stroke="{fill}" stroke-width="0.5"/>')
    for id, line in on.lines.items():
        x, y = points(line.at(0.5)[None]).split(",")
        drawn.append(f'<polyline points="{points(line.places)}" fill="none" stroke="#111" stroke-width="1.6"/>')
        drawn.append(f'<text x="{x}" y="{y}" font-size="13" font-family="sans-serif">{escape(id)}</text>')
    height = (high[1] - low[1]) * scale
    head = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH_PX} {height:.0f}">'
    return f"{head}<title>Feature lines: {escape(on.surface.name)}</title>{''.join(drawn)}</svg>"
