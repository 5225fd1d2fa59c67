"""Letter templates that a practice writes itself, in a small part of Jinja that can neither reach this machine nor keep
it busy.

A template is read into its parts first. Whatever is not on the list below is refused by name and line: no calls, no
macros, no arithmetic, nothing after a dot but what facts have, loops over what is given and no deeper than two.
"""

import re
from collections.abc import Iterator
from functools import lru_cache
from pathlib import Path
from typing import Any, Literal

from jinja2 import StrictUndefined, TemplateError, TemplateSyntaxError, meta, nodes
from jinja2.sandbox import ImmutableSandboxedEnvironment
from pydantic import BaseModel, ConfigDict

from acuthesis.core.errors import CoreError
from acuthesis.core.message import message

SHIPPED = Path(__file__).parent / "templates" / "letters"
PaperKind = Literal["doctor", "midwife", "summary"]
KINDS: dict[PaperKind, str] = {
    "doctor": "Letter to a doctor",
    "midwife": "Letter to a midwife",
    "summary": "Summary for the person",
}
RESERVED = ("self", "super", "caller", "varargs", "kwargs")  # names that Jinja itself knows
LONGEST = 12_000  # of a template, in letters
LONGEST_TEXT = 60_000
DEEPEST_LOOP = 2
FILTERS = ("join", "lower", "upper", "capitalize", "title", "length", "first", "last", "trim")
MAY: tuple[type[nodes.Node], ...] = (
    nodes.Template, nodes.Output, nodes.TemplateData, nodes.Name, nodes.Getattr, nodes.Const, nodes.For, nodes.If,
    nodes.Filter, nodes.Not, nodes.And, nodes.Or, nodes.Compare, nodes.Operand, nodes.CondExpr, nodes.Concat,
)  # fmt: skip
# Lines of tags alone leave no line in the letter; others keep theirs, so that paragraphs stay apart.
TAGS_ALONE = re.compile(r"(?m)^[ \t]*((?:\{%[^%\n]*%\}[ \t]*)+)\n")
# What a letter must not say: nobody here diagnoses or promises.
DOUBTFUL = ("diagnos", "cure", "heal", "guarantee", "detox", "side-effect-free")
NOT_A_DIAGNOSIS = ("no diagnosis", "not a diagnosis")


class LetterComplaint(BaseModel):
    """What somebody came with."""

    model_config = ConfigDict(frozen=True)

    name: str
    since: str
    acts: tuple[str, ...]


class LetterCourse(BaseModel):
    """How it went with a complaint: the finding, how long sessions last, episodes; `figure` marks where it is drawn."""

    model_config = ConfigDict(frozen=True)

    name: str
    sentence: str
    lasts: str
    episodes: str
    figure: str


class LetterFacts(BaseModel):
    """Everything a letter may tell, in words; days as they are written."""

    model_config = ConfigDict(frozen=True)

    today: str
    practice: str
    writer: str
    recipient: str
    address: str
    person: str
    given_name: str
    born: str
    consent_on: str
    asked_of_you: str
    note: str
    complaints: tuple[LetterComplaint, ...]
    screened_on: str
    screening: tuple[str, ...]
    sessions: str
    ways: tuple[str, ...]
    places: tuple[str, ...]
    pressure: str
    home: tuple[str, ...]
    courses: tuple[LetterCourse, ...]
    noticed: tuple[str, ...]
    words: str


# What a loop may go over: the lists among the facts, and the one that a complaint has.
LISTS = (
    *(name for name, field in LetterFacts.model_fields.items() if str(field.annotation).startswith("tuple")),
    "acts",
)
PARTS = (*LetterComplaint.model_fields, *LetterCourse.model_fields, "first", "last", "index")  # after a dot


@lru_cache
def _sandbox() -> ImmutableSandboxedEnvironment:
    made = ImmutableSandboxedEnvironment(undefined=StrictUndefined, keep_trailing_newline=True)
    made.globals.clear()
    made.filters = {name: made.filters[name] for name in FILTERS}
    return made


@lru_cache
def shipped(kind: str) -> str:
    """The words that come with the application."""
    return (SHIPPED / f"{kind}.txt").read_text(encoding="utf-8")


