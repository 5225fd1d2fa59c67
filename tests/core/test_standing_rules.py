"""Every standing rule of the safety brief, one row each: who, what, and what must then hold."""

import pytest

from acuthesis.core.atlas.entries.catalogue import areas, entry, part_of
from acuthesis.core.compose.knowledge.complaints import complaint_kinds
from acuthesis.core.compose.knowledge.dose import Walk, duration_s
from acuthesis.core.compose.knowledge.technique import techniques
from acuthesis.core.errors import CoreError
from acuthesis.core.safety.limits import limits_at, limits_for, positions_out
from acuthesis.core.safety.pressure import contact_warning, entering, force_n, pressure_table
from acuthesis.core.safety.screening import Screening, parse_screening
from acuthesis.core.safety.standing import rules
from acuthesis.core.safety.verdict import verdict

NOBODY: dict[str, object] = {}
PREGNANT = {"pregnancy_weeks": 24}


def limits(id, side, answers, age=None):
    target = entry(id)
    return limits_for(target, side if target.whole == "both" else target.whole, parse_screening(answers, age))


@pytest.mark.parametrize(
    ("id", "side", "answers"),
    [
        # No pressure, whoever it is.
        *((id, "midline", NOBODY) for id in ("CV8", "CV1", "GV28")),
        ("ST17", "left", NOBODY),
        # Pregnancy.
        *((id, "left", PREGNANT) for id in ("LI4", "SP6", "BL60", "BL67", "GB21", "BL31", "BL32", "BL33", "BL34")),
        *(
            (id, "left", PREGNANT)
            for id in ("ear_TF2", "ear_TF5", "ear_CO18", "foot_womb_prostate", "foot_ovary_testis")
        ),
        *((id, "midline", PREGNANT) for id in ("CV3", "CV4", "CV6")),
        *((id, "left", PREGNANT) for id in ("ST25", "ST29", "zigong")),
        # Lymph nodes removed, a port, a fresh vaccination: that side.
        ("PC6", "left", {"lymph_nodes_removed": "left"}),
        ("GB21", "left", {"lymph_nodes_removed": "left"}),
        ("LU1", "left", {"lymph_nodes_removed": "both"}),
        ("GB30", "right", {"lymph_nodes_groin_removed": "right"}),
        ("LI15", "right", {"recent_vaccination": "right"}),
        ("SP6", "right", {"lymph_nodes_groin_removed": "right"}),
        ("KI27", "left", {"treatment_port": "left"}),
        # A place that was named: tumour, wound, fresh surgery, heat, a vein.
        ("ST36", "left", {"tumour_site": ["lower_leg.left"]}),
        ("LI4", "right", {"broken_skin": ["hand"]}),
        ("BL23", "left", {"recent_surgery": ["low_back"]}),
        ("ST35", "right", {"acute_inflammation": ["knee_front.right"]}),
        ("BL57", "left", {"varicose_veins": ["calf.left"]}),
    ],
)
def test_refused_without_override(id, side, answers):
    found = limits(id, side, answers)
    assert found.refused is not None and found.refused.text
    # A vaccinated arm may be signed for; nothing else here may.
    assert found.overridable == ("recent_vaccination" in answers)


@pytest.mark.parametrize(
    ("id", "side", "answers"),
    [
        ("PC6", "right", {"lymph_nodes_removed": "left"}),
        ("GB21", "right", {"lymph_nodes_removed": "left"}),
        ("GB30", "left", {"lymph_nodes_groin_removed": "right"}),
        ("ST36", "right", {"tumour_site": ["lower_leg.left"]}),
        ("LI4", "left", {"broken_skin": ["foot"]}),
        ("ST36", "left", {"varicose_veins": ["calf.left"]}),
        ("KI27", "right", {"treatment_port": "left"}),
        ("LI4", "left", NOBODY),
        ("BL60", "left", NOBODY),
    ],
)
def test_free_on_the_other_side_or_place(id, side, answers):
    assert limits(id, side, answers).refused is None


