"""Explains a composition step by step: what each step made of the one before."""

from pydantic import BaseModel

from acuthesis.core.compose.choose.composer import compose, steps_of
from acuthesis.core.compose.choose.request import ComposeRequest
from acuthesis.core.compose.knowledge.layer import Knowledge, shipped
from acuthesis.core.compose.score.score import Objective
from acuthesis.core.safety.screening import Screening


class Explained(BaseModel):
    """The steps of one composition. Seconds are seconds, benefits units of benefit (weights.yaml)."""

    brief: dict[str, object]
    wishes: dict[str, dict[str, object]]  # by id
    cores: list[dict[str, object]]
    candidates: dict[str, list[dict[str, object]]]  # ways by id
    refused: dict[str, str]  # what did not become a candidate, and why
    chosen: list[dict[str, object]]
    order: list[str]
    left_out: dict[str, str]
    objective: Objective


def explained(request: ComposeRequest, screening: Screening, knowledge: Knowledge | None = None) -> Explained:
    """What each step made of a request. Raises: what `compose` raises; NotAllowed never, where screening says no the
    steps are empty.
    """
    score = compose(request, screening, knowledge)
    if score.decision != "ok":
        reasons = {row.rule: row.text for row in score.reasons}
        return Explained(
            brief={"decision": score.decision},
            wishes={},
            cores=[],
            candidates={},
            refused=reasons,
            chosen=[],
            order=[],
            left_out={},
            objective=score.objective,
        )
    made = steps_of(request, screening, knowledge or shipped())
    brief = made.brief
    return Explained(
        brief={
            "complaints": [complaint.id for complaint in brief.request.complaints],
            "another day": [one.id for one in brief.another_day],
            "minutes": brief.request.slot_s / 60,
            "grounds": brief.grounds,
            "maximum points": brief.most_points,
            "points for this person": brief.takes_points,
            "maximum changes of position": brief.most_turns,
            "excluded positions": brief.blocked,
            "doses": brief.shortened,
            "for talking, settling in and closing": brief.frame.seconds,
        },
        wishes={
            id: {"role": wish.role, "side": wish.side, "benefits": wish.benefits, "why": wish.why}
            for id, wish in made.wishes.by_id.items()
        },
        cores=[
            {"complaint": core.complaint, "ids": core.ids, "worth": round(core.worth, 3)} for core in made.found.cores
        ],
        candidates={
            candidate.id: [
                {"side": way.side, "seconds": way.seconds, "level": way.level, "benefit": round(way.benefit, 2)}
                for way in candidate.ways
            ]
            for candidate in made.found.candidates
        },
        refused={row.id: row.reason for row in made.found.left_out},
        chosen=[
            {"id": choice.candidate.id, "way": choice.way, "position": choice.position, "stretch": choice.block}
            for choice in made.solution.chosen
        ],
        order=[f"{one.candidate.id} ({one.side}, {one.position})" for one in made.ordered.placed],
        left_out={row.id: row.reason for row in made.score.left_out},
        objective=made.score.objective,
    )
