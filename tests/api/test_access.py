"""Signing in, staying in, and keeping strangers out."""

import re
import uuid
from datetime import timedelta

import pytest
from fastapi.testclient import TestClient
from pwdlib import PasswordHash
from pwdlib.hashers.argon2 import Argon2Hasher
from sqlalchemy import func, select

from acuthesis.api.access import cookie_name
from acuthesis.api.app import create_app
from acuthesis.demo.world import EMAIL, PASSWORD
from acuthesis.services.request.clock import now
from acuthesis.settings import settings
from acuthesis.store import access
from acuthesis.store.database import transaction
from acuthesis.store.model import (
    AuthSessionRow,
    PractitionerRow,
    SignInAttemptRow,
)

from .conftest import OTHER_EMAIL, OTHER_PASSWORD, at_the_door, practice_of, signed_in
from .test_stations import problem


def enter(client, email, password):
    return client.post("/api/sign-in", json={"email": email, "password": password})


def test_a_session_is_a_cookie_that_scripts_cannot_read(app):
    client = at_the_door(app)
    done = enter(client, EMAIL.upper(), PASSWORD)
    cookie = done.headers["set-cookie"].lower()
    assert "httponly" in cookie and "samesite=strict" in cookie
    assert "secure" not in cookie, "over plain http on loopback it could not be sent back"
    assert "strict-transport-security" not in done.headers
    with transaction(practice_of(EMAIL)) as db:
        kept = db.scalars(select(AuthSessionRow.token_hash)).all()
    assert client.cookies[cookie_name()].encode() not in kept, "only a hash of the token is kept"


def test_behind_https_the_cookie_is_bound_to_the_host(world, monkeypatch):
    monkeypatch.setattr(settings(), "https", True)
    monkeypatch.setattr(settings(), "hosts", ("practice.example",))
    client = TestClient(create_app(), base_url="https://practice.example")
    done = enter(client, EMAIL, PASSWORD)
    assert done.headers["set-cookie"].startswith("__Host-acuthesis_session=")
    assert (
        re.search(r"; path=/(;|$)", done.headers["set-cookie"].lower())
        and "secure" in done.headers["set-cookie"].lower()
    )
    assert "max-age=31536000" in done.headers["strict-transport-security"]
    assert client.get("/api/me").status_code == 200
    client.headers["X-CSRF"] = done.json()["csrf"]
    assert client.post("/api/sign-out").status_code == 204


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1.evil.example", "", "[::2]:8714"])
def test_requests_for_another_host_are_turned_away(app, host):
    refused = at_the_door(app).get("/api/health", headers={"Host": host})
    problem(refused, 400, "no practice under this name")
    for known in ("127.0.0.1:8714", "localhost", "[::1]:8714"):
        assert at_the_door(app).get("/api/health", headers={"Host": known}).status_code == 200


def test_passwords_are_argon2_and_grow_with_the_parameters(app, world):
    weak = PasswordHash([Argon2Hasher(time_cost=1, memory_cost=8192)])
    practice = practice_of(OTHER_EMAIL)
    with transaction(practice) as db:
        row = db.scalar(select(PractitionerRow).where(PractitionerRow.email == OTHER_EMAIL))
        row.password_hash = before = weak.hash(OTHER_PASSWORD)
    assert enter(at_the_door(app), OTHER_EMAIL, OTHER_PASSWORD).status_code == 200
    with transaction(practice) as db:
        after = db.scalar(select(PractitionerRow.password_hash).where(PractitionerRow.email == OTHER_EMAIL))
    assert after != before and after.startswith("$argon2id$") and "m=8192" not in after
    assert enter(at_the_door(app), OTHER_EMAIL, OTHER_PASSWORD).status_code == 200


@pytest.fixture
def locked(world):
    """An account that strangers try."""
    email = f"{uuid.uuid4().hex[:8]}@elsewhere.example"
    with transaction() as db:
        practice = access.add_practice(db, "Tried")
        access.add_practitioner(db, practice.id, "Tried", email, "right-one")
    return email


def from_address(app, address):
    return TestClient(app, base_url="http://127.0.0.1", client=(address, 50_000))


def test_wrong_password_and_unknown_name_sound_alike_and_are_limited(app, locked):
    client = from_address(app, "10.0.0.1")
    wrong = enter(client, locked, "wrong")
    unknown = enter(client, "nobody@elsewhere.example", "wrong")
    assert wrong.status_code == unknown.status_code == 401
    assert wrong.json() == unknown.json()
    for _ in range(access.TryLimits().of_name_here):
        last = enter(client, locked, "wrong")
    assert last.status_code == 429
    assert enter(client, locked, "right-one").status_code == 429, "guessing right does not help while it has to wait"
    assert enter(client, EMAIL, PASSWORD).status_code == 200, "other names from there may go on"


