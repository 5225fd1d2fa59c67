"""Levels of pressure, their force under different contacts, and the ceiling that tissue sets.

A level is a contact pressure. The shipped ones are training defaults; whoever presses reads theirs off a kitchen scale
(`calibrated`), and every force and every measured pain threshold is then worked out from these.
"""

from functools import lru_cache
from itertools import pairwise
from pathlib import Path

from pydantic import BaseModel, ConfigDict

from acuthesis.core.atlas.entries.model import Contact, Tissue
from acuthesis.core.data_file import read
from acuthesis.core.errors import CoreError, OutOfRange
from acuthesis.core.message import message

DATA = Path(__file__).parent / "data" / "pressure.yaml"
NEWTON_PER_GRAM = 0.00980665  # standard gravity
READINGS_G = (20.0, 8000.0)  # what a kitchen scale shows and a thumb gives


class Level(BaseModel):
    """One level of pressure in plain words; `n_per_cm2` is the training default for its contact pressure."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    level: int
    name: str
    words: str
    n_per_cm2: float


class PressureTable(BaseModel):
    """The whole of pressure.yaml: the levels 1 to 5, contact areas, and the ceiling of each tissue."""

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
    """Levels of pressure, contact areas and tissue ceilings, as pressure.yaml has them; read once a process.

    >>> [level.level for level in pressure_table().levels]
    [1, 2, 3, 4, 5]
    """
    return PressureTable.model_validate(read(DATA))


def calibrated(scale_g: dict[int, float]) -> PressureTable:
    """The table with the levels of one practitioner.

    `scale_g`: by level, what a kitchen scale showed (g) while their thumb pressed it as hard as that level is for them.
    A level that was not read keeps its usual ratio to the nearest one that was.

    Raises: OutOfRange for a reading no thumb gives; CoreError for a level that does not exist, or where a higher level
    would not press harder than the one below.

    >>> calibrated({3: 1000}).levels[2].n_per_cm2
    3.27
    """
    table = pressure_table()
    usual = {level.level: level.n_per_cm2 for level in table.levels}
    low, high = READINGS_G
    measured: dict[int, float] = {}
    for level, grams in scale_g.items():
        where = f"scale_g.{level}"
        if level not in usual:
            raise CoreError(message("pressure-there-no-level-there", level=level, count=len(usual)), where=where)
        if not low <= grams <= high:
            raise OutOfRange(
                message("pressure-level-g-not-between-g", level=level, grams=grams, low=low, high=high), where=where
            )
        measured[level] = grams * NEWTON_PER_GRAM / table.contact_cm2["thumb"]
    if not measured:
        return table
    own = {
        level: measured[near] * usual[level] / usual[near]
        for level in usual
        for near in [min(measured, key=lambda read: (abs(read - level), read))]
    }
    for lower, upper in pairwise(sorted(own)):
        if own[upper] <= own[lower]:
            raise CoreError(
                message("pressure-with-these-readings-level-no", upper=upper, lower=lower),
                where=f"scale_g.{upper if upper in measured else lower}",
            )
    levels = tuple(level.model_copy(update={"n_per_cm2": round(own[level.level], 2)}) for level in table.levels)
    return table.model_copy(update={"levels": levels})


def force_n(level: int, contact: Contact, table: PressureTable | None = None) -> float:
    """Force in newton of a level under a contact, by the training defaults or by a practitioner's own table.

    >>> force_n(3, "thumb") > force_n(3, "stick")
    True
    """
    table = table or pressure_table()
    return round(table.levels[level - 1].n_per_cm2 * table.contact_cm2[contact], 1)


def entering(level: int) -> tuple[int, ...]:
    """The levels on the way in: at least one below the aim, then a step at a time.

    >>> entering(3)
    (2, 3)
    """
    first = max(1, level - pressure_table().enter_below)
    return tuple(range(first, level + 1))


def contact_warning(level: int, usual: Contact, chosen: Contact, table: PressureTable | None = None) -> str | None:
    """What to say when something smaller presses than usual: the same force would be a higher pressure.

    >>> contact_warning(3, "thumb", "thumb") is None
    True
    """
    table = table or pressure_table()
    areas = table.contact_cm2
    if areas[chosen] >= areas[usual]:
        return None
    times = areas[usual] / areas[chosen]
    return (
        f"{_WORDS[chosen].capitalize()} instead of {_WORDS[usual]}: "
        f"the same force would press {times:.1f} times as hard. "
        f"Level {level} is {force_n(level, chosen, table):g} N here, not {force_n(level, usual, table):g} N."
    )


def contact_words(contact: Contact) -> str:
    """What presses, in words: "a thumb".

    >>> contact_words("stacked_fingers")
    'stacked fingers'
    """
    return _WORDS[contact]


_WORDS: dict[Contact, str] = {
    "thumb": "a thumb",
    "finger": "a finger",
    "stacked_fingers": "stacked fingers",
    "knuckle": "a knuckle",
    "palm": "a palm",
    "stick": "a stick",
}
