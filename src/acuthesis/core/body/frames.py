"""Anatomical directions, region by region, read from the joints of the figure.

"Distal" on a forearm is not "down": every limb part has its own axes, so a rule says *medial* or *radial* and holds
in any stance and on both sides.
"""

from collections.abc import Callable

import numpy as np

from acuthesis.core.body.figure import Figure, Side, Vector, unit
from acuthesis.core.errors import UnknownId
from acuthesis.core.message import message

UP = np.array([0.0, 1.0, 0.0])
FORWARD = np.array([0.0, 0.0, 1.0])
Frame = dict[str, Vector]


def _outward(side: Side) -> Vector:
    return np.array([1.0 if side == "left" else -1.0, 0.0, 0.0])


def _pairs(**axes: Vector) -> Frame:
    """Add each direction's opposite."""
    opposite = {
        "proximal": "distal",
        "anterior": "posterior",
        "lateral": "medial",
        "superior": "inferior",
        "radial": "ulnar",
        "dorsal": "palmar",
    }
    frame = dict(axes)
    for name, vector in axes.items():
        frame[opposite[name]] = -vector
    return frame


def _trunk(figure: Figure, side: Side) -> Frame:
    return _pairs(superior=UP, anterior=FORWARD, lateral=_outward(side))


def _limb(proximal: Vector, side: Side) -> Frame:
    anterior = unit(FORWARD - proximal * (FORWARD @ proximal))
    lateral = np.cross(proximal, anterior)
    if lateral @ _outward(side) < 0:
        lateral = -lateral
    return _pairs(proximal=proximal, anterior=anterior, lateral=lateral)


def _thigh(figure: Figure, side: Side) -> Frame:
    return _limb(unit(figure.joint("upper-leg", side) - figure.joint("knee", side)), side)


def _lower_leg(figure: Figure, side: Side) -> Frame:
    return _limb(unit(figure.joint("knee", side) - figure.joint("ankle", side)), side)


def _foot(figure: Figure, side: Side) -> Frame:
    toward_toes = figure.joint("toe-2-1", side) - figure.joint("ankle", side)
    distal = unit(toward_toes * [1, 0, 1])
    lateral = np.cross(UP, distal)
    if lateral @ _outward(side) < 0:
        lateral = -lateral
    return {**_pairs(superior=UP, lateral=lateral), "distal": distal, "proximal": -distal, "dorsal": UP, "plantar": -UP}


def _elbow_axis(figure: Figure, side: Side) -> Vector:
    """The hinge of the elbow, toward the outer side: square to the upper arm and the slightly bent forearm."""
    upper = figure.joint("elbow", side) - figure.joint("shoulder", side)
    lower = figure.joint("hand", side) - figure.joint("elbow", side)
    hinge = unit(np.cross(upper, lower))
    # In the reference stance the forearm is bent forward, so the hinge points to one side of each arm alike.
    return -hinge if side == "left" else hinge


def _arm(axis: Vector, figure: Figure, side: Side) -> Frame:
    lateral = _elbow_axis(figure, side)
    lateral = unit(lateral - axis * (lateral @ axis))
    anterior = np.cross(lateral, axis) if side == "left" else np.cross(axis, lateral)
    return _pairs(proximal=axis, lateral=lateral, anterior=anterior)


def _upper_arm(figure: Figure, side: Side) -> Frame:
    return _arm(unit(figure.joint("shoulder", side) - figure.joint("elbow", side)), figure, side)


def _forearm(figure: Figure, side: Side) -> Frame:
    return _arm(unit(figure.joint("elbow", side) - figure.joint("hand", side)), figure, side)


def _elbow(figure: Figure, side: Side) -> Frame:
    """Axes of the bend: proximal half-way between those of upper arm and forearm, so that the crease lies on it."""
    elbow = figure.joint("elbow", side)
    upper, lower = unit(figure.joint("shoulder", side) - elbow), unit(elbow - figure.joint("hand", side))
    return _arm(unit(upper + lower), figure, side)


def _hand(figure: Figure, side: Side) -> Frame:
    """Axes of the hand, also used at the wrist, where the forearm has turned with it."""
    knuckles = [figure.joint(f"finger-{n}-1", side) for n in (2, 3, 4, 5)]
    proximal = unit(figure.joint("hand", side) - np.mean(knuckles, axis=0))
    radial = knuckles[0] - knuckles[-1]
    radial = unit(radial - proximal * (radial @ proximal))
    dorsal = np.cross(proximal, radial) if side == "left" else np.cross(radial, proximal)
    return _pairs(proximal=proximal, radial=radial, dorsal=dorsal)


_FRAMES: dict[str, Callable[[Figure, Side], Frame]] = {
    "trunk": _trunk,
    "head": _trunk,
    "thigh": _thigh,
    "lower_leg": _lower_leg,
    "foot": _foot,
    "upper_arm": _upper_arm,
    "elbow": _elbow,
    "forearm": _forearm,
    "hand": _hand,
}


def frame_of(figure: Figure, name: str, side: Side) -> Frame:
    """Directions of a body part by name (`distal`, `medial`, `anterior` and so on), unit vectors in the figure's axes
    (x to the person's left, y up, z forward). Raises: UnknownId for a part that there is not.
    """
    if name not in _FRAMES:
        raise UnknownId(
            message("frames-no-body-part-directions-there", name=name, frames=", ".join(_FRAMES)), where=name
        )
    return _FRAMES[name](figure, side)


def known_directions(frame: Frame, parts: dict[str, float]) -> None:
    """Raises: UnknownId naming a direction that the frame does not have."""
    for name in parts:
        if name not in frame:
            raise UnknownId(message("frames-not-direction-here-there", name=name, frame=", ".join(frame)), where=name)


def direction(frame: Frame, parts: dict[str, float]) -> Vector:
    """Unit vector of a mix of named directions, such as {medial: 1, posterior: 0.3}. Raises: UnknownId."""
    known_directions(frame, parts)
    return unit(sum((amount * frame[name] for name, amount in parts.items()), np.zeros(3)))
