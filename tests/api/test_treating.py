"""Treating over the API: begun with the server's own score, following new answers, dropping nothing that happened."""

import uuid
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import text

from acuthesis.core.treat.events import EVENT
from acuthesis.store import treatments, visits
from acuthesis.store.database import see_practice, transaction
from acuthesis.store.model import VisitRow

from .conftest import EMAIL, Newcomer, at_the_door, event, practice_of
from .test_stations import problem


@pytest.fixture
def composed(newcomer):
    """Somebody screened, rated and composed for, with a point that pregnancy refuses in the score."""
    newcomer.screen()
    newcomer.complaint = newcomer.complain("neck_shoulder_ache", side="right")
    newcomer.rate(newcomer.complaint, 8)
    newcomer.score = newcomer.compose(newcomer.complaint, pinned=["GB21"]).json()["score"]
    newcomer.score_level = next(one["level"] for one in newcomer.score["stops"] if one["id"] == "GB21")
    newcomer.key = next(stop["key"] for stop in newcomer.score["stops"] if stop["id"] == "GB21")
    return newcomer


def outcomes(answer):
    return [one["outcome"] for one in answer.json()["outcomes"]]


def test_a_session_needs_answers_that_are_fresh(newcomer, ode, cast):
    complaint = newcomer.complain()
    newcomer.compose(complaint)
    problem(newcomer.say(newcomer.begin()), 422, "has not been done")
    newcomer.screen()
    assert newcomer.say(newcomer.begin()).status_code == 200
    soren = Newcomer.__new__(Newcomer)
    soren.client, soren.id, soren.visit_id = ode, cast["Soren"]["person_id"], cast["Soren"]["visit_id"]
    if soren.visit()["score"] is None:
        soren.compose(soren.get("/complaints").json()[0]["id"])
    problem(soren.say(soren.begin()), 422, "Repeat it before the session")


def test_what_was_found_at_the_table_is_in_the_map_once_it_is_over(composed):
    """What is taken back before the end never gets there; next time it is said where to look."""
    composed.say(composed.begin(), event("start_stop", key=composed.key))
    stop = next(one for one in composed.treatment()["session"]["score"]["stops"] if one["key"] == composed.key)
    names = [way["name"] for way in stop["beside"]]
    assert [way["words"] for way in stop["beside"]] == ["inwards", "outwards", "forward", "back"]
    wrong = event("found", side="right", texture="warm")
    composed.say(wrong, event("undo", of=wrong["id"]), event("soreness", value=5, side="right"))
    right = event("found", side="right", texture="knot", offset={"mm": {names[1]: 4.0}})
    composed.say(right)
    assert composed.get("/findings").json() == []
    composed.say(event("end", reason="finished"))
    composed.say(event("note", text="after the end"))
    (kept,) = composed.get("/findings").json()
    assert (kept["entry"], kept["side"], kept["texture"], kept["soreness"]) == ("GB21", "right", "knot", 5)
    assert kept["words"] == "4 mm outwards, soreness 5, a knot"
    record = composed.client.get(f"/api/visits/{composed.visit_id}/record").json()
    assert "right: a knot, 4 mm outwards" in record["begun"]["felt"]


@pytest.fixture
def under_way(composed):
    """Hands on at the shoulder, and the person's own device, which is signed in nowhere."""
    composed.say(composed.begin(), event("start_stop", key=composed.key))
    composed.device = at_the_door(composed.client.app)
    return composed


def joined(under_way):
    """What the person's device says everything with, once it has joined."""
    code = under_way.client.post(f"/api/visits/{under_way.visit_id}/own-say").json()["code"]
    answer = under_way.device.post("/api/say/join", json={"code": f"{code[:3]} {code[3:]}"})
    assert answer.status_code == 200, answer.text
    return {"Authorization": f"Bearer {answer.json()['key']}"}, code


def told(says, **values):
    return {"id": str(uuid.uuid4()), "says": says, **values}


