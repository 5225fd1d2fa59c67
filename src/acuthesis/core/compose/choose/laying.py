"""Sixth step: from what was chosen and ordered to drafts of stops, with frame, grounding, rests and the second look in
their places.
"""

from collections.abc import Sequence
from itertools import pairwise

from acuthesis.core.atlas.entries.model import Position
from acuthesis.core.compose.choose.brief import Brief
from acuthesis.core.compose.choose.filling import Filled
from acuthesis.core.compose.choose.frame import FrameStop, second_look
from acuthesis.core.compose.choose.order import Ordered, OrderedStop
from acuthesis.core.compose.choose.solve import Solution
from acuthesis.core.compose.knowledge.dose import whole_s
from acuthesis.core.compose.knowledge.school import School
from acuthesis.core.compose.score.score import MOVE_S, TALKED_IN, DraftStop, default_level


def grounding_s(brief: Brief) -> float:
    """Seconds of the school's grounding press, the move to it included; 0 where it has none."""
    if brief.school.ground is None or brief.grounding is None:
        return 0.0
    dose = brief.doses[brief.school.ground.dose].dose.model_copy(update={"together": True})
    return whole_s(dose, "both") + MOVE_S


def drafts_of(ordered: Ordered, solution: Solution, whole: Filled, brief: Brief) -> list[DraftStop]:
    """The stops of a session from the first word to the last rating, each with a key of its own."""
    school, frame = brief.school, whole.frame
    work = _with_grounding(ordered.placed, brief)
    work = _unhurried(_with_rests(work, whole.rests, frame.rest), whole.unhurried_s)
    look = second_look(solution.look_s, school)
    after = frame.after if look is None else (look, *frame.after)
    talked = _talked_in([stop.position for stop in work], brief)
    before_in, after_in = work[0].position, work[-1].position
    return _keyed(
        [
            *(_moment(one, talked[0] if one.kind == "rate" else before_in, school) for one in frame.before),
            *work,
            *(_moment(one, talked[1] if one.kind == "rate" else after_in, school) for one in after),
        ]
    )


def _unhurried(stops: list[DraftStop], seconds: int) -> list[DraftStop]:
    """The stops with so many seconds more for each turn between them."""
    turned = [False, *(before.position != after.position for before, after in pairwise(stops))]
    return [
        stop.model_copy(update={"turn_s": seconds}) if turns else stop
        for stop, turns in zip(stops, turned, strict=True)
    ]


def _talked_in(positions: Sequence[Position], brief: Brief) -> tuple[Position, Position]:
    """Where the person is for the first talk and for the last: seated or face up, never face down or turned away, as
    far as they turn so often.
    """
    first, last = positions[0], positions[-1]
    up = next((one for one in TALKED_IN if one not in brief.blocked), None)
    if brief.alone or up is None:
        return first, last
    turns = sum(before != after for before, after in pairwise(positions))
    most = brief.takes.turns if brief.takes.turns is not None else turns + 2
    begins = not brief.request.begun and first not in TALKED_IN and turns < most
    turns += begins
    ends = last not in TALKED_IN and turns < most
    return up if begins else first, up if ends else last


def _moment(moment: FrameStop, position: Position, school: School) -> DraftStop:
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


def _stop(one: OrderedStop, school: School) -> DraftStop:
    candidate = one.candidate
    return DraftStop(
        key=candidate.id,
        kind=candidate.kind,
        id=candidate.id,
        side=one.side,
        position=one.position,
        dose=one.way.dose,
        level=one.way.level,
        phase=school.phases[one.phase].id,
        why=(*candidate.why, *one.way.why),
        first="left" if one.round.first == "left" else "right",
        core_of=candidate.core_of,
        round=candidate.round,
    )


def _with_grounding(placed: tuple[OrderedStop, ...], brief: Brief) -> list[DraftStop]:
    """The stops, with a grounding press after each phase that ends with one."""
    school = brief.school
    stops: list[DraftStop] = []
    for index, one in enumerate(placed):
        stops.append(_stop(one, school))
        ends = index + 1 == len(placed) or placed[index + 1].phase != one.phase
        if school.ground is not None and brief.grounding is not None and school.phases[one.phase].ground and ends:
            default = brief.doses[school.ground.dose]
            stops.append(
                DraftStop(
                    key=school.ground.id,
                    kind="area",
                    id=school.ground.id,
                    side="both",
                    position=one.position,
                    dose=default.dose.model_copy(update={"together": True}),
                    level=default_level(min(default.level, 2), brief.grounding.ceiling),
                    phase=school.phases[one.phase].id,
                    why=(school.ground.words,),
                )
            )
    return stops


def _with_rests(stops: list[DraftStop], rests: int, rest: FrameStop) -> list[DraftStop]:
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
