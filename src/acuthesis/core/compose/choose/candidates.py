"""Second step: filters wishes by the safety rules. What is left, in which ways; and what is refused, with its rule.

What a rule forbids becomes a line of what is left out; what it only limits becomes lighter, shorter, still or
one-sided.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field

from acuthesis.core.atlas.entries.catalogue import Entry, part_of
from acuthesis.core.atlas.entries.model import Area, Contact, Position
from acuthesis.core.body.figure import other_side
from acuthesis.core.compose.choose.brief import Brief
from acuthesis.core.compose.choose.request import ComposeRequest
from acuthesis.core.compose.choose.wishes import CoreSeat, Wish, Wishes, each_side
from acuthesis.core.compose.knowledge.complaints import PointSource, Role
from acuthesis.core.compose.knowledge.dose import Dose, DoseDefault, duration_s, paced, stretched, whole_s, within
from acuthesis.core.compose.knowledge.technique import Technique
from acuthesis.core.compose.knowledge.weights import CoverKind, weights
from acuthesis.core.compose.score.adapting import adapted
from acuthesis.core.compose.score.arrange import under_school
from acuthesis.core.compose.score.score import PRESSED, LeftOut, Round, StopKind
from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.message import message
from acuthesis.core.safety.body_parts import lain_on
from acuthesis.core.safety.limits import Limits, limits_at, limits_for
from acuthesis.core.safety.touching import StopSide

SHORTER = "Shorter than usual to make room for more points."
LIGHT_HERE = "Light pressure for this complaint."
LONGER = "Longer than usual, as there is time."
TOLD_FROM, TOLD_CHANGE = 2, 1  # visits and points of the rating from which that is said of a stop
ON_SIDE: tuple[Position, ...] = ("left_side", "right_side")
BACK = ("low back", "sacrum", "tailbone")  # in nobody's own reach for half a minute, whatever a supple person manages


@dataclass(frozen=True)
class Way:
    """One way to do a candidate: on which side, with which dose and level, how long, and what it brings.

    `length`: the dose against the usual one; `share`: what of the place is worked, 1 or that of one side; `under`:
    positions in which the person lies on it.
    """

    side: StopSide
    dose: Dose
    level: int
    seconds: float
    stops: int
    benefit: float
    why: tuple[str, ...]
    length: float = 1.0
    under: frozenset[Position] = frozenset()
    share: float = 1.0


@dataclass
class Candidate:
    """Something that might be in a score. `extra`: it comes from a school that was mixed in."""

    target: Entry | Technique
    role: Role
    phase: int
    positions: tuple[Position, ...]
    ways: list[Way]
    benefits: dict[str, float]  # by complaint
    covers: dict[str, set[CoverKind]]  # by complaint
    why: list[str]
    pinned: bool
    roles: dict[str, Role] = field(default_factory=dict)  # by complaint
    grounds: set[PointSource] = field(default_factory=set)
    core_of: tuple[str, ...] = ()  # complaints that begin with it
    extra: bool = False
    round: Round = "chosen"

    @property
    def id(self) -> str:
        """Id of what is pressed or done."""
        return self.target.id

    @property
    def kind(self) -> StopKind:
        """Kind of the stop it would become."""
        return self.target.kind

    @property
    def pressed(self) -> bool:
        """Whether it is a place that is pressed, and not a stroke, a stretch or a breath."""
        return self.kind in PRESSED

    @property
    def name(self) -> str:
        """Its name for people."""
        return self.target.name if isinstance(self.target, Technique) else self.target.names.english

    @property
    def site(self) -> str:
        """Where the hands are."""
        if isinstance(self.target, Technique):
            return self.target.sites[0] if self.target.sites else ""
        return self.target.site

    @property
    def part(self) -> str:
        """The part of the body; of a technique, the last place that it works."""
        if isinstance(self.target, Technique):
            return self.target.places[-1] if self.target.places else ""
        return part_of(self.target)

    @property
    def contact(self) -> Contact:
        """What presses."""
        if isinstance(self.target, Technique) or self.target.kind == "area":
            return self.target.contact
        return self.target.press.contact

    @property
    def best(self) -> Way:
        """The way that brings most."""
        return max(self.ways, key=lambda way: way.benefit)


@dataclass(frozen=True)
class Sieved:
    """The candidates in order of id, what of the cores is among them, and what was left out."""

    candidates: tuple[Candidate, ...]
    cores: tuple[CoreSeat, ...]
    left_out: tuple[LeftOut, ...]


def sieved(wishes: Wishes, brief: Brief) -> Sieved:
    """Turns wishes into candidates. Raises: NotAllowed naming the reason for which a pinned stop cannot be; CoreError
    where nothing is left that could be pressed.
    """
    sieve = Sieve(wishes, brief)
    found = tuple(one for wish in wishes.by_id.values() if (one := sieve.candidate(wish)) is not None)
    left_out = tuple(sieve.left_out)
    _pinned_are_there({one.id for one in found}, left_out, brief.request)
    if not any(one.pressed for one in found):
        raise nothing_left(left_out, brief)
    ids = {one.id for one in found}
    # What goes together with something that may not be done stands alone; the rank keeps its worth.
    cores = [CoreSeat(core.complaint, tuple(id for id in core.ids if id in ids), core.worth) for core in wishes.cores]
    return Sieved(found, tuple(core for core in cores if core.ids), left_out)


def _pinned_are_there(ids: set[str], left_out: tuple[LeftOut, ...], request: ComposeRequest) -> None:
    for id in request.pinned:
        if id in ids or any(done.id == id for done in request.done):
            continue
        why = next((left.reason for left in left_out if left.id == id), "It cannot be done here.")
        raise NotAllowed(message("candidates-pinned-but-not-possible-unpin", id=id, why=why), where="pinned")


def _helped(id: str, request: ComposeRequest) -> float:
    """Factor for what happened after this stop before; a single visit says little, so it is drawn toward one."""
    factor = 1.0
    for row in request.history:
        if row.id == id:
            sure = row.times / (row.times + 2)
            factor += weights().history * row.change * sure
    return min(max(factor, 0.5), 1.5)


def _found_before(id: str, request: ComposeRequest) -> Iterator[str]:
    """What the visits with this stop brought, where it was worth saying."""
    for row in request.history:
        if row.id == id and row.times >= TOLD_FROM and row.change >= TOLD_CHANGE:
            yield f"In {row.times} visits with this point, the rating fell by {row.change:g} on average."


class Sieve:
    """What may be done with this person, and how: one pass over the wishes, collecting what is left out."""

    def __init__(self, wishes: Wishes, brief: Brief) -> None:
        self.brief, self.request, self.school = brief, brief.request, brief.school
        self.left_out: list[LeftOut] = []
        self.core_of: dict[str, list[str]] = {}
        for seat in wishes.cores:
            for id in seat.ids:
                self.core_of.setdefault(id, []).append(seat.complaint)

    def _leave(self, wish: Wish, reason: str, rule: str, severity: str, side: StopSide, override: bool = False) -> None:
        target = wish.target
        self.left_out.append(
            LeftOut(
                id=target.id,
                name=target.name if isinstance(target, Technique) else target.names.english,
                side=side,
                reason=reason,
                rule=rule,
                severity=severity,
                overridable=override,
                core_of=tuple(self.core_of.get(target.id, ())),
            )
        )

    def candidate(self, wish: Wish) -> Candidate | None:
        """The candidate of a wish; None where it may not be done, which is noted."""
        target, whole = wish.target, wish.side
        if target.id in self.request.avoid:
            self._leave(wish, "You chose to avoid it.", "avoid", "note", whole)
            return None
        if self.brief.alone and not self._alone(target):
            self._leave(wish, "Cannot be reached without help.", "reach", "note", whole)
            return None
        sides = self._sides(wish)
        if not sides:
            return None
        positions = self.positions(target)
        if not positions:
            self._leave(
                wish,
                f"It cannot be reached in any remaining position. {self._no_position(target)}",
                "position",
                "limit",
                whole,
            )
            return None
        if sum(wish.benefits.values()) <= 0 and target.id not in self.request.pinned:
            self._leave(wish, "The complaint is rated 0 today.", "benefit", "note", whole)
            return None
        phase = self.school.phase_of(wish.role)
        assert phase is not None  # only roles of this school are wanted
        factor = self._factor(target.id)
        return Candidate(
            target=target,
            role=wish.role,
            phase=phase,
            positions=positions,
            ways=[way for side, share in sides for way in self._ways(wish, side, share, factor)],
            benefits={id: benefit * factor for id, benefit in wish.benefits.items()},
            covers=wish.covers,
            why=[*dict.fromkeys(wish.why), *_found_before(target.id, self.request)],
            pinned=target.id in self.request.pinned,
            roles=wish.roles,
            grounds=wish.grounds,
            core_of=tuple(dict.fromkeys(self.core_of.get(target.id, ()))),
            extra=self.brief.extra(wish.grounds),
        )

    def positions(self, target: Entry | Technique) -> tuple[Position, ...]:
        """Positions that a target is reached in and that are open to this person, in the school's order."""
        allowed = self._reached_in(target)
        order = self.school.positions or allowed
        free = [one for one in order if one in allowed and one not in self.brief.blocked]
        # Flat on the back and half reclined reach much the same: a session has one of them.
        if "supine" in free and "half_reclined" in free:
            free.remove("supine" if self.brief.reclined else "half_reclined")
        return tuple(free)

    def _reached_in(self, target: Entry | Technique) -> tuple[Position, ...]:
        if isinstance(target, Technique):
            return target.positions
        if self.brief.alone:
            return tuple(position for position in target.reach.positions if position in alone_in(target))
        return target.reach.positions

    def _no_position(self, target: Entry | Technique) -> str:
        blocked = (self.brief.blocked[one] for one in self._reached_in(target) if one in self.brief.blocked)
        return next(blocked, "This school does not use this area.")

    def _factor(self, id: str) -> float:
        wished = weights().pinned if id in self.request.pinned else 1.0
        wished *= weights().prefer if id in self.request.prefer else 1.0
        wished *= weights().resting if id in self.request.resting else 1.0
        return _helped(id, self.request) * wished

    @staticmethod
    def _alone(target: Entry | Technique) -> bool:
        if isinstance(target, Technique):
            return target.alone
        return target.reach.alone and target.region not in BACK and bool(alone_in(target))

    def limits(self, target: Entry | Technique, side: StopSide) -> Limits:
        """What holds for a target on a side, the school's own ceiling included."""
        if isinstance(target, Technique):
            found = limits_at(target.on(side), self.brief.screening)
        else:
            found = limits_for(target, side, self.brief.screening)
        return under_school(found, self.school)

    def done_sides(self, id: str) -> set[StopSide]:
        """Sides on which a target was done already, where the rest of a treatment is composed."""
        return {side for done in self.request.done if done.id == id for side in each_side(done.side)}

    def _sides(self, wish: Wish) -> list[tuple[StopSide, float]]:
        """The sides it can be done on, each with its share of the benefit; what a rule takes away is said."""
        target, whole = wish.target, wish.side
        done = self.done_sides(target.id)
        free: list[StopSide] = []
        for side in each_side(whole):
            limits = self.limits(target, side)
            if side in done:
                continue
            if limits.refused is not None:
                refused = limits.refused
                on = side if isinstance(target, Technique) or target.whole == "both" else whole
                self._leave(wish, refused.text, refused.rule, "refuse", on, limits.overridable)
            else:
                free.append(side)
        self._join_refusals(target.id, whole)
        if whole != "both":
            return [(side, 1.0) for side in free]
        half = weights().half
        if len(free) == 2 and not self.limits(target, "both").one_side:
            short = self.request.slot_s <= weights().one_side_to * 60 and target.id in self.core_of
            single = [side for side in free if side in wish.affected] or (["right"] if short else [])
            if self._only_on_a_side(target):
                single = free  # whoever lies on the side lies on one of them: the other is worked
            return [("both", 1.0), *((side, half) for side in single)]
        return [(side, half) for side in free]

    def _only_on_a_side(self, target: Entry | Technique) -> bool:
        """Whether it is left to be worked only on somebody who lies on the one of its two sides."""
        return not isinstance(target, Technique) and set(self.positions(target)) <= lain_upon(target, "both")

    def _join_refusals(self, id: str, whole: StopSide) -> None:
        """Two lines that refuse left and right for the same reason are one line for both."""
        mine = [left for left in self.left_out if left.id == id]
        if whole == "both" and len(mine) == 2 and mine[0].rule == mine[1].rule:
            self.left_out = [left for left in self.left_out if left.id != id]
            self.left_out.append(mine[0].model_copy(update={"side": "both"}))

    def _usual(self, wish: Wish) -> DoseDefault:
        """The dose that the school gives it, at this person's pace of breathing."""
        target = wish.target
        if isinstance(target, Technique):
            default = self.brief.doses[target.dose]
            dose = default.dose.model_copy(update={"together": target.together})
        else:
            default = self.school.dose_for(target, wish.role, self.brief.doses)
            dose = default.dose
        return default.model_copy(update={"dose": paced(dose, self.request.breaths_per_minute)})

    def _ways(self, wish: Wish, side: StopSide, share: float, factor: float) -> Iterator[Way]:
        target, default, shortened = wish.target, self._usual(wish), self.brief.shortened
        limits = self.limits(target, side)
        if wish.level is not None and wish.level < limits.ceiling:
            limits = limits.model_copy(update={"ceiling": wish.level, "ceiling_reasons": (LIGHT_HERE,)})
        moves = isinstance(target, Technique)
        here = adapted(default, side, limits, lighter=int(self.request.gentle and default.level > 1), moves=moves)
        why = [*self._why(wish, side, default, here.level, limits), *here.why]
        if self.brief.shortened_why:
            why.append(self.brief.shortened_why)
        under = frozenset[Position]() if isinstance(target, Technique) else lain_upon(target, side)
        total = sum(wish.benefits.values()) * share * factor
        usual_s = duration_s(here.dose) * shortened
        lengths = (1.0,) if moves else self.school.range
        seen: set[float] = set()
        for length in sorted(lengths, key=lambda length: abs(length - 1)):
            if shortened < 1 and length > 1:
                continue  # what is made shorter for a person's sake is not made longer again
            dose = within(stretched(here.dose, usual_s * length), limits.longest_s)
            seconds = whole_s(dose, side)
            if seconds in seen:
                continue
            seen.add(seconds)
            got = duration_s(dose) / usual_s
            # A length that the limits took back, or that rounding to whole rounds left as it was, is not spoken of.
            said = LONGER if length > 1 and got > 1 else SHORTER if length < 1 and got < 1 and shortened == 1 else ""
            yield Way(
                side=side,
                dose=dose,
                level=here.level,
                seconds=seconds,
                stops=2 if side == "both" and self._split(wish.role, dose) else 1,
                benefit=total * max(weights().of_length(got), 0.05),
                why=tuple(line for line in (*why, said) if line),
                length=got,
                share=share,
                under=under,
            )

    def _split(self, role: Role, dose: Dose) -> bool:
        """Whether both sides become two stops, because this school works one side after the other."""
        phase = self.school.phase_of(role)
        return (
            self.school.sides == "right_then_left"
            and phase is not None
            and self.school.phases[phase].by_side
            and not dose.together
        )

    def _why(self, wish: Wish, side: StopSide, default: DoseDefault, level: int, limits: Limits) -> list[str]:
        said = []
        if side in ("left", "right") and isinstance(wish.target, Area) and wish.target.crossed:
            said.append(f"On the {side}, which corresponds to the {other_side(side)} side of the head.")
        elif side in ("left", "right") and side in wish.affected:
            said.append(f"On the {side}, the side of the complaint.")
        elif side in ("left", "right") and wish.side == "both" and self._only_on_a_side(wish.target):
            said.append(f"On the {side}, which is uppermost.")
        elif side in ("left", "right") and wish.affected and wish.side != "both":
            said.append(f"On the {side}, opposite the complaint.")
        if level == default.level - 1 and self.request.gentle:
            said.append(f"Level {level}, one lighter than usual, as this is a first visit.")
        elif level < default.level and limits.ceiling_reasons:
            said.append(f"Level {level} instead of {default.level}: {limits.ceiling_reasons[0]}")
        if any(done in self.done_sides(wish.target.id) for done in ("left", "right")):
            said.append("The other side is treated.")
        return said


