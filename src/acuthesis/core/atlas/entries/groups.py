"""Groups in which the atlas is looked through: a channel, a map of ear, foot, hand, face or scalp, extra points."""

from pydantic import BaseModel

from acuthesis.core.atlas.entries.catalogue import Entry
from acuthesis.core.atlas.entries.model import Area

GROUPS = {
    "LU": "Lung channel",
    "LI": "Large intestine channel",
    "ST": "Stomach channel",
    "SP": "Spleen channel",
    "HT": "Heart channel",
    "SI": "Small intestine channel",
    "BL": "Bladder channel",
    "KI": "Kidney channel",
    "PC": "Pericardium channel",
    "TE": "Triple energizer channel",
    "GB": "Gallbladder channel",
    "LR": "Liver channel",
    "GV": "Governing vessel, middle of the back",
    "CV": "Conception vessel, middle of the front",
    "EX": "Extra points",
    "ribs": "Ribs",
    "ear": "Ear",
    "ear2": "Ear, second map",
    "foot": "Foot",
    "foot2": "Foot, second map",
    "hand": "Hand",
    "face": "Face",
    "scalp": "Scalp",
    "scalp2": "Scalp, standard lines",
    "own": "Our own",
}
_BY_SURFACE = {"sole": "foot", "palm": "hand"}


class Group(BaseModel):
    """A group by id, in the order in which it is offered."""

    id: str
    name: str


def groups() -> list[Group]:
    """All groups the atlas is looked through in: the channels, extra points, each map of foot, hand, ear and face.

    >>> groups()[0].id
    'LU'
    """
    return [Group(id=id, name=name) for id, name in GROUPS.items()]


def group_of(entry: Entry) -> str:
    """Id of the group of a point (its channel) or area (its surface, with its tradition where there are two).

    >>> from acuthesis.core.atlas.entries.catalogue import entry
    >>> group_of(entry("SP6"))
    'SP'
    """
    if entry.id.startswith("own_"):
        return "own"
    if isinstance(entry, Area):
        base = _BY_SURFACE.get(entry.surface, entry.surface.split("_")[0])
        return f"{base}2" if entry.map == "second" else base
    return "ribs" if entry.id.startswith("rib_") else entry.channel
