"""Lays stops out in time, and checks them against the person's limits; every change of a score passes through here."""

from collections.abc import Callable, Sequence
from itertools import takewhile
from typing import Any

from acuthesis.core.atlas.entries.catalogue import Entry, entry, part_of
from acuthesis.core.atlas.entries.model import Contact, Position
from acuthesis.core.compose.knowledge.dose import duration_s, slides, whole_s
from acuthesis.core.compose.knowledge.school import School
from acuthesis.core.compose.knowledge.technique import Technique
from acuthesis.core.compose.knowledge.weights import weights
from acuthesis.core.compose.score.course import hand_words
from acuthesis.core.compose.score.score import (
    EARS,
    MOMENTS,
    MOVE_S,
    PRESSED,
    REASON_LEAST,
    TURN_S,
    UNTOUCHED,
    DraftStop,
    Stop,
    check_keys,
    technique_of,
)
from acuthesis.core.compose.score.settling import CANNOT_WARN, ON_COUCH, Seat, seat_of, settled, turning
from acuthesis.core.compose.score.stance import WorkingStance, cheapest, rounds, stand_words, step_m
from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.message import message
from acuthesis.core.safety.limits import Limits, limits_at, limits_for, positions_out
from acuthesis.core.safety.pressure import PressureTable, contact_warning, entering, force_n
from acuthesis.core.safety.screening import Screening
from acuthesis.core.safety.soreness import meanings
from acuthesis.core.words import POSITION_WORDS

Finder = Callable[[str], Entry]  # a point or area by its id; a practice has its own beside the shipped ones


def limits_of(stop: DraftStop, screening: Screening, find: Finder = entry) -> Limits | None:
    """What holds for a stop; None for a moment of the session. Raises: UnknownId."""
    if stop.kind in PRESSED:
        return limits_for(find(stop.id), stop.side, screening)
    technique = technique_of(stop)
    if technique is None or not technique.sites:
        return None
    return limits_at(technique.on(stop.side), screening)


def under_school(limits: Limits, school: School | None) -> Limits:
    """Limits with the school's own ceiling of pressure (levels 1 to 5): the lower of the two, with its reason.

    >>> from acuthesis.core.safety.screening import parse_screening
    >>> from acuthesis.core.atlas.entries.catalogue import entry
    >>> from acuthesis.core.compose.knowledge.school import schools
    >>> from acuthesis.core.safety.limits import limits_for
    >>> limits = limits_for(entry("GB30"), "left", parse_screening({}))
    >>> limits.ceiling, under_school(limits, schools()["quiet_holding"]).ceiling
    (4, 2)
    """
    if school is None or school.level_ceiling is None or school.level_ceiling >= limits.ceiling:
        return limits
    reason = f"{school.name} uses level {school.level_ceiling} at most."
    return limits.model_copy(update={"ceiling": school.level_ceiling, "ceiling_reasons": (reason,)})


def arrange(
    stops: Sequence[DraftStop],
    screening: Screening,
    school: School | None = None,
    find: Finder = entry,
    *,
    alone: bool = False,
    after: DraftStop | None = None,
) -> tuple[Stop, ...]:
    """Lay stops out in time and check each against the person's limits. Muted stops take no time. `alone`: the person
    presses their own points, and nobody stands beside them; `after`: the stop that hands are at, where a treatment has
    begun.

    Raises: NotAllowed naming the stop, if one is refused, too hard or in a position the person must not be in;
    CoreError if a side does not fit the point or two stops share a key.
    """
    check_keys(stops)
    out = positions_out(screening)
    clock = 0.0
    position: Position | None = None if after is None else after.position
    nobody = alone or (school is not None and school.alone)
    numb = any(screening.answer(question) for question in CANNOT_WARN)
    ways = [None] * len(stops) if nobody else paths(stops, find)
    laid: list[Stop] = []
    seat: Seat = "chair" if after is None else _seat((after,), find)
    for index, stop in enumerate(stops):
        limits = limits_of(stop, screening, find)
        if limits is not None:
            limits = under_school(limits, school)
        said: dict[str, Any] = {"stand": _stand(ways[index], stop)}
        if stop.kind in PRESSED:
            said["sore_means"] = meanings(find(stop.id).site, screening)
        if not stop.muted:
            _check(stop, limits, out, f"stops.{index}", find)
            if stop.position != position:
                here = _here(stops[index:])
                parts, talk = _parts_of(here, find), all(one.kind == "rate" for one in here)
                said["settle"] = settled(stop.position, parts, alone=nobody, talk=talk)
                if position is not None and not nobody:
                    sits = _seat(here, find) if position in ON_COUCH else seat
                    said["turn"] = turning(position, stop.position, seat=sits, numb=numb)
                seat = _seat(here, find)
            said["find_s"] = _travel(position, stop)
            clock += said["find_s"]
            position = stop.position
        laid.append(_laid(stop, limits, clock, find, screening.pressure, said, alone=nobody))
        if not stop.muted:
            clock += laid[-1].duration_s
    return tuple(laid)


