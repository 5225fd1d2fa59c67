"""Composing over the API: what if, drafts, protocols, signatures, a practice's own rules, and the catalogue."""

import json
import uuid

import pytest

from .conftest import Newcomer
from .test_stations import problem


@pytest.fixture
def shoulder(newcomer):
    """A newcomer with a sore right shoulder, screened, and a composed score."""
    newcomer.screen()
    complaint = newcomer.complain("neck_shoulder_ache", side="right")
    assert newcomer.compose(complaint, minutes=40).status_code == 200
    newcomer.complaint = complaint
    return newcomer


def what_if(person, **wish):
    return person.client.post(
        f"/api/visits/{person.visit_id}/what-if", json={"complaint_ids": [person.complaint], **wish}
    )


def layer(client, **changes):
    seen = client.get("/api/practice/layer").json()
    return client.put("/api/practice/layer", json={"version": seen["version"], "layer": changes})


@pytest.fixture
def unlayered(ode):
    """Whatever a test changes for the practice is taken back."""
    yield
    assert layer(ode).status_code == 200


def test_what_if_answers_and_keeps_nothing(shoulder):
    before = shoulder.visit()
    less = what_if(shoulder, minutes=20).json()
    lying = what_if(shoulder, minutes=40, positions_excluded=["prone"]).json()
    feet = what_if(shoulder, minutes=40, school="foot_hand_reflex").json()
    assert less["total_s"] <= 20 * 60 < before["score"]["total_s"]
    assert "prone" not in {stop["position"] for stop in lying["stops"]}
    assert {stop["id"].split("_")[0] for stop in feet["stops"] if stop["kind"] == "area"} <= {"foot", "hand"}
    assert shoulder.visit() == before
    problem(what_if(shoulder, school="planets"), 422, "no school 'planets'")
    problem(what_if(shoulder, minutes=2), 422, "2 minutes is too short")
    problem(what_if(shoulder, pinned=["CV8"]), 422, "is pinned but not possible")


def test_drafts_are_kept_compared_and_gone_back_to(shoulder):
    first = shoulder.visit()["score"]
    kept = shoulder.client.post(f"/api/visits/{shoulder.visit_id}/drafts", json={"label": "face down"})
    assert kept.status_code == 201, kept.text
    shoulder.compose(shoulder.complaint, minutes=20, positions_excluded=["prone"])
    drafts = shoulder.client.get(f"/api/visits/{shoulder.visit_id}/drafts").json()
    assert [draft["label"] for draft in drafts] == ["face down"]
    assert drafts[0]["score"] == first
    back = f"/api/drafts/{drafts[0]['id']}/restore"
    problem(shoulder.client.post(back, json={"version": 1}), 409, "changed")
    version = shoulder.visit()["version"]
    assert shoulder.client.post(back, json={"version": version}).json()["score"]["stops"] == first["stops"]
    shoulder.screen(pregnancy_weeks=12)
    version = shoulder.visit()["version"]
    problem(shoulder.client.post(back, json={"version": version}), 422, "pregnancy")
    record = shoulder.get("/record").json()
    assert [draft["label"] for draft in record["drafts"]] == ["face down"]


def test_a_stop_is_added_as_the_core_would_do_it(shoulder):
    add = f"/api/visits/{shoulder.visit_id}/stops"
    stop = shoulder.client.post(add, json={"id": "KI1", "side": "left"}).json()
    stops = shoulder.visit()["score"]["stops"]
    assert (stop["key"], stop["side"]) == ("KI1-1", "left")
    assert stop["position"] in {one["position"] for one in stops}, "no turn for what can be reached without"
    edited = shoulder.edit([*stops[:-2], stop, *stops[-2:]])
    assert "KI1" in [one["id"] for one in edited.json()["score"]["stops"]]
    problem(shoulder.client.post(add, json={"id": "CV8"}), 422, "Landmark only")
    problem(shoulder.client.post(add, json={"id": "SP99"}), 422, "SP99")


