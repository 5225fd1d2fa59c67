"""Schools are data, a practice's changes are a layer, and a protocol is held to the next person's limits."""

from pathlib import Path

import pytest
import yaml
from hypothesis import given
from pydantic import ValidationError

from acuthesis.core.atlas.entries.catalogue import entry
from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.programme import ProgrammeRequest, programme
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.home.plan import HomeWish, home_plan
from acuthesis.core.compose.knowledge.complaints import Use
from acuthesis.core.compose.knowledge.dose import DATA, Hold
from acuthesis.core.compose.knowledge.layer import (
    ComplaintChange,
    Knowledge,
    Layer,
    OwnComplaint,
    SchoolChange,
    layered,
    shipped,
)
from acuthesis.core.compose.knowledge.school import read_school, school_of
from acuthesis.core.compose.score.arrange import arrange
from acuthesis.core.compose.score.protocol import Protocol, apply_protocol, protocol_of
from acuthesis.core.compose.score.score import PRESSED
from acuthesis.core.errors import CoreError, NotAllowed, UnknownId
from acuthesis.core.reason import Reason
from acuthesis.core.safety.limits import limit_strip, limits_for
from acuthesis.core.safety.rule import Condition, Rule, Touches
from acuthesis.core.safety.screening import Screening, parse_screening
from tests.saying import said
from tests.tiers import examples

from .test_safety import context_answers

SHOULDER = ComplaintNow(id="shoulder_pain", rating=7, side="right")

MOON_SCHOOL = """
id: moonlit_hands
name: Moonlit hands
works_on: Hands by night, one after the other, and nothing else.
draws: {reflexes: 1.0}
phases:
  - {id: arrive, name: Arrive, direction: settle, kinds: [breathe]}
  - {id: calm, name: First the calm, direction: settle, roles: [calm]}
  - {id: work, name: Fingers to wrist, direction: tone, roles: [main, supply], by_side: true}
  - {id: close, name: Close, direction: ground, kinds: [close]}
order: {scope: whole, within: toes_to_heel}
prefers: {parts: [hand], factor: 2.5}
sides: right_then_left
doses: {default: small_circles}
range: [1.0, 1.5]
level_ceiling: 1
sore_spot: {then: leave, words: Leave it until tomorrow.}
second_look_share: 0
load: {site_s: 200}
most_points: 6
rest_every_s: 600
closing: {dose: closing, words: Hands in the lap.}
turning: Toward the moon.
"""


def test_a_new_school_is_one_data_file(tmp_path: Path):
    path = tmp_path / "moonlit_hands.yaml"
    path.write_text(MOON_SCHOOL)
    school = read_school(path)
    known = Knowledge(shipped().complaints, {**shipped().schools, school.id: school}, shipped().doses)
    score = compose(ComposeRequest(complaints=[SHOULDER], minutes=20, school="moonlit_hands"), Screening(), known)
    pressed = [stop for stop in score.stops if stop.kind in PRESSED]
    assert [stop.phase for stop in pressed] == sorted((stop.phase for stop in pressed), key=["calm", "work"].index)
    assert {stop.level for stop in pressed} == {1} and len(pressed) <= 6 * 2
    assert all("Moonlit hands uses level 1" in stop.ceiling_reasons[0] for stop in pressed)
    assert {stop.kind for stop in score.stops} == {"point", "area", "breathe", "close"} - {"point"}
    assert any(row.rule in ("load", "most") for row in score.left_out)


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"doses": {"default": "hug"}}, "names the dose 'hug'"),
        ({"load": {"site_s": 200, "sites": {"moon": 3}}}, "names the site 'moon'"),
        ({"phases": [{"id": "work", "name": "Work", "direction": "work", "roles": ["main"]}]}, "no phase with"),
    ],
)
def test_a_school_that_cannot_be_says_where(tmp_path, change, says):
    path = tmp_path / "school.yaml"
    path.write_text(yaml.safe_dump({**yaml.safe_load(MOON_SCHOOL), **change}))
    with pytest.raises(UnknownId, match=says):
        read_school(path)


def test_every_school_file_is_read():
    assert {path.stem for path in (DATA / "schools").glob("*.yaml")} == set(shipped().schools)


