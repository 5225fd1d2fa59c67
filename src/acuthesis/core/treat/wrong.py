"""Something is wrong at the table: a decision table, one question at a time, until it is clear what to do."""

from functools import lru_cache
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.data_file import read
from acuthesis.core.errors import UnknownId
from acuthesis.core.message import message
from acuthesis.core.safety.first_aid import Help, needs
from acuthesis.core.treat.events import DATA

YesNo = Literal["yes", "no"]


class YesNoQuestion(BaseModel):
    """A question with where yes and no lead: to another question, or to an outcome."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    ask: str
    yes: str
    no: str
    pregnant: bool = False  # asked only of somebody who is pregnant or might be


class Instruction(BaseModel):
    """What to do now: in sentences, with the position this person needs (`lay`), and what is said on the phone."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    title: str
    do: tuple[str, ...] = Field(min_length=1)
    lay: str
    call: bool
    phone: tuple[str, ...]
    then: Literal["stop", "leave", "go_on"]


LAY = "{lay}"  # in a line of `do`: how this person is laid


class Tree(BaseModel):
    """The whole of wrong.yaml."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    first: str
    questions: dict[str, YesNoQuestion]
    outcomes: dict[str, Instruction]


@lru_cache
def tree() -> Tree:
    """The questions and outcomes. Raises: UnknownId where an answer leads nowhere, or a position is not known.

    >>> len(tree().questions) > 3
    True
    """
    found = Tree.model_validate(read(DATA / "wrong.yaml"))
    ends = {*found.questions, *found.outcomes}
    for to in (found.first, *(to for question in found.questions.values() for to in (question.yes, question.no))):
        if to not in ends:
            raise UnknownId(message("wrong-wrong-yaml-leads-which-neither", to=to), where=to)
    for id, outcome in found.outcomes.items():
        if outcome.lay and outcome.lay not in needs():
            raise UnknownId(message("wrong-lays-person-which-not-known", id=id, lay=outcome.lay), where=id)
        if bool(outcome.lay) != any(LAY in line for line in outcome.do):
            raise UnknownId(message("wrong-does-not-say-when-person", id=id), where=id)
    return found


def after(step: str, answer: YesNo, helped: Help) -> str:
    """Where an answer leads, past questions that this person is not asked. Raises: UnknownId for no such question."""
    known = tree()
    if step not in known.questions:
        raise UnknownId(message("wrong-not-asked-when-something-wrong", step=step), where=step)
    to = known.questions[step].yes if answer == "yes" else known.questions[step].no
    while to in known.questions and known.questions[to].pregnant and not helped.pregnant:
        to = known.questions[to].no
    return to


def said(outcome: Instruction, helped: Help) -> str:
    """An outcome in one line, for the record and for who cannot look: its title, and what to do, in order."""
    lay = helped.lay[outcome.lay] if outcome.lay else ""
    return " ".join((f"{outcome.title}.", *(line.replace(LAY, lay) for line in outcome.do)))
