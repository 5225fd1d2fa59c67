"""What might be in a score: everything that is wanted, with the ways in which it can be done here.

What may not be done at all becomes a line of what was left out, with the rule behind it.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field

from acuthesis.core.atlas.catalogue import Entry, part_of
from acuthesis.core.atlas.model import Position
from acuthesis.core.compose.dose import (
    SLIDING,
    Dose,
    DoseDefault,
    duration_s,
    in_form,
    paced,
    stretched,
    whole_s,
    within,
)
from acuthesis.core.compose.knowledge import Role
from acuthesis.core.compose.layer import Knowledge
from acuthesis.core.compose.request import ComposeRequest
from acuthesis.core.compose.school import School
from acuthesis.core.compose.score import LeftOut, StopKind, default_level, under_school
from acuthesis.core.compose.technique import Technique
from acuthesis.core.compose.wanting import Wanted, everything_wanted
from acuthesis.core.compose.weights import CoverKind, modifiers, weights
from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.safety.limits import Limits, limits_at, limits_for
from acuthesis.core.safety.screening import Screening
from acuthesis.core.safety.standing import holds
from acuthesis.core.safety.touching import StopSide


@dataclass(frozen=True)
class Way:
    """One way to do a candidate: on which side, with which dose and level, how long, and what it brings."""

    side: StopSide
    dose: Dose
    level: int
    seconds: float
    stops: int
    benefit: float
    why: tuple[str, ...]


@dataclass
class Candidate:
    """Something that might be in a score."""

    target: Entry | Technique
    role: Role
    phase: int
    positions: tuple[Position, ...]
    ways: list[Way]
    benefits: dict[str, float]  # by complaint
    covers: dict[str, set[CoverKind]]  # by complaint
    why: list[str]
    pinned: bool
    used_for: list[str] = field(default_factory=list)

    @property
    def id(self) -> str:
        """Id of what is pressed or done."""
        return self.target.id

    @property
    def kind(self) -> StopKind:
        """Kind of the stop it would become."""
        return self.target.kind

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
    def best(self) -> Way:
        """The way that brings most."""
        return max(self.ways, key=lambda way: way.benefit)


def _helped(id: str, request: ComposeRequest) -> float:
    """Factor for what happened after this stop before; a single visit says little, so it is drawn toward one."""
    factor = 1.0
    for row in request.history:
        if row.id == id:
            sure = row.times / (row.times + 2)
            factor += weights().history * row.change * sure
    return min(max(factor, 0.5), 1.5)


class Sieve:
    """Turns what is wanted into candidates, and says what was left out and why."""

    def __init__(
        self,
        request: ComposeRequest,
        screening: Screening,
        school: School,
        blocked: dict[Position, str],
        knowledge: Knowledge,
    ) -> None:
        self.request, self.screening, self.school, self.blocked = request, screening, school, blocked
        self.knowledge, self.doses = knowledge, knowledge.doses
        self.alone = school.alone or request.setting == "self_care"
        self.left_out: list[LeftOut] = []
        found = [one for one in modifiers() if holds(one.when, screening)]
        self.modifier = min(found, key=lambda one: one.factor, default=None)

    def candidates(self) -> list[Candidate]:
        """Everything that may be done, in order of id, so that nothing depends on the order of the complaints."""
        wanted = everything_wanted(self.request, self.school, self.knowledge)
        found = [one for id in sorted(wanted) if (one := self._candidate(wanted[id])) is not None]
        self._pinned_are_there({one.id for one in found})
        return found

    def _pinned_are_there(self, ids: set[str]) -> None:
        """Raises: NotAllowed naming the reason for which a pinned stop cannot be, and what could be instead."""
        for id in self.request.pinned:
            if id in ids or any(done.id == id for done in self.request.done):
                continue
            why = next((one.reason for one in self.left_out if one.id == id), "It cannot be done here.")
            raise NotAllowed(
                f"'{id}' is pinned and cannot be in: {why} Unpin it, and what is next best comes in", where="pinned"
            )

    def _leave(
        self, wanted: Wanted, reason: str, rule: str, severity: str, side: StopSide, override: bool = False
    ) -> None:
        target = wanted.target
        name = target.name if isinstance(target, Technique) else target.names.english
        self.left_out.append(
            LeftOut(
                id=target.id,
                name=name,
                side=side,
                reason=reason,
                rule=rule,
                severity=severity,
                overridable=override,
            )
        )

    def _candidate(self, wanted: Wanted) -> Candidate | None:
        target = wanted.target
        whole = self._whole_side(wanted)
        if target.id in self.request.avoid:
            self._leave(wanted, "You asked to leave it out.", "avoid", "note", whole)
            return None
        if self.alone and not self._alone(target):
            self._leave(wanted, "Nobody reaches it alone.", "reach", "note", whole)
            return None
        allowed = target.positions if isinstance(target, Technique) else target.reach.positions
        order = self.school.positions or allowed
        positions = tuple(one for one in order if one in allowed and one not in self.blocked)
        sides = self._sides(wanted, whole)
        if not sides:
            return None
        if not positions:
            why = next(
                (self.blocked[one] for one in allowed if one in self.blocked), "This school does not work there."
            )
            self._leave(wanted, f"No position is left to reach it. {why}", "position", "limit", whole)
            return None
        if sum(wanted.benefits.values()) <= 0 and target.id not in self.request.pinned:
            self._leave(wanted, "The complaint is rated 0 today.", "benefit", "note", whole)
            return None
        phase = self.school.phase_of(wanted.role)
        assert phase is not None  # only roles of this school are wanted
        factor = self._factor(target.id)
        return Candidate(
            target=target,
            role=wanted.role,
            phase=phase,
            positions=positions,
            ways=[way for side, share in sides for way in self._ways(wanted, side, share, factor)],
            benefits={id: benefit * factor for id, benefit in wanted.benefits.items()},
            covers=wanted.covers,
            why=list(dict.fromkeys(wanted.why)),
            pinned=target.id in self.request.pinned,
        )

    def _factor(self, id: str) -> float:
        wished = weights().pinned if id in self.request.pinned else 1.0
        wished *= weights().prefer if id in self.request.prefer else 1.0
        wished *= weights().resting if id in self.request.resting else 1.0
        return _helped(id, self.request) * wished

    def _alone(self, target: Entry | Technique) -> bool:
        if isinstance(target, Technique):
            return target.alone
        # A point of the back is in nobody's reach for half a minute, whatever a supple person manages.
        return target.reach.alone and target.region not in ("low back", "sacrum", "tailbone")

    @staticmethod
    def _whole_side(wanted: Wanted) -> StopSide:
        if len(wanted.sides) == 1:
            return next(iter(wanted.sides))
        return "both"

    def limits(self, target: Entry | Technique, side: StopSide) -> Limits:
        """What holds for a target on a side, the school's own ceiling included."""
        if isinstance(target, Technique):
            found = limits_at(target.on(side), self.screening)
        else:
            found = limits_for(target, side, self.screening)
        return under_school(found, self.school)

    def _done_sides(self, id: str) -> set[StopSide]:
        return {side for done in self.request.done if done.id == id for side in _each(done.side)}

    def _sides(self, wanted: Wanted, whole: StopSide) -> list[tuple[StopSide, float]]:
        """The sides it can be done on, each with its share of the benefit; what a rule takes away is said."""
        target = wanted.target
        options: list[tuple[StopSide, float]] = []
        done = self._done_sides(target.id)
        free: list[StopSide] = []
        for side in _each(whole):
            limits = self.limits(target, side)
            if side in done:
                continue
            if limits.refused is not None:
                self._leave(
                    wanted,
                    limits.refused.text,
                    limits.refused.rule,
                    "refuse",
                    side if isinstance(target, Technique) or target.whole == "both" else whole,
                    limits.overridable,
                )
            else:
                free.append(side)
        self._join_refusals(target.id, whole)
        if whole != "both":
            return [(side, 1.0) for side in free]
        half = weights().half
        if len(free) == 2:
            if self.limits(target, "both").one_side:
                return [(side, half) for side in free]
            options.append(("both", 1.0))
            options += [(side, half) for side in sorted(wanted.affected) if side in free]
            return options
        return [(side, half) for side in free]

    def _join_refusals(self, id: str, whole: StopSide) -> None:
        """Two lines that refuse left and right for the same reason are one line for both."""
        mine = [one for one in self.left_out if one.id == id]
        if whole == "both" and len(mine) == 2 and mine[0].rule == mine[1].rule:
            self.left_out = [one for one in self.left_out if one.id != id]
            self.left_out.append(mine[0].model_copy(update={"side": "both"}))

    def _ways(self, wanted: Wanted, side: StopSide, share: float, factor: float) -> Iterator[Way]:
        target = wanted.target
        limits = self.limits(target, side)
        if isinstance(target, Technique):
            default = self.doses[target.dose]
            both = default.dose.model_copy(update={"together": target.together})
            default = default.model_copy(update={"dose": both})
            lengths: tuple[float, ...] = (1.0,)
        else:
            default, lengths = self.school.dose_for(target, wanted.role, self.doses), self.school.range
        gentle = self.request.gentle and default.level > 1
        level = default_level(default.level - gentle, limits.ceiling)
        why = self._why(wanted, side, default, level, limits)
        usual = paced(default.dose, self.request.breaths_per_minute)
        if side != "both":
            usual = usual.model_copy(update={"together": False})
        if limits.no_glide and usual.form in SLIDING and level > 1:
            if isinstance(target, Technique):
                level = 1
                why.append("As light as a resting hand: nothing slides firmly over the skin here.")
            else:
                usual = in_form("hold", duration_s(usual), together=usual.together)
                why.append("Held instead of gliding: nothing slides over the skin here.")
        total = sum(wanted.benefits.values()) * share * factor
        shortened = self.modifier.factor if self.modifier else 1.0
        if self.modifier:
            why.append(self.modifier.why)
        seen: set[float] = set()
        for length in sorted(lengths, key=lambda length: abs(length - 1)):
            if self.modifier and length > 1:
                continue  # what is made shorter for a person's sake is not made longer again
            wish = duration_s(usual) * length * shortened
            dose = within(stretched(usual, wish), limits.longest_s)
            seconds = whole_s(dose, side)
            if seconds in seen:
                continue
            seen.add(seconds)
            worth = weights().of_length(duration_s(dose) / (duration_s(usual) * shortened))
            yield Way(
                side=side,
                dose=dose,
                level=level,
                seconds=seconds,
                stops=2 if side == "both" and self._split(target, wanted.role, dose) else 1,
                benefit=total * max(worth, 0.05),
                why=tuple(why + ([_length_words(length)] if length != 1 else [])),
            )

    def _split(self, target: Entry | Technique, role: Role, dose: Dose) -> bool:
        """Whether both sides become two stops, because this school works one side after the other."""
        phase = self.school.phase_of(role)
        return (
            self.school.sides == "right_then_left"
            and phase is not None
            and self.school.phases[phase].by_side
            and not dose.together
        )

    def _why(self, wanted: Wanted, side: StopSide, default: DoseDefault, level: int, limits: Limits) -> list[str]:
        said = []
        if side in ("left", "right") and side in wanted.affected:
            said.append(f"On the {side}, the side of the complaint.")
        elif side in ("left", "right") and wanted.affected:
            said.append(f"On the {side}, across from the complaint.")
        if level == default.level - 1 and self.request.gentle:
            said.append(f"Level {level}, one lighter than usual: a first visit.")
        elif level < default.level:
            said.append(f"Level {level} instead of {default.level}: {limits.ceiling_reasons[0]}")
        if any(done in self._done_sides(wanted.target.id) for done in ("left", "right")):
            said.append("The other side is done.")
        return said


