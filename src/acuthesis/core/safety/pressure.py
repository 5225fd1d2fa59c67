"""Levels of pressure, what they weigh under different contacts, and the ceiling that tissue sets."""

from functools import lru_cache

import yaml
from pydantic import BaseModel, ConfigDict

from acuthesis.core.atlas.model import Contact, Tissue
from acuthesis.core.safety.screening import DATA


class Level(BaseModel):
    """One level of pressure in plain words; `n_per_cm2` is the training default for its contact pressure."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    level: int
    name: str
    words: str
    n_per_cm2: float


class PressureTable(BaseModel):
    """The whole of pressure.yaml."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    levels: tuple[Level, ...]
    contact_cm2: dict[Contact, float]
    tissue_ceiling: dict[Tissue, int]
    tissue_reason: dict[Tissue, str]
    default_ceiling: int
    deep_reason: str
    threshold_share: float
    enter_below: int


@lru_cache
def pressure_table() -> PressureTable:
    """Levels, contact areas and tissue ceilings."""
    return PressureTable.model_validate(yaml.safe_load((DATA / "pressure.yaml").read_text()))


def force_n(level: int, contact: Contact) -> float:
    """Force in newton of a level under a contact.

    >>> force_n(3, "thumb") > force_n(3, "stick")
    True
    """
    table = pressure_table()
    return round(table.levels[level - 1].n_per_cm2 * table.contact_cm2[contact], 1)


def entering(level: int) -> tuple[int, ...]:
    """The levels on the way in: at least one below the aim, then a step at a time.

    >>> entering(3)
    (2, 3)
    """
    first = max(1, level - pressure_table().enter_below)
    return tuple(range(first, level + 1))


def contact_warning(level: int, usual: Contact, chosen: Contact) -> str | None:
    """What to say when something smaller presses than usual: the same force would be a higher pressure."""
    areas = pressure_table().contact_cm2
    if areas[chosen] >= areas[usual]:
        return None
    times = areas[usual] / areas[chosen]
    return (
        f"{_WORDS[chosen].capitalize()} instead of {_WORDS[usual]}: "
        f"the same force would press {times:.1f} times as hard. "
        f"Level {level} is {force_n(level, chosen):g} N here, not {force_n(level, usual):g} N."
    )


_WORDS: dict[Contact, str] = {
    "thumb": "a thumb",
    "finger": "a finger",
    "stacked_fingers": "stacked fingers",
    "knuckle": "a knuckle",
    "palm": "a palm",
    "stick": "a stick",
}
