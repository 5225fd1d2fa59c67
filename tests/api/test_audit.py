"""The audit: every look at a person is on record, once a request, and the practice reads it."""

import re

from benchmarks.requests import operations

from acuthesis.demo.world import EMAIL

from .conftest import Newcomer, at_the_door
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


# Whether a screen has joined: asked every other second, and nothing of the record is in the answer.
NOTHING_OF_THE_RECORD = {"/api/visits/{visit_id}/own-say"}


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
        traces = 0 if path in NOTHING_OF_THE_RECORD else 1
        assert len(_actions(ode, newcomer)) == min(len(before) + traces, 100), path


def test_the_practice_reads_its_audit_by_person_who_and_day(ode, stranger, newcomer, app):
    enter(at_the_door(app), EMAIL, "wrong")
    newcomer.get()
    whole = ode.get("/api/audit").json()
    assert {"person added", "person read", "signed in", "signed in failed"} <= {
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
    assert written.text.splitlines()[0] == "at,who,person_id,person,action"
    assert "person read" in written.text
    assert newcomer.id not in stranger.get("/api/audit.csv").text


def test_a_name_that_would_be_a_formula_stays_a_name_in_the_file(ode):
    odd = Newcomer(ode, given_name="=1+1")
    assert "'=1+1" in ode.get(f"/api/audit.csv?person_id={odd.id}").text
