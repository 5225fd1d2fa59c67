"""Screening and standing rules: what must be stopped, refused or limited is, and nothing can loosen it."""

from datetime import date, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.entries.catalogue import entry
from acuthesis.core.errors import CoreError, UnknownId
from acuthesis.core.safety.limits import limit_strip, limits_for, positions_out
from acuthesis.core.safety.pressure import force_n, pressure_table
from acuthesis.core.safety.rule import Rule
from acuthesis.core.safety.screening import Screening, is_stale, open_form, parse_screening, questions
from acuthesis.core.safety.soreness import meanings
from acuthesis.core.safety.standing import rules
from acuthesis.core.safety.verdict import verdict

ENTRIES = catalogue.entries()
AGREED = ("deep_pressure_agreed", "lymph_light_agreed", "close_places_agreed")


@st.composite
def context_answers(draw):
    """Some answers to the questions that limit (not stop) the work."""
    values = {
        "flag": st.just(True),
        "weeks": st.integers(0, 43),
        "side": st.sampled_from(["left", "right", "both"]),
        "lying": st.lists(st.sampled_from(["prone", "supine", "left_side", "right_side"]), min_size=1, unique=True),
        "places": st.one_of(
            st.just(True),
            st.lists(
                st.sampled_from(["foot", "calf.left", "trunk", "palm.right", "ear_area", "knee_back"]),
                min_size=1,
                max_size=40,
            ),
        ),
        "reading": st.sampled_from([[118, 76], [150, 85], [165, 100], [78, 44]]),
        "number": st.integers(1, 400),
    }
    # What was agreed to opens a level; everything else can only take away.
    asked = [one for one in questions().values() if one.severity == "context" and one.id not in AGREED]
    chosen = draw(st.lists(st.sampled_from(asked), max_size=6, unique_by=lambda question: question.id))
    offered = {one.id: st.sampled_from([choice.id for choice in one.choices]) for one in chosen if one.choices}
    return {one.id: draw(offered[one.id] if one.choices else values[one.kind]) for one in chosen}


@given(context_answers(), context_answers(), st.sampled_from(ENTRIES), st.sampled_from(["left", "right"]))
def test_another_answer_never_loosens_a_limit(some, more, target, side):
    side = side if target.paired else "midline"
    before = limits_for(target, side, parse_screening(some))
    after = limits_for(target, side, parse_screening({**more, **some}))
    assert after.ceiling <= before.ceiling
    if before.refused:
        assert after.refused
    assert set(positions_out(parse_screening(some))) <= set(positions_out(parse_screening({**more, **some})))


@given(context_answers())
def test_answers_survive_their_open_form(answers):
    screening = parse_screening(answers)
    assert parse_screening(open_form(screening)) == screening


def test_a_ceiling_always_has_a_reason_and_is_never_deep():
    refused = set()
    for target in ENTRIES:
        limits = limits_for(target, target.whole, Screening())
        assert 1 <= limits.ceiling <= pressure_table().default_ceiling, target.id
        assert limits.ceiling_reasons, target.id
        if limits.refused:
            assert not limits.overridable
            refused.add(target.id)
    assert refused == {"CV1", "CV8", "ST17", "GV28"}, "what nobody presses, whoever the person is"
    for id in ("ST9", "ST10", "LI17", "LI18", "CV22", "CV16"):
        assert limits_for(catalogue.entry(id), "left", Screening()).ceiling == 1, id


@pytest.mark.parametrize(
    ("answers", "refused", "free"),
    [
        (
            {"pregnancy_weeks": 8},
            {
                "LI4",
                "SP6",
                "BL60",
                "BL67",
                "GB21",
                "BL31",
                "BL34",
                "ST25",
                "CV4",
                "SP13",
                "ear_TF2",
                "foot_womb_prostate",
            },
            {"KI3", "GB34", "ear_TF4", "BL62"},
        ),
        ({"eye_condition": True}, {"BL2"}, {"yintang", "taiyang"}),
        ({"full_stomach": True}, {"CV12", "ST25"}, {"CV17"}),
    ],
)
def test_what_is_refused(answers, refused, free):
    screening = parse_screening(answers)
    for id in refused:
        assert limits_for(catalogue.entry(id), "left", screening).refused, id
    for id in free:
        assert limits_for(catalogue.entry(id), "left", screening).refused is None, id


