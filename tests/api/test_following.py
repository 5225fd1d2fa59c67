"""Following over the API: what was said stays when it is corrected, lists never show what ratings have overtaken."""

import csv
import io
import uuid
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from sqlalchemy import select

from acuthesis.demo.world import EMAIL
from acuthesis.store.database import transaction
from acuthesis.store.model import ComplaintRow, OutcomeRow, RatingRow, VisitRow
from tests.conftest import ZONE, today

from .conftest import Newcomer, practice_of
from .test_stations import problem


def course(person):
    return person.get("/course").json()


def add(client, address, **body):
    return client.post(address, json={"id": str(uuid.uuid4()), **body})


def test_a_rating_given_again_takes_the_place_of_the_first_and_the_first_stays(newcomer):
    complaint = newcomer.complain()
    newcomer.rate(complaint, 7)
    newcomer.rate(complaint, 5)  # at the same visit, before it: they thought again
    [one] = course(newcomer)["complaints"]
    assert [(row["value"], row["moment"], row["said_by"]) for row in one["ratings"]] == [(5, "before", "person")]
    record = newcomer.get("/record").json()["ratings"]
    assert [row["value"] for row in record] == [7, 5] and record[1]["replaces"] == record[0]["id"]


def test_corrections_and_taking_back(newcomer):
    client, complaint = newcomer.client, newcomer.complain(acts=["stairs"])
    newcomer.rate(complaint, 7, "home")
    rating = course(newcomer)["complaints"][0]["ratings"][0]["id"]
    correction = {"id": str(uuid.uuid4()), "value": 2}
    for _ in range(2):  # sent twice it is kept once
        assert client.post(f"/api/ratings/{rating}/corrections", json=correction).status_code == 201
    problem(add(client, f"/api/ratings/{rating}/corrections", value=3), 409, "already been corrected")
    assert add(client, f"/api/ratings/{correction['id']}/corrections", value=None).status_code == 201
    told = course(newcomer)["complaints"][0]
    assert told["ratings"] == [] and told["outcome"]["trend"] == "no_rating"
    kept = newcomer.get("/record").json()["ratings"]
    assert [(row["value"], row["dropped"]) for row in kept] == [(7, False), (2, False), (2, True)]
    act = client.get(f"/api/people/{newcomer.id}/complaints").json()[0]["acts"][0]["id"]
    rated = add(client, f"/api/complaints/{complaint}/acts/{act}/ratings", value=6, moment="home")
    rating = rated.json()["acts"][0]["ratings"][0]["id"]
    assert add(client, f"/api/ratings/{rating}/corrections", value=4).json()["acts"][0]["ratings"][0]["value"] == 4


def test_a_closed_record_keeps_its_ratings(newcomer):
    complaint = newcomer.complain()
    newcomer.rate(complaint, 7)
    rating = course(newcomer)["complaints"][0]["ratings"][0]["id"]
    client = newcomer.client
    version = client.get(f"/api/visits/{newcomer.visit_id}/record").json()["version"]
    assert client.post(f"/api/visits/{newcomer.visit_id}/record/close", json={"version": version}).status_code < 300
    problem(add(client, f"/api/ratings/{rating}/corrections", value=1), 422, "record of this visit is closed")


def test_an_outcome_is_never_older_than_the_ratings(newcomer):
    """Ratings that come while others read: what is kept afterwards is what all the ratings say."""
    complaint = newcomer.complain()
    with ThreadPoolExecutor(6) as pool:
        work = [pool.submit(newcomer.rate, complaint, n % 11, "home") for n in range(12)]
        work += [pool.submit(course, newcomer) for _ in range(6)]
        assert all(one.result() is not None for one in work)
    told = newcomer.get("/course")
    assert told.status_code == 200, told.text
    assert told.json()["complaints"][0]["outcome"]["ratings"] == 12
    with transaction(practice_of(EMAIL)) as db:
        kept = db.scalar(select(OutcomeRow).where(OutcomeRow.id == uuid.UUID(complaint)))
        assert kept is not None and kept.told["ratings"] == 12


