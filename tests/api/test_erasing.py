"""Erasure: who may, what is sealed meanwhile, how it is taken back, and that a dump does not bring anybody back."""

import re
import uuid
from datetime import timedelta

import pytest
from sqlalchemy import text

from acuthesis.services import maintenance
from acuthesis.services.jobs import work_off
from acuthesis.services.people import erasure
from acuthesis.services.request.clock import now
from acuthesis.settings import settings
from acuthesis.store import access
from acuthesis.store.database import transaction
from acuthesis.store.model import PersonRow

from .conftest import Newcomer, at_the_door, signed_in
from .test_stations import problem

PASSWORD = "paper-moon-and-sixpence"


@pytest.fixture
def practice(app, world):
    """A practice of their own: its owner, and a practitioner beside them."""
    emails = {role: f"{role}-{uuid.uuid4().hex[:8]}@elsewhere.example" for role in ("owner", "practitioner")}
    with transaction() as db:
        row = access.add_practice(db, "Erased")
        for role, email in emails.items():
            access.add_practitioner(db, row.id, role, email, PASSWORD, role)
    clients = {role: signed_in(app, email, PASSWORD) for role, email in emails.items()}
    return row.id, clients


def everything_of(person):
    """Addresses under which something of the person is read."""
    yield from (
        f"/api/people/{person.id}{path}" for path in ("", "/contact", "/story", "/course", "/record", "/figure")
    )
    yield f"/api/visits/{person.visit_id}"
    yield f"/api/visits/{person.visit_id}/treatment"


def erase(client, person, **wanted):
    body = {"given_name": person.get().json()["given_name"], "reason": "asked for it", **wanted}
    return client.post(f"/api/people/{person.id}/erase", json=body)


@pytest.mark.long
def test_an_owner_or_a_password_and_it_can_be_taken_back_for_seven_days(practice, clock):
    practice_id, clients = practice
    person = Newcomer(clients["practitioner"])
    problem(erase(clients["practitioner"], person), 422, "Enter your password")
    problem(erase(clients["practitioner"], person, password="wrong-and-long"), 422, "Incorrect password")
    asked = erase(clients["practitioner"], person, password=PASSWORD)
    assert asked.status_code == 202, asked.text
    for client in clients.values():
        for path in everything_of(person):
            assert client.get(path).status_code == 404, path
        assert person.id not in client.get("/api/people?archived=true").text + client.get("/api/people").text
        assert person.id not in client.get("/api/day").text
    assert person.screen().status_code == 404
    (waiting,) = clients["owner"].get("/api/erasures").json()
    assert (waiting["person_id"], waiting["asked_by"]) == (person.id, "practitioner")
    work_off()
    assert clients["owner"].get("/api/erasures").json(), "nothing is erased before its time"
    assert clients["owner"].post(f"/api/people/{person.id}/erase/undo").status_code == 204
    assert person.get().json()["archived_at"] is not None, "it is in the archive"
    for path in everything_of(person):
        assert clients["owner"].get(path).status_code == 200, path
    clock(now() + timedelta(days=8))
    erasure.erase_due(str(practice_id), person.id)
    assert clients["owner"].get("/api/erasures").status_code in (200, 401)
    with transaction(practice_id) as db:
        assert db.get(PersonRow, uuid.UUID(person.id)) is not None, "what was taken back is not erased"


def test_after_seven_days_it_is_gone_written_down_and_gone_again_after_a_restore(practice, clock):
    practice_id, clients = practice
    person = Newcomer(clients["owner"])
    assert erase(clients["owner"], person).status_code == 202
    clock(now() + timedelta(days=7, minutes=1))
    erasure.erase_due(str(practice_id), person.id)
    row = (practice_id, uuid.UUID(person.id))
    assert row in erasure.read_ledger(settings().erasures)
    assert settings().erasures.stat().st_mode & 0o077 == 0
    assert set(re.findall(r'"(\w+)":', settings().erasures.read_text())) == {"practice", "person"}, "ids alone"
    with transaction(practice_id) as db:
        assert db.get(PersonRow, row[1]) is None
        # A dump from before is restored: the record is back, and so is a session that was ended since.
        db.add(PersonRow(id=row[1], practice_id=practice_id, given_name="Back", born=now().date(), fingers={}))
    assert "1 record was erased again" in maintenance.after_restore()
    with transaction(practice_id) as db:
        assert db.get(PersonRow, row[1]) is None
        told = text("SELECT action FROM audit WHERE person_id = :id ORDER BY id DESC LIMIT 1")
        assert db.scalar(told, {"id": row[1]}) == f"record erased: {erasure.AGAIN}"
    assert "0 records were erased again" in maintenance.after_restore()
    for client in clients.values():
        assert client.get("/api/me").status_code == 401, "everyone is signed out"


def test_the_ledger_is_made_whole_from_the_audit(practice, monkeypatch):
    """The process died between the erasure and the line in the ledger."""
    practice_id, clients = practice
    person = Newcomer(clients["owner"])
    monkeypatch.setattr(erasure, "note", lambda erased: None)
    with transaction(practice_id) as db:
        row = db.get(PersonRow, uuid.UUID(person.id))
        row.erase_at, row.erase_reason = now() - timedelta(minutes=1), "asked for it"
    erasure.erase_due(str(practice_id), person.id)
    monkeypatch.undo()
    assert (practice_id, uuid.UUID(person.id)) not in erasure.read_ledger(settings().erasures)
    assert maintenance.bring_ledger_up_to_date() == "up to date"
    assert (practice_id, uuid.UUID(person.id)) in erasure.read_ledger(settings().erasures)


def test_links_codes_diaries_and_feeds_do_not_come_back_with_a_dump(app, practice):
    _, clients = practice
    owner = clients["owner"]
    invited = owner.post("/api/staff/invitations", json={"name": "N", "email": "n@x.example", "role": "reader"}).json()
    feed = owner.post("/api/me/calendar").json()["token"]
    stranger = at_the_door(app)
    assert stranger.get(f"/api/calendar/{feed}.ics").status_code == 200
    maintenance.after_restore()
    assert stranger.get(f"/api/calendar/{feed}.ics").status_code == 404
    problem(stranger.post("/api/links/look", json={"token": invited["token"]}), 404, "has been used or has expired")
