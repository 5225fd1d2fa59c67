"""Soreness of points over the visits, side by side: what each treatment says of each point."""

from collections.abc import Mapping
from datetime import date

from pydantic import BaseModel

from acuthesis.core.treat.session import Session


class Tenderness(BaseModel):
    """Soreness of one point on one side at one visit: the first and last rating, and the level of the first."""

    id: str
    name: str
    side: str
    on: date
    first: int
    last: int
    level: int


def tenderness(treatments: Mapping[date, Session]) -> list[Tenderness]:
    """All soreness felt, by point, side and day. A rating without a side holds for the side of its stop."""
    found = []
    for on, session in sorted(treatments.items()):
        for key, record in session.records.items():
            stop = session.stops[key]
            sides = {felt.side or stop.side for felt in record.soreness}
            for side in sorted(sides):
                felt = [one for one in record.soreness if (one.side or stop.side) == side]
                found.append(
                    Tenderness(
                        id=stop.id,
                        name=stop.name,
                        side=side,
                        on=on,
                        first=felt[0].value,
                        last=felt[-1].value,
                        level=felt[0].level,
                    )
                )
    return sorted(found, key=lambda row: (row.id, row.side, row.on))
