"""Says why: what each complaint gets, and why each thing that could be in is not."""

from collections.abc import Iterator

from acuthesis.core.compose.candidates import Candidate, Sieve, Way, part_name
from acuthesis.core.compose.dose import duration_s
from acuthesis.core.compose.frame import Frame
from acuthesis.core.compose.request import ComposeRequest
from acuthesis.core.compose.school import School
from acuthesis.core.compose.score import MOVE_S, TURN_S, Coverage, LeftOut
from acuthesis.core.compose.solve import Chosen, Problem, Solution
from acuthesis.core.errors import CoreError
from acuthesis.core.safety.size import Capacity

COVER_WORDS = {"local": "at the place or what serves it", "far": "a far point", "calm": "something calming"}


def place_words(school: School, phase: int) -> str:
    """Why a stop of a phase stands where it stands in the order. `phase`: its index in the school."""
    before = [one.name.lower() for one in school.phases[:phase] if one.roles]
    after = f", after {before[-1]}" if before else ", first of the pressing"
    return f"In {school.name.lower()} it belongs to “{school.phases[phase].name.lower()}”{after}."


def minutes_words(seconds: float) -> str:
    """A time as people say it: half minutes from one minute on, else seconds.

    >>> minutes_words(40), minutes_words(95)
    ('40 s', '1.6 min')
    """
    return f"{seconds:.0f} s" if seconds < 60 else f"{seconds / 60:.1f} min"


def _needs(way: Way) -> float:
    return way.seconds + MOVE_S * way.stops


def what_was_left(problem: Problem, solution: Solution) -> Iterator[LeftOut]:
    """A line for each candidate that was not chosen: what it would take, and what it would displace."""
    inside = {one.candidate.id for one in solution.chosen}
    positions = {one.position for one in solution.chosen}
    pressed = [one for one in solution.chosen if one.candidate.kind in ("point", "area")]
    least = min(pressed, key=lambda one: _rate(one.candidate.ways[one.way]))
    for candidate in problem.candidates:
        if candidate.id in inside:
            continue
        best = candidate.best
        shortest = min(_needs(way) for way in candidate.ways)
        turn = not positions & set(candidate.positions)
        rule, reason = _reason(problem, solution, candidate, best, least, shortest, turn)
        yield LeftOut(id=candidate.id, name=candidate.name, side=best.side, reason=reason, rule=rule, severity="note")


def positions_of(solution: Solution) -> set[tuple[int, str]]:
    """The stretches in one position that a solution uses."""
    return {(one.block, one.position) for one in solution.chosen}


def _rate(way: Way) -> float:
    """Benefit for each second."""
    return way.benefit / _needs(way)


def _reason(
    problem: Problem,
    solution: Solution,
    candidate: Candidate,
    best: Way,
    least: Chosen,
    shortest: float,
    turn: bool,
) -> tuple[str, str]:
    site_load = sum(
        duration_s(one.candidate.ways[one.way].dose)
        for one in solution.chosen
        if one.candidate.site == candidate.site and candidate.site and one.candidate.kind in ("point", "area")
    )
    load = problem.school.load
    most = load.sites.get(candidate.site, load.site_s) * problem.shortened
    lightest = min(duration_s(way.dose) for way in candidate.ways)
    if candidate.kind in ("point", "area") and site_load + lightest > most:
        return "load", f"Enough on this place: {minutes_words(most)} is the most for one session."
    points = [one for one in solution.chosen if one.candidate.kind in ("point", "area")]
    if candidate.kind in ("point", "area") and problem.most_points is not None and len(points) >= problem.most_points:
        return "size", f"{len(points)} points are enough for this person in one session; those that are in come first."
    full = problem.school.most_points + 2 * max(len(problem.strengths) - 1, 0)
    if candidate.kind in ("point", "area") and len(points) >= full:
        return "most", f"{len(points)} points are enough for one session; those that are in are worth more."
    warm = [one for one in solution.chosen if one.candidate.role == "warm"]
    if candidate.role == "warm" and len(warm) >= problem.school.most_warm:
        return "most", "Enough strokes before the pressing; those that are in fit better."
    if turn and problem.most_turns is not None and len(positions_of(solution)) > problem.most_turns:
        return "size", "It would need another turn, and this person turns no more often."
    if turn:
        position = candidate.positions[0].replace("_", " ")
        return "turn", f"It would need another turn ({position}) and {minutes_words(shortest + TURN_S)}."
    worth = least.candidate.ways[least.way]
    needs = f"No time: it would need {minutes_words(shortest)}"
    if _rate(best) <= _rate(worth):
        return "time", f"{needs}; the least useful stop, {least.candidate.name}, is worth more for its time."
    return "time", f"{needs}; what it would displace is worth more together."


def coverage_of(request: ComposeRequest, solution: Solution, sieve: Sieve, problem: Problem) -> Iterator[Coverage]:
    """For each complaint whether it gets something local, far and calming, and why not."""
    for complaint in request.complaints:
        got = {kind for kind in COVER_WORDS if (complaint.id, kind) in problem.covered}
        could: set[str] = set()
        for one in problem.candidates:
            could |= one.covers.get(complaint.id, set())
        for chosen in solution.chosen:
            got |= chosen.candidate.covers.get(complaint.id, set())
        missing = []
        for kind, words in COVER_WORDS.items():
            if kind in got:
                continue
            if kind in could:
                missing.append(f"No time for {words}.")
            elif complaint.rating == 0:
                missing.append(f"Nothing for {words}: it is rated 0 today.")
            else:
                missing.append(f"{problem.school.name} has nothing left for {words} here.")
        yield Coverage(
            complaint=complaint.id,
            name=sieve.knowledge.name_of(complaint.id),
            local="local" in got,
            far="far" in got,
            calm="calm" in got,
            missing=tuple(missing),
        )


def too_little(request: ComposeRequest, frame: Frame, candidates: list[Candidate], most: Capacity) -> CoreError:
    """What to say where the time holds nothing, or not what was pinned: how much would, or what forbids it."""
    pinned = [one for one in candidates if one.pinned]
    points = [one for one in pinned if one.kind in ("point", "area")]
    if most.points is not None and len(points) > most.points:
        return CoreError(f"{len(points)} points are pinned. {most.reasons['points']} Unpin some", where="pinned")
    wanted = pinned or [min(candidates, key=lambda one: min(_needs(way) for way in one.ways))]
    need = sum(min(_needs(way) for way in one.ways) for one in wanted) + frame.seconds
    parts = {part_name(one) for one in wanted}
    turns = TURN_S * max(len({one.positions[0] for one in wanted}) - 1, 0)
    minutes = (need + turns) / 60
    there = request.slot_s / 60
    if pinned:
        names = ", ".join(one.id for one in pinned)
        if minutes > there:
            return CoreError(
                f"{there:g} minutes do not hold what is pinned ({names}): give it {minutes:.0f} or more, or unpin one",
                where="minutes",
            )
        return CoreError(
            f"what is pinned ({names}) cannot be done together on {', '.join(sorted(parts))}; unpin one", where="pinned"
        )
    return CoreError(
        f"{there:g} minutes hold no stop: talk, ratings, arriving and closing take "
        f"{minutes_words(frame.seconds)}. {minutes + 0.5:.0f} minutes hold one",
        where="minutes",
    )
