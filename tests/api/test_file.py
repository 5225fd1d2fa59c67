"""The record of a visit and a person's file: written, closed, added to; told, agreed, found again, joined, put away."""

import uuid
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from sqlalchemy import text
from sqlalchemy.exc import IntegrityError

from acuthesis.demo.world import EMAIL
from acuthesis.store.database import transaction

from .conftest import Newcomer, practice_of
from .test_stations import problem


def at(minutes):
    """So many minutes into a session that began a quarter of an hour ago."""
    return (datetime.now(UTC) + timedelta(minutes=minutes - 15)).isoformat()


def event(kind, minutes, **more):
    return {"kind": kind, "id": str(uuid.uuid4()), "at": at(minutes), **more}


@pytest.fixture
def treated(ode):
    """Somebody whose treatment is over: one stop played, one sore and left, the others not reached."""
    person: Any = Newcomer(ode)
    complaint = person.complain("knee_pain", side="left", acts=["stairs down"])
    person.screen()
    person.rate(complaint, 7)
    score = person.compose(complaint, minutes=20).json()
    pressed = [stop for stop in score["score"]["stops"] if stop["kind"] in ("point", "area")]
    first, second = pressed[0], pressed[1]
    person.say(event("begin", 0, version=score["version"]))
    person.say(
        event("start_stop", 1, key=first["key"]),
        event("soreness", 1.2, value=6),
        event("soreness", 1.5, value=3),
        event("start_stop", 1 + first["duration_s"] / 60, key=second["key"]),
        event("soreness", 3, value=9),
        event("soreness", 3.2, value=9),
        event("end", 4, reason="finished"),
    )
    person.rate(complaint, 4, "after")
    person.stops = (first, second, pressed[2])
    return person


def record_of(person):
    return person.client.get(f"/api/visits/{person.visit_id}/record").json()


def test_a_record_begins_filled_in_from_what_happened(treated):
    record = record_of(treated)
    rows = {row["key"]: row for row in record["stops"]}
    first, second, third = (rows[stop["key"]] for stop in treated.stops)
    assert (first["outcome"], first["sore_first"], first["sore_last"]) == ("done", 6, 3)
    assert (second["outcome"], second["why"], second["sore_last"]) == ("left", "sore, 9", 9)
    assert (third["outcome"], third["done_s"]) == ("not_reached", 0)
    assert record["rated"] == [{"name": "Knee pain", "side": "left", "act": "stairs down", "before": 7, "after": 4}]
    begun = record["begun"]
    assert begun["asked"] == "Knee pain, left (stairs down): 7 of 10."
    assert begun["felt"].startswith("Knee pain: 7 before, 4 after.")
    assert f"{first['name']}: soreness 6, then 3." in begun["felt"]
    assert f"{second['name']} sore, 9." in begun["done"] and "minutes" in begun["done"]
    assert record["written"] is None and record["closed_at"] is None


def test_a_closed_record_is_only_added_to(treated):
    client, path = treated.client, f"/api/visits/{treated.visit_id}"
    record = record_of(treated)
    words = {**record["begun"], "observed": "Muscle above the knee let go.", "next": "Rate the stairs first."}
    written = client.put(f"{path}/record", json={"version": record["version"], **words}).json()
    assert written["written"]["observed"] == "Muscle above the knee let go."
    problem(
        client.put(f"{path}/record", json={"version": record["version"], **words}), 409, "changed in another window"
    )
    problem(client.post(f"{path}/addenda", json={"said": "early"}), 422, "still open")
    closed = client.post(f"{path}/record/close", json={"version": written["version"]}).json()
    assert closed["closed_by"] == "Ode Marrable"
    seen = {"version": closed["version"]}
    for refused in (
        client.put(f"{path}/record", json={**seen, **words}),
        client.post(f"{path}/record/close", json=seen),
        treated.rate(client.get(f"/api/people/{treated.id}/complaints").json()[0]["id"], 1, "after"),
    ):
        problem(refused, 422, "is closed")
    late = treated.say(event("soreness", 5, value=2)).json()
    assert late["outcomes"][0]["outcome"] == "disputed", "what arrives late is kept beside it"
    added = client.post(f"{path}/addenda", json={"said": "Slept well after it."}).json()["addenda"]
    assert [(one["said"], one["added_by"]) for one in added] == [("Slept well after it.", "Ode Marrable")]
    with transaction(practice_of(EMAIL)) as db, pytest.raises(IntegrityError, match="is closed"):
        db.execute(text("UPDATE visit SET note = 'x' WHERE id = :id"), {"id": treated.visit_id})


