"""Between visits: plans for home, the diary on a person's own device, and red flags that come from it."""

import re
import secrets
import uuid
from datetime import UTC, datetime, timedelta

import pytest
import vobject
from sqlalchemy import text

from acuthesis.demo.world import EMAIL
from acuthesis.store.database import transaction
from tests.conftest import today
from tests.tiers import dice, drawn

from .conftest import Newcomer, at_the_door, practice_of
from .test_stations import problem


def give(person, **more):
    day = today()
    body = {
        "id": str(uuid.uuid4()),
        "wish": {"position": "seated"},
        "hours": ["08:00", "20:00"],
        "first_day": str(day),
        "until": str(day + timedelta(days=27)),
        **more,
    }
    return person.client.post(f"/api/people/{person.id}/home-plans", json=body)


def test_a_plan_is_proposed_changed_given_and_taken_along(home):
    proposed = home.get("/home-plan").json()
    plan = proposed["plan"]
    places = [one["id"] for own in plan["sets"] for one in own["points"]]
    assert 2 <= len(set(places)) <= 5 and not set(places) & {one["id"] for one in plan["others"]}
    assert proposed["stopped"] == [] and proposed["hours"] == ["08:00", "20:00"]
    other = plan["others"][0]["id"]
    chosen = home.get(f"/home-plan?places={other}&places={places[0]}&position=supine").json()["plan"]
    assert [one["id"] for one in chosen["sets"][0]["points"]] == [other, places[0]]
    problem(home.get("/home-plan?places=BL23"), 422, "out of this person's reach")
    assert home.get("/home-plan/given").json() is None
    assert "Press set" in home.get("/home.ics").text, "what would be proposed, until one is given"

    problem(give(home, hours=["08:00"]), 422, "2 different times")
    problem(give(home, first_day="2020-01-01"), 422, "must start today or later")
    given = give(home, wish={"position": "seated", "places": [places[0], other]})
    assert given.status_code == 201, given.text
    again = give(home, id=given.json()["id"])
    assert again.json() == given.json(), "the same once more gives nothing new"
    assert home.get("/home-plan/given").json()["given_by"] == "Ode Marrable"
    for large in ("false", "true"):
        sheet = home.get(f"/home.pdf?large={large}")
        assert sheet.content.startswith(b"%PDF")
    events = vobject.readOne(home.get("/home.ics").text).vevent_list
    assert {event.dtstart.value.hour for event in events} == {8, 20}


def test_what_becomes_refused_leaves_the_plan(home):
    assert give(home, wish={"position": "seated", "places": ["LI4", "GB20", "HT7"]}).status_code == 201
    home.screen(pregnancy_weeks=20)
    diary, _ = opened(home)
    shown = diary.get("/api/diary").json()["plan"]
    assert [one["id"] for one in shown["sets"][0]["points"]] == ["GB20", "HT7"], "LI4 is refused in pregnancy"
    home.screen(red_flags=["chest_pain"])
    assert diary.get("/api/diary").json()["plan"]["sets"] == []
    stopped = home.get("/home-plan").json()
    assert stopped["plan"]["sets"] == [] and "ambulance" in stopped["stopped"][0]


# --- the diary


def asks(person, **more):
    return {"complaints": [person.shoulder, person.head], "acts": True, "episodes": [person.head], **more}


def made(person, **more):
    body = {"id": str(uuid.uuid4()), "until": str(today() + timedelta(days=20)), **more}
    body.setdefault("asks", asks(person))
    return person.client.post(f"/api/people/{person.id}/diaries", json=body)


def key_of(practice=EMAIL):
    return f"{practice_of(practice).hex}.{secrets.token_urlsafe(32)}"


def let_in(client, code, key):
    return client.post("/api/diary/open", json={"code": code, "key": key})


def opened(person, **more):
    """A device that a diary was opened on, and the diary's id."""
    answer = made(person, **more)
    assert answer.status_code == 201, answer.text
    device = at_the_door(person.client.app)
    key = key_of()
    assert let_in(device, answer.json()["address"].partition("#")[2], key).status_code == 204
    device.headers["Authorization"] = f"Bearer {key}"
    return device, answer.json()["diary"]["id"]


