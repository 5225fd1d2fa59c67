"""What a client reads can be read by anybody: Flesch-Kincaid grade 8 or less, by textstat."""

import re
from pathlib import Path

import pytest
import textstat
from fluent.syntax.ast import TextElement

from acuthesis.core.compose.home import words as home_words
from acuthesis.core.safety.screening import questions
from acuthesis.services.people.file import CONSENTS
from acuthesis.words.catalogue import entries

ROOT = Path(__file__).parents[2]
GRADE = 8.0
LEAST_WORDS = 60  # a grade of a single short line says little


def grade(texts: list[str]) -> float:
    """The grade of several texts together; each ends as a sentence."""
    whole = " ".join(text if text.rstrip()[-1:] in ".?!" else f"{text}." for text in texts)
    assert len(whole.split()) >= LEAST_WORDS, whole
    return float(textstat.flesch_kincaid_grade(whole))


def pages(folder: str) -> list[str]:
    """Sentences on the pages of a folder of the front end: text between tags and in attributes, without values."""
    found = []
    for path in sorted((ROOT / "web/src" / folder).glob("*.tsx")):
        source = re.sub(r"\{[^{}]*\}", " ", path.read_text())
        found += [" ".join(text.split()) for text in re.findall(r">([^<>{}=;()]{25,})<", source)]
    return [text for text in found if " " in text and text[0].isupper()]


def paper(name: str) -> list[str]:
    """Sentences of a paper's template, without what is filled in."""
    source = (ROOT / "src/acuthesis/exchange/templates" / name).read_text()
    bare = re.sub(r"\{%.*?%\}|\{\{.*?\}\}|<[^>]*>", " ", source)
    return [" ".join(text.split()) for text in re.findall(r"[A-Z][^.?!\n]{15,}[.?!]", bare)]


def messages(begin: str) -> list[str]:
    """Messages of the catalogue whose codes begin so, without their values."""
    patterns = [entry.value for id, entry in entries("en").items() if id.startswith(begin) and entry.value]
    return [" ".join(one.value for one in found.elements if isinstance(one, TextElement)) for found in patterns]


CLIENT_TEXTS = {
    "diary": pages("diary") + pages("say"),
    "home sheet": [
        *messages("paper-home"),
        *home_words.HOW_HARD.values(),
        *home_words.NOT_WHEN,
        *messages("paper-care"),
    ],
    "summary": [*paper("letters/summary.txt"), *messages("paper-care")],
    "consents": list(CONSENTS.values()),
    "what to do": [question.at_home or question.say for question in questions().values() if question.say],
}


@pytest.mark.parametrize("name", CLIENT_TEXTS)
def test_what_a_client_reads_is_plain(name):
    assert grade(CLIENT_TEXTS[name]) <= GRADE, CLIENT_TEXTS[name]


def test_the_grade_tells_plain_from_learned():
    learned = "Contraindications necessitate interdisciplinary coordination prior to therapeutic intervention. " * 8
    assert grade([learned]) > GRADE > grade(["Press in slowly. You may feel it, but it must not hurt."] * 8)
