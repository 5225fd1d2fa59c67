"""Week after week: booked, moved, cancelled, missed, walked in; series, gaps, calendars, and what is due."""

import uuid
from datetime import UTC, datetime, time, timedelta
from zoneinfo import ZoneInfo

import pytest
import vobject
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.appointments import Slot, clashes, free_gaps
from acuthesis.store import access
from acuthesis.store.database import transaction
from tests.tiers import examples

from .conftest import Newcomer, at_the_door, practice_of, signed_in
from .test_stations import problem

LONDON = ZoneInfo("Europe/London")
MONDAY = datetime(2026, 3, 2, tzinfo=LONDON)  # of a week without a change of clocks; the Sunday after next has one
PASSWORD = "lantern-light"


@pytest.fixture(scope="module")
def email(world):
    with transaction() as db:
        practice = access.add_practice(db, "Weekly", "Europe/London")
        practice.idle_minutes = 720  # tests go through days of this practice in one session
        access.add_practitioner(db, practice.id, "Ada", "weekly@elsewhere.example", PASSWORD)
        access.add_practitioner(db, practice.id, "Ben", "ben@weekly.example", PASSWORD, "practitioner")
    return "weekly@elsewhere.example"


@pytest.fixture
def week(app, email, clock):
    """A client on the Monday at seven, before anybody works."""
    clock(MONDAY.replace(hour=7).astimezone(UTC))
    return signed_in(app, email, PASSWORD)


@pytest.fixture
def somebody(week):
    made = week.post(
        "/api/people", json={"given_name": "Some", "family_name": "Body", "born": "1990-05-01", "minutes": None}
    )
    return made.json()["id"]


def book(client, person, day, hour, minute=0, **more):
    at = MONDAY + timedelta(days=day)
    at = at.replace(hour=hour, minute=minute)
    body = {"person_id": person, "starts_at": at.isoformat(), "minutes": 45, **more}
    made = client.post("/api/appointments", json=body)
    assert made.status_code == 201, made.text
    return made.json()


def mark(client, one, attendance, reason=""):
    body = {"version": one["version"], "attendance": attendance, "reason": reason}
    return client.post(f"/api/appointments/{one['visit_id']}/attendance", json=body)


def test_an_appointment_is_booked_moved_and_cancelled_with_a_reason(week, somebody):
    one = book(week, somebody, 1, 10)
    to = {"version": one["version"], "starts_at": (MONDAY + timedelta(days=2, hours=11)).isoformat()}
    moved = week.patch(f"/api/appointments/{one['visit_id']}", json=to).json()
    assert moved["starts_at"] == "2026-03-04T11:00:00Z"
    problem(week.patch(f"/api/appointments/{one['visit_id']}", json=to), 409, "changed in another window")
    problem(mark(week, moved, "cancelled"), 422, "Enter a reason")
    problem(mark(week, moved, "not_come"), 422, "in the future")
    gone = mark(week, moved, "cancelled", "rehearsal").json()
    assert (gone["attendance"], gone["reason"]) == ("cancelled", "rehearsal")
    problem(
        week.patch(f"/api/appointments/{one['visit_id']}", json={"version": gone["version"]}),
        422,
        "cancelled or missed",
    )
    assert somebody not in {row["person_id"] for row in week.get("/api/day", params={"on": "2026-03-04"}).json()}
    listed = week.get("/api/appointments", params={"first": "2026-03-02"}).json()["appointments"]
    assert [row["attendance"] for row in listed if row["visit_id"] == one["visit_id"]] == ["cancelled"]
    back = mark(week, gone, "expected").json()
    assert (back["attendance"], back["reason"]) == ("expected", "")