@pytest.mark.parametrize(
    ("id", "answers", "age", "ceiling"),
    [
        # Light only.
        *((id, NOBODY, None, 2) for id in ("BL1", "ST1", "ST2", "taiyang", "SI19", "ST7", "LU9", "HT7", "BL40", "LU5")),
        *((id, NOBODY, None, 1) for id in ("ST9", "ST10", "LI17", "LI18", "CV22", "CV15", "HT1")),
        *((id, NOBODY, None, 2) for id in ("GV4", "GV14", "GB26")),
        # Bleeding, bones, feet that cannot warn.
        ("ST36", {"blood_thinner": True}, None, 2),
        ("ST36", {"low_platelets": True}, None, 2),
        ("BL23", {"osteoporosis": True}, None, 2),
        ("ST36", {"osteoporosis": True}, None, 3),
        ("KI1", {"numb_feet": True}, None, 2),
        ("ST36", {"varicose_veins": True}, None, 2),
        ("ST36", {"past_clot": True}, None, 2),
        # Illness and its treatment.
        ("ST36", {"cancer_treatment": True}, None, 2),
        ("BL23", {"bone_spread": True}, None, 1),
        ("ST36", {"tumour_site": True}, None, 2),
        ("CV17", {"heart_device": True}, None, 1),
        ("KI25", {"heart_condition": True}, None, 1),
        # How somebody is today, and how old.
        ("ST36", {"touch_sensitive": True}, None, 2),
        ("ST36", {"alcohol_today": True}, None, 2),
        ("ST36", {"fever_today": True}, None, 2),
        ("ST36", {"frail": True}, None, 3),
        ("ST36", NOBODY, 80, 3),
        ("ST36", NOBODY, 11, 2),
        ("ST36", NOBODY, 40, 4),
        ("GB20", {"jaw_or_neck_disorder": True}, None, 2),
    ],
)
def test_ceilings(id, answers, age, ceiling):
    found = limits(id, "left", answers, age)
    assert found.ceiling <= ceiling
    assert found.ceiling_reasons and all(reason.endswith(".") for reason in found.ceiling_reasons)


@pytest.mark.parametrize(
    ("answers", "out"),
    [
        ({"pregnancy_weeks": 12}, set()),
        ({"pregnancy_weeks": 13}, {"prone"}),
        ({"pregnancy_weeks": 19}, {"prone"}),
        ({"pregnancy_weeks": 20}, {"prone", "supine"}),
        ({"cannot_lie": ["left_side"]}, {"left_side"}),
    ],
)
def test_positions(answers, out):
    found = positions_out(parse_screening(answers))
    assert set(found) == out and all(found.values())


@pytest.mark.parametrize(
    ("answers", "age", "decision", "cleared"),
    [
        ({"blood_pressure_now": [182, 95]}, None, "refer", "pressure_180"),
        ({"blood_pressure_now": [150, 110]}, None, "refer", "pressure_180"),
        ({"blood_pressure_now": [179, 109]}, None, "ok", None),
        ({"pregnancy_weeks": 37}, None, "refer", "pregnancy_late"),
        ({"pregnancy_weeks": 36}, None, "ok", None),
        (NOBODY, 15, "refer", "child_without_consent"),
        (NOBODY, 16, "ok", None),
    ],
)
def test_what_stops_a_session_and_what_clears_it(answers, age, decision, cleared):
    decided = verdict(parse_screening(answers, age))
    assert decided.decision == decision
    if cleared:
        assert decided.reasons[0].text
        assert verdict(parse_screening({**answers, "cleared": [cleared]}, age)).decision == "ok"


def test_an_emergency_cannot_be_cleared():
    with pytest.raises(CoreError, match="is not a red flag"):
        parse_screening({"cleared": ["pregnancy_weeks"]})
    chest = parse_screening({"red_flags": ["chest_pain"], "cleared": ["chest_pain"]})
    assert verdict(chest).decision == "emergency"


