"""The plan for home: whose turn it is, what is still allowed, and that ways in centimetres are so on the body."""

from datetime import date, timedelta
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.atlas.entries.catalogue import entries, entry, part_of
from acuthesis.core.atlas.locating.locate import locate
from acuthesis.core.body.fit import fit
from acuthesis.core.body.person import BodyFacts
from acuthesis.core.compose.home.plan import HomeWish, home_plan, still_allowed
from acuthesis.core.compose.home.words import IN_CUN, in_centimetres, said_at_home
from acuthesis.core.compose.knowledge.complaints import complaint_kinds
from acuthesis.core.compose.knowledge.dose import FORMS, in_form
from acuthesis.core.errors import NotAllowed, UnknownId
from acuthesis.core.follow.diary import warnings_at_home
from acuthesis.core.safety.limits import limits_for
from acuthesis.core.safety.screening import Screening, parse_screening, questions

from .test_compose import KINDS
from .test_safety import context_answers

BUILDS = [
    BodyFacts(sex="female", height_cm=168, weight_kg=64),
    BodyFacts(sex="male", height_cm=193, weight_kg=112),
    BodyFacts(sex="female", height_cm=149, weight_kg=47, age=81),
]
# Between two places over round skin and straight through; and words count whole parts.
OFF_CM, OFF_SHARE = 0.6, 0.08
TOLD = [one for one in entries() if one.kind == "point" and IN_CUN.match(one.methods[0].name)]


@pytest.fixture(scope="module", params=BUILDS, ids=lambda facts: f"{facts.sex}-{facts.height_cm:g}")
def built(request, asset):
    return fit(asset, request.param)


def test_ways_in_centimetres_are_the_ways_on_this_body(built):
    """Told from either end of the measured stretch, or from a landmark that is felt for on the way."""
    counted = 0
    for target in TOLD:
        found = locate(target, "left", built)
        if found.segment is None or found.level_cun is None:
            continue
        words = in_centimetres(target.methods[0].name, found.segment.cun_cm)
        number, _, rest = words.partition(" cm ")
        told = float(number)
        assert target.methods[0].name.endswith(rest)
        ends = [found.level_cun * found.segment.cun_cm, (found.segment.cun - found.level_cun) * found.segment.cun_cm]
        felt = [float(np.linalg.norm(np.subtract(found.position_cm, place))) for place in found.landmarks.values()]
        off = min(abs(told - way) for way in (*ends, *felt))
        assert off < OFF_CM + OFF_SHARE * told, f"{target.id}: {words}, measured {ends}, {felt}"
        counted += 1
    assert counted > 60


@given(st.sampled_from(FORMS), st.floats(5, 120))
def test_every_dose_is_an_instruction(form, seconds):
    told = said_at_home(in_form(form, seconds))
    assert told[0].isupper() and not told.endswith(".")
    assert any(letter.isdigit() for letter in told)


@given(st.integers(0, 400), st.integers(0, 400))
def test_turns_alternate_whatever_the_calendar_does(start, after):
    plan = home_plan(["shoulder_pain", "tension_headache"], Screening(), HomeWish())
    first = date(2026, 1, 1) + timedelta(days=start)
    day = first + timedelta(days=after)
    today, tomorrow = plan.set_on(day, first), plan.set_on(day + timedelta(days=1), first)
    assert {today.name, tomorrow.name} == {"A", "B"}
    assert today.name == ("A" if after % 2 == 0 else "B")


@pytest.mark.parametrize("kinds", [["tension_headache", "neck_shoulder_ache", "rib_breathing_tightness"], ["nausea"]])
@pytest.mark.parametrize(("age", "sex"), [(34, "female"), (70, "male"), (9, "male")])
def test_every_emergency_is_on_the_sheet_and_comes_first(kinds, age, sex):
    """However many there are; and nothing that cannot concern the reader."""
    told = home_plan(kinds, parse_screening({}, age, sex=sex), HomeWish()).see_doctor
    flags = {id for kind in kinds for id in complaint_kinds()[kind].red_flags}
    wanted = {questions()[id].ask.lower() for id in flags if questions()[id].severity == "emergency"}
    assert {line.lower() for line in told[: len(wanted)]} == wanted
    text = " ".join(told).lower()
    assert "guardian" not in text and "drunk" not in text
    assert "over 50" not in text or age >= 50
    assert "pregnan" not in text or sex == "female"


