"""Soreness of points over the visits: what each treatment recorded for each point."""

from collections.abc import Iterable
from datetime import date

from pydantic import BaseModel

from acuthesis.core.treat.events import SoreSpotWay
from acuthesis.core.treat.state import StopRecord, TreatmentState


class Sore(BaseModel):
    """Soreness of one point on one side in one treatment: the first and last rating, the level of the first, and what
    eased it, if something that was tried did.
    """

    id: str
    name: str
    side: str
    first: int
    last: int
    level: int
    way: SoreSpotWay | None = None


class Tenderness(Sore):
    """The same, with the day of the visit."""

    on: date


def sore_places(treatment: TreatmentState) -> list[Sore]:
    """All soreness felt in a treatment, by point and side, rounds at a place taken together. A rating without a side
    holds for the side of its stop.

    >>> sore_places(TreatmentState())
    []
    """
    found: dict[tuple[str, str], Sore] = {}
    for key, record in treatment.records.items():
        stop = treatment.stops[key]
        for side in sorted({felt.side or stop.side for felt in record.soreness}):
            felt = [one for one in record.soreness if (one.side or stop.side) == side]
            way, before = _eased_by(record, side), found.get((stop.id, side))
            if before is not None:  # a second round at the place: one course from its first rating to its last
                found[stop.id, side] = before.model_copy(update={"last": felt[-1].value, "way": way or before.way})
                continue
            found[stop.id, side] = Sore(
                id=stop.id,
                name=stop.name,
                side=side,
                first=felt[0].value,
                last=felt[-1].value,
                level=felt[0].level,
                way=way,
            )
    return list(found.values())


def _eased_by(record: StopRecord, side: str) -> SoreSpotWay | None:
    """What was tried last of what made it less."""
    for one in reversed(record.rounds):
        if one.side in (side, None) and one.before is not None and one.after is not None and one.after < one.before:
            return one.taken
    return None


def tenderness(visits: Iterable[tuple[date, Iterable[Sore]]]) -> list[Tenderness]:
    """Soreness (0 to 10) of the visits, sorted by point, side and day.

    >>> tenderness([])
    []
    """
    found = [Tenderness(on=on, **sore.model_dump()) for on, sores in visits for sore in sores]
    return sorted(found, key=lambda row: (row.id, row.side, row.on))
