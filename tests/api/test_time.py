"""Each practice has its own day: east and west of the server, and over both changes of summer time."""

from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest

from acuthesis.store import access
from acuthesis.store.database import transaction

from .conftest import Newcomer, signed_in

ZONES = ("Pacific/Tongatapu", "Pacific/Honolulu", "Europe/London")  # UTC+13, UTC−10, and one with summer time


@pytest.fixture(scope="module")
def practices(world):
    emails = {}
    with transaction() as db:
        for number, zone in enumerate(ZONES):
            practice = access.add_practice(db, f"Zone {number}", zone)
            emails[zone] = f"zone{number}@elsewhere.example"
            access.add_practitioner(db, practice.id, "Early Riser", emails[zone], "sun-and-moon")
    return emails


@pytest.fixture
def at(app, practices, clock):
    """A client in a practice, at a moment of the practice's clock."""

    def enter(zone, *moment):
        clock(datetime(*moment, tzinfo=ZoneInfo(zone)).astimezone(UTC))
        return signed_in(app, practices[zone], "sun-and-moon")

    return enter


@pytest.mark.parametrize("zone", ZONES)
@pytest.mark.parametrize(("hour", "minute"), [(0, 5), (11, 0), (23, 55)])
def test_today_is_the_practices_today(at, zone, hour, minute):
    client = at(zone, 2026, 7, 15, hour, minute)
    person = Newcomer(client, given_name=f"At {hour}")
    assert person.visit_id in {visit["visit_id"] for visit in client.get("/api/day").json()}
    assert person.visit_id in {visit["visit_id"] for visit in client.get("/api/day?on=2026-07-15").json()}
    for other in ("2026-07-14", "2026-07-16"):
        assert person.visit_id not in {visit["visit_id"] for visit in client.get(f"/api/day?on={other}").json()}


def test_tomorrow_there_is_not_yet_tomorrow_here(at):
    """The same moment is Wednesday in Tonga and Monday evening in Honolulu."""
    tonga = at("Pacific/Tongatapu", 2026, 7, 15, 0, 30)
    born_today = tonga.post("/api/people", json={"given_name": "Newborn", "born": "2026-07-15"})
    assert born_today.status_code == 201
    assert tonga.get(f"/api/people/{born_today.json()['id']}").json()["age"] == 0
    honolulu = at("Pacific/Honolulu", 2026, 7, 14, 1, 30)  # the same moment
    refused = honolulu.post("/api/people", json={"given_name": "Newborn", "born": "2026-07-15"})
    assert refused.status_code == 422 and "gives an impossible age" in refused.json()["message"]


@pytest.mark.parametrize(
    ("day", "hours"),
    [("2026-03-29", 23), ("2026-10-25", 25), ("2026-07-15", 24)],
    ids=["to summer", "to winter", "plain"],
)
def test_a_day_has_as_many_hours_as_the_clock_gives_it(at, day, hours):
    on = date.fromisoformat(day)
    first, last = at_edge(at, on, 0, 1), at_edge(at, on, 23, 59)
    client = at("Europe/London", on.year, on.month, on.day, 12)
    london = ZoneInfo("Europe/London")
    begins, ends = (
        datetime.combine(one, datetime.min.time(), london).astimezone(UTC) for one in (on, on + timedelta(days=1))
    )
    assert (ends - begins) == timedelta(hours=hours)
    seen = {visit["visit_id"] for visit in client.get(f"/api/day?on={day}").json()}
    assert {first, last} <= seen
    before = client.get(f"/api/day?on={on - timedelta(days=1)}").json()
    after = client.get(f"/api/day?on={on + timedelta(days=1)}").json()
    assert {first, last}.isdisjoint(visit["visit_id"] for visit in [*before, *after])


def at_edge(at, on, hour, minute):
    return Newcomer(at("Europe/London", on.year, on.month, on.day, hour, minute)).visit_id


@pytest.mark.parametrize("zone", ZONES[:2])
def test_answers_grow_old_by_the_practices_days(at, zone):
    client = at(zone, 2026, 1, 1, 23, 30)
    person = Newcomer(client)
    person.screen(pregnancy_weeks=20)
    assert person.get().json()["screened_on"] == "2026-01-01"
    client = at(zone, 2026, 1, 29, 23, 50)
    assert client.get(f"/api/people/{person.id}").json()["screening_stale"] is False, "28 days later"
    client = at(zone, 2026, 1, 30, 0, 10)
    assert client.get(f"/api/people/{person.id}").json()["screening_stale"] is True


def test_files_papers_and_the_audit_carry_the_practices_day(at):
    client = at("Pacific/Tongatapu", 2026, 7, 15, 8, 0)  # still the 14th in UTC
    assert (
        'filename="own-points-2026-07-15.json"' in client.get("/api/atlas/file?own=true").headers["content-disposition"]
    )
    assert 'filename="audit-2026-07-15.csv"' in client.get("/api/audit.csv").headers["content-disposition"]
    person = Newcomer(client)
    complaint = person.complain(since="2026-07-15")
    person.rate(complaint, 6)
    assert client.get("/api/me").json()["time_zone"] == "Pacific/Tongatapu"
    refused = client.post(f"/api/people/{person.id}/complaints", json={"kind": "knee_pain", "since": "2026-07-16"})
    assert refused.status_code == 422 and "is in the future" in refused.json()["message"]
    assert client.get(f"/api/people/{person.id}/home.pdf").content.startswith(b"%PDF")
