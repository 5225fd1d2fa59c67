"""The score: a sequence of stops laid out in time, checked against the person's limits whenever it changes."""

from collections.abc import Callable, Sequence
from datetime import date
from itertools import pairwise, takewhile
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from acuthesis.core.atlas.catalogue import Entry, entry, part_of
from acuthesis.core.atlas.finding import WayBeside
from acuthesis.core.atlas.model import Contact, Position
from acuthesis.core.compose.course import CourseStep, Phrase, course, hand_words, rhythm
from acuthesis.core.compose.dose import Dose, Side, duration_s, in_words, slides, whole_s
from acuthesis.core.compose.school import School
from acuthesis.core.compose.settling import CANNOT_WARN, settled, turning
from acuthesis.core.compose.stance import Round, cheapest, rounds, stand_words, step_m
from acuthesis.core.compose.technique import Technique, techniques
from acuthesis.core.compose.weights import weights
from acuthesis.core.errors import CoreError, NotAllowed, UnknownId
from acuthesis.core.reason import Reason
from acuthesis.core.safety.first_aid import Help
from acuthesis.core.safety.limits import Limits, limits_at, limits_for, positions_out
from acuthesis.core.safety.pressure import PressureTable, contact_warning, entering, force_n, pressure_table
from acuthesis.core.safety.screening import Decision, Screening
from acuthesis.core.safety.touching import StopSide
from acuthesis.core.words import POSITION_WORDS

MOVE_S = 5  # from one place to the next: hands off, find, settle
TURN_S = 30  # the person turns over or sits up
MAX_STOPS = 120
REASON_LEAST = 8  # letters of a reason that is more than a full stop

StopKind = Literal["point", "area", "stroke", "loosen", "stretch", "breathe", "rate", "second_look", "close"]
PRESSED: tuple[StopKind, ...] = ("point", "area")
UNTOUCHED: tuple[StopKind, ...] = ("rate", "second_look")
# Stops that are moments of the session and touch nothing in particular, by id.
MOMENTS: dict[str, str] = {
    "first_rating": "Talk, and rate how it is now",
    "arrive": "Arrive and breathe",
    "rest": "Rest",
    "second_look": "Second look at the sorest places",
    "close": "Quiet close",
    "last_rating": "Rate again",
    "breathe": "Arrive and breathe",
}


EARS = ("ear", "ear_back")


class Before(BaseModel):
    """What was felt at a place at an earlier visit: soreness at first and at last (0 to 10), and what eased it."""

    on: date
    side: StopSide
    first: int
    last: int
    way: Literal["ease", "rim", "firm"] | None = None


class SoreWay(BaseModel):
    """What a sore spot gets in the school of the score, the school's name where that is its own way, and whether it may
    be pressed once firmer for some seconds.
    """

    then: Literal["leave", "ease", "rim", "short_firm_press"] = "ease"
    school: str = ""
    firm: bool = False


class DraftStop(BaseModel):
    """A stop as the practitioner writes it: what, where, how, how hard.

    `contact` what presses, where it is not the usual; `override` the reason under which a refusal is lifted.
    """

    model_config = ConfigDict(extra="ignore")

    key: str = Field(min_length=1, max_length=64)
    kind: StopKind
    id: str = Field(min_length=1, max_length=80)
    side: StopSide
    position: Position
    dose: Dose
    level: int = Field(ge=1, le=5)
    muted: bool = False
    contact: Contact | None = None
    override: str = Field("", max_length=400)
    phase: str = Field("", max_length=40)
    why: tuple[str, ...] = ()
    first: Literal["right", "left"] = "right"  # the side that is worked first, where one follows the other
    core_of: tuple[str, ...] = Field((), max_length=12)  # complaints that anybody would begin with it for


