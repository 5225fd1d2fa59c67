"""The atlas as data: loads, names everything it mentions, and is found however it is spelled."""

import json

import pytest
from pydantic import TypeAdapter, ValidationError

from acuthesis.core.atlas import catalogue
from acuthesis.core.atlas.model import Point
from acuthesis.core.atlas.search import plain, search
from acuthesis.core.body import catalogue as body_catalogue
from acuthesis.core.body.catalogue import mentioned
from acuthesis.core.body.construct import OnLine, Place

PLACE = TypeAdapter(Place)


def test_the_atlas_holds_what_it_should():
    assert len(catalogue.points()) == 24
    assert sum(area.surface == "ear" for area in catalogue.areas().values()) == 6
    assert sum(area.surface != "ear" for area in catalogue.areas().values()) == 8
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


@pytest.mark.parametrize("entry", catalogue.entries(), ids=lambda entry: entry.id)
def test_every_entry_is_found_in_four_spellings(entry):
    short = entry.id.removeprefix("ear_").removeprefix("foot_")
    spellings = [short, short.lower(), entry.names.english]
    spellings += (
        [plain(entry.names.romanised), entry.names.characters] if entry.names.romanised else entry.also_called[:1]
    )
    assert len(spellings) >= 4
    for spelling in spellings:
        assert entry in search(spelling), f"{spelling!r} does not find {entry.id}"


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