def test_the_log_keeps_what_was_said_and_refuses_what_cannot_be(newcomer):
    client, at = newcomer.client, f"/api/people/{newcomer.id}/log"
    entry = add(client, at, kind="medicine", on_day=str(today()), words="tablets", amount=3, said_by="carer").json()
    again = {
        "id": str(uuid.uuid4()),
        "entry": {"kind": "medicine", "on_day": str(today()), "words": "tablets", "amount": 2},
    }
    assert client.post(f"/api/log/{entry['id']}/corrections", json=again).json()["corrects"]
    problem(add(client, f"/api/log/{entry['id']}/corrections", entry=None), 409, "already been corrected")
    assert [(one["amount"], one["said_by"]) for one in course(newcomer)["log"]] == [(2, "person")]
    kept = newcomer.get("/record").json()["log"]
    assert [(one["amount"], one["said_by"]) for one in kept] == [(3, "carer"), (2, "person")]
    for body, says in (
        ({"kind": "sleep", "on_day": str(today()), "amount": 25}, "0 to 24"),
        ({"kind": "event", "on_day": str(today())}, "Enter what happened"),
        ({"kind": "event", "on_day": str(today() + timedelta(days=3)), "words": "a trip"}, "in the future"),
        ({"kind": "practice", "on_day": str(today()), "pressed": ["SP99"]}, "SP99"),
        (
            {"kind": "medicine", "on_day": str(today()), "until": str(today() - timedelta(days=1)), "words": "x"},
            "must end after",
        ),
    ):
        problem(add(client, at, **body), 422, says)
    assert len(course(newcomer)["log"]) == 1


def test_a_decision_stands_beside_what_was_proposed(newcomer):
    complaint = newcomer.complain()
    newcomer.rate(complaint, 7)
    proposed = course(newcomer)["complaints"][0]["proposal"]
    body = {"step": "refer", "because": "a look by the doctor first", "proposed": proposed}
    made = add(newcomer.client, f"/api/complaints/{complaint}/decisions", **body).json()
    assert (made["step"], made["proposed"]["step"], made["decided_by"]) == ("refer", "look_again", "Ode Marrable")
    noted = {"version": made["version"], "came_of": "seen, nothing found"}
    assert newcomer.client.patch(f"/api/decisions/{made['id']}", json=noted).json()["came_of_at"]
    problem(newcomer.client.patch(f"/api/decisions/{made['id']}", json=noted), 409, "another window")
    assert course(newcomer)["complaints"][0]["decisions"][0]["came_of"] == "seen, nothing found"


def test_an_episode_keeps_what_it_said_before(newcomer):
    complaint = newcomer.complain()
    began = {"started_at": "2026-03-01T18:00:00Z", "strength": 8}
    address = f"/api/complaints/{complaint}/episodes"
    [one] = newcomer.client.post(address, json={"episodes": [began]}).json()
    change = {"version": one["version"], "episode": {**began, "strength": 5}}
    assert newcomer.client.patch(f"/api/episodes/{one['id']}", json=change).json()["changed"] == 1
    [kept] = newcomer.get("/record").json()["episodes"]
    assert (kept["strength"], [row["strength"] for row in kept["earlier"]]) == (5, [8])


def test_a_course_as_files(ode, cast):
    priya = ode.get(f"/api/people/{cast['Priya']['person_id']}/course").json()
    jaw = next(one for one in priya["complaints"] if one["kind"] == "jaw_tension")
    table = ode.get(f"/api/complaints/{jaw['id']}/course.csv")
    rows = list(csv.DictReader(io.StringIO(table.text)))
    assert len([row for row in rows if not row["act"]]) == len(jaw["ratings"])
    drawn = ode.get(f"/api/complaints/{jaw['id']}/course.svg")
    assert drawn.headers["content-type"].startswith("image/svg+xml")
    assert "Tight jaw, 0 to 10" in drawn.text and "before a session" in drawn.text


