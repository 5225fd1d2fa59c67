"""The proof is a proof: on small problems every choice there is was tried, and none is better than the solver's."""

from itertools import combinations, product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.atlas.entries.catalogue import entry
from acuthesis.core.compose.choose.candidates import Candidate, Way
from acuthesis.core.compose.choose.history import Played, helped
from acuthesis.core.compose.choose.solve import ChoiceProblem, solve
from acuthesis.core.compose.choose.wishes import CoreSeat
from acuthesis.core.compose.knowledge.dose import Hold, duration_s
from acuthesis.core.compose.knowledge.school import School, schools
from acuthesis.core.compose.knowledge.weights import weights
from acuthesis.core.compose.score.score import MOVE_S, TURN_S
from tests.tiers import examples

# Points whose sites and positions differ: some lie only on the front, some only on the back, some anywhere.
IDS = ("BL23", "BL40", "ST36", "HT7", "GV20", "CV12", "LI4", "GB21")
POSITIONS = {id: tuple(one for one in entry(id).reach.positions if one != "left_side") for id in IDS}
KINDS = ("local", "far", "calm")


def way(seconds: int, benefit: float, usual: int = 60) -> Way:
    return Way("left", Hold(seconds=seconds), 2, float(seconds), 1, benefit, (), length=seconds / usual)


@st.composite
def candidates(draw) -> list[Candidate]:
    found = []
    for id in draw(st.lists(st.sampled_from(IDS), min_size=1, max_size=5, unique=True)):
        lengths = draw(st.lists(st.integers(20, 120), min_size=1, max_size=2, unique=True))
        found.append(
            Candidate(
                target=entry(id),
                role="main",
                phase=draw(st.integers(2, 6)),
                positions=POSITIONS[id],
                ways=[way(seconds, draw(st.integers(1, 40)) / 10) for seconds in lengths],
                benefits={"ache": 1.0},
                covers={"ache": {draw(st.sampled_from(KINDS))}},
                why=[],
                pinned=False,
                roles={"ache": "main"},
            )
        )
    return found


@st.composite
def cores(draw, found: list[Candidate]) -> list[CoreSeat]:
    """One or two ranks among what was found, the first perhaps of two that go together."""
    ids = draw(st.permutations([one.id for one in found]))
    first = tuple(ids[: draw(st.integers(1, 2))])
    seats = [CoreSeat("ache", first, 0.5), *(CoreSeat("ache", (id,), 0.2) for id in ids[len(first) : len(first) + 1])]
    return seats[: draw(st.integers(0, 2))]


def school(scope: str) -> School:
    base = schools()["channel_acupressure"]
    order = base.order.model_copy(update={"scope": scope})
    return base.model_copy(update={"order": order, "rest_every_s": 200})


def together(seat) -> float:
    """What of a rank's worth is for having any, and for having all, of what goes together."""
    return weights().core.pair + weights().core.any if len(seat.ids) > 1 else 0.0


def worth(problem: ChoiceProblem, picked, rests: int) -> tuple[float, float] | None:
    """What a choice is worth, in cores and in everything, by the words of weights.yaml; None if it does not fit."""
    table, way_of_working = weights(), problem.school
    if len(picked) > problem.most_points:
        return None
    inside = {one.id for one, _, _ in picked}
    whole = all(set(seat.ids) <= inside for seat in problem.cores)
    if problem.cores and not whole and any(chosen.length > 1 for _, chosen, _ in picked):
        return None
    spent = sum(chosen.seconds + MOVE_S for _, chosen, _ in picked)
    stretches = {slot for _, _, slot in picked}
    changes = max(len(stretches) - 1, 0)
    total = spent + changes * (TURN_S - MOVE_S) + rests * problem.rest_s
    if total > problem.budget_s or spent > way_of_working.rest_every_s * (rests + 1):
        return None
    load: dict[str, float] = {}
    for one, chosen, _ in picked:
        load[one.site] = load.get(one.site, 0) + duration_s(chosen.dose)
    if any(seconds > way_of_working.load.site_s for seconds in load.values()):
        return None
    covered = {kind for one, _, _ in picked for kind in one.covers["ache"]}
    core = sum(
        seat.worth * (1 - together(seat)) * len(set(seat.ids) & inside) / len(seat.ids)
        + seat.worth * table.core.any * (len(seat.ids) > 1 and bool(set(seat.ids) & inside))
        + seat.worth * table.core.pair * (len(seat.ids) > 1 and set(seat.ids) <= inside)
        for seat in problem.cores
    ) - table.core.turn * max(changes - problem.usual_turns, 0)
    alone = sum(max(2 - sum(slot == other for _, _, other in picked), 0) for slot in stretches)
    again = [table.again[min(n, len(table.again) - 1)] for n in range(len(picked))]
    return round(core, 3), (
        sum(chosen.benefit for _, chosen, _ in picked)
        - sum(table.awkward[slot[1]] + table.stop for _, _, slot in picked)
        - table.position_change * changes
        - table.rest * rests
        - table.reach * len({one.site for one, _, _ in picked})
        - table.part * len({one.part for one, _, _ in picked})
        - table.tool * len({one.contact for one, _, _ in picked})
        - table.form * len({chosen.dose.form for _, chosen, _ in picked})
        - table.lonely * alone
        - sum(again) * problem.strengths["ache"]
        + sum(table.cover[kind] * problem.strengths["ache"] for kind in covered)
    )


