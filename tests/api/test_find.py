"""Finding over the API: search that forgives, a practice's own points, what hands found, what to measure next."""

import uuid
from typing import Any

import numpy as np
import pytest

from tests.tiers import some

from .conftest import Newcomer
from .test_stations import problem

SHIN = {
    "id": "own_shin_spot",
    "names": {"english": "Shin spot"},
    "site": "shin_outer",
    "feel": "A hollow beside the crest.",
    "methods": [
        {
            "name": "five parts below the crease",
            "place": {"line": "shin_crest_outer", "segment": "lower_leg_outer", "from": "popliteal_crease", "cun": 5},
        }
    ],
}


def changed(**change):
    return {**SHIN, **change}


def rule(**change):
    return changed(methods=[{"name": "a rule", "place": {**SHIN["methods"][0]["place"], **change}}])


def placed(place):
    return changed(methods=[{"name": "a rule", "place": place}])


@pytest.fixture
def own(stranger):
    """The other practice, with one point of its own; gone again afterwards."""
    made = stranger.put("/api/atlas/own", json={"row": SHIN})
    assert made.status_code == 200, made.text
    yield stranger
    for row in stranger.get("/api/atlas/own").json():
        stranger.delete("/api/atlas/own", params={"id": row["id"], "version": row["version"]})


@pytest.mark.parametrize(
    ("typed", "found"),
    [
        ("san yin jiao", "SP6"),
        ("sanyinjao", "SP6"),  # a letter is missing
        ("zu san ly", "ST36"),  # and one is wrong
        ("below the kneecap", "ST36"),
        ("between the two tendons of the forearm", "PC6"),
        ("inner wrist", "HT7"),
        ("poor sleep", "HT7"),
        ("belly button", "ST25"),
        ("TF4", "ear_TF4"),
    ],
)
def test_search_forgives(ode, typed, found):
    assert found in [row["id"] for row in ode.get("/api/atlas/search", params={"q": typed}).json()]


def test_nothing_is_found_by_nothing(ode):
    for typed in ("", " -- ", "qqqqqqqq", "%", "'; --"):
        assert ode.get("/api/atlas/search", params={"q": typed}).json() == []


def test_an_own_point_is_placed_found_and_seen_by_its_practice_only(own, ode, cast):
    assert own.get("/api/atlas/search?q=shin spot").json()[0]["id"] == SHIN["id"]
    assert SHIN["id"] not in [row["id"] for row in ode.get("/api/atlas/search?q=shin spot").json()]
    tamsin = cast["Tamsin"]["person_id"]
    problem(ode.get(f"/api/people/{tamsin}/places/{SHIN['id']}"), 422, "There is no point or area")
    pack = own.get("/api/atlas/file?own=true").json()
    taken = ode.post("/api/atlas/file", json=pack)
    assert taken.json() == {"added": [SHIN["id"]], "changed": []}
    located = ode.get(f"/api/people/{tamsin}/places/{SHIN['id']}?side=right").json()
    assert located["level_cun"] == pytest.approx(5, abs=0.02)
    assert located["position_cm"][0] < 0
    figure = ode.get(f"/api/people/{tamsin}/figure").json()
    assert {(one["id"], one["side"]) for one in figure["places"]} >= {(SHIN["id"], "left"), (SHIN["id"], "right")}
    x, y, z = located["position_cm"]
    assert ode.get(f"/api/people/{tamsin}/nearby?x={x}&y={y}&z={z}").json()[0]["id"] == SHIN["id"]
    assert ode.delete("/api/atlas/own", params={"id": SHIN["id"], "version": 1}).status_code == 204
    assert ode.get("/api/atlas/own").json() == []


def test_a_place_beside_a_landmark_comes_to_lie_on_the_skin(own, newcomer):
    away = {"move": "fibula_head", "by": {"distal": 1}, "cun": "lower_leg_outer", "in": "lower_leg"}
    row = {**placed({"drop": away}), "id": "own_below_the_knob"}
    tried = newcomer.client.post(f"/api/people/{newcomer.id}/trial", json={"row": row, "side": "right"})
    assert tried.status_code == 200, tried.text
    assert tried.json()["position_cm"][0] < 0
    assert any("Find the head of the fibula" in step for step in tried.json()["steps"])
    assert newcomer.client.get("/api/atlas/own").json() == [], "trying keeps nothing"