def test_clashes_are_said_and_not_forbidden(week, somebody):
    place = week.post("/api/places", json={"name": f"Room {uuid.uuid4().hex[:5]}"}).json()["id"]
    ben = next(one["id"] for one in week.get("/api/practitioners").json() if one["name"] == "Ben")
    other = week.post("/api/people", json={"given_name": "Other", "born": "1990-05-01", "minutes": None}).json()["id"]
    first = book(week, somebody, 3, 9, place_id=place)
    same = book(week, other, 3, 9, 30)
    assert [clash["shared"] for clash in same["clashes"]] == [["practitioner"]]
    assert same["clashes"][0]["words"] == "Ada treats Some Body at 09:00, 45 min"
    beside = book(week, other, 3, 9, 30, practitioner_id=ben, place_id=place)
    assert {tuple(clash["shared"]) for clash in beside["clashes"]} == {("place",), ("person",)}
    late = {tuple(clash["shared"]) for clash in book(week, other, 3, 9, 45, practitioner_id=ben)["clashes"]}
    assert late == {("person",), ("practitioner", "person")}
    again = week.get(f"/api/appointments/{first['visit_id']}").json()
    assert {clash["visit_id"] for clash in again["clashes"]} == {same["visit_id"], beside["visit_id"]}
    mark(week, same, "cancelled", "clash")
    assert len(week.get(f"/api/appointments/{first['visit_id']}").json()["clashes"]) == 1


def test_a_walk_in_begins_now_and_a_visit_can_be_missed(week, somebody, clock):
    now = week.post(f"/api/people/{somebody}/walk-in", json={}).json()
    assert (now["came"], now["minutes"], now["starts_at"]) == ("walk_in", 45, "2026-03-02T07:00:00Z")
    assert week.get(f"/api/people/{somebody}/today").json()["visit_id"] == now["visit_id"]
    clock((MONDAY + timedelta(hours=18)).astimezone(UTC))
    missed = mark(week, now, "not_come").json()
    assert missed["attendance"] == "not_come"
    assert week.get(f"/api/people/{somebody}/today").json() is None


def test_whoever_comes_after_all_is_treated(week):
    person = Newcomer(week)
    complaint = person.complain()
    person.screen()
    score = person.compose(complaint, minutes=10).json()
    one = week.get(f"/api/appointments/{person.visit_id}").json()
    mark(week, one, "cancelled", "said so on the telephone")
    said = person.say(
        {"kind": "begin", "id": str(uuid.uuid4()), "at": "2026-03-02T07:01:00Z", "version": score["version"]},
        sent_at="2026-03-02T07:01:00Z",
    )
    assert said.status_code == 200, said.text
    assert week.get(f"/api/appointments/{person.visit_id}").json()["attendance"] == "expected"
    problem(mark(week, week.get(f"/api/appointments/{person.visit_id}").json(), "cancelled", "x"), 422, "has started")


def test_a_series_falls_due_on_working_days_and_is_booked_visit_by_visit(week, somebody, clock):
    week.patch("/api/practice", json={"hours": {str(day): {"opens": "09:00", "closes": "17:00"} for day in range(5)}})
    steps = [{"after_days": days, "purpose": f"set {name}"} for days, name in ((0, "A"), (5, "B"), (12, "A"))]
    wish = {"first": "2026-03-03", "minutes": 40, "visits": steps}
    planned = week.post(f"/api/people/{somebody}/series", json=wish).json()
    assert [one["due_on"] for one in planned] == ["2026-03-03", "2026-03-09", "2026-03-16"], "Sunday moves on"
    at = {"starts_at": "2026-03-03T10:00:00Z"}
    booked = week.post(f"/api/planned/{planned[0]['id']}/book", json=at).json()
    assert (booked["minutes"], booked["purpose"]) == (40, "set A")
    problem(week.post(f"/api/planned/{planned[0]['id']}/book", json=at), 409, "booked or dropped")
    due = [one for one in week.get("/api/due").json() if one["person_id"] == somebody]
    assert [(one["kind"], one["on"]) for one in due] == [("planned_visit", "2026-03-09")]
    mark(week, booked, "cancelled", "ill")
    assert len([one for one in week.get("/api/due").json() if one["person_id"] == somebody]) == 2, "to be booked again"
    week.post(f"/api/planned/{planned[1]['id']}/drop")
    again = week.post(f"/api/people/{somebody}/series", json={**wish, "visits": steps[:1]}).json()
    assert [one["dropped"] for one in again].count(False) == 1, "a new series takes the place of what was not booked"