def possible(picked, scope: str) -> bool:
    """Where the order runs over the whole session, stretches follow one another and the phases with them."""
    if scope == "position":
        return True
    first = {slot[1] for _, _, slot in picked if slot[0] == 0}
    second = {slot[1] for _, _, slot in picked if slot[0] == 1}
    if len(first) > 1 or len(second) > 1 or (second and (not first or first == second)):
        return False
    early = [one.phase for one, _, slot in picked if slot[0] == 0]
    late = [one.phase for one, _, slot in picked if slot[0] == 1]
    return not late or max(early) <= min(late)


def best_of_all(problem: ChoiceProblem, scope: str) -> tuple[float, float]:
    """The best of every choice there is: of the cores first, then of everything."""
    blocks = (0,) if scope == "position" else (0, 1)
    best = (0.0, 0.0)
    everything = list(problem.candidates)
    for number in range(1, len(everything) + 1):
        for some in combinations(everything, number):
            options = [
                [
                    (one, chosen, (block, position))
                    for chosen in one.ways
                    for block in blocks
                    for position in one.positions
                ]
                for one in some
            ]
            for picked in product(*options):
                if not possible(picked, scope):
                    continue
                for rests in range(4):
                    value = worth(problem, picked, rests)
                    if value is not None and value > best:
                        best = value
    return best


@pytest.mark.parametrize("scope", ["position", "whole"])
@examples(25)
@given(candidates(), st.integers(60, 420), st.integers(1, 10), st.integers(0, 1), st.data())
def test_nothing_that_could_be_chosen_is_better(scope, found, budget_s, strength, usual, data):
    few = found[:3] if scope == "whole" else found[:4]  # so that trying everything stays quick
    begin = data.draw(cores(few))
    problem = ChoiceProblem(
        few, school(scope), budget_s, 25.0, 0.0, {"ache": strength / 10}, 4, cores=begin, usual_turns=usual
    )
    solution = solve(problem)
    assert solution is not None and solution.proven
    core, best = best_of_all(problem, scope)
    assert solution.core == pytest.approx(core, abs=0.003), "no other choice has more of the cores"
    assert solution.value == pytest.approx(best, abs=0.02), "nor, with as much of them, more of everything"
    picked = [(one.candidate, one.candidate.ways[one.way], (one.block, one.position)) for one in solution.chosen]
    assert possible(picked, scope)
    if picked:
        assert worth(problem, picked, solution.rests) == pytest.approx((solution.core, solution.value), abs=0.02)


def test_a_pinned_candidate_is_in_or_nothing_is():
    one = Candidate(entry("HT7"), "main", 2, ("supine",), [way(60, 0.1)], {"ache": 0.1}, {"ache": {"local"}}, [], True)
    roomy = ChoiceProblem([one], school("position"), 100, 25.0, 0.0, {"ache": 0.0}, 4)
    assert [chosen.candidate.id for chosen in solve(roomy).chosen] == ["HT7"], "although it is worth less than it costs"
    assert solve(ChoiceProblem([one], school("position"), 30, 25.0, 0.0, {"ache": 1.0}, 4)) is None


@given(st.lists(st.tuples(st.frozensets(st.sampled_from(IDS), max_size=4), st.floats(-8, 8)), max_size=8))
def test_what_helped_is_what_did_better_than_usual(visits):
    rows = {row.id: row for row in helped(Played(ids, change) for ids, change in visits)}
    if len(visits) < 2:
        assert not rows
        return
    mean = sum(change for _, change in visits) / len(visits)
    for id in IDS:
        changes = [change for ids, change in visits if id in ids]
        if 0 < len(changes) < len(visits):
            assert rows[id].times == len(changes)
            difference = sum(changes) / len(changes) - mean
            assert rows[id].change == pytest.approx(min(max(difference, -10), 10), abs=0.006)
        else:
            assert id not in rows, "what was in every visit, or in none, says nothing"
