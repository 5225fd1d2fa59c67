"""Composes a score: from complaints, the person's limits and the minutes to stops in order, with every reason.

It is a line, each step a value that the next one takes:

    request → brief → wishes → candidates → choice → filling → order → score, with its reasons

Screening stands above everything. `steps_of` shows the values on the way (`./acuthesis compose --explain`).
"""

from collections.abc import Iterable
from dataclasses import dataclass

from acuthesis.core.compose.choose.brief import Brief, read_brief
from acuthesis.core.compose.choose.candidates import Sieved, sieved
from acuthesis.core.compose.choose.filling import Filled, filled
from acuthesis.core.compose.choose.laying import drafts_of, grounding_s
from acuthesis.core.compose.choose.order import Ordered, in_order
from acuthesis.core.compose.choose.reasons import asks_of, coverage_of, notes_of, too_little, what_was_left
from acuthesis.core.compose.choose.request import ComposeRequest, check_request
from acuthesis.core.compose.choose.solve import ChoiceProblem, Solution, solve
from acuthesis.core.compose.choose.wishes import Wishes, wishes_of
from acuthesis.core.compose.knowledge.layer import Knowledge, shipped
from acuthesis.core.compose.knowledge.weights import CoverKind
from acuthesis.core.compose.score.arrange import arrange, walked_m
from acuthesis.core.compose.score.score import (
    MOVE_S,
    TURN_S,
    Objective,
    Score,
    SoreWay,
    position_changes,
    tool_changes,
    total_s,
)
from acuthesis.core.errors import CoreError
from acuthesis.core.message import message
from acuthesis.core.reason import Reason
from acuthesis.core.safety.screening import Decision, Screening
from acuthesis.core.safety.verdict import verdict


@dataclass(frozen=True)
class Steps:
    """The values on the way from a request to its score."""

    brief: Brief
    wishes: Wishes
    found: Sieved
    problem: ChoiceProblem
    solution: Solution
    filled: Filled
    ordered: Ordered
    score: Score


def compose(request: ComposeRequest, screening: Screening, knowledge: Knowledge | None = None) -> Score:
    """Compose a score. The same request gives the same score.

    Parameters: request, what is wanted; screening, the person's answers; knowledge, if it is not the shipped.
    Raises: UnknownId for a complaint, point, area or school that does not exist; CoreError or NotAllowed for what
    cannot be, naming the nearest that can.
    """
    known = knowledge or shipped()
    check_request(request, known)
    if screening.painted and screening.reaches is None:
        raise CoreError(message("composer-area-marked-on-figure-read"), where="screening")
    screening = with_todays(request, screening)
    decided = verdict(screening)
    if decided.decision != "ok":
        return _none(decided.decision, decided.reasons, request)
    return steps_of(request, screening, known).score


def with_todays(request: ComposeRequest, screening: Screening) -> Screening:
    """The screening with the complaints of a request beside those that are known: rules ask for both."""
    told = {one.id: one.side for one in request.complaints if "side" in one.model_fields_set}
    untold = {one.id: "untold" for one in request.complaints}
    return screening.with_complaints(untold | screening.complaints | told)


def steps_of(request: ComposeRequest, screening: Screening, knowledge: Knowledge) -> Steps:
    """Every step of composing for somebody whom nothing forbids it. Raises: what `compose` raises."""
    brief = read_brief(request, with_todays(request, screening), knowledge)
    wishes = wishes_of(brief)
    found = sieved(wishes, brief)
    problem = problem_of(brief, wishes, found)
    solution = solve(problem)
    if solution is None or not any(choice.candidate.pressed for choice in solution.chosen):
        raise too_little(brief, found.candidates)
    whole = filled(brief, wishes, problem, solution)
    limited = brief.takes.turns is not None and not brief.alone
    ordered = in_order(whole.chosen, brief.school, alone=brief.alone, lying=problem.lying, face_up_first=limited)
    score = _score(brief, found, problem, solution, whole, ordered)
    return Steps(brief, wishes, found, problem, solution, whole, ordered, score)


def problem_of(brief: Brief, wishes: Wishes, found: Sieved) -> ChoiceProblem:
    """The optimisation: what is left of the minutes after the frame, what is covered already, what the person takes."""
    done = {one.id for one in brief.request.done}
    covered: set[tuple[str, CoverKind]] = {
        (complaint, kind)
        for id in done & set(wishes.by_id)
        for complaint, kinds in wishes.by_id[id].covers.items()
        for kind in kinds
    }
    before, after = brief.frame.before, brief.frame.after
    talks = sum(one.kind == "rate" for one in (*before, *after))
    stay = brief.takes.stay_min
    return ChoiceProblem(
        candidates=found.candidates,
        cores=found.cores,
        school=brief.school,
        budget_s=brief.request.slot_s - brief.frame.seconds - (MOVE_S if brief.request.begun else 0),
        rest_s=brief.frame.rest.seconds,
        talk_turn_s=0 if brief.alone else talks * (TURN_S - MOVE_S),
        ground_s=grounding_s(brief),
        strengths={complaint.id: complaint.rating / 10 for complaint in brief.request.complaints},
        covered=frozenset(covered),
        shortened=brief.shortened,
        seed=brief.request.seed,
        most_points=brief.most_points,
        takes_points=brief.takes_points,
        most_turns=brief.most_turns,
        usual_turns=max(brief.most_turns - 1, 0),
        stay_s=None if stay is None else stay * 60,
        frame_s=(sum(one.seconds for one in before), sum(one.seconds for one in after)),
        look_share=brief.look_share,
        alone=brief.alone,
        lying=brief.request.lying if brief.request.begun else None,
    )


def _none(decision: Decision, reasons: Iterable[Reason], request: ComposeRequest) -> Score:
    return Score(
        decision=decision,
        reasons=tuple(reasons),
        minutes=request.minutes,
        total_s=0,
        school=request.school,
        objective=Objective(value=0, position_changes=0),
    )


def _sore(brief: Brief) -> SoreWay:
    spot = brief.school.sore_spot
    usual = spot.then == "ease" and not spot.firm
    return SoreWay(then=spot.then, school="" if usual else brief.school.name, firm=spot.firm)


def _score(
    brief: Brief, found: Sieved, problem: ChoiceProblem, solution: Solution, whole: Filled, ordered: Ordered
) -> Score:
    find = brief.knowledge.find
    stops = arrange(drafts_of(ordered, solution, whole, brief), brief.screening, brief.school, find, alone=brief.alone)
    left_out = sorted((*found.left_out, *what_was_left(problem, solution, brief)), key=lambda row: not row.core_of)
    return Score(
        decision="ok",
        minutes=brief.request.minutes if brief.request.begun else brief.asked_s / 60,
        total_s=total_s(stops),
        school=brief.school.id,
        sore=_sore(brief),
        alone=brief.alone,
        stops=stops,
        left_out=tuple(left_out),
        coverage=tuple(coverage_of(problem, solution, brief, found, left_out)),
        notes=tuple(notes_of(brief, problem, solution, stops, left_out)),
        asks=tuple(asks_of(brief, stops)),
        objective=Objective(
            value=round(solution.value, 3),
            bound=round(solution.bound, 3),
            gap=round(solution.gap, 4),
            core=round(solution.core, 3),
            position_changes=position_changes(stops),
            order=round(ordered.cost, 2),
            order_bound=round(ordered.bound, 2),
            walked_m=0 if brief.alone else round(walked_m(stops, find), 1),
            tool_changes=tool_changes(stops),
        ),
    )