def tell(device, *told, sent_at=None):
    now = datetime.now(UTC)
    rows = [{"id": str(uuid.uuid4()), "at": now.isoformat(), **one} for one in told]
    sent = {"sent_at": (sent_at or now).isoformat(), "told": rows}
    answer = device.post("/api/diary/told", json=sent)
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_a_link_works_once_for_one_device_and_ends(home):
    answer = made(home).json()
    assert answer["qr"].startswith("<svg") and answer["diary"]["state"] == "waiting"
    code, key = answer["address"].partition("#")[2], key_of()
    device = at_the_door(home.client.app)
    assert let_in(device, code, key).status_code == 204
    assert let_in(device, code, key).status_code == 204, "the answer may have been lost"
    problem(let_in(device, code, key_of()), 401, "already been used")
    problem(device.get("/api/diary", headers={"Authorization": "Bearer nonsense"}), 401, "has ended")
    problem(device.get("/api/diary"), 401, "has ended")
    device.headers["Authorization"] = f"Bearer {key}"
    shown = device.get("/api/diary").json()
    assert [one["name"] for one in shown["complaints"]] == ["Shoulder pain", "Tension headache"]
    assert shown["complaints"][0]["acts"][0]["words"] == "hanging up the lights"
    assert "family_name" not in shown and "ratings" not in str(shown)
    with transaction(practice_of(EMAIL)) as db:
        kept = db.execute(text("SELECT code_hash, key_hash FROM diary WHERE id = :id"), {"id": answer["diary"]["id"]})
        assert all(code.encode() not in bytes(one) and key.encode() not in bytes(one) for one in kept.one())
    ended = home.client.post(f"/api/diaries/{answer['diary']['id']}/end").json()
    assert ended["state"] == "ended"
    problem(device.get("/api/diary"), 401, "has ended")
    assert device.get("/api/diary").json()["code"] == "diary_ended"


def test_a_diary_ends_by_itself_and_a_code_grows_old(home, clock):
    problem(made(home, until="2020-01-01"), 422, "must be today or later")
    problem(made(home, asks={"complaints": [str(uuid.uuid4())]}), 422, "no such open complaint")
    device, _ = opened(home)
    unused = made(home).json()["address"].partition("#")[2]
    clock(datetime.now(UTC) + timedelta(days=8))
    problem(let_in(at_the_door(home.client.app), unused, key_of()), 401, "already been used")
    assert device.get("/api/diary").status_code == 200
    clock(datetime.now(UTC) + timedelta(days=22))
    problem(device.get("/api/diary"), 401, "has ended")


def test_what_is_told_from_home_stands_on_the_time_line(home):
    device, _ = opened(home, asks=asks(home, sleep=True, medicine=True))
    act = device.get("/api/diary").json()["complaints"][0]["acts"][0]["id"]
    rating, episode = str(uuid.uuid4()), str(uuid.uuid4())
    then = datetime.now(UTC) - timedelta(hours=5)
    outcomes = tell(
        device,
        {"kind": "rating", "id": rating, "complaint_id": home.shoulder, "value": 6},
        {"kind": "rating", "id": rating, "complaint_id": home.shoulder, "value": 6},
        {"kind": "rating", "complaint_id": home.shoulder, "act_id": act, "value": 3},
        {"kind": "episode", "id": episode, "complaint_id": home.head, "at": then.isoformat(), "strength": 7},
        {"kind": "pressed", "pressed": ["GB20", "LI4"], "minutes": 6},
        {"kind": "sleep", "hours": 5.5},
        {"kind": "medicine", "words": "ibuprofen", "times": 2},
        {"kind": "note", "words": "the tour began"},
    )
    assert all(one["kept"] for one in outcomes), outcomes
    [done] = tell(device, {"kind": "episode_over", "episode_id": episode, "helped": "dark room"})
    assert done["kept"]
    course = home.get("/course").json()
    shoulder, head = course["complaints"]
    assert [(one["value"], one["said_by"], one["moment"]) for one in shoulder["ratings"]] == [(6, "from_home", "home")]
    assert [one["value"] for one in shoulder["acts"][0]["ratings"]] == [3]
    assert [(bar["strength"], bar["helped"], bar["ended_at"] is None) for bar in head["bars"]] == [
        (7, "dark room", False)
    ]
    log = {one["kind"]: one for one in course["log"]}
    assert log["practice"]["pressed"] == ["GB20", "LI4"] and log["practice"]["amount"] == 6
    assert log["sleep"]["amount"] == 5.5 and log["medicine"]["words"] == "ibuprofen"
    assert log["event"]["words"] == "the tour began" and log["event"]["recorded_by"] == ""
    assert home.get("/diaries").json()[0]["heard_at"]
    who = home.client.get(f"/api/audit?person_id={home.id}").json()["entries"]
    assert next(one for one in who if one["action"] == "reported from home")["who"] == ""