LIST = "\ufeffDatum;Uhr;Pain 0-10\n1.3.2026;08:30;7\n3.3.2026;;6\n5.3.2026;21:15;5\n"


def test_a_list_that_was_kept_elsewhere_comes_in_whole_or_not_at_all(newcomer):
    client, complaint = newcomer.client, newcomer.complain()
    told = client.post("/api/ratings-list/columns", json={"text": LIST.replace("Datum", "Date")}).json()
    assert (told["heads"], told["rows"]) == (["Date", "Uhr", "Pain 0-10"], 3)
    assert told["suggested"] == {"day": "Date", "value": "Pain 0-10"}
    at = f"/api/complaints/{complaint}/ratings-list"
    wish = {"text": LIST, "day": "Datum", "time": "Uhr", "value": "Pain 0-10", "order": "day_first"}
    seen = client.post(at, json=wish).json()
    assert (seen["new"], seen["already"], seen["refused"], seen["kept"]) == (3, 0, [], False)
    assert course(newcomer)["complaints"][0]["ratings"] == []
    damaged = {**wish, "text": LIST + "7.3.2026;25:00;4\n8.3.2026;;11\n31.2.2026;;4\n1.1.2199;;4\n"}
    refused = client.post(at, json=damaged).json()
    assert [(one["number"], one["why"].split(" is ")[1]) for one in refused["refused"]] == [
        (4, "not a time, such as 18:30"),
        (5, "not a whole number from 0 to 10"),
        (6, "not a date"),
        (7, "in the future"),
    ]
    problem(client.post(at, json={**damaged, "keep": True}), 422, "4 rows cannot be imported. Nothing was saved.")
    assert course(newcomer)["complaints"][0]["ratings"] == []
    assert client.post(at, json={**wish, "keep": True}).json()["kept"]
    ratings = course(newcomer)["complaints"][0]["ratings"]
    assert [(one["value"], one["moment"], one["said_by"]) for one in ratings] == [
        (value, "home", "from_home") for value in (7, 6, 5)
    ]
    morning = datetime(2026, 3, 1, 8, 30, tzinfo=ZoneInfo(ZONE))
    assert datetime.fromisoformat(ratings[0]["at"]) == morning, "by the practice's clock"
    again = client.post(at, json={**wish, "keep": True}).json()
    assert (again["new"], again["already"]) == (0, 3)
    problem(client.post(at, json={**wish, "day": "When"}), 422, "no column “When”")
    problem(client.post("/api/ratings-list/columns", json={"text": "only one"}), 422, "two to forty columns")


def treated(person, complaint, before):
    """Visits that were held some days ago, each with a rating before it."""
    with transaction(practice_of(EMAIL)) as db:
        own = db.get(ComplaintRow, uuid.UUID(complaint))
        first = max(before)
        own.created_at = datetime.now(UTC) - timedelta(days=first)
        home = {"practice_id": own.practice_id, "person_id": own.person_id}
        who = db.scalar(select(VisitRow.practitioner_id).where(VisitRow.person_id == own.person_id))
        for days, value in before.items():
            at = datetime.now(UTC) - timedelta(days=days)
            visit = VisitRow(starts_at=at, minutes=30, practitioner_id=who, treatment="over", version=1, **home)
            db.add(visit)
            db.flush()
            rated = {"moment": "before", "value": value, "rated_at": at, "said_by": "person"}
            db.add(RatingRow(complaint_id=own.id, visit_id=visit.id, **rated, **home))


