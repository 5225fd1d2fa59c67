"""Fifth step: the order of what was chosen, an optimisation too: least walking, reaching and changing of the hands.

What a school teaches is kept first: positions with the calmest last, in each the phases, in each phase its way (right
then left, toes to heel, from broad to deep), the hands on a part of the body until it is done. What that leaves free is
put in the order that costs least (weights.yaml, `order`): metres walked, metres from hand to hand, changes of what
presses, a gentle place after a strong one, and what matters most a little earlier. It is found by dynamic programming
over what is done and what was done last, so it is the least there is, and not a guess.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from acuthesis.core.atlas.entries.catalogue import level_of, part_of, sites, surfaces
from acuthesis.core.atlas.entries.model import Area, Position
from acuthesis.core.compose.choose.candidates import Candidate, Way
from acuthesis.core.compose.choose.solve import Chosen
from acuthesis.core.compose.knowledge.dose import Dose
from acuthesis.core.compose.knowledge.school import School, Within
from acuthesis.core.compose.knowledge.technique import Technique
from acuthesis.core.compose.knowledge.weights import weights
from acuthesis.core.compose.score.score import TALKED_IN
from acuthesis.core.compose.score.stance import WorkingStance, rounds, step_m
from acuthesis.core.safety.pressure import pressure_table
from acuthesis.core.safety.touching import StopSide

MOST_FREE = 9  # places on one part of the body whose every order is looked at: what is done by then has 2^n states
EVEN = 1e-12  # two ways that cost the same: the one found first stays
# How easily a person comes into a position from another; ties in the order of positions are settled by this.
EASE: tuple[Position, ...] = ("seated", "leaning", "prone", "left_side", "right_side", "half_reclined", "supine")


@dataclass(frozen=True)
class OrderedStop:
    """A stop in order: what, on which side, in which position and phase; `round` how it is worked."""

    candidate: Candidate
    way: Way
    side: StopSide
    position: Position
    phase: int
    round: WorkingStance

    @property
    def dose(self) -> Dose:
        """Its dose."""
        return self.way.dose


@dataclass(frozen=True)
class Ordered:
    """The stops in order, and what the order costs; `bound`: what no other order that the school allows can beat."""

    placed: tuple[OrderedStop, ...]
    cost: float
    bound: float


def in_order(
    chosen: Sequence[Chosen],
    school: School,
    *,
    alone: bool = False,
    lying: Position | None = None,
    face_up_first: bool = False,
) -> Ordered:
    """Everything that was chosen in order, sides that are worked one after the other as two stops. `alone`: nobody
    walks round who presses their own points. `lying`: where the person is already, which comes first. `face_up_first`:
    begin where somebody can be talked to, because they turn only so often.
    """
    placed: list[OrderedStop] = []
    cost = 0.0
    for stretch in _stretches(chosen, school, lying, face_up_first):
        best, spent = least_costly(list(_groups(stretch, school)), OrderCost(alone))
        placed += best
        cost += spent
    return Ordered(tuple(placed), cost, cost)


def _stretches(
    chosen: Sequence[Chosen], school: School, lying: Position | None, face_up_first: bool
) -> list[list[Chosen]]:
    """What is done in one position without turning; where the order is free, the calmest stretch is the last."""
    groups: dict[tuple[int, Position], list[Chosen]] = {}
    for choice in chosen:
        groups.setdefault((choice.block, choice.position), []).append(choice)
    if school.order.scope == "whole":
        return [groups[key] for key in sorted(groups, key=lambda key: key[0])]

    def calm(key: tuple[int, Position]) -> tuple[float, int]:
        roles = [group.candidate.role for group in groups[key]]
        ease = school.positions.index(key[1]) if school.positions else EASE.index(key[1])
        if school.alone:
            return 0.0, ease  # the easiest position first
        return roles.count("calm") / len(roles) + 0.02 * len(roles) * (key[1] in ("supine", "half_reclined")), ease

    def turned_away(key: tuple[int, Position]) -> bool:
        return face_up_first and key[1] not in TALKED_IN

    return [groups[key] for key in sorted(groups, key=lambda key: (key[1] != lying, turned_away(key), *calm(key)))]


def _sided(chosen: Chosen) -> list[OrderedStop]:
    way = chosen.candidate.ways[chosen.way]
    sides: tuple[StopSide, ...] = ("right", "left") if way.stops == 2 else (way.side,)
    return [
        OrderedStop(chosen.candidate, way, side, chosen.position, chosen.candidate.phase, _rounds(chosen, side)[0])
        for side in sides
    ]


def _rounds(chosen: Chosen | OrderedStop, side: StopSide) -> tuple[WorkingStance, ...]:
    way = chosen.way if isinstance(chosen.way, Way) else chosen.candidate.ways[chosen.way]
    return rounds(chosen.candidate.target, side, chosen.position, together=way.dose.together)


# --- what the school fixes ---


def _groups(stretch: Sequence[Chosen], school: School) -> Iterator[list[OrderedStop]]:
    """What may be put in any order, one group after the other; where the school fixes the order, one at a time."""
    here = [one for chosen in stretch for one in _sided(chosen)]
    by_rank: dict[tuple[float, ...], list[OrderedStop]] = {}
    for one in here:
        by_rank.setdefault(_rank(one, school), []).append(one)
    for rank in sorted(by_rank):
        group = by_rank[rank]
        within = school.phases[group[0].phase].within or school.order.within
        strokes = isinstance(group[0].candidate.target, Technique)
        if within == "importance" or strokes:
            yield from _in_reach(sorted(group, key=lambda one: (-_weight(one), one.candidate.id, one.side)))
        else:
            yield from ([one] for one in _in_courses(sorted(group, key=lambda one: _along(one, within)), school))


def _in_reach(group: list[OrderedStop]) -> Iterator[list[OrderedStop]]:
    """A group as it is; where so much of it lies on one part of the body that not every order can be looked at, part
    after part, the weightiest first, so many at a time.
    """
    parts: dict[str, list[OrderedStop]] = {}
    for one in group:
        parts.setdefault(one.candidate.part, []).append(one)
    if all(len(part) <= MOST_FREE for part in parts.values()):
        yield group
        return
    for part in parts.values():
        yield from (part[first : first + MOST_FREE] for first in range(0, len(part), MOST_FREE))


def _rank(one: OrderedStop, school: School) -> tuple[float, ...]:
    """What comes before what, whatever the way costs: what was mixed in is a block at the end; phases (those worked by
    side are one, first right and then left); strokes open a phase; parts of the body that the school puts first.
    """
    phases = school.phases
    first, pass_ = one.phase, 0
    if phases[one.phase].by_side:
        while first > 0 and phases[first - 1].by_side:
            first -= 1
        pass_ = {"left": 1}.get(one.side, 0)
    pressed = not isinstance(one.candidate.target, Technique)
    part = one.candidate.part
    early = school.parts_first.index(part) if part in school.parts_first else len(school.parts_first)
    return (float(one.candidate.extra), first, pass_, one.phase, float(pressed), early if pressed else 0)


def _in_courses(group: list[OrderedStop], school: School) -> list[OrderedStop]:
    """The group with what belongs to one course (the colon, the way of the water) in its order, where its first is."""
    for course in school.courses:
        mine = [member for member in group if member.candidate.id in course]
        if len(mine) > 1:
            start = group.index(mine[0])
            rest = [member for member in group if member not in mine]
            mine.sort(key=lambda one: course.index(one.candidate.id))
            group = [*rest[:start], *mine, *rest[start:]]
    return group


def _weight(one: OrderedStop) -> float:
    return sum(one.candidate.benefits.values())


def _along(one: OrderedStop, within: Within) -> tuple[float, ...]:
    target = one.candidate.target
    assert not isinstance(target, Technique)
    weight = -_weight(one)
    match within:
        case "toes_to_heel":
            return (part_of(target) != "foot", *_down(one))
        case "forehead_to_chin":
            return _face(one)
        case "chin_to_scalp":
            return tuple(-value for value in _face(one))
        case "top_down":
            return (_site(one), _number(target.id), weight)
        case "broad_to_deep":
            return (one.way.level, -pressure_table().contact_cm2[one.candidate.contact], _site(one), weight)
        case "importance":
            return (weight,)


@lru_cache
def _site_order() -> dict[str, int]:
    return {site: index for index, site in enumerate(sites())}


def _site(one: OrderedStop) -> int:
    """Place of its site from head to foot, as the sites are listed."""
    return _site_order().get(one.candidate.site, 0)


def _number(id: str) -> int:
    digits = "".join(letter for letter in id if letter.isdigit())
    return int(digits) if digits else 0


def _down(one: OrderedStop) -> tuple[float, float]:
    """Surface after surface, each from the toes (or finger tips) toward the heel (or wrist)."""
    target = one.candidate.target
    if not isinstance(target, Area):
        return (len(surfaces()), _site(one))
    return (list(surfaces()).index(target.surface), -level_of(target))


def _face(one: OrderedStop) -> tuple[float, float]:
    """From the scalp over the forehead to the chin."""
    target = one.candidate.target
    if not isinstance(target, Area):
        return (1, _site(one))
    scalp = target.surface.startswith("scalp")
    return (0 if scalp else 1, -level_of(target))


# --- what is free ---


@dataclass(frozen=True)
class OrderCost:
    """What an order costs (weights.yaml, `order`); `alone`: for hands only, nobody walks."""

    alone: bool = False

    def step(self, before: OrderedStop | None, one: OrderedStop) -> float:
        """What it costs to go on to a stop and to work it; nothing is walked to the first."""
        table = weights().order
        same = before if before is not None and before.position == one.position else None
        walked, hands, reached = step_m(same.round if same else None, one.round, one.position)
        cost = table.hands * hands if self.alone else table.going(walked, hands, reached)
        if same is None:
            return cost
        cost += table.tool * (same.candidate.contact != one.candidate.contact)
        return cost + table.softer * max(same.way.level - one.way.level, 0) * (same.phase == one.phase)

    def of(self, placed: Sequence[OrderedStop]) -> float:
        """What an order costs, without what being late costs: for comparing orders."""
        return sum(self.step(before, one) for before, one in zip((None, *placed[:-1]), placed, strict=True))


@dataclass(slots=True)
class _Path:
    """The cheapest way found to a state: what it cost, the last stop, and the way before."""

    cost: float
    last: OrderedStop | None = None
    before: "_Path | None" = None

    def stops(self) -> list[OrderedStop]:
        found: list[OrderedStop] = []
        here: _Path | None = self
        while here is not None and here.last is not None:
            found.append(here.last)
            here = here.before
        return found[::-1]


def least_costly(groups: Sequence[Sequence[OrderedStop]], price: OrderCost) -> tuple[list[OrderedStop], float]:
    """The cheapest order of groups that follow one another, each in any order: for every way of ending a group the
    cheapest way there, from one group to the next.
    """
    ends = [_Path(0.0)]
    for group in groups:
        ends = _through(group, ends, price)
    best = min(ends, key=lambda path: path.cost)
    return best.stops(), best.cost


def _through(group: Sequence[OrderedStop], starts: Sequence[_Path], price: OrderCost) -> list[_Path]:
    """The cheapest paths through a group, one for each way of ending it. The hands stay on a part until it is done,
    which leaves few of the many sets that could be done by then.
    """
    options = [replace(member, round=way) for member in group for way in _rounds(member, member.side)]
    item = [n for n, one in enumerate(group) for _ in _rounds(one, one.side)]
    parts = [member.candidate.part for member in group]
    of_part = [sum(1 << n for n, other in enumerate(parts) if other == part) for part in parts]
    heaviest = max(_weight(member) for member in group) or 1.0
    late = [weights().order.late * _weight(member) / heaviest for member in group]
    onward = [[price.step(before, option) for option in options] for before in options]
    layer: dict[tuple[int, int], _Path] = {}
    for start in starts:
        for k, one in enumerate(options):
            cost = start.cost + price.step(start.last, one)
            key = (1 << item[k], k)
            if key not in layer or cost < layer[key].cost - EVEN:
                layer[key] = _Path(cost, one, start)
    for nth in range(1, len(group)):
        after: dict[tuple[int, int], _Path] = {}
        for (done, last), path in layer.items():
            part = of_part[item[last]]
            free = part if done & part != part else ~0  # the hands stay on a part until it is done
            for k, one in enumerate(options):
                n = item[k]
                if done >> n & 1 or not free >> n & 1:
                    continue
                cost = path.cost + onward[last][k] + late[n] * nth
                key = (done | 1 << n, k)
                if key not in after or cost < after[key].cost - EVEN:
                    after[key] = _Path(cost, one, path)
        layer = after
    return list(layer.values())
