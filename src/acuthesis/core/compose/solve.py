"""The choice as an optimisation: which candidates, in which way, in which position, within the time; proven by CP-SAT.

Maximised is benefit plus coverage, less turns, reaching and awkward positions (weights.yaml), so that

- each candidate is done in one way at most, in one position of those it can be reached in;
- presses, moves, turns, rests, grounding and the frame of the session fit into the seconds there are;
- a site gets no more than its load;
- where a school's order runs over the whole sequence, positions follow its phases.

Times are tenths of a second and benefits thousandths, so that everything is an integer and the result is exact.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from ortools.sat.python import cp_model

from acuthesis.core.atlas.model import Position
from acuthesis.core.compose.candidates import Candidate
from acuthesis.core.compose.dose import duration_s
from acuthesis.core.compose.school import School
from acuthesis.core.compose.score import MOVE_S, TURN_S
from acuthesis.core.compose.weights import CoverKind, weights

TENTHS, THOUSANDTHS = 10, 1000
# Where the search stops, in the solver's own measure of work, which unlike seconds is the same on every run.
MOST_WORK = 3.0
BLOCKS = 2  # stretches in one position, where the order runs over the whole sequence


@dataclass(frozen=True)
class Problem:
    """What is chosen from, and the frame it has to fit into.

    `budget_s` seconds that are left after the frame; `rest_s` and `ground_s` what a rest and a grounding press take,
    moves included; `strengths` the weight of each complaint, 0 to 1; `covered` what is covered already.
    """

    candidates: Sequence[Candidate]
    school: School
    budget_s: float
    rest_s: float
    ground_s: float
    strengths: dict[str, float]
    covered: frozenset[tuple[str, CoverKind]] = frozenset()
    shortened: float = 1.0
    seed: int = 0
    most_points: int | None = None  # what this person takes, whatever the school would give
    most_turns: int | None = None
    stay_s: float | None = None  # longest in one position
    frame_s: tuple[float, float] = (0.0, 0.0)  # before the work and after it, spent in the first and the last position


@dataclass(frozen=True)
class Chosen:
    """A candidate that is in: in which of its ways, in which position, in which stretch of the sequence."""

    candidate: Candidate
    way: int
    position: Position
    block: int


@dataclass(frozen=True)
class Solution:
    """What was chosen; `value` and `bound` in units of benefit; `proven` if nothing can be better."""

    chosen: tuple[Chosen, ...]
    value: float
    bound: float
    rests: int
    proven: bool

    @property
    def gap(self) -> float:
        """By what share of the value something better might exist."""
        return max(self.bound - self.value, 0.0) / max(abs(self.value), 1e-6)


def solve(problem: Problem, hint: Sequence[Chosen] = ()) -> Solution | None:
    """The best choice; None if not even the pinned candidates fit. The same problem gives the same solution."""
    model = _Model(problem)
    for chosen in hint:
        model.hint(chosen)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = problem.seed
    solver.parameters.max_deterministic_time = MOST_WORK
    solver.parameters.linearization_level = 2
    status = solver.solve(model.model)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return None
    return Solution(
        chosen=tuple(model.read(solver)),
        value=solver.objective_value / THOUSANDTHS,
        bound=solver.best_objective_bound / THOUSANDTHS,
        rests=solver.value(model.rests),
        proven=status == cp_model.OPTIMAL,
    )


class _Model:
    """The variables and constraints of one problem."""

    def __init__(self, problem: Problem) -> None:
        self.problem = problem
        self.model = cp_model.CpModel()
        whole = problem.school.order.scope == "whole"
        positions = sorted({position for one in problem.candidates for position in one.positions})
        self.slots = [(block, position) for block in range(BLOCKS if whole else 1) for position in positions]
        self.used = {slot: self.model.new_bool_var(f"used_{slot}") for slot in self.slots}
        self.ways = [
            [self.model.new_bool_var(f"{one.id}_{index}") for index in range(len(one.ways))]
            for one in problem.candidates
        ]
        self.at = [
            {slot: self.model.new_bool_var(f"{one.id}_{slot}") for slot in self.slots if slot[1] in one.positions}
            for one in problem.candidates
        ]
        self.chosen = [self.model.new_bool_var(f"{one.id}_in") for one in problem.candidates]
        self.rests = self.model.new_int_var(0, 40, "rests")
        self._link()
        self.changes = self._changes()
        self.grounded = self._grounded()
        self._time()
        self._load()
        self._most()
        self._stay()
        if whole:
            self._blocks()
        self.model.maximize(sum(self._worth()) + sum(self._cover()))

    def _link(self) -> None:
        """A candidate that is in is done in one way and one position, and that position is used."""
        for index, one in enumerate(self.problem.candidates):
            self.model.add(sum(self.ways[index]) == self.chosen[index])
            self.model.add(sum(self.at[index].values()) == self.chosen[index])
            for slot, at in self.at[index].items():
                self.model.add_implication(at, self.used[slot])
            if one.pinned:
                self.model.add(self.chosen[index] == 1)
        for slot, used in self.used.items():
            self.model.add(sum(at[slot] for at in self.at if slot in at) >= used)

    def _changes(self) -> cp_model.IntVar:
        changes = self.model.new_int_var(0, len(self.slots), "changes")
        self.model.add(changes >= sum(self.used.values()) - 1)
        return changes

    def _time(self) -> None:
        problem = self.problem
        taken = [
            round((way.seconds + MOVE_S * way.stops) * TENTHS) * at
            for one, ways in zip(problem.candidates, self.ways, strict=True)
            for way, at in zip(one.ways, ways, strict=True)
        ]
        spent = sum(taken)
        turns = round((TURN_S - MOVE_S) * TENTHS) * self.changes
        rests = round(problem.rest_s * TENTHS) * self.rests
        grounds = round(problem.ground_s * TENTHS) * sum(self.grounded)
        self.model.add(spent + turns + rests + grounds <= int(problem.budget_s * TENTHS))
        self.model.add(spent <= problem.school.rest_every_s * TENTHS * (self.rests + 1))

    def _grounded(self) -> list[cp_model.IntVar]:
        """For each phase that ends with grounding, whether anything of it is in."""
        grounded = []
        for index, phase in enumerate(self.problem.school.phases):
            if not (phase.ground and self.problem.school.ground):
                continue
            there = self.model.new_bool_var(f"ground_{phase.id}")
            for one, chosen in zip(self.problem.candidates, self.chosen, strict=True):
                if one.phase == index:
                    self.model.add_implication(chosen, there)
            grounded.append(there)
        return grounded

    def _load(self) -> None:
        """No site and side gets more than its share. A pinned candidate is let in even so."""
        school = self.problem.school
        spent: dict[str, list[cp_model.LinearExpr]] = {}
        for one, ways in zip(self.problem.candidates, self.ways, strict=True):
            if not one.site or one.pinned or one.kind not in ("point", "area"):
                continue
            for way, at in zip(one.ways, ways, strict=True):
                spent.setdefault(one.site, []).append(round(duration_s(way.dose) * TENTHS) * at)
        for site, terms in spent.items():
            most = school.load.sites.get(site, school.load.site_s) * self.problem.shortened
            self.model.add(sum(terms) <= int(most * TENTHS))

    def _most(self) -> None:
        """No more points than a body takes in one session, nor strokes before them; what is pinned counts too."""
        problem, school = self.problem, self.problem.school
        more = 2 * max(len(problem.strengths) - 1, 0)  # two more points for each further complaint
        pinned = sum(one.pinned for one in problem.candidates)
        pressed = [
            chosen for one, chosen in zip(problem.candidates, self.chosen, strict=True) if one.kind in ("point", "area")
        ]
        self.model.add(sum(pressed) <= max(school.most_points + more, pinned))
        if problem.most_points is not None:
            ground = self.model.new_bool_var("ground")  # the grounding press is a place that is pressed, too
            for there in self.grounded:
                self.model.add_implication(there, ground)
            self.model.add(sum(pressed) + ground <= problem.most_points)
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
            self.model.add(sum(here) + rests + max(before, after) <= longest)
            everything += here
        slack = longest + before + after + round(problem.budget_s * TENTHS)
        self.model.add(sum(everything) + rests + before + after <= longest + slack * self.changes)

    def _blocks(self) -> None:
        """Stretches follow the phases: what comes earlier in the school's order is never done in a later stretch."""
        last = len(self.problem.school.phases)
        marks = [self.model.new_int_var(0, last, f"turn_{block}") for block in range(1, BLOCKS)]
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
            for (block, _), there in at.items():
                if block < BLOCKS - 1:
                    self.model.add(marks[block] >= one.phase).only_enforce_if(there)
                if block:
                    self.model.add(marks[block - 1] <= one.phase).only_enforce_if(there)

    def _worth(self) -> list[cp_model.LinearExpr]:
        table = weights()
        terms: list[cp_model.LinearExpr] = [
            -round(table.position_change * THOUSANDTHS) * self.changes,
            -round(table.rest * THOUSANDTHS) * self.rests,
        ]
        for one, ways, at in zip(self.problem.candidates, self.ways, self.at, strict=True):
            terms += [round(way.benefit * THOUSANDTHS) * var for way, var in zip(one.ways, ways, strict=True)]
            awkward = table.awkward | self.problem.school.awkward
            terms += [-round((awkward[slot[1]] + table.stop) * THOUSANDTHS) * var for slot, var in at.items()]
        for site in sorted({one.site for one in self.problem.candidates}):
            reached = self.model.new_bool_var(f"reach_{site}")
            for one, chosen in zip(self.problem.candidates, self.chosen, strict=True):
                if one.site == site:
                    self.model.add_implication(chosen, reached)
            terms.append(-round(table.reach * THOUSANDTHS) * reached)
        return terms

    def _cover(self) -> list[cp_model.LinearExpr]:
        """What a complaint gains by getting anything local, far and calming."""
        terms: list[cp_model.LinearExpr] = []
        for complaint, strength in self.problem.strengths.items():
            for kind, worth in weights().cover.items():
                if (complaint, kind) in self.problem.covered:
                    continue
                there = self.model.new_bool_var(f"cover_{complaint}_{kind}")
                by = [
                    chosen
                    for one, chosen in zip(self.problem.candidates, self.chosen, strict=True)
                    if kind in one.covers.get(complaint, ())
                ]
                self.model.add(there <= sum(by))
                terms.append(round(worth * strength * THOUSANDTHS) * there)
        return terms

    def hint(self, chosen: Chosen) -> None:
        """A good guess to start from."""
        index = list(self.problem.candidates).index(chosen.candidate)
        self.model.add_hint(self.chosen[index], 1)
        self.model.add_hint(self.ways[index][chosen.way], 1)

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
