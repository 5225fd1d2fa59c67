"""Positioning a person for what is pressed: couch, stool or the couch's edge, and where cushions go.

Source: manual-therapy teaching.
"""

from collections.abc import Collection
from typing import Literal

from acuthesis.core.atlas.entries.model import Position

LEGS = frozenset({"thigh", "lower_leg", "foot"})
BACK = frozenset({"trunk"})
LYING: dict[Position, str] = {
    "supine": "On the back, a cushion under the knees.",
    "half_reclined": "Half reclined: the backrest raised or a firm wedge of pillows, a cushion under the knees.",
    "prone": "On the front, the face in the hole or turned, a roll under the ankles.",
    "left_side": "On the left side, a pillow under the head, one between the knees, one to hug.",
    "right_side": "On the right side, a pillow under the head, one between the knees, one to hug.",
    "leaning": "On a stool, leaning forward on cushions on the couch, the forehead on the hands.",
}


# How a person is helped out of a position, and into one. Source: manual-therapy teaching.
ON_COUCH: tuple[Position, ...] = ("supine", "half_reclined", "prone", "left_side", "right_side")
DIZZY = "Let them sit for a minute; ask if they feel dizzy."
LIE_DOWN: dict[Position, str] = {
    "supine": "onto their back, the cover held; cushion head and knees before hands go on.",
    "half_reclined": "back against the raised backrest, the cover held; cushion knees and head before hands go on.",
    "prone": "onto their front, the cover held; cushion face and ankles before hands go on.",
    "left_side": "onto their left side, the cover held; pillows before hands go on.",
    "right_side": "onto their right side, the cover held; pillows before hands go on.",
}
Seat = Literal["stool", "edge", "chair"]
SEATS: dict[Seat, str] = {"stool": "stool", "edge": "couch's edge", "chair": "chair"}
# Questions of the screening: who says yes has skin that cannot warn.
CANNOT_WARN = ("numb_feet", "numb_places", "old_stroke_side")
LOOK_AT_SKIN = "Look at the skin of what is numb, where they lay and where you pressed."


def turning(before: Position, after: Position, *, seat: Seat = "stool", numb: bool = False) -> str:
    """How the person is helped from one position into another.

    Parameters: seat, what who is seated (before or after) sits on; numb, whether some of their skin cannot warn.

    >>> turning("leaning", "seated")
    'Help them come up from the cushions; they stay on the stool. Let them sit for a minute; ask if they feel dizzy.'
    >>> turning("half_reclined", "supine")
    'Lower the backrest slowly; they stay on their back.'
    """
    said = _turned(before, after, seat)
    return f"{said} {LOOK_AT_SKIN}" if numb else said


def _turned(before: Position, after: Position, seat: Seat) -> str:
    if before in ON_COUCH and after in ON_COUCH:
        return _over(before, after)
    if before in ON_COUCH:
        onto = "" if seat == "edge" and after == "seated" else f", then across to the {SEATS[seat]}"
        return f"Help them swing their legs over the edge and sit up{onto}. {DIZZY}"
    if after in ON_COUCH:
        if before == "seated" and seat == "edge":
            return f"Help them bring their legs up, then {LIE_DOWN[after]}"
        return f"Help them from the {SEATS[seat]} to the couch, then {LIE_DOWN[after]}"
    if after == "leaning":
        across = "From the chair to the stool; they lean" if seat == "chair" else "They lean"
        return f"{across} forward onto the cushions on the couch, the forehead on the hands."
    return f"Help them come up from the cushions; they stay on the stool. {DIZZY}"


def _over(before: Position, after: Position) -> str:
    """From one way of lying to another."""
    if after == "half_reclined":
        first = "Raise" if before == "supine" else "Help them onto their back, the cover held, then raise"
        return f"{first} the backrest slowly; cushion knees and head."
    if before == "half_reclined":
        if after == "supine":
            return "Lower the backrest slowly; they stay on their back."
        return f"Lower the backrest, then help them {LIE_DOWN[after]}"
    return f"Help them {LIE_DOWN[after]}"


def seat_of(parts: Collection[str], *, talk: bool) -> Seat:
    """What somebody seated sits on: the couch's edge where legs or feet are worked, a chair while they only talk, else
    the stool.

    >>> seat_of({"foot"}, talk=False), seat_of((), talk=True)
    ('edge', 'chair')
    """
    if set(parts) & LEGS:
        return "edge"
    return "chair" if talk else "stool"


def settled(position: Position, parts: Collection[str], *, alone: bool, talk: bool = False) -> str:
    """The words. `parts`: parts of the body that are worked in this position; `talk`: they only talk in it.

    >>> settled("seated", {"foot", "lower_leg"}, alone=False)
    "At the couch's edge, the legs hanging, the feet on a stool when they are not held."
    """
    if position != "seated":
        return LYING[position]
    if alone:
        return "On a chair, both feet on the floor; a foot comes up on the other knee."
    match seat_of(parts, talk=talk):
        case "edge":
            return "At the couch's edge, the legs hanging, the feet on a stool when they are not held."
        case "chair":
            return "On a chair, to talk."
        case "stool":
            return "On a stool, the back free, the forearms on the thighs or on the couch."
