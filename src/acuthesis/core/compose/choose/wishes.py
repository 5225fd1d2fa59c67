"""First step: every point, area and technique that complaints, school and practitioner ask for, and what for.

Nothing is judged here; what may be done, how and on which side, is decided in the next step (candidates).
"""

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import lru_cache

from acuthesis.core.atlas.entries.catalogue import Entry, areas
from acuthesis.core.atlas.entries.model import Area
from acuthesis.core.compose.choose.brief import Brief
from acuthesis.core.compose.choose.request import ComplaintNow
from acuthesis.core.compose.knowledge.complaint_sites import lies_there
from acuthesis.core.compose.knowledge.complaints import FIRST_WEIGHT, ComplaintKind, PointSource, Role, Use
from acuthesis.core.compose.knowledge.school import preference
from acuthesis.core.compose.knowledge.technique import Technique, techniques
from acuthesis.core.compose.knowledge.use_reasons import why_of
from acuthesis.core.compose.knowledge.weights import CoverKind, weights
from acuthesis.core.safety.touching import StopSide

TECHNIQUE_SHARE = 0.8  # of what a role is worth, for strokes and the like
OF_THE_SCHOOL = 1.2  # what belongs to every session of a school, against a complaint rated 10
WISHED_WEIGHT = 2.0  # what no complaint brings, but the practitioner wishes for


@dataclass
class Wish:
    """A point, area or technique with everything that wants it.

    `role` the weightiest of its roles, `roles` that for each complaint; `grounds` on which it is wanted; `affected` the
    sides that complaints are on; `level` no more than this; `benefits` in units of benefit by complaint.
    """

    target: Entry | Technique
    role: Role
    grounds: set[PointSource] = field(default_factory=set)
    sides: set[StopSide] = field(default_factory=set)
    affected: set[StopSide] = field(default_factory=set)
    benefits: dict[str, float] = field(default_factory=dict)
    roles: dict[str, Role] = field(default_factory=dict)
    covers: dict[str, set[CoverKind]] = field(default_factory=dict)
    why: list[str] = field(default_factory=list)
    level: int | None = None  # no more than this: the least that a use of it says

    @property
    def side(self) -> StopSide:
        """The side it is wanted on; `both` where it is wanted on two."""
        return next(iter(self.sides)) if len(self.sides) == 1 else "both"


@dataclass(frozen=True)
class CoreSeat:
    """What one rank of a complaint's core is worth, in the cores' own unit: the ids that go together, the share."""

    complaint: str
    ids: tuple[str, ...]
    worth: float


@dataclass(frozen=True)
class Wishes:
    """Everything that is wanted, by id in order of id, and the cores among it, the weightiest first."""

    by_id: dict[str, Wish]
    cores: tuple[CoreSeat, ...]


def wishes_of(brief: Brief) -> Wishes:
    """Everything that the complaints bring; two that want the same add up, and sides join."""
    found: dict[str, Wish] = {}
    cores: list[CoreSeat] = []
    for complaint in brief.request.complaints:
        kind = brief.knowledge.complaint(complaint.id)
        for use in kind.uses:
            if use.ground in brief.grounds and brief.school.phase_of(use.role) is not None:
                for id in on_map(use.id, use.ground, brief):
                    _want_use(found, use, brief.knowledge.find(id), complaint, kind, brief)
        cores += _core(complaint, kind, found, brief)
        for id in kind.techniques:
            _want_technique(found, techniques()[id], kind, complaint.rating / 10, brief)
    for phase in brief.school.phases:
        for id in phase.techniques:
            _want_technique(found, techniques()[id], None, OF_THE_SCHOOL, brief)
    for id in (*brief.request.pinned, *brief.request.prefer):
        _want_wished(found, id, brief)
    return Wishes(dict(sorted(found.items())), tuple(sorted(cores, key=lambda one: -one.worth)))


@lru_cache
def _second_map() -> dict[str, tuple[str, ...]]:
    """For each area of a first map, the areas of the second that stand for it."""
    table: dict[str, tuple[str, ...]] = {}
    for area in areas().values():
        if area.answers is not None:
            table[area.answers] = (*table.get(area.answers, ()), area.id)
    return table


def on_map(id: str, ground: PointSource, brief: Brief) -> Iterator[str]:
    """The ids that a point or area stands for on the maps that were chosen; none if it is on the other map only."""
    target = brief.knowledge.find(id)
    if not isinstance(target, Area) or ground not in ("ear", "reflexes"):
        yield id
        return
    chosen = brief.request.ear_map if ground == "ear" else brief.request.foot_chart
    if target.map == "second":
        if chosen == "second":
            yield id
    elif chosen != "second":
        yield id
    elif id in _second_map():
        yield from _second_map()[id]
    elif target.map == "common":  # on the second foot chart too, where that has nothing of its own for it
        yield id


def _core(complaint: ComplaintNow, kind: ComplaintKind, found: dict[str, Wish], brief: Brief) -> Iterator[CoreSeat]:
    """The ranks of a complaint's core on the school's own grounds."""
    done = {id for id, wish in found.items() if _finished(wish, brief)}
    for ground in _core_grounds(kind, brief):
        for one in kind.core_on(ground):
            ids = tuple(dict.fromkeys(other for id in one.ids for other in on_map(id, ground, brief) if other in found))
            if ids and not set(ids) <= done and complaint.rating > 0:
                share = brief.grounds[ground]
                yield CoreSeat(complaint.id, ids, weights().of_rank(one.rank) * complaint.rating / 10 * share)


