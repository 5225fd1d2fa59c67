"""Simulated people: answers, ages, builds and wishes drawn with a seed, more varied than a practice sees."""

import random
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from acuthesis.core.body.person import Sex
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.knowledge.complaints import complaint_kinds
from acuthesis.core.compose.knowledge.school import schools
from acuthesis.core.safety.screening import Painted, Question, questions

AGREED = ("deep_pressure_agreed", "lymph_light_agreed", "close_places_agreed")
PLACES = ("knee_front", "calf", "low_back", "shoulder_joint", "chest")
LESS_USUAL = ("lower_belly", "groin", "hand_back", "sole", "nape")
BRUSH = 60  # vertices of a painted place


@dataclass(frozen=True)
class SimulatedPerson:
    """One person with what they come for. `answers` in the open form of the screening; `build` the name of a figure."""

    answers: dict[str, Any]
    age: int
    sex: Sex
    build: str
    request: ComposeRequest


def drawn_people(count: int, seed: int, builds: Sequence[str], skin: int) -> list[SimulatedPerson]:
    """So many people; the same seed draws the same.

    Parameters: builds, names of figures to choose from; skin, how many vertices a figure has, for painted places.
    """
    dice = random.Random(seed)
    return [_drawn(dice, builds, skin) for _ in range(count)]


def _drawn(dice: random.Random, builds: Sequence[str], skin: int) -> SimulatedPerson:
    asked = [
        question for question in questions().values() if question.severity == "context" and question.id not in AGREED
    ]
    # Most people have little to tell; a few have much.
    told = dice.sample(asked, dice.choice([0, 1, 1, 2, 2, 3, 4, 6]))
    answers = {one.id: _answer(one, dice, skin) for one in told}
    # What a doctor looks at is mostly cleared: otherwise hardly anybody could be treated.
    answers["cleared"] = [
        id for id in ("recent_surgery", "aneurysm", "pregnancy_late", "child_without_consent") if dice.random() < 0.9
    ]
    answers |= {id: True for id in AGREED[2:] if dice.random() < 0.3}
    # Questions that wait for a no have mostly been asked.
    answers |= {one.id: False for one in questions().values() if one.explicit and dice.random() < 0.8} | {
        one.id: answers[one.id] for one in told
    }
    age = dice.choice([0, 1, 3, 5, 9, 14, *range(17, 80, 3), 77, 81, 84, 88, 93, 107])
    sex: Sex = dice.choice(["female", "female", "male", "unspecified"])
    kinds = dice.sample(sorted(complaint_kinds()), dice.choice([1, 1, 2, 3]))
    request = ComposeRequest(
        complaints=[
            ComplaintNow(id=kind, rating=dice.randint(1, 10), side=dice.choice(["left", "right", "both", "both"]))
            for kind in kinds
        ],
        minutes=dice.choice([4, 8, 15, 20, 25, 30, 40, 40, 50, 60, 75]),
        school=dice.choice(sorted(schools())),
        setting=dice.choice(["practice", "practice", "practice", "self_care"]),
        positions_excluded=dice.sample(["prone", "supine", "seated"], dice.choice([0, 0, 0, 1])),
    )
    return SimulatedPerson(answers, age, sex, dice.choice(list(builds)), request)


def _answer(question: Question, dice: random.Random, skin: int) -> Any:
    match question.kind:
        case "weeks" | "number":
            return dice.randint(question.low, question.high)
        case "choice":
            return dice.choice(question.choices).id
        case "side":
            return dice.choice(["left", "right", "both"])
        case "lying":
            return dice.sample(["prone", "supine", "left_side", "right_side"], dice.choice([1, 2]))
        case "reading":
            return list(dice.choice([(118, 76), (146, 88), (165, 100), (79, 44)]))
        case "places":
            if dice.random() < 0.1:
                return True  # and nobody said where
            if dice.random() < 0.5:
                first = dice.randrange(skin - BRUSH)
                return [Painted(skin=tuple(range(first, first + BRUSH))).model_dump()]
            return [f"{dice.choice(PLACES + LESS_USUAL)}{dice.choice(['', '.left', '.right'])}"]
    return True