def _here(stops: Sequence[DraftStop]) -> list[DraftStop]:
    """The stops, without muted ones, until the person turns."""
    here = takewhile(lambda stop: stop.muted or stop.position == stops[0].position, stops)
    return [stop for stop in here if not stop.muted]


def _parts_of(stops: Sequence[DraftStop], find: Finder) -> set[str]:
    """Parts of the body that are worked by stops."""
    return {part_of(find(stop.id)) for stop in stops if stop.kind in PRESSED}


def _seat(stops: Sequence[DraftStop], find: Finder) -> Seat:
    """What somebody sits on for these stops, if they sit."""
    return seat_of(_parts_of(stops, find), talk=all(stop.kind == "rate" for stop in stops))


def paths(stops: Sequence[DraftStop], find: Finder = entry) -> list[WorkingStance | None]:
    """How each stop is worked, from where and which side first: of all ways through the stops in their order the one
    that is walked and reached for least. None for muted stops, and for those that touch nothing in particular.
    """
    found: list[WorkingStance | None] = [None] * len(stops)
    at: list[int] = []
    position: Position | None = None
    for index, stop in [*enumerate(stops), (len(stops), None)]:
        if stop is None or (not stop.muted and stop.position != position):
            if position is not None and at:
                options = [_rounds(stops[one], find) for one in at]
                for one, way in zip(at, cheapest(options, position, weights().order.going), strict=True):
                    found[one] = way
            at, position = [], None if stop is None else stop.position
        if stop is not None and not stop.muted and _rounds(stop, find):
            at.append(index)
    return found


def _rounds(stop: DraftStop, find: Finder) -> list[WorkingStance]:
    target: Entry | Technique | None = find(stop.id) if stop.kind in PRESSED else technique_of(stop)
    if target is None or (isinstance(target, Technique) and not target.sites):
        return []
    in_turn = stop.side == "both" and not stop.dose.together
    ways = rounds(target, stop.side, stop.position, together=stop.dose.together)
    return [way for way in ways if not in_turn or way.first == stop.first]


def _stand(way: WorkingStance | None, stop: DraftStop) -> str:
    if way is None:
        return ""
    first, then = (stand_words(stand, stop.position) for stand in way.stand)
    return first if first == then else f"{first}, then {then}"


def walked_m(stops: Sequence[DraftStop], find: Finder = entry) -> float:
    """Metres that the practitioner walks through the stops in their order; turning the person is not walked."""
    walked, before = 0.0, None
    position: Position | None = None
    for stop, way in zip(stops, paths(stops, find), strict=True):
        if way is None:
            continue
        walked += step_m(before if stop.position == position else None, way, stop.position)[0]
        before, position = way, stop.position
    return walked


def _travel(position: Position | None, stop: DraftStop) -> float:
    if position is None:
        return 0.0
    return TURN_S + stop.turn_s if stop.position != position else MOVE_S


def _check(stop: DraftStop, limits: Limits | None, out: dict[Position, str], where: str, find: Finder) -> None:
    if stop.position in out:
        raise NotAllowed(message("stop-not-done-in-position", id=stop.id, reason=out[stop.position]), where=where)
    if stop.kind in PRESSED:
        _check_place(stop, find(stop.id), where)
    elif (technique := technique_of(stop)) is not None and stop.position not in technique.positions:
        raise CoreError(
            message("arrange-not-done", name=technique.name, position_words=POSITION_WORDS[stop.position]),
            where=f"{where}.position",
        )
    if limits is not None:
        _check_limits(stop, limits, where)