@pytest.mark.parametrize(
    ("answers", "id", "ceiling"),
    [
        ({"blood_thinner": True}, "ST36", 2),
        ({"low_platelets": True}, "GB21", 2),
        ({"osteoporosis": True}, "BL23", 2),
        ({"osteoporosis": True}, "ST36", 3),
        ({"numb_feet": True}, "foot_head", 2),
        ({"numb_feet": True}, "GB21", 4),
        ({"varicose_veins": True}, "ST36", 2),
        ({"touch_sensitive": True}, "GB21", 2),
        ({"heart_device": True}, "CV17", 1),
        ({"pregnancy_weeks": 20}, "CV12", 1),
        ({}, "BL2", 2),
        ({}, "HT7", 2),
        ({}, "GB34", 2),
    ],
)
def test_ceilings(answers, id, ceiling):
    limits = limits_for(catalogue.entry(id), "left", parse_screening(answers))
    assert limits.ceiling == ceiling


def test_an_arm_without_lymph_nodes_is_left_out_on_that_side_only():
    screening = parse_screening({"lymph_nodes_removed": "left"})
    point = catalogue.entry("PC6")
    assert limits_for(point, "left", screening).refused
    assert limits_for(point, "both", screening).refused, "both sides include the one that must not be pressed"
    assert limits_for(point, "right", screening).refused is None
    assert limits_for(catalogue.entry("SP6"), "left", screening).refused is None
    assert not limits_for(point, "left", screening).overridable


@pytest.mark.parametrize(
    ("weeks", "out"),
    [(6, set()), (13, {"prone"}), (19, {"prone"}), (20, {"prone", "supine"}), (38, {"prone", "supine"})],
)
def test_positions_in_pregnancy(weeks, out):
    assert set(positions_out(parse_screening({"pregnancy_weeks": weeks}))) == out


def test_blood_thinner_forbids_the_stick():
    target = catalogue.entry("ST36")
    assert not limits_for(target, "left", Screening()).no_stick
    assert limits_for(target, "left", parse_screening({"blood_thinner": True})).no_stick


@pytest.mark.parametrize("question", [q for q in questions().values() if q.severity != "context"], ids=lambda q: q.id)
def test_every_red_flag_stops_the_work_and_says_what_to_do(question):
    decided = verdict(parse_screening({"red_flags": [question.id]}))
    assert decided.decision == question.severity
    assert question.say in decided.reasons[0].text
    assert len(question.say) > 10


def test_emergency_comes_first_and_cannot_be_cleared():
    both = {"red_flags": ["new_numbness", "chest_pain"], "cleared": ["new_numbness", "chest_pain"]}
    decided = verdict(parse_screening(both))
    assert decided.decision == "emergency"
    assert [reason.rule for reason in decided.reasons] == ["chest_pain"]
    assert verdict(parse_screening({"red_flags": ["new_numbness"], "cleared": ["new_numbness"]})).decision == "ok"


@pytest.mark.parametrize(
    ("data", "says"),
    [
        ({"pregnant": True}, "there is no question 'pregnant'"),
        ({"pregnancy_weeks": 60}, "whole number from 0 to 43"),
        ({"pregnancy_weeks": True}, "whole number from 0 to 43"),
        ({"lymph_nodes_removed": "up"}, "left, right or both"),
        ({"cannot_lie": "prone"}, "a list of prone"),
        ({"cannot_lie": ["upside_down"]}, "a list of prone"),
        ({"blood_thinner": "yes"}, "must be true or false"),
        ({"red_flags": ["sneezing"]}, "'sneezing' is not a red flag"),
        ({"red_flags": ["blood_thinner"]}, "'blood_thinner' is not a red flag"),
        ({"red_flags": "chest_pain"}, "must be a list"),
    ],
)
def test_answers_that_make_no_sense_name_the_field(data, says):
    with pytest.raises((UnknownId, CoreError), match=says):
        parse_screening(data)


def test_answers_grow_stale_and_sooner_in_pregnancy():
    today = date(2026, 11, 25)
    assert not is_stale(today - timedelta(days=180), today, Screening())
    assert is_stale(today - timedelta(days=181), today, Screening())
    pregnant = parse_screening({"pregnancy_weeks": 20})
    assert not is_stale(today - timedelta(days=28), today, pregnant)
    assert is_stale(today - timedelta(days=29), today, pregnant)


def test_the_strip_names_what_holds_strongest_first():
    strip = limit_strip(parse_screening({"pregnancy_weeks": 22, "light_sensitive": True, "cannot_lie": ["right_side"]}))
    assert strip[0].startswith("Pregnancy: LI4")
    assert "Dim room" in strip
    assert strip[-1] == "Cannot lie on the right side"
    assert limit_strip(Screening()) == ()


def test_force_grows_with_level_and_with_the_area_that_presses():
    for contact in pressure_table().contact_cm2:
        forces = [force_n(level, contact) for level in range(1, 6)]
        assert forces == sorted(set(forces))
    assert force_n(3, "stick") < force_n(3, "finger") < force_n(3, "thumb") < force_n(3, "palm")


