"""Everyday phrases in docs/guide/said-cases.yaml: emergencies are asked about first, complaints are found."""

import random

import pytest

from acuthesis.core.compose.knowledge.complaints import complaint_kinds
from acuthesis.core.compose.knowledge.said import heard
from acuthesis.core.data_file import read
from acuthesis.core.safety.alarms import alarms_in
from acuthesis.core.safety.screening import questions
from acuthesis.settings import ROOT

CASES = read(ROOT / "docs" / "guide" / "said-cases.yaml")


def test_there_are_a_hundred_and_fifty_phrases_and_every_emergency_is_among_them():
    assert len({case["said"] for case in CASES}) == len(CASES) >= 150
    asked = {flag for case in CASES for flag in case.get("asks", ())}
    emergencies = {id for id, one in questions().items() if one.severity == "emergency"}
    assert emergencies <= asked


@pytest.mark.parametrize("case", CASES, ids=lambda case: case["said"])
def test_what_is_said_leads_where_it_has_to(case):
    found = heard(case["said"], (), complaint_kinds())
    asked = [alarm.flag for alarm in found.alarms]
    assert set(case.get("asks", ())) <= set(asked)
    assert not (case.get("not_asked") and asked)
    fits = [fit.id for fit in found.fits]
    assert "leads" not in case or case["leads"] in fits[:3]
    assert not set(case.get("never", ())) & set(fits)
    assert not (case.get("nothing") and fits)


@pytest.mark.parametrize("case", [case for case in CASES if "asks" in case], ids=lambda case: case["said"])
def test_an_emergency_is_heard_in_the_middle_of_other_words(case):
    """What somebody says around it, and capital letters, take nothing away."""
    around = f"Well, since Tuesday or so: {case['said'].upper()}! My neighbour said I should come."
    assert set(case["asks"]) <= {alarm.flag for alarm in alarms_in(around)}


def test_emergencies_come_before_what_only_needs_a_doctor():
    severities = [alarm.severity for alarm in alarms_in("my heart is racing, I fell on my hip and cannot breathe")]
    assert severities == sorted(severities, key=("emergency", "refer", "context").index) and len(severities) >= 3


def test_two_letters_changed_places_take_no_emergency_away():
    dice = random.Random(8)
    for case in CASES:
        if "asks" not in case:
            continue
        words = case["said"].split()
        long = [place for place, word in enumerate(words) if len(word) >= 7]
        for place in long:
            at = dice.randrange(1, len(words[place]) - 2)
            word = words[place]
            slip = word[:at] + word[at + 1] + word[at] + word[at + 2 :]
            said = " ".join([*words[:place], slip, *words[place + 1 :]])
            assert set(case["asks"]) <= {alarm.flag for alarm in alarms_in(said)}, said
