"""Last step: the reasons. What each complaint gets, which core places had to stay out, and for everything else that was
left out, why.
"""

from collections.abc import Iterator, Sequence

from acuthesis.core.compose.choose.brief import Brief
from acuthesis.core.compose.choose.candidates import Candidate, Sieved, Way
from acuthesis.core.compose.choose.filling import taken_s
from acuthesis.core.compose.choose.solve import ChoiceProblem, Solution
from acuthesis.core.compose.knowledge.complaints import GROUND_WORDS, ROLE_WORDS
from acuthesis.core.compose.knowledge.dose import duration_s
from acuthesis.core.compose.knowledge.weights import CoverKind
from acuthesis.core.compose.score.score import MOVE_S, PRESSED, TURN_S, Coverage, LeftOut, Stop, total_s
from acuthesis.core.errors import CoreError
from acuthesis.core.message import message
from acuthesis.core.safety.limits import notes_for
from acuthesis.core.words import POSITION_WORDS, either

LEFT_S = 90  # what is left of the minutes is said from here on
MANY_COMPLAINTS = 3
AGE_UNKNOWN = "Age not recorded. Age limits (children, over 75) cannot be applied; treat gently until it is entered."
COVER_WORDS: dict[CoverKind, str] = {"local": "a local point", "far": "a distal point", "calm": "a calming point"}


def minutes_words(seconds: float) -> str:
    """A time as people say it: half minutes from one minute on, else seconds.

    >>> minutes_words(40), minutes_words(95)
    ('40 s', '1.6 min')
    """
    return f"{seconds:.0f} s" if seconds < 60 else f"{seconds / 60:.1f} min"


# --- what is not in ---


def _needs(way: Way) -> float:
    return way.seconds + MOVE_S * way.stops


class _Taken:
    """What a solution takes, for saying what is left of it."""

    def __init__(self, problem: ChoiceProblem, solution: Solution, brief: Brief) -> None:
        self.problem, self.solution, self.brief = problem, solution, brief
        chosen = [(choice.candidate, choice.candidate.ways[choice.way]) for choice in solution.chosen]
        self.inside = {one.id for one, _ in chosen}
        self.positions = {choice.position for choice in solution.chosen}
        self.turns = len({(choice.block, choice.position) for choice in solution.chosen}) - 1
        self.points = [one for one, _ in chosen if one.pressed]
        self.warm = sum(one.role == "warm" for one, _ in chosen)
        self.grounds = {
            ground for point in self.points if not point.extra and not point.pinned for ground in point.grounds
        }
        self.loads: dict[str, float] = {}
        for one, way in chosen:
            if one.pressed:
                self.loads[one.site] = self.loads.get(one.site, 0.0) + duration_s(way.dose)
        self.spare_s = problem.budget_s - taken_s(problem, solution, solution.chosen)

    def same(self, candidate: Candidate) -> tuple[str, int]:
        """The complaint that it is wanted for most, and how many places with its role there are in for that."""
        if not candidate.benefits:
            return "", 0
        complaint = max(candidate.benefits, key=lambda id: candidate.benefits[id])
        role = candidate.roles.get(complaint, candidate.role)
        return complaint, sum(point.roles.get(complaint) == role for point in self.points)


def what_was_left(problem: ChoiceProblem, solution: Solution, brief: Brief) -> Iterator[LeftOut]:
    """A line for each candidate that was not chosen, with what keeps it out; those of a core first."""
    taken = _Taken(problem, solution, brief)
    out = [one for one in problem.candidates if one.id not in taken.inside]
    for candidate in sorted(out, key=lambda one: not one.core_of):
        rule, reason, needs = _obstacle(candidate, taken)
        yield LeftOut(
            id=candidate.id,
            name=candidate.name,
            side=candidate.best.side,
            reason=reason,
            rule=rule,
            severity="note",
            core_of=candidate.core_of,
            needs_s=needs,
        )


