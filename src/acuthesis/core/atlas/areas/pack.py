"""All shipped areas as marks on the mesh, one block of bytes: the same for everybody, so a client loads it once."""

import json
from functools import lru_cache

import numpy as np
from scipy.spatial import cKDTree

from acuthesis.core.atlas.areas.baked import drawing
from acuthesis.core.atlas.entries.catalogue import areas
from acuthesis.core.body.asset import BodyAsset
from acuthesis.core.body.flat import average

WEIGHT_STEPS = 255


@lru_cache(maxsize=1)
def area_pack(asset: BodyAsset) -> bytes:
    """The pack, little-endian: the length of its head (uint32), the head (JSON), then three arrays.

    The head is a list of [id, places of the fill, places of the outline]. Arrays: for each vertex of the skin the one
    on the other side (uint16); for each place, fill then outline of one area after the other, its three corners
    (uint16); and the shares of the first two of them (uint8, in 255ths). Three places of a fill make a triangle.
    """
    skin = average(asset).figure.skin
    mirror = cKDTree(skin).query(skin * [-1, 1, 1])[1]
    drawn = [(area.id, drawing(asset, area)) for area in areas().values()]
    head = json.dumps([[id, len(one.fill.corners), len(one.outline.corners)] for id, one in drawn]).encode()
    head += b" " * (-len(head) % 4)  # arrays of two bytes begin on an even one
    marks = [mark for _, one in drawn for mark in (one.fill, one.outline)]
    corners = np.concatenate([mark.corners for mark in marks])
    weights = np.concatenate([mark.weights[:, :2] for mark in marks])
    return b"".join(
        [
            np.uint32(len(head)).tobytes(),
            head,
            mirror.astype("<u2").tobytes(),
            corners.astype("<u2").tobytes(),
            (weights * WEIGHT_STEPS).round().astype("u1").tobytes(),
        ]
    )