def test_a_preferred_place_is_the_places_of_the_whole_practice(stranger):
    person = Newcomer(stranger)
    standard = person.get("/places/GB39").json()
    (older,) = standard["alternatives"]
    assert older["id"] == "behind" and older["off_cm"] > 1 and standard["under"]["layers"][0]["name"] == "skin"

    def prefer(alternative, point="GB39"):
        return stranger.put(f"/api/practice/preferred/{point}", json={"alternative": alternative})

    def on_figure():
        return [one["position_cm"] for one in person.get("/figure").json()["places"] if one["id"] == "GB39"]

    before = on_figure()
    problem(prefer("somewhere"), 422, "behind")
    problem(prefer("behind", "SP6"), 422, "SP6")
    assert prefer("behind").json()["layer"]["preferred"] == {"GB39": "behind"}
    now = person.get("/places/GB39").json()
    assert now["position_cm"] == pytest.approx(older["position_cm"], abs=1e-3)
    assert [one["school"] for one in now["alternatives"]] == ["the international standard"]
    assert len(on_figure()) == len(before) == 2 and on_figure() != before, "it stands once on each side"
    x, y, z = older["position_cm"]
    near = person.get(f"/nearby?x={x}&y={y}&z={z}").json()
    assert next(one["distance_cm"] for one in near if one["id"] == "GB39") < 0.2
    assert prefer(None).json()["layer"]["preferred"] == {}
    assert person.get("/places/GB39").json()["position_cm"] == standard["position_cm"] and on_figure() == before


def test_an_own_point_on_a_refused_one_is_refused(own):
    other = Newcomer(own)
    sp6 = {"line": "shin_inner_border_behind", "segment": "lower_leg_inner", "from": "medial_malleolus_prominence"}
    for id, cun in (("own_by_another_name", 3.2), ("own_higher_up", 6)):
        made = own.put(
            "/api/atlas/own",
            json={"row": {**placed({**sp6, "cun": cun}), "id": id, "site": "leg_inner"}},
        )
        assert made.status_code == 200, made.text
    assert other.get("/places/own_by_another_name").json()["refused"] is None
    other.screen(pregnancy_weeks=12)
    refused = other.get("/places/own_by_another_name?side=right").json()["refused"]
    assert "cm from SP6. Traditionally not pressed in pregnancy." in refused["text"]
    assert other.get("/places/own_higher_up").json()["refused"] is None
    left_out = {one["id"] for one in other.get("/figure").json()["places"] if one["refused"]}
    assert "own_by_another_name" in left_out
    assert "own_higher_up" not in left_out

    # A score takes the one that may be pressed, by itself and as a whole, and not the other.
    complaint = other.complain("tired_legs")
    stops = other.compose(complaint, minutes=30).json()["score"]["stops"]
    add = f"/api/visits/{other.visit_id}/stops"
    free = other.client.post(add, json={"id": "own_higher_up", "side": "right"})
    assert free.status_code == 200, free.text
    problem(other.client.post(add, json={"id": "own_by_another_name"}), 422, "pregnancy")
    assert other.edit([*stops[:-2], free.json(), *stops[-2:]]).status_code == 200
    smuggled = {**free.json(), "id": "own_by_another_name", "key": "own-1"}
    problem(other.edit([*stops[:-2], smuggled, *stops[-2:]]), 422, "pregnancy")


def test_an_own_point_is_changed_only_by_who_saw_it_last(own):
    again = own.put("/api/atlas/own", json={"row": changed(feel="A dip."), "version": 1})
    assert again.json()["version"] == 2
    problem(own.put("/api/atlas/own", json={"row": SHIN, "version": 1}), 409, "changed in another window")
    problem(own.put("/api/atlas/own", json={"row": SHIN}), 409, "already exists")
    problem(own.delete("/api/atlas/own", params={"id": SHIN["id"], "version": 1}), 409, "changed in another window")
    assert own.get("/api/atlas/own").json()[0]["row"]["feel"] == "A dip."