def test_who_lies_there_has_a_say_of_their_own(under_way):
    """A breath, a number, less and stop; it arrives as theirs, and the key ends with the treatment."""
    key, code = joined(under_way)
    device = under_way.device
    under_way.say(event("breath", seconds=5.5))
    seen = device.get("/api/say", headers=key).json()
    assert seen.pop("at_s") >= 0
    assert seen == {"status": "pressing", "breath_s": 5.5, "in_share": 0.4}, "and nothing else is on it"
    number = told("sore", value=4)
    for _ in range(2):  # sent twice counts once
        assert device.post("/api/say", json=number, headers=key).status_code == 200
    device.post("/api/say", json=told("lighter"), headers=key)
    state = under_way.treatment()["session"]
    record = state["records"][under_way.key]
    assert [(one["value"], one["side"], one["by"]) for one in record["soreness"]] == [(4, "right", "person")]
    assert record["level"] == under_way.score_level - 1
    assert state["advice"]["text"].startswith("They want less: level")
    problem(device.post("/api/say", json=told("sore"), headers=key), 422, "from 0 to 10")
    assert under_way.client.get(f"/api/visits/{under_way.visit_id}/own-say").json() == {"joined": True, "until": None}
    assert device.post("/api/say", json=told("stop"), headers=key).json()["status"] == "over"
    assert under_way.treatment()["session"]["status"] == "stopped"
    problem(device.get("/api/say", headers=key), 401, "has ended")
    problem(device.post("/api/say/join", json={"code": code}), 401, "Code not recognised")
    with transaction() as db:
        see_practice(db, practice_of(EMAIL))
        rows = db.execute(text("SELECT code_hash, key_hash FROM own_say")).all()
        assert all(key["Authorization"].split()[1].encode() not in (row.key_hash or b"") for row in rows)
        said = {
            row.action
            for row in db.execute(text("SELECT action FROM audit WHERE person_id = :id"), {"id": under_way.id})
        }
    assert {"person's screen opened", "treatment events"} <= said


def test_a_code_works_once_for_a_while_and_cannot_be_guessed(under_way, stranger):
    at = f"/api/visits/{under_way.visit_id}/own-say"
    key, code = joined(under_way)
    problem(under_way.device.post("/api/say/join", json={"code": code}), 401, "already used")
    assert under_way.client.post(f"{at}/end").json() == {"joined": False, "until": None}
    problem(under_way.device.get("/api/say", headers=key), 401, "has ended")
    old = under_way.client.post(at).json()["code"]
    with transaction() as db:
        see_practice(db, practice_of(EMAIL))
        db.execute(text("UPDATE own_say SET code_until = now() WHERE code_hash IS NOT NULL"))
    problem(under_way.device.post("/api/say/join", json={"code": old}), 401, "has expired")
    for wrong in ("12345", "1234567", "K7QF2MX", "K7QF2MXPP", ""):
        assert under_way.device.post("/api/say/join", json={"code": wrong}).status_code == 422
    assert stranger.post(at).status_code == 404
    tried = [under_way.device.post("/api/say/join", json={"code": "ZZZZZZZZ"}).status_code for _ in range(61)]
    assert tried.count(401) >= 50 and tried[-1] == 429, "and then this address waits"
    with transaction() as db:
        db.execute(text("DELETE FROM sign_in_attempt"))


def test_a_screen_of_their_own_goes_with_a_treatment_under_way(composed):
    problem(composed.client.post(f"/api/visits/{composed.visit_id}/own-say"), 422, "during a session")


def test_an_emergency_allows_nothing(composed):
    composed.screen(red_flags=["chest_pain"])
    answer = composed.compose(composed.complaint)
    assert answer.json()["score"]["decision"] == "emergency"
    assert answer.json()["score"]["stops"] == []
    problem(composed.edit(composed.score["stops"]), 422, "Chest pain")
    problem(composed.say(composed.begin()), 422, "Chest pain")


def test_begin_takes_no_score_from_outside(composed):
    assert composed.say(event("begin", version=1, score=composed.score)).status_code == 422
    assert composed.say(event("limits", ceilings={})).status_code == 422, "limits are made here, not sent"


def test_begin_is_checked_against_what_holds_now(composed):
    """Compose, then answer "20 weeks, blood thinner", then begin: refused, with every reason."""
    seen = composed.begin()
    composed.screen(pregnancy_weeks=20, blood_thinner=True)
    told = problem(composed.say(seen), 422, "after new answers. Compose again")
    reasons = {row["where"]: row["message"] for row in told["details"]}
    place = next(n for n, stop in enumerate(composed.score["stops"]) if stop["id"] == "GB21")
    assert any(where.startswith(f"stops.{place}") and "GB21" in said for where, said in reasons.items())
    assert any("level" in where for where in reasons), "and what is too hard for thinned blood"
    assert composed.treatment()["session"]["status"] == "not_begun"
    anew = composed.compose(composed.complaint).json()["score"]
    state = composed.say(composed.begin()).json()["session"]
    assert state["status"] == "ready"
    assert {stop["id"] for stop in state["score"]["stops"]}.isdisjoint({"GB21", "LI4", "SP6"})
    assert max(record["ceiling"] for record in state["records"].values()) <= 2
    assert [stop["key"] for stop in anew["stops"]] == [stop["key"] for stop in state["score"]["stops"]]


