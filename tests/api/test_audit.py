"""The audit: every look at a person is on record, once a request, and the practice reads it."""

import re
import uuid
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime

import pytest
from benchmarks.requests import operations
from sqlalchemy import text
from sqlalchemy.exc import ProgrammingError

from acuthesis.demo.world import EMAIL
from acuthesis.store import access, audit
from acuthesis.store.database import transaction
from acuthesis.store.model import AuditRow
from tests.conftest import OWNER_URL

from .conftest import Newcomer, at_the_door, event, signed_in
from .test_access import enter


def test_every_family_of_reading_is_audited_once_a_request(newcomer, ode):
    complaint = newcomer.complain()
    newcomer.screen()
    newcomer.compose(complaint)
    paths = {
        f"/people/{newcomer.id}": "person read",
        f"/people/{newcomer.id}/screenings": "screenings read",
        f"/people/{newcomer.id}/complaints": "complaints read",
        f"/people/{newcomer.id}/figure": "figure read",
        f"/people/{newcomer.id}/places/SP6": "place read",
        f"/people/{newcomer.id}/findings": "findings read",
        f"/people/{newcomer.id}/clearances": "clearances read",
        f"/people/{newcomer.id}/course": "course read",
        f"/people/{newcomer.id}/today": "visit of today read",
        f"/people/{newcomer.id}/record": "record exported",
        f"/visits/{newcomer.visit_id}": "visit read",
        f"/visits/{newcomer.visit_id}/drafts": "visit read",
        f"/visits/{newcomer.visit_id}/treatment": "treatment read",
        f"/visits/{newcomer.visit_id}/visit.pdf": "visit printed",
        f"/visits/{newcomer.visit_id}/score.pdf": "score printed",
    }
    for path, action in paths.items():
        before = _actions(ode, newcomer)
        assert ode.get(f"/api{path}").status_code == 200, path
        assert _actions(ode, newcomer)[: -len(before) or None] == [action], path


def _actions(client, person):
    return [one["action"] for one in client.get(f"/api/audit?person_id={person.id}").json()["entries"]]


def test_every_endpoint_about_a_person_leaves_a_trace(app, ode, newcomer):
    """Found in the API's description, so that a new one cannot be forgotten."""
    complaint = newcomer.complain()
    newcomer.screen()
    newcomer.compose(complaint)
    ids = {
        "person_id": newcomer.id,
        "visit_id": newcomer.visit_id,
        "id": "SP6",
        "channel": "SP",
        "sheet": "sole",
        "landmark": "glabella",
    }
    for method, path, _ in operations(app.openapi()):
        if method != "get" or not ("{person_id}" in path or "{visit_id}" in path):
            continue
        address = re.sub(r"{(\w+)}", lambda found: ids[found[1]], path)
        query = (
            {"group": "SP", "page": 1}
            if path.endswith("/plates")
            else {"x": 0, "y": 90, "z": 8}
            if path.endswith("/nearby")
            else {}
        )
        before = _actions(ode, newcomer)
        answer = ode.get(address, params=query)
        assert answer.status_code == 200, f"{path}: {answer.text[:200]}"
        assert len(_actions(ode, newcomer)) == min(len(before) + 1, 100), path


def test_the_practice_reads_its_audit_by_person_who_and_day(ode, stranger, newcomer, app):
    enter(at_the_door(app), EMAIL, "wrong")
    newcomer.get()
    whole = ode.get("/api/audit").json()
    assert {"person added", "person read", "signed in", "signed in failed", "audit read"} <= {
        one["action"] for one in whole["entries"]
    }
    assert len(whole["entries"]) == 100 and whole["before"] == whole["entries"][-1]["id"]
    older = ode.get(f"/api/audit?before={whole['before']}").json()["entries"]
    assert older and max(one["id"] for one in older) < whole["before"]
    who = ode.get("/api/practitioners").json()[0]["id"]
    assert {one["who"] for one in ode.get(f"/api/audit?practitioner_id={who}").json()["entries"]} == {"Ode Marrable"}
    assert ode.get("/api/audit?day=2001-01-01").json()["entries"] == []
    written = ode.get(f"/api/audit.csv?person_id={newcomer.id}")
    assert written.headers["content-type"].startswith("text/csv")
    assert written.text.splitlines()[0] == "number,at,who,person_id,person,action,reason,device,address"
    assert "person read" in written.text
    assert newcomer.id not in stranger.get("/api/audit.csv").text


def test_a_name_that_would_be_a_formula_stays_a_name_in_the_file(ode):
    odd = Newcomer(ode, given_name="=1+1")
    assert "'=1+1" in ode.get(f"/api/audit.csv?person_id={odd.id}").text