@pytest.mark.parametrize(
    ("row", "where", "says"),
    [
        (changed(id="SP6"), "id", "begins with own_"),
        (rule(**{"from": "left_antler"}), "row", "landmark 'left_antler', which does not exist"),
        (rule(cun=19), "methods.0.place.cun", "level 19 is not on the outer lower leg, which is 16 cun long"),
        (rule(line="tail"), "row", "'tail' does not exist"),
        (rule(segment="tail"), "row", "'tail' does not exist"),
        (changed(site="moon"), "row", "site 'moon', which does not exist"),
        (changed(colour="red"), "colour", "Extra inputs"),
        (changed(methods=[]), "methods", "at least 1 item"),
        (placed("joint.knee"), "row", "cm off the skin"),
        (placed({"skin": "joint.tail", "toward": {"lateral": 1}, "in": "foot"}), "row", "no joint 'tail'"),
        (placed({"skin": "joint.knee", "toward": {"up": 1}, "in": "foot"}), "row", "'up' is not a direction here"),
        (placed({"between": ["glabella", "vertex"], "at": 1.9}), "row", "off the skin"),
        (placed(5), "methods.0.place", "valid string"),
        (placed({"drop": {"between": ["glabella"]}}), "methods.0.place", "between"),
    ],
)
def test_a_rule_that_cannot_be_is_refused_with_its_place(stranger, row, where, says):
    refused = problem(stranger.put("/api/atlas/own", json={"row": row}), 422, says)
    assert where in refused["where"], refused
    pack = {"format": "acuthesis.atlas", "version": 1, "entries": [changed(id="own_first"), row]}
    refused = problem(stranger.post("/api/atlas/file", json=pack), 422, says)
    assert refused["where"].startswith("entries.1"), refused
    assert stranger.get("/api/atlas/own").json() == [], "nothing half-kept"


def test_a_file_that_is_no_atlas_is_refused(stranger):
    nest: Any = "glabella"
    for _ in range(40):
        nest = {"between": [nest, "vertex"]}
    refused = stranger.put("/api/atlas/own", json={"row": changed(methods=[{"name": "nest", "place": nest}])})
    problem(refused, 422, "nested too deep")
    many = {"format": "acuthesis.atlas", "version": 1, "entries": [{}] * 2001}
    problem(stranger.post("/api/atlas/file", json=many), 422, "at most 2000")
    problem(stranger.post("/api/atlas/file", json={"format": "other", "entries": []}), 422, "format")
    problem(
        stranger.post("/api/atlas/file", content=b"x" * 9_000_000, headers={"Content-Type": "application/json"}),
        413,
        "8 MB",
    )
    problem(stranger.post("/api/atlas/file", content=b"{ nope", headers={"Content-Type": "application/json"}), 422, "")


def test_the_whole_atlas_comes_out_as_a_file(ode):
    answer = ode.get("/api/atlas/file")
    assert "attachment" in answer.headers["content-disposition"]
    pack = answer.json()
    assert len(pack["entries"]) == len(ode.get("/api/atlas").json())
    assert next(row for row in pack["entries"] if row["id"] == "SP6")["methods"][0]["place"]["line"]


