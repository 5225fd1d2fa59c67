"""A greedy composer over the same problem, to see what solving it brings: the best for its time first, until full."""

from acuthesis.core.compose.candidates import Candidate, Sieve, Way
from acuthesis.core.compose.composer import blocked_for, problem_of
from acuthesis.core.compose.frame import frame_of
from acuthesis.core.compose.layer import shipped
from acuthesis.core.compose.request import ComposeRequest
from acuthesis.core.compose.solve import Problem, solve
from acuthesis.core.safety.screening import Screening


def problem_for(request: ComposeRequest, screening: Screening) -> Problem:
    """The problem that `compose` solves for a request."""
    known = shipped()
    school = known.school(request.school)
    sieve = Sieve(request, screening, school, blocked_for(request, screening), known)
    return problem_of(request, school, frame_of(request, school, known.doses), sieve.candidates(), sieve)


def greedy(request: ComposeRequest, screening: Screening) -> float:
    """The value of the greedy choice, judged exactly as the solver judges its own.

    Candidates are taken in the order of what they bring for their time, each in its usual way and in the position that
    reaches most; one that no longer fits is passed over.
    """
    problem = problem_for(request, screening)
    ranked = sorted(problem.candidates, key=lambda one: (-_rate(one.ways[0]), one.id))
    taken: list[Candidate] = []
    value = 0.0
    for one in ranked:
        trial = [*taken, one]
        judged = _value(problem, trial)
        if judged is not None:
            taken, value = trial, judged
    return value


def _rate(way: Way) -> float:
    return way.benefit / (way.seconds + 5)


def _value(problem: Problem, taken: list[Candidate]) -> float | None:
    """What exactly these are worth together, each in its usual way; None if they do not all fit."""
    fixed = [Candidate(**{**vars(one), "ways": one.ways[:1]}) for one in taken]
    solution = solve(Problem(**{**vars(problem), "candidates": fixed}))
    return None if solution is None or len(solution.chosen) < len(taken) else solution.value