def _finished(wish: Wish, brief: Brief) -> bool:
    """Whether it was done on every side that it is wanted on."""
    sides = {side for one in brief.request.done if one.id == wish.target.id for side in each_side(one.side)}
    return bool(sides) and set(each_side(wish.side)) <= sides


def each_side(side: StopSide) -> tuple[StopSide, ...]:
    """The sides that a side stands for: two for `both`.

    >>> each_side("both"), each_side("left")
    (('left', 'right'), ('left',))
    """
    return ("left", "right") if side == "both" else (side,)


def _core_grounds(kind: ComplaintKind, brief: Brief) -> list[PointSource]:
    """The school's grounds (where it keeps to one, that which it draws on most of those that the complaint has), and
    what was mixed in knowingly.
    """
    own = sorted(brief.school.draws, key=lambda ground: -brief.school.draws[ground])
    if brief.school.one_ground:
        own = [ground for ground in own if kind.core_on(ground)][:1]
    return [*own, *(ground for ground in brief.grounds if ground not in own and brief.extra({ground}))]


def _side(use: Use, complaint: ComplaintNow, target: Entry) -> StopSide:
    if target.whole != "both":
        return target.whole
    if use.side == "both" or complaint.side in ("both", "midline"):
        return "both"
    answered = _answered(complaint.side, target)
    if use.side == "other":
        return "left" if answered == "right" else "right"
    return answered


def _answered(side: StopSide, target: Entry) -> StopSide:
    """The side on which a place answers a side of the body: the other one for what is crossed."""
    if side in ("left", "right") and isinstance(target, Area) and target.crossed:
        return "left" if side == "right" else "right"
    return side


def covers_of(use: Use, kind: ComplaintKind, target: Entry) -> CoverKind | None:
    """What a use gives a complaint: something at its place (or its first choice, where it has no place; on the other
    grounds, the area that answers to it), something far, something calming.
    """
    match use.role:
        case "far":
            return "far"
        case "calm":
            return "calm"
        case "main":
            return "local" if use.ground != "points" or lies_there(target, kind.id) is not False else "far"
        case "supply" | "pain":
            return "local" if use.ground != "points" or lies_there(target, kind.id) else "far"
    return None


def _want_use(
    found: dict[str, Wish], use: Use, target: Entry, complaint: ComplaintNow, kind: ComplaintKind, brief: Brief
) -> None:
    wish = found.setdefault(target.id, Wish(target, use.role))
    wish.grounds.add(use.ground)
    if use.level is not None:
        wish.level = min(wish.level or use.level, use.level)
    strength = complaint.rating / 10 * brief.grounds[use.ground]
    benefit = use.weight * strength * preference(brief.school, target)
    if benefit >= wish.benefits.get(kind.id, 0.0):
        wish.benefits[kind.id] = benefit
        wish.roles[kind.id] = use.role
    if (cover := covers_of(use, kind, target)) is not None:
        wish.covers.setdefault(kind.id, set()).add(cover)
    wish.sides.add(_side(use, complaint, target))
    if complaint.side in ("left", "right") and use.side != "other":
        wish.affected.add(_answered(complaint.side, target))
    wish.why.append(f"{kind.name}: {why_of(use, target, kind.id)}.")
    if FIRST_WEIGHT[use.role] > FIRST_WEIGHT[wish.role]:
        wish.role = use.role


def _want_technique(
    found: dict[str, Wish], technique: Technique, kind: ComplaintKind | None, strength: float, brief: Brief
) -> None:
    role: Role = technique.phase
    school = brief.school
    elsewhere = school.technique_parts and technique.sites and not set(technique.places) & set(school.technique_parts)
    if school.phase_of(role) is None or (kind is not None and (school.own_techniques or elsewhere)):
        return
    wish = found.setdefault(technique.id, Wish(technique, role))
    id = kind.id if kind else school.id
    wish.benefits[id] = FIRST_WEIGHT[role] * max(strength, 0.05) * TECHNIQUE_SHARE
    wish.roles[id] = role
    wish.sides.add(technique.side)
    name = kind.name if kind else school.name
    wish.why.append(f"{name}: {technique.name.lower()} {'before' if role == 'warm' else 'after'} the pressing.")


def _want_wished(found: dict[str, Wish], id: str, brief: Brief) -> None:
    target: Entry | Technique = techniques()[id] if id in techniques() else brief.knowledge.find(id)
    if target.id in found:
        return
    school = brief.school
    role: Role = target.phase if isinstance(target, Technique) else "main"
    if school.phase_of(role) is None:
        role = next(role for phase in school.phases for role in phase.roles)
    wish = found[target.id] = Wish(target, role)
    wish.benefits["wish"] = WISHED_WEIGHT / 2
    wish.sides.add(target.side if isinstance(target, Technique) else target.whole)
    wish.why.append("You chose it.")