def test_what_a_hand_found_is_remembered(newcomer):
    # The rule's place, and one 6 mm behind it.
    rule_at = np.array(newcomer.get("/places/foot_liver?side=right").json()["position_cm"])
    found = {
        "id": str(uuid.uuid4()),
        "entry": "foot_liver",
        "side": "right",
        "found_cm": [rule_at[0], rule_at[1], rule_at[2] - 0.6],
        "soreness": 5,
        "texture": "grit",
    }
    kept = newcomer.client.post(f"/api/people/{newcomer.id}/findings", json=found)
    assert kept.status_code == 201, kept.text
    assert "6 mm towards the heel" in kept.json()["words"]
    assert "soreness 5, grit" in kept.json()["words"]
    again = newcomer.client.post(f"/api/people/{newcomer.id}/findings", json=found)
    assert again.json() == kept.json()
    (only,) = newcomer.get("/findings").json()
    assert only == kept.json()
    # The person's own map follows the figure: on a longer foot the place lies as far beside the rule's.
    newcomer.measure(measures_cm={"foot_length": 27})
    there = np.array(newcomer.get("/places/foot_liver?side=right").json()["position_cm"])
    assert np.linalg.norm(np.array(newcomer.get("/findings").json()[0]["position_cm"]) - there) == pytest.approx(
        0.6, abs=0.15
    )
    changes: list[tuple[dict[str, Any], str]] = [
        ({"side": "left"}, "not on the left"),
        ({"found_cm": [0, 100, 0]}, "at most 4 cm away"),
        ({"soreness": 11}, "less than or equal to 10"),
        ({"found_cm": None, "offset": {"mm": {"sideways": 3}}}, "not a direction"),
        ({"found_cm": None, "offset": {"mm": {"distal": 300}}}, "less than or equal to 40"),
        ({"entry": "SP99"}, "There is no point or area"),
    ]
    for change, says in changes:
        wrong = {**found, "id": str(uuid.uuid4()), **change}
        problem(newcomer.client.post(f"/api/people/{newcomer.id}/findings", json=wrong), 422, says)
    assert len(newcomer.get("/findings").json()) == 1
    record = newcomer.get("/record").json()
    assert record["findings"][0]["offset_mm"] == only["offset"]["mm"]


def test_what_is_near_names_points_areas_and_landmarks(newcomer):
    sp6 = newcomer.get("/places/SP6").json()["position_cm"]
    near = newcomer.get(f"/nearby?x={sp6[0]}&y={sp6[1] + 0.4}&z={sp6[2]}").json()
    assert (near[0]["id"], near[0]["side"]) == ("SP6", "left")
    assert near[0]["distance_cm"] == pytest.approx(0.4, abs=0.15)
    area = newcomer.get("/places/foot_kidney").json()["position_cm"]
    inside = newcomer.get(f"/nearby?x={area[0]}&y={area[1]}&z={area[2]}").json()
    assert ("foot_kidney", 0) in [(one["id"], one["distance_cm"]) for one in inside]
    ankle = newcomer.get("/places/SP6").json()["landmarks"]["medial_malleolus_prominence"]
    marks = newcomer.get(f"/nearby?x={ankle[0]}&y={ankle[1]}&z={ankle[2]}").json()
    assert "medial_malleolus_prominence" in [one["id"] for one in marks if one["kind"] == "landmark"]
    assert newcomer.get("/nearby?x=1e9&y=0&z=0").status_code == 422


def test_the_assistant_asks_for_the_measure_that_helps_most(newcomer):
    newcomer.measure(height_cm=172)
    asked = newcomer.get("/measure-next?ids=SP6&ids=SP7&ids=LI4").json()
    assert asked[0]["id"] == "lower_leg_inner"
    assert asked[0]["points"] == ["SP6", "SP7"]
    ring = newcomer.get("/places/SP6").json()["uncertainty_cm"]
    newcomer.measure(measures_cm={"lower_leg_inner": 36})
    assert newcomer.get("/places/SP6").json()["uncertainty_cm"] < ring
    assert "lower_leg_inner" not in [row["id"] for row in newcomer.get("/measure-next?ids=SP6").json()]
    assert newcomer.get("/measure-next").json(), "without a plan it asks for all points"


def test_ways_over_the_skin_and_channels(newcomer):
    way = newcomer.get("/places/SP6").json()["way"]
    assert way["from"] == "medial_malleolus_prominence"
    assert way["straight_cm"] < way["skin_cm"] < way["straight_cm"] * 1.2
    for channel, branches in (("SP", 1), ("BL", 2), ("GV", 1)):
        lines = newcomer.get(f"/channels/{channel}?side=right").json()
        assert len(lines) == branches
        steps = np.linalg.norm(np.diff(np.array(lines[0]), axis=0), axis=1)
        assert steps.max() < 9, "it goes along the skin, not through the body"
    problem(newcomer.get("/channels/XX"), 422, "There is no channel 'XX'")
    drawing = newcomer.get("/landmarks/medial_malleolus_prominence/drawing?side=right")
    assert "bump of the inner ankle bone, right" in drawing.text
    problem(newcomer.get("/landmarks/left_antler/drawing"), 422, "no landmark 'left_antler'")
    marks = newcomer.get("/figure/landmarks").json()
    assert len(marks) > 180
    assert all(mark["how"] for mark in marks)