def test_one_bad_entry_keeps_no_good_one_out(home, stranger):
    device, _ = opened(home)
    other = Newcomer(stranger)
    other.screen()
    theirs = other.complain("poor_sleep")
    future = (datetime.now(UTC) + timedelta(days=2)).isoformat()
    outcomes = tell(
        device,
        {"kind": "rating", "complaint_id": theirs, "value": 1},
        {"kind": "rating", "complaint_id": home.head, "value": 4},
        {"kind": "rating", "complaint_id": home.head, "value": 4, "at": future},
        {"kind": "rating", "complaint_id": home.head, "value": 4, "at": "2020-01-01T10:00:00Z"},
        {"kind": "pressed", "pressed": ["XX9"], "minutes": 1},
        {"kind": "episode_over", "episode_id": str(uuid.uuid4())},
        {"kind": "flag", "question": "no_such_flag"},
    )
    assert [one["kept"] for one in outcomes] == [False, True, False, False, False, False, False]
    assert "in the future" in outcomes[2]["why"] and "next visit" in outcomes[3]["why"]
    assert [one["value"] for one in home.get("/course").json()["complaints"][1]["ratings"]] == [4]
    assert device.post("/api/diary/told", json={"sent_at": future, "told": [{"kind": "rating"}]}).status_code == 422


def test_a_device_whose_clock_is_wrong_is_placed_by_ours(home):
    device, _ = opened(home)
    there = datetime.now(UTC) + timedelta(hours=9)  # its clock runs nine hours ahead
    said = there - timedelta(hours=2)
    [kept] = tell(
        device, {"kind": "rating", "complaint_id": home.head, "value": 5, "at": said.isoformat()}, sent_at=there
    )
    assert kept["kept"]
    [rating] = home.get("/course").json()["complaints"][1]["ratings"]
    off = datetime.now(UTC) - timedelta(hours=2) - datetime.fromisoformat(rating["at"])
    assert abs(off) < timedelta(minutes=1)


