"""Signing in, staying in, and keeping others out."""

from datetime import timedelta

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import select, text, update
from sqlalchemy.exc import ProgrammingError

from acuthesis.api.access import COOKIE, now
from acuthesis.demo.world import EMAIL, PASSWORD
from acuthesis.settings import settings
from acuthesis.store import access
from acuthesis.store.database import engine, see_practice, transaction
from acuthesis.store.model import GUARDED, ONLY_ADDED, AuthSessionRow, Base, PersonRow, PractitionerRow

from .conftest import OTHER_EMAIL, Newcomer, event, signed_in

NOBODY = "00000000-0000-4000-8000-000000000000"


def test_a_session_is_a_cookie_that_scripts_cannot_read(app):
    client = TestClient(app)
    done = client.post("/api/sign-in", json={"email": EMAIL.upper(), "password": PASSWORD})
    cookie = done.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=strict" in cookie
    with transaction() as session:
        kept = session.scalars(select(AuthSessionRow.token_hash)).all()
    assert client.cookies[COOKIE].encode() not in kept, "only a hash of the token is kept"


def test_passwords_are_argon2(world):
    with transaction() as session:
        hashes = session.scalars(select(PractitionerRow.password_hash)).all()
    assert all(one.startswith("$argon2id$") for one in hashes)


def test_wrong_password_and_unknown_name_sound_alike_and_are_limited(app, world):
    client = TestClient(app)
    with transaction() as session:
        practice = access.add_practice(session, "Locked")
        access.add_practitioner(session, practice.id, "Locked", "locked@elsewhere.example", "right-one")
    wrong = client.post("/api/sign-in", json={"email": "locked@elsewhere.example", "password": "wrong"})
    unknown = client.post("/api/sign-in", json={"email": "nobody@elsewhere.example", "password": "wrong"})
    assert wrong.status_code == unknown.status_code == 401
    assert wrong.json() == unknown.json()
    for _ in range(settings().sign_in_tries):
        last = client.post("/api/sign-in", json={"email": "locked@elsewhere.example", "password": "wrong"})
    assert last.status_code == 429
    right = client.post("/api/sign-in", json={"email": "locked@elsewhere.example", "password": "right-one"})
    assert right.status_code == 429, "guessing right does not help while the name has to wait"
    assert client.post("/api/sign-in", json={"email": EMAIL, "password": PASSWORD}).status_code == 200


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
    client = signed_in(app, OTHER_EMAIL, "another-practice")
    with transaction() as session:
        session.execute(update(AuthSessionRow).values(expires_at=now() - timedelta(seconds=1)))
    answer = client.get("/api/day")
    assert answer.status_code == 401
    assert answer.json()["message"].startswith("Your session has ended. Sign in again")


def test_signing_out_ends_the_session(app):
    client = signed_in(app, OTHER_EMAIL, "another-practice")
    token = client.cookies[COOKIE]
    assert client.post("/api/sign-out").status_code == 204
    client.cookies.set(COOKIE, token)
    assert client.get("/api/me").status_code == 401


def test_own_hand_and_display_are_kept(stranger):
    widths = {"thumb_width": 2.2, "two_fingers": 3.5}
    assert stranger.patch("/api/me", json={"fingers": widths}).json()["fingers"]["thumb_width"] == 2.2
    refused = stranger.patch("/api/me", json={"fingers": {"thumb_width": 22}})
    assert refused.status_code == 422
    assert "it can be 1.4 to 3.2 cm" in refused.json()["message"]
    assert stranger.get("/api/me").json()["fingers"]["thumb_width"] == 2.2


def person_endpoints(app):
    """Every address that is about a person, a visit or a complaint, with its method."""
    for path, methods in app.openapi()["paths"].items():
        if "{" in path:
            for method in methods:
                yield method, path


