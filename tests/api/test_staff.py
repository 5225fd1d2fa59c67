"""People who work here: roles that hold at every endpoint, one-time links, passwords, second factors, leaving."""

import re
import uuid
from datetime import UTC, datetime, timedelta

import pyotp
import pytest
from benchmarks.requests import operations
from sqlalchemy import select

from acuthesis.services.request.roles import POWERS
from acuthesis.store import access
from acuthesis.store.database import transaction
from acuthesis.store.model import AuditRow

from .conftest import Newcomer, at_the_door, practice_of, signed_in
from .test_stations import problem

PASSWORD = "lantern-light"
# What a helper may read: appointments and names; what anybody may: their own account. Everything else is health.
OPEN_TO_HELPERS = {
    ("get", "/api/appointments"),
    ("get", "/api/appointments/{visit_id}"),
    ("get", "/api/appointments/{visit_id}/appointment.ics"),
    ("get", "/api/gaps"),
    ("get", "/api/people"),
    ("get", "/api/people/{person_id}/appointments"),
    ("get", "/api/people/{person_id}/contact"),
    ("get", "/api/people/{person_id}/planned"),
    ("get", "/api/practice"),
    ("get", "/api/practitioners"),
    ("patch", "/api/appointments/{visit_id}"),
    ("patch", "/api/people/{person_id}/contact"),
    ("post", "/api/appointments"),
    ("post", "/api/appointments/{visit_id}/attendance"),
    ("post", "/api/people"),
    ("post", "/api/people/{person_id}/walk-in"),
    ("post", "/api/planned/{planned_id}/book"),
}
OPEN_TO_ALL = re.compile(r"/api/(me\b|sign-|session$|cover$|unlock|health|links/|calendar/|diary\b|say\b)")
# What is shipped with the application, and nobody's: it can be read without signing in.
SHIPPED = re.compile(
    r"/api/(atlas/(parts|contents|search|channels|entries|maps)|body/(triangles|cloth|areas)|measures|reactions|dose|safety)"
)
OWNERS_ALONE = re.compile(r"/api/(staff|places|practice$|letter-templates/{|audit/chain$)")


class Practice:
    """A practice of a test's own, with somebody in every role."""

    def __init__(self, app):
        self.app, self.mark = app, uuid.uuid4().hex[:8]
        with transaction() as db:
            practice = access.add_practice(db, f"Practice {self.mark}", "Europe/London")
            for role in POWERS:
                access.add_practitioner(db, practice.id, role.title(), self.email(role), PASSWORD, role)
        self.id = practice_of(self.email("owner"))

    def email(self, role):
        return f"{role}-{self.mark}@elsewhere.example"

    def enter(self, role="owner", password=PASSWORD):
        return signed_in(self.app, self.email(role), password)

    def who(self, role):
        return next(one["id"] for one in self.enter().get("/api/practitioners").json() if one["name"] == role.title())


@pytest.fixture(scope="module")
def shared(app):
    return Practice(app)


@pytest.fixture
def practice(app):
    return Practice(app)


def call(client, method, path):
    address = re.sub(r"{\w+}", str(uuid.uuid4()), path)
    return client.request(method, address, json={} if method in ("post", "put", "patch") else None)


