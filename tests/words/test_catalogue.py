"""The catalogue is whole: every code is in it and given what it names, none is unused, plurals have all their forms."""

import ast
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from fluent.syntax import ast as fluent
from fluent.syntax.visitor import Visitor
from jinja2 import Environment, nodes

from acuthesis.core.message import NOTHING, Message, content, day, either, in_turn, message, verbatim
from acuthesis.words.catalogue import LANGUAGES, entries
from acuthesis.words.reader import RESERVED, MissingWords
from tests.saying import said

SOURCE = Path(__file__).parents[2] / "src" / "acuthesis"
MADE_OF_PARTS = ("side-", "paper-record-")  # codes that are put together from a value


class Named(Visitor):
    """The placeholders and the selections of a message."""

    def __init__(self) -> None:
        self.values: set[str] = set()
        self.selected: list[fluent.SelectExpression] = []

    def visit_VariableReference(self, node: fluent.VariableReference) -> None:  # noqa: N802
        self.values.add(node.id.name)

    def visit_SelectExpression(self, node: fluent.SelectExpression) -> None:  # noqa: N802
        self.selected.append(node)
        self.generic_visit(node)


def named(entry: fluent.Message) -> Named:
    found = Named()
    found.visit(entry)
    return found


def codes_in(said: ast.expr) -> Iterator[str]:
    """The codes that an expression may stand for: one, or one of two."""
    if isinstance(said, ast.IfExp):
        yield from codes_in(said.body)
        yield from codes_in(said.orelse)
    else:
        yield from (one.value for one in ast.walk(said) if isinstance(one, ast.Constant) and isinstance(one.value, str))


def calls() -> Iterator[tuple[str, str, set[str] | None]]:
    """Each `message(...)` of the source: where, its code, and the names it is given; None where they are worked out."""
    for path in sorted(SOURCE.rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text())):
            if not (isinstance(node, ast.Call) and getattr(node.func, "id", "") == "message" and node.args):
                continue
            codes = list(codes_in(node.args[0]))
            given: set[str] | None = set()
            for keyword in node.keywords:
                if keyword.arg is not None and given is not None:
                    given.add(keyword.arg)
                elif isinstance(keyword.value, ast.Dict) and given is not None:
                    given |= {key.value for key in keyword.value.keys if isinstance(key, ast.Constant)}
                else:
                    given = None
            for code in codes:
                yield f"{path.name}:{node.lineno}", str(code), given


def printed() -> Iterator[tuple[str, str, set[str] | None]]:
    """Each `say("code", …)` of the papers' templates, likewise."""
    for path in sorted((SOURCE / "exchange" / "templates").glob("*.html")):
        for call in Environment(autoescape=True).parse(path.read_text()).find_all(nodes.Call):
            if not (isinstance(call.node, nodes.Name) and call.node.name == "say"):
                continue
            said = call.args[0]
            for one in [said] if isinstance(said, nodes.Const) else said.find_all(nodes.Const):
                if isinstance(one.value, str) and re.fullmatch(r"[a-z]+(-[a-z]+)+-?", one.value):
                    yield f"{path.name}:{call.lineno}", one.value, {keyword.key for keyword in call.kwargs}


def names_of_errors() -> set[str]:
    """Names of the errors that people are told, by their class definitions."""
    found = {"CoreError", "HTTPException"}
    classes = [
        node
        for path in SOURCE.rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.ClassDef)
    ]
    for _ in range(3):  # the family is three deep
        found |= {
            one.name
            for one in classes
            if any(getattr(base, "id", getattr(base, "attr", "")) in found for base in one.bases)
        }
    return found


CALLS = [*calls(), *printed()]


def test_every_code_is_in_the_catalogue_and_given_what_it_names():
    assert len(CALLS) > 130
    for where, code, given in CALLS:
        if code in RESERVED or code in MADE_OF_PARTS:
            continue
        assert code in entries("en"), f"{where}: there are no words for {code}"
        if given is not None:
            assert named(entries("en")[code]).values == given, f"{where}: {code}"


def test_no_words_are_unused():
    used = {code for _, code, _ in CALLS}
    strings = {
        node.value
        for path in SOURCE.rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.Constant) and isinstance(node.value, str)
    }
    unused = [id for id in entries("en") if id not in used | strings and not id.startswith(MADE_OF_PARTS)]
    assert not unused


@pytest.mark.parametrize("language", LANGUAGES)
def test_languages_have_the_same_messages_with_the_same_values(language):
    assert set(entries(language)) == set(entries("en"))
    for id, entry in entries(language).items():
        assert named(entry).values == named(entries("en")[id]).values, id


@pytest.mark.parametrize("language", LANGUAGES)
def test_plurals_have_every_form(language):
    for id, entry in entries(language).items():
        for select in named(entry).selected:
            keys = {variant.key.name for variant in select.variants if isinstance(variant.key, fluent.Identifier)}
            assert {"one", "other"} <= keys or not keys & {"zero", "one", "two", "few", "many", "other"}, id
            assert any(variant.default for variant in select.variants), id


def test_a_message_is_stored_and_read_as_it_was():
    nested = message("relief-stays", relief=message("relief-unknown"), time=message("days", days=2.5))
    for one in (nested, in_turn([verbatim("a"), message("any-number")]), content("rule", "x", "reason", "Light only.")):
        assert Message.read(one.record()) == one and hash(Message.read(one.record())) == hash(one)
    assert Message.read("Better, as an earlier version said.").record() == "Better, as an earlier version said."
    assert not NOTHING and verbatim("x")
    for wrong in (5, None, {"code": "x"}, {"say": "x", "more": 1}):
        with pytest.raises(ValueError, match="a text, or a code"):
            Message.read(wrong)
    with pytest.raises(TypeError, match="needs a reader"):
        f"{nested}"


def test_values_are_said_as_people_write_them():
    assert said(message("days", days=1)) == "a day" and said(message("days", days=2.5)) == "2.5 days"
    assert said(message("points-of-scale", points=1.0)) == "1 point"
    assert said(in_turn(["fever", "a rash", "a lump"])) == "fever, a rash and a lump"
    assert said(either(["fever", "a rash, spreading"])) == "fever; a rash, spreading"
    assert said(message("signed", points=-1.25)) in ("−1.2", "−1.3") and said(message("signed", points=2)) == "+2.0"
    with pytest.raises(MissingWords, match="no-such-code"):
        said(message("no-such-code"))
    with pytest.raises(MissingWords, match="days"):
        said(message("days"))


def test_days_are_written_out():
    from datetime import date

    assert said(day(date(2026, 3, 5))) == "5 March 2026" and said(day(date(2026, 3, 5), "short")) == "5 March"
    assert re.fullmatch(r"[\w ]+", said(day(date(2026, 12, 31))))


def test_what_is_refused_is_said_by_a_code():
    """No error is made with a sentence in the code."""
    errors = names_of_errors()
    assert {"NotAllowed", "Conflict", "SignedOut"} <= errors
    sentences = [
        f"{path.relative_to(SOURCE)}:{node.lineno}"
        for path in SOURCE.rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.Call) and getattr(node.func, "id", getattr(node.func, "attr", "")) in errors
        for said in [*node.args, *(keyword.value for keyword in node.keywords if keyword.arg in ("message", "detail"))]
        if isinstance(said, ast.JoinedStr | ast.BinOp) or (isinstance(said, ast.Constant) and " " in str(said.value))
    ]
    assert not sentences