@pytest.mark.parametrize(
    ("technique", "answers"),
    [
        ("kidney_rub", PREGNANT),
        ("belly_strokes", PREGNANT),
        ("knees_to_chest", {"osteoporosis": True}),
        ("neck_loosening", {"jaw_or_neck_disorder": True}),
        ("back_rocking", {"bone_spread": True}),
        ("arm_strokes", {"lymph_nodes_removed": "both"}),
        ("calf_strokes", {"broken_skin": ["calf"]}),
    ],
)
def test_techniques_are_held_to_the_same_rules(technique, answers):
    one = techniques()[technique]
    found = limits_at(one.on(one.side), parse_screening(answers))
    assert found.refused is not None


def test_nothing_slides_where_it_may_bruise_and_no_stick_touches_bone():
    assert limits("ST36", "left", {"blood_thinner": True}).no_glide
    assert limits("BL57", "left", {"past_clot": True}).no_glide
    assert not limits("LI11", "left", {"past_clot": True}).no_glide
    for id in ("GV20", "BL1", "LI20", "HT7"):
        assert limits(id, "left", NOBODY).no_stick
    assert limits("ST36", "left", {"low_platelets": True}).no_stick
    assert duration_s(Walk(passes=3, seconds_each=10)) == 30


def test_never_both_sides_of_the_throat():
    for id in ("ST9", "ST10", "LI17", "LI18"):
        assert limits(id, "left", NOBODY).one_side


@pytest.mark.parametrize(
    ("key", "value", "says"),
    [
        ("blood_pressure_now", [120], "two whole numbers"),
        ("blood_pressure_now", [80, 120], "upper one first"),
        ("blood_pressure_now", ["120", 80], "two whole numbers"),
        ("tumour_site", [], "true, or a list of up to 40 places"),
        ("tumour_site", ["moon"], "no place 'moon'"),
        ("broken_skin", ["hand.middle"], "no place 'hand.middle'"),
        ("varicose_veins", "left", "true, or a list of up to 40 places"),
        ("tumour_site", [{"skin": []}], "tumour_site.0.skin"),
        ("platelets", 4000, "a whole number from 0 to 1000"),
        ("thinner_medicine", "leeches", "one of platelet, anticoagulant, two"),
    ],
)
def test_answers_that_do_not_fit_say_where_and_how(key, value, says):
    with pytest.raises(CoreError, match=says) as refused:
        parse_screening({key: value})
    assert refused.value.where.removesuffix(".0") == f"screening.{key}"


def test_levels_contacts_and_entering():
    table = pressure_table()
    assert [level.level for level in table.levels] == [1, 2, 3, 4, 5]
    for level in range(1, 5):
        assert force_n(level, "palm") > force_n(level, "thumb") > force_n(level, "finger") > force_n(level, "stick")
        assert force_n(level + 1, "thumb") > force_n(level, "thumb")
        assert entering(level)[-1] == level and (level == 1 or entering(level)[0] < level)
    assert contact_warning(3, "thumb", "palm") is None
    assert "3.8 times as hard" in contact_warning(3, "thumb", "stick")


def test_a_measured_threshold_lowers_and_never_raises():
    bearable = {level.level: level.n_per_cm2 for level in pressure_table().levels}
    for threshold in (0.4, 1.0, 2.0, 3.5, 9.0):
        measured = parse_screening({}, thresholds={"lower_leg": threshold})
        found = limits_for(entry("ST36"), "left", measured)
        assert found.ceiling <= limits("ST36", "left", NOBODY).ceiling
        assert bearable[found.ceiling] <= threshold * pressure_table().threshold_share or found.ceiling == 1
        assert limits_for(entry("LI11"), "left", measured).ceiling == limits("LI11", "left", NOBODY).ceiling
    with pytest.raises(CoreError, match="no body part 'moon'"):
        parse_screening({}, thresholds={"moon": 2.0})