def test_gaps_lie_within_working_hours_and_between_appointments(week, somebody):
    hours = {str(day): {"opens": "09:00", "closes": "12:00"} for day in (0, 1)}
    week.patch("/api/practice", json={"hours": hours})
    ben = next(one["id"] for one in week.get("/api/practitioners").json() if one["name"] == "Ben")
    book(week, somebody, 8, 9, 20, practitioner_id=ben)
    gaps = week.get("/api/gaps", params={"minutes": 60, "first": "2026-03-09", "practitioner_id": ben}).json()
    assert [(gap["starts_at"], gap["minutes"]) for gap in gaps[:3]] == [
        ("2026-03-09T09:00:00Z", 180),
        ("2026-03-10T10:15:00Z", 105),
        ("2026-03-16T09:00:00Z", 180),
    ]
    summer = week.get("/api/gaps", params={"minutes": 60, "first": "2026-03-30", "practitioner_id": ben}).json()
    assert summer[0]["starts_at"] == "2026-03-30T08:00:00Z", "nine o'clock by the practice's clock"


def test_calendars_are_private_and_read_by_another_library(week, somebody, app):
    one = book(week, somebody, 4, 15, purpose="nobody else's business")
    token = week.post("/api/me/calendar").json()["token"]
    door = at_the_door(app)
    events = {
        str(event.uid.value): event
        for event in vobject.readOne(door.get(f"/api/calendar/{token}.ics").text).contents["vevent"]
    }
    event = events[f"{one['visit_id']}@acuthesis"]
    assert event.summary.value == "S. B."
    assert (event.dtstart.value, event.dtend.value - event.dtstart.value) == (
        datetime(2026, 3, 6, 15, tzinfo=UTC),
        timedelta(minutes=45),
    )
    assert "business" not in door.get(f"/api/calendar/{token}.ics").text
    week.patch("/api/me", json={"calendar_names": True})
    mark(week, one, "cancelled", "ill")
    event = next(
        event
        for event in vobject.readOne(door.get(f"/api/calendar/{token}.ics").text).contents["vevent"]
        if event.uid.value.startswith(one["visit_id"])
    )
    assert (event.summary.value, event.status.value, event.sequence.value) == ("Some Body", "CANCELLED", "1")
    own = vobject.readOne(week.get(f"/api/appointments/{one['visit_id']}/appointment.ics").text)
    assert own.vevent.summary.value == "Weekly, Ada"
    assert week.delete("/api/me/calendar").status_code == 204
    assert door.get(f"/api/calendar/{token}.ics").status_code == 404
    assert door.get("/api/calendar/made-up.ics").status_code == 404


def test_what_is_due_without_a_visit_is_told(week, clock, app, email):
    person = Newcomer(week)
    person.screen()
    person.measure(height_cm=170, measures_cm={"forearm": 25})
    letter = {"recipient": "their doctor", "about": "the knee", "sent_on": "2026-03-01", "answer_due": "2026-03-05"}
    sent = week.post(f"/api/people/{person.id}/letters", json=letter).json()

    def mine():
        return [one["kind"] for one in week.get("/api/due").json() if one["person_id"] == person.id]

    assert mine() == ["letter"]
    answer = {"version": sent["version"], "answered_on": "2026-03-04", "answer": "goes ahead"}
    assert week.post(f"/api/letters/{sent['id']}/answer", json=answer).json()["answered_on"] == "2026-03-04"
    assert mine() == []
    clock((MONDAY + timedelta(days=100)).astimezone(UTC))
    week = signed_in(app, email, PASSWORD)
    week.post(f"/api/people/{person.id}/walk-in", json={})
    clock((MONDAY + timedelta(days=200)).astimezone(UTC))
    week = signed_in(app, email, PASSWORD)
    assert mine() == ["screening"], "half a year after it was asked"


moments = st.integers(0, 96).map(lambda quarter: datetime(2026, 3, 2, 6, tzinfo=UTC) + timedelta(minutes=15 * quarter))