def lain_upon(target: Entry, side: StopSide) -> frozenset[Position]:
    """Positions on the side in which the person lies on a place, or on one side of it.

    >>> from acuthesis.core.atlas.entries.catalogue import entry
    >>> sorted(lain_upon(entry("BL23"), "both"))
    []
    """
    sides = each_side(side) if target.whole == "both" else ()
    return frozenset(
        position for position in ON_SIDE if any((target.site, one) in lain_on()[position] for one in sides)
    )


def alone_in(target: Entry) -> tuple[Position, ...]:
    """Positions in which a person reaches it without help: never face down. Half reclined, which takes a backrest, is
    not told apart from lying on the back.

    >>> from acuthesis.core.atlas.entries.catalogue import entry
    >>> alone_in(entry("ST36"))
    ('supine', 'left_side', 'right_side', 'seated')
    """
    return tuple(position for position in target.reach.positions if position not in ("prone", "half_reclined"))


def nothing_left(left_out: tuple[LeftOut, ...], brief: Brief) -> CoreError:
    """What to say where nothing may be done: what took most away, and what would bring something back."""
    counted: dict[str, int] = {}
    for one in left_out:
        counted[one.rule] = counted.get(one.rule, 0) + 1
    if not counted:
        return CoreError(
            message("candidates-nothing-these-complaints-choose-another", name=brief.school.name), where="school"
        )
    most = max(sorted(counted), key=lambda rule: counted[rule])
    reason = next(left.reason for left in left_out if left.rule == most)
    near = {
        "position": "Allow one more position, or choose the foot and hand or the ear school, which work seated",
        "avoid": "Remove something from the Avoided list",
        "benefit": "Rate the complaint above 0, or choose another",
        "reach": "Choose the ear, hand or face school, which a person can reach alone",
    }.get(most, "Choose a school that uses another part of the body")
    return CoreError(message("candidates-no-point-pressed", reason=reason, near=near), where="complaints")
