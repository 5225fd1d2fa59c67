"""One round of Loop subdivision as a matrix, so that any fitted figure is smoothed by one sparse product.

Source of the weights: Loop's scheme with Warren's simplified rule for inner vertices; open borders follow the cubic
B-spline of the border curve.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array, csr_array


@dataclass(frozen=True)
class Subdivision:
    """`matrix` (fine, coarse) maps coarse to fine vertices; `triangles` (t, 3) int indexes the fine ones."""

    matrix: csr_array
    triangles: NDArray[np.int64]


def triangulate(quads: NDArray[np.int64]) -> NDArray[np.int64]:
    """Split (m, 4) faces into triangles; a face that repeats its last corner is one already."""
    first = quads[:, [0, 1, 2]]
    second = quads[quads[:, 2] != quads[:, 3]][:, [0, 2, 3]]
    return np.concatenate([first, second])


def loop_subdivision(triangles: NDArray[np.int64], count: int) -> Subdivision:
    """Subdivide (t, 3) triangles over `count` vertices once; the first `count` fine vertices are the moved old ones."""
    sides = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
    opposite = np.concatenate([triangles[:, 2], triangles[:, 0], triangles[:, 1]])
    edges, edge_of_side = np.unique(np.sort(sides, axis=1), axis=0, return_inverse=True)
    uses = np.bincount(edge_of_side, minlength=len(edges))
    border_edge = uses == 1

    rows: list[NDArray[np.int64]] = []
    columns: list[NDArray[np.int64]] = []
    weights: list[NDArray[np.float64]] = []

    def add(row: NDArray[np.int64], column: NDArray[np.int64], weight: NDArray[np.float64]) -> None:
        rows.append(row)
        columns.append(column)
        weights.append(np.broadcast_to(weight, row.shape))

    # New vertices, one an edge: 3/8 of each end and 1/8 of each far corner; the middle on a border.
    new = count + np.arange(len(edges))
    end_weight = np.where(border_edge, 1 / 2, 3 / 8)
    add(new, edges[:, 0], end_weight)
    add(new, edges[:, 1], end_weight)
    inner_side = ~border_edge[edge_of_side]
    add(new[edge_of_side[inner_side]], opposite[inner_side], np.array(1 / 8))

    # Old vertices: pulled toward their neighbours.
    on_border = np.zeros(count, dtype=bool)
    on_border[edges[border_edge].ravel()] = True
    valence = np.bincount(edges.ravel(), minlength=count)
    pull = np.where(valence == 3, 3 / 16, 3 / (8 * np.maximum(valence, 1)))
    keep = np.where(on_border, 3 / 4, np.where(valence > 0, 1 - valence * pull, 1.0))
    add(np.arange(count), np.arange(count), keep)
    for start, end in ((0, 1), (1, 0)):
        at, other = edges[:, start], edges[:, end]
        inner = ~on_border[at]
        add(at[inner], other[inner], pull[at[inner]])
        add(at[border_edge], other[border_edge], np.array(1 / 8))

    matrix = coo_array(
        (np.concatenate(weights), (np.concatenate(rows), np.concatenate(columns))), shape=(count + len(edges), count)
    ).tocsr()
    ab, bc, ca = (count + edge_of_side[i * len(triangles) : (i + 1) * len(triangles)] for i in range(3))
    a, b, c = triangles.T
    fine = np.concatenate(
        [np.stack(corners, axis=1) for corners in ((a, ab, ca), (b, bc, ab), (c, ca, bc), (ab, bc, ca))]
    )
    return Subdivision(matrix, fine)