class Stop(DraftStop):
    """A stop in its place in the score: when it starts, how long it takes, the ceiling and the force."""

    contact: Contact
    name: str
    start_s: float
    duration_s: float
    ceiling: int
    ceiling_reasons: tuple[str, ...]
    force_n: float
    entering: tuple[int, ...] = ()
    warnings: tuple[str, ...] = ()
    words: str = ""
    dose_words: str = ""
    stand: str = ""  # where the practitioner stands or sits for it
    settle: str = ""  # how the person is laid or seated, at the first stop in a position
    turn: str = ""  # how the person is helped into a position that is not the one before
    hand: str = ""  # what presses, and what the other hand does meanwhile
    find_s: float = 0  # before the hands are on: letting go of the place before, turning, looking for this one
    before: tuple[Before, ...] = ()  # what was felt here at the last visits, oldest first; from the beginning on
    beside: tuple[WayBeside, ...] = ()  # where a hand may find it instead: two directions along, two across
    found: str = ""  # where it was found last time on this person, where that is not where it is looked for
    consent: bool = False  # the person is asked before a hand goes there, and has not agreed yet
    rhythm: tuple[Phrase, ...] = ()  # the beats of the dose on one side
    course: tuple[CourseStep, ...] = ()  # find, enter, dose, release, side after side

    @model_validator(mode="after")
    def _say(self) -> "Stop":
        self.dose_words = in_words(self.dose)
        self.rhythm = rhythm(self.dose)
        self.course = course(sides_of(self), self.level, duration_s(self.dose), self.find_s) if self.pressed else ()
        return self

    @property
    def pressed(self) -> bool:
        """Whether hands press or stroke, so that it is entered and let go of."""
        return self.kind in (*PRESSED, "stroke", "loosen", "stretch")


class LeftOut(BaseModel):
    """Something that is not in the score, and why."""

    id: str
    name: str
    side: StopSide
    reason: str
    rule: str
    severity: Literal["refuse", "limit", "note"]
    overridable: bool = False
    core_of: tuple[str, ...] = ()  # complaints that anybody would begin with it for
    needs_s: float | None = None  # what it would take, where it is time or a turn that keeps it out


class Objective(BaseModel):
    """What the composition is worth: the value and the bound that nothing can beat; what of the cores is in, in their
    own unit; how often the person turns; what the order costs and the least that any could; metres that the
    practitioner walks, and how often what presses changes.
    """

    value: float
    bound: float = 0
    gap: float = 0
    core: float = 0
    position_changes: int
    order: float = 0
    order_bound: float = 0
    walked_m: float = 0
    tool_changes: int = 0


class Coverage(BaseModel):
    """What a complaint gets; `missing` says why something is not there."""

    complaint: str
    name: str
    local: bool
    far: bool
    calm: bool
    missing: tuple[str, ...] = ()
    core: tuple[str, ...] = ()  # ids that anybody would begin with, those that are in
    core_out: tuple[str, ...] = ()  # and those that are not


class Score(BaseModel):
    """A composed sequence, or the reasons why there is none."""

    decision: Decision
    reasons: tuple[Reason, ...] = ()
    minutes: float
    total_s: float
    school: str = ""
    alone: bool = False  # the person presses their own points
    stops: tuple[Stop, ...] = ()
    left_out: tuple[LeftOut, ...] = ()
    coverage: tuple[Coverage, ...] = ()
    notes: tuple[str, ...] = ()
    asks: tuple[str, ...] = ()  # to be asked before hands go on
    sore: SoreWay = SoreWay()
    help: Help | None = None  # what helps this person when something is wrong, from the beginning of the treatment on
    objective: Objective


Finder = Callable[[str], Entry]  # a point or area by its id; a practice has its own beside the shipped ones


def sides_of(stop: DraftStop) -> tuple[Side, ...]:
    """The sides of a stop as they are worked, one after the other; both at once are one."""
    if stop.side != "both" or stop.dose.together:
        return (stop.side,)
    return ("left", "right") if stop.first == "left" else ("right", "left")


def side_count(side: StopSide) -> int:
    """How many sides a stop is worked on: 2 for `both`, else 1 (the midline is one)."""
    return 2 if side == "both" else 1


def technique_of(stop: DraftStop) -> Technique | None:
    """The technique of a stop; None for a point, an area or a moment. Raises: UnknownId."""
    if stop.kind in PRESSED or stop.id in MOMENTS:
        return None
    if stop.id not in techniques():
        raise UnknownId(f"there is no technique '{stop.id}'", where=stop.id)
    return techniques()[stop.id]


def limits_of(stop: DraftStop, screening: Screening, find: Finder = entry) -> Limits | None:
    """What holds for a stop; None for a moment of the session. Raises: UnknownId."""
    if stop.kind in PRESSED:
        return limits_for(find(stop.id), stop.side, screening)
    technique = technique_of(stop)
    if technique is None or not technique.sites:
        return None
    return limits_at(technique.on(stop.side), screening)