@pytest.mark.parametrize("seed", range(drawn(4)))
def test_whatever_is_told_and_told_again_is_kept_once(home, seed):
    """Any mixture, in parcels sent twice or out of turn by a clock that is wrong: as if it had been sent once."""
    chance = dice("told", seed)
    device, _ = opened(home, asks=asks(home, sleep=True, medicine=True))
    off = timedelta(minutes=chance.randint(-600, 600))
    now = datetime.now(UTC)

    def said(kind, hours, **values):
        at = now + off - timedelta(hours=hours)
        return {"id": str(uuid.uuid4()), "at": at.isoformat(), "kind": kind, **values}

    told = []
    for number in range(12):
        hours = chance.uniform(0.1, 60)
        told += [
            said("rating", hours, complaint_id=chance.choice([home.shoulder, home.head]), value=chance.randint(0, 10)),
            said("note", hours, words=f"note {number}"),
            said("pressed", hours, pressed=chance.sample(["GB20", "LI4", "HT7"], 2), minutes=chance.randint(1, 9)),
        ]
    told += [said("rating", -200, complaint_id=home.head, value=3), said("pressed", 1, pressed=["XX1"], minutes=1)]
    episode = said("episode", 5, complaint_id=home.head, strength=6)
    over = said("episode_over", 2, episode_id=episode["id"])
    parcels = [told[at : at + 7] for at in range(0, len(told), 7)]
    chance.shuffle(parcels)
    parcels = [parcel for parcel in parcels for _ in range(chance.randint(1, 2))]
    for parcel in [*parcels, [episode], [over, over], [episode, over]]:
        sent = device.post("/api/diary/told", json={"sent_at": (now + off).isoformat(), "told": parcel})
        assert sent.status_code == 200, sent.text
        refused = {one["id"] for one in sent.json() if not one["kept"]}
        assert refused == {one["id"] for one in parcel} & {told[-1]["id"], told[-2]["id"]}
    course = home.get("/course").json()
    kept = {one["id"]: one for complaint in course["complaints"] for one in complaint["ratings"]}
    wanted = {one["id"]: one for one in told[:-2] if one["kind"] == "rating"}
    assert {id: one["value"] for id, one in kept.items()} == {id: one["value"] for id, one in wanted.items()}
    for id, one in kept.items():
        there = datetime.fromisoformat(wanted[id]["at"]) - off
        assert abs(datetime.fromisoformat(one["at"]) - there) < timedelta(minutes=2, seconds=30), "by our clock"
    assert sorted(one["words"] for one in course["log"] if one["kind"] == "event") == sorted(
        one["words"] for one in told if one["kind"] == "note"
    )
    [bar] = course["complaints"][1]["bars"]
    assert bar["ended_at"] is not None and bar["strength"] == 6


def test_an_episode_of_the_practice_is_not_ended_from_home(home):
    device, _ = opened(home)
    going = {"started_at": (datetime.now(UTC) - timedelta(hours=3)).isoformat(), "goes_on": True}
    answer = home.client.post(f"/api/complaints/{home.head}/episodes", json={"episodes": [going]})
    assert answer.status_code == 201, answer.text
    [refused] = tell(device, {"kind": "episode_over", "episode_id": answer.json()[0]["id"]})
    assert not refused["kept"] and "no such episode" in refused["why"]
    early = (datetime.now(UTC) - timedelta(hours=9)).isoformat()
    own = str(uuid.uuid4())
    assert all(one["kept"] for one in tell(device, {"kind": "episode", "id": own, "complaint_id": home.head}))
    [before] = tell(device, {"kind": "episode_over", "episode_id": own, "at": early})
    assert not before["kept"] and "after it started" in before["why"]


def test_what_is_no_longer_asked_is_not_taken(home):
    device, _ = opened(home, asks={"complaints": [home.shoulder]})
    [other] = tell(device, {"kind": "rating", "complaint_id": home.head, "value": 4})
    assert not other["kept"] and "no longer asked" in other["why"]
    seen = next(one for one in home.get("/complaints").json() if one["id"] == home.shoulder)
    closed = {"version": seen["version"], "closed": True}
    assert home.client.patch(f"/api/complaints/{home.shoulder}", json=closed).status_code == 200
    assert device.get("/api/diary").json()["complaints"] == []
    [late] = tell(device, {"kind": "rating", "complaint_id": home.shoulder, "value": 4})
    assert not late["kept"]


def test_somebody_who_is_put_away_has_no_diary(home):
    device, _ = opened(home)
    assert (
        home.client.post(f"/api/people/{home.id}/archive", json={"version": home.version, "archived": True}).status_code
        == 200
    )
    problem(device.get("/api/diary"), 401, "has ended")


def test_far_more_than_anybody_tells_waits_until_tomorrow(home):
    device, _ = opened(home)
    for _ in range(2):
        tell(device, *({"kind": "note", "words": f"note {number}"} for number in range(200)))
    row = {"id": str(uuid.uuid4()), "at": datetime.now(UTC).isoformat(), "kind": "note", "words": "one more"}
    answer = device.post("/api/diary/told", json={"sent_at": row["at"], "told": [row]})
    problem(answer, 429, "sent tomorrow")
    assert tell(device, {"kind": "flag", "question": "chest_pain"})[0]["kept"], "a red flag always comes through"


