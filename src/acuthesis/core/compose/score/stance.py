"""The practitioner's stance for a place, and the distance for feet and hands from one to the next, in metres.

The person lies on a couch that can be walked round, or sits on a stool or a chair that can be. The practitioner stands
at the couch's edge, or round the stool, where the place is nearest: at the head for the face, at the foot end for the
soles, on the right for a right arm. Places are those of the average figure (stance.json): a walk round a couch is much
the same for everybody. Source: plain geometry; sizes of a common couch.
"""

import json
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

from acuthesis.core.atlas.entries.catalogue import Entry, entry
from acuthesis.core.atlas.entries.model import Position
from acuthesis.core.compose.knowledge.dose import DATA
from acuthesis.core.compose.knowledge.technique import Technique
from acuthesis.core.errors import UnknownId
from acuthesis.core.safety.body_parts import lain_on
from acuthesis.core.safety.touching import StopSide

STANCE = DATA / "stance.json"
COUCH_M = 0.65  # wide
AWAY_M = 0.2  # from the couch's edge to the middle of who stands there
REACH_M = 0.75  # as far as one works across somebody; beyond it one walks round
EASY_M = 0.35  # as far as the arms go without leaning
THROUGH_M = 0.08  # so near the middle of who sits (the head) that it is in reach from everywhere
LENGTH_M = 1.7  # of the person on it
ROUND_M = 0.7  # from the middle of who sits to the feet of who works
LOW_M = 0.45  # of somebody who sits: what is lower is worked kneeling or on a low stool
DOWN_M = 0.5  # what getting down counts, in metres reached
SEATED_FRONT_M = 0.1  # the middle of somebody who sits, in front of the back
ORDERS: tuple[tuple[StopSide, StopSide], ...] = (("right", "left"), ("left", "right"))
UPRIGHT: tuple[Position, ...] = ("seated", "leaning")


class StanceRow(NamedTuple):
    """A place of the average figure, cm: lying, on the side, and seated. Left is positive, front is positive; `along`
    from the soles to the crown.
    """

    across: int
    along: int
    side_along: int
    side_front: int
    seated_across: int
    seated_front: int
    seated_up: int


class Spot(NamedTuple):
    """Where hands are, m: across, along (or to the front), up."""

    x: float
    y: float
    z: float = 0.0


@dataclass(frozen=True)
class WorkingStance:
    """A way of working a stop: side first worked, where the practitioner stands and the hands are, first and last.

    `stand`: metres along the way round the couch or the stool, from a corner of it; `reach`: metres that the arms go
    beyond what is easy.
    """

    first: StopSide
    stand: tuple[float, float]
    hands: tuple[Spot, Spot]
    reach: float


@lru_cache
def stance() -> dict[str, StanceRow]:
    """Every shipped place. Raises: FileNotFoundError.

    >>> "SP6" in stance()
    True
    """
    return {id: StanceRow(*row) for id, row in json.loads(STANCE.read_text()).items()}


@lru_cache
def _of_sites() -> dict[str, StanceRow]:
    """The middle of each site: for techniques, and for a practice's own points."""
    there: dict[str, list[StanceRow]] = {}
    for id, row in stance().items():
        try:
            there.setdefault(entry(id).site, []).append(row)
        except UnknownId:  # the table may be older than the atlas; a test says so
            continue
    return {
        site: StanceRow(*(round(sum(column) / len(column)) for column in zip(*rows, strict=True)))
        for site, rows in there.items()
    }


MIDDLE = StanceRow(0, 100, 100, 0, 0, 10, 60)


def row_of(target: Entry | Technique) -> StanceRow:
    """Where a target is; the middle of the body for what touches nothing in particular.

    >>> from acuthesis.core.atlas.entries.catalogue import entry
    >>> row_of(entry("SP6")) is stance()["SP6"]
    True
    """
    if isinstance(target, Technique):
        return _of_sites().get(target.sites[-1], MIDDLE) if target.sites else MIDDLE
    return stance().get(target.id) or _of_sites().get(target.site, MIDDLE)


WIDE_M, LONG_M = COUCH_M + 2 * AWAY_M, LENGTH_M + 2 * AWAY_M
AROUND_SEAT_M, AROUND_COUCH_M = 2 * math.pi * ROUND_M, 2 * (WIDE_M + LONG_M)


def walk_m(one: float, other: float, position: Position) -> float:
    """Metres from one standing place (in metres around couch or seat) to another, the shorter way round.

    >>> round(walk_m(0.5, 1.7, "supine"), 2)
    1.2
    """
    apart = abs(one - other)
    return min(apart, (AROUND_SEAT_M if position in UPRIGHT else AROUND_COUCH_M) - apart)


def hands_m(one: Spot, other: Spot) -> float:
    """Metres from hand to hand."""
    return math.dist(one, other)


def _spot(row: StanceRow, side: StopSide, position: Position) -> Spot:
    mirror = -1 if side == "right" else 1
    across = 0 if side in ("midline", "both") else 1
    if position in UPRIGHT:
        x = row.seated_across * mirror * across / 100
        return Spot(x, row.seated_front / 100 - SEATED_FRONT_M, row.seated_up / 100)
    if position in ("left_side", "right_side"):
        return Spot(row.side_front / 100, row.side_along / 100)
    return Spot(row.across * mirror * across / 100, row.along / 100)


class _Stand(NamedTuple):
    """A place to stand: on which of the four edges, metres along the way round, and how far the arms reach (m)."""

    edge: int
    at: float
    reach: float