def under_school(limits: Limits, school: School | None) -> Limits:
    """Limits with the school's own ceiling of pressure (levels 1 to 5): the lower of the two, with its reason."""
    if school is None or school.level_ceiling is None or school.level_ceiling >= limits.ceiling:
        return limits
    reason = f"{school.name} works at level {school.level_ceiling} at most."
    return limits.model_copy(update={"ceiling": school.level_ceiling, "ceiling_reasons": (reason,)})


def arrange(
    stops: Sequence[DraftStop],
    screening: Screening,
    school: School | None = None,
    find: Finder = entry,
    *,
    alone: bool = False,
) -> tuple[Stop, ...]:
    """Lay stops out in time and check each against the person's limits. Muted stops take no time. `alone`: the person
    presses their own points, and nobody stands beside them.

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
    nobody = alone or (school is not None and school.alone)
    numb = any(screening.answer(question) for question in CANNOT_WARN)
    ways = [None] * len(stops) if nobody else paths(stops, find)
    laid: list[Stop] = []
    for index, stop in enumerate(stops):
        limits = limits_of(stop, screening, find)
        if limits is not None:
            limits = under_school(limits, school)
        said: dict[str, Any] = {"stand": _stand(ways[index], stop)}
        if not stop.muted:
            _check(stop, limits, out, f"stops.{index}", find)
            if stop.position != position:
                said["settle"] = settled(stop.position, _parts_of(stops[index:], find), alone=nobody)
            if position not in (None, stop.position) and not nobody:
                said["turn"] = turning(stop.position, numb=numb)
            said["find_s"] = _travel(position, stop)
            clock += said["find_s"]
            position = stop.position
        laid.append(_laid(stop, limits, clock, find, screening.pressure, said, alone=nobody))
        if not stop.muted:
            clock += laid[-1].duration_s
    return tuple(laid)


def _parts_of(stops: Sequence[DraftStop], find: Finder) -> set[str]:
    """Parts of the body that are pressed until the person turns."""
    here = takewhile(lambda stop: stop.muted or stop.position == stops[0].position, stops)
    return {part_of(find(stop.id)) for stop in here if not stop.muted and stop.kind in PRESSED}


def paths(stops: Sequence[DraftStop], find: Finder = entry) -> list[Round | None]:
    """How each stop is worked, from where and which side first: of all ways through the stops in their order the one
    that is walked and reached for least. None for muted stops, and for those that touch nothing in particular.
    """
    found: list[Round | None] = [None] * len(stops)
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


def _rounds(stop: DraftStop, find: Finder) -> list[Round]:
    target: Entry | Technique | None = find(stop.id) if stop.kind in PRESSED else technique_of(stop)
    if target is None or (isinstance(target, Technique) and not target.sites):
        return []
    in_turn = stop.side == "both" and not stop.dose.together
    ways = rounds(target, stop.side, stop.position, together=stop.dose.together)
    return [way for way in ways if not in_turn or way.first == stop.first]


def _stand(way: Round | None, stop: DraftStop) -> str:
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


def tool_changes(stops: Sequence[Stop]) -> int:
    """How often what presses changes from one stop to the next."""
    hands = [stop.contact for stop in stops if not stop.muted and stop.kind not in UNTOUCHED and stop.id not in MOMENTS]
    return sum(a != b for a, b in pairwise(hands))


def _travel(position: Position | None, stop: DraftStop) -> float:
    if position is None:
        return 0.0
    return TURN_S if stop.position != position else MOVE_S


def _check(stop: DraftStop, limits: Limits | None, out: dict[Position, str], where: str, find: Finder) -> None:
    if stop.position in out:
        raise NotAllowed(f"{stop.id}: {out[stop.position]}", where=where)
    if stop.kind in PRESSED:
        _check_place(stop, find(stop.id), where)
    elif (technique := technique_of(stop)) is not None and stop.position not in technique.positions:
        raise CoreError(f"{technique.name} is not done {POSITION_WORDS[stop.position]}", where=f"{where}.position")
    if limits is not None:
        _check_limits(stop, limits, where)


def _check_place(stop: DraftStop, target: Entry, where: str) -> None:
    if (stop.side == "midline") if target.whole == "both" else (stop.side != target.whole):
        said = {"both": "has two sides", "midline": "lies on the midline"}.get(target.whole, f"is {target.whole} only")
        raise CoreError(f"{stop.id}: {said}", where=f"{where}.side")
    if stop.position not in target.reach.positions:
        raise CoreError(f"{stop.id} cannot be reached {POSITION_WORDS[stop.position]}", where=f"{where}.position")


def _check_limits(stop: DraftStop, limits: Limits, where: str) -> None:
    if limits.refused is not None and not (limits.overridable and len(stop.override.strip()) >= REASON_LEAST):
        said = " Signed for with a reason, it may be." if limits.overridable else ""
        raise NotAllowed(f"{stop.id}: {limits.refused.text}{said}", where=where)
    if limits.one_side and stop.side == "both":
        raise NotAllowed(f"{stop.id}: {limits.one_side}", where=f"{where}.side")
    if stop.level > limits.ceiling:
        raise NotAllowed(
            f"{stop.id}: level {stop.level} is above {limits.ceiling}. {limits.ceiling_reasons[0]}",
            where=f"{where}.level",
        )
    if limits.no_stick and stop.contact == "stick":
        raise NotAllowed(f"{stop.id}: no stick here. {limits.ceiling_reasons[0]}", where=f"{where}.contact")
    if limits.no_glide and slides(stop.dose) and stop.level > 1:
        raise NotAllowed(f"{stop.id}: nothing slides over the skin above level 1 here.", where=f"{where}.dose")
    if limits.longest_s is not None and duration_s(stop.dose) > limits.longest_s:
        raise NotAllowed(f"{stop.id}: {limits.longest_s} s is the longest. {limits.longest_why}", where=f"{where}.dose")


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
    ceiling, reasons = (limits.ceiling, limits.ceiling_reasons) if limits else (1, ("A resting hand.",))
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
        name, usual, words = technique.name, technique.contact, technique.words
    else:
        name = MOMENTS[stop.id]
    contact = stop.contact or usual
    if (smaller := contact_warning(level, usual, contact, table)) is not None:
        warnings.append(smaller)
    if limits is not None and limits.refused is not None:
        warnings.append(f"Signed for: {stop.override.strip() or limits.refused.text}")
    if limits is not None and limits.consent:
        warnings.append(limits.consent)
    dose = stop.dose if stop.side == "both" else stop.dose.model_copy(update={"together": False})
    return Stop(
        **{**stop.model_dump(include=set(DraftStop.model_fields)), "level": level, "contact": contact, "dose": dose},
        name=name,
        start_s=round(start, 1),
        duration_s=round(whole_s(stop.dose, stop.side), 1),
        ceiling=ceiling,
        ceiling_reasons=reasons,
        consent=bool(limits and limits.consent),
        force_n=0.0 if stop.kind in UNTOUCHED else force_n(level, contact, table),
        entering=entering(level) if stop.kind in PRESSED else (),
        warnings=tuple(warnings),
        words=words,
        hand="" if part is None else hand_words(contact, part, together=dose.together, alone=alone),
        **said,
    )


LONGEST_S = 6 * 3600  # no session is longer


def check_score(score: Score) -> None:
    """What any score has to be that comes from outside, whoever it was made for.

    Raises: CoreError naming the stop: too many stops, one key twice, harder than its own ceiling, or longer than a day
    at work.
    """
    if len(score.stops) > MAX_STOPS:
        raise CoreError(f"a score holds up to {MAX_STOPS} stops; this one has {len(score.stops)}", where="stops")
    if len({stop.key for stop in score.stops}) != len(score.stops):
        raise CoreError("two stops have the same key", where="stops")
    for rank, stop in enumerate(score.stops):
        where = f"stops.{rank}"
        if not stop.muted and stop.level > stop.ceiling:
            raise CoreError(
                f"{where}: {stop.id} is at level {stop.level}, above its ceiling {stop.ceiling}", where=where
            )
        if not (0 <= stop.start_s <= LONGEST_S and 0 <= stop.duration_s <= LONGEST_S):
            raise CoreError(f"{where}: {stop.id} begins or lasts beyond any session", where=where)


def total_s(stops: Sequence[Stop]) -> float:
    """Seconds from the first stop to the end of the last that sounds."""
    return max((stop.start_s + stop.duration_s for stop in stops if not stop.muted), default=0.0)


def position_changes(stops: Sequence[DraftStop]) -> int:
    """How often the person has to turn on the way through the stops in their order; muted ones do not count."""
    played = [stop.position for stop in stops if not stop.muted]
    return sum(a != b for a, b in pairwise(played))


def default_level(wanted: int, ceiling: int) -> int:
    """The level to start from: what the dose aims at, kept under the ceiling and under deep."""
    return max(1, min(wanted, ceiling, pressure_table().default_ceiling))
