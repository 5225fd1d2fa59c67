"""Shipped areas as the body asset stores them: drawn once when the asset is built, then only read.

Drawing all of them takes seconds, in every process that needs one. What is stored counts only for the data that it was
drawn from: `charts_key` names it, and an asset with another key is drawn from anew (slower, never wrong).
"""

import hashlib
from collections.abc import Mapping
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from acuthesis.core.atlas.areas.chart import Drawing, draw
from acuthesis.core.atlas.entries.catalogue import DATA, areas
from acuthesis.core.atlas.entries.model import Area
from acuthesis.core.body.asset import BodyAsset
from acuthesis.core.body.catalogue import DATA as BODY_DATA
from acuthesis.core.body.flat import Marked

Arrays = Mapping[str, NDArray[Any]]


@lru_cache(maxsize=1)
def charts_key() -> str:
    """A hash of every data file that a drawing can depend on."""
    digest = hashlib.sha256()
    for folder in (DATA, BODY_DATA):
        for path in sorted(Path(folder).rglob("*.yaml")):
            digest.update(path.name.encode() + path.read_bytes())
    return digest.hexdigest()


def charts(asset: BodyAsset) -> Arrays:
    """All shipped areas of an asset as arrays, to be stored with it.

    `key`; then for n areas one after the other, with where each begins (n + 1,): `outline`, `middle` and `fill` as
    `_corners` (m, 3) and `_weights` (m, 3), `covers` as `_triangles` (m,) and `_shares` (m,), `shape` (bytes of WKB).
    """
    drawn = {area.id: draw(asset, area) for area in areas().values()}
    found: dict[str, NDArray[Any]] = {"key": np.array(charts_key()), "ids": np.array(list(drawn))}
    for name in ("outline", "middle", "fill"):
        marks: list[Marked] = [getattr(one, name) for one in drawn.values()]
        found[f"{name}_starts"] = _starts([len(mark.corners) for mark in marks])
        found[f"{name}_corners"] = np.concatenate([mark.corners for mark in marks]).astype(np.int32)
        found[f"{name}_weights"] = np.concatenate([mark.weights for mark in marks])
    found["covers_starts"] = _starts([len(one.covers[0]) for one in drawn.values()])
    found["covers_triangles"] = np.concatenate([one.covers[0] for one in drawn.values()]).astype(np.int32)
    found["covers_shares"] = np.concatenate([one.covers[1] for one in drawn.values()])
    shapes = [np.frombuffer(shapely.to_wkb(one.shape), dtype=np.uint8) for one in drawn.values()]
    found["shape_starts"] = _starts([len(shape) for shape in shapes])
    found["shape_bytes"] = np.concatenate(shapes)
    return found


def drawing(asset: BodyAsset, area: Area) -> Drawing:
    """An area drawn on its surface. Raises: CoreError (or UnknownId), naming the area, if it leaves the surface."""
    if areas().get(area.id) is area:
        stored = _stored(asset).get(area.id)
        if stored is not None:
            return stored
    return draw(asset, area)


@lru_cache(maxsize=2)
def _stored(asset: BodyAsset) -> dict[str, Drawing]:
    """The drawings that an asset carries, by id; none where it carries those of other data."""
    kept = asset.charts
    if not kept or str(kept["key"]) != charts_key():
        return {}

    def marked(name: str, row: int) -> Marked:
        part = _part(kept, name, row)
        return Marked(kept[f"{name}_corners"][part].astype(np.int64), kept[f"{name}_weights"][part])

    found = {}
    for row, id in enumerate(kept["ids"].tolist()):
        shape = shapely.from_wkb(kept["shape_bytes"][_part(kept, "shape", row)].tobytes())
        covers = _part(kept, "covers", row)
        found[id] = Drawing(
            shape=shape,
            outline=marked("outline", row),
            middle=marked("middle", row),
            fill=marked("fill", row),
            covers=(kept["covers_triangles"][covers].astype(np.int64), kept["covers_shares"][covers]),
        )
    return found


def _starts(lengths: list[int]) -> NDArray[np.int64]:
    return np.concatenate([[0], np.cumsum(lengths)])


def _part(kept: Arrays, name: str, row: int) -> slice:
    starts = kept[f"{name}_starts"]
    return slice(int(starts[row]), int(starts[row + 1]))
