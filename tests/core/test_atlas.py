"""The atlas as data: loads, names everything it mentions, and is found however it is spelled."""

import json
import re
from collections import Counter

import pytest
from pydantic import TypeAdapter, ValidationError

from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.entries.model import Point
from acuthesis.core.atlas.entries.search import plain, search
from acuthesis.core.body import catalogue as body_catalogue
from acuthesis.core.body.catalogue import mentioned
from acuthesis.core.body.construct import OnLine, Place
from acuthesis.core.errors import CoreError
from tests.tiers import some

PLACE = TypeAdapter(Place)
ON_CHANNEL = {
    "LU": 11, "LI": 20, "ST": 45, "SP": 21, "HT": 9, "SI": 19, "BL": 67, "KI": 27, "PC": 9, "TE": 23, "GB": 44,
    "LR": 14, "GV": 28, "CV": 24,
}  # fmt: skip


def test_the_atlas_holds_what_it_should():
    channels = Counter(point.channel for point in catalogue.points().values())
    assert {channel: channels[channel] for channel in catalogue.CHANNELS} == ON_CHANNEL
    assert sum(ON_CHANNEL.values()) == 361
    assert channels["EX"] >= 40 + 17
    maps = Counter((area.surface.split("_")[0], area.map) for area in catalogue.areas().values())
    assert maps["ear", "standard"] >= 80
    assert maps["ear", "second"] >= 20
    assert maps["sole", "common"] + maps["foot", "common"] + maps["sole", "second"] + maps["foot", "second"] >= 60
    assert maps["palm", "common"] + maps["hand", "common"] >= 38
    assert maps["face", "face"] + maps["scalp", "scalp"] >= 40
    exported = json.loads(catalogue.as_json())
    assert [entry["id"] for entry in exported] == [entry.id for entry in catalogue.entries()]
    assert exported[0]["methods"][0]["place"], "rules are exported, not only names"


def test_everything_mentioned_exists():
    known = set(body_catalogue.landmarks())
    for point in catalogue.points().values():
        for method in point.methods:
            assert set(mentioned(method.place)) <= known
            if isinstance(method.place, OnLine):
                assert method.place.line in body_catalogue.lines()
    for segment in body_catalogue.segments().values():
        assert {body_catalogue.bare(segment.start), body_catalogue.bare(segment.end)} <= known


def test_every_entry_is_found_in_four_spellings():
    for entry in some(catalogue.entries()):
        short = entry.id.split("_", 1)[-1]
        code = short if any(letter.isdigit() for letter in short) else entry.id.replace("_", " ")
        name = entry.names.romanised or entry.names.english
        spellings = [code, code.upper(), name, plain(name), plain(name).replace(" ", ""), entry.names.english]
        spellings += [entry.names.characters] if entry.names.characters else []
        assert len(set(spellings)) >= 4, entry.id
        for spelling in spellings:
            assert entry in search(spelling, limit=40), f"{spelling!r} does not find {entry.id}"


@pytest.mark.parametrize(
    ("typed", "first"),
    [
        ("sp6", "SP6"),
        ("SP 6", "SP6"),
        ("san yin jiao", "SP6"),
        ("Sānyīnjiāo", "SP6"),
        ("三陰交", "SP6"),
        ("inner wrist", "HT7"),
        ("crown", "GV20"),
        ("hoku", "LI4"),
        ("behind the knee", "BL40"),
        ("outer forearm below the elbow", "LI10"),
        ("between the two tendons of the forearm", "PC5"),
    ],
)
def test_search_puts_the_meant_one_first(typed, first):
    assert search(typed)[0].id == first


def test_search_with_nothing_to_find():
    assert search("") == []
    assert search("  -- ") == []
    assert search("zzzz") == []


@pytest.mark.parametrize(
    ("place", "says"),
    [
        ({"move": "glabella", "by": {"lateral": 1}, "in": "head"}, "exactly one unit"),
        (
            {"move": "glabella", "by": {"lateral": 1}, "in": "head", "cun": "nape", "width": "thumb_width"},
            "exactly one unit",
        ),
        ({"skin": "joint.knee"}, "'toward' or 'through'"),
        ({"line": "front_midline", "segment": "sternum", "from": "suprasternal_notch"}, "'cun' or 'span'"),
        ({"between": ["a", "b"], "at": 7}, "less than or equal to 2"),
        ({"between": ["a", "b"], "colour": "red"}, "Extra inputs"),
    ],
)
def test_rules_that_make_no_sense_are_refused(place, says):
    with pytest.raises(ValidationError, match=says):
        PLACE.validate_python(place)


def test_a_point_without_a_rule_is_refused():
    data = catalogue.points()["SP6"].model_dump(by_alias=True)
    with pytest.raises(ValidationError, match="methods"):
        Point.model_validate({**data, "methods": []})


@pytest.mark.parametrize(
    ("place", "says"),
    [
        (
            {"line": "tail", "segment": "thigh_front", "from": "patella_base", "cun": 2},
            "the line 'tail' does not exist",
        ),
        ({"arc": "tail", "cun": 2}, "the segment 'tail' does not exist"),
        ({"beside": "patella_base", "cun": 2}, "beside.of: Field required"),
    ],
)
def test_a_data_file_that_cannot_be_read_names_the_entry(monkeypatch, place, says):
    row = {"id": "SP10", "names": {"english": "Sea of blood"}, "site": "thigh_front", "feel": "A bulge."}
    bad = {**row, "methods": [{"name": "2 cun above", "place": place}]}
    monkeypatch.setattr(catalogue, "read_rows", lambda path: [bad] if path.stem == "SP" else [])
    with pytest.raises(CoreError, match=f"^SP10: .*{re.escape(says)}"):
        catalogue.points.__wrapped__()
