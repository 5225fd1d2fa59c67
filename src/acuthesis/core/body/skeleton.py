"""A light skeleton inside a fitted figure: lofts along places of its joints and landmarks, for counting and naming.

It is shown as a ghost under the skin. Nothing is placed by it; landmarks and points come from joints and skin.
"""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.body.catalogue import DATA, written_out
from acuthesis.core.body.construct import Directions, Place
from acuthesis.core.body.figure import Figure, Vector
from acuthesis.core.body.frames import direction, frame_of
from acuthesis.core.body.places import MIRROR, Places
from acuthesis.core.data_file import read
from acuthesis.core.errors import UnknownId
from acuthesis.core.message import message

CORNERS = 8  # of a cross-section
UNDER_SKIN_CM = 0.2  # bone comes no nearer to the skin than this
ROUNDING_CM = 1e-6
# Farther out of the nearest skin it is not bone that came out, but skin that lies within: the mouth, a folded armpit.
MOST_PRESSED_CM = 1.0
STEPS = 4  # cross-sections between two nodes
USUAL_CM: dict[str, tuple[tuple[str, str], float]] = {
    # What the radii of a bone are written for: the distance between two places on a person of 170 cm.
    "head": (("glabella", "external_occipital_protuberance"), 19.5),
    "hand": (("joint.hand", "joint.finger-3-1"), 9.2),
    "foot": (("joint.ankle", "joint.toe-2-1"), 16.0),
}
USUAL_HEIGHT_CM = 170.0


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)


class CrossSection(_Row):
    """A cross-section: its centre, and half its width and thickness, cm on a person of 170 cm."""

    at: Place
    wide: float = Field(gt=0)
    thick: float | None = None


class Bone(_Row):
    """A bone as a loft through its nodes. `wide` is the direction in which a cross-section's width is laid."""

    id: str
    name: str
    part: str
    paired: bool = True
    wide: Directions
    nodes: tuple[CrossSection, ...] = Field(min_length=2)
    size: Literal["height", "head", "hand", "foot"] = "height"
    corners: int = CORNERS


class Rib(_Row):
    """A rib: from its vertebra backward, out, around and down to its front end.

    `reach` is how far out it goes, as a share of the half width of the chest; `front` where it ends.
    """

    id: str
    name: str
    vertebra: str
    front: Place
    reach: float
    drop: float  # how far it sinks from the vertebra to its side, as a share of the height of the breastbone


@dataclass(frozen=True)
class BoneOnBody:
    """A bone of one figure: cross-sections (n, corners, 3) cm from one end to the other."""

    id: str
    name: str
    rings: Vector


@lru_cache
def bones() -> tuple[list[Bone], list[Rib]]:
    """Every bone of the left side and the middle, and every rib. Raises: pydantic.ValidationError, UnknownId."""
    raw = read(DATA / "bones.yaml")
    inner = raw["places"]

    def resolved(value: Any) -> Any:
        match value:
            case str() if value in inner:
                return resolved(inner[value])
            case list():
                return [resolved(item) for item in value]
            case dict():
                return {key: resolved(item) for key, item in value.items()}
            case _:
                return value

    def row(one: dict[str, Any]) -> dict[str, Any]:
        nodes = [
            dict(zip(("at", "wide", "thick"), [resolved(node[0]), *node[1:]], strict=False)) for node in one["nodes"]
        ]
        return {**one, "nodes": nodes}

    found = [Bone.model_validate(row(one)) for rows in raw["bones"] for one in written_out(rows)]
    ribs = [Rib.model_validate(resolved(one)) for rows in raw["ribs"] for one in written_out(rows)]
    names = [bone.id for bone in found] + [rib.id for rib in ribs]
    if len(names) != len(set(names)):
        raise UnknownId(
            message("skeleton-bone-defined-twice", name=sorted(n for n in names if names.count(n) > 1)[0]),
            where="bones",
        )
    return found, ribs


def skeleton(places: Places) -> list[BoneOnBody]:
    """Every bone on both sides; ids of the right begin with `right.` as those of the left do with `left.`."""
    found, ribs = bones()
    made = [(bone.id, bone.name, bone.paired, _bone(bone, places)) for bone in found]
    made += [(rib.id, rib.name, True, _rib(rib, places)) for rib in ribs]
    both = []
    corners = np.concatenate([rings.reshape(-1, 3) for *_, rings in made])
    inside = np.split(
        _under_skin(corners, places.figure), np.cumsum([rings.shape[0] * rings.shape[1] for *_, rings in made])
    )
    for (id, name, paired, shape), kept in zip(made, inside, strict=False):
        rings = kept.reshape(shape.shape)
        if not paired:
            both.append(BoneOnBody(id, name, rings))
            continue
        both.append(BoneOnBody(f"left.{id}", name, rings))
        # Mirrored corners run the other way round; turned back they face outward again.
        both.append(BoneOnBody(f"right.{id}", name, (rings * MIRROR)[:, ::-1]))
    return both


def _under_skin(corners: Vector, figure: Figure) -> Vector:
    """Corners (n, 3), those that would come out of the skin or up to it pressed back under it.

    Again, and less each time: in a folded armpit what is pressed back from one side can come out of the other.
    """
    pressed = corners.copy()
    for under in (UNDER_SKIN_CM, UNDER_SKIN_CM / 3, 0.0):
        skin, normals = figure.nearest_with_normals(pressed)
        depth = ((skin - pressed) * normals).sum(axis=1)
        out = (depth < under - ROUNDING_CM) & (depth > -MOST_PRESSED_CM)
        pressed[out] = skin[out] - under * normals[out]
    return pressed