def test_begin_names_the_score_that_was_seen(composed):
    seen = composed.begin()
    composed.edit(composed.score["stops"][::-1])
    problem(composed.say(seen), 409, "changed after this page was loaded")
    assert composed.say(composed.begin()).status_code == 200
    again = composed.say({**composed.begin(), "id": str(uuid.uuid4())})
    problem(again, 422, "has already started")


def test_a_measured_threshold_lowers_the_ceilings_of_the_score_that_begins(composed):
    planned = next(stop for stop in composed.score["stops"] if stop["id"] == "GB21")
    composed.measure(thresholds={"trunk": 3.0})
    told = problem(composed.say(composed.begin()), 422, "after new answers. Compose again")
    assert any(f"level {planned['level']} is above" in row["message"] for row in told["details"])


def test_events_are_kept_once_and_in_order(composed):
    start, sore = event("start_stop", key=composed.key), event("soreness", value=6)
    first = composed.say(composed.begin(), start, sore)
    assert first.json()["session"]["event_count"] == 3
    again = composed.say(start, sore, start)
    assert outcomes(again) == ["known", "known"]
    assert again.json()["session"] == first.json()["session"]
    assert again.json()["session"]["second_looks"] == [composed.key]
    problem(composed.edit(composed.score["stops"]), 422, "has started")
    assert composed.say({**event("soreness"), "value": 12}).status_code == 422
    assert composed.say({**event("dance")}).status_code == 422
    problem(
        composed.client.post(f"/api/visits/{uuid.uuid4()}/events", json={"events": [sore], "sent_at": sore["at"]}),
        404,
        "no such visit",
    )


def test_what_cannot_be_applied_is_kept_as_disputed_and_settled_in_the_write_up(composed):
    composed.say(composed.begin(), event("start_stop", key=composed.key))
    good, bad = event("soreness", value=5), event("start_stop", key="SP99-1")
    answer = composed.say(bad, good)
    assert outcomes(answer) == ["disputed", "kept"]
    assert answer.json()["session"]["records"][composed.key]["soreness"][0]["value"] == 5
    composed.say(event("end", reason="finished"))
    assert outcomes(composed.say(event("soreness", value=2))) == ["disputed"]
    told = composed.treatment()["disputed"]
    assert [(one["words"], one["settled"]) for one in told] == [("hands on at SP99-1", None), ("soreness 2", None)]
    assert "no stop “SP99-1”" in told[0]["reason"] and "after the session ended" in told[1]["reason"]
    settle = f"/api/visits/{composed.visit_id}/disputed/{told[1]['id']}"
    wanted = {"how": "happened", "note": "Asked again while dressing."}
    settled = composed.client.post(settle, json=wanted).json()["disputed"]
    assert (settled[1]["settled"], settled[1]["note"]) == ("happened", wanted["note"])
    problem(composed.client.post(settle, json=wanted), 409, "already been resolved")
    problem(composed.client.post(settle[:-4] + "0000", json=wanted), 404, "no such disputed entry")
    assert composed.client.get(f"/api/visits/{composed.visit_id}/visit.pdf").status_code == 200


def test_a_start_that_is_refused_loses_nothing_after_it(composed):
    """It began while the server was away; meanwhile another window screened her anew."""
    begin, start, sore = composed.begin(), event("start_stop", key=composed.key), event("soreness", value=7)
    composed.screen(red_flags=["chest_pain"])
    problem(composed.say(begin), 422, "Chest pain")
    answer = composed.say(begin, start, sore)
    assert outcomes(answer) == ["disputed"] * 3
    assert answer.json()["session"]["status"] == "not_begun"
    told = composed.treatment()["disputed"]
    assert [one["words"] for one in told] == ["the start of the session", f"hands on at {composed.key}", "soreness 7"]
    assert told[0]["reason"].startswith("The start was refused: Chest pain")
    back = composed.get("/record").json()["visits"][0]
    assert [one["event"]["kind"] for one in back["disputed"]] == ["begin", "start_stop", "soreness"]


def test_new_answers_lower_the_ceilings_of_a_treatment_under_way_at_once(composed):
    composed.say(composed.begin(), event("start_stop", key=composed.key))
    record = composed.treatment()["session"]["records"][composed.key]
    assert record["level"] > 2
    composed.screen(blood_thinner=True)
    state = composed.treatment()["session"]
    assert (state["records"][composed.key]["level"], state["records"][composed.key]["ceiling"]) == (2, 2)
    assert state["advice"]["text"].startswith("New answers: level 2 at most here.")
    assert outcomes(composed.say(event("level", level=3))) == ["disputed"]
    composed.screen(blood_thinner=True, pregnancy_weeks=20)
    state = composed.treatment()["session"]
    assert state["records"][composed.key]["left"] and state["advice"]["follows"] == "leave"
    composed.screen()
    record = composed.treatment()["session"]["records"][composed.key]
    assert record["ceiling"] > 2, "a slip that was put right holds nothing down"
    composed.screen(red_flags=["chest_pain"])
    assert composed.treatment()["session"]["status"] == "stopped"
    assert composed.today()["next"]["station"] != "treat"