def test_a_treatment_is_one_row_that_opens_and_not_one_for_each_press(newcomer, ode):
    newcomer.screen()
    newcomer.compose(newcomer.complain())
    newcomer.say(newcomer.begin())
    for value in (3, 4, 5, 4, 3):
        newcomer.say(event("soreness", value=value))
        newcomer.treatment()
    found = ode.get(f"/api/audit/stretches?person_id={newcomer.id}").json()
    (pressed,) = [one for one in found["stretches"] if one["newest"]["action"] == "treatment events"]
    assert pressed["count"] == 6 and found["before"] is None
    assert pressed["since"] < pressed["newest"]["at"]
    query = {"person_id": newcomer.id, "action": "treatment events"}
    opened = ode.get("/api/audit", params={**query, "first": pressed["first"], "last": pressed["newest"]["id"]}).json()
    assert len(opened["entries"]) == 6
    assert {(one["address"], one["device"]) for one in opened["entries"]} == {("testclient", "A browser")}


def test_time_and_order_are_the_databases_and_a_changed_row_is_found(app, world):
    """The application cannot choose when something happened; what an owner of the tables changes breaks the chain."""
    email = f"{uuid.uuid4().hex[:8]}@elsewhere.example"
    with transaction() as db:
        practice = access.add_practice(db, "Chained")
        who = access.add_practitioner(db, practice.id, "Chained", email, "paper-moon-and-sixpence")
    id, who_id = practice.id, who.id
    client = signed_in(app, email, "paper-moon-and-sixpence")
    with transaction(id) as db:
        old = datetime(2020, 1, 1, tzinfo=UTC)
        db.add(AuditRow(practice_id=id, practitioner_id=who_id, action="long ago", at=old, number=99, hash=b"chosen"))
    (row,) = [one for one in client.get("/api/audit").json()["entries"] if one["action"] == "long ago"]
    assert row["at"][:4] != "2020" and row["number"] < 99

    def read(_):
        return client.get("/api/people").status_code

    with ThreadPoolExecutor(8) as many:  # transactions that commit together still make one chain
        assert set(many.map(read, range(40))) == {200}
    chain = client.get("/api/audit/chain").json()
    assert chain["broken_at"] is None and chain["number"] > 40 and len(chain["hash"]) == 64
    with pytest.raises(ProgrammingError, match="permission denied"), transaction(id) as db:
        db.execute(text("UPDATE audit SET action = 'nothing' WHERE practice_id = :id"), {"id": id})
    for change in ("action = 'nothing'", "at = at - interval '1 hour'", "practitioner_id = NULL", "reason = 'x'"):
        assert broken_by(id, f"UPDATE audit SET {change} WHERE practice_id = :id AND number = 5") == 5, change
    assert broken_by(id, "DELETE FROM audit WHERE practice_id = :id AND number = 7") in (7, 8)
    assert broken_by(id, "UPDATE audit SET hash = 'x' WHERE practice_id = :id AND number = 2") == 2
    assert client.get("/api/audit/chain").json()["broken_at"] is None, "each was undone"


def broken_by(practice, statement):
    """Where the chain is broken after the tables' owner has done something to it, which is not kept."""
    with transaction(practice, url=OWNER_URL) as db:
        db.execute(text(statement), {"id": practice})
        found = audit.broken_at(db, practice)
        db.rollback()
    return found.number if found else None


def test_beyond_their_own_people_practitioners_give_a_reason(app, world):
    emails = {name: f"{name}-{uuid.uuid4().hex[:8]}@elsewhere.example" for name in ("owner", "ann", "ben")}
    with transaction() as db:
        practice = access.add_practice(db, "Apart")
        for name, email in emails.items():
            role = "owner" if name == "owner" else "practitioner"
            access.add_practitioner(db, practice.id, name.title(), email, "paper-moon-and-sixpence", role)
    owner, ann, ben = (signed_in(app, email, "paper-moon-and-sixpence") for email in emails.values())
    person = Newcomer(ann)
    assert ben.get(f"/api/people/{person.id}").status_code == 200
    owner.patch("/api/practice", json={"own_people_only": True})
    assert ann.get(f"/api/people/{person.id}").status_code == 200
    assert owner.get(f"/api/people/{person.id}").status_code == 200
    visit = f"visits/{person.visit_id}"
    for path in (f"people/{person.id}", f"people/{person.id}/course", visit, f"{visit}/treatment"):
        refused = ben.get(f"/api/{path}")
        assert (refused.status_code, refused.json()["code"]) == (403, "reason_needed"), path
    assert ben.post(f"/api/people/{person.id}/screenings", json={"answers": {}}).status_code == 403
    assert person.id not in ben.get("/api/day").text and person.id in ann.get("/api/day").text
    assert ben.post(f"/api/people/{person.id}/access", json={"reason": "x"}).status_code == 422
    assert ben.post(f"/api/people/{person.id}/access", json={"reason": "Ann is ill today"}).status_code == 204
    assert ben.get(f"/api/people/{person.id}").status_code == 200
    told = owner.get(f"/api/audit?person_id={person.id}").json()["entries"]
    assert [(one["who"], one["reason"]) for one in told[:2]] == [("Ben", "Ann is ill today")] * 2
    assert {one["reason"] for one in told if one["who"] == "Ann"} == {""}
    other = Newcomer(ben)
    assert ben.get(f"/api/people/{other.id}").status_code == 200, "somebody new is theirs"
