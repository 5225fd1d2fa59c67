"""Why a place is used for a complaint, in a few words: its role, where it is, and what its channel passes."""

from acuthesis.core.atlas.entries.catalogue import Entry
from acuthesis.core.atlas.entries.model import Point
from acuthesis.core.compose.knowledge.complaint_sites import channels_there, lies_there
from acuthesis.core.compose.knowledge.complaints import ROLE_WORDS, Role, Use
from acuthesis.core.words import region_words

# What an area on feet, hands, ears or face is for the complaint that it answers to.
REFLEX_WORDS: dict[Role, str] = {"main": "its reflex area", "supply": "supporting area", "far": "linked area"}


def why_of(use: Use, target: Entry, complaint: str) -> str:
    """Why it is used for a complaint: in its own words, or from its role, its place, and what its channel passes.

    >>> from acuthesis.core.atlas.entries.catalogue import entry
    >>> from acuthesis.core.compose.knowledge.complaints import complaint_kind
    >>> kind = complaint_kind("low_back_ache")
    >>> [why_of(use, entry(use.id), kind.id) for use in kind.uses if use.id in ("GV20", "BL32")]
    ['local point, sacrum', 'calming, crown']
    """
    if use.why:
        return use.why
    place = region_words(target.region)
    there = lies_there(target, complaint)
    if use.role in ("warm", "finish", "pain", "calm"):
        return f"{ROLE_WORDS[use.role]}, {place}"
    if use.ground != "points":
        return f"{REFLEX_WORDS[use.role]}, {place}"
    if there:
        return f"local point, {place}"
    if use.role == "main":
        return f"a first choice for it, {place}"
    if use.role == "far" and isinstance(target, Point) and target.channel in channels_there(complaint):
        return f"distal point on the {target.channel} channel, which passes through the area, {place}"
    return f"{ROLE_WORDS[use.role]} point, {place}"