def test_a_point_that_may_start_a_labour_goes_home_with_a_word_about_pregnancy():
    def lines(**who):
        return home_plan(["tension_headache"], parse_screening({}, **who), HomeWish(places=("LI4", "GB20"))).not_when

    assert any("pregnant" in line and "LI4" in line for line in lines(age=30, sex="female"))
    assert any("LI4" in line for line in lines())
    assert not any("pregnant" in line for line in (*lines(age=30, sex="male"), *lines(age=70, sex="female")))


@pytest.mark.parametrize(
    ("answers", "says"),
    [
        ({"platelets": 90}, "clots slowly"),
        ({"thinner_medicine": "anticoagulant"}, "clots slowly"),
        ({"low_platelets": True}, "clots slowly"),
        ({"numb_feet": True}, "check before and after"),
        ({"numb_places": ["hand"]}, "check before and after"),
    ],
)
def test_thin_blood_and_numb_skin_have_their_line_at_home(answers, says):
    assert any(says in line for line in home_plan(["poor_sleep"], parse_screening(answers, 60), HomeWish()).not_when)


@given(st.lists(st.sampled_from(KINDS), min_size=1, max_size=2, unique=True), context_answers())
def test_what_was_given_never_outlives_what_is_refused(kinds, answers):
    """Given to somebody of whom nothing was known, looked at once everything is."""
    given_before = home_plan(kinds, Screening(), HomeWish())
    screening = parse_screening(answers)
    left = still_allowed(given_before, screening)
    before = {one.id for one in given_before.places}
    for place in left.places:
        assert place.id in before
        sides: Any = entry(place.id).sides if place.side == "both" else (place.side,)
        for side in sides:
            limits = limits_for(entry(place.id), side, screening)
            assert limits.refused is None
            assert place.level <= limits.ceiling
    assert still_allowed(left, screening) == left, "looked at again, it stays"


def test_a_place_is_chosen_only_where_it_may_be_pressed():
    chosen = HomeWish(places=("LI4", "HT7"))
    plan = home_plan(["poor_sleep"], Screening(), chosen)
    assert [one.id for one in plan.places] == ["LI4", "HT7"]
    assert plan.places[0].why == "Chosen for Poor sleep."
    with pytest.raises(NotAllowed, match="not allowed"):
        home_plan(["poor_sleep"], parse_screening({"pregnancy_weeks": 9}), chosen)
    with pytest.raises(NotAllowed, match="out of this person's reach"):
        home_plan(["poor_sleep"], Screening(), HomeWish(position="supine", places=("KI1",)))
    with pytest.raises(UnknownId, match="XX9"):
        home_plan(["poor_sleep"], Screening(), HomeWish(places=("XX9",)))
    with pytest.raises(NotAllowed, match="lying flat"):
        home_plan(["poor_sleep"], parse_screening({"pregnancy_weeks": 30}), HomeWish(position="supine"))


def test_late_in_pregnancy_feet_are_out_of_reach_unless_they_say_otherwise():
    late = parse_screening({"pregnancy_weeks": 31})
    usual = home_plan(["heel_pain"], late, HomeWish())
    assert not usual.reaches_feet
    assert not {part_of(entry(one.id)) for one in usual.places} & {"foot", "lower_leg"}
    supple = home_plan(["heel_pain"], late, HomeWish(reaches_feet=True))
    assert {part_of(entry(one.id)) for one in supple.places} & {"foot", "lower_leg"}


def test_every_emergency_is_asked_at_home_in_words_for_somebody_alone():
    told = {one.id: one for one in warnings_at_home([])}
    emergencies = {id for id, question in questions().items() if question.severity == "emergency"}
    assert set(told) == emergencies
    for one in told.values():
        assert one.emergency and one.say
        assert " their " not in one.ask and " they " not in one.say, f"{one.id} is said of somebody else"
        assert " we " not in one.say.lower(), f"{one.id} speaks of somebody who is not there"
