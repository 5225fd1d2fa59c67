"""Rules in words: fingers that add up to the count, phrases that name real marks, steps that a hand can follow."""

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.atlas.entries.catalogue import points
from acuthesis.core.atlas.entries.fingers import MOST_SPANS, SPAN_CUN, spans_for, spans_in_words, uses_fingers
from acuthesis.core.atlas.entries.whereabouts import phrases
from acuthesis.core.atlas.locating.locate import locate
from acuthesis.core.atlas.locating.wording import number
from acuthesis.core.body.catalogue import landmarks
from acuthesis.core.body.construct import Beside, OnLine
from acuthesis.core.body.person import BodyFacts

from .conftest import body_of

POINTS = list(points().values())
BODY = body_of(BodyFacts(sex="female", height_cm=168, weight_kg=64, age=40))
LOCATED = {point.id: locate(point, point.sides[0], BODY) for point in POINTS}


@given(st.integers(1, 80).map(lambda quarters: quarters / 4))
def test_fingers_laid_down_add_up_to_the_count_the_widest_first(cun):
    spans = spans_for(cun)
    if spans is None:
        return
    widths = [SPAN_CUN[span] for span in spans]
    assert sum(widths) == pytest.approx(cun)
    assert widths == sorted(widths, reverse=True) and len(widths) <= MOST_SPANS
    assert spans_in_words(spans).count(" and ") == len(spans) - 1


@pytest.mark.parametrize(
    ("cun", "words"),
    [(1, "one thumb width"), (3, "four finger widths"), (5, "four finger widths and three finger widths")],
)
def test_the_hand_measures_of_the_tradition(cun, words):
    assert spans_in_words(spans_for(cun)) == words


def test_a_finger_method_is_never_the_first_and_counts_as_the_rule_does():
    by_hand = 0
    for point in POINTS:
        first, *others = point.methods
        if len(point.methods) > 1:
            assert not uses_fingers(first.place) or point.methods[0].name.startswith("by the person's own hand"), (
                point.id
            )
        for method in others:
            if not method.name.startswith("by the person's own hand: "):
                continue
            by_hand += 1
            placing = first.place
            assert isinstance(placing, OnLine | Beside) and placing.cun is not None, point.id
            assert method.name.endswith(spans_in_words(spans_for(placing.cun))), point.id
    assert by_hand > 60


def test_phrases_by_which_a_point_is_found_name_marks_that_there_are():
    found = {point.id: [phrase for method in point.methods for phrase in phrases(method.place)] for point in POINTS}
    for id, said in found.items():
        assert not any("None" in phrase or "  " in phrase or not phrase.strip() for phrase in said), (id, said)
    assert sum(1 for said in found.values() if said) > 0.85 * len(found)
    assert "below outer hollow below the kneecap" in found["ST36"]
    # What lies in the middle of front or back has nothing before or behind it that a finger could find.
    front = re.compile("(behind|in front of) .*(navel|breastbone|rib space|shoulder blade|wing of|corner of the [em])")
    wrong = {id: phrase for id, said in found.items() for phrase in said if front.match(phrase)}
    assert wrong == {}


def test_above_is_higher_and_below_is_lower_on_the_body():
    ids = {mark.name: mark.id for mark in landmarks().values()}
    looked = 0
    for point in POINTS:
        height = LOCATED[point.id].position_cm[1]
        for phrase in {phrase for method in point.methods for phrase in phrases(method.place)}:
            relation, _, name = phrase.partition(" ")
            if relation not in ("above", "below") or name not in ids:
                continue
            mark = BODY.places.landmark(ids[name], LOCATED[point.id].side)[1]
            up = height - mark if relation == "above" else mark - height
            assert up > -0.4, f"{point.id}: {phrase}, and it lies {-up:.1f} cm the other way"
            looked += 1
    assert looked > 120


def test_steps_are_sentences_and_end_with_what_to_feel_and_how_to_press():
    for id, located in LOCATED.items():
        assert all(re.match(r"[A-Z]", step) and step.rstrip()[-1] in ".)" for step in located.steps), (
            id,
            located.steps,
        )
        assert located.steps[-2].startswith("Under the finger: ") and located.steps[-1].startswith("Press "), id
        assert len(located.step_landmarks) == len(located.steps), id


def test_centimetres_in_the_steps_are_those_of_this_person():
    """The distance given is the cun of the segment that is named, to the tenth of a centimetre."""
    told = re.compile(
        r"Go ([\d.]+) cm \(([\d.]+) cun\) [^.]*\. The [^.]* is ([\d.]+) cun, ([\d.]+) cm on this person\."
    )
    seen = 0
    for id, located in LOCATED.items():
        for step in located.steps:
            if said := told.search(step):
                gone, cun, parts, whole = map(float, said.groups())
                assert gone == pytest.approx(whole * cun / parts, abs=0.11), (id, step)
                seen += 1
    assert seen > 150


@given(st.floats(0.01, 30).map(lambda value: round(value, 2)))
def test_numbers_are_read_back_as_they_were(value):
    said = number(value)
    assert float(said) == pytest.approx(value) and not said.endswith((".", ".0"))
