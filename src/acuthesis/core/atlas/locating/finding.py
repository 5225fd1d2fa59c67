"""Findings of the hand on one person: offset from the rule's place, soreness, how it felt. The person's own map."""

from datetime import datetime
from typing import Annotated, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.atlas.entries.catalogue import Entry, part_of
from acuthesis.core.body.figure import Side, Vector
from acuthesis.core.body.fit import FittedBody
from acuthesis.core.body.frames import Frame, frame_of
from acuthesis.core.errors import OutOfRange
from acuthesis.core.message import message

FARTHEST_MM = 40.0  # farther away it is another place
LEAST_MM = 0.5
PARALLEL = 0.7  # cosine from which two directions say the same
MOST_DIRECTIONS = 3
Texture = Literal["hollow", "cord", "knot", "grit", "hard", "soft", "warm", "cold"]
# What leads along a limb is said by where it leads to; the rest is the same everywhere.
WORDS: dict[str, dict[str, str]] = {
    "head": {"superior": "up", "inferior": "down"},
    "trunk": {"superior": "towards the head", "inferior": "towards the feet"},
    "upper_arm": {"proximal": "towards the shoulder", "distal": "towards the elbow"},
    "forearm": {"proximal": "towards the elbow", "distal": "towards the wrist"},
    "hand": {"proximal": "towards the wrist", "distal": "towards the fingertips"},
    "thigh": {"proximal": "towards the hip", "distal": "towards the knee"},
    "lower_leg": {"proximal": "towards the knee", "distal": "towards the ankle"},
    "foot": {"proximal": "towards the heel", "distal": "towards the toes"},
}
SIDEWAYS = {
    "lateral": "outwards",
    "medial": "inwards",
    "anterior": "forward",
    "posterior": "back",
    "superior": "up",
    "inferior": "down",
    "radial": "towards the thumb",
    "ulnar": "towards the little finger",
    "dorsal": "towards the back of the hand",
    "palmar": "towards the palm",
    "plantar": "towards the sole",
}


# The ways in which a hand looks beside a place, there and back: along the part first, as arrow keys go up and down.
PAIRS = (
    ("proximal", "distal"),
    ("superior", "inferior"),
    ("radial", "ulnar"),
    ("medial", "lateral"),
    ("anterior", "posterior"),
    ("dorsal", "palmar"),
    ("dorsal", "plantar"),
)
MIDDLE = {"medial": "to their right", "lateral": "to their left"}  # in the middle the frame is that of the left


class WayBeside(BaseModel):
    """A direction in which a hand may find a place: its name among those of the part, and in words."""

    model_config = ConfigDict(frozen=True)

    name: str
    words: str


def beside(part: str, frame: Frame, normal: Vector, *, middle: bool) -> tuple[WayBeside, ...]:
    """The four ways that lead along the skin beside a place: up and down, and the two across.

    Parameters: part and frame, the body part with its directions; normal (3,), outward from the skin at the place;
    middle, whether the place is on the midline.
    """
    there = [pair for pair in PAIRS if pair[0] in frame and pair[1] in frame]
    flat = sorted(there, key=lambda pair: abs(float(frame[pair[0]] @ normal)))
    first = flat[0]
    second = next(pair for pair in flat[1:] if abs(float(frame[pair[0]] @ frame[first[0]])) < PARALLEL)
    names = [name for pair in sorted((first, second), key=PAIRS.index) for name in pair]
    words = {**SIDEWAYS, **WORDS[part], **(MIDDLE if middle else {})}
    return tuple(WayBeside(name=name, words=words[name]) for name in names)


def in_words_of_texture(texture: Texture) -> str:
    """How a place feels, as it is told: "a knot", "warm"."""
    return {"cord": "a cord", "knot": "a knot", "hollow": "a hollow"}.get(texture, texture)


class Offset(BaseModel):
    """How far along two directions of the body part, mm: `{"distal": 6, "medial": 2}`."""

    model_config = ConfigDict(frozen=True)

    mm: dict[str, Annotated[float, Field(ge=-FARTHEST_MM, le=FARTHEST_MM, allow_inf_nan=False)]] = Field(
        default_factory=dict, max_length=3
    )

    @property
    def length_mm(self) -> float:
        """How far in all."""
        return float(np.sqrt(sum(amount**2 for amount in self.mm.values())))


class Finding(BaseModel):
    """One finding at a point or area of a person, on a side."""

    entry: str
    side: Side
    offset: Offset = Offset()
    soreness: int | None = Field(None, ge=0, le=10)
    texture: Texture | None = None
    note: str = ""
    at: datetime


def moved(place: Vector, offset: Offset, entry: Entry, side: Side, body: FittedBody) -> Vector:
    """The found place (3,) on the skin: from the rule's place along the directions of the part. Raises: UnknownId."""
    frame = frame_of(body.figure, part_of(entry), side)
    steps = sum((mm / 10 * frame[name] for name, mm in offset.mm.items() if name in frame), np.zeros(3))
    found, _ = body.figure.nearest_on_skin(place + steps)
    return found


def offset_to(found: Vector, place: Vector, entry: Entry, side: Side, body: FittedBody) -> Offset:
    """How a found place lies beside the rule's: along the directions of the part that say most, in whole millimetres.

    Raises: OutOfRange if it is farther away than a place can be.
    """
    frame = frame_of(body.figure, part_of(entry), side)
    away = 10 * (found - place)
    if np.linalg.norm(away) > FARTHEST_MM:
        raise OutOfRange(
            message(
                "finding-spot-cm-from-finding-at",
                norm=np.linalg.norm(away) / 10,
                id=entry.id,
                farthest_mm=FARTHEST_MM / 10,
            ),
            where="found_cm",
        )
    # One direction after the other, each for what the ones before it leave over: a foot's plantar is also its inferior.
    said: dict[str, float] = {}
    for _ in range(MOST_DIRECTIONS):
        name = max(frame, key=lambda one: float(away @ frame[one]))
        amount = float(round(float(away @ frame[name])))
        if amount < 1:
            break
        said[name] = said.get(name, 0.0) + amount
        away = away - amount * frame[name]
    return Offset(mm=said)


def finding_in_words(finding: Finding, part: str) -> str:
    """A finding as a line for the person's record: how far the fingers were from the computed place, in whole mm along
    the directions of the body part, then soreness (0 to 10) and texture where they were noted: "6 mm toward the heel,
    soreness 5, a knot". `part`: the body part whose frame the offset is given in."""
    parts = [
        f"{abs(mm):.0f} mm {WORDS[part].get(name, SIDEWAYS.get(name, name))}"
        for name, mm in finding.offset.mm.items()
        if abs(mm) >= LEAST_MM
    ] or ["at the calculated spot"]
    said = [" and ".join(parts)]
    if finding.soreness is not None:
        said.append(f"soreness {finding.soreness}")
    if finding.texture is not None:
        said.append(in_words_of_texture(finding.texture))
    return ", ".join(said)
