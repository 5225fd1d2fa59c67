"""Composes a score: from complaints, the person's limits and the minutes to stops in order, with every reason.

Screening stands above everything; then what may be done is gathered (candidates), chosen (solve), put in order (order),
framed (frame), laid out and checked once more against the limits (score), and what is left out is explained (explain).
"""

from collections.abc import Sequence

from acuthesis.core.atlas.model import Position
from acuthesis.core.compose.candidates import Candidate, Sieve, nothing_left
from acuthesis.core.compose.dose import DoseDefault, duration_s, in_words, stretched, whole_s
from acuthesis.core.compose.explain import coverage_of, place_words, too_little, what_was_left
from acuthesis.core.compose.frame import Frame, Moment, frame_of
from acuthesis.core.compose.layer import Knowledge, shipped
from acuthesis.core.compose.order import Placed, in_order
from acuthesis.core.compose.request import ComposeRequest, check_request
from acuthesis.core.compose.school import School
from acuthesis.core.compose.score import (
    MOVE_S,
    DraftStop,
    Objective,
    Score,
    Stop,
    arrange,
    position_changes,
    total_s,
)
from acuthesis.core.compose.solve import Problem, Solution, solve
from acuthesis.core.compose.technique import Technique
from acuthesis.core.compose.weights import CoverKind
from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.safety.limits import complaints_out, notes_for, positions_out
from acuthesis.core.safety.screening import Screening
from acuthesis.core.safety.size import Capacity, capacity
from acuthesis.core.safety.verdict import verdict

SECOND_LOOK_MOST = 0.25  # share of a session
LEFT_S = 90  # what is left of the minutes is said from here on
AGE_UNKNOWN = "How old? Limits for children and for over 75 wait for the age; until it is told, treat gently."


def compose(request: ComposeRequest, screening: Screening, knowledge: Knowledge | None = None) -> Score:
    """Compose a score. The same request gives the same score.

    Parameters: request, what is wanted; screening, the person's answers; knowledge, if it is not the shipped.
    Raises: UnknownId for a complaint, point, area or school that does not exist; CoreError or NotAllowed for what
    cannot be, naming the nearest that can.
    """
    known = knowledge or shipped()
    check_request(request, known)
    if screening.painted and screening.reaches is None:
        raise CoreError("a place is painted on the figure: it is read on the person's body first", where="screening")
    decided = verdict(screening)
    if decided.decision != "ok":
        return Score(
            decision=decided.decision,
            reasons=decided.reasons,
            minutes=request.minutes,
            total_s=0,
            school=request.school,
            objective=Objective(value=0, position_changes=0),
        )
    _complaints_are_offered(request, screening, known)
    way, doses = known.school(request.school), known.doses
    most = capacity(screening)
    minutes, asked_s, request = request.minutes, request.slot_s, request.within_minutes(most.minutes)
    sieve = Sieve(request, screening, way, blocked_for(request, screening), known)
    candidates = sieve.candidates()
    if not any(one.kind in ("point", "area") for one in candidates):
        raise nothing_left(sieve)
    frame = frame_of(request, way, doses)
    problem = problem_of(request, way, frame, candidates, sieve, most)
    solution = solve(problem)
    if solution is None or not any(one.candidate.kind in ("point", "area") for one in solution.chosen):
        raise too_little(request, frame, candidates, most)
    drafts = _drafts(solution, way, frame, request, doses)
    drafts = _stretched_second_look(drafts, request, screening, way, known, most)
    stops = arrange(drafts, screening, way, known.find)
    return Score(
        decision="ok",
        minutes=minutes,
        total_s=total_s(stops),
        school=way.id,
        stops=stops,
        left_out=(*sieve.left_out, *what_was_left(problem, solution)),
        coverage=tuple(coverage_of(request, solution, sieve, problem)),
        notes=(
            *_room(asked_s - total_s(stops), most, problem, solution),
            *notes_for(screening),
            *_notes(request, way, known),
        ),
        asks=_asks(screening, stops),
        objective=Objective(
            value=round(solution.value, 3),
            bound=round(solution.bound, 3),
            gap=round(solution.gap, 4),
            position_changes=position_changes(stops),
        ),
    )


def blocked_for(request: ComposeRequest, screening: Screening) -> dict[Position, str]:
    """Positions that are out for this request and this person, with the reason."""
    return dict.fromkeys(request.positions_excluded, "This position was excluded.") | positions_out(screening)