def test_rules_are_complete():
    assert len({rule.id for rule in rules()}) == len(rules())
    awake = {one.question for rule in rules() if rule.when for one in (rule.when, *rule.when.inner())}
    asked = {question.id for question in questions().values() if question.severity == "context"}
    assert asked - awake == {"cannot_lie", "deep_pressure_agreed"}, (
        "a question that changes nothing should not be asked"
    )


@pytest.mark.parametrize(
    ("id", "side", "signed", "never"),
    [
        ("CV4", "midline", {"full_stomach": True}, {"pregnancy_weeks": 20}),
        ("LI10", "left", {"recent_vaccination": "left"}, {"lymph_nodes_removed": "left"}),
        ("SP12", "left", {"trauma_touch": True}, {"might_be_pregnant": True}),
    ],
)
def test_a_signature_lifts_nothing_where_one_of_several_refusals_is_final(id, side, signed, never):
    target = catalogue.entry(id)
    one, other, both = (
        limits_for(target, side, parse_screening(answers)) for answers in (signed, never, {**signed, **never})
    )
    assert one.refused and one.overridable
    assert other.refused and not other.overridable
    assert both.refused.rule == other.refused.rule and not both.overridable


def test_what_shortens_a_hold_and_what_allows_a_deep_one_say_so():
    young = limits_for(entry("ST36"), "left", parse_screening({}, 9))
    assert (young.longest_s, young.longest_why) == (30, "Under 12: level 2 at most, and short.")
    assert limits_for(entry("ST36"), "left", parse_screening({}, 40)).longest_why == ""
    agreed = limits_for(entry("ST36"), "left", parse_screening({"deep_pressure_agreed": True}))
    assert agreed.ceiling == 5 and agreed.ceiling_reasons == ("Deep pressure was agreed with this person.",)


def test_the_strip_says_nothing_of_a_place_that_was_not_told():
    told = limit_strip(parse_screening({"scar": ["calf.left"]}))
    untold = limit_strip(parse_screening({"scar": True}))
    assert any("Scar" in line for line in told) and not any("Scar" in line for line in untold)


def test_what_is_for_the_practitioners_eyes_stands_on_no_paper():
    screening = parse_screening({"harm_by_somebody": True, "blood_thinner": True})
    shown, printed = limit_strip(screening), limit_strip(screening, on_paper=True)
    assert any("Safeguarding" in line for line in shown)
    assert set(shown) - set(printed) == {line for line in shown if "Safeguarding" in line}
    ours = Rule(
        id="our_safeguarding",
        when={"question": "harm_by_somebody"},
        touches={"everything": True},
        severity="note",
        short="Call the school's counsellor",
        reason="Call the school's counsellor before the session.",
        source="practice",
    )
    with_ours = screening.model_copy(update={"house": (ours,)})
    assert ours.short in limit_strip(with_ours) and ours.short not in limit_strip(with_ours, on_paper=True)


@pytest.mark.parametrize(
    ("site", "answers", "at", "says"),
    [
        ("calf", {}, 5, "both calves"),
        ("lower_belly", {}, 7, "doctor today"),
        ("upper_belly", {}, 5, "call an ambulance"),
        ("flank", {}, 6, "kidney"),
        ("chest_side", {"osteoporosis": True}, 5, "fracture ruled out"),
        ("chest_side", {}, None, ""),
        ("spine", {"cancer_past": True}, 6, "one vertebra"),
        ("spine", {}, None, ""),
        ("palm", {"bone_spread": True}, None, ""),
    ],
)
def test_soreness_means_something_by_its_place_and_the_person(site, answers, at, says):
    found = [one for one in meanings(site, parse_screening(answers)) if says in one.say]
    assert [one.at_least for one in found] == ([] if at is None else [at])


def test_every_answer_alone_has_its_place_in_the_strip_strongest_first():
    """Whatever is answered, alone or with one more: the strip can be told, and what stops the work stands first."""
    order = ["emergency", "refer", "ask", "refuse", "limit", "note"]
    known = {rule.short: order.index(rule.severity) for rule in rules()}
    told: set[str] = set()
    asked: list[tuple[dict[str, Any], Any]] = [({"pregnancy_weeks": 20}, "male")]  # contradicts itself: asked again
    for question in questions().values():
        asked += [({question.id: value}, "unspecified") for value in (True, 3, [160, 102], ["calf.left"], "left")]
    for answers, sex in asked:
        try:
            screening = parse_screening(answers | {"blood_thinner": True}, 40, sex=sex)
        except CoreError:
            continue  # not how this question is answered
        ranks = [known[short] for short in limit_strip(screening) if short in known]
        assert ranks == sorted(ranks), answers
        told |= {order[rank] for rank in ranks}
    assert told == set(order), "each severity was met"
