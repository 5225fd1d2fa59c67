"""Positioning a person for what is pressed: couch, stool or the couch's edge, and where cushions go.

Source: manual-therapy teaching.
"""

from collections.abc import Collection
from typing import Literal

from acuthesis.core.atlas.entries.model import Position

LEGS = frozenset({"thigh", "lower_leg", "foot"})
BACK = frozenset({"trunk"})
LYING: dict[Position, str] = {
    "supine": "Face up, with a cushion under the knees.",
    "half_reclined": "Half reclined: backrest raised or a firm wedge of pillows, with a cushion under the knees.",
    "prone": "Face down, the face in the cradle or turned to one side, with a roll under the ankles.",
    "left_side": "On the left side, with a pillow under the head, one between the knees and one to hug.",
    "right_side": "On the right side, with a pillow under the head, one between the knees and one to hug.",
    "leaning": "On a stool, leaning forward onto cushions on the couch, forehead on the hands.",
}


# How a person is helped out of a position, and into one. Source: manual-therapy teaching.
ON_COUCH: tuple[Position, ...] = ("supine", "half_reclined", "prone", "left_side", "right_side")
DIZZY = "Let them sit for a minute; ask if they feel dizzy."
LIE_DOWN: dict[Position, str] = {
    "supine": "onto their back; hold the cover. Cushion the head and knees first.",
    "half_reclined": "back against the raised backrest; hold the cover. Cushion the knees and head first.",
    "prone": "face down; hold the cover. Support the face and ankles first.",
    "left_side": "onto their left side; hold the cover. Place the pillows first.",
    "right_side": "onto their right side; hold the cover. Place the pillows first.",
}
Seat = Literal["stool", "edge", "chair"]
SEATS: dict[Seat, str] = {"stool": "stool", "edge": "couch's edge", "chair": "chair"}
# Questions of the screening: who says yes has skin that cannot warn.
CANNOT_WARN = ("numb_feet", "numb_places", "old_stroke_side")
LOOK_AT_SKIN = "Check the skin where they feel numb, where they lay and where you pressed."


def turning(before: Position, after: Position, *, seat: Seat = "stool", numb: bool = False) -> str:
    """How the person is helped from one position into another.

    Parameters: seat, what who is seated (before or after) sits on; numb, whether some of their skin cannot warn.

    >>> turning("leaning", "seated")
    'Help them come up from the cushions and stay on the stool. Let them sit for a minute; ask if they feel dizzy.'
    >>> turning("half_reclined", "supine")
    'Lower the backrest slowly; they stay face up.'
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
    return f"Help them come up from the cushions and stay on the stool. {DIZZY}"


def _over(before: Position, after: Position) -> str:
    """From one way of lying to another."""
    if after == "half_reclined":
        first = "Raise" if before == "supine" else "Help them onto their back, holding the cover, then raise"
        return f"{first} the backrest slowly. Cushion the knees and head."
    if before == "half_reclined":
        if after == "supine":
            return "Lower the backrest slowly; they stay face up."
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
    'On the edge of the couch, legs hanging; feet on a stool when you are not holding them.'
    """
    if position != "seated":
        return LYING[position]
    if alone:
        return "On a chair, both feet on the floor; raise one foot onto the other knee as needed."
    match seat_of(parts, talk=talk):
        case "edge":
            return "On the edge of the couch, legs hanging; feet on a stool when you are not holding them."
        case "chair":
            return "On a chair, to talk."
        case "stool":
            return "On a stool, back free, forearms on the thighs or on the couch."