def _bone(bone: Bone, places: Places) -> Vector:
    centres = np.array([places.at(node.at, "left") for node in bone.nodes])
    sizes = np.array([(node.wide, node.thick or node.wide) for node in bone.nodes]) * _scale(bone.size, places)
    return _loft(centres, sizes, direction(frame_of(places.figure, bone.part, "left"), bone.wide), bone.corners)


def _scale(size: str, places: Places) -> float:
    if size == "height":
        return places.figure.height_cm / USUAL_HEIGHT_CM
    (start, end), usual = USUAL_CM[size]
    return float(np.linalg.norm(places.at(end, "left") - places.at(start, "left"))) / usual


def _loft(centres: Vector, sizes: Vector, wide: Vector, corners: int = CORNERS) -> Vector:
    """Cross-sections (n, corners, 3) along a smooth way through centres (k, 3), with half sizes (k, 2); ends close."""
    path, half = _smooth(centres), _smooth(sizes)
    tangents = np.gradient(path, axis=0)
    tangents /= np.linalg.norm(tangents, axis=1, keepdims=True)
    across = wide - (tangents @ wide)[:, None] * tangents
    across /= np.linalg.norm(across, axis=1, keepdims=True)
    deep = np.cross(tangents, across)
    turn = np.linspace(0, 2 * np.pi, corners, endpoint=False)
    rings = (
        path[:, None]
        + np.cos(turn)[None, :, None] * (half[:, :1] * across)[:, None]
        + np.sin(turn)[None, :, None] * (half[:, 1:] * deep)[:, None]
    )
    # Rounded ends: a smaller section a little farther out, then a point.
    first, last = (_cap(rings[0], path[0], -tangents[0]), _cap(rings[-1], path[-1], tangents[-1]))
    return np.concatenate([first[::-1], rings, last])


def _cap(ring: Vector, centre: Vector, outward: Vector) -> Vector:
    bulge = 0.5 * float(np.linalg.norm(ring - centre, axis=1).min()) * outward
    return np.stack(
        [centre + 0.62 * (ring - centre) + 0.7 * bulge, np.repeat((centre + bulge)[None], len(ring), axis=0)]
    )


def _smooth(values: Vector) -> Vector:
    """A curve through rows (k, d) that bends evenly (Catmull-Rom), STEPS places an interval."""
    padded = np.concatenate([2 * values[:1] - values[1:2], values, 2 * values[-1:] - values[-2:-1]])
    share = np.linspace(0, 1, STEPS, endpoint=False)[:, None]
    parts = []
    for a, b, c, d in zip(padded, padded[1:], padded[2:], padded[3:], strict=False):
        parts.append(
            0.5
            * (2 * b + (c - a) * share + (2 * a - 5 * b + 4 * c - d) * share**2 + (3 * b - a - 3 * c + d) * share**3)
        )
    return np.concatenate([*parts, values[-1:]])


def _rib(rib: Rib, places: Places) -> Vector:
    """The arc of a rib: in plan an oval from the vertebra round to the front, sinking as it goes."""
    spine = places.landmark(rib.vertebra, "left")
    front = places.at(rib.front, "left")
    sternum = places.segment("sternum", "left").length_cm
    body = places.figure
    back = spine + np.array([0, 0, 0.12 * (places.landmark("xiphisternal_junction", "left")[2] - spine[2])])
    low = spine[1] - rib.drop * sternum
    deep = front[2] - back[2]
    half = rib.reach * min(_chest_half_width(places), _half_width_at(low, back[2] + 0.5 * deep, places))
    nodes = np.array(
        [
            [1.4, spine[1] + 0.02 * sternum, back[2] + 0.20 * deep],
            [0.36 * half, spine[1] - 0.1 * rib.drop * sternum, back[2] + 0.03 * deep],
            [0.68 * half, spine[1] - 0.38 * rib.drop * sternum, back[2] + 0.08 * deep],
            [0.97 * half, low + 0.18 * rib.drop * sternum, back[2] + 0.36 * deep],
            [0.93 * half, low, back[2] + 0.66 * deep],
            [max(0.62 * half, front[0] * 0.9), 0.5 * (low + front[1]), back[2] + 0.9 * deep],
            [front[0], front[1], front[2]],
        ]
    )
    if rib.front == "rib_12_tip" or front[0] > 0.9 * half:  # the floating ribs end at the side
        nodes = nodes[:3]
        nodes = np.concatenate([nodes, front[None]])
    size = body.height_cm / USUAL_HEIGHT_CM
    sizes = np.tile([0.62, 0.34], (len(nodes), 1)) * size
    return _loft(nodes, sizes, np.array([0.0, 1.0, 0.0]))


def _chest_half_width(places: Places) -> float:
    """Half the width of the chest within its skin, below the armpits."""
    key = ("skeleton", "chest")
    if key not in places.memory:
        ends = (places.landmark(name, "left") for name in ("t7_spinous_process", "xiphisternal_junction"))
        _, y, z = 0.5 * sum(ends, np.zeros(3))
        places.memory[key] = _half_width_at(y, z, places)
    kept = places.memory[key]
    assert isinstance(kept, float)
    return kept


def _half_width_at(y: float, z: float, places: Places) -> float:
    out = places.figure.exit_point(np.array([0.0, y, z]), np.array([1.0, 0.0, 0.0]))
    return float(out[0]) - UNDER_SKIN_CM * 5
