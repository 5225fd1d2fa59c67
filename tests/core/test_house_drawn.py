"""Whatever rules and changes a practice draws up, it tightens and never loosens, and what is composed keeps to them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.entries.catalogue import entry, part_names, sites
from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.knowledge.complaints import GROUNDS, ROLE_ORDER, Use, complaint_kinds
from acuthesis.core.compose.knowledge.dose import dose_defaults
from acuthesis.core.compose.knowledge.layer import ComplaintChange, Layer, SchoolChange, layered
from acuthesis.core.compose.knowledge.school import schools
from acuthesis.core.compose.knowledge.technique import techniques
from acuthesis.core.compose.score.arrange import limits_of
from acuthesis.core.compose.score.score import PRESSED
from acuthesis.core.errors import CoreError
from acuthesis.core.safety.limits import limit_strip, limits_at, limits_for, positions_out
from acuthesis.core.safety.pressure import pressure_table
from acuthesis.core.safety.rule import Condition, Rule, Touches
from acuthesis.core.safety.screening import parse_screening, questions
from acuthesis.core.safety.standing import house_rules
from acuthesis.core.safety.verdict import verdict
from tests.tiers import examples

from .test_safety import context_answers

ENTRIES = catalogue.entries()
POINTS = [one for one in ENTRIES if one.kind == "point"]
FLAGS = [one.id for one in questions().values() if one.kind == "flag" and one.severity == "context"]
POSITIONS = ("supine", "prone", "left_side", "right_side", "seated")
STRENGTH = {"ok": 0, "ask": 1, "refer": 2, "emergency": 3}


def some(values, most=3):
    return st.lists(st.sampled_from(sorted(values)), max_size=most, unique=True).map(tuple)


@st.composite
def conditions(draw):
    kind = draw(st.sampled_from(["everybody", "flag", "over", "under"]))
    match kind:
        case "flag":
            return Condition(question=draw(st.sampled_from(FLAGS)))
        case "over":
            return Condition(age_over=draw(st.integers(20, 90)))
        case "under":
            return Condition(age_under=draw(st.integers(10, 60)))
    return None


@st.composite
def rules(draw, severities=("refuse", "limit", "note")) -> Rule:
    severity = draw(st.sampled_from(severities))
    about = draw(st.sampled_from(["ids", "sites", "parts", "tissues", "positions", "techniques", "everything"]))
    tissues = pressure_table().tissue_ceiling
    touches = {
        "ids": Touches(ids=draw(some({one.id for one in POINTS}))),
        "sites": Touches(sites=draw(some(sites()))),
        "parts": Touches(parts=draw(some(part_names(), 2))),
        "tissues": Touches(tissues=draw(some(tissues, 2))),
        "positions": Touches(positions=draw(some(POSITIONS, 2))),
        "techniques": Touches(techniques=draw(some(techniques()))),
        "everything": Touches(everything=severity != "refuse"),
    }[about]
    return Rule(
        id=f"house_{draw(st.integers(0, 10**9))}",
        when=draw(conditions()),
        touches=touches,
        severity=severity,
        ceiling=draw(st.one_of(st.none(), st.integers(1, 5))),
        longest_s=draw(st.one_of(st.none(), st.integers(5, 90))),
        override=draw(st.sampled_from(["never", "signed"])),
        no_stick=draw(st.booleans()),
        no_glide=draw(st.booleans()),
        one_side=draw(st.booleans()),
        short="House rule",
        reason="The house has it so.",
        source="practice",
    )


@examples(150)
@given(
    st.lists(rules(), min_size=1, max_size=4, unique_by=lambda rule: rule.id),
    context_answers(),
    st.integers(17, 95),
    st.sampled_from(ENTRIES),
    st.sampled_from(["left", "right", "both"]),
)
def test_a_house_rule_takes_away_and_gives_nothing(house, answers, age, target, side):
    side = side if target.paired else target.whole
    without = parse_screening(answers, age)
    within = parse_screening(answers, age, house=house_rules(house))
    before, after = limits_for(target, side, without), limits_for(target, side, within)
    assert after.ceiling <= before.ceiling
    assert after.ceiling_reasons
    assert bool(after.refused) >= bool(before.refused)
    assert not (after.overridable and before.refused and not before.overridable), "no signature lifts more than before"
    assert (after.no_stick, after.no_glide, bool(after.one_side)) >= (False, False, False)
    for field in ("no_stick", "no_glide", "one_side"):
        assert bool(getattr(after, field)) >= bool(getattr(before, field)), field
    if before.longest_s is not None:
        assert after.longest_s is not None and after.longest_s <= before.longest_s
    assert set(positions_out(without)) <= set(positions_out(within))
    assert set(limit_strip(without)) <= set(limit_strip(within))
    assert STRENGTH[verdict(within).decision] >= STRENGTH[verdict(without).decision]


@given(rules(("refer",)), context_answers(), st.integers(17, 95))
def test_a_house_rule_that_refers_stops_the_work_where_it_speaks_and_can_be_cleared(rule, answers, age):
    screening = parse_screening(answers, age, house=(rule,))
    without = verdict(parse_screening(answers, age))
    found = [reason for reason in verdict(screening).reasons if reason.rule == rule.id]
    speaks = rule.when is None or (
        (rule.when.age_over is not None and age > rule.when.age_over)
        or (rule.when.age_under is not None and age < rule.when.age_under)
        or (rule.when.question is not None and answers.get(rule.when.question) is True)
    )
    assert bool(found) is bool(speaks)
    if found:
        assert verdict(screening).decision in ("refer", "emergency")
        lifted = screening.model_copy(update={"cleared": (*screening.cleared, found[0].clear)})
        assert verdict(lifted).decision == without.decision


def forbidden(stop, screening):
    """Why a stop must not be in a score, or nothing."""
    limits = limits_of(stop, screening)
    if limits is None:
        return ""
    if limits.refused is not None:
        return limits.refused.text
    if stop.level > limits.ceiling:
        return limits.ceiling_reasons[0]
    return limits.one_side if limits.one_side and stop.side == "both" else ""


WISHES = st.builds(
    lambda kinds, minutes, school: ComposeRequest(
        complaints=[ComplaintNow(id=kind, rating=6, side="right") for kind in kinds], minutes=minutes, school=school
    ),
    st.lists(st.sampled_from(list(complaint_kinds())), min_size=1, max_size=2, unique=True),
    st.integers(10, 45),
    st.sampled_from(list(schools())),
)


def composed(wish, screening, known=None):
    try:
        return compose(wish, screening, known)
    except CoreError as error:
        assert error.where, "where nothing can be composed, it says of which field"
        return None


@examples(25)
@given(WISHES, st.lists(rules(), min_size=1, max_size=3, unique_by=lambda rule: rule.id), context_answers())
def test_what_is_composed_keeps_to_the_house(wish, house, answers):
    screening = parse_screening(answers, 45, house=house_rules(house))
    score = composed(wish, screening)
    if score is None or score.decision != "ok":
        return
    assert not [(stop.id, why) for stop in score.stops if (why := forbidden(stop, screening))]
    assert not {stop.position for stop in score.stops} & set(positions_out(screening))
    said = {row.rule for row in score.left_out}
    for rule in house:
        hit = [one for one in POINTS if one.id in rule.touches.ids and rule.severity == "refuse"]
        named = {use.id for one in wish.complaints for use in complaint_kinds()[one.id].uses}
        awake = limits_for(hit[0], hit[0].whole, screening).refused if hit else None
        if awake is not None and hit[0].id in named and hit[0].id in {row.id for row in score.left_out}:
            assert said, "what the house refuses is listed with its reason"


@st.composite
def layers(draw) -> tuple[str, str, Layer]:
    """A complaint, a school, and what a practice changed in both."""
    kind = complaint_kinds()[draw(st.sampled_from(list(complaint_kinds())))]
    used = [use.id for use in kind.uses]
    added = tuple(
        Use(
            id=draw(st.sampled_from([one.id for one in POINTS])),
            ground=draw(st.sampled_from(GROUNDS)),
            role=draw(st.sampled_from([role for role in ROLE_ORDER if role not in ("warm", "finish")])),
            weight=draw(st.integers(1, 50)) / 10,
            side=draw(st.sampled_from(["affected", "other", "both"])),
            why="ours",
        )
        for _ in range(draw(st.integers(0, 3)))
    )
    school = draw(st.sampled_from(list(schools())))
    change = SchoolChange(
        level_ceiling=draw(st.one_of(st.none(), st.integers(1, 5))),
        most_points=draw(st.one_of(st.none(), st.integers(2, 20))),
        rest_every_s=draw(st.one_of(st.none(), st.integers(200, 2000))),
        second_look_share=draw(st.one_of(st.none(), st.sampled_from([0, 0.1, 0.3]))),
        default_dose=draw(st.one_of(st.none(), st.sampled_from(list(dose_defaults())))),
    )
    removed = draw(st.lists(st.sampled_from(used), max_size=4, unique=True))
    weighed = {id: draw(st.integers(1, 50)) / 10 for id in draw(st.lists(st.sampled_from(used), max_size=3))}
    layer = Layer(
        complaints={kind.id: ComplaintChange(add=added, remove=tuple(removed), weights=weighed)},
        schools={school: change},
    )
    return kind.id, school, layer


@examples(30)
@given(layers(), context_answers(), st.integers(12, 45))
def test_whatever_a_practice_changes_the_score_keeps_every_limit(drawn, answers, minutes):
    kind, school, layer = drawn
    known, screening = layered(layer), parse_screening(answers, 50)
    wish = ComposeRequest(complaints=[ComplaintNow(id=kind, rating=7, side="left")], minutes=minutes, school=school)
    score = composed(wish, screening, known)
    if score is None or score.decision != "ok":
        return
    change = layer.schools[school]
    assert score.total_s <= minutes * 60 + 0.5
    assert not [(stop.id, why) for stop in score.stops if (why := forbidden(stop, screening))]
    pressed = [stop for stop in score.stops if stop.kind in PRESSED]
    if change.level_ceiling is not None:
        assert all(stop.level <= change.level_ceiling for stop in pressed)
    if change.most_points is not None:
        grounding = known.school(school).ground
        counted = {stop.id for stop in pressed if grounding is None or stop.id != grounding.id}
        assert len(counted) <= change.most_points
    gone = set(layer.complaints[kind].remove) - {use.id for use in layer.complaints[kind].add}
    shown = {stop.id for stop in score.stops} | {row.id for row in score.left_out}
    grounding_id = known.school(school).ground.id if known.school(school).ground else ""
    assert not (gone - {grounding_id}) & shown, "what the practice does not use is neither in nor talked about"


@pytest.mark.parametrize("technique", sorted(techniques()))
def test_a_house_rule_on_a_technique_reaches_it_and_no_other(technique):
    one = techniques()[technique]
    rule = Rule(
        id="house_not_this",
        touches=Touches(techniques=(technique,)),
        severity="refuse",
        short="Not here",
        reason="We do not do that here.",
        source="practice",
    )
    screening = parse_screening({}, house=(rule,))
    refused = {id: limits_at(other.on(other.side), screening).refused for id, other in techniques().items()}
    assert {id for id, reason in refused.items() if reason is not None} == {technique}
    assert one.name and refused[technique].text == "We do not do that here."
    assert limits_for(entry("SP6"), "left", screening).refused is None
