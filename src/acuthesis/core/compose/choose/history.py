"""What helped this person before: the change of ratings over the visits in which a stop was played."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from acuthesis.core.compose.choose.request import Helped

MOST = 10.0  # points: the whole scale, and the most that a stop is said to have done


@dataclass(frozen=True)
class Played:
    """One past visit: what was played, and by how much the ratings fell on average (negative: they rose)."""

    ids: frozenset[str]
    change: float


def helped(visits: Iterable[Played]) -> list[Helped]:
    """For each stop, how much better the visits with it did than all visits did on average.

    Only the difference says something about a stop: what rises with every visit says nothing about any of them. Stops
    that were in every visit are therefore left out, and a person with fewer than two visits has no history.
    """
    there = list(visits)
    if len(there) < 2:
        return []
    mean = sum(visit.change for visit in there) / len(there)
    changes: dict[str, list[float]] = defaultdict(list)
    for visit in there:
        for id in visit.ids:
            changes[id].append(visit.change - mean)
    return [
        Helped(id=id, change=round(min(max(sum(found) / len(found), -MOST), MOST), 2), times=len(found))
        for id, found in sorted(changes.items())
        if len(found) < len(there)
    ]