@pytest.mark.parametrize(
    ("query", "pages", "names"),
    some(
        [
            ("ids=SP6&ids=ST36&ids=GV20", 3, ["SP6"]),
            ("group=HT", 3, ["HT1"]),
            ("group=ear", 2, ["Gate of the spirit"]),
        ]
    ),
)
def test_plates_of_a_set_a_channel_and_a_map(newcomer, query, pages, names):
    pdf = newcomer.get(f"/plates?{query}")
    assert pdf.status_code == 200, pdf.text
    assert pdf.content.startswith(b"%PDF")
    drawn = [newcomer.get(f"/plates?{query}&side=right&page={page}").text for page in range(1, pages + 1)]
    assert all(svg.startswith("<svg") and "<circle" in svg for svg in drawn)
    for name in names:
        assert any(f">{name}<" in svg for svg in drawn), name
    problem(newcomer.get(f"/plates?{query}&page=60"), 422, "pages")


def test_plates_from_a_side_of_ones_own_choice(newcomer):
    own = newcomer.get("/plates?group=SP&page=1").text
    outer = newcomer.get("/plates?part=lower_leg&side=right&facing=outer&page=1").text
    assert own != outer and "Lower leg, outer, right" in outer
    inner_points = ("SP6", "SP9", "LR5")
    ring, dot = 'fill="none" stroke="#', 'fill="#'
    assert all(id in outer for id in inner_points) and outer.count(ring) >= len(inner_points) and dot in outer
    problem(newcomer.get("/plates?group=SP&facing=under"), 422, "There is no view 'under'")


def test_plates_of_nothing_say_so(newcomer):
    problem(newcomer.get("/plates"), 422, "Choose points")
    problem(newcomer.get("/plates?group=tail"), 422, "There is no group 'tail'")
    problem(newcomer.get("/plates?group=own"), 422, "nothing in this group yet")
    problem(newcomer.get("/plates?ids=SP99"), 422, "There is no point or area")


def test_sheets_show_two_traditions_and_where_they_differ(newcomer):
    contents = newcomer.client.get("/api/atlas/contents").json()
    assert {"SP", "ear", "ear2", "foot", "own"} <= {group["id"] for group in contents["groups"]}
    both = {sheet["id"]: sheet["traditions"] for sheet in contents["sheets"]}
    assert both["ear"] == both["sole"] == ["first", "second"]
    first, second = (newcomer.get(f"/sheets/ear?tradition={name}&side=right").json() for name in ("first", "second"))
    for size in ("width_cm", "height_cm", "letter_cm"):
        assert first[size] == second[size], "they can be laid side by side"
    for sheet in (first, second):
        for area in sheet["areas"]:
            for x, y in area["outline"]:
                assert 0 <= x - sheet["left_cm"] <= sheet["width_cm"], area["id"]
                assert 0 <= y - sheet["top_cm"] <= sheet["height_cm"], area["id"]
    knee = next(area for area in second["areas"] if area["id"] == "ear2_knee")
    assert knee["elsewhere"], "the two maps have the knee at two places"
    zero = next(area for area in second["areas"] if area["id"] == "ear2_zero")
    assert zero["alone"]
    problem(newcomer.get("/sheets/moon"), 422, "There is no sheet 'moon'")
    problem(newcomer.get("/sheets/palm?tradition=second"), 422, "has nothing on the sheet")


def test_bones_come_with_the_figure(newcomer):
    bones = newcomer.get("/figure/bones").json()
    assert len(bones) > 200
    tibia = next(bone for bone in bones if bone["id"] == "left.tibia")
    assert len(tibia["grid"]) == tibia["rings"] * tibia["corners"] * 3
