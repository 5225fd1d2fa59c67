"""Adapts a dose to a person: its level under the ceiling, an allowed form, no longer than is allowed.

The composer, a stop added by hand and the home sheet all take theirs from here.
"""

from dataclasses import dataclass

from acuthesis.core.compose.knowledge.dose import Dose, DoseDefault, duration_s, in_form, slides, within
from acuthesis.core.compose.score.score import default_level
from acuthesis.core.safety.limits import Limits
from acuthesis.core.safety.touching import StopSide

AS_LIGHT = "Hand contact only: no firm gliding strokes here."
HELD = "Held instead of gliding: no gliding strokes here."


@dataclass(frozen=True)
class Adapted:
    """A dose and the level (1 to 5) that it aims at, and what was changed for the person."""

    dose: Dose
    level: int
    why: tuple[str, ...] = ()

    def no_longer_than(self, longest_s: float | None) -> Dose:
        """The dose within so many seconds on a side."""
        return within(self.dose, longest_s)


def adapted(default: DoseDefault, side: StopSide, limits: Limits, *, lighter: int = 0, moves: bool = False) -> Adapted:
    """A usual dose as it is done with this person.

    Parameters: lighter, by how many levels; moves, for strokes and stretches, which cannot be turned into a hold and
    become light instead. What is too long is not shortened here (`no_longer_than`).
    """
    dose = default.dose if side == "both" else default.dose.model_copy(update={"together": False})
    level = default_level(max(default.level - lighter, 1), limits.ceiling)
    if limits.no_glide and slides(dose) and level > 1:
        if moves:
            return Adapted(dose, 1, (AS_LIGHT,))
        return Adapted(in_form("hold", duration_s(dose), together=dose.together), level, (HELD,))
    return Adapted(dose, level)