def test_a_role_holds_at_every_endpoint(app, shared):
    """Endpoints are found in the description: a new one that nobody thought of is closed, not open."""
    clients = {role: shared.enter(role) for role in POWERS}
    seen = set()
    for method, path, _ in operations(app.openapi()):
        if OPEN_TO_ALL.match(path) or call(at_the_door(app), method, path).status_code != 401:
            assert OPEN_TO_ALL.match(path) or SHIPPED.match(path), f"{method} {path} asks nobody who they are"
            continue
        seen.add((method, path))
        answers = {role: call(client, method, path) for role, client in clients.items()}
        refused = {role for role, answer in answers.items() if answer.status_code == 403}
        if OWNERS_ALONE.match(path) and (method, path) not in OPEN_TO_HELPERS:
            expected = {"practitioner", "helper", "reader"}
        elif (method, path) in OPEN_TO_HELPERS:
            expected = {"reader"} if method != "get" else set()
        else:
            expected = {"helper"} if method == "get" else {"helper", "reader"}
        # Input is checked before the role where an endpoint has any: what is refused as input gives nothing away.
        told = {role for role, answer in answers.items() if answer.status_code in (404, 422)}
        assert refused <= expected, f"{method} {path}: {refused} are refused"
        assert expected <= refused | told, f"{method} {path}: {expected - refused} come in"
        if method == "get":
            assert refused == expected, f"{method} {path}"
    assert seen >= OPEN_TO_HELPERS


def test_a_helper_books_and_sees_no_health(shared):
    ode, helper = shared.enter(), shared.enter("helper")
    person = Newcomer(ode)
    person.complain()
    at = (datetime.now(UTC) + timedelta(days=3)).isoformat()
    body = {"person_id": person.id, "starts_at": at, "purpose": "heel, second set"}
    booked = ode.post("/api/appointments", json=body).json()
    assert booked["purpose"] == "heel, second set"
    seen = helper.get(f"/api/appointments/{booked['visit_id']}").json()
    assert (seen["given_name"], seen["purpose"]) == (booked["given_name"], "")
    change = {"version": seen["version"], "minutes": 30}
    moved = helper.patch(f"/api/appointments/{booked['visit_id']}", json=change)
    assert moved.json()["minutes"] == 30
    assert ode.get(f"/api/appointments/{booked['visit_id']}").json()["purpose"] == "heel, second set"
    new = {"given_name": "Walked", "born": "1980-01-01", "minutes": None}
    assert helper.post("/api/people", json=new).status_code == 201
    problem(helper.post("/api/people", json={**new, "story": "told at the door"}), 403, "cannot change health records")
    problem(helper.get(f"/api/people/{person.id}"), 403, "cannot see health records")


def test_an_invitation_lets_one_in_once(practice):
    owner = practice.enter()
    wanted = {"name": "New", "email": f"new-{practice.mark}@elsewhere.example", "role": "practitioner"}
    link = owner.post("/api/staff/invitations", json=wanted).json()
    door = at_the_door(practice.app)
    look = door.post("/api/links/look", json={"token": link["token"]}).json()
    assert (look["kind"], look["practice"], look["role"]) == ("invitation", f"Practice {practice.mark}", "practitioner")
    problem(
        door.post("/api/links/join", json={"token": link["token"], "name": "N", "password": "short"}), 422, "at least"
    )
    joined = door.post("/api/links/join", json={"token": link["token"], "name": "Newest", "password": PASSWORD})
    assert joined.json()["role"] == "practitioner"
    assert door.get("/api/me").json()["name"] == "Newest"
    again = {"token": link["token"], "name": "Third", "password": PASSWORD}
    problem(at_the_door(practice.app).post("/api/links/join", json=again), 404, "used or has expired")
    problem(owner.post("/api/staff/invitations", json=wanted), 422, "already used for another account")


def test_a_withdrawn_or_old_invitation_opens_nothing(practice, clock):
    owner = practice.enter()
    wanted = {"name": "Late", "email": f"late-{practice.mark}@elsewhere.example", "role": "helper"}
    first = owner.post("/api/staff/invitations", json=wanted).json()["token"]
    link = owner.get("/api/staff").json()["invitations"][0]
    assert owner.delete(f"/api/staff/invitations/{link['id']}").status_code == 204
    second = owner.post("/api/staff/invitations", json=wanted).json()["token"]
    door = at_the_door(practice.app)
    assert door.post("/api/links/look", json={"token": first}).status_code == 404
    assert door.post("/api/links/look", json={"token": second}).status_code == 200
    clock(datetime.now(UTC) + timedelta(days=8))
    assert door.post("/api/links/look", json={"token": second}).status_code == 404


