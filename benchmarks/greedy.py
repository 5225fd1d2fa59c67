"""A greedy composer over the same problem, to see what solving it brings: the best for its time first, until full."""

from dataclasses import replace

from acuthesis.core.compose.choose.brief import read_brief
from acuthesis.core.compose.choose.candidates import Candidate, Way, sieved
from acuthesis.core.compose.choose.composer import problem_of
from acuthesis.core.compose.choose.request import ComposeRequest
from acuthesis.core.compose.choose.solve import ChoiceProblem, Solution, solve
from acuthesis.core.compose.choose.wishes import wishes_of
from acuthesis.core.compose.knowledge.layer import shipped
from acuthesis.core.safety.screening import Screening


def problem_for(request: ComposeRequest, screening: Screening) -> ChoiceProblem:
    """The problem that `compose` solves for a request."""
    brief = read_brief(request, screening, shipped())
    wishes = wishes_of(brief)
    return problem_of(brief, wishes, sieved(wishes, brief))


def greedy(request: ComposeRequest, screening: Screening) -> tuple[float, float]:
    """What the greedy choice is worth, in cores and in everything, judged exactly as the solver judges its own."""
    found = greedy_solution(problem_for(request, screening))
    return (found.core, found.value) if found else (0.0, 0.0)


def greedy_solution(problem: ChoiceProblem) -> Solution | None:
    """Candidates are taken in the order of what they bring for their time, each in its usual way; one that no longer
    fits is passed over.
    """
    ranked = sorted(problem.candidates, key=lambda one: (-_rate(one.ways[0]), one.id))
    taken: list[Candidate] = []
    best: Solution | None = None
    for one in ranked:
        trial = [*taken, one]
        judged = _together(problem, trial)
        if judged is not None:
            taken, best = trial, judged
    return best


def _rate(way: Way) -> float:
    return way.benefit / (way.seconds + 5)


def _together(problem: ChoiceProblem, taken: list[Candidate]) -> Solution | None:
    """What exactly these are worth together, each in its usual way; None if they do not all fit."""
    fixed = [replace(one, ways=one.ways[:1], pinned=True) for one in taken]
    ids = {one.id for one in taken}
    cores = [replace(seat, ids=left) for seat in problem.cores if (left := tuple(id for id in seat.ids if id in ids))]
    free = problem.most_points if problem.takes_points is None else min(problem.most_points, problem.takes_points)
    if sum(one.pressed for one in taken) > free:
        return None
    return solve(replace(problem, candidates=fixed, cores=cores, takes_points=free + 1))