def _obstacle(candidate: Candidate, taken: _Taken) -> tuple[str, str, float | None]:
    """What keeps it out: a rule's name, the words, and the seconds that it would take where those are in the way."""
    problem, brief = taken.problem, taken.brief
    number = len(taken.points)
    if candidate.pressed:
        most = problem.school.load.sites.get(candidate.site, problem.school.load.site_s) * problem.shortened
        if taken.loads.get(candidate.site, 0.0) + min(duration_s(way.dose) for way in candidate.ways) > most:
            return (
                "load",
                (f"This part of the body already has enough; {minutes_words(most)} is the most in one session."),
                None,
            )
        if problem.takes_points is not None and number >= problem.takes_points:
            return (
                "size",
                f"{number} points are the limit for this person in one session; higher-priority points are in.",
                None,
            )
        if number >= problem.most_points:
            return "most", f"{number} points are enough for one session; the ones included add more.", None
        own = set(problem.school.draws)
        if problem.school.one_ground and not candidate.extra and not candidate.grounds & taken.grounds & own:
            keeps = " and ".join(sorted(GROUND_WORDS[ground] for ground in taken.grounds & own))
            if keeps:
                return "ground", f"This session uses {keeps} only. Mix in another approach to include it.", None
    elif candidate.role == "warm" and taken.warm >= problem.school.most_warm:
        return "most", "There are enough strokes before the pressing; the ones included fit better.", None
    shortest = min(_needs(way) for way in candidate.ways)
    here = [position for position in candidate.positions if position in taken.positions]
    if here and all(position in way.under for position in here for way in candidate.ways):
        return "position", f"They are lying on it ({POSITION_WORDS[here[0]]}).", None
    if not taken.positions & set(candidate.positions):
        if problem.most_turns is not None and taken.turns >= problem.most_turns:
            return "size", f"Needs another change of position. {brief.turns_why}", None
        needs = shortest + TURN_S - MOVE_S
        position = POSITION_WORDS[candidate.positions[0]]
        return "turn", f"Needs another change of position ({position}) and {minutes_words(needs)}.", needs
    if shortest > taken.spare_s:
        left = f"{minutes_words(max(taken.spare_s, 0))} left" if taken.spare_s >= 1 else "none left"
        return "time", f"Not enough time: needs {minutes_words(shortest)}, {left}.", shortest
    complaint, same = taken.same(candidate)
    if candidate.pressed and same:
        role = ROLE_WORDS[candidate.roles.get(complaint, candidate.role)]
        places = "one" if same == 1 else f"{same}"
        name = brief.knowledge.name_of(complaint).lower()
        return "enough", f"Already {places} ({role}) for {name}; another adds little.", None
    return "worth", "There is time, but one more point adds less than it costs to find and explain.", None


# --- what each complaint gets ---


def coverage_of(
    problem: ChoiceProblem, solution: Solution, brief: Brief, found: Sieved, left_out: Sequence[LeftOut]
) -> Iterator[Coverage]:
    """For each complaint what of its core is in, whether it gets something local, far and calming, and why not."""
    inside = {choice.candidate.id for choice in solution.chosen}
    refused = {(row.id, complaint) for row in left_out for complaint in row.core_of}
    for complaint in brief.request.complaints:
        begins = [candidate.id for candidate in problem.candidates if complaint.id in candidate.core_of]
        out = [id for id in begins if id not in inside]
        out += [id for id, named in refused if named == complaint.id and id not in inside and id not in begins]
        yield Coverage(
            complaint=complaint.id,
            name=brief.knowledge.name_of(complaint.id),
            core=tuple(id for id in begins if id in inside),
            core_out=tuple(sorted(out)),
            **_got(complaint.id, complaint.rating, problem, solution),
        )
    for complaint in brief.another_day:
        words = (
            f"{brief.request.slot_s / 60:.0f} minutes cover the {_number(len(brief.request.complaints))} "
            "highest-rated complaints."
        )
        yield Coverage(
            complaint=complaint.id,
            name=brief.knowledge.name_of(complaint.id),
            local=False,
            far=False,
            calm=False,
            missing=(f"Left for another day: {words}",),
        )


def _number(number: int) -> str:
    return {1: "one that is", 2: "two", 3: "three"}.get(number, str(number))


def _got(complaint: str, rating: float, problem: ChoiceProblem, solution: Solution) -> dict[str, object]:
    got = {kind for kind in COVER_WORDS if (complaint, kind) in problem.covered}
    could: set[CoverKind] = set()
    for candidate in problem.candidates:
        could |= candidate.covers.get(complaint, set())
    for chosen in solution.chosen:
        got |= chosen.candidate.covers.get(complaint, set())
    missing = []
    for kind, words in COVER_WORDS.items():
        if kind in got:
            continue
        if rating == 0:
            missing.append(f"Nothing for {words}, which is rated 0 today.")
        elif kind in could:
            missing.append(f"No {words}; see the reason below.")
        else:
            missing.append(f"{problem.school.name} has nothing more for {words} here.")
    return {**{kind: kind in got for kind in COVER_WORDS}, "missing": tuple(missing)}


