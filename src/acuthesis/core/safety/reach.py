"""The reach of rules on one person's body: marked places, the margin around them, the joints within.

Distances run over the skin of the person's own figure. They are measured along the edges of its mesh, which overstates
them by up to a tenth; so what lies within the margin in a straight line counts too, where the skin leads there without
a long way round (a sole is not part of a wound on the back of the foot only because the foot is thin).
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components, dijkstra
from scipy.spatial import cKDTree

from acuthesis.core.atlas.entries.catalogue import part_of
from acuthesis.core.atlas.locating.placed import Placed
from acuthesis.core.body.figure import SIDES, Side, Vector
from acuthesis.core.body.fit import FittedBody
from acuthesis.core.body.regions import MIDDLE_CM
from acuthesis.core.errors import CoreError
from acuthesis.core.message import message
from acuthesis.core.reason import Reason
from acuthesis.core.safety.body_parts import joints, limbs
from acuthesis.core.safety.rule import Rule
from acuthesis.core.safety.screening import Painted, RuleReach, Screening
from acuthesis.core.safety.standing import awake, rules_for

ROUND_ABOUT = 1.4  # a way over the skin may be so much longer than the straight one and still count as near
THROUGH = 0.5  # of the margin, within which the straight distance counts however far it is round
# A joint is within where a place on its skin is; its landmarks stand for a region of about this size around them.
JOINT_CM = 2.0


@dataclass(frozen=True)
class CoveredSkin:
    """What a rule covers on the skin, to be drawn: vertices of the figure, and why. `at`: the places themselves."""

    reason: Reason
    short: str
    at: tuple[int, ...]
    skin: tuple[int, ...]


def sees_the_body(rule: Rule) -> bool:
    """Whether a rule needs the body to know what it reaches.

    >>> from acuthesis.core.safety.standing import rules
    >>> [sees_the_body(rule) for rule in rules() if rule.id in ("fistula_arm", "child")]
    [False, True]
    """
    touches = rule.touches
    return touches.answered or touches.margin_cm > 0 or touches.limb or touches.lain_on or touches.side == "same"


def seeing(screening: Screening) -> list[Rule]:
    """The rules that are awake for this person and have places to look for on the body.

    >>> from acuthesis.core.safety.screening import parse_screening
    >>> [rule.id for rule in seeing(parse_screening({"fistula": "left"}))]
    ['fistula_arm']
    """
    return [
        rule
        for rule in rules_for(screening)
        if sees_the_body(rule) and awake(rule, screening) and (rule.touches.ids or _told(rule, screening))
    ]


def _told(rule: Rule, screening: Screening) -> list[str | Painted]:
    asked = rule.when.questions if rule.when is not None else ()
    return [place for question in asked for place in screening.places(question)]


def by_named_places(screening: Screening) -> Screening:
    """The screening of somebody whom no figure fits: painted places become the names of the sites that they lie on.

    Rules then go by named places, without distances. `OnBody.with_sites`, of any body, comes before.
    """
    return _placed_anew(screening, _names_of)


def _names_of(place: str | Painted) -> tuple[str, ...]:
    return (place,) if isinstance(place, str) else tuple(at.replace("@", ".") for at in place.sites)


def _placed_anew(screening: Screening, change: Callable[[str | Painted], tuple[str | Painted, ...]]) -> Screening:
    """The screening with each place of an answer changed to others, each once."""
    answers = {
        id: tuple(dict.fromkeys(other for place in screening.places(id) for other in change(place)))
        if screening.places(id)
        else answer
        for id, answer in screening.answers.items()
    }
    return screening.model_copy(update={"answers": answers})


class OnBody:
    """One figure with everything placed on it, asked for what lies around places.

    `placed`: every point and area on all its sides, on this body.
    """

    def __init__(self, body: FittedBody, placed: Sequence[Placed]) -> None:
        self.body, self.placed = body, placed
        self.skin: Vector = np.asarray(body.figure.skin)
        self._tree = cKDTree(self.skin)
        self._ways = _edges(body)
        # Eyeballs, teeth and lashes hang together with nothing: what is painted there counts at the skin beside it.
        pieces = connected_components(self._ways, directed=False)[1]
        self._outside = np.flatnonzero(pieces == np.bincount(pieces).argmax())
        self._outer = cKDTree(self.skin[self._outside])
        rows, at = [], []
        for row, one in enumerate(placed):
            corners = one.position[None] if one.outline is None else np.vstack([one.position[None], one.outline])
            at.append(corners)
            rows += [row] * len(corners)
        self._row_of = np.array(rows)
        self._spots = np.asarray(
            self._tree.query(np.vstack(at))[1]
        )  # the vertex of each place, and of each corner of an area
        points = [row for row, one in enumerate(placed) if one.entry.kind == "point"]
        nearest = np.asarray(cKDTree(np.array([placed[row].position for row in points])).query(self.skin)[1])
        self._site_of = np.array([placed[row].entry.site for row in points])[nearest]
        self._part_of = np.array([part_of(placed[row].entry) for row in points])[nearest]

    def with_reaches(self, screening: Screening) -> Screening:
        """The screening with what its rules reach here. Raises: CoreError for a painted place that no figure has."""
        screening = self.with_sites(screening)
        found = {rule.id: self.reach(rule, screening) for rule in seeing(screening)}
        return screening.model_copy(update={"reaches": found})

    def with_sites(self, screening: Screening) -> Screening:
        """The screening with each painted place told by the sites that it lies on. Raises: CoreError."""
        return _placed_anew(screening, lambda place: (self._with_sites(place),))

    def _with_sites(self, place: str | Painted) -> str | Painted:
        if isinstance(place, str):
            return place
        return place.model_copy(update={"sites": tuple(sorted(self._sites(self._of_place(place))))})

    def reach(self, rule: Rule, screening: Screening) -> RuleReach:
        """What one rule reaches. Raises: CoreError."""
        seeds = self._seeds(rule, screening)
        if len(seeds) == 0:
            return RuleReach()
        away = self._away(rule, seeds)
        reached = np.isfinite(away)
        found = np.full(len(self.placed), np.inf)
        np.minimum.at(found, self._row_of, away[self._spots])
        within = [(one, float(cm)) for one, cm in zip(self.placed, found, strict=True) if np.isfinite(cm)]
        places = {f"{one.entry.id}@{one.side}": cm for one, cm in within}
        sites = {f"{one.entry.site}@{one.side}" for one, _ in within} | self._sites(np.flatnonzero(reached))
        return RuleReach(
            places=places,
            sites=frozenset(sites),
            joints=frozenset(self._joints(away)),
            on=frozenset(self._sites(seeds)),
            sides=frozenset(self._sides(seeds)),
        )

    def grounds(self, screening: Screening) -> list[CoveredSkin]:
        """What is left out of this body, rule by rule, as skin to be drawn."""
        found = []
        for rule in seeing(screening):
            seeds = self._seeds(rule, screening)
            if rule.severity != "refuse" or rule.touches.kinds or not _told(rule, screening) or len(seeds) == 0:
                continue
            covered = np.flatnonzero(np.isfinite(self._away(rule, seeds)))
            reason = Reason(rule=rule.id, severity="refuse", text=rule.reason)
            found.append(CoveredSkin(reason, rule.short, tuple(seeds.tolist()), tuple(covered.tolist())))
        return found

    def _seeds(self, rule: Rule, screening: Screening) -> NDArray[np.int64]:
        """Vertices of what a rule speaks of: painted ones, those of named sites and parts, those at ids."""
        kept = [self._of_place(place) for place in (_told(rule, screening) if rule.touches.answered else [])]
        if rule.touches.side == "same" and not kept:
            kept = [self._of_place(place) for place in _told(rule, screening)]
        if rule.touches.ids and rule.touches.margin_cm:
            wanted = {row for row, one in enumerate(self.placed) if one.entry.id in rule.touches.ids}
            kept.append(self._spots[np.isin(self._row_of, list(wanted))])
        return np.unique(np.concatenate(kept)).astype(np.int64) if kept else np.empty(0, dtype=np.int64)

    def _of_place(self, place: str | Painted) -> NDArray[np.int64]:
        if isinstance(place, Painted):
            painted = np.array(place.skin, dtype=np.int64)
            if painted.max() >= len(self.skin):
                raise CoreError(
                    message("reach-figure-places-not-one", count=len(self.skin), max=painted.max()), where="skin"
                )
            return painted
        name, _, side = place.partition(".")
        there = (self._site_of == name) | (self._part_of == name)
        named = {row for row, one in enumerate(self.placed) if name in (one.entry.site, part_of(one.entry))}
        if side:
            there &= self.skin[:, 0] >= 0 if side == "left" else self.skin[:, 0] <= 0
            named = {row for row in named if self.placed[row].side == side}
        # Ears and nails are small: what is nearest to their own places comes with them.
        return np.union1d(np.flatnonzero(there), self._spots[np.isin(self._row_of, list(named))])

    def _away(self, rule: Rule, seeds: NDArray[np.int64]) -> NDArray[np.float64]:
        """How far (cm) each vertex lies from the places of a rule; infinite beyond its reach."""
        margin = rule.touches.margin_cm
        away = np.full(len(self.skin), np.inf)
        if margin > 0:
            at_skin = self._outside[np.asarray(self._outer.query(self.skin[seeds])[1])]
            over_skin = dijkstra(self._ways, indices=np.unique(at_skin), min_only=True, limit=margin * ROUND_ABOUT)
            straight = np.asarray(cKDTree(self.skin[seeds]).query(self.skin, distance_upper_bound=margin)[0])
            # So near that a press on one side is felt on the other, a limb's thickness does not count.
            near = (np.isfinite(over_skin) & (straight <= margin)) | (straight <= margin * THROUGH)
            away[near] = straight[near]
        away[seeds] = 0.0
        if rule.touches.limb:
            away[self._limb(seeds)] = 0.0
        return away

    def _limb(self, seeds: NDArray[np.int64]) -> NDArray[np.bool_]:
        """The whole limb, or limbs, that places lie on."""
        covered = np.zeros(len(self.skin), dtype=bool)
        for parts in limbs().values():
            for side in self._sides(seeds[np.isin(self._part_of[seeds], parts)]):
                of_side = self.skin[:, 0] > 0 if side == "left" else self.skin[:, 0] < 0
                covered |= np.isin(self._part_of, parts) & of_side
        return covered

    def _sides(self, vertices: NDArray[np.int64]) -> set[Side]:
        across = self.skin[vertices, 0]
        found: dict[Side, bool] = {"left": bool((across > MIDDLE_CM).any()), "right": bool((across < -MIDDLE_CM).any())}
        return {side for side, there in found.items() if there}

    def _sites(self, vertices: NDArray[np.int64]) -> set[str]:
        """Sites of vertices as `site@side`; near the middle they are on both."""
        across = self.skin[vertices, 0]
        return {
            f"{site}@{side}"
            for side, there in (("left", across > -MIDDLE_CM), ("right", across < MIDDLE_CM))
            for site in np.unique(self._site_of[vertices[there]])
        }

    def _joints(self, away: NDArray[np.float64]) -> Iterable[str]:
        """Joints with a landmark at the skin that is reached."""
        reached = self.skin[np.isfinite(away)]
        if len(reached) == 0:
            return
        tree = cKDTree(reached)
        for id, joint in joints().items():
            for side in SIDES:
                at = np.array([self.body.places.landmark(name, side) for name in joint.at])
                if (np.asarray(tree.query(at)[0]) <= JOINT_CM).any():
                    yield f"{id}@{side}"


def _edges(body: FittedBody) -> csr_array:
    """The edges of the skin with their lengths (cm), both ways."""
    pairs, skin = body.figure.asset.edges, body.figure.skin
    there_and_back = np.concatenate([pairs, pairs[:, ::-1]])
    lengths = np.linalg.norm(skin[there_and_back[:, 0]] - skin[there_and_back[:, 1]], axis=1)
    return csr_array((lengths, (there_and_back[:, 0], there_and_back[:, 1])), shape=(len(skin), len(skin)))
