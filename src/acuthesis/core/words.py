"""Shared wording for screens, papers and reasons."""

import re
from collections.abc import Sequence

from acuthesis.core.atlas.entries.model import Position

# Of the person: how they lie or sit. After "is not done" and "cannot be reached", too.
POSITION_WORDS: dict[Position, str] = {
    "supine": "face up",
    "half_reclined": "half reclined",
    "prone": "face down",
    "left_side": "on the left side",
    "right_side": "on the right side",
    "seated": "seated",
    "leaning": "seated, leaning forward on cushions",
}
# Regions that are called otherwise than their ids, which records hold.
REGION_WORDS = {"low back": "lower back", "upper belly": "upper abdomen", "lower belly": "lower abdomen"}
# What an id begins with beside the name that people say: the surface, and a 2 for the second tradition.
SURFACE_PREFIX = r"^(ear|foot|hand|face|scalp|own)2?_"


def region_words(region: str) -> str:
    """A region of the body as people call it.

    >>> region_words("low back"), region_words("sacrum")
    ('lower back', 'sacrum')
    """
    return REGION_WORDS.get(region, region)


def short_id(id: str) -> str:
    """Code of a point or area as people say it.

    >>> short_id("ear_TF4"), short_id("foot2_spine_lumbar"), short_id("SP6")
    ('TF4', 'spine lumbar', 'SP6')
    """
    return re.sub(SURFACE_PREFIX, "", id).replace("_", " ")


def counted(number: int, noun: str) -> str:
    """A number with its noun: "1 rating", "3 ratings".

    >>> counted(1, "rating"), counted(0, "visit")
    ('1 rating', '0 visits')
    """
    return f"{number} {noun}" if number == 1 else f"{number} {noun}s"


def either(things: Sequence[str]) -> str:
    """One of several: "fever, a rash or a lump"; with semicolons where one of them is a choice itself.

    >>> either(["fever", "a rash", "a lump"]), either(["fever"])
    ('fever, a rash or a lump', 'fever')
    """
    *first, last = things
    if not first:
        return last
    return (
        f"{'; '.join(things)}"
        if any("," in one or " or " in one for one in things)
        else f"{', '.join(first)} or {last}"
    )
