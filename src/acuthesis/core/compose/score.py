"""The score: a sequence of stops laid out in time, checked against the person's limits whenever it changes."""

from collections.abc import Sequence
from itertools import pairwise
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.atlas.catalogue import entry
from acuthesis.core.atlas.model import Contact, Position
from acuthesis.core.compose.dose import Dose, duration_s
from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.safety.pressure import force_n, pressure_table
from acuthesis.core.safety.rules import Limits, StopSide, limits_for, positions_out
from acuthesis.core.safety.screening import Decision, Reason, Screening

MOVE_S = 5  # from one place to the next: hands off, find, settle
TURN_S = 30  # the person turns over or sits up
MAX_STOPS = 80

StopKind = Literal["point", "area", "breathe", "close"]
NAMED_STOPS: dict[StopKind, str] = {"breathe": "Arrive and breathe", "close": "Quiet close"}


class DraftStop(BaseModel):
    """A stop as the practitioner writes it: what, where, how, how hard."""

    model_config = ConfigDict(extra="ignore")

    key: str = Field(min_length=1, max_length=64)
    kind: StopKind
    id: str
    side: StopSide
    position: Position
    dose: Dose
    level: int = Field(ge=1, le=5)
    muted: bool = False
    why: tuple[str, ...] = ()


class Stop(DraftStop):
    """A stop in its place in the score: when it starts, how long it takes, the ceiling and the force."""

    name: str
    start_s: float
    duration_s: float
    ceiling: int
    ceiling_reasons: tuple[str, ...]
    contact: Contact
    force_n: float


class LeftOut(BaseModel):
    """Something that is not in the score, and why."""

    id: str
    name: str
    side: StopSide
    reason: str
    rule: str
    severity: Literal["refuse", "limit", "note"]


class Objective(BaseModel):
    """What the composition is worth: the sum of benefits, and how often the person has to turn."""

    value: float
    position_changes: int


class Score(BaseModel):
    """A composed sequence, or the reasons why there is none."""

    decision: Decision
    reasons: tuple[Reason, ...] = ()
    minutes: float
    total_s: float
    stops: tuple[Stop, ...] = ()
    left_out: tuple[LeftOut, ...] = ()
    objective: Objective


def _limits(stop: DraftStop, screening: Screening) -> Limits | None:
    if stop.kind in NAMED_STOPS:
        return None
    return limits_for(entry(stop.id), stop.side, screening)


def side_count(side: StopSide) -> int:
    """How many sides a stop is worked on, one after the other."""
    return 2 if side == "both" else 1


def arrange(stops: Sequence[DraftStop], screening: Screening) -> tuple[Stop, ...]:
    """Lay stops out in time and check each against the person's limits. Muted stops take no time.

    Raises: NotAllowed naming the stop, if one is refused, too hard or in a position the person must not be in;
    CoreError if a side does not fit the point or two stops share a key.
    """
    if len(stops) > MAX_STOPS:
        raise CoreError(f"a score holds up to {MAX_STOPS} stops; this one has {len(stops)}", where="stops")
    if len({stop.key for stop in stops}) != len(stops):
        raise CoreError("two stops have the same key", where="stops")
    out = positions_out(screening)
    clock = 0.0
    position: Position | None = None
    laid: list[Stop] = []
    for index, stop in enumerate(stops):
        where = f"stops.{index}"
        limits = _limits(stop, screening)
        _check(stop, limits, out, where)
        if not stop.muted:
            if position is not None and stop.position != position:
                clock += TURN_S
            elif laid:
                clock += MOVE_S
            position = stop.position
        seconds = duration_s(stop.dose) * side_count(stop.side)
        laid.append(_laid(stop, limits, clock, seconds))
        if not stop.muted:
            clock += seconds
    return tuple(laid)


def _check(stop: DraftStop, limits: Limits | None, out: dict[Position, str], where: str) -> None:
    if stop.muted:
        return
    if stop.position in out:
        raise NotAllowed(f"{stop.id}: {out[stop.position]}", where=where)
    if limits is None:
        return
    target = entry(stop.id)
    if (stop.side == "midline") if target.whole == "both" else (stop.side != target.whole):
        said = {"both": "has two sides", "midline": "lies on the midline"}.get(target.whole, f"is {target.whole} only")
        raise CoreError(f"{stop.id}: {said}", where=f"{where}.side")
    if stop.position not in target.reach.positions:
        raise CoreError(f"{stop.id} cannot be reached {stop.position}", where=f"{where}.position")
    if limits.refused is not None:
        raise NotAllowed(f"{stop.id}: {limits.refused.text}", where=where)
    if stop.level > limits.ceiling:
        raise NotAllowed(
            f"{stop.id}: level {stop.level} is above {limits.ceiling}. {limits.ceiling_reasons[0]}",
            where=f"{where}.level",
        )


def _laid(stop: DraftStop, limits: Limits | None, start: float, seconds: float) -> Stop:
    if limits is None:
        name, contact, ceiling = NAMED_STOPS[stop.kind], "palm", 1
        reasons: tuple[str, ...] = ("A resting hand.",)
    else:
        target = entry(stop.id)
        name = target.names.english
        contact = target.contact if target.kind == "area" else target.press.contact
        ceiling, reasons = limits.ceiling, limits.ceiling_reasons
    level = min(stop.level, ceiling)  # only a muted stop can stand above its ceiling
    return Stop(
        **{**stop.model_dump(include=set(DraftStop.model_fields)), "level": level},
        name=name,
        start_s=round(start, 1),
        duration_s=round(seconds, 1),
        ceiling=ceiling,
        ceiling_reasons=reasons,
        contact=contact,
        force_n=force_n(level, contact),  # type: ignore[arg-type]
    )


def total_s(stops: Sequence[Stop]) -> float:
    """Seconds from the first stop to the end of the last that sounds."""
    return max((stop.start_s + stop.duration_s for stop in stops if not stop.muted), default=0.0)


def position_changes(stops: Sequence[DraftStop]) -> int:
    """How often the person has to turn."""
    played = [stop.position for stop in stops if not stop.muted]
    return sum(a != b for a, b in pairwise(played))


def default_level(wanted: int, ceiling: int) -> int:
    """The level to start from: what the dose aims at, kept under the ceiling and under deep."""
    return max(1, min(wanted, ceiling, pressure_table().default_ceiling))