def test_a_practice_changes_what_is_used_and_it_shows():
    own = Use(id="SP6", ground="points", role="far", weight=5, side="both", why="our own habit")
    layer = Layer(
        complaints={"shoulder_pain": ComplaintChange(add=(own,), remove=("LI15",), weights={"TE14": 5})},
        schools={"channel_acupressure": SchoolChange(level_ceiling=2, most_points=9)},
    )
    known = layered(layer)
    assert known.changed == {"shoulder_pain", "channel_acupressure"}
    score = compose(ComposeRequest(complaints=[SHOULDER]), Screening(), known)
    ids = {stop.id for stop in score.stops}
    assert "SP6" in ids and "LI15" not in ids and "LI15" not in {row.id for row in score.left_out}
    assert max(stop.level for stop in score.stops if stop.kind in PRESSED) == 2
    assert len({stop.id for stop in score.stops if stop.kind in PRESSED}) <= 9
    fewer = layered(layer.model_copy(update={"schools": {"channel_acupressure": SchoolChange(most_points=5)}}))
    few = compose(ComposeRequest(complaints=[SHOULDER]), Screening(), fewer)
    assert len({stop.id for stop in few.stops if stop.kind in PRESSED}) <= 5
    assert shipped().complaints["shoulder_pain"].uses != known.complaints["shoulder_pain"].uses


def test_a_programme_and_its_home_sets_use_what_the_practice_changed():
    layer = Layer(complaints={"shoulder_pain": ComplaintChange(remove=("LI15",), home=("HT7", "LI11"))})
    first = ComposeRequest(complaints=[SHOULDER], minutes=25)
    plan = programme(ProgrammeRequest(first=first, visits=2), Screening(), layered(layer))
    assert "LI15" not in {stop.id for visit in plan.visits for stop in visit.score.stops}
    assert plan.home[0].points[0].id == "HT7"
    stopped = programme(ProgrammeRequest(first=first), parse_screening({"red_flags": ["chest_pain"]}))
    assert not stopped.home, "an emergency takes nothing home"


def house(**change) -> Rule:
    row = {
        "id": "house_no_calf",
        "when": Condition(age_over=60),
        "touches": Touches(sites=("calf",)),
        "severity": "refuse",
        "short": "House: no calves over 60",
        "reason": "House rule.",
        "source": "practice",
    }
    return Rule(**{**row, **change})


def test_house_rules_tighten_and_never_loosen():
    layered(Layer(rules=(house(),)))
    strict = parse_screening({}, age=70, house=(house(),))
    assert limits_for(entry("BL57"), "left", strict).refused.rule == "house_no_calf"
    assert "House: no calves over 60" in limit_strip(strict)
    assert limits_for(entry("BL57"), "left", parse_screening({}, age=50, house=(house(),))).refused is None
    loose = house(id="house_deep", when=None, touches=Touches(everything=True), severity="limit", ceiling=5)
    for id in ("PC6", "ST36", "CV8"):
        target = entry(id)
        before = limits_for(target, target.whole, Screening())
        after = limits_for(target, target.whole, parse_screening({}, house=(loose,)))
        assert (after.ceiling, after.refused) == (before.ceiling, before.refused)


@pytest.mark.parametrize(
    ("layer", "says"),
    [
        (Layer(rules=(house(id="never_pressed"),)), "is a standing rule"),
        (Layer(rules=(house(touches=Touches(sites=("moon",))),)), "touches 'moon'"),
        (Layer(complaints={"moon_ache": ComplaintChange()}), "neither a complaint nor a school"),
        (Layer(complaints={"migraine": ComplaintChange(remove=("SP99",))}), "SP99"),
        (Layer(schools={"ear_points": SchoolChange(default_dose="hug")}), "no dose 'hug'"),
    ],
)
def test_a_layer_that_cannot_be_is_refused_whole(layer, says):
    with pytest.raises(CoreError, match=says):
        layered(layer)


def shoulder_protocol() -> Protocol:
    wanted = [SHOULDER, ComplaintNow(id="low_back_ache", rating=5)]
    score = compose(ComposeRequest(complaints=wanted, minutes=45), Screening())
    return protocol_of(score, "Rods overhead", "after the matinée", ["shoulder_pain"], "right")