def _stands(spot: Spot, position: Position, site: str) -> dict[int, _Stand]:
    """Where one can stand for a place, by edge: where it is nearest, and wherever else it is within reach. The back of
    somebody on their side is worked from behind.
    """
    found = _beside_seated(spot) if position in UPRIGHT else _beside_couch(spot)
    if position in ("left_side", "right_side") and site in _of_the_back():
        found = [found[3]]
    nearest = min(one.reach for one in found)
    return {one.edge: one for one in found if one.reach <= max(REACH_M, nearest + 0.01)}


@lru_cache
def _of_the_back() -> frozenset[str]:
    return frozenset(site for site, _ in lain_on()["supine"])


def _beside_couch(spot: Spot) -> list[_Stand]:
    half, wide, long = WIDE_M / 2, WIDE_M, LONG_M
    x, y = max(-half, min(half, spot.x)), max(0.0, min(long, spot.y + AWAY_M))
    return [
        _Stand(0, half + x, y),  # at the feet
        _Stand(1, wide + y, half - x),  # on their left
        _Stand(2, wide + long + half - x, long - y),  # at the head
        _Stand(3, 2 * wide + long + long - y, half + x),  # on their right
    ]


def _beside_seated(spot: Spot) -> list[_Stand]:
    """From the front, the sides and behind; never through the person, and to the legs only from the front."""
    found = []
    turned = math.atan2(spot.x, spot.y)
    for quarter in range(4):
        angle = quarter * math.pi / 2
        away = abs((angle - turned + math.pi) % (2 * math.pi) - math.pi)
        if math.hypot(spot.x, spot.y) > THROUGH_M and away > math.radians(100):
            continue
        at = (math.sin(angle) * ROUND_M, math.cos(angle) * ROUND_M)
        found.append(_Stand(quarter, angle * ROUND_M, math.hypot(at[0] - spot.x, at[1] - spot.y)))
    return found


def rounds(
    target: Entry | Technique, side: StopSide, position: Position, *, together: bool
) -> tuple[WorkingStance, ...]:
    """The ways in which a stop can be worked: from wherever it is in reach; two sides in either order, both from one
    place where that reaches both, or each from its own.
    """
    site = target.site if not isinstance(target, Technique) else target.sites[-1] if target.sites else ""
    return _rounds(row_of(target), site, side, position, together)


@lru_cache(maxsize=4096)
def _rounds(row: StanceRow, site: str, side: StopSide, position: Position, together: bool) -> tuple[WorkingStance, ...]:
    if side == "both" and not together:
        here = {order: _spot(row, order, position) for order in ORDERS[0]}
        right, left = (_stands(here[order], position, site) for order in ORDERS[0])
        pairs = [(right[edge], left[edge]) for edge in right if edge in left]
        pairs.append((min(right.values(), key=_far), min(left.values(), key=_far)))
        return tuple(
            WorkingStance(
                first,
                (one.at, other.at) if first == "right" else (other.at, one.at),
                (here[first], here[then]),
                max(one.reach - EASY_M, 0.0) + max(other.reach - EASY_M, 0.0),
            )
            for first, then in ORDERS
            for one, other in dict.fromkeys(pairs)
        )
    spot = _spot(row, side, position)
    return tuple(
        WorkingStance("right", (stand.at, stand.at), (spot, spot), max(stand.reach - EASY_M, 0.0))
        for stand in _stands(spot, position, site).values()
    )


def _far(stand: _Stand) -> float:
    return stand.reach


def step_m(before: WorkingStance | None, one: WorkingStance, position: Position) -> tuple[float, float, float]:
    """Metres walked, from hand to hand, and reached beyond the arms: on to a stop, and working it. Getting down to the
    legs of somebody who sits, and up again, counts as reaching.
    """
    walked, hands, reach = walk_m(*one.stand, position), hands_m(*one.hands), one.reach
    if before is not None:
        walked += walk_m(before.stand[1], one.stand[0], position)
        hands += hands_m(before.hands[1], one.hands[0])
        if position in UPRIGHT and (before.hands[1].z < LOW_M) != (one.hands[0].z < LOW_M):
            reach += DOWN_M
    return walked, hands, reach


def cheapest(
    options: Sequence[Sequence[WorkingStance]], position: Position, cost: Callable[..., float]
) -> list[WorkingStance]:
    """Of the ways in which stops in a fixed order can be worked, those that together cost least.

    Parameters: options, the ways of each stop; cost, of metres walked, hand to hand, and reached for.
    """
    paths: list[tuple[float, list[WorkingStance]]] = [(0.0, [])]
    for ways in options:
        going = [
            [(spent + cost(*step_m(path[-1] if path else None, way, position)), [*path, way]) for spent, path in paths]
            for way in ways
        ]
        paths = [min(there, key=lambda found: found[0]) for there in going]
    return min(paths, key=lambda found: found[0])[1]


def stand_words(stand: float, position: Position) -> str:
    """Where that is, as it is said; sides are those of the person.

    >>> stand_words(0.6, "supine"), stand_words(1.5, "prone")
    ('at the feet', 'on their left')
    """
    if position in UPRIGHT:
        turned = stand / ROUND_M
        quarter = int((turned + math.pi / 4) // (math.pi / 2)) % 4
        return ("in front", "on their left", "behind", "on their right")[quarter]
    wide, long = WIDE_M, LONG_M
    on_side = position in ("left_side", "right_side")
    beside = ("in front", "behind") if on_side else ("on their left", "on their right")
    if stand <= wide:
        return "at the feet"
    if stand < wide + long:
        return beside[0]
    return "at the head" if stand <= 2 * wide + long else beside[1]