def check(body: str) -> None:
    """Raises: CoreError saying what a template must not hold, and in which line; or which name there is not."""
    if len(body) > LONGEST:
        raise CoreError(message("letter-template-template-have-at-most-characters", longest=LONGEST), where="body")
    try:
        tree = _sandbox().parse(body)
    except TemplateSyntaxError as error:
        raise CoreError(
            message("letter-template-line", lineno=error.lineno, said=error.message), where="body"
        ) from error
    for node, loops in _parts(tree, 0):
        if not isinstance(node, MAY):
            raise CoreError(
                message("letter-template-line-cannot-used-letters", lineno=node.lineno, said=_said(node)), where="body"
            )
        if isinstance(node, nodes.Filter) and node.name not in FILTERS:
            raise CoreError(
                message("letter-template-line-there-no-filter", lineno=node.lineno, name=node.name), where="body"
            )
        if isinstance(node, nodes.Getattr) and node.attr not in PARTS:
            raise CoreError(
                message("letter-template-line-there-no-field", lineno=node.lineno, attr=node.attr), where="body"
            )
        if isinstance(node, nodes.Name) and node.name in RESERVED:
            raise CoreError(
                message("letter-template-line-there-no-field-a", lineno=node.lineno, name=node.name), where="body"
            )
        if loops > DEEPEST_LOOP:
            raise CoreError(message("letter-template-line-loops-nested-too-deeply", lineno=node.lineno), where="body")
    for loop in tree.find_all(nodes.For):
        if not _is_list(loop.iter):
            raise CoreError(
                message("letter-template-line-loop-needs-list", lineno=loop.lineno, lists=", ".join(LISTS)),
                where="body",
            )
    unknown = meta.find_undeclared_variables(tree) - set(LetterFacts.model_fields)
    if unknown:
        raise CoreError(message("letter-template-there-no-field", unknown=min(unknown)), where="body")
    filled_in(body, EXAMPLE)


def _parts(node: nodes.Node, loops: int) -> Iterator[tuple[nodes.Node, int]]:
    depth = loops + isinstance(node, nodes.For)
    yield node, depth
    for child in node.iter_child_nodes():
        yield from _parts(child, depth)


def _is_list(node: nodes.Node) -> bool:
    """Whether a loop goes over one of the lists: anything else could be long without being looked at, like a text."""
    named = node.name if isinstance(node, nodes.Name) else node.attr if isinstance(node, nodes.Getattr) else ""
    return named in LISTS


def _said(node: nodes.Node) -> str:
    return type(node).__name__.lower()


def filled_in(body: str, facts: LetterFacts) -> str:
    """The text of a letter, paragraphs apart by one empty line. Raises: CoreError for a name that there is not."""
    values: dict[str, Any] = dict(facts)
    pieces, letters = [], 0
    try:
        # Piece by piece, and no further than the longest letter: loops in loops could fill the memory.
        for piece in _sandbox().from_string(TAGS_ALONE.sub(r"\1", body)).generate(values):
            letters += len(piece)
            if letters > LONGEST_TEXT:
                raise CoreError(
                    message("letter-template-letter-would-longer-than-characters", longest_text=LONGEST_TEXT),
                    where="body",
                )
            pieces.append(piece)
    except TemplateError as error:
        raise CoreError(message("letter-template-template-cannot-used", error=error), where="body") from error
    return _tidy("".join(pieces))


def _tidy(text: str) -> str:
    """The text with no more than one empty line in a row, and none at its ends."""
    kept: list[str] = []
    for line in (row.rstrip() for row in text.splitlines()):
        if line or (kept and kept[-1]):
            kept.append(line)
    return "\n".join(kept).strip() + "\n"


def doubts(text: str) -> tuple[str, ...]:
    """Words that a letter had better not use: a practice neither diagnoses nor promises.

    >>> doubts("Dear {{ nobody }}")
    ()
    """
    said = text.lower()
    for allowed in NOT_A_DIAGNOSIS:
        said = said.replace(allowed, "")
    return tuple(word for word in DOUBTFUL if word in said)


def figure_mark(rank: int) -> str:
    """What stands in the text where a figure is drawn.

    >>> figure_mark(2)
    '[[figure 3]]'
    """
    return f"[[figure {rank + 1}]]"


EXAMPLE = LetterFacts(
    today="3 March 2026",
    practice="Your practice",
    writer="Your name",
    recipient="A doctor",
    address="1 Example Street",
    person="Bram Okonjo-Vale",
    given_name="Bram",
    born="4 May 1968",
    consent_on="2 March 2026",
    asked_of_you="Please look at the knee once more.",
    note="",
    complaints=(LetterComplaint(name="Knee pain, right", since="autumn 2025", acts=("climbing into the cab",)),),
    screened_on="2 March 2026",
    screening=("Takes blood-thinning medicine: light pressure, no gliding strokes.",),
    sessions="5 sessions from 12 January to 2 March 2026.",
    ways=("Channel acupressure",),
    places=("ST36", "SP9", "GB34"),
    pressure="Pressure: level 2 of 5 at most.",
    home=("ST36, 30 seconds on each side, twice a day",),
    courses=(
        LetterCourse(
            name="Knee pain, right",
            sentence="From 6 to 4 in seven weeks; about 2 points less (1 to 3).",
            lasts="",
            episodes="",
            figure=figure_mark(0),
        ),
    ),
    noticed=("SP9 stayed sore on the right.",),
    words="This supports care and does not replace it; it is not a diagnosis.",
)
