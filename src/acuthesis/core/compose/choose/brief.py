"""The request, parsed once: everything that the steps of composing need, in one value.

What is asked for meets here what the person takes and what the minutes hold: complaints that there is time for, points
and turns at most, positions that are out, how much each ground counts.
"""

from dataclasses import dataclass

from acuthesis.core.atlas.entries.model import Position
from acuthesis.core.compose.choose.frame import Frame, frame_of, look_share
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.knowledge.complaints import PointSource
from acuthesis.core.compose.knowledge.dose import DoseDefault
from acuthesis.core.compose.knowledge.layer import Knowledge
from acuthesis.core.compose.knowledge.school import School
from acuthesis.core.compose.knowledge.technique import techniques
from acuthesis.core.compose.knowledge.weights import modifiers, weights
from acuthesis.core.errors import NotAllowed
from acuthesis.core.message import message
from acuthesis.core.safety.limits import Limits, complaints_out, limits_for, positions_out
from acuthesis.core.safety.screening import Screening, questions
from acuthesis.core.safety.size import Capacity, capacity
from acuthesis.core.safety.standing import holds

MOST_TURNS = 5
ONE_POSITION = "{minutes:g} minutes allow one position only."
FEW_TURNS = "{minutes:g} minutes allow at most {turns}."


@dataclass(frozen=True)
class Brief:
    """What is composed for.

    `request` holds the complaints that there is time for and the minutes that this person takes; `asked_s` the seconds
    that were asked for; `another_day` the complaints that wait; `shortened` by what factor doses are, with its reason
    in `shortened_why`; `look_share` what of the pressing time second looks get; `most_points` what school and minutes
    leave, `takes_points` what the person takes whatever those say; `most_turns` what is left of turns, `turns_why` by
    which of them; `grounding` what holds for the school's grounding press, None where there is none, or a rule
    refuses it; `reclined` whether the person lies half reclined rather than flat on the back.
    """

    request: ComposeRequest
    asked_s: float
    another_day: tuple[ComplaintNow, ...]
    screening: Screening
    knowledge: Knowledge
    school: School
    takes: Capacity
    grounds: dict[PointSource, float]
    blocked: dict[Position, str]
    alone: bool
    shortened: float
    shortened_why: str
    look_share: float
    most_points: int
    takes_points: int | None
    most_turns: int
    turns_why: str
    frame: Frame
    grounding: Limits | None
    reclined: bool

    @property
    def doses(self) -> dict[str, DoseDefault]:
        """The named doses of the practice."""
        return self.knowledge.doses

    def extra(self, grounds: set[PointSource]) -> bool:
        """Whether what is wanted on these grounds comes only from a school that was mixed in."""
        mixed = {ground for other in self.request.also for ground in self.knowledge.school(other).draws}
        draws = self.school.draws
        own = {max(draws, key=lambda ground: draws[ground])} if self.school.one_ground else set(draws)
        return bool(grounds) and grounds <= mixed - own


def read_brief(request: ComposeRequest, screening: Screening, knowledge: Knowledge) -> Brief:
    """The brief of a request that was checked. Raises: NotAllowed for a complaint that is not worked on here."""
    _are_offered(request, screening, knowledge)
    school = knowledge.school(request.school)
    takes = capacity(screening)
    asked_s = request.slot_s
    fitted = request.within_minutes(takes.minutes)
    minutes = fitted.slot_s / 60
    # A treatment that has begun was sized when it was planned: what is left of it is not a short session of its own.
    sized = max(minutes, request.minutes) if request.begun else minutes
    now, later = _in_time(fitted, sized)
    fitted = fitted.model_copy(update={"complaints": now})
    speaking = [modifier for modifier in modifiers() if holds(modifier.when, screening)]
    shortest = min(speaking, key=lambda one: one.factor, default=None)
    done = len({one.id for one in fitted.done} - set(techniques()))
    turns, turns_why = _turns(minutes, takes, pinned=bool(fitted.pinned))
    return Brief(
        request=fitted,
        asked_s=asked_s,
        another_day=later,
        screening=screening,
        knowledge=knowledge,
        school=school,
        takes=takes,
        grounds=_grounds(school, fitted, knowledge),
        blocked=_blocked(fitted, screening, knowledge),
        alone=school.alone or fitted.setting == "self_care",
        shortened=shortest.factor if shortest else 1.0,
        shortened_why=shortest.why if shortest and shortest.factor < 1 else "",
        look_share=look_share(fitted, school, wanted=all(one.second_look for one in speaking)),
        most_points=max(weights().points_for(school.most_points, sized, len(now)) - done, 0),
        takes_points=None if takes.points is None else max(takes.points - done, 0),
        most_turns=turns,
        turns_why=turns_why,
        frame=frame_of(fitted, school, knowledge.doses),
        grounding=_grounding(school, screening, knowledge),
        reclined=school.half_reclined or any(modifier.reclined for modifier in speaking),
    )


def _grounding(school: School, screening: Screening, knowledge: Knowledge) -> Limits | None:
    if school.ground is None:
        return None
    found = limits_for(knowledge.find(school.ground.id), "both", screening)
    return None if found.refused or found.one_side else found


def _blocked(request: ComposeRequest, screening: Screening, knowledge: Knowledge) -> dict[Position, str]:
    """Positions that are out, with the reason that weighs most: the person's, the complaints', the practitioner's."""
    excluded = dict.fromkeys(request.positions_excluded, "This position was excluded.")
    for complaint in request.complaints:
        excluded |= knowledge.complaint(complaint.id).not_in
    return excluded | positions_out(screening)


def _are_offered(request: ComposeRequest, screening: Screening, knowledge: Knowledge) -> None:
    out = complaints_out(screening)
    for complaint in request.complaints:
        if complaint.id in out:
            raise NotAllowed(
                message("brief-complaint-refused", name=knowledge.name_of(complaint.id), reason=out[complaint.id]),
                where="complaints",
            )
        for id in knowledge.complaint(complaint.id).needs:
            if screening.answer(id) is None:
                asked = questions()[id].ask
                raise NotAllowed(
                    message("brief-answer-first", name_of=knowledge.name_of(complaint.id), asked=asked),
                    where="complaints",
                )


def _in_time(request: ComposeRequest, minutes: float) -> tuple[list[ComplaintNow], tuple[ComplaintNow, ...]]:
    """The complaints that the minutes are enough for, the worst of them, as they were named; and the others."""
    number = weights().complaints_for(minutes)
    worst = sorted(request.complaints, key=lambda one: -one.rating)[:number]
    now = [complaint for complaint in request.complaints if complaint in worst]
    return now, tuple(complaint for complaint in request.complaints if complaint not in worst)


def _turns(minutes: float, takes: Capacity, *, pinned: bool) -> tuple[int, str]:
    # What is pinned may need more turns than the minutes would have; than the person takes, never.
    turns = MOST_TURNS if pinned else weights().turns_for(minutes)
    if takes.turns is not None and takes.turns <= turns:
        return takes.turns, takes.reasons["turns"]
    if turns == 0:
        return 0, ONE_POSITION.format(minutes=round(minutes, 1))
    return turns, FEW_TURNS.format(
        minutes=round(minutes, 1), turns={1: "once", 2: "twice"}.get(turns, f"{turns} changes of position")
    )


def _grounds(school: School, request: ComposeRequest, knowledge: Knowledge) -> dict[PointSource, float]:
    """How much each ground counts: the school's own, and what others bring in."""
    table = dict(school.draws)
    for other in request.also:
        for ground, share in knowledge.school(other).draws.items():
            table[ground] = max(table.get(ground, 0.0), share * weights().mixed)
    return table