def test_what_is_sent_again_does_not_count(home):
    device, _ = opened(home)
    at = datetime.now(UTC).isoformat()
    notes = [{"id": str(uuid.uuid4()), "at": at, "kind": "note", "words": f"note {number}"} for number in range(90)]
    for _ in range(6):  # the answers were lost
        sent = device.post("/api/diary/told", json={"sent_at": at, "told": notes})
        assert sent.status_code == 200 and all(one["kept"] for one in sent.json())
    assert len(home.get("/course").json()["log"]) == 90


def test_a_red_flag_from_home_marks_the_day_and_stops_the_work(home):
    device, _ = opened(home)
    warned = {one["id"]: one for one in device.get("/api/diary").json()["warnings"]}
    assert warned["worst_headache"]["emergency"] and "ambulance" in warned["worst_headache"]["say"]
    assert not warned["headache_after_50"]["emergency"]
    assert "Call a crisis line" in warned["self_harm_thoughts"]["say"], "to somebody who reads it alone"
    assert home.compose(home.head).status_code == 200
    [kept] = tell(device, {"kind": "flag", "question": "worst_headache"})
    assert kept["kept"]
    name = home.get().json()["given_name"]
    flag = next(one for one in home.client.get("/api/home-flags").json() if one["given_name"] == name)
    assert flag["emergency"] and flag["words"].startswith("A sudden headache")
    assert home.get().json()["verdict"]["decision"] == "emergency"
    assert home.compose(home.head).json()["score"]["stops"] == []
    problem(home.client.post(f"/api/home-flags/{flag['id']}/looked", json={"words": " "}), 422, "the action taken")
    left = home.client.post(f"/api/home-flags/{flag['id']}/looked", json={"words": "Called; she is in hospital."})
    assert flag["id"] not in {one["id"] for one in left.json()}
    problem(home.client.post(f"/api/home-flags/{flag['id']}/looked", json={"words": "again"}), 422, "already")
    assert home.get().json()["verdict"]["decision"] == "emergency", "the screening keeps it until it is asked anew"


def test_the_home_set_comes_with_its_drawings_and_reminders(home):
    device, _ = opened(home, asks=asks(home, hours=["20:00"]))
    assert device.get("/api/diary").json()["plan"] is None
    give(home, wish={"position": "seated", "places": ["GB20", "HT7"]})
    shown = device.get("/api/diary").json()
    assert shown["plan_hours"] == ["08:00", "20:00"] and shown["plan"]["sets"][0]["points"][0]["id"] == "GB20"
    [hollow] = [one for one in shown["plan"]["sets"][0]["points"] if one["id"] == "GB20"]
    assert hollow["where"].startswith("hollow below the skull")
    give(home, wish={"position": "seated", "places": ["PC6", "GB20"]})
    wrist = device.get("/api/diary").json()["plan"]["sets"][0]["points"][0]
    assert re.fullmatch(r"\d\.\d cm above the wrist crease, .*", wrist["where"])
    assert re.fullmatch(r"The distance is \d\.\d cm; .* of your own hand (is|are) \d\.\d cm\.", wrist["measure"])
    give(home, wish={"position": "seated", "places": ["GB20", "HT7"]})
    drawing = device.get("/api/diary/places/GB20.svg")
    assert drawing.text.startswith("<svg") and "GB20" not in drawing.text
    assert device.get("/api/diary/places/LI4.svg").status_code == 422, "nothing but what is in the plan"
    told = vobject.readOne(device.get("/api/diary/reminders.ics").text).vevent
    assert told.summary.value == "How is it now?" and "#" not in told.url.value
    silent, _ = opened(home)
    problem(silent.get("/api/diary/reminders.ics"), 422, "No hours")