def _length_words(length: float) -> str:
    return "Shorter than usual, so that more fits in." if length < 1 else "Longer than usual: there is time for it."


def _each(side: StopSide) -> tuple[StopSide, ...]:
    return ("left", "right") if side == "both" else (side,)


def nothing_left(sieve: Sieve) -> CoreError:
    """What to say where nothing may be done: what took most away, and what would bring something back."""
    counted: dict[str, int] = {}
    for one in sieve.left_out:
        counted[one.rule] = counted.get(one.rule, 0) + 1
    if not counted:
        return CoreError(f"{sieve.school.name} has nothing for these complaints; another school has", where="school")
    most = max(sorted(counted), key=lambda rule: counted[rule])
    reason = next(one.reason for one in sieve.left_out if one.rule == most)
    near = {
        "position": "Allow one more position, or choose the foot, hand or ear school, which work seated",
        "avoid": "Take something off the list of what to avoid",
        "benefit": "Rate the complaint above 0, or choose another",
        "reach": "Choose the ear, hand or face school, which a person reaches alone",
    }.get(most, "Choose another school, which works elsewhere on the body")
    return CoreError(f"nothing is left that could be pressed: {reason} {near}", where="complaints")


def part_name(candidate: Candidate) -> str:
    """Body part of a candidate as a sentence says it ("upper arm"); of a technique, the last place that it works."""
    if isinstance(candidate.target, Technique):
        return candidate.target.places[-1].replace("_", " ") if candidate.target.places else "body"
    return part_of(candidate.target).replace("_", " ")