def test_a_record_is_not_closed_over_what_is_unsettled_or_going_on(treated, newcomer):
    treated.say(event("soreness", 5, value=2))
    path = f"/api/visits/{treated.visit_id}"
    version = record_of(treated)["version"]
    problem(treated.client.post(f"{path}/record/close", json={"version": version}), 422, "Resolve the disputed")
    disputed = record_of(treated)["disputed"][0]["id"]
    treated.client.post(f"{path}/disputed/{disputed}", json={"how": "happened"})
    assert treated.client.post(f"{path}/record/close", json={"version": version}).status_code == 200
    ahead = {"person_id": newcomer.id, "starts_at": at(60 * 24)}
    coming = newcomer.client.post("/api/appointments", json=ahead).json()["visit_id"]
    problem(newcomer.client.post(f"/api/visits/{coming}/record/close", json={"version": 1}), 422, "in the future")


def test_where_something_was_wrong_a_note_comes_before_closing(newcomer):
    complaint = newcomer.complain("knee_pain", side="left")
    newcomer.screen()
    newcomer.rate(complaint, 6)
    score = newcomer.compose(complaint, minutes=20).json()
    newcomer.say(event("begin", 0, version=score["version"]))
    newcomer.say(event("wrong", 1, step="", answer="begun"), event("wrong", 1.1, step="answers", answer="no"))
    said = newcomer.say(event("wrong", 1.2, step="jerking", answer="yes")).json()["session"]
    assert (said["status"], said["wrong"][-1]["to"]) == ("stopped", "fit")
    assert said["score"]["help"]["call"] and said["score"]["help"]["where"]
    path, record = f"/api/visits/{newcomer.visit_id}", record_of(newcomer)
    assert "Something was wrong after" in record["begun"]["done"]
    problem(newcomer.client.post(f"{path}/record/close", json={"version": record["version"]}), 422, "Note what")
    words = {**record["begun"], "observed": "Jerked for a minute, then slept; the ambulance came."}
    kept = newcomer.client.put(f"{path}/record", json={"version": record["version"], **words}).json()
    assert newcomer.client.post(f"{path}/record/close", json={"version": kept["version"]}).status_code == 200


def test_a_painted_place_is_named_kept_free_and_refused_on_this_body(newcomer):
    client, path = newcomer.client, f"/api/people/{newcomer.id}"
    problem(client.post(f"{path}/screenings", json={"answers": {"stoma": [{"skin": [10**6]}]}}), 422, "A figure has")
    st36 = next(
        one for one in newcomer.get("/figure").json()["places"] if one["id"] == "ST36" and one["side"] == "left"
    )
    assert not st36["refused"]
    skin = list(range(4624, 4660))
    told = client.post(f"{path}/screenings", json={"answers": {"tumour_site": [{"skin": skin}]}}).json()
    assert told["verdict"]["decision"] == "ok" and told["answers"]["tumour_site"][0]["words"]
    assert told["answers"]["tumour_site"][0]["skin"] == skin
    [ground] = newcomer.get("/kept-free").json()
    assert ground["at"] == skin and len(ground["skin"]) > len(skin)
    refused = {(one["id"], one["side"]) for one in newcomer.get("/figure").json()["places"] if one["refused"]}
    assert refused > {("CV8", "left")}
    client.post(f"{path}/screenings", json={"answers": {"might_be_pregnant": True}})
    assert "menstrual_cramps" in newcomer.get("").json()["not_offered"]
    problem(client.post(f"{path}/complaints", json={"kind": "menstrual_cramps"}), 422, "during a pregnancy")
    asked = client.post(f"{path}/screenings", json={"answers": {"tumour_site": True}}).json()
    assert asked["verdict"]["decision"] == "ask" and newcomer.get("/kept-free").json() == []


def test_a_story_is_told_over_time(newcomer, ode):
    path = f"/api/people/{newcomer.id}/story"
    ode.post(path, json={"told": "Stairs are easier.", "told_on": "2026-02-01"})
    told = ode.post(path, json={"told": "It began on a ladder.", "told_on": "2026-01-05"}).json()
    assert [one["told"] for one in told] == ["It began on a ladder.", "Stairs are easier."]
    assert told[0]["written_by"] == "Ode Marrable"
    problem(ode.post(path, json={"told": "x", "told_on": "2199-01-01"}), 422, "in the future")


def test_consent_is_given_withdrawn_and_by_a_guardian_where_young(ode):
    adult, young = Newcomer(ode), Newcomer(ode, born=f"{datetime.now(UTC).year - 15}-01-01")

    def give(person, **more):
        body = {"about": "treatment", "given": True, "how": "spoken", **more}
        return ode.post(f"/api/people/{person.id}/consents", json=body)

    def treatment(answer):
        return next(one for one in answer.json() if one["about"] == "treatment")

    assert treatment(give(adult))["holds"]
    taken_back = treatment(give(adult, given=False))
    assert not taken_back["holds"] and [one["given"] for one in taken_back["history"]] == [True, False]
    problem(give(young), 422, "parent or guardian")
    assert treatment(give(young, how="by_guardian"))["holds"]
    problem(give(adult, about="anything"), 422, "No consent is needed")


