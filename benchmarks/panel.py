"""Holds compositions against the reference cases of docs/guide/panel.yaml: what is met, what is broken, how they look.

Three ways of choosing are compared over the same cases: the best for its time first (greedy), the measure as it was
before there were cores (weights_before.yaml), and the composer.
"""

import sys
from collections import Counter
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from acuthesis.core.atlas.entries.catalogue import part_of
from acuthesis.core.compose.choose.brief import read_brief
from acuthesis.core.compose.choose.candidates import sieved
from acuthesis.core.compose.choose.composer import compose, problem_of
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.choose.solve import ChoiceProblem, Solution, solve
from acuthesis.core.compose.choose.wishes import wishes_of
from acuthesis.core.compose.knowledge.layer import shipped
from acuthesis.core.compose.knowledge.weights import Weights
from acuthesis.core.compose.score.score import PRESSED, Score
from acuthesis.core.data_file import read
from acuthesis.core.safety.screening import Screening, parse_screening
from acuthesis.settings import ROOT
from benchmarks.greedy import greedy_solution

PANEL = ROOT / "docs" / "guide" / "panel.yaml"
BEFORE = Path(__file__).parent / "weights_before.yaml"
Chosen = dict[str, str]  # id of a place: position


@dataclass
class Agreement:
    """How a composition agrees with a case: what of each list was met, of how many; what was wrong, in words."""

    met: Counter[str] = field(default_factory=Counter)
    of: Counter[str] = field(default_factory=Counter)
    wrong: list[str] = field(default_factory=list)

    def judge(self, kind: str, good: bool, words: str) -> None:
        """Count one thing that was wanted."""
        self.of[kind] += 1
        self.met[kind] += good
        if not good:
            self.wrong.append(f"{kind}: {words}")

    def __iadd__(self, other: "Agreement") -> "Agreement":
        self.met += other.met
        self.of += other.of
        return self

    def share(self, kind: str) -> float:
        """The share that was met, 1 where nothing was wanted."""
        return self.met[kind] / self.of[kind] if self.of[kind] else 1.0


# What everybody on the panel was asked, and denied.
ASKED = {"might_be_pregnant": False, "saddle_numbness": False}


def cases() -> list[dict[str, Any]]:
    """The reference cases as they are written."""
    return list(read(PANEL))


def asked(case: dict[str, Any]) -> tuple[ComposeRequest, Screening]:
    """What a case asks of the composer."""
    who = {**ASKED, **case.get("who", {})}
    age = who.pop("age", 45)
    named = {key: case[key] for key in ("school", "setting", "minutes") if key in case}
    request = ComposeRequest(complaints=[ComplaintNow(id=id) for id in case["for"]], **named)
    return request, parse_screening(who, age)


def agreement(case: dict[str, Any], ids: Iterable[str], score: Score | None) -> Agreement:
    """How the ids that are in, and the score where there is one, agree with a case."""
    found, there = Agreement(), set(ids)
    for kind in ("must", "should"):
        for wanted in case.get(kind, ()):
            found.judge(kind, bool(there & set(wanted.split("|"))), wanted)
    for unwanted in case.get("not", ()):
        found.judge("not", unwanted not in there, unwanted)
    places = sum(id in {stop.id for stop in score.stops if stop.kind in PRESSED} for id in there) if score else None
    if score is not None and places is not None:
        fewest, most = case["points"]
        found.judge("shape", fewest <= places <= most, f"{places} places instead of {fewest} to {most}")
        _shape(case, score, found)
    return found


def _shape(case: dict[str, Any], score: Score, found: Agreement) -> None:
    pressed = [stop for stop in score.stops if stop.kind in PRESSED]
    used = {stop.position for stop in score.stops}
    for position in case.get("never", ()):
        found.judge("not", position not in used, position)
    if "turns" in case:
        turns = score.objective.position_changes
        found.judge("shape", turns <= case["turns"], f"{turns} turns instead of {case['turns']}")
    for end, stop in (("first", pressed[0]), ("last", pressed[-1])):
        if end in case:
            names = {stop.id, *(shipped().find(stop.id).site, _part(stop.id))}
            found.judge("shape", bool(names & set(case[end])), f"{end} is {stop.id}")


def _part(id: str) -> str:
    return part_of(shipped().find(id))


def judged(case: dict[str, Any]) -> tuple[Agreement, Score]:
    """The composer's own agreement with a case, and its score."""
    score = compose(*asked(case))
    return agreement(case, (stop.id for stop in score.stops), score), score


def _problem(case: dict[str, Any]) -> ChoiceProblem:
    request, screening = asked(case)
    brief = read_brief(request, screening, shipped())
    wishes = wishes_of(brief)
    return problem_of(brief, wishes, sieved(wishes, brief))


def _before(problem: ChoiceProblem) -> Solution | None:
    """What would have been chosen before there were cores."""
    table = Weights.model_validate(read(BEFORE))
    most = max(problem.school.most_points, problem.most_points)
    return solve(replace(problem, cores=(), weights=table, most_points=most, most_turns=None))


def main() -> int:
    """Print the table of agreement, fitted half and held-back half, and every case that is not wholly met."""
    ways: dict[str, Callable[[ChoiceProblem], Solution | None]] = {"greedy": greedy_solution, "before": _before}
    rows: dict[str, dict[bool, Agreement]] = {
        name: {True: Agreement(), False: Agreement()} for name in (*ways, "composer")
    }
    places: dict[str, list[float]] = {name: [] for name in rows}
    for case in cases():
        held = "held" in case
        mine, score = judged(case)
        rows["composer"][held] += mine
        places["composer"].append(len({stop.id for stop in score.stops if stop.kind in PRESSED}))
        for line in mine.wrong:
            print(f"  {case['name']}: {line}")
        problem = _problem(case)
        for name, way in ways.items():
            solution = way(problem)
            chosen = [choice.candidate for choice in solution.chosen] if solution else []
            found = agreement(case, (choice.id for choice in chosen), None)
            number = sum(choice.pressed for choice in chosen)
            found.judge("shape", case["points"][0] <= number <= case["points"][1], "")
            rows[name][held] += found
            places[name].append(number)
    print(f"\n{'':10} {'half':9} {'must':>9} {'not':>7} {'should':>9} {'shape':>8}   places")
    for name, halves in rows.items():
        for held, found in halves.items():
            cells = [f"{found.met[kind]}/{found.of[kind]}" for kind in ("must", "not", "should", "shape")]
            mean = sum(places[name]) / len(places[name])
            half = "held back" if held else "fitted"
            print(f"{name:10} {half:9} {cells[0]:>9} {cells[1]:>7} {cells[2]:>9} {cells[3]:>8}   {mean:.1f}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
