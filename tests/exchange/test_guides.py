"""The guides name what there is: a page that has fallen behind its model says so here."""

import json
import re
from typing import get_args

import pytest

from acuthesis.cli import PERSON_KEYS
from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.request import ComposeRequest
from acuthesis.core.compose.knowledge.dose import Form
from acuthesis.core.compose.knowledge.school import Within, schools
from acuthesis.core.compose.score.protocol import Protocol
from acuthesis.core.compose.score.score import DraftStop, StopKind
from acuthesis.core.safety.screening import parse_screening
from acuthesis.exchange.record import PersonRecord
from acuthesis.settings import ROOT

GUIDE = ROOT / "docs" / "guide"
COMMON = {"id", "created_at"}  # said once for all rows


def page(name: str) -> str:
    return (GUIDE / f"{name}.md").read_text()


def keys_of_table(text: str) -> list[str]:
    """Keys in the first column of the first table, in order."""
    rows = re.findall(r"^\| (`[^|]+) \|", text, re.M)
    return [key for row in rows for key in re.findall(r"`(\w+)`", row)]


def test_the_page_on_records_names_every_key():
    text = page("record")
    assert set(keys_of_table(text)) == set(PersonRecord.model_fields)
    for name, field in PersonRecord.model_fields.items():
        for part in get_args(field.annotation):
            if hasattr(part, "model_fields"):
                [row] = [line for line in text.splitlines() if line.startswith(f"| `{name}` |")]
                assert set(part.model_fields) - COMMON <= set(re.findall(r"`(\w+)`", row)), name


def test_the_page_on_protocols_names_every_key():
    text = page("protocols")
    assert set(keys_of_table(text)) == set(Protocol.model_fields)
    stops = next(line for line in text.splitlines() if line.startswith("| `stops`"))
    assert set(re.findall(r"`(\w+)`", stops)) - {"stops"} == set(DraftStop.model_fields) - {"why", "override"}
    assert set(get_args(StopKind)) <= set(re.findall(r"`(\w+)`", text))


def test_the_page_on_composing_shows_a_request_that_composes():
    text = page("composing")
    request = json.loads(re.search(r"```json\n(.*?)```", text, re.S).group(1))
    person = request.pop("person")
    score = compose(ComposeRequest(**request), parse_screening(person["screening"], person["age"]))
    assert score.decision == "ok" and "KI3" in {stop.id for stop in score.stops}
    said = set(re.findall(r"[`\"](\w+)[`\"]", text))
    assert set(ComposeRequest.model_fields) - {"resting", "gentle"} <= said
    assert {*schools(), *get_args(Form), *get_args(Within)} <= said


def test_the_page_on_locating_names_every_key_of_a_person():
    text = page("locating").split("## person.json")[1]
    assert set(re.findall(r"`(\w+)`", text)) >= PERSON_KEYS


@pytest.mark.parametrize("guide", sorted(path.stem for path in GUIDE.glob("*.md")))
def test_what_a_guide_points_to_is_there(guide):
    """Files that a guide names are where it says, in the repository or in the package."""
    for path in set(re.findall(r"`((?:core|docs|tests|src|exchange|store|web)/[\w./*-]+\.\w+)`", page(guide))):
        found = list(ROOT.glob(path)) or list((ROOT / "src" / "acuthesis").glob(path))
        assert found, f"{guide}.md points to {path}"
