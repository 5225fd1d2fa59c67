"""Soreness of places over the visits: does it ease within sessions, over them, and is one side sorer?

Only ratings at the same pressure are compared over visits: a place pressed harder is sorer. Few numbers are counted,
not tested. Units: points of the 0-10 scale. Source: general teaching of the craft (a sore spot is rated again as
before).
"""

from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from statistics import median
from typing import Literal

from pydantic import BaseModel

from acuthesis.core.message import Message, message
from acuthesis.core.treat.tenderness import Tenderness

FEWEST = 3  # visits at which a place was rated before its course is named
EASED = 2  # points that count
SORE = 3  # from here a place counts as sore

Going = Literal["too_few", "gone", "eases", "eases_in_sessions", "stays", "grows"]
WORDS: dict[Going, Message] = {
    "too_few": message("soreness-too-few"),
    "gone": message("soreness-gone"),
    "eases": message("soreness-eases"),
    "eases_in_sessions": message("soreness-eases-in-sessions"),
    "stays": message("soreness-stays"),
    "grows": message("soreness-grows"),
}


class PlaceCourse(BaseModel):
    """One place on one side. `level`: the pressure (1-5) of the visits compared; `first_then`, `first_now`: soreness at
    first touch, then and now; `within`: the middle change within a session."""

    id: str
    name: str
    side: str
    visits: int
    level: int
    first_then: int
    first_now: int
    within: float
    going: Going
    words: Message


class SideBySide(BaseModel):
    """A place rated on both sides at the same visits: by how much the right is sorer than the left (points)."""

    id: str
    name: str
    visits: int
    right_more_by: float


def places_over(rows: Iterable[Tenderness]) -> list[PlaceCourse]:
    """Every sore place and side, those that stay or grow first.

    >>> places_over([])
    []
    """
    table: dict[tuple[str, str], list[Tenderness]] = defaultdict(list)
    for row in rows:
        table[row.id, row.side].append(row)
    found = [_course(sorted(own, key=lambda row: row.on)) for own in table.values()]
    order = ("grows", "stays", "eases_in_sessions", "eases", "too_few", "gone")
    return sorted(found, key=lambda one: (order.index(one.going), -one.first_now, one.id, one.side))


def _course(own: Sequence[Tenderness]) -> PlaceCourse:
    level = Counter(row.level for row in own).most_common(1)[0][0]
    like = [row for row in own if row.level == level]
    within = float(median(row.last - row.first for row in own))
    then, now = like[0].first, like[-1].first
    going = _going(len(like), then, now, within)
    return PlaceCourse(
        id=own[0].id,
        name=own[0].name,
        side=own[0].side,
        visits=len(own),
        level=level,
        first_then=then,
        first_now=now,
        within=within,
        going=going,
        words=WORDS[going],
    )


def _going(visits: int, then: int, now: int, within: float) -> Going:
    if visits < FEWEST:
        return "too_few"
    if now < SORE <= then:
        return "gone"
    if now - then <= -EASED:
        return "eases"
    if now - then >= EASED:
        return "grows"
    return "eases_in_sessions" if within <= -EASED else "stays"


def sides(rows: Iterable[Tenderness]) -> list[SideBySide]:
    """Places that were rated on both sides at the same visits and pressure, the most different first.

    >>> sides([])
    []
    """
    table: dict[tuple[str, object], dict[str, Tenderness]] = defaultdict(dict)
    for row in rows:
        table[row.id, row.on][row.side] = row
    gaps: dict[str, list[int]] = defaultdict(list)
    names = {}
    for (id, _), by_side in table.items():
        left, right = by_side.get("left"), by_side.get("right")
        if left and right and left.level == right.level:
            gaps[id].append(right.first - left.first)
            names[id] = right.name
    found = [
        SideBySide(id=id, name=names[id], visits=len(own), right_more_by=float(median(own))) for id, own in gaps.items()
    ]
    return sorted(found, key=lambda one: (-abs(one.right_more_by), one.id))
