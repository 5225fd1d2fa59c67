"""The order of what was chosen: positions with the fewest turns, in each the school's phases, in each phase its way."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from acuthesis.core.atlas.catalogue import level_of, part_names, part_of, sites, surfaces
from acuthesis.core.atlas.model import Area, Position
from acuthesis.core.compose.candidates import Candidate, Way
from acuthesis.core.compose.dose import Dose
from acuthesis.core.compose.school import School, Within
from acuthesis.core.compose.solve import Chosen, Solution
from acuthesis.core.compose.technique import Technique
from acuthesis.core.safety.pressure import pressure_table
from acuthesis.core.safety.touching import StopSide

# How easily a person comes into a position from another; ties in the order of positions are settled by this.
EASE: tuple[Position, ...] = ("seated", "prone", "left_side", "right_side", "supine")


@dataclass(frozen=True)
class Placed:
    """A stop in order: what, on which side, in which position and phase."""

    candidate: Candidate
    way: Way
    side: StopSide
    position: Position
    phase: int

    @property
    def dose(self) -> Dose:
        """Its dose."""
        return self.way.dose


def in_order(solution: Solution, school: School) -> list[Placed]:
    """Every stop of a solution in order, sides that are worked one after the other as two stops."""
    placed: list[Placed] = []
    for stretch in _stretches(solution.chosen, school):
        here = [one for chosen in stretch for one in _sided(chosen, school)]
        lead = _lead(here)
        placed += sorted(here, key=lambda one: _rank(one, school, lead))
    return placed


def _stretches(chosen: Sequence[Chosen], school: School) -> list[list[Chosen]]:
    """What is done in one position without turning; where the order is free, the calmest stretch is the last."""
    groups: dict[tuple[int, Position], list[Chosen]] = {}
    for one in chosen:
        groups.setdefault((one.block, one.position), []).append(one)
    if school.order.scope == "whole":
        return [groups[key] for key in sorted(groups, key=lambda key: key[0])]

    def calm(key: tuple[int, Position]) -> tuple[float, int]:
        roles = [one.candidate.role for one in groups[key]]
        ease = school.positions.index(key[1]) if school.positions else EASE.index(key[1])
        if school.alone:
            return 0.0, ease  # the easiest position first
        return roles.count("calm") / len(roles) + 0.02 * len(roles) * (key[1] == "supine"), ease

    return [groups[key] for key in sorted(groups, key=calm)]


def _sided(chosen: Chosen, school: School) -> list[Placed]:
    way = chosen.candidate.ways[chosen.way]
    sides: tuple[StopSide, ...] = ("right", "left") if way.stops == 2 else (way.side,)
    return [Placed(chosen.candidate, way, side, chosen.position, chosen.candidate.phase) for side in sides]


def _weight(one: Placed) -> float:
    return sum(one.candidate.benefits.values())


def _part(one: Placed) -> str:
    target = one.candidate.target
    return target.places[-1] if isinstance(target, Technique) and target.places else _entry_part(one)


def _entry_part(one: Placed) -> str:
    target = one.candidate.target
    return "" if isinstance(target, Technique) else part_of(target)


def _lead(here: Sequence[Placed]) -> dict[tuple[int, str], float]:
    """The most important weight of each body part in each phase: the hands stay on a part until it is done."""
    lead: dict[tuple[int, str], float] = {}
    for one in here:
        key = (one.phase, _part(one))
        lead[key] = max(lead.get(key, 0.0), _weight(one))
    return lead


def _rank(one: Placed, school: School, lead: dict[tuple[int, str], float]) -> tuple[float, ...]:
    """Phase (phases worked by side form one, first right and then left), then the way that leads inside it."""
    phases = school.phases
    phase = phases[one.phase]
    first = one.phase
    pass_ = 0
    if phase.by_side:
        while first > 0 and phases[first - 1].by_side:
            first -= 1
        pass_ = {"left": 1}.get(one.side, 0)
    within = phase.within or school.order.within
    return (first, pass_, one.phase, *_along(one, within, lead))


def _along(one: Placed, within: Within, lead: dict[tuple[int, str], float]) -> tuple[float, ...]:
    target = one.candidate.target
    weight = -_weight(one)
    if isinstance(target, Technique):
        return (-1, weight, _site(one))  # strokes and breathing open a phase
    match within:
        case "toes_to_heel":
            return (0, part_of(target) != "foot", *_down(one))
        case "forehead_to_chin":
            return (0, *_face(one))
        case "chin_to_scalp":
            return (0, *(-value for value in _face(one)))
        case "top_down":
            return (0, _site(one), _number(target.id), weight)
        case "broad_to_deep":
            contact = target.contact if isinstance(target, Area) else target.press.contact
            return (0, one.way.level, -pressure_table().contact_cm2[contact], _site(one), weight)
        case "importance":
            return (0, -lead[one.phase, _part(one)], _part_order(one), weight, _site(one))


def _part_order(one: Placed) -> float:
    return list(part_names()).index(_part(one)) if _part(one) in part_names() else 0


@lru_cache
def _site_order() -> dict[str, int]:
    return {site: index for index, site in enumerate(sites())}


def _site(one: Placed) -> int:
    """Place of its site from head to foot, as the sites are listed."""
    return _site_order().get(one.candidate.site, 0)


def _number(id: str) -> int:
    digits = "".join(letter for letter in id if letter.isdigit())
    return int(digits) if digits else 0


def _down(one: Placed) -> tuple[float, float]:
    """Surface after surface, each from the toes (or finger tips) toward the heel (or wrist)."""
    target = one.candidate.target
    if not isinstance(target, Area):
        return (len(surfaces()), _site(one))
    return (list(surfaces()).index(target.surface), -level_of(target))


def _face(one: Placed) -> tuple[float, float]:
    """From the scalp over the forehead to the chin."""
    target = one.candidate.target
    if not isinstance(target, Area):
        return (1, _site(one))
    scalp = target.surface.startswith("scalp")
    return (0 if scalp else 1, -level_of(target))
