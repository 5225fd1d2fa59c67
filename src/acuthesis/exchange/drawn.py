"""Places with their drawings, as papers take them."""

from collections.abc import Iterable
from dataclasses import dataclass

from acuthesis.core.atlas.locating.locate import Located


@dataclass(frozen=True)
class DrawnPlace:
    """A located point or area with its drawing (SVG).

    `landmarks`: what the letters in the drawing stand for, from a on; `sides`: where it was pressed, in words.
    """

    located: Located
    svg: str
    landmarks: tuple[str, ...] = ()
    sides: str = ""


def named(drawings: Iterable[str]) -> dict[str, str]:
    """Drawings by the names that templates show them under: `drawing-0`, `drawing-1` and so on."""
    return {f"drawing-{rank}": svg for rank, svg in enumerate(drawings)}
