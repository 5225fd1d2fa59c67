"""Third step: the choice as an optimisation, proven by CP-SAT: which candidates, in which way, in which position.

It is done twice over the same variables. First the **cores** of the complaints: what anyone would begin with, by rank
and rating, less a little for each turn. Then, with no less of the cores than that, **everything**: benefit plus
coverage, less what turns, places, parts of the body, tools and kinds of dose cost (weights.yaml). So that

- each candidate is done in one way at most, in one position of those it can be reached in;
- presses, moves, turns, rests, grounding, second looks and the frame of the session fit into the seconds there are;
- nothing is held longer than usual while a place of a core is out;
- a site gets no more than its load, a person no more points, turns and minutes in a position than they take;
- of its own grounds a school that keeps to one draws on one;
- where a school's order runs over the whole sequence, positions follow its phases.

Times are tenths of a second and benefits thousandths, so that everything is an integer and the result is exact.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

from acuthesis.core.atlas.entries.model import Position
from acuthesis.core.compose.choose.candidates import Candidate
from acuthesis.core.compose.choose.wishes import CoreSeat
from acuthesis.core.compose.knowledge.complaints import PointSource
from acuthesis.core.compose.knowledge.dose import duration_s
from acuthesis.core.compose.knowledge.school import School
from acuthesis.core.compose.knowledge.weights import CoverKind, Weights, weights
from acuthesis.core.compose.score.score import MOVE_S, TALKED_IN, TURN_S

if TYPE_CHECKING:  # takes seconds to import, so it is imported where something is solved: a server has workers for that
    from ortools.sat.python import cp_model

TENTHS, THOUSANDTHS = 10, 1000
# Where the search stops, in the solver's own measure of work, which unlike seconds is the same on every run.
MOST_WORK = 3.0
BLOCKS = 2  # stretches in one position, where the order runs over the whole sequence


@dataclass(frozen=True)
class ChoiceProblem:
    """What is chosen from, and the frame it has to fit into.

    `budget_s` seconds that are left after the frame; `rest_s` and `ground_s` what a rest and a grounding press take,
    moves included; `look_share` what of the pressing time second looks get; `strengths` the weight of each complaint,
    0 to 1; `covered` what is covered already; `most_points` of school and minutes, which what is pinned may exceed,
    `takes_points` of the person, which nothing exceeds.
    """

    candidates: Sequence[Candidate]
    school: School
    budget_s: float
    rest_s: float
    ground_s: float
    strengths: dict[str, float]
    most_points: int
    cores: Sequence[CoreSeat] = ()
    covered: frozenset[tuple[str, CoverKind]] = frozenset()
    talk_turn_s: float = 0.0  # for lying down after the talk and sitting up for the last one, where nobody lies face up
    shortened: float = 1.0
    seed: int = 0
    takes_points: int | None = None
    most_turns: int | None = None
    usual_turns: int = 0
    stay_s: float | None = None  # longest in one position
    frame_s: tuple[float, float] = (0.0, 0.0)  # before the work and after it, spent in the first and the last position
    look_share: float = 0.0
    alone: bool = False  # the person presses their own points
    lying: Position | None = None  # where the person is already: beginning elsewhere is a turn, too
    weights: Weights = field(default_factory=weights)


@dataclass(frozen=True)
class Chosen:
    """A candidate that is in: in which of its ways, in which position, in which stretch of the sequence."""

    candidate: Candidate
    way: int
    position: Position
    block: int


@dataclass(frozen=True)
class Solution:
    """What was chosen; `value` and `bound` in units of benefit, `core` in that of the cores; `proven` if nothing can be
    better. `look_s`: seconds for second looks.
    """

    chosen: tuple[Chosen, ...]
    value: float
    bound: float
    core: float
    rests: int
    look_s: float
    proven: bool

    @property
    def gap(self) -> float:
        """By what share of the value something better might exist."""
        return max(self.bound - self.value, 0.0) / max(abs(self.value), 1e-6)


def solve(problem: ChoiceProblem) -> Solution | None:
    """The best choice; None if not even the pinned candidates fit. The same problem gives the same solution."""
    from ortools.sat.python import cp_model

    core, proven = 0, True
    if problem.cores:
        # What belongs to no core only takes room from those that do, so it is left out of the first question.
        ids = {id for seat in problem.cores for id in seat.ids}
        begin = replace(
            problem,
            candidates=[candidate for candidate in problem.candidates if candidate.id in ids or candidate.pinned],
        )
        first = _Model(begin)
        first.model.maximize(first.core)
        solver = _solver(problem)
        status = solver.solve(first.model)
        if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            return None
        core, proven = round(solver.objective_value), status == cp_model.OPTIMAL
    model = _Model(problem)
    model.model.add(model.core >= core)
    model.model.maximize(model.worth)
    solver = _solver(problem)
    status = solver.solve(model.model)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return None
    return Solution(
        chosen=tuple(model.read(solver)),
        value=solver.objective_value / THOUSANDTHS,
        bound=solver.best_objective_bound / THOUSANDTHS,
        core=core / THOUSANDTHS,
        rests=solver.value(model.rests),
        look_s=solver.value(model.look) / TENTHS,
        proven=proven and status == cp_model.OPTIMAL,
    )


def _solver(problem: ChoiceProblem) -> cp_model.CpSolver:
    from ortools.sat.python import cp_model

    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = problem.seed
    solver.parameters.max_deterministic_time = MOST_WORK
    solver.parameters.linearization_level = 2
    solver.parameters.cp_model_probing_level = 0  # costs more here than it saves
    return solver


class _Model:
    """The variables and constraints of one problem, and its two measures: `core` and `worth`."""

    def __init__(self, problem: ChoiceProblem) -> None:
        from ortools.sat.python import cp_model

        self.problem = problem
        self.model = cp_model.CpModel()
        whole = problem.school.order.scope == "whole"
        positions = sorted({position for candidate in problem.candidates for position in candidate.positions})
        self.slots = [(block, position) for block in range(BLOCKS if whole else 1) for position in positions]
        self.used = {slot: self.model.new_bool_var(f"used_{slot}") for slot in self.slots}
        self.ways = [
            [self.model.new_bool_var(f"{candidate.id}_{index}") for index in range(len(candidate.ways))]
            for candidate in problem.candidates
        ]
        self.at = [
            {
                slot: self.model.new_bool_var(f"{candidate.id}_{slot}")
                for slot in self.slots
                if slot[1] in candidate.positions
            }
            for candidate in problem.candidates
        ]
        self.chosen = [self.model.new_bool_var(f"{candidate.id}_in") for candidate in problem.candidates]
        self.index = {one.id: index for index, one in enumerate(problem.candidates)}
        self.rests = self.model.new_int_var(0, 40, "rests")
        self.look = self.model.new_int_var(0, 10_000, "look")
        self._link()
        self.changes = self._changes()
        self.grounded = self._grounded()
        self._time()
        self._load()
        self._most()
        self._stay()
        self._one_ground()
        if whole:
            self._blocks()
        self.core: cp_model.LinearExprT = (
            sum(self._core()) - round(problem.weights.core.turn * THOUSANDTHS) * self._unusual_turns()
        )
        self._not_longer_without_the_core()
        self.worth = sum(self._benefit()) + sum(self._cover()) - sum(self._costs()) - sum(self._again())

    def _link(self) -> None:
        """A candidate that is in is done in one way and one position, and that position is used."""
        for index, one in enumerate(self.problem.candidates):
            self.model.add(sum(self.ways[index]) == self.chosen[index])
            self.model.add(sum(self.at[index].values()) == self.chosen[index])
            for slot, at in self.at[index].items():
                self.model.add_implication(at, self.used[slot])
            for way, done in zip(one.ways, self.ways[index], strict=True):
                for slot, at in self.at[index].items():
                    if slot[1] in way.under:
                        self.model.add(done + at <= 1)
            if one.pinned:
                self.model.add(self.chosen[index] == 1)
        for slot, used in self.used.items():
            self.model.add(sum(at[slot] for at in self.at if slot in at) >= used)

    def _changes(self) -> cp_model.IntVar:
        changes = self.model.new_int_var(0, len(self.slots), "changes")
        lying = self.problem.lying
        there = [used for (block, position), used in self.used.items() if block == 0 and position == lying]
        self.model.add(changes >= sum(self.used.values()) - (sum(there) if lying is not None else 1))
        return changes

    def _unusual_turns(self) -> cp_model.IntVar:
        """Turns beyond those that are usual: a core is not worth less for those."""
        unusual = self.model.new_int_var(0, len(self.slots), "unusual_turns")
        self.model.add(unusual >= self.changes - self.problem.usual_turns)
        return unusual

    def _time(self) -> None:
        problem = self.problem
        taken, pressing = [], []
        for one, ways in zip(problem.candidates, self.ways, strict=True):
            taken += [
                round((way.seconds + MOVE_S * way.stops) * TENTHS) * at for way, at in zip(one.ways, ways, strict=True)
            ]
            if one.pressed:
                pressing += [round(way.seconds * TENTHS) * at for way, at in zip(one.ways, ways, strict=True)]
        spent = sum(taken)
        turns = round((TURN_S - MOVE_S) * TENTHS) * self.changes
        rests = round(problem.rest_s * TENTHS) * self.rests
        grounds = round(problem.ground_s * TENTHS) * sum(self.grounded)
        share = round(problem.look_share * 100)
        self.model.add(100 * self.look >= share * sum(pressing))
        self.model.add(100 * self.look <= share * sum(pressing) + 99)
        moved = round(MOVE_S * TENTHS) if share else 0
        turned_away = self.model.new_bool_var("turned_away")
        for (_, position), used in self.used.items():
            if position not in TALKED_IN:
                self.model.add_implication(used, turned_away)
        turns += round(problem.talk_turn_s * TENTHS) * turned_away
        self.model.add(spent + turns + rests + grounds + self.look + moved <= int(problem.budget_s * TENTHS))
        self.model.add(spent <= problem.school.rest_every_s * TENTHS * (self.rests + 1))

    def _grounded(self) -> list[cp_model.IntVar]:
        """For each phase that ends with grounding (of what was mixed in, too), whether anything of it is in."""
        grounded = []
        for index, phase in enumerate(self.problem.school.phases):
            if not (phase.ground and self.problem.ground_s):
                continue
            for extra in (False, True):
                mine = [
                    chosen
                    for one, chosen in zip(self.problem.candidates, self.chosen, strict=True)
                    if one.phase == index and one.extra == extra
                ]
                if mine:
                    there = self.model.new_bool_var(f"ground_{phase.id}_{extra}")
                    for chosen in mine:
                        self.model.add_implication(chosen, there)
                    grounded.append(there)
        return grounded

    def _load(self) -> None:
        """No site and side gets more than its share. A pinned candidate is let in even so."""
        school = self.problem.school
        spent: dict[str, list[cp_model.LinearExpr]] = {}
        for one, ways in zip(self.problem.candidates, self.ways, strict=True):
            if not one.site or one.pinned or not one.pressed:
                continue
            for way, at in zip(one.ways, ways, strict=True):
                spent.setdefault(one.site, []).append(round(duration_s(way.dose) * TENTHS) * at)
        for site, terms in spent.items():
            most = school.load.sites.get(site, school.load.site_s) * self.problem.shortened
            self.model.add(sum(terms) <= int(most * TENTHS))

    def _most(self) -> None:
        """No more points than a body takes in one session, nor strokes before them; what is pinned counts too."""
        problem, school = self.problem, self.problem.school
        pinned = sum(candidate.pinned for candidate in problem.candidates)
        pressed = [chosen for one, chosen in zip(problem.candidates, self.chosen, strict=True) if one.pressed]
        self.model.add(sum(pressed) <= max(problem.most_points, pinned))
        if problem.takes_points is not None:
            ground = self.model.new_bool_var("ground")  # the grounding press is a place that is pressed, too
            for there in self.grounded:
                self.model.add_implication(there, ground)
            self.model.add(sum(pressed) + ground <= problem.takes_points)
        if problem.most_turns is not None:
            self.model.add(self.changes <= problem.most_turns)
        warm = [chosen for one, chosen in zip(problem.candidates, self.chosen, strict=True) if one.role == "warm"]
        self.model.add(sum(warm) <= max(school.most_warm, pinned))

    def _stay(self) -> None:
        """No longer in one position than this person can be: with what of the frame, and of the rests, falls there."""
        problem = self.problem
        if problem.stay_s is None:
            return
        longest = round(problem.stay_s * TENTHS)
        rests = round(problem.rest_s * TENTHS) * self.rests + round(problem.ground_s * TENTHS) * sum(self.grounded)
        before, after = (round(seconds * TENTHS) for seconds in problem.frame_s)
        # A second look is where the last position is, the move to it included.
        looks = self.look + (MOVE_S * TENTHS if problem.look_share else 0)
        everything = []
        for slot in self.slots:
            here = []
            for index, one in enumerate(problem.candidates):
                for number, way in enumerate(one.ways):
                    if slot not in self.at[index]:
                        continue
                    both = self.model.new_bool_var(f"{one.id}_{number}_{slot}")
                    self.model.add(both >= self.ways[index][number] + self.at[index][slot] - 1)
                    here.append(round((way.seconds + MOVE_S * way.stops) * TENTHS) * both)
            self.model.add(sum(here) + rests + before <= longest)
            self.model.add(sum(here) + rests + looks + after <= longest)
            everything += here
        slack = 2 * longest + before + after + round(problem.budget_s * TENTHS)
        self.model.add(sum(everything) + rests + looks + before + after <= longest + slack * self.changes)

    def _one_ground(self) -> None:
        """Where a school keeps to one of its grounds; what was mixed in knowingly, and what is pinned, is free."""
        if not self.problem.school.one_ground:
            return
        own: set[PointSource] = set(self.problem.school.draws)
        on = {ground: self.model.new_bool_var(f"on_{ground}") for ground in sorted(own)}
        self.model.add(sum(on.values()) <= 1)
        for one, chosen in zip(self.problem.candidates, self.chosen, strict=True):
            if one.grounds & own and not one.extra and not one.pinned:
                self.model.add(chosen <= sum(on[ground] for ground in sorted(one.grounds & own)))

    def _blocks(self) -> None:
        """Stretches follow the phases: what comes earlier in the school's order is never done in a later stretch."""
        turns = 2 * len(self.problem.school.phases)
        marks = [self.model.new_int_var(0, turns, f"turn_{block}") for block in range(1, BLOCKS)]
        for block in range(BLOCKS):
            here = [used for (number, _), used in self.used.items() if number == block]
            self.model.add(sum(here) <= 1)
            if block:
                before = [used for (number, _), used in self.used.items() if number == block - 1]
                self.model.add(sum(here) <= sum(before))
        for (block, position), used in self.used.items():
            if block:
                self.model.add(used + self.used[block - 1, position] <= 1)
        for one, at in zip(self.problem.candidates, self.at, strict=True):
            turn = one.phase + (len(self.problem.school.phases) if one.extra else 0)
            for (block, _), there in at.items():
                if block < BLOCKS - 1:
                    self.model.add(marks[block] >= turn).only_enforce_if(there)
                if block:
                    self.model.add(marks[block - 1] <= turn).only_enforce_if(there)

    def _core(self) -> Iterable[cp_model.LinearExpr]:
        """What is there of the cores: each rank in equal parts for what goes together, and something for the whole."""
        table = self.problem.weights.core
        for number, seat in enumerate(self.problem.cores):
            members = [self.index[id] for id in seat.ids]
            together = table.pair if len(members) > 1 else 0.0
            any_ = table.any if len(members) > 1 else 0.0
            if any_:
                yield from self._any_of(number, members, seat.worth * any_)
            for index in members:
                one = self.problem.candidates[index]
                for way, at in zip(one.ways, self.ways[index], strict=True):
                    share = 1.0 if way.share == 1 else table.half
                    yield round(seat.worth * (1 - together - any_) / len(members) * share * THOUSANDTHS) * at
            if together:
                whole = self.model.new_bool_var(f"whole_{number}")
                for index in members:
                    self.model.add_implication(whole, self.chosen[index])
                yield round(seat.worth * together * THOUSANDTHS) * whole

    def _any_of(self, number: int, members: Sequence[int], worth: float) -> Iterator[cp_model.LinearExpr]:
        """What it is worth that any of those that go together is there: on one side, and wholly."""
        half = self.problem.weights.core.half
        there = self.model.new_bool_var(f"any_{number}")
        wholly = self.model.new_bool_var(f"any_wholly_{number}")
        self.model.add(there <= sum(self.chosen[index] for index in members))
        ways = [
            done
            for index in members
            for way, done in zip(self.problem.candidates[index].ways, self.ways[index], strict=True)
            if way.share == 1
        ]
        self.model.add(wholly <= sum(ways))
        yield round(worth * half * THOUSANDTHS) * there
        yield round(worth * (1 - half) * THOUSANDTHS) * wholly

    def _not_longer_without_the_core(self) -> None:
        places = sorted({self.index[id] for seat in self.problem.cores for id in seat.ids})
        if not places:
            return
        complete = self.model.new_bool_var("all_cores")
        for index in places:
            self.model.add_implication(complete, self.chosen[index])
        for one, ways in zip(self.problem.candidates, self.ways, strict=True):
            for way, at in zip(one.ways, ways, strict=True):
                if way.length > 1:
                    self.model.add_implication(at, complete)

    def _benefit(self) -> Iterable[cp_model.LinearExpr]:
        for one, ways in zip(self.problem.candidates, self.ways, strict=True):
            for way, at in zip(one.ways, ways, strict=True):
                yield round(way.benefit * THOUSANDTHS) * at

    def _costs(self) -> Iterable[cp_model.LinearExpr]:
        """What turns, rests, places and changes of the hands cost."""
        table, problem = self.problem.weights, self.problem
        yield round(table.position_change * THOUSANDTHS) * self.changes
        yield round(table.rest * THOUSANDTHS) * self.rests
        awkward = (table.awkward_alone if problem.alone else table.awkward) | problem.school.awkward
        for one, at in zip(problem.candidates, self.at, strict=True):
            each = table.stop if one.pressed else table.stroke
            for slot, there in at.items():
                yield round((awkward[slot[1]] + each) * THOUSANDTHS) * there
        everything = list(zip(problem.candidates, self.chosen, self.ways, strict=True))
        pressed = [(one, chosen, ways) for one, chosen, ways in everything if one.pressed]
        yield from self._each("reach", table.reach, [(one.site, chosen) for one, chosen, _ in everything])
        yield from self._each("part", table.part, [(one.part, chosen) for one, chosen, _ in pressed])
        yield from self._each("tool", table.tool, [(one.contact, chosen) for one, chosen, _ in pressed])
        forms = [(way.dose.form, done) for one, _, ways in pressed for way, done in zip(one.ways, ways, strict=True)]
        yield from self._each("form", table.form, forms)
        for slot, used in self.used.items():
            alone = self.model.new_int_var(0, 2, f"alone_{slot}")
            here = [at[slot] for at, one in zip(self.at, problem.candidates, strict=True) if one.pressed and slot in at]
            self.model.add(alone >= 2 * used - sum(here))
            yield round(table.lonely * THOUSANDTHS) * alone

    def _each(self, name: str, cost: float, of: Sequence[tuple[str, cp_model.IntVar]]) -> Iterable[cp_model.LinearExpr]:
        """A cost for each kind of which anything is in. `of`: kinds, and what brings them."""
        for kind in sorted({kind for kind, _ in of}):
            there = self.model.new_bool_var(f"{name}_{kind}")
            for other, chosen in of:
                if other == kind:
                    self.model.add_implication(chosen, there)
            yield round(cost * THOUSANDTHS) * there

    def _again(self) -> Iterable[cp_model.LinearExpr]:
        """What the second, third... place with the same role for the same complaint is worth less."""
        table = self.problem.weights.again
        groups: dict[tuple[str, str], list[int]] = {}
        for index, one in enumerate(self.problem.candidates):
            for complaint, role in one.roles.items():
                if one.pressed and complaint in self.problem.strengths:
                    groups.setdefault((complaint, role), []).append(index)
        for (complaint, named), members in groups.items():
            nth = [self.model.new_bool_var(f"again_{complaint}_{named}_{n}") for n in range(len(members))]
            # Costs rise, so the cheapest are taken first without being told to.
            self.model.add(sum(nth) == sum(self.chosen[index] for index in members))
            for n, there in enumerate(nth):
                cost = table[min(n, len(table) - 1)] * self.problem.strengths[complaint]
                yield round(cost * THOUSANDTHS) * there

    def _cover(self) -> Iterable[cp_model.LinearExpr]:
        """What a complaint gains by getting anything local, far and calming."""
        for complaint, strength in self.problem.strengths.items():
            for kind, worth in self.problem.weights.cover.items():
                if (complaint, kind) in self.problem.covered:
                    continue
                there = self.model.new_bool_var(f"cover_{complaint}_{kind}")
                by = [
                    chosen
                    for one, chosen in zip(self.problem.candidates, self.chosen, strict=True)
                    if kind in one.covers.get(complaint, ())
                ]
                self.model.add(there <= sum(by))
                yield round(worth * strength * THOUSANDTHS) * there

    def read(self, solver: cp_model.CpSolver) -> list[Chosen]:
        """What a solution holds."""
        found = []
        for index, one in enumerate(self.problem.candidates):
            if not solver.value(self.chosen[index]):
                continue
            way = next(place for place, var in enumerate(self.ways[index]) if solver.value(var))
            block, position = next(slot for slot, var in self.at[index].items() if solver.value(var))
            found.append(Chosen(one, way, position, block))
        return found