def test_a_protocol_is_mirrored_screened_and_fitted():
    protocol = shoulder_protocol()
    assert Protocol.model_validate_json(protocol.model_dump_json()) == protocol
    plain = apply_protocol(protocol, Screening(), 45, "left")
    mirror = {"right": "left", "left": "right"}
    sides = [
        (mirror.get(stop.side, stop.side), new.side) for stop, new in zip(protocol.stops, plain.stops, strict=True)
    ]
    assert all(wanted == side for wanted, side in sides) and any(side == "left" for _, side in sides)
    assert "Mirrored" in plain.notes[-1]
    assert [stop.id for stop in plain.stops] == [stop.id for stop in protocol.stops]

    pregnant = parse_screening({"pregnancy_weeks": 24})
    careful = apply_protocol(protocol, pregnant, 45, "right")
    gone = {row.id for row in careful.left_out if row.severity == "refuse"}
    assert gone == {stop.id for stop in protocol.stops} & {
        "LI4",
        "GB21",
        "BL60",
        "BL32",
        "SP6",
        "kidney_rub",
        "knees_to_chest",
    }
    assert gone
    assert {stop.position for stop in careful.stops} <= {"seated", "half_reclined", "left_side", "right_side"}

    short = apply_protocol(protocol, Screening(), 25, "right")
    assert short.total_s <= 25 * 60
    assert "shortened" in short.notes[0]
    assert apply_protocol(protocol, parse_screening({"red_flags": ["chest_pain"]}), 45).decision == "emergency"


@examples(40)
@given(context_answers())
def test_an_applied_protocol_keeps_every_limit(answers):
    screening = parse_screening(answers)
    school = school_of("channel_acupressure")
    try:
        score = apply_protocol(PROTOCOL, screening, 45, "left", school)
    except CoreError as error:
        assert "nothing in “Rods overhead” is allowed" in said(error.message)
        return
    if score.decision == "ok":
        assert arrange(score.stops, screening, school) == score.stops
        named = {stop.id for stop in score.stops} | {row.id for row in score.left_out}
        assert named == {stop.id for stop in PROTOCOL.stops}


PROTOCOL = shoulder_protocol()


def test_a_protocol_with_a_strange_stop_or_none_is_refused():
    strange = PROTOCOL.stops[3].model_copy(update={"kind": "point", "id": "SP99", "dose": Hold(seconds=30)})
    with pytest.raises(UnknownId, match="SP99"):
        apply_protocol(PROTOCOL.model_copy(update={"stops": (strange,)}), Screening(), 30)
    nowhere = parse_screening({"lymph_nodes_removed": "both"})
    hand = PROTOCOL.stops[3].model_copy(update={"kind": "point", "id": "LI4", "side": "both", "position": "seated"})
    with pytest.raises(CoreError, match="nothing in “Rods overhead” is allowed"):
        apply_protocol(PROTOCOL.model_copy(update={"stops": (hand,)}), nowhere, 30)


def written(kind="point", id="ST36", side="right", position="supine", dose=None, level=3, **more):
    """A protocol of one stop, and of one at the hand, which anybody may have."""
    hold = {"form": "hold", "seconds": 40}
    stop = {"key": "1", "kind": kind, "id": id, "side": side, "position": position, "level": level, **more}
    plain = {"key": "2", "kind": "point", "id": "SI3", "side": "right", "position": position, "level": 1, "dose": hold}
    return Protocol(name="One stop", minutes=20, stops=[{**stop, "dose": dose or hold}, plain])


GLIDES = {"form": "glide", "seconds_each": 4, "strokes": 8}


@pytest.mark.parametrize(
    ("protocol", "answers", "says", "becomes"),
    [
        (written(id="ST9", side="both", level=1, position="supine"), {}, "Left side only: ", {"side": "left"}),
        (
            written(contact="stick"),
            {"blood_thinner": True},
            "Without the pressing stick.",
            {"contact": "thumb", "level": 2},
        ),
        (written(dose=GLIDES), {"blood_thinner": True}, "Held instead of gliding", {"level": 2}),
        (
            written("stroke", "thigh_strokes", "both", dose=GLIDES),
            {"blood_thinner": True},
            "Hand contact only",
            {"level": 1},
        ),
        (
            written(id="GV16", side="midline", position="prone", dose={"form": "hold", "seconds": 90}),
            {},
            "Shorter: ",
            {"duration_s": 45.0, "level": 2},
        ),
        (
            written(),
            {"pregnancy_weeks": 24},
            "Position changed: From week 20, lying flat",
            {"level": 2},
        ),
        (written(side="both"), {"lymph_nodes_groin_removed": "left"}, "Right side only: ", {"side": "right"}),
    ],
)
def test_what_was_written_for_somebody_else_is_made_lighter_and_says_why(protocol, answers, says, becomes):
    score = apply_protocol(protocol, parse_screening(answers, 40), 20)
    (stop,) = [one for one in score.stops if one.key == "1"]
    assert any(reason.startswith(says) for reason in stop.why), stop.why
    assert {name: getattr(stop, name) for name in becomes} == becomes