def test_the_follow_up_says_who_needs_a_word_and_counts_all_who_began(newcomer):
    client, kind = newcomer.client, "hiccup"
    worse, gone = newcomer, Newcomer(newcomer.client)
    treated(worse, worse.complain(kind), {20: 3, 12: 7, 5: 8})
    treated(gone, gone.complain(kind), {90: 5, 80: 5, 70: 5, 60: 5})
    # What is booked for today is not kept: nobody comes.
    for one in (worse, gone):
        marked = {"version": 1, "attendance": "not_come"}
        answer = client.post(f"/api/appointments/{one.visit_id}/attendance", json=marked)
        assert answer.status_code == 200, answer.text
    told = client.get("/api/follow-up").json()
    while told["waiting"]:
        told = client.get("/api/follow-up").json()
    assert any(row["person_id"] == worse.id and "Worse by" in row["words"] for row in told["worse"])
    back = {row["person_id"]: row["words"] for row in told["not_back"]}
    zone = ZoneInfo(client.get("/api/me").json()["time_zone"])  # whose clock may have been put back in between
    then = (datetime.now(UTC) - timedelta(days=60)).astimezone(zone).date()
    days = (datetime.now(zone).date() - then).days
    assert f"last session {days} days ago" in back[gone.id] and worse.id not in back
    [row] = [one for one in told["kinds"] if one["kind"] == kind]
    assert (row["began"], row["worse"], row["stopped"], row["small"]) == (2, 1, 1, True)
    assert row["began"] == sum(row[one] for one in (*TRENDS, "no_rating"))
    # Nothing tells one practitioner from another.
    assert "practitioner" not in str(told)


TRENDS = ("better", "no_change", "worse", "cannot_tell", "too_early")


@pytest.mark.parametrize("part", ["log", "decisions"])
def test_what_was_followed_goes_out_and_comes_in(newcomer, stranger, part):
    complaint = newcomer.complain()
    newcomer.rate(complaint, 7)
    client = newcomer.client
    proposed = course(newcomer)["complaints"][0]["proposal"]
    add(client, f"/api/complaints/{complaint}/decisions", step="go_on", proposed=proposed)
    entry = add(client, f"/api/people/{newcomer.id}/log", kind="event", on_day="2026-01-05", words="moved house").json()
    add(client, f"/api/log/{entry['id']}/corrections", entry=None)
    record = newcomer.get("/record").json()
    assert len(record[part]) == {"log": 2, "decisions": 1}[part]
    damaged = {**record, "log": record["log"][::-1]}
    assert "corrects what is not before it" in stranger.post("/api/records", json=damaged).text


def test_earlier_people_weigh_in_only_where_ten_began_and_it_is_switched_on(newcomer):
    """Eleven people changed much alike; somebody new is judged without them, and beside it with them."""
    client, kind = newcomer.client, "trigger_finger"
    for number in range(11):
        person = Newcomer(client)
        complaint = person.complain(kind)
        if number == 10:  # came once, and never again
            treated(person, complaint, {200: 7})
        else:
            treated(person, complaint, {200: 7, 193: 6, 186: 5, 179: 4 + number % 2, 172: 4, 165: 3 + number % 2})
        course(person)
    complaint = newcomer.complain(kind)
    treated(newcomer, complaint, {28: 7, 21: 6, 14: 6, 7: 5})
    alone = course(newcomer)["complaints"][0]
    assert alone["with_practice"] is None
    assert client.patch("/api/practice", json={"earlier_people": True}).json()["earlier_people"]
    try:
        both = course(newcomer)["complaints"][0]
        told = both["with_practice"]
        assert both["outcome"] == alone["outcome"], "the judgement without them stays"
        assert (told["beforehand"]["people"], told["beforehand"]["stopped"]) == (11, 1)
        assert told["beforehand"]["mean"] < -1 and "11 earlier people" in told["sentence"]
        own, with_them = both["outcome"]["points"], told["points"]
        assert with_them["high"] - with_them["low"] < own["high"] - own["low"]
        other = Newcomer(client)
        treated(other, other.complain("dry_mouth"), {28: 7, 21: 6, 14: 6, 7: 5})
        assert course(other)["complaints"][0]["with_practice"] is None, "fewer than ten began with it"
    finally:
        client.patch("/api/practice", json={"earlier_people": False})