def test_a_new_password_signs_every_other_browser_out(practice):
    here, there = practice.enter("practitioner"), practice.enter("practitioner")
    wrong = {"password": "not-this-one", "new_password": "another-lantern"}
    problem(here.post("/api/me/password", json=wrong), 422, "Incorrect password")
    poor = {"password": PASSWORD, "new_password": "aaaaaaaaaaaa"}
    problem(here.post("/api/me/password", json=poor), 422, "repeats the same few")
    assert here.post("/api/me/password", json={**poor, "new_password": "another-lantern"}).status_code == 204
    assert (here.get("/api/me").status_code, there.get("/api/me").status_code) == (200, 401)
    practice.enter("practitioner", "another-lantern")


def test_a_reset_link_opens_the_account_once(practice):
    owner, browser = practice.enter(), practice.enter("practitioner")
    path = f"/api/staff/{practice.who('practitioner')}/reset-link"
    old = owner.post(path).json()["token"]
    new = owner.post(path).json()["token"]
    door = at_the_door(practice.app)
    assert door.post("/api/links/reset", json={"token": old, "password": "lighthouse-keys"}).status_code == 404
    assert door.post("/api/links/reset", json={"token": new, "password": "lighthouse-keys"}).status_code == 204
    assert door.post("/api/links/reset", json={"token": new, "password": "lighthouse-keys"}).status_code == 404
    assert browser.get("/api/me").status_code == 401
    practice.enter("practitioner", "lighthouse-keys")


def enrolled(client, clock, moment):
    """A second factor, set up at a moment."""
    clock(moment)
    offered = client.post("/api/me/second-factor", json={"password": PASSWORD}).json()
    problem(client.post("/api/me/second-factor/confirm", json={"code": "000000"}), 422, "Incorrect code")
    code = pyotp.TOTP(offered["secret"]).at(moment)
    codes = client.post("/api/me/second-factor/confirm", json={"code": code})
    assert codes.status_code == 200, codes.text
    return offered["secret"], codes.json()["codes"]


def test_a_second_factor_asks_for_a_fresh_code_or_a_recovery_code(practice, clock):
    moment = datetime.now(UTC)
    secret, recovery = enrolled(practice.enter(), clock, moment)
    door = at_the_door(practice.app)

    def sign_in(code=None):
        body = {"email": practice.email("owner"), "password": PASSWORD, "code": code}
        return door.post("/api/sign-in", json=body)

    assert sign_in().json()["code"] == "second_factor"
    assert sign_in(pyotp.TOTP(secret).at(moment)).status_code == 401, "a code that was used counts no more"
    later = moment + timedelta(seconds=90)
    clock(later)
    assert sign_in(pyotp.TOTP(secret).at(later)).status_code == 200
    assert sign_in(pyotp.TOTP(secret).at(later)).status_code == 401
    assert (sign_in(recovery[0]).status_code, sign_in(recovery[0]).status_code) == (200, 401)
    for _ in range(10):
        last = sign_in("123456")
    assert last.status_code == 429, "codes are limited as passwords are"


def test_a_practice_can_ask_everybody_for_a_second_factor(practice, clock):
    owner, other = practice.enter(), practice.enter("practitioner")
    problem(
        owner.patch("/api/practice", json={"second_factor_required": True}),
        422,
        "two-step verification for your own account first",
    )
    enrolled(owner, clock, datetime.now(UTC))
    assert owner.patch("/api/practice", json={"second_factor_required": True}).status_code == 200
    assert other.get("/api/me").json()["must_enrol"]
    for path in ("/api/day", "/api/people", "/api/appointments"):
        assert other.get(path).json()["code"] == "must_enrol", path
    enrolled(other, clock, datetime.now(UTC))
    assert other.get("/api/day").status_code == 200
    body = {"password": PASSWORD, "code": "000000"}
    problem(other.post("/api/me/second-factor/off", json=body), 422, "requires two-step")