@pytest.mark.parametrize(
    ("typed", "finds"),
    [
        ("tam", "Tamsin"),
        ("orell tamsin", "Tamsin"),
        ("okonjo", "Bram"),
        ("Sören", "Soren"),
        ("Idriss", "Idris"),
        ("castelane", "Maud"),
        ("hallorn", "Wren"),
    ],
)
def test_a_search_forgives(ode, cast, typed, finds):
    found = ode.get("/api/people", params={"q": typed}).json()
    assert found[0]["id"] == cast[finds]["person_id"], [one["given_name"] for one in found]
    assert len(found) <= 3


def test_a_search_finds_by_telephone_and_finds_nobody_for_nonsense(ode, newcomer):
    contact = ode.get(f"/api/people/{newcomer.id}/contact").json()
    change = {"version": contact["version"], "phone": "+44 (0)20 7946 0011"}
    assert ode.patch(f"/api/people/{newcomer.id}/contact", json=change).status_code == 200
    assert [one["id"] for one in ode.get("/api/people", params={"q": "79460011"}).json()] == [newcomer.id]
    assert ode.get("/api/people", params={"q": "zzqx"}).json() == []
    assert ode.get("/api/people", params={"q": "%_\\'"}).status_code == 200


def test_somebody_who_no_longer_comes_is_put_away_and_found_again(newcomer, ode):
    booked = ode.post("/api/appointments", json={"person_id": newcomer.id, "starts_at": at(60 * 24)}).json()
    version = newcomer.version
    problem(
        ode.post(f"/api/people/{newcomer.id}/archive", json={"version": version, "archived": True}), 422, "upcoming"
    )
    off = {"version": booked["version"], "attendance": "cancelled", "reason": "moves away"}
    ode.post(f"/api/appointments/{booked['visit_id']}/attendance", json=off)
    away = ode.post(f"/api/people/{newcomer.id}/archive", json={"version": version, "archived": True})
    assert away.status_code == 200
    listed = lambda **q: {one["id"] for one in ode.get("/api/people", params=q).json()}  # noqa: E731
    assert newcomer.id not in listed() and newcomer.id in listed(archived=True)
    ode.post(f"/api/people/{newcomer.id}/archive", json={"version": away.json()["version"], "archived": False})
    assert newcomer.id in listed()


def test_two_records_of_one_person_are_joined_and_nothing_is_lost(treated, ode):
    """Everything of both is there afterwards, under one person; what they said differently is in the story."""
    other = Newcomer(ode, born="1990-05-02", phone="0123 456")
    other.complain("poor_sleep")
    other.screen(osteoporosis=True)
    other.measure(height_cm=171, measures_cm={"forearm": 25})
    ode.post(f"/api/people/{other.id}/consents", json={"about": "records", "given": True, "how": "spoken"})
    ode.post(
        f"/api/people/{other.id}/series", json={"first": "2027-01-05", "minutes": 30, "visits": [{"after_days": 0}]}
    )
    name = other.get().json()["given_name"]
    before = [ode.get(f"/api/people/{one.id}/record").json() for one in (treated, other)]
    body = {"other_id": other.id, "given_name": name}
    problem(
        ode.post(f"/api/people/{treated.id}/join", json={**body, "given_name": "Nobody"}), 422, "nothing was merged"
    )
    joined = ode.post(f"/api/people/{treated.id}/join", json=body)
    assert joined.status_code == 200, joined.text
    after = ode.get(f"/api/people/{treated.id}/record").json()
    parts = [
        part for part, rows in after.items() if isinstance(rows, list) and part not in ("practitioners", "stories")
    ]
    for part in parts:
        ids = {row["id"] for record in before for row in record[part]}
        assert {row["id"] for row in after[part]} == ids, part
    assert after["person"]["phone"] == "0123 456" and after["person"]["height_cm"] == 171
    assert f"{name}, born 02 May 1990" in after["stories"][-1]["told"]
    assert ode.get(f"/api/people/{other.id}").status_code == 404
    actions = {one["action"] for one in ode.get("/api/audit", params={"person_id": treated.id}).json()["entries"]}
    assert {"records joined", "complaint added", "treatment events"} <= actions
    assert "Osteoporosis" in str(joined.json()["limits"]) or "Fragile" in str(joined.json()["limits"])
