"""Words for letters: what a template may hold, and what becomes of it."""

import tracemalloc

import pytest

from acuthesis.core.errors import CoreError
from acuthesis.exchange.letter_paper import LetterFigure, blocks, plain
from acuthesis.exchange.letter_template import EXAMPLE, KINDS, check, doubts, filled_in, shipped


@pytest.mark.parametrize("kind", KINDS)
def test_shipped_words_are_whole_neutral_and_placed(kind):
    check(shipped(kind))
    text = filled_in(shipped(kind), EXAMPLE)
    assert doubts(text) == ()
    assert "diagnosis" in text, "it says that it contains none"
    assert "{" not in text and "\n\n\n" not in text
    found = blocks(text, 1)
    assert [block.kind for block in found].count("figure") == 1
    assert found[-1].lines[-1] == EXAMPLE.practice
    told = plain(text, [LetterFigure("<svg/>", "from 6 to 4")])
    assert "(Figure: from 6 to 4)" in told and "# " not in told and "[[" not in told


def test_lists_that_are_empty_leave_no_heading_and_no_gap():
    bare = EXAMPLE.model_copy(update={"home": (), "noticed": (), "screening": (), "note": "", "asked_of_you": ""})
    text = filled_in(shipped("doctor"), bare)
    assert "Observations" not in text and "at home" not in text and "My request" not in text
    assert "No concerns were reported." in text
    assert "\n\n\n" not in text


@pytest.mark.parametrize(
    ("body", "says"),
    [
        ("{{ ''.__class__.__mro__ }}", "__mro__"),
        ("{{ person.format }}", "format"),
        ("{{ courses[0].__init__ }}", "__init__"),
        ("{% for i in range(10) %}x{% endfor %}", "call"),
        ("{{ person * 9999999 }}", "mul"),
        ("{{ person | center(99999999) }}", "center"),
        ("a\n\n{% set a = 1 %}", "Line 3"),
        ("{% include '/etc/passwd' %}", "include"),
        ("{% macro x() %}{% endmacro %}", "macro"),
        ("{{ person.upper() }}", "call"),
        ("{{ cycler }}", "cycler"),
        ("{% if note %}{{ self }}{% endif %}", "self"),
        ("{% if note %}{{ persn }}{% endif %}", "persn"),
        (
            "{% for a in courses %}{% for b in courses %}{% for c in courses %}x{% endfor %}{% endfor %}{% endfor %}",
            "too deep",
        ),
        ("{% if person %}", "Line 1"),
        ("{% for a in note %}x{% endfor %}", "a loop needs a list"),
        ("{% for a in courses %}{% for b in a.name %}x{% endfor %}{% endfor %}", "a loop needs a list"),
        ("{% for a in (note ~ note) %}x{% endfor %}", "a loop needs a list"),
    ],
)
def test_a_template_reaches_nothing_but_what_letters_tell(body, says):
    with pytest.raises(CoreError, match=says):
        check(body)


def test_a_letter_that_grows_without_end_is_stopped_before_it_fills_the_memory():
    """Two loops over long lists, around all the words that a template may have: 500 MB if it were rendered whole."""
    body = "{% for a in screening %}{% for b in noticed %}" + "x" * 11_000 + "{% endfor %}{% endfor %}"
    long = EXAMPLE.model_copy(update={"screening": ("a",) * 200, "noticed": ("b",) * 200})
    tracemalloc.start()
    with pytest.raises(CoreError, match="longer than 60000 characters"):
        filled_in(body, long)
    _, peak = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert peak < 5_000_000


def test_words_that_promise_are_noticed():
    assert doubts("This will cure the diagnosis") == ("diagnos", "cure")
    assert doubts("It contains no diagnosis.") == ()