def test_a_house_rule_and_a_hand_reach_a_treatment_under_way(composed, ode):
    composed.say(composed.begin(), event("start_stop", key=composed.key))
    layer = ode.get("/api/practice/layer").json()
    rule = {
        "id": "house_shoulder",
        "touches": {"ids": ["GB21"]},
        "severity": "limit",
        "ceiling": 1,
        "short": "GB21 lightly",
        "reason": "We only rest there.",
        "source": "practice",
    }
    changed = {"version": layer["version"], "layer": {**layer["layer"], "rules": [*layer["layer"]["rules"], rule]}}
    after = ode.put("/api/practice/layer", json=changed).json()
    try:
        assert composed.treatment()["session"]["records"][composed.key]["ceiling"] == 1
    finally:
        ode.put("/api/practice/layer", json={"version": after["version"], "layer": layer["layer"]})


def test_lists_say_what_the_fold_says(ode, cast):
    """How far a treatment is and what was sore is noted with the visit; it is never anything but the fold."""
    with transaction(practice_of(EMAIL)) as db:
        checked = 0
        for person in ode.get("/api/people").json():
            for row in visits.visits_of(db, person["id"]):
                noted = (row.treatment, row.felt)
                state = treatments.treatment(db, row.id)
                if state.status != "not_begun" or row.felt is not None:
                    treatments.save_state(row, state)
                    assert noted == (row.treatment, row.felt)
                    checked += 1
        db.rollback()
    assert checked > 40


def test_events_of_a_transaction_that_was_rolled_back_are_not_believed(composed):
    """The last fold of a visit is remembered; what it was folded from may never have been stored."""
    composed.say(composed.begin(), event("start_stop", key=composed.key))
    with transaction(practice_of(EMAIL)) as db:
        row = db.get(VisitRow, uuid.UUID(composed.visit_id))
        said = [EVENT.validate_python(event("note", text=text)) for text in ("never stored", "nor this")]
        treatments.add(db, row, [treatments.EventToStore(one) for one in said])
        assert [note.text for note in treatments.treatment(db, row.id).notes] == ["never stored", "nor this"]
        db.rollback()
    assert composed.treatment()["session"]["notes"] == []
    composed.say(event("note", text="stored"))
    assert [note["text"] for note in composed.treatment()["session"]["notes"]] == ["stored"]


def test_a_device_whose_clock_is_wrong_is_told_and_placed_by_ours(composed):
    """An hour fast, and a second window that is right: time under the hands is counted once and truly."""
    fast = timedelta(hours=1)
    begun = datetime.now(UTC) - timedelta(seconds=40)

    def at(seconds, kind, **values):
        return {**event(kind, **values), "at": (begun + timedelta(seconds=seconds) + fast).isoformat()}

    sent_at = (datetime.now(UTC) + fast).isoformat()
    begin = {**composed.begin(), "at": at(0, "pause")["at"]}
    answer = composed.say(begin, at(5, "start_stop", key=composed.key), sent_at=sent_at).json()
    assert answer["clock_offset_s"] == pytest.approx(-3600, abs=5)
    placed = datetime.fromisoformat(answer["session"]["running_since"])
    assert abs(placed - (begun + timedelta(seconds=5))) < timedelta(seconds=5)
    right = {**event("pause"), "at": (begun + timedelta(seconds=25)).isoformat()}
    state = composed.say(right, sent_at=datetime.now(UTC).isoformat()).json()
    assert state["clock_offset_s"] == 0
    assert state["session"]["records"][composed.key]["active_s"] == pytest.approx(20, abs=5)
    slightly = (datetime.now(UTC) - timedelta(seconds=40)).isoformat()
    assert composed.say(event("resume"), sent_at=slightly).json()["clock_offset_s"] == 0, "under a minute is let be"