def _check_place(stop: DraftStop, target: Entry, where: str) -> None:
    if (stop.side == "midline") if target.whole == "both" else (stop.side != target.whole):
        said = {"both": "has two sides", "midline": "lies on the midline"}.get(target.whole, f"is {target.whole} only")
        raise CoreError(message("stop-side", id=stop.id, sides=said), where=f"{where}.side")
    if stop.position not in target.reach.positions:
        raise CoreError(
            message("arrange-cannot-reached", id=stop.id, position_words=POSITION_WORDS[stop.position]),
            where=f"{where}.position",
        )


def _check_limits(stop: DraftStop, limits: Limits, where: str) -> None:
    if limits.refused is not None and not (limits.overridable and len(stop.override.strip()) >= REASON_LEAST):
        said = " It can be overridden with a reason." if limits.overridable else ""
        raise NotAllowed(
            message("stop-refused-overridable", id=stop.id, reason=limits.refused.text, override=said), where=where
        )
    if limits.one_side and stop.side == "both":
        raise NotAllowed(message("stop-one-side-only", id=stop.id, reason=limits.one_side), where=f"{where}.side")
    if stop.level > limits.ceiling:
        raise NotAllowed(
            message(
                "arrange-level-above-maximum",
                id=stop.id,
                level=stop.level,
                ceiling=limits.ceiling,
                ceiling_reasons=limits.ceiling_reasons[0],
            ),
            where=f"{where}.level",
        )
    if limits.no_stick and stop.contact == "stick":
        raise NotAllowed(
            message("arrange-no-pressing-stick-here", id=stop.id, ceiling_reasons=limits.ceiling_reasons[0]),
            where=f"{where}.contact",
        )
    if limits.no_glide and slides(stop.dose) and stop.level > 1:
        raise NotAllowed(message("arrange-no-gliding-strokes-above-level", id=stop.id), where=f"{where}.dose")
    if limits.longest_s is not None and duration_s(stop.dose) > limits.longest_s:
        raise NotAllowed(
            message("arrange-at-most-s", id=stop.id, longest_s=limits.longest_s, longest_why=limits.longest_why),
            where=f"{where}.dose",
        )


def _laid(
    stop: DraftStop,
    limits: Limits | None,
    start: float,
    find: Finder,
    table: PressureTable,
    said: dict[str, Any],
    *,
    alone: bool,
) -> Stop:
    ceiling, reasons = (limits.ceiling, limits.ceiling_reasons) if limits else (1, ("Hand contact.",))
    level = min(stop.level, ceiling)  # only a muted stop can stand above its ceiling
    usual: Contact = "palm"
    words = ""
    part: str | None = None
    warnings: list[str] = []
    if stop.kind in PRESSED:
        target = find(stop.id)
        part = "ear" if target.kind == "area" and target.surface in EARS else part_of(target)
        name = target.names.english
        usual = target.contact if target.kind == "area" else target.press.contact
    elif (technique := technique_of(stop)) is not None:
        name, usual, words = technique.name, technique.contact, technique.words_for(stop.position)
    else:
        name = MOMENTS[stop.id]
    contact = stop.contact or usual
    if (smaller := contact_warning(level, usual, contact, table)) is not None:
        warnings.append(smaller)
    if limits is not None and limits.refused is not None:
        warnings.append(f"Override: {stop.override.strip() or limits.refused.text}")
    asks = limits is not None and bool(limits.consent) and not alone  # nobody is asked for consent of oneself
    if limits is not None and asks:
        warnings.append(limits.consent)
    dose = stop.dose if stop.side == "both" else stop.dose.model_copy(update={"together": False})
    return Stop(
        **{**stop.model_dump(include=set(DraftStop.model_fields)), "level": level, "contact": contact, "dose": dose},
        name=name,
        start_s=round(start, 1),
        duration_s=round(whole_s(stop.dose, stop.side), 1),
        ceiling=ceiling,
        ceiling_reasons=reasons,
        consent=asks,
        force_n=0.0 if stop.kind in UNTOUCHED else force_n(level, contact, table),
        entering=entering(level) if stop.kind in PRESSED else (),
        warnings=tuple(warnings),
        words=words,
        hand="" if part is None else hand_words(contact, part, together=dose.together, alone=alone),
        **said,
    )