@examples(200, deadline=None)
@given(st.lists(st.tuples(moments, st.integers(1, 20).map(lambda n: n * 5)), max_size=12), st.integers(1, 12))
def test_no_gap_clashes_with_anything_and_none_is_overlooked(taken, quarters):
    """Against the plain way: every quarter of an hour is tried, one by one."""
    minutes = quarters * 15
    slots = [Slot(rank, at, long, "Ada", rank) for rank, (at, long) in enumerate(taken)]
    hours = {0: (time(9), time(18))}
    nine, six = (datetime(2026, 3, 2, hour, tzinfo=UTC) for hour in (9, 18))
    busy = [(slot.starts_at, slot.ends_at) for slot in slots]
    gaps = free_gaps(busy, hours, [nine.date()], ZoneInfo("UTC"), minutes, nine)
    found = set()
    for gap in gaps:
        for step in range((gap.minutes - minutes) // 15 + 1):
            found.add(gap.starts_at + timedelta(minutes=15 * step))
    plain = set()
    at = nine
    while at + timedelta(minutes=minutes) <= six:
        if not clashes(Slot("new", at, minutes, "Ada", "new"), slots):
            plain.add(at)
        at += timedelta(minutes=15)
    assert found == plain


def test_a_visit_is_held_by_somebody_who_does_and_where_there_is_a_place(week, somebody):
    """What an appointment cannot be is said, and the appointment stays as it was."""
    desk = f"desk-{uuid.uuid4().hex[:6]}@weekly.example"
    practice = practice_of("ben@weekly.example")
    with transaction(practice) as db:
        cleo = str(access.add_practitioner(db, practice, "Cleo", desk, PASSWORD, "helper").id)
    one = book(week, somebody, 4, 12)
    at = f"/api/appointments/{one['visit_id']}"
    for change, status, says in (
        ({"starts_at": "2031-01-01T10:00:00Z"}, 422, "up to three years"),
        ({"practitioner_id": cleo}, 422, "Cleo does not take appointments."),
        ({"practitioner_id": str(uuid.uuid4())}, 404, "No one in this practice"),
        ({"place_id": str(uuid.uuid4())}, 404, "place"),
        ({"minutes": 999}, 422, "240"),
    ):
        problem(week.patch(at, json={"version": one["version"], **change}), status, says)
    assert week.get(at).json() == one
    place = week.post("/api/places", json={"name": f"Attic {uuid.uuid4().hex[:5]}"}).json()
    there = week.patch(at, json={"version": one["version"], "place_id": place["id"]}).json()
    nowhere = week.patch(at, json={"version": there["version"], "no_place": True}).json()
    assert (there["place"], nowhere["place"]) == (place["name"], "")


def test_reception_books_for_others_and_reads_no_purpose(week, app, somebody):
    desk = f"desk-{uuid.uuid4().hex[:6]}@weekly.example"
    practice = practice_of("ben@weekly.example")
    with transaction(practice) as db:
        access.add_practitioner(db, practice, "Dov", desk, PASSWORD, "helper")
    reception = signed_in(app, desk, PASSWORD)
    booked = book(reception, somebody, 4, 15)
    assert booked["practitioner"] in ("Ada", "Ben"), "held by somebody who treats"
    wish = {"first": "2026-03-05", "minutes": 30, "visits": [{"after_days": 0, "purpose": "womb"}]}
    planned = week.post(f"/api/people/{somebody}/series", json=wish).json()[-1]
    assert planned["purpose"] == "womb"
    read = {one["id"]: one for one in reception.get(f"/api/people/{somebody}/planned").json()}
    assert read[planned["id"]]["purpose"] == "", "what a visit is for is of the record"
    week.post(f"/api/planned/{planned['id']}/book", json={"starts_at": "2026-03-05T10:00:00Z"})
    problem(week.post(f"/api/planned/{planned['id']}/drop"), 409, "Cancel the appointment instead.")
    assert week.post(f"/api/planned/{uuid.uuid4()}/drop").status_code == 404


def test_places_have_names_of_their_own_and_are_put_away_without_being_lost(week):
    names = [f"{word} {uuid.uuid4().hex[:5]}" for word in ("Loft", "Cellar")]
    loft, cellar = (week.post("/api/places", json={"name": name, "address": "Yard 4"}).json() for name in names)
    problem(week.post("/api/places", json={"name": names[0].upper()}), 409, "There is already a place called")
    change = {"version": cellar["version"], "name": names[0]}
    problem(week.patch(f"/api/places/{cellar['id']}", json=change), 409, "There is already a place called")
    away = week.patch(f"/api/places/{loft['id']}", json={"version": loft["version"], "archived": True}).json()
    assert away["archived_at"] and away["address"] == "Yard 4"
    problem(week.patch(f"/api/places/{loft['id']}", json={"version": loft["version"], "name": "x"}), 409, "This place")
    back = week.patch(f"/api/places/{loft['id']}", json={"version": away["version"], "archived": False}).json()
    assert back["archived_at"] is None and back["name"] == names[0]
