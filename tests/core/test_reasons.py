"""What is said is so: every reason that can be checked is read against the facts, whoever comes for whatever."""

import re

from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.atlas.entries.catalogue import entry
from acuthesis.core.compose.choose.composer import steps_of
from acuthesis.core.compose.choose.request import ComposeRequest
from acuthesis.core.compose.knowledge.complaint_sites import lies_there
from acuthesis.core.compose.knowledge.complaints import complaint_kinds
from acuthesis.core.compose.knowledge.dose import duration_s
from acuthesis.core.compose.knowledge.layer import shipped
from acuthesis.core.compose.knowledge.technique import techniques
from acuthesis.core.compose.score.score import MOVE_S, PRESSED, TURN_S
from acuthesis.core.errors import CoreError
from acuthesis.core.safety.screening import parse_screening
from acuthesis.core.safety.verdict import verdict
from tests.tiers import examples

from .test_compose import requests
from .test_safety import context_answers


def steps(request: ComposeRequest, answers, age):
    screening = parse_screening(answers, age)
    if verdict(screening).decision != "ok":
        return None
    try:
        return steps_of(request, screening, shipped())
    except CoreError:
        return None


@examples(80)
@given(requests(), context_answers(), st.integers(18, 90))
def test_a_stop_says_what_is_so(request, answers, age):
    made = steps(request, answers, age)
    if made is None:
        return
    added = made.filled.chosen
    chosen = {(one.candidate.id, one.candidate.phase): one.candidate.ways[one.way] for one in added}
    phases = {phase.id: number for number, phase in enumerate(made.brief.school.phases)}
    inside = {one.candidate.id for one in made.solution.chosen}
    sides = {one.id: one.side for one in request.complaints}
    core = {id for seat in made.wishes.cores for id in seat.ids}
    complete = all(id in inside for seat in made.found.cores for id in seat.ids)
    for stop in made.score.stops:
        said = " ".join(stop.why)
        if "both sides together" in f"{said} {stop.dose_words}":
            assert stop.side == "both" and stop.dose.together
        if (stop.id, phases.get(stop.phase)) not in chosen:
            continue
        way = chosen[stop.id, phases[stop.phase]]
        assert not ("Longer than usual" in said and "Shorter" in said)
        if "Longer than usual" in said:
            assert way.length > 1 and complete, "nothing is held longer while a core place is out"
        if "Shorter than usual" in said:
            assert way.length < 1
        for side in ("left", "right"):
            if f"On the {side}, the side of the complaint" in said:
                assert stop.side == side and side in sides.values()
            if crossed := re.search(rf"On the {side}, which answers the (left|right) side of the head", said):
                assert stop.side == side and {side, crossed[1]} == {"left", "right"}
                assert entry(stop.id).crossed and (not sides or crossed[1] in sides.values())
            if f"On the {side}, opposite the complaint" in said:
                assert stop.side == side and sides and side not in sides.values()
        assert bool(stop.core_of) == (stop.id in core and stop.round == "chosen")
        if stop.kind in PRESSED:
            for line in stop.why:
                named = [id for id in sides if line.startswith(f"{complaint_kinds()[id].name}: local point")]
                assert all(lies_there(entry(stop.id), id) for id in named), line
        level = re.search(r"Level (\d) instead of (\d)", said)
        assert level is None or (int(level[1]) == stop.level < int(level[2]))


@examples(80)
@given(requests(), context_answers(), st.integers(18, 90))
def test_what_keeps_something_out_does(request, answers, age):
    made = steps(request, answers, age)
    if made is None:
        return
    problem, solution, brief = made.problem, made.solution, made.brief
    chosen = [(one.candidate, one.candidate.ways[one.way]) for one in solution.chosen]
    inside = {one.id for one, _ in chosen}
    pressed = [one for one, _ in chosen if one.pressed]
    positions = {one.position for one in solution.chosen}
    stretches = {(one.block, one.position) for one in solution.chosen}
    candidates = {one.id: one for one in problem.candidates}
    work = sum(way.seconds + MOVE_S * way.stops for _, way in chosen) + (len(stretches) - 1) * (TURN_S - MOVE_S)
    for row in made.score.left_out:
        assert row.id not in inside or row.severity == "refuse", "one side may be refused and the other done"
        if row.id not in candidates or row.id in inside:
            continue
        one = candidates[row.id]
        shortest = min(way.seconds + MOVE_S * way.stops for way in one.ways)
        if "another change of position" in row.reason:
            assert not positions & set(one.positions)
        if row.rule == "turn":
            assert len(stretches) - 1 < brief.most_turns
        if row.rule == "time":
            free = problem.budget_s - solution.rests * problem.rest_s - solution.look_s - MOVE_S - problem.talk_turn_s
            assert work + shortest > free - 12 * problem.ground_s
        if row.rule in ("most", "size") and (number := re.match(r"(\d+) points are enough", row.reason)):
            assert int(number[1]) == len(pressed) >= min(problem.most_points, problem.takes_points or 99)
        if row.rule == "load":
            spent = sum(duration_s(way.dose) for other, way in chosen if other.site == one.site and other.pressed)
            most = problem.school.load.sites.get(one.site, problem.school.load.site_s) * problem.shortened
            assert spent + min(duration_s(way.dose) for way in one.ways) > most
        if row.rule == "enough":
            assert any(one.roles[id] == other.roles.get(id) for other in pressed for id in one.roles)
        if row.rule == "ground":
            assert not one.grounds & {ground for other in pressed for ground in other.grounds}
    rows = [bool(row.core_of) for row in made.score.left_out]
    assert rows == sorted(rows, reverse=True), "what should have come in is said first"


@examples(60)
@given(requests(), context_answers(), st.integers(18, 90))
def test_what_a_complaint_gets_it_gets(request, answers, age):
    made = steps(request, answers, age)
    if made is None:
        return
    stops = {stop.id for stop in made.score.stops if stop.kind in PRESSED}
    for row in made.score.coverage:
        kind = complaint_kinds()[row.complaint]
        uses = [use for use in kind.uses if use.id in stops]
        if row.local and set(made.brief.grounds) == {"points"}:
            assert any(lies_there(entry(use.id), kind.id) is not False for use in uses if use.role != "calm")
        assert set(row.core) <= stops | set(techniques()) and not set(row.core_out) & stops
        assert (row.local and row.far and row.calm) or row.missing
    left = re.search(r"(\d+) minutes are left", " ".join(made.score.notes))
    if left:
        assert abs(int(left[1]) * 60 - (made.brief.asked_s - made.score.total_s)) <= 31