# --- what is said beside the score ---


def notes_of(
    brief: Brief, problem: ChoiceProblem, solution: Solution, stops: Sequence[Stop], out: Sequence[LeftOut]
) -> Iterator[str]:
    """What belongs beside the score: first what should have come in and could not, then what is left of the minutes,
    what holds for this person, and what is known of the complaints.
    """
    for row in out:
        if row.core_of:
            names = " and ".join(brief.knowledge.name_of(id).lower() for id in row.core_of)
            yield f"{row.id} ({row.name}), a core point for {names}, is left out. {row.reason}"
    yield from _room(brief.asked_s - total_s(stops), brief, problem, solution)
    yield from notes_for(brief.screening)
    for complaint in brief.request.complaints:
        kind = brief.knowledge.complaint(complaint.id)
        if kind.stop_if:
            yield f"{kind.name}: stop and refer in case of {either(kind.stop_if)}."
        if kind.checked:
            yield f"{kind.name}: {kind.checked}"
    yield f"Sore spots in {brief.school.name.lower()}: {brief.school.sore_spot.words}"


def _room(spare_s: float, brief: Brief, problem: ChoiceProblem, solution: Solution) -> Iterator[str]:
    """The minutes to spare, with what leaves them: the person's size, or that more of this school adds little."""
    if spare_s < LEFT_S:
        return
    pressed = sum(choice.candidate.pressed for choice in solution.chosen)
    full = problem.takes_points is not None and pressed >= problem.takes_points
    fields = ["points"] if full else []
    fields += [field for field in ("minutes", "stay_min", "turns") if field in brief.takes.reasons]
    said = " ".join(dict.fromkeys(brief.takes.reasons[field] for field in fields))
    if brief.shortened_why:
        said = f"{said} {brief.shortened_why}".strip()
    if not said:
        said = f"More {brief.school.name.lower()} would add little today."
    yield f"{spare_s / 60:.0f} minutes to spare. {said}"


def asks_of(brief: Brief, stops: Sequence[Stop]) -> Iterator[str]:
    """What has to be asked before hands go on: the age where it is not known, consent for close places, and which
    complaints matter where there are many.
    """
    if brief.screening.age is None:
        yield AGE_UNKNOWN
    close = list(dict.fromkeys(_asked_for(stop) for stop in stops if stop.consent))
    if close and not brief.alone:  # nobody is asked for consent of oneself
        yield f"Ask first and note the answer: {', '.join(close)}."
    number = len(brief.request.complaints) + len(brief.another_day)
    if number > MANY_COMPLAINTS:
        yield f"{number} complaints: which three matter most today? Leave the others for another day."


def _asked_for(stop: Stop) -> str:
    return f"{stop.id} ({stop.name})" if stop.kind in PRESSED else stop.name.lower()


# --- what cannot be at all ---


def too_little(brief: Brief, candidates: Sequence[Candidate]) -> CoreError:
    """What to say where the time holds nothing, or not what was pinned: how much would, or what forbids it."""
    pinned = [candidate for candidate in candidates if candidate.pinned]
    points = [pin for pin in pinned if pin.pressed]
    if brief.takes_points is not None and len(points) > brief.takes_points:
        return CoreError(
            message("reasons-points-pinned-unpin-some", count=len(points), reasons=brief.takes.reasons["points"]),
            where="pinned",
        )
    wanted = pinned or [min(candidates, key=lambda one: min(_needs(way) for way in one.ways))]
    need = sum(min(_needs(way) for way in one.ways) for one in wanted) + brief.frame.seconds
    turns = TURN_S * max(len({one.positions[0] for one in wanted}) - 1, 0)
    minutes = (need + turns) / 60
    there = brief.request.slot_s / 60
    if pinned:
        names = ", ".join(pin.id for pin in pinned)
        if minutes > there:
            return CoreError(
                message("reasons-minutes-too-short-pinned-points", there=there, names=names, minutes=minutes),
                where="minutes",
            )
        parts = sorted({one.part.replace("_", " ") or "the body" for one in wanted})
        return CoreError(
            message("reasons-pinned-points-cannot-treated-together", names=names, parts=", ".join(parts)),
            where="pinned",
        )
    return CoreError(
        message(
            "reasons-minutes-too-short-talking-rating",
            there=there,
            minutes_words=minutes_words(brief.frame.seconds),
            minutes=minutes + 0.5,
        ),
        where="minutes",
    )