def problem_of(
    request: ComposeRequest,
    school: School,
    frame: Frame,
    candidates: list[Candidate],
    sieve: Sieve,
    most: Capacity | None = None,
) -> Problem:
    """The optimisation: what is left of the minutes after the frame, what is covered already, and what a person takes
    at most.
    """
    most = most or Capacity()
    done = {one.id for one in request.done}
    covered: set[tuple[str, CoverKind]] = set()
    if done:
        free = request.model_copy(update={"done": [], "remaining_minutes": None})
        for one in Sieve(free, sieve.screening, school, {}, sieve.knowledge).candidates():
            if one.id in done:
                covered |= {(complaint, kind) for complaint, kinds in one.covers.items() for kind in kinds}
    ground_s = (_ground_seconds(school, sieve.doses) + MOVE_S) if school.ground else 0.0
    return Problem(
        candidates=candidates,
        school=school,
        budget_s=request.slot_s - frame.seconds,
        rest_s=frame.rest.seconds,
        ground_s=ground_s,
        strengths={one.id: one.rating / 10 for one in request.complaints},
        covered=frozenset(covered),
        shortened=sieve.modifier.factor if sieve.modifier else 1.0,
        seed=request.seed,
        most_points=None if most.points is None else max(most.points - len(done), 0),
        most_turns=most.turns,
        stay_s=None if most.stay_min is None else most.stay_min * 60,
        frame_s=(sum(one.seconds for one in frame.before), sum(one.seconds for one in frame.after)),
    )


def _complaints_are_offered(request: ComposeRequest, screening: Screening, knowledge: Knowledge) -> None:
    """Raises: NotAllowed for a complaint that is not worked on with this person."""
    out = complaints_out(screening)
    for one in request.complaints:
        if one.id in out:
            raise NotAllowed(f"{knowledge.name_of(one.id)}: {out[one.id]}", where="complaints")


def _room(spare_s: float, most: Capacity, problem: Problem, solution: Solution) -> tuple[str, ...]:
    """What is left of the minutes, where it is care that leaves it: said, and never filled."""
    if spare_s < LEFT_S:
        return ()
    pressed = [one for one in solution.chosen if one.candidate.kind in ("point", "area")]
    full = problem.most_points is not None and len(pressed) >= problem.most_points
    fields = ["points"] if full else []
    fields += [field for field in ("minutes", "stay_min", "turns") if field in most.reasons]
    if not fields:
        return ()
    said = " ".join(dict.fromkeys(most.reasons[field] for field in fields))
    return (f"{spare_s / 60:.0f} minutes are left: rest, talk, or another day. {said}",)


def _asks(screening: Screening, stops: Sequence[Stop]) -> tuple[str, ...]:
    """What has to be asked before hands go on: the age where it is not known, and consent for close places."""
    asks = [AGE_UNKNOWN] if screening.age is None else []
    close = list(dict.fromkeys(f"{stop.id} ({stop.name})" for stop in stops if stop.consent))
    if close:
        asks.append(f"Ask, and record that they agreed: {', '.join(close)}.")
    return tuple(asks)


def _ground_seconds(school: School, doses: dict[str, DoseDefault]) -> float:
    assert school.ground is not None
    dose = doses[school.ground.dose].dose.model_copy(update={"together": True})
    return whole_s(dose, "both")


def _drafts(
    solution: Solution, school: School, frame: Frame, request: ComposeRequest, doses: dict[str, DoseDefault]
) -> list[DraftStop]:
    placed = in_order(solution, school)
    work = _with_grounding(placed, school, doses)
    work = _with_rests(work, solution.rests, frame.rest)
    first, last = placed[0].position, placed[-1].position
    return _keyed(
        [
            *(_moment(moment, first, school) for moment in frame.before),
            *work,
            *(_moment(moment, last, school) for moment in frame.after),
        ]
    )