def test_open_sessions_are_listed_and_ended(practice):
    here, there = practice.enter("reader"), practice.enter("reader")
    listed = here.get("/api/me/sessions").json()
    assert [one["here"] for one in listed].count(True) == 1
    gone = next(one["id"] for one in listed if not one["here"])
    assert here.delete(f"/api/me/sessions/{gone}").status_code == 204
    assert there.get("/api/me").status_code == 401
    assert practice.enter("helper").delete(f"/api/me/sessions/{listed[0]['id']}").status_code == 404


def test_leaving_hands_people_over_and_keeps_the_name(practice):
    owner, leaver = practice.enter(), practice.enter("practitioner")
    person = Newcomer(leaver)
    booked = {"person_id": person.id, "starts_at": (datetime.now(UTC) + timedelta(days=9)).isoformat()}
    visit = leaver.post("/api/appointments", json=booked).json()["visit_id"]
    person.screen()
    id = practice.who("practitioner")
    problem(owner.post(f"/api/staff/{id}/close", json={}), 422, "Choose who takes them over")
    helper = practice.who("helper")
    problem(owner.post(f"/api/staff/{id}/close", json={"hand_over_to": helper}), 422, "cannot take over people")
    problem(owner.patch(f"/api/staff/{id}", json={"role": "helper"}), 422, "Hand these over first")
    taker = practice.who("owner")
    assert owner.post(f"/api/staff/{id}/close", json={"hand_over_to": taker}).status_code == 200
    assert leaver.get("/api/me").status_code == 401
    assert (
        at_the_door(practice.app)
        .post("/api/sign-in", json={"email": practice.email("practitioner"), "password": PASSWORD})
        .status_code
        == 401
    )
    assert owner.get(f"/api/people/{person.id}/contact").json()["in_charge"] == taker
    assert owner.get(f"/api/appointments/{visit}").json()["practitioner"] == "Owner"
    with transaction(practice.id) as db:
        names = {one.id: one.name for one in access.practitioners(db)}
        did = db.scalars(select(AuditRow).where(AuditRow.person_id == uuid.UUID(person.id)))
        assert "Practitioner" in {names[row.practitioner_id] for row in did if row.practitioner_id}
    assert {one["name"] for one in owner.get("/api/practitioners").json()} >= {"Practitioner"}


def test_a_practice_keeps_an_owner(practice):
    owner = practice.enter()
    me = practice.who("owner")
    problem(owner.patch(f"/api/staff/{me}", json={"role": "reader"}), 422, "needs an owner")
    problem(owner.post("/api/me/leave", json={"password": PASSWORD}), 422, "needs an owner")
    assert owner.patch(f"/api/staff/{practice.who('reader')}", json={"role": "owner"}).status_code == 200
    assert owner.post("/api/me/leave", json={"password": PASSWORD}).status_code == 204
    assert owner.get("/api/me").status_code == 401


def test_hours_zones_and_places_are_checked(shared):
    owner = shared.enter()
    problem(owner.patch("/api/practice", json={"time_zone": "Europe/Nowhere"}), 422, "no time zone")
    problem(owner.patch("/api/practice", json={"hours": {}}), 422, "at least one working day")
    late = {"0": {"opens": "18:00", "closes": "09:00"}}
    problem(owner.patch("/api/practice", json={"hours": late}), 422, "must start before it ends")
    place = owner.post("/api/places", json={"name": "Back room"}).json()
    problem(owner.post("/api/places", json={"name": "back ROOM"}), 409, "already")
    put_away = {"version": place["version"], "archived": True}
    assert owner.patch(f"/api/places/{place['id']}", json=put_away).json()["archived_at"]
    problem(owner.patch(f"/api/places/{place['id']}", json=put_away), 409, "changed in another window")
