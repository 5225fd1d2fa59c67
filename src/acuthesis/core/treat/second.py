"""The second visit of places within a treatment: what is worth coming back to, how, and what fits the minutes left."""

from pydantic import BaseModel

from acuthesis.core.compose.score.score import MOVE_S
from acuthesis.core.treat.events import SoreSpotWay
from acuthesis.core.treat.loop import OTHER
from acuthesis.core.treat.state import StopRecord, TreatmentState

LOOK_SIDE_S = 35  # to feel, to work in the other way, and to feel again. Source: manual-therapy teaching
CORE_WORTH = 2  # as much as two steps of soreness: what anybody would begin a complaint with


class SecondVisit(BaseModel):
    """A place to come back to: its seconds with the way there, what it is worth, how it is worked then, and whether it
    fits into what is left after those that are worth more.
    """

    key: str
    cost_s: float
    worth: int
    way: SoreSpotWay
    fits: bool


def second_visit(treatment: TreatmentState, left_s: float) -> list[SecondVisit]:
    """The second looks that wait, the most worth first.

    Parameters: left_s, the seconds that there are for them.
    Returns: every one of them; those that do not fit would have to take time from something else.

    >>> second_visit(TreatmentState(), 120)
    []
    """
    found = [_look(treatment, key) for key in treatment.second_looks]
    found.sort(key=lambda one: -one.worth)
    spent = 0.0
    for one in found:
        one.fits = spent + one.cost_s <= left_s
        spent += one.cost_s if one.fits else 0
    return found


def _look(treatment: TreatmentState, key: str) -> SecondVisit:
    record, stop = treatment.records[key], treatment.stops[key]
    last = {felt.side: felt.value for felt in record.soreness}
    return SecondVisit(
        key=key,
        cost_s=MOVE_S + LOOK_SIDE_S * max(len(last), 1),
        worth=max(last.values(), default=0) + CORE_WORTH * len(stop.core_of),
        way=another_way(record),
        fits=False,
    )


def another_way(record: StopRecord) -> SoreSpotWay:
    """How a place is worked at its second look: not as it was the last time."""
    tried = next((one.taken for one in reversed(record.rounds) if one.taken in OTHER), None)
    return "ease" if tried is None else OTHER[tried]
