"""What people read is said in the terms of the glossary (docs/guide/words.md): its last column is used nowhere."""

import ast
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
import yaml

ROOT = Path(__file__).parents[2]
SOURCE = ROOT / "src" / "acuthesis"
# What people type, ids, and names that a standard gives: not our words.
NOT_OURS = {
    "alarms.yaml", "said.yaml", "errors.yaml", "small_words.yaml", "bones.yaml", "cores.yaml", "region_sites.yaml",
    "world.yaml",
}  # fmt: skip
KEYS_OF_IDS = {
    "id", "traditional", "use", "region", "regions", "also_called", "place", "over", "said", "each", "sites",
    "tissue", "tissues", "ids", "english", "out_of_reach",
}  # fmt: skip
# What people type (the search), ids that records hold, and keys of the data.
MODULES_OF_IDS = {"search.py", "words.py", "candidates.py", "construct.py"}
# Where one of these words means something else.
MEANT_OTHERWISE = (
    "calf's belly", "thick belly", "calf muscle belly", "the muscle belly", "on the front of", "put back",
    "breast, belly, head or mood", "grit or a cord", "spinal cord",
)  # fmt: skip


def unused_terms() -> tuple[str, ...]:
    rows = re.findall(r"^\|([^|]*)\|([^|]*)\|([^|]*)\|$", (ROOT / "docs/guide/words.md").read_text(), re.M)[2:]
    return tuple(term.strip() for _, _, column in rows for term in column.split(",") if term.strip())


TERMS = unused_terms()
FOUND = re.compile(r"(?<![\w-])(?:" + "|".join(map(re.escape, TERMS)) + r")(?![\w-])", re.I)


def broken(words: str) -> list[str]:
    lowered = words.lower()
    for phrase in MEANT_OTHERWISE:
        lowered = lowered.replace(phrase, "")
    return FOUND.findall(lowered)


def texts_of_data(values: object, key: str = "") -> Iterator[str]:
    if isinstance(values, dict):
        for name, value in values.items():
            if name not in KEYS_OF_IDS:
                yield from texts_of_data(value, str(name))
    elif isinstance(values, list):
        for value in values:
            yield from texts_of_data(value, key)
    elif isinstance(values, str) and " " in values:
        yield values


def texts_of_code(source: str) -> Iterator[str]:
    """String literals of a module with a space in them; no docstrings, no SQL."""
    tree = ast.parse(source)
    bare = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    for node in ast.walk(tree):
        text = node.value if isinstance(node, ast.Constant) and id(node) not in bare else None
        if isinstance(text, str) and " " in text and not re.search(r"\b(SELECT|UPDATE|DELETE|FROM|WHERE)\b", text):
            yield text


def test_the_glossary_names_what_it_looks_for():
    assert len(TERMS) > 60 and "somebody" in TERMS and "heel cord" in TERMS
    assert broken("Lay them on the front with a heel cord") == ["on the front", "heel cord"]


@pytest.mark.parametrize("path", sorted(SOURCE.rglob("*.yaml")), ids=lambda path: path.name)
def test_data_is_said_in_the_terms_of_the_glossary(path):
    if path.name in NOT_OURS:
        pytest.skip("what people type, or ids")
    lines = (text for text in texts_of_data(yaml.safe_load(path.read_text())))
    assert not {text: found for text in lines if (found := broken(text))}


def test_messages_are_said_in_the_terms_of_the_glossary():
    for path in (*SOURCE.rglob("*.ftl"), *SOURCE.rglob("templates/**/*.txt"), *SOURCE.rglob("templates/*.html")):
        lines = re.sub(r"\{[{%].*?[%}]\}|\$\w+", "", path.read_text()).splitlines()
        found = {line: words for line in lines if (words := broken(line))}
        assert not found, path.name


def test_sentences_in_code_are_said_in_the_terms_of_the_glossary():
    found = {}
    for path in sorted([*SOURCE.rglob("*.py"), *(ROOT / "launch").glob("*.py")]):
        if "migrations" in path.parts or path.parts[-2] in ("demo", "stand_ins", "tables"):
            continue
        if path.name in MODULES_OF_IDS:
            continue
        for text in texts_of_code(path.read_text()):
            if words := broken(text):
                found[f"{path.name}: {text[:90]}"] = words
    assert not found