def own_entry_like(id: str, model: str = "TE14"):
    """A point of a practice's own, where a shipped one lies."""
    return entry(model).model_copy(update={"id": id})


def test_a_practice_adds_a_complaint_with_points_of_its_own():
    knot = own_entry_like("own_rod_knot")
    uses = (
        Use(id="own_rod_knot", ground="points", role="main", weight=4, side="affected", why="our own find"),
        Use(id="LI11", ground="points", role="far", weight=3, side="affected", why=""),
        Use(id="HT7", ground="points", role="calm", weight=2, side="both", why=""),
    )
    layer = Layer(
        own_complaints={
            "own_rod_arm": OwnComplaint(
                name="Rod arm", sides="affected", stop_if=("a numb hand",), acts=("a scene with rods",)
            )
        },
        complaints={"own_rod_arm": ComplaintChange(add=uses, home=("LI11",))},
    )
    known = layered(layer, {"own_rod_knot": knot})
    assert known.complaint("own_rod_arm").evidence.strength == "none"
    wish = ComposeRequest(complaints=[ComplaintNow(id="own_rod_arm", rating=7, side="right")], minutes=25)
    score = compose(wish, Screening(), known)
    stop = next(one for one in score.stops if one.id == "own_rod_knot")
    assert (stop.side, stop.why[0]) == ("right", "Rod arm: our own find.")
    assert [row.name for row in score.coverage] == ["Rod arm"]
    assert score.coverage[0].local and score.coverage[0].far and score.coverage[0].calm
    assert any("Rod arm: stop and refer in case of a numb hand." in note for note in score.notes)
    assert home_plan(["own_rod_arm"], Screening(), HomeWish(), known).places[0].id == "LI11"
    # On a body where it lies on a refused place, it is left out with that reason, and no signature lifts it.
    why = Reason(rule="own_near", severity="refuse", text="0.4 cm from LI18. Throat.")
    here = Screening(refused_here={"own_rod_knot": why})
    left = compose(wish, here, known)
    assert "own_rod_knot" not in {one.id for one in left.stops}
    [row] = [row for row in left.left_out if row.id == "own_rod_knot"]
    assert (row.reason, row.severity, row.overridable) == (why.text, "refuse", False)
    with pytest.raises(NotAllowed, match=r"is pinned but not possible: 0\.4 cm from LI18"):
        compose(wish.model_copy(update={"pinned": ["own_rod_knot"]}), here, known)
    with pytest.raises(UnknownId, match="own_rod_knot"):
        compose(ComposeRequest(complaints=[SHOULDER], pinned=["own_rod_knot"]), Screening())


def test_names_outlive_the_complaint():
    assert shipped().name_of("heel_pain") == "Heel pain"
    assert shipped().name_of("own_rod_arm") == "Rod arm"


@pytest.mark.parametrize(
    ("layer", "says"),
    [
        (Layer(own_complaints={"rod_arm": OwnComplaint(name="Rod arm")}), "has an id like own_"),
        (Layer(own_complaints={"own_x": OwnComplaint(name="X", techniques=("hug",))}), "technique 'hug'"),
        (
            Layer(
                own_complaints={"own_x": OwnComplaint(name="X")},
                complaints={
                    "own_x": ComplaintChange(
                        add=(Use(id="own_gone", ground="points", role="main", weight=1, side="both", why=""),)
                    )
                },
            ),
            "own_gone",
        ),
        (Layer(complaints={"own_gone": ComplaintChange(remove=("SP6",))}), "neither a complaint nor a school"),
        (Layer(complaints={"heel_pain": ComplaintChange(weights={"SP99": 2})}), "SP99"),
    ],
)
def test_changes_that_cannot_be_say_where(layer, says):
    with pytest.raises(CoreError, match=says):
        layered(layer)


@pytest.mark.parametrize("weight", [0, 0.05, 5.01, -1, float("nan"), float("inf")])
def test_a_weight_out_of_range_is_refused_and_not_bent(weight):
    with pytest.raises(ValidationError, match="weights"):
        ComplaintChange(weights={"GB21": weight})


def test_a_home_set_that_was_emptied_stays_empty():
    def home(kinds, change):
        known = layered(Layer(complaints={"shoulder_pain": change}))
        return home_plan(kinds, Screening(), HomeWish(), known).places

    emptied = ComplaintChange(home=())
    assert home(["shoulder_pain"], ComplaintChange())
    assert home(["shoulder_pain"], emptied) == ()
    assert home(["shoulder_pain", "poor_sleep"], emptied) == home(["poor_sleep"], emptied)
