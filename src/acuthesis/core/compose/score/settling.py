"""Positioning a person for what is pressed: couch, stool or the couch's edge, and where cushions go.

Source: manual-therapy teaching.
"""

from collections.abc import Collection

from acuthesis.core.atlas.entries.model import Position

LEGS = frozenset({"thigh", "lower_leg", "foot"})
BACK = frozenset({"trunk"})
LYING: dict[Position, str] = {
    "supine": "On the back, a cushion under the knees.",
    "prone": "On the front, the face in the hole or turned, a roll under the ankles.",
    "left_side": "On the left side, a pillow under the head, one between the knees, one to hug.",
    "right_side": "On the right side, a pillow under the head, one between the knees, one to hug.",
    "leaning": "On a stool, leaning forward on cushions on the couch, the forehead on the hands.",
}


# How a person is helped into a position.
TURN: dict[Position, str] = {
    "supine": "Help them onto their back, the cover held; head and knees are cushioned before hands go on.",
    "prone": "Help them onto their front, away from you and back to the middle, the cover held; face and ankles first.",
    "left_side": "Help them onto their left side, toward you, a hand on shoulder and hip; cushions before hands.",
    "right_side": "Help them onto their right side, toward you, a hand on shoulder and hip; cushions before hands.",
    "seated": "Help them up over the side, legs down first; a minute seated, and ask whether it turns.",
    "leaning": "Help them up over the side and onto the stool; a minute seated, and ask whether it turns.",
}
# Questions of the screening: who says yes has skin that cannot warn.
CANNOT_WARN = ("numb_feet", "numb_places", "old_stroke_side")
LOOK_AT_SKIN = "Look at the skin of what is numb, where they lay and where you pressed."


def turning(position: Position, *, numb: bool) -> str:
    """How the person is helped into a position. `numb`: some of their skin cannot warn.

    >>> turning("seated", numb=True).endswith("where you pressed.")
    True
    """
    return f"{TURN[position]} {LOOK_AT_SKIN}" if numb else TURN[position]


def settled(position: Position, parts: Collection[str], *, alone: bool) -> str:
    """The words. `parts`: parts of the body that are worked in this position.

    >>> settled("seated", {"foot", "lower_leg"}, alone=False)
    "At the couch's edge, the legs hanging, the feet on a stool when they are not held."
    """
    if position != "seated":
        return LYING[position]
    if alone:
        return "On a chair, both feet on the floor; a foot comes up on the other knee."
    if set(parts) & LEGS:
        return "At the couch's edge, the legs hanging, the feet on a stool when they are not held."
    return "On a stool, the back free, the forearms on the thighs or on the couch."