def test_another_practice_gets_nothing_from_any_endpoint(app, ode, stranger, cast):
    tamsin = cast["Tamsin"]
    complaint = ode.get(f"/api/people/{tamsin['person_id']}/complaints").json()[0]["id"]
    draft = ode.post(f"/api/visits/{tamsin['visit_id']}/drafts", json={"label": "as it was"}).json()
    kept = {"visit_id": tamsin["visit_id"], "name": f"Not theirs {complaint[:6]}"}
    protocol = ode.post("/api/protocols", json=kept).json()
    known = {
        "{person_id}": tamsin["person_id"],
        "{visit_id}": tamsin["visit_id"],
        "{complaint_id}": complaint,
        "{id}": "SP6",
        "{channel}": "SP",
        "{sheet}": "sole",
        "{landmark}": "glabella",
        "{draft_id}": draft["id"],
        "{protocol_id}": protocol["id"],
        "{flag}": "new_numbness",
    }
    visit = ode.get(f"/api/visits/{tamsin['visit_id']}").json()
    bodies = {
        "/screenings": {"answers": {}},
        "/clearances": {
            "flag": "new_numbness",
            "by": "a clinic",
            "given_on": "2026-01-05",
            "what_for": "harmless",
            "until": "2199-01-01",
        },
        "/complaints": {"kind": "poor_sleep"},
        "/ratings": {"id": NOBODY, "value": 3, "moment": "home"},
        "/compose": {"version": 1, "complaint_ids": [complaint]},
        "/what-if": {"complaint_ids": [complaint]},
        "/programme": {"complaint_ids": [complaint]},
        "/drafts": {"label": "theirs"},
        "/stops": {"id": "SP6"},
        "/apply-protocol": {"version": 1, "protocol_id": protocol["id"]},
        "/score": {"version": 1, "stops": []},
        "/trial": {"row": {"id": "own_x"}},
        "/findings": {"id": NOBODY, "entry": "SP6", "side": "left"},
        "/events": {"events": [event("begin", score=visit["score"])]},
    }
    tried = 0
    before = ode.get(f"/api/people/{tamsin['person_id']}/record").json()
    for method, path in person_endpoints(app):
        address = path
        for name, value in known.items():
            address = address.replace(name, value)
        body = next((body for end, body in bodies.items() if path.endswith(end)), {"version": 1})
        arguments = {} if method in ("get", "delete") else {"json": body}
        if path.endswith("/plates"):
            arguments = {"params": {"group": "SP"}}
        if path.endswith("/here"):
            arguments = {"params": {"x": 0, "y": 100, "z": 0}}
        theirs = stranger.request(method, address, **arguments)
        assert theirs.status_code == 404, f"{method} {path} gave {theirs.status_code}: {theirs.text[:200]}"
        assert "Tamsin" not in theirs.text
        tried += 1
    assert tried >= 18
    assert ode.get(f"/api/people/{tamsin['person_id']}/record").json() == before, "and nothing was changed"
    ours = {person["id"] for person in ode.get("/api/people").json()}
    assert ours.isdisjoint(person["id"] for person in stranger.get("/api/people").json())
    assert ours.isdisjoint(visit["person_id"] for visit in stranger.get("/api/day").json())


def test_a_rating_cannot_join_two_practices(stranger, cast):
    own = Newcomer(stranger)
    complaint = own.complain()
    mixed = own.rate(complaint, 5, visit_id=cast["Tamsin"]["visit_id"])
    assert mixed.status_code == 404


def test_the_database_itself_keeps_practices_apart(world, ode):
    """Without any of the application's own conditions: plain SQL as the application's role."""
    with engine(settings().database_url).connect() as connection:
        for table in GUARDED:
            assert connection.execute(text(f"SELECT count(*) FROM {table}")).scalar() == 0, table
        role = connection.execute(
            text("SELECT rolsuper, rolbypassrls FROM pg_roles WHERE rolname = current_user")
        ).one()
        assert tuple(role) == (False, False)
    with transaction() as session:
        practices = session.scalars(
            select(PractitionerRow.practice_id).where(PractitionerRow.email.in_([EMAIL, OTHER_EMAIL]))
        )
        ours, theirs = practices.all()
        see_practice(session, ours)
        counted = session.execute(text("SELECT count(DISTINCT practice_id) FROM person")).scalar()
        assert counted <= 1
        with pytest.raises(ProgrammingError, match="row-level security"):
            session.add(PersonRow(practice_id=theirs, given_name="Smuggled", born=now().date(), version=1, fingers={}))
            session.flush()
        session.rollback()


def test_every_table_with_a_practice_is_guarded(world):
    with_practice = {name for name, table in Base.metadata.tables.items() if "practice_id" in table.columns}
    assert with_practice - {"practitioner"} == set(GUARDED)
    with engine(settings().owner_url).connect() as connection:
        forced = connection.execute(
            text("SELECT relname FROM pg_class WHERE relrowsecurity AND relforcerowsecurity")
        ).scalars()
        assert set(GUARDED) <= set(forced)


@pytest.mark.parametrize("table", ONLY_ADDED)
def test_what_was_recorded_can_only_be_added_to(world, table):
    for statement in (f"UPDATE {table} SET practice_id = practice_id", f"DELETE FROM {table}"):
        with (
            engine(settings().database_url).connect() as connection,
            pytest.raises(ProgrammingError, match="permission denied"),
        ):
            connection.execute(text(statement))


def test_reads_and_writes_of_a_record_are_audited(newcomer):
    newcomer.get()
    newcomer.screen(blood_thinner=True)
    with transaction() as session:
        practice = session.scalar(select(PractitionerRow.practice_id).where(PractitionerRow.email == EMAIL))
        see_practice(session, practice)
        done = session.execute(text("SELECT action FROM audit WHERE person_id = :id ORDER BY id"), {"id": newcomer.id})
        assert [row.action for row in done][:3] == ["person added", "person read", "screened"]