def test_what_is_refused_on_one_map_is_refused_on_the_other():
    """An area of the second map that stands for a refused one, and what is laid over it, is refused as well."""
    for rule in rules():
        refused = set(rule.touches.ids)
        for area in areas().values() if refused else ():
            if area.answers in refused:
                assert area.id in refused, f"{rule.id} forgets {area.id}, which stands for {area.answers}"
            if area.over:
                assert not set(area.over) <= refused or area.id in refused, f"{rule.id} forgets {area.id}"
    expecting = Screening(answers={"pregnancy_weeks": 20})
    for id in ("foot2_womb_prostate", "foot2_ovary_testis", "foot_pituitary"):
        assert limits_for(entry(id), "left", expecting).refused is not None, id


def test_every_rule_has_a_reason_a_source_and_touches_something():
    for rule in rules():
        assert rule.reason.endswith(".") and rule.short and rule.source in ("first_aid", "tradition", "manual")
        touches = rule.touches
        assert any(
            (
                touches.ids,
                touches.tissues,
                touches.parts,
                touches.sites,
                touches.positions,
                touches.techniques,
                touches.answered,
                touches.everything,
                touches.quarters,
                touches.joints,
                touches.complaints,
                touches.motions,
                rule.session,
            )
        ), rule.id
        asked = (rule.when, *rule.when.inner()) if rule.when is not None else ()
        named = {id for one in asked for id in one.complaint} | set(touches.complaints)
        assert named <= set(complaint_kinds()), rule.id
        if rule.severity == "limit":
            assert rule.ceiling or touches.positions or rule.longest_s or rule.session, rule.id


# Where the main points of a complaint must lie: at least one of them on one of these parts.
WHERE = {
    "tension_headache": {"head"},
    "migraine": {"head"},
    "eye_strain": {"head"},
    "jaw_tension": {"head"},
    "tinnitus": {"head"},
    "shoulder_pain": {"trunk", "upper_arm"},
    "elbow_pain": {"forearm", "upper_arm"},
    "wrist_hand_overuse": {"hand"},
    "finger_stiffness": {"hand"},
    "upper_back_ache": {"trunk"},
    "low_back_ache": {"trunk"},
    "hip_stiffness": {"trunk", "thigh"},
    "knee_pain": {"lower_leg", "thigh"},
    "ankle_stiffness": {"lower_leg", "foot"},
    "heel_pain": {"foot", "lower_leg"},
    "calf_cramp": {"lower_leg"},
    "constipation": {"trunk"},
    "cough": {"trunk"},
}


@pytest.mark.parametrize("kind", WHERE)
def test_main_points_are_local_and_far_points_are_not(kind):
    uses = [use for use in complaint_kinds()[kind].uses if use.ground == "points"]
    main = {part_of(entry(use.id)) for use in uses if use.role == "main"}
    far = {part_of(entry(use.id)) for use in uses if use.role == "far"}
    assert main & WHERE[kind]
    assert far - WHERE[kind], "a far point lies elsewhere"


def test_side_of_a_use_follows_the_complaint():
    sided = {kind.id for kind in complaint_kinds().values() if kind.sides == "affected"}
    assert {"shoulder_pain", "knee_pain", "heel_pain", "sciatic_leg_pain", "jaw_tension"} <= sided
    assert not sided & {"poor_sleep", "nausea", "tension_headache", "tired_legs"}
    across = [use for kind in complaint_kinds().values() for use in kind.uses if use.side == "other"]
    assert {use.id for use in across} >= {"LI11", "TE4"}, "joints that answer to those of the other side"


def test_an_empty_screening_limits_nothing_but_what_everybody_shares():
    assert verdict(Screening()).decision == "ok"
    assert positions_out(Screening()) == {}