def test_looking_whether_anything_is_new_reads_nothing(composed, ode):
    """A table looks every few seconds; only what is new is read, and noted in the audit."""
    path = f"/api/visits/{composed.visit_id}/treatment"
    composed.say(composed.begin())
    first = ode.get(path)
    noted = len(ode.get(f"/api/audit?person_id={composed.id}").json()["entries"])
    again = ode.get(path, headers={"If-None-Match": first.headers["etag"]})
    assert (again.status_code, again.content) == (304, b"")
    assert len(ode.get(f"/api/audit?person_id={composed.id}").json()["entries"]) == noted
    composed.screen(blood_thinner=True)
    fresh = ode.get(path, headers={"If-None-Match": first.headers["etag"]})
    assert fresh.status_code == 200 and fresh.headers["etag"] != first.headers["etag"]


def test_the_rest_is_offered_taken_checked_and_taken_back(composed):
    composed.say(composed.begin(), event("start_stop", key=composed.key))
    client, visit = composed.client, composed.visit_id
    offer = client.post(f"/api/visits/{visit}/rest", json={"minutes": 6})
    assert offer.status_code == 200, offer.text
    told = offer.json()
    assert told["proven"] and told["gives_way"] and told["seconds"] <= 6 * 60 + 1
    assert composed.treatment()["session"]["event_count"] == 2, "an offer changes nothing"
    first = composed.treatment()["session"]["score"]["stops"]
    end = next(stop["start_s"] + stop["duration_s"] for stop in first if stop["key"] == composed.key)
    assert told["stops"][0]["start_s"] == pytest.approx(end + told["stops"][0]["find_s"])
    taken = event("rest", stops=told["stops"], why="6 minutes left")
    answer = composed.say(taken, {**event("note", text="short today"), "hands": 3})
    assert outcomes(answer) == ["kept", "kept"]
    state = answer.json()["session"]
    assert [stop["key"] for stop in state["score"]["stops"]][-len(told["stops"]) :] == [
        stop["key"] for stop in told["stops"]
    ]
    assert {one["why"] for one in state["given_up"]} == {"6 minutes left"}
    # What is taken is laid out and checked here, whatever was sent.
    harder = [{**stop, "key": f"x{n}", "level": 5} for n, stop in enumerate(told["stops"]) if stop["kind"] == "point"]
    refused = composed.say(event("rest", stops=harder))
    assert outcomes(refused) == ["disputed"] and "is above" in refused.json()["disputed"][-1]["reason"]
    composed.say(event("undo", of=refused.json()["session"]["past"][-1]["id"]))
    back = composed.say(event("undo", of=taken["id"])).json()["session"]
    assert [stop["key"] for stop in back["score"]["stops"]] == [stop["key"] for stop in first]
    problem(client.post(f"/api/visits/{visit}/rest", json={"minutes": 0}), 422, "greater than 0")
    problem(client.post(f"/api/visits/{visit}/rest", json={"minutes": 5, "add": "SP99"}), 422, "SP99")
    with transaction(practice_of(EMAIL)) as db:
        touched = db.execute(
            text("SELECT body ->> 'kind' AS kind, hands FROM treatment_event WHERE visit_id = :visit"),
            {"visit": visit},
        ).all()
    assert ("note", 3) in [tuple(row) for row in touched] and all(
        row.hands == 1 for row in touched if row.kind != "note"
    )


def test_a_treatment_begins_with_what_was_felt_and_found_there_before(newcomer, ode):
    complaint = newcomer.complain()
    newcomer.screen()
    stops = newcomer.compose(complaint).json()["score"]["stops"]
    stop = next(one for one in stops if one["kind"] == "point" and one["side"] != "midline")
    side = "right" if stop["side"] == "right" else "left"
    found = {"id": str(uuid.uuid4()), "entry": stop["id"], "side": side, "texture": "cord"}
    assert ode.post(f"/api/people/{newcomer.id}/findings", json=found).status_code == 201
    newcomer.say(newcomer.begin(), event("start_stop", key=stop["key"]), event("soreness", value=7, side=side))
    newcomer.say(event("soreness", value=4, side=side), event("end", reason="finished"))
    record = newcomer.treatment()["session"]["records"][stop["key"]]
    assert [(one["taken"], one["before"], one["after"]) for one in record["rounds"]] == [("ease", 7, 4)]
    soon = (datetime.now(UTC) + timedelta(days=7)).isoformat()
    booked = ode.post("/api/appointments", json={"person_id": newcomer.id, "starts_at": soon, "minutes": 45})
    newcomer.visit_id = booked.json()["visit_id"]
    newcomer.compose(complaint, pinned=[stop["id"]])
    session = newcomer.say(newcomer.begin()).json()["session"]
    now = next(one for one in session["score"]["stops"] if one["id"] == stop["id"])
    assert [(one["first"], one["last"], one["way"]) for one in now["before"] if one["side"] == side] == [(7, 4, "ease")]
    assert "cord" in now["found"]