def test_strangers_cannot_lock_somebody_out(app, locked):
    home = from_address(app, "10.1.1.1")
    assert enter(home, locked, "right-one").status_code == 200
    limits = access.TryLimits()
    with transaction() as db:  # a crowd of strangers, each below their own limit
        for number in range(limits.of_name_elsewhere):
            access.count_try(db, locked, f"10.2.0.{number}", limits, now())
    assert enter(home, locked, "right-one").status_code == 200, "from where they always sign in, they come in"
    stranger = enter(from_address(app, "10.3.3.3"), locked, "right-one")
    assert stranger.status_code == 429, "from nowhere known, nobody guesses on"
    with transaction() as db:
        later = now() + limits.window + timedelta(seconds=1)
        assert not access.too_many_tries(db, locked, "10.3.3.3", limits, later)
        access.count_try(db, locked, "10.3.3.3", limits, later)
        old = select(func.count()).select_from(SignInAttemptRow).where(~SignInAttemptRow.succeeded)
        assert db.scalar(old.where(SignInAttemptRow.at < later - limits.window)) == 0, "what no longer counts is swept"
        db.rollback()


def test_an_address_that_tries_many_names_has_to_wait(app, world):
    client = from_address(app, "10.4.4.4")
    with transaction() as db:
        for number in range(access.TryLimits().of_address):
            access.count_try(db, f"{number}@elsewhere.example", "10.4.4.4", access.TryLimits(), now())
    assert enter(client, EMAIL, PASSWORD).status_code == 429
    assert enter(from_address(app, "10.4.4.5"), EMAIL, PASSWORD).status_code == 200


def test_writes_need_the_csrf_value_and_this_origin(ode):
    token = ode.headers.pop("X-CSRF")
    assert ode.patch("/api/me", json={"theme": "dim"}).status_code == 403
    ode.headers["X-CSRF"] = "guess"
    assert ode.patch("/api/me", json={"theme": "dim"}).status_code == 403
    ode.headers["X-CSRF"] = token
    foreign = ode.patch("/api/me", json={"theme": "dim"}, headers={"Origin": "http://evil.example"})
    assert foreign.status_code == 403
    assert ode.patch("/api/me", json={"theme": "dim"}, headers={"Origin": "http://127.0.0.1"}).json()["theme"] == "dim"
    ode.patch("/api/me", json={"theme": "auto"})


def test_a_session_that_expired_says_so(app):
    client = at_the_door(app)
    with transaction(practice_of(OTHER_EMAIL)) as db:
        row = db.scalar(select(PractitionerRow).where(PractitionerRow.email == OTHER_EMAIL))
        opened = access.open_session(db, row, now() - timedelta(hours=2), hours=1)
    client.cookies.set(cookie_name(), opened.token)
    answer = client.get("/api/day")
    assert answer.status_code == 401
    assert answer.json()["message"].startswith("Your session has ended. Sign in again")


@pytest.mark.parametrize("token", ["", "nonsense", "x.y", "ab" * 16 + ".abc", "00" * 16])
def test_a_made_up_cookie_opens_nothing(app, token):
    client = at_the_door(app)
    answer = client.get(
        "/api/me", headers={"Cookie": f"{cookie_name()}={token}".encode("latin-1", "replace").decode("latin-1")}
    )
    assert answer.status_code == 401


def test_signing_out_ends_the_session(app):
    client = signed_in(app, OTHER_EMAIL, OTHER_PASSWORD)
    token = client.cookies[cookie_name()]
    assert client.post("/api/sign-out").status_code == 204
    client.cookies.set(cookie_name(), token)
    assert client.get("/api/me").status_code == 401


def test_a_covered_screen_opens_with_the_password_only(app):
    client = signed_in(app, OTHER_EMAIL, OTHER_PASSWORD)
    problem(client.post("/api/unlock", json={"password": "guess"}), 422, "Incorrect password.")
    assert client.post("/api/unlock", json={"password": OTHER_PASSWORD}).status_code == 200
    assert client.patch("/api/me", json={"lock_minutes": 3}).json()["lock_minutes"] == 3
    assert client.patch("/api/me", json={"lock_minutes": 0}).status_code == 422
    client.patch("/api/me", json={"lock_minutes": 10})
    same = signed_in(app, OTHER_EMAIL, OTHER_PASSWORD)
    assert same.get("/api/me").json()["device_key"] == client.get("/api/me").json()["device_key"], (
        "the next sign-in unseals"
    )


def test_own_hand_and_display_are_kept(stranger):
    widths = {"thumb_width": 2.2, "two_fingers": 3.5}
    assert stranger.patch("/api/me", json={"fingers": widths}).json()["fingers"]["thumb_width"] == 2.2
    refused = stranger.patch("/api/me", json={"fingers": {"thumb_width": 22}})
    assert refused.status_code == 422
    assert "it can be 1.4 to 3.2 cm" in refused.json()["message"]
    assert stranger.get("/api/me").json()["fingers"]["thumb_width"] == 2.2