def _stretched_second_look(
    drafts: list[DraftStop],
    request: ComposeRequest,
    screening: Screening,
    school: School,
    knowledge: Knowledge,
    takes: Capacity,
) -> list[DraftStop]:
    """What is left of the minutes goes to the sorest places, up to a quarter of the session, and no longer than the
    person can be in that position.
    """
    laid = arrange(drafts, screening, school, knowledge.find)
    spare = request.slot_s - total_s(laid)
    if takes.stay_min is not None:
        last = [stop for stop in laid if stop.position != laid[-1].position]
        since = last[-1].start_s + last[-1].duration_s if last else 0.0
        spare = min(spare, takes.stay_min * 60 - (total_s(laid) - since))
    most = request.slot_s * SECOND_LOOK_MOST
    return [
        stop.model_copy(update={"dose": stretched(stop.dose, min(duration_s(stop.dose) + int(spare), max(most, 5)))})
        if stop.kind == "second_look" and spare > 0
        else stop
        for stop in drafts
    ]


def _moment(moment: Moment, position: Position, school: School) -> DraftStop:
    found = school.frame_phase if moment.id != "last_rating" else school.last_phase
    phase = found(moment.kind)  # type: ignore[arg-type]
    return DraftStop(
        key=moment.id,
        kind=moment.kind,
        id=moment.id,
        side="midline",
        position=position,
        dose=moment.dose,
        level=1,
        phase=school.phases[phase].id if phase is not None else "",
        why=(moment.why,),
    )


def _stop(one: Placed, school: School) -> DraftStop:
    candidate = one.candidate
    turn = "" if isinstance(candidate.target, Technique) else place_words(school, one.phase)
    dose = f"{in_words(one.way.dose)[0].upper()}{in_words(one.way.dose)[1:]}."
    return DraftStop(
        key=candidate.id,
        kind=candidate.kind,
        id=candidate.id,
        side=one.side,
        position=one.position,
        dose=one.way.dose,
        level=one.way.level,
        phase=school.phases[one.phase].id,
        why=tuple(line for line in (*candidate.why, *one.way.why, dose, turn) if line),
    )


def _with_grounding(placed: list[Placed], school: School, doses: dict[str, DoseDefault]) -> list[DraftStop]:
    """The stops, with a grounding press after each phase that ends with one."""
    stops: list[DraftStop] = []
    for index, one in enumerate(placed):
        stops.append(_stop(one, school))
        ends = index + 1 == len(placed) or placed[index + 1].phase != one.phase
        if school.ground is not None and school.phases[one.phase].ground and ends:
            default = doses[school.ground.dose]
            stops.append(
                DraftStop(
                    key=school.ground.id,
                    kind="area",
                    id=school.ground.id,
                    side="both",
                    position=one.position,
                    dose=default.dose.model_copy(update={"together": True}),
                    level=min(default.level, 2),
                    phase=school.phases[one.phase].id,
                    why=(school.ground.words,),
                )
            )
    return stops


def _with_rests(stops: list[DraftStop], rests: int, rest: Moment) -> list[DraftStop]:
    """The stops with rests evenly between them."""
    if rests == 0:
        return stops
    share = sum(whole_s(stop.dose, stop.side) + MOVE_S for stop in stops) / (rests + 1)
    out: list[DraftStop] = []
    spent, given = 0.0, 0
    for stop in stops:
        if given < rests and spent >= share * (given + 1) and out:
            given += 1
            out.append(
                DraftStop(
                    key="rest",
                    kind="breathe",
                    id="rest",
                    side="midline",
                    position=out[-1].position,
                    dose=rest.dose,
                    level=1,
                    phase=out[-1].phase,
                    why=(rest.why,),
                )
            )
        spent += whole_s(stop.dose, stop.side) + MOVE_S
        out.append(stop)
    return out


def _keyed(stops: list[DraftStop]) -> list[DraftStop]:
    """Each stop with a key of its own: its id and a number."""
    counted: dict[str, int] = {}
    keyed = []
    for stop in stops:
        counted[stop.id] = counted.get(stop.id, 0) + 1
        keyed.append(stop.model_copy(update={"key": f"{stop.id}-{counted[stop.id]}"}))
    return keyed


def _notes(request: ComposeRequest, school: School, knowledge: Knowledge) -> tuple[str, ...]:
    """What is known of the complaints that belongs beside the score."""
    notes = []
    for complaint in request.complaints:
        kind = knowledge.complaint(complaint.id)
        if kind.stop_if:
            notes.append(f"{kind.name}: stop and refer at {'; '.join(kind.stop_if)}.")
        if kind.checked:
            notes.append(f"{kind.name}: {kind.checked}")
    notes.append(f"A sore spot in {school.name.lower()}: {school.sore_spot.words}")
    return tuple(notes)