def test_a_protocol_goes_to_another_person_and_says_what_is_left_out(shoulder, ode):
    name = f"Rods {uuid.uuid4().hex[:6]}"
    keep = {"visit_id": shoulder.visit_id, "name": name, "note": "after the matinée"}
    made = ode.post("/api/protocols", json=keep)
    assert made.status_code == 201, made.text
    problem(ode.post("/api/protocols", json=keep), 409, "already")
    id = made.json()["id"]
    assert made.json()["protocol"]["affected"] == "right"
    pregnant = Newcomer(ode)
    pregnant.screen(pregnancy_weeks=22)
    pregnant.complain("neck_shoulder_ache", side="left")
    version = pregnant.visit()["version"]
    body = {"version": version, "protocol_id": id, "minutes": 40}
    score = ode.post(f"/api/visits/{pregnant.visit_id}/apply-protocol", json=body).json()["score"]
    assert {row["id"] for row in score["left_out"] if row["severity"] == "refuse"} >= {"GB21"}
    assert {stop["position"] for stop in score["stops"]} <= {"seated", "half_reclined", "left_side", "right_side"}
    chosen = [stop for stop in score["stops"] if stop["round"] == "chosen"]
    assert "right" not in {stop["side"] for stop in chosen if stop["id"] in ("SI14", "TE15", "SI3")}
    problem(ode.post(f"/api/visits/{pregnant.visit_id}/apply-protocol", json=body), 409, "changed")

    file = ode.get(f"/api/protocols/{id}/file")
    assert "attachment" in file.headers["Content-Disposition"]
    shared = json.loads(file.text)
    problem(ode.post("/api/protocols/import", json=shared), 409, "already")
    other = {**shared, "name": f"{name} again"}
    assert ode.post("/api/protocols/import", json=other).status_code == 201
    broken = {**other, "name": f"{name} broken", "stops": [*shared["stops"][:2], {**shared["stops"][3], "id": "SP99"}]}
    assert problem(ode.post("/api/protocols/import", json=broken), 422, "SP99")["where"] == "stops.2.id"
    problem(ode.post("/api/protocols/import", json={**other, "format": "score"}), 422, "format")
    assert ode.delete(f"/api/protocols/{id}").status_code == 204
    problem(ode.get(f"/api/protocols/{id}/file"), 404, "no such protocol")
    assert name not in [row["protocol"]["name"] for row in ode.get("/api/protocols").json()]


def test_a_practice_tightens_marks_and_signs(newcomer, unlayered):
    client = newcomer.client
    newcomer.screen(full_stomach=True)
    newcomer.complaint = newcomer.complain("indigestion")
    score = newcomer.compose(newcomer.complaint, minutes=30).json()["score"]
    belly = next(row for row in score["left_out"] if row["id"] == "CV12")
    assert belly["overridable"]
    stop = {
        **score["stops"][3],
        "key": "CV12-1",
        "kind": "point",
        "id": "CV12",
        "side": "midline",
        "position": "supine",
    }
    stop |= {"dose": {"form": "hold", "seconds": 20}, "level": 1, "contact": None}
    stops = [*score["stops"][:-2], stop, *score["stops"][-2:]]
    problem(newcomer.edit(stops), 422, "do not press the abdomen. It can be overridden")
    signed = [{**one, "override": "he asked for a light hand"} if one["id"] == "CV12" else one for one in stops]
    problem(newcomer.edit(signed), 422, "overrides are turned off")
    assert layer(client, overrides=True).status_code == 200
    laid = newcomer.edit(signed).json()["score"]["stops"]
    assert ["Override: he asked for a light hand"] in [one["warnings"] for one in laid]

    rule = {
        "id": "house_no_front",
        "touches": {"positions": ["prone"]},
        "severity": "limit",
        "short": "House: nobody lies on the front",
        "reason": "The bench has no face hole.",
        "source": "practice",
    }
    own = {"id": "KI1", "ground": "points", "role": "main", "weight": 5, "side": "both", "why": "our habit"}
    change = {"indigestion": {"add": [own], "remove": ["ST21"]}}
    assert layer(client, rules=[rule], complaints=change).status_code == 200
    again = what_if(newcomer, minutes=45).json()
    assert "prone" not in {one["position"] for one in again["stops"]}
    assert "KI1" in {one["id"] for one in again["stops"]}
    assert "ST21" not in {one["id"] for one in (*again["stops"], *again["left_out"])}
    page = next(one for one in client.get("/api/catalogue").json()["complaints"] if one["kind"]["id"] == "indigestion")
    assert page["changed"] and page["removed"] == ["ST21"]
    assert [use["own"] for use in page["uses"] if use["id"] == "KI1"] == [True]
    assert client.get("/api/safety").json()["house"][0]["id"] == "house_no_front"
    problem(layer(client, rules=[{**rule, "id": "never_pressed"}]), 422, "is a standing rule")
    problem(layer(client, complaints={"moon_ache": {}}), 422, "neither a complaint nor a school")
    stale = client.put("/api/practice/layer", json={"version": 0, "layer": {}})
    problem(stale, 409, "another window")


def test_the_catalogue_holds_everything(ode):
    book = ode.get("/api/catalogue").json()
    assert (len(book["complaints"]), len(book["schools"])) == (93, 7)
    assert all(dose["seconds"] > 0 and dose["words"] for dose in book["doses"])
    assert all(use["why"] and use["name"] for page in book["complaints"] for use in page["uses"])


def test_a_programme_is_planned_from_a_visit(shoulder):
    plan = shoulder.client.post(
        f"/api/visits/{shoulder.visit_id}/programme?number=4",
        json={"complaint_ids": [shoulder.complaint], "minutes": 30},
    ).json()
    assert [visit["number"] for visit in plan["visits"]] == [1, 2, 3, 4]
    assert plan["home"][0]["points"]


def test_what_helped_before_is_read_from_the_record(ode, cast):
    tamsin = cast["Tamsin"]
    complaints = [row["id"] for row in ode.get(f"/api/people/{tamsin['person_id']}/complaints").json()]
    score = ode.post(f"/api/visits/{tamsin['visit_id']}/what-if", json={"complaint_ids": complaints}).json()
    assert score["decision"] == "ok" and score["objective"]["gap"] <= 0.02
