"""The body asset: the human base mesh reduced to what fitting and drawing need, as one file of arrays.

Built once at set-up (`acuthesis build-body`), then only read. A figure is a weighted sum of shape keys over the
control vertices; the skin is the subdivided control mesh.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property, lru_cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array, csr_array, diags_array, eye_array
from scipy.sparse.linalg import spsolve

from acuthesis.core.body import source
from acuthesis.core.body.subdivide import loop_subdivision, triangulate

FORMAT = 11
CHART = "chart_"  # before the names of the charts' arrays in the file
NIPPLE_VERTEX = 8453  # left, in the published base mesh
FLAT_RADIUS_CM = 3.0
SEXES = ("female", "male")
AGES = ("young", "old")
WEIGHTS = ("minweight", "averageweight", "maxweight")
ANCESTRIES = ("african", "asian", "caucasian")  # averaged in equal parts: the figure stands for nobody in particular

# Targets that change one length, each with a sign: (name here, target to lengthen, target to shorten).
# Both sides are always moved together, so that a figure stays symmetric.
LENGTH_TARGETS: tuple[tuple[str, tuple[str, ...], tuple[str, ...]], ...] = tuple(
    (name, tuple(f"{part}-incr" for part in parts), tuple(f"{part}-decr" for part in parts))
    for name, parts in {
        "lower_arm": ("arms/measure-lowerarm-length",),
        "upper_arm": ("arms/measure-upperarm-length",),
        "lower_leg": ("legs/measure-lowerleg-height",),
        "upper_leg": ("legs/measure-upperleg-height",),
        "nape_to_waist": ("torso/measure-napetowaist-dist",),
        "waist_to_hip": ("torso/measure-waisttohip-dist",),
        "neck": ("neck/measure-neck-height",),
        "foot": ("feet/l-foot-scale-depth", "feet/r-foot-scale-depth"),
        "hand": ("hands/l-hand-scale", "hands/r-hand-scale"),
        "head": ("head/head-scale-vert",),
        "ear": ("ears/l-ear-scale-vert", "ears/r-ear-scale-vert"),
    }.items()
)

# Targets that change one girth. They follow a person's weight together, and a measured girth each by itself.
GIRTH_TARGETS: dict[str, str] = {
    "waist": "torso/measure-waist-circ",
    "hips": "torso/measure-hips-circ",
    "bust": "torso/measure-bust-circ",
    "underbust": "torso/measure-underbust-circ",
    "thigh": "legs/measure-thigh-circ",
    "calf": "legs/measure-calf-circ",
    "knee": "legs/measure-knee-circ",
    "upper_arm_girth": "arms/measure-upperarm-circ",
    "neck_girth": "neck/measure-neck-circ",
    "wrist": "hands/measure-wrist-circ",
    "ankle": "feet/measure-ankle-circ",
}


# Joints that a pose can turn, and the bones of the rig beyond each, by how their names begin; a bone that turns only in
# part (the forearm when the palm turns up, the neck when the head turns) with its share.
_HAND = {"wrist": 1.0, "metacarpal": 1.0, "finger": 1.0}
_FOOT = {"foot": 1.0, "toe": 1.0}
TURNS: dict[str, dict[str, float]] = {
    "shoulder": {"upperarm": 1.0, "lowerarm": 1.0, **_HAND},
    "elbow": {"lowerarm": 1.0, **_HAND},
    "forearm": {"lowerarm01": 0.3, "lowerarm02": 0.75, **_HAND},
    "hip": {"upperleg": 1.0, "lowerleg": 1.0, **_FOOT},
    "knee": {"lowerleg": 1.0, **_FOOT},
    "ankle": _FOOT,
    "thumb": {"finger1-2": 1.0, "finger1-3": 1.0},
    "index": {"finger2": 1.0},
    "ring": {"finger4": 1.0},
    "little": {"finger5": 1.0},
}
NECK = {"neck01": 0.3, "neck02": 0.55, "neck03": 0.8}
TRUNK_BONES = ("root", "spine", "pelvis", "clavicle", "shoulder", "breast")
LIMB_BONES = ("upperarm", "lowerarm", "upperleg", "lowerleg", *_HAND, *_FOOT)


@dataclass(frozen=True, eq=False)  # one asset is one object: compared and hashed as such
class BodyAsset:
    """Arrays of the asset; `c` control vertices, `j` joints, `k` shape keys, `f` skin vertices, `t` skin triangles.

    `base` (c + j, 3) cm, the joints' centres behind the vertices. `keys` (k, c + j, 3) cm, named by `key_names`.
    `subdivision` (f, c). `triangles` (t, 3). `mirror` (c,): the control vertex on the other side.
    `vertex_ids` (c,): numbers of the control vertices in the published base mesh, which the landmark file uses.
    `follow` (r, c): how far each control vertex follows a turn of a joint, 0 to 1, named by `turn_names` (`l-elbow`).
    `charts`: areas drawn on the mesh, as `core/atlas/areas/baked.py` writes and reads them; may be empty.
    """

    base: NDArray[np.float64]
    keys: NDArray[np.float32]
    key_names: tuple[str, ...]
    joint_names: tuple[str, ...]
    subdivision: csr_array
    triangles: NDArray[np.int64]
    mirror: NDArray[np.int64]
    vertex_ids: NDArray[np.int64]
    follow: NDArray[np.float32]
    turn_names: tuple[str, ...]
    charts: Mapping[str, NDArray[Any]]

    @cached_property
    def coarse_triangles(self) -> NDArray[np.int64]:
        """Triangles (t / 4, 3) between the control vertices alone: subdivision put a corner of each in three blocks."""
        corners = self.triangles[:, 0].reshape(4, -1)
        return np.asarray(corners[:3].T)

    @cached_property
    def edges(self) -> NDArray[np.int64]:
        """Every edge of the skin once, as the two vertices at its ends (e, 2), the lower number first."""
        count = int(self.triangles.max()) + 1
        sides = np.concatenate([self.triangles[:, [0, 1]], self.triangles[:, [1, 2]], self.triangles[:, [2, 0]]])
        # Sorted as one number each: several times as fast as row by row.
        both = np.unique(sides.min(axis=1) * count + sides.max(axis=1))
        return np.stack([both // count, both % count], axis=1)

    @property
    def control_count(self) -> int:
        """Number of control vertices, `c`."""
        return len(self.vertex_ids)


def _shape_keys(folder: Path, count: int) -> dict[str, NDArray[np.float64]]:
    keys: dict[str, NDArray[np.float64]] = {}
    for sex in SEXES:
        for age in AGES:
            ancestry = sum(source.read_target(folder, f"macrodetails/{a}-{sex}-{age}", count) for a in ANCESTRIES)
            for weight in WEIGHTS:
                universal = source.read_target(
                    folder, f"macrodetails/universal-{sex}-{age}-averagemuscle-{weight}", count
                )
                keys[f"{sex}-{age}-{weight}"] = universal + ancestry / len(ANCESTRIES)
            for height in ("minheight", "maxheight"):
                keys[f"{sex}-{age}-{height}"] = source.read_target(
                    folder, f"macrodetails/height/{sex}-{age}-averagemuscle-averageweight-{height}", count
                )
    girths = [(name, (f"{part}-incr",), (f"{part}-decr",)) for name, part in GIRTH_TARGETS.items()]
    for name, more, less in (*LENGTH_TARGETS, *girths):
        keys[f"{name}+"] = sum((source.read_target(folder, part, count) for part in more), np.zeros((count, 3)))
        keys[f"{name}-"] = sum((source.read_target(folder, part, count) for part in less), np.zeros((count, 3)))
    return keys


def _follow(folder: Path, count: int) -> dict[str, NDArray[np.float64]]:
    """How far every vertex follows each turn, by its name with the side in front."""
    weights = source.read_rig_weights(folder, count)
    total = np.maximum(sum(weights.values(), np.zeros(count)), 1e-9)

    def beyond(bones: dict[str, float], ending: str) -> NDArray[np.float64]:
        shares = (
            share * weights[bone]
            for bone in weights
            for start, share in bones.items()
            if bone.startswith(start) and bone.endswith(ending)
        )
        return np.asarray(sum(shares, np.zeros(count)) / total)

    follow = {
        f"{side}-{turn}": beyond(bones, end)
        for turn, bones in TURNS.items()
        for side, end in (("l", ".L"), ("r", ".R"))
    }
    head = {bone: 1.0 for bone in weights if not bone.startswith((*TRUNK_BONES, *LIMB_BONES, "neck"))}
    return {**follow, "neck": beyond({**head, **NECK}, "")}


def _flattening(control: NDArray[np.float64], triangles: NDArray[np.int64], tips: list[int]) -> csr_array:
    """Matrix (c, c) that flattens the nipples into the chest: the figure is neutral stone, smooth at the chest.

    What lies within `FLAT_RADIUS_CM` of the two `tips` is spanned like a plate from its rim, which keeps every
    figure's own chest shape.
    """
    count = len(control)
    edges = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
    edges = np.unique(np.concatenate([edges, edges[:, ::-1]]), axis=0)
    links = coo_array((np.ones(len(edges)), (edges[:, 0], edges[:, 1])), shape=(count, count)).tocsr()
    bend = csr_array(eye_array(count) - diags_array(1 / links.sum(axis=1)) @ links)

    inside = np.zeros(count, dtype=bool)
    for tip in tips:
        inside |= np.linalg.norm(control - control[tip], axis=1) < FLAT_RADIUS_CM
    pick = eye_array(count).tocsr()[np.flatnonzero(inside)]
    rest = eye_array(count).tocsr()[np.flatnonzero(~inside)]
    # Bending twice gives a patch that also continues the slope at its rim, so that no edge shows.
    stiffness = bend @ bend
    filled = spsolve((pick @ stiffness @ pick.T).tocsc(), -(pick @ stiffness @ rest.T).tocsc())
    return csr_array(rest.T @ rest + pick.T @ csr_array(filled) @ rest)


def build_asset(path: Path, draw_charts: Callable[[BodyAsset], Mapping[str, NDArray[Any]]]) -> None:
    """Build the asset from the installed body data and write it to `path` (.npz, about 5 MB).

    `draw_charts` draws areas on the asset; what it returns is stored with it as `charts`.
    """
    folder = source.data_folder()
    mesh = source.read_base_mesh(folder)
    quads = np.concatenate([mesh.groups[name] for name in ("body", "helper-l-eye", "helper-r-eye")])
    used = np.unique(quads)
    place = np.full(len(mesh.vertices), -1)
    place[used] = np.arange(len(used))
    triangles = triangulate(place[quads])
    subdivision = loop_subdivision(triangles, len(used))

    mirror = place[source.read_mirror(folder, len(mesh.vertices))[used]]
    average = mesh.vertices + sum(
        source.read_target(
            folder, f"macrodetails/universal-{sex}-young-averagemuscle-averageweight", len(mesh.vertices)
        )
        for sex in SEXES
    ) / len(SEXES)
    tip = int(place[NIPPLE_VERTEX])
    smooth = csr_array(subdivision.matrix @ _flattening(average[used], triangles, [tip, int(mirror[tip])]))

    joint_names = sorted(name for name in mesh.groups if name.startswith("joint-"))
    corners = [np.unique(mesh.groups[name]) for name in joint_names]

    def reduce(values: NDArray[np.float64]) -> NDArray[np.float64]:
        return np.concatenate([values[used], np.array([values[corner].mean(axis=0) for corner in corners])])

    keys = _shape_keys(folder, len(mesh.vertices))
    follow = _follow(folder, len(mesh.vertices))
    arrays: dict[str, NDArray[Any]] = {
        "format": np.array(FORMAT),
        "base": reduce(mesh.vertices),
        "keys": np.array([reduce(key) for key in keys.values()], dtype=np.float32),
        "key_names": np.array(list(keys)),
        "joint_names": np.array([name.removeprefix("joint-") for name in joint_names]),
        "s_data": smooth.data,
        "s_indices": smooth.indices,
        "s_indptr": smooth.indptr,
        "triangles": subdivision.triangles,
        "mirror": mirror,
        "vertex_ids": used,
        "follow": np.array([weights[used] for weights in follow.values()], dtype=np.float32),
        "turn_names": np.array(list(follow)),
    }
    charts = draw_charts(_read(arrays))
    path.parent.mkdir(parents=True, exist_ok=True)
    partial = path.with_suffix(".partial.npz")
    whole: dict[str, Any] = {**arrays, **{f"{CHART}{name}": array for name, array in charts.items()}}
    np.savez_compressed(partial, **whole)
    partial.replace(path)  # a build that was interrupted never leaves half a file under the real name


def asset_is_current(path: Path) -> bool:
    """Whether `path` holds a body asset of this format; False for a missing, foreign or older file."""
    if not path.exists():
        return False
    try:
        with np.load(path) as arrays:
            return int(arrays["format"]) == FORMAT
    except (OSError, ValueError, KeyError):
        return False


@lru_cache(maxsize=2)
def load_asset(path: Path) -> BodyAsset:
    """Read the asset. Raises: FileNotFoundError, saying how to build it."""
    if not asset_is_current(path):
        raise FileNotFoundError(f"no body asset at {path}: build it with 'acuthesis build-body'")
    with np.load(path) as arrays:
        return _read({name: arrays[name] for name in arrays.files})


def _read(arrays: Mapping[str, NDArray[Any]]) -> BodyAsset:
    shape = (len(arrays["s_indptr"]) - 1, len(arrays["vertex_ids"]))
    return BodyAsset(
        base=arrays["base"],
        keys=arrays["keys"],
        key_names=tuple(str(name) for name in arrays["key_names"]),
        joint_names=tuple(str(name) for name in arrays["joint_names"]),
        subdivision=csr_array((arrays["s_data"], arrays["s_indices"], arrays["s_indptr"]), shape=shape),
        triangles=arrays["triangles"],
        mirror=arrays["mirror"],
        vertex_ids=arrays["vertex_ids"],
        follow=arrays["follow"],
        turn_names=tuple(str(name) for name in arrays["turn_names"]),
        charts={name.removeprefix(CHART): array for name, array in arrays.items() if name.startswith(CHART)},
    )
