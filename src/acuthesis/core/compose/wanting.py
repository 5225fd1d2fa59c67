"""What is wanted: every point, area and technique that complaints, school and practitioner bring, and for what.

Nothing is judged here; what may be done, how and on which side, is the sieve's (candidates).
"""

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import lru_cache

from acuthesis.core.atlas.catalogue import Entry, areas
from acuthesis.core.atlas.model import Area
from acuthesis.core.compose.knowledge import FIRST_WEIGHT, ComplaintKind, Ground, Role, Use, why_of
from acuthesis.core.compose.layer import Knowledge
from acuthesis.core.compose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.school import School, preference
from acuthesis.core.compose.technique import Technique, techniques
from acuthesis.core.compose.weights import CoverKind, weights
from acuthesis.core.safety.touching import StopSide

COVERS: dict[Role, CoverKind] = {
    "main": "local",
    "supply": "local",
    "pain": "local",
    "far": "far",
    "calm": "calm",
}
TECHNIQUE_SHARE = 0.8  # of what a role is worth, for strokes and the like
WISHED_WEIGHT = 2.0  # what no complaint brings, but the practitioner wishes for


@dataclass
class Wanted:
    """A point, area or technique with everything that wants it."""

    target: Entry | Technique
    role: Role
    sides: set[StopSide] = field(default_factory=set)
    affected: set[StopSide] = field(default_factory=set)
    benefits: dict[str, float] = field(default_factory=dict)
    covers: dict[str, set[CoverKind]] = field(default_factory=dict)
    why: list[str] = field(default_factory=list)


@lru_cache
def _second_map() -> dict[str, tuple[str, ...]]:
    """For each area of a first map, the areas of the second that stand for it."""
    table: dict[str, tuple[str, ...]] = {}
    for area in areas().values():
        if area.answers is not None:
            table[area.answers] = (*table.get(area.answers, ()), area.id)
    return table


def on_map(use: Use, target: Entry, request: ComposeRequest) -> Iterator[str]:
    """The ids a use of `target` stands for on the maps that were chosen; none if it is on the other map only."""
    if not isinstance(target, Area) or use.ground not in ("ear", "reflexes"):
        yield use.id
        return
    chosen = request.ear_map if use.ground == "ear" else request.foot_chart
    if target.map == "second":
        if chosen == "second":
            yield use.id
    elif chosen != "second":
        yield use.id
    elif use.id in _second_map():
        yield from _second_map()[use.id]
    elif target.map == "common":  # on the second foot chart too, where that has nothing of its own for it
        yield use.id


def draws(school: School, request: ComposeRequest, knowledge: Knowledge) -> dict[Ground, float]:
    """How much each ground counts: the school's own, and what others bring in."""
    table = dict(school.draws)
    for other in request.also:
        for ground, share in knowledge.school(other).draws.items():
            table[ground] = max(table.get(ground, 0.0), share * weights().mixed)
    return table


def _side(use: Use, complaint: ComplaintNow, target: Entry) -> StopSide:
    if target.whole != "both":
        return target.whole
    if use.side == "both" or complaint.side in ("both", "midline"):
        return "both"
    if use.side == "other":
        return "left" if complaint.side == "right" else "right"
    return complaint.side


def everything_wanted(request: ComposeRequest, school: School, knowledge: Knowledge) -> dict[str, Wanted]:
    """Everything that the complaints bring; two that want the same add up, and sides join."""
    found: dict[str, Wanted] = {}
    grounds = draws(school, request, knowledge)
    for complaint in request.complaints:
        kind = knowledge.complaint(complaint.id)
        strength = complaint.rating / 10
        for use in kind.uses:
            if use.ground in grounds and school.phase_of(use.role) is not None:
                for id in on_map(use, knowledge.find(use.id), request):
                    _want_use(found, use, knowledge.find(id), complaint, kind, strength * grounds[use.ground], school)
        for id in kind.techniques:
            _want_technique(found, techniques()[id], kind, strength, school)
    for phase in school.phases:
        for id in phase.techniques:
            _want_technique(found, techniques()[id], None, 0.5, school)
    for id in (*request.pinned, *request.prefer):
        _want_wished(found, id, school, knowledge)
    return found


def _want_use(
    found: dict[str, Wanted],
    use: Use,
    target: Entry,
    complaint: ComplaintNow,
    kind: ComplaintKind,
    strength: float,
    school: School,
) -> None:
    wanted = found.setdefault(target.id, Wanted(target, use.role))
    benefit = use.weight * strength * preference(school, target)
    wanted.benefits[kind.id] = max(wanted.benefits.get(kind.id, 0.0), benefit)
    if use.role in COVERS:
        wanted.covers.setdefault(kind.id, set()).add(COVERS[use.role])
    side = _side(use, complaint, target)
    wanted.sides.add(side)
    if complaint.side in ("left", "right") and use.side != "other":
        wanted.affected.add(complaint.side)
    why = why_of(use, target)
    wanted.why.append(f"{kind.name}: {why}.")
    if FIRST_WEIGHT[use.role] > FIRST_WEIGHT[wanted.role]:
        wanted.role = use.role


def _want_technique(
    found: dict[str, Wanted], technique: Technique, kind: ComplaintKind | None, strength: float, school: School
) -> None:
    role: Role = technique.phase
    elsewhere = school.technique_parts and technique.sites and not set(technique.places) & set(school.technique_parts)
    if school.phase_of(role) is None or (kind is not None and (school.own_techniques or elsewhere)):
        return
    wanted = found.setdefault(technique.id, Wanted(technique, role))
    id = kind.id if kind else school.id
    wanted.benefits[id] = FIRST_WEIGHT[role] * max(strength, 0.05) * TECHNIQUE_SHARE
    wanted.sides.add(technique.side)
    name = kind.name if kind else school.name
    wanted.why.append(f"{name}: {technique.name.lower()} {'before' if role == 'warm' else 'after'} the pressing.")


def _want_wished(found: dict[str, Wanted], id: str, school: School, knowledge: Knowledge) -> None:
    target: Entry | Technique = techniques()[id] if id in techniques() else knowledge.find(id)
    if target.id in found:
        return
    role: Role = target.phase if isinstance(target, Technique) else "main"
    if school.phase_of(role) is None:
        role = next(role for phase in school.phases for role in phase.roles)
    wanted = found[target.id] = Wanted(target, role)
    wanted.benefits["wish"] = WISHED_WEIGHT / 2
    wanted.sides.add(target.side if isinstance(target, Technique) else target.whole)
    wanted.why.append("You asked for it.")
