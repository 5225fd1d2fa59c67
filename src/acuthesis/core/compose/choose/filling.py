"""Fourth step: what fills the minutes that the chosen places leave: the general round of the school, a second round at
the main places, longer holds, and a longer arrival and close.

Nothing here competes with what was chosen: the choice is proven before, and what is added takes only the seconds that
it leaves. Every addition passes the same rules, stays in a position that the session has anyway, within the load of a
site, and within what the person takes: somebody whose doses are shortened gets resting hands and nothing else,
somebody who takes only so many points no further place, and whoever is both (frail, a child) nothing.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from math import floor

from acuthesis.core.atlas.entries.catalogue import Entry
from acuthesis.core.atlas.entries.model import Point, Position
from acuthesis.core.compose.choose.brief import Brief
from acuthesis.core.compose.choose.candidates import LONGER, SHORTER, Candidate, Sieve, Way, lain_upon
from acuthesis.core.compose.choose.frame import Frame
from acuthesis.core.compose.choose.solve import ChoiceProblem, Chosen, Solution
from acuthesis.core.compose.choose.wishes import Wishes, each_side, on_map
from acuthesis.core.compose.knowledge.dose import DoseDefault, Hold, Until, duration_s, stretched, whole_s
from acuthesis.core.compose.knowledge.school import General
from acuthesis.core.compose.knowledge.technique import Technique, techniques
from acuthesis.core.compose.knowledge.weights import weights
from acuthesis.core.compose.score.adapting import adapted
from acuthesis.core.compose.score.score import MOVE_S, TALKED_IN, TURN_S
from acuthesis.core.safety.body_parts import lain_on
from acuthesis.core.safety.touching import StopSide

Slot = tuple[int, Position]
AGAIN = "A second round here with another technique; compare with the first."
OTHER_SIDE = "The other side as well, to compare both."
STILL = "broad_hold"  # the dose of a hand that rests: no stroke, no search, nothing to bear
SMALL_WORTH = 0.01  # of an addition against what was chosen: it comes after, and never changes what matters most


@dataclass(frozen=True)
class Filled:
    """A choice with what was added to it.

    `chosen` everything that is done; `rests` how many; `frame` the moments before and after, longer where there was
    time; `unhurried_s` seconds more for each turn; `spare_s` seconds that are still left.
    """

    chosen: tuple[Chosen, ...]
    rests: int
    frame: Frame
    unhurried_s: int
    spare_s: float


def taken_s(problem: ChoiceProblem, solution: Solution, chosen: Sequence[Chosen]) -> float:
    """Seconds of the budget that a choice takes: doses, moves, turns, rests, grounding and the second look."""
    phases = problem.school.phases
    slots = {(one.block, one.position) for one in chosen}
    ways = [one.candidate.ways[one.way] for one in chosen]
    grounded = {
        (one.candidate.extra, one.candidate.phase)
        for one in chosen
        if problem.ground_s and phases[one.candidate.phase].ground
    }
    lying = problem.lying is not None and all(slot != (0, problem.lying) for slot in slots)
    return (
        sum(way.seconds + MOVE_S * way.stops for way in ways)
        + (len(slots) - 1 + lying) * (TURN_S - MOVE_S)
        + solution.rests * problem.rest_s
        + len(grounded) * problem.ground_s
        + solution.look_s
        + (MOVE_S if problem.look_share else 0)
        + (problem.talk_turn_s if any(position not in TALKED_IN for _, position in slots) else 0)
    )


def filled(brief: Brief, wishes: Wishes, problem: ChoiceProblem, solution: Solution) -> Filled:
    """The choice with what its minutes hold besides. A session that somebody does alone is left as it is."""
    filling = _Filling(brief, wishes, problem, solution)
    general = brief.school.general
    if general is not None and not brief.alone and brief.shortened == 1:
        filling.general_round(general)
        filling.second_round(general)
        filling.longer_holds(general)
        filling.techniques(general.techniques, filling.spare_s)
    elif general is not None and not brief.alone and brief.takes_points is None:
        still = [id for id in general.techniques if techniques()[id].dose == STILL]
        filling.techniques(still, filling.spare_s)
    return filling.closed()


class _Filling:
    """The minutes of one session as they are filled up."""

    def __init__(self, brief: Brief, wishes: Wishes, problem: ChoiceProblem, solution: Solution) -> None:
        self.brief, self.school, self.problem, self.solution = brief, brief.school, problem, solution
        self.wishes, self.sieve = wishes, Sieve(wishes, brief)
        self.chosen = list(solution.chosen)
        self.rests = solution.rests
        self.spare_s = problem.budget_s - taken_s(problem, solution, self.chosen)
        self.sized = brief.takes_points is not None
        self.there: dict[Slot, float] = {}
        self.loads: dict[str, float] = {}
        for one in self.chosen:
            self._count(one)

    def _count(self, one: Chosen) -> None:
        way = one.candidate.ways[one.way]
        slot = (one.block, one.position)
        self.there[slot] = self.there.get(slot, 0.0) + way.seconds + MOVE_S * way.stops
        if one.candidate.pressed:
            self.loads[one.candidate.site] = self.loads.get(one.candidate.site, 0.0) + duration_s(way.dose)

    # --- what is added ---

    def general_round(self, general: General) -> None:
        """Areas first, wholly or not at all; then techniques along the channels of what was chosen."""
        spare = self.spare_s
        if general.areas is not None and not self.sized:
            for phase in general.areas.phases:
                self._areas(general, phase, spare * weights().areas_share / len(general.areas.phases))
        left = spare * weights().general_share - (spare - self.spare_s)
        self.techniques(general.techniques, left, only_there=True)

    def _areas(self, general: General, phase: str, room_s: float) -> None:
        assert general.areas is not None
        number = next(index for index, one in enumerate(self.school.phases) if one.id == phase)
        dose = self.brief.doses[general.areas.dose]
        taken = {(one.candidate.id, one.candidate.phase) for one in self.chosen}
        chosen: list[tuple[Chosen, float]] = []
        for listed in general.areas.ids:
            for id in on_map(listed, max(self.school.draws, key=lambda one: self.school.draws[one]), self.brief):
                if (id, number) in taken or id in self.brief.request.avoid:
                    continue
                taken.add((id, number))
                one = self._pressed(self.brief.knowledge.find(id), "both", number, dose, self._general_why(number))
                cost = self._cost(one, [each for each, _ in chosen]) if one is not None else 0.0
                if one is not None and sum(spent for _, spent in chosen) + cost <= room_s - self.problem.rest_s:
                    chosen.append((one, cost))
        inside = {one.candidate.id for one in self.chosen} & set(general.areas.ids)
        if len(chosen) + len(inside) >= general.areas.least or self.brief.request.begun:
            for one, _ in chosen:
                self._add(one)

    def _general_why(self, phase: int) -> str:
        return f"{self.school.phases[phase].name}: every area in turn, so that none is missed."

    def techniques(self, ids: Sequence[str], room_s: float, *, only_there: bool = False) -> None:
        """Techniques of the general round as far as there is room: those on parts of the body that are worked first,
        and among them those along the channels of what was chosen; then the rest, as the school lists them.
        `only_there`: without that rest.
        """
        channels, parts = self._worked()
        inside = {one.candidate.id for one in self.chosen} | {one.id for one in self.brief.request.done}
        free = [techniques()[id] for id in ids if id not in inside and id not in self.brief.request.avoid]
        near = sorted(
            free,
            key=lambda one: (
                not set(one.places) & parts,
                one.phase == "warm" and not set(one.places) & parts,  # elsewhere a resting hand before strokes
                -max((channels[channel] for channel in one.along if channel in channels), default=0.0),
            ),
        )
        if only_there:
            near = [one for one in near if set(one.places) & parts]
        for technique in near:
            one = self._technique(technique, channels)
            if one is not None and self._asks_anew(technique):
                continue
            cost = self._cost(one) if one is not None else 0.0
            if one is not None and cost <= min(room_s, self._room_for(cost)) and self._bearable(one):
                self._add(one)
                room_s -= cost

    def _asks_anew(self, technique: Technique) -> bool:
        """Whether it would have the person asked for a part of the body that nothing else is worked on."""
        if not self.sieve.limits(technique, technique.side).consent:
            return False
        return not {one.candidate.site for one in self.solution.chosen} & set(technique.sites)

    def _worked(self) -> tuple[dict[str, float], set[str]]:
        """The channels that are worked, with what is on them, and the parts of the body."""
        channels: dict[str, float] = {}
        for one in self.chosen:
            target = one.candidate.target
            if isinstance(target, Point):
                worth = sum(one.candidate.benefits.values())
                channels[target.channel] = channels.get(target.channel, 0.0) + worth
        return channels, {one.candidate.part for one in self.chosen if one.candidate.pressed}

    def second_round(self, general: General) -> None:
        """The main places once more in another way, the weightiest first; where one side was worked, the other too."""
        number = next((index for index, phase in enumerate(self.school.phases) if phase.again), None)
        if number is None or self.sized:
            return
        main = [one for one in self.solution.chosen if one.candidate.pressed]
        main = [one for one in main if one.candidate.core_of or one.candidate.role in ("main", "pain", "supply")]
        main = [one for one in main if one.candidate.phase < number and not one.candidate.extra]
        for one in sorted(main, key=lambda one: (not one.candidate.core_of, -sum(one.candidate.benefits.values()))):
            way = one.candidate.ways[one.way]
            names = [name for name in general.again if self.brief.doses[name].dose.form != way.dose.form]
            for side, why in self._once_more(one, way):
                target = one.candidate.target
                assert not isinstance(target, Technique)
                dose = self.brief.doses[names[0]]
                if target.site in self.school.together:
                    dose = dose.model_copy(update={"dose": dose.dose.model_copy(update={"together": True})})
                slots = [(one.block, one.position)]
                again = self._pressed(target, side, number, dose, why, most_level=way.level, slots=slots)
                if again is None:
                    continue
                again = replace(
                    again, candidate=replace(again.candidate, benefits=one.candidate.benefits, round="again")
                )
                if self._cost(again) <= self._room_for(self._cost(again)) and self._bearable(again):
                    self._add(again)

    def _once_more(self, one: Chosen, way: Way) -> Iterator[tuple[StopSide, str]]:
        target = one.candidate.target
        assert not isinstance(target, Technique)
        if self.sieve.limits(target, way.side).longest_s is not None:
            return
        yield way.side, AGAIN
        affected = self.wishes.by_id[target.id].affected if target.id in self.wishes.by_id else set[StopSide]()
        compared = target.whole == "both" and way.side in ("left", "right") and way.side in affected
        if compared and not self.sieve.limits(target, "both").one_side:
            yield ("left" if way.side == "right" else "right"), OTHER_SIDE

    def longer_holds(self, general: General) -> None:
        """Holds longer than usual, the weightiest first, once nothing of a core is out."""
        inside = {one.candidate.id for one in self.chosen}
        if any(id not in inside for core in self.problem.cores for id in core.ids):
            return
        for index, one in sorted(enumerate(self.chosen), key=lambda pair: -sum(pair[1].candidate.benefits.values())):
            way, candidate = one.candidate.ways[one.way], one.candidate
            if isinstance(candidate.target, Technique) or not isinstance(way.dose, Hold | Until):
                continue
            most = duration_s(way.dose) / way.length * general.longest
            longest = self.sieve.limits(candidate.target, way.side).longest_s
            room = duration_s(way.dose) + floor(self.spare_s / (whole_s(way.dose, way.side) / duration_s(way.dose)))
            load = duration_s(way.dose) + self._load_left(candidate.site)
            dose = stretched(way.dose, min(most, longest or most, room, load))
            gained = whole_s(dose, way.side) - way.seconds
            if gained < 5 or gained > self._room_for(gained) or not self._bearable(one, gained):
                continue
            usual = tuple(line for line in way.why if line not in (SHORTER, LONGER))
            length = way.length * duration_s(dose) / duration_s(way.dose)
            why = (*usual, LONGER) if length > 1.01 else usual
            longer = replace(way, dose=dose, seconds=whole_s(dose, way.side), length=length, why=why)
            self._take_off(one)
            ways = [longer if number == one.way else other for number, other in enumerate(candidate.ways)]
            self.chosen[index] = replace(one, candidate=replace(candidate, ways=ways))
            self._count(self.chosen[index])
            self.spare_s -= gained

    def _take_off(self, one: Chosen) -> None:
        way = one.candidate.ways[one.way]
        self.there[one.block, one.position] -= way.seconds + MOVE_S * way.stops
        if one.candidate.pressed:
            self.loads[one.candidate.site] -= duration_s(way.dose)

    def closed(self) -> Filled:
        """The session as it is now: rests for what was added, then a longer arrival and close, and unhurried turns."""
        self.spare_s -= self._rests_owed(0) * self.problem.rest_s
        self.rests += self._rests_owed(0)
        frame, spent = self.brief.frame, 0.0
        if not self.brief.alone:
            frame, spent = self.brief.frame.with_time(self.spare_s, self._stay_left())
        self.spare_s -= spent
        turns = len(self.there) - 1
        unhurried = min(int(self.spare_s // turns), weights().unhurried_s) if turns and not self.brief.alone else 0
        self.spare_s -= unhurried * turns
        return Filled(tuple(self.chosen), self.rests, frame, unhurried, max(self.spare_s, 0.0))

    # --- whether and where ---

    def _rests_owed(self, more_s: float) -> int:
        """Rests that the work, and so many seconds more of it, asks for beyond those that there are."""
        wanted = int((sum(self.there.values()) + more_s - 1) // self.school.rest_every_s)
        return max(wanted - self.rests, 0)

    def _room_for(self, cost: float) -> float:
        """Seconds that are free for something that takes `cost`: less the rests that it brings with it."""
        return self.spare_s - self._rests_owed(cost) * self.problem.rest_s

    def _add(self, one: Chosen) -> None:
        self.spare_s -= self._cost(one)
        self.chosen.append(one)
        self._count(one)

    def _cost(self, one: Chosen, with_: Sequence[Chosen] = ()) -> float:
        """Seconds with the moves to it, and with the grounding press where it is the first of a phase that has one."""
        way = one.candidate.ways[one.way]
        phase = one.candidate.phase
        grounds = self.school.phases[phase].ground and self.problem.ground_s
        first = all(other.candidate.phase != phase for other in (*self.chosen, *with_))
        return way.seconds + MOVE_S * way.stops + (self.problem.ground_s if grounds and first else 0.0)

    def _load_left(self, site: str) -> float:
        load = self.school.load
        return load.sites.get(site, load.site_s) * self.brief.shortened - self.loads.get(site, 0.0)

    def _stay_left(self) -> float | None:
        """What is left of the longest stay in one position, in the position where least is left."""
        if self.problem.stay_s is None:
            return None
        return self.problem.stay_s - max(self.there.values()) - self._around_s(self.rests)

    def _bearable(self, one: Chosen, more_s: float | None = None) -> bool:
        """Whether the person bears it in that position: all of the frame counted, wherever it comes to lie."""
        if self.problem.stay_s is None:
            return True
        seconds = self._cost(one) if more_s is None else more_s
        rests = self.rests + self._rests_owed(seconds)
        return self.there[one.block, one.position] + seconds + self._around_s(rests, one) <= self.problem.stay_s

    def _around_s(self, rests: int, one: Chosen | None = None) -> float:
        """Seconds of frame, second look, rests and grounding presses, with that of `one`, wherever they come to lie."""
        phases = {other.candidate.phase for other in (*self.chosen, *(() if one is None else (one,)))}
        grounded = sum(self.school.phases[phase].ground for phase in phases) * self.problem.ground_s
        return float(sum(self.problem.frame_s) + self.solution.look_s + rests * self.problem.rest_s + grounded + MOVE_S)

    def _slots(self, positions: Sequence[Position], phase: int) -> list[Slot]:
        """Where it may be done: positions that the session has; where the order runs over the whole of it, in the
        stretch that its phase belongs to.
        """
        slots = [slot for slot in self.there if slot[1] in positions]
        if self.school.order.scope == "position":
            return slots
        turns = {slot: self._turns(slot) for slot in self.there}
        return [
            slot
            for slot in slots
            if all(max(turns[other]) <= phase for other in turns if other[0] < slot[0])
            and all(min(turns[other]) >= phase for other in turns if other[0] > slot[0])
        ]

    def _turns(self, slot: Slot) -> set[int]:
        phases = len(self.school.phases)
        here = [one.candidate for one in self.chosen if (one.block, one.position) == slot]
        return {one.phase + (phases if one.extra else 0) for one in here}

    def _technique(self, technique: Technique, channels: dict[str, float]) -> Chosen | None:
        school = self.school
        general = (index for index, one in enumerate(school.phases) if one.general == technique.phase)
        phase = next(
            (one for one in (*general, school.phase_of(technique.phase), school.phase_of("calm")) if one is not None),
            None,
        )
        if phase is None:
            return None
        slots = self._slots(self.sieve.positions(technique), phase)
        if not slots:
            return None

        def fits(slot: Slot) -> tuple[float, float]:
            """How much is done in that position on the channels that it follows, then how much at all."""
            here = [one.candidate for one in self.chosen if (one.block, one.position) == slot]
            along = [one for one in here if isinstance(one.target, Point) and one.target.channel in technique.along]
            return sum(sum(one.benefits.values()) for one in along), self.there[slot]

        slot = max(slots, key=fits)
        default = self.brief.doses[technique.dose]
        default = default.model_copy(update={"dose": default.dose.model_copy(update={"together": technique.together})})
        followed = [channel for channel in technique.along if channel in channels]
        why = _along_why(followed) if followed else f"{school.name}: part of the general round."
        lain = lain_on().get(slot[1], ())
        under = {side for side in each_side(technique.side) if any((site, side) in lain for site in technique.sites)}
        if technique.side == "both" and under:
            free = [side for side in each_side("both") if side not in under]
            return self._chosen(technique, free[0], phase, default, why, slot) if len(free) == 1 else None
        return self._chosen(technique, technique.side, phase, default, why, slot)

    def _pressed(
        self,
        target: Entry,
        side: StopSide,
        phase: int,
        default: DoseDefault,
        why: str,
        *,
        most_level: int = 5,
        slots: Sequence[Slot] | None = None,
    ) -> Chosen | None:
        """A place that is pressed, within the load of its site; on one side where only that may be, or is reached."""
        side = target.whole if side == "both" else side
        free = [slot for slot in self._slots(self.sieve.positions(target), phase) if slots is None or slot in slots]
        free = [slot for slot in free if slot[1] not in lain_upon(target, side)]
        if not free:
            return None
        dose = default.dose
        if target.site in self.school.together and side == "both":
            dose = dose.model_copy(update={"together": True})
        if duration_s(dose) > self._load_left(target.site):
            return None
        slot = max(free, key=lambda slot: self.there[slot])
        made = default.model_copy(update={"dose": dose, "level": min(default.level, most_level)})
        return self._chosen(target, side, phase, made, why, slot)

    def _chosen(
        self, target: Entry | Technique, side: StopSide, phase: int, default: DoseDefault, why: str, slot: Slot
    ) -> Chosen | None:
        """It as it is done with this person; None where a rule refuses it, or it was done already."""
        sides = [one for one in each_side(side) if one not in self.sieve.done_sides(target.id)]
        sides = [one for one in sides if self.sieve.limits(target, one).refused is None]
        if not sides or (len(sides) == 2 and self.sieve.limits(target, "both").one_side):
            return None
        worked: StopSide = side if len(sides) == len(each_side(side)) else sides[0]
        limits = self.sieve.limits(target, worked)
        gentle = int(self.brief.request.gentle and default.level > 1)
        here = adapted(default, worked, limits, lighter=gentle, moves=isinstance(target, Technique))
        dose = here.no_longer_than(limits.longest_s)
        split = (
            self.school.sides == "right_then_left"
            and self.school.phases[phase].by_side
            and worked == "both"
            and not dose.together
        )
        way = Way(
            side=worked,
            dose=dose,
            level=here.level,
            seconds=whole_s(dose, worked),
            stops=2 if split else 1,
            benefit=0.0,
            why=here.why,
        )
        candidate = Candidate(
            target=target,
            role="warm" if isinstance(target, Technique) else "supply",
            phase=phase,
            positions=(slot[1],),
            ways=[way],
            benefits={"general": SMALL_WORTH / (1 + len(self.chosen))},
            covers={},
            why=[why],
            pinned=False,
            round="general",
        )
        return Chosen(candidate, 0, slot[1], slot[0])


def _along_why(channels: Sequence[str]) -> str:
    names = ", ".join(channels[:-1]) + f" and {channels[-1]}" if len(channels) > 1 else channels[0]
    return f"Along the {names} {('channels' if len(channels) > 1 else 'channel')} of today's points."
