"""What separates practices: ids that lead nowhere, guards in the database, what stays, what is erased as a whole."""

import random
import re
import uuid
from datetime import UTC, datetime, timedelta

import pytest
from benchmarks.requests import Drawing, body_of, id_slots, operations
from sqlalchemy import delete, select, text
from sqlalchemy.exc import IntegrityError, ProgrammingError

from acuthesis.demo.world import EMAIL
from acuthesis.services.people.erasure import erase_due
from acuthesis.services.request.clock import now
from acuthesis.settings import settings
from acuthesis.store import access
from acuthesis.store.database import engine, see_practice, transaction
from acuthesis.store.model import (
    GUARDED,
    NEVER_DELETED,
    ONLY_ADDED,
    Base,
    HomeFlagRow,
    PasskeyRow,
    PersonRow,
    PractitionerRow,
)
from tests.conftest import OWNER_URL, today
from tests.tiers import some

from .conftest import OTHER_EMAIL, OTHER_PASSWORD, Newcomer, at_the_door, event, practice_of
from .test_stations import problem


@pytest.mark.parametrize("number", some(["NaN", "Infinity", "-Infinity", "1e999", "-1e999"]))
def test_numbers_are_numbers_everywhere(ode, newcomer, number):
    spec = ode.get("/api/openapi.json").json()
    json_type = {"Content-Type": "application/json"}
    for method, path, operation in operations(spec):
        if body_of(spec, operation) is None or "sign-" in path:
            continue
        address = re.sub(r"{\w+}", newcomer.id, path)
        answer = ode.request(method, address, content=f'{{"a": {number}}}', headers=json_type)
        assert answer.status_code in (422, 404), f"{method} {path}: {answer.text}"
        if answer.status_code == 422:
            assert "is not a usable number" in answer.json()["message"], f"{method} {path}: {answer.text}"
    for word in ("nan", "inf", "-inf", "1e999"):
        assert newcomer.get(f"/nearby?x={word}&y=1&z=1").status_code == 422


# --- the wall between practices


@pytest.fixture
def sides(ode, stranger, cast):
    """Ids of both practices by the name of the field that takes them."""
    emails = {"theirs": EMAIL, "own": OTHER_EMAIL}
    found = {"theirs": _ids(ode, cast["Tamsin"]), "own": _ids(stranger, Newcomer(stranger).today())}
    for side, email in emails.items():
        with transaction(practice_of(email)) as db:
            name = f"colleague{uuid.uuid4().hex[:6]}"
            colleague = access.add_practitioner(
                db, practice_of(email), name, f"{name}@elsewhere.example", "lantern-light"
            )
            ids = {"practitioner_id": str(colleague.id), "in_charge": str(colleague.id)}
        found[side] |= {**ids, "hand_over_to": ids["practitioner_id"]}
    yield found
    # A passkey counts as a second factor: with it, nobody would sign in with the password alone.
    with transaction() as db:
        for email in emails.values():
            see_practice(db, practice_of(email))
            db.execute(delete(PasskeyRow).where(PasskeyRow.practice_id == practice_of(email)))


def _ids(client, visit):
    """A person with everything that has an id."""
    person, at = visit["person_id"], f"/api/visits/{visit['visit_id']}"
    there = client.get(f"/api/people/{person}/complaints").json()
    if not there:
        there = [client.post(f"/api/people/{person}/complaints", json={"kind": "poor_sleep", "acts": ["rest"]}).json()]
    complaint, act = there[0]["id"], there[0]["acts"][0]["id"]
    episode = {"started_at": "2026-01-05T10:00:00Z"}
    episode = client.post(f"/api/complaints/{complaint}/episodes", json={"episodes": [episode]}).json()[0]["id"]
    seen = client.get(at).json()
    if seen["score"] is None:
        client.post(f"{at}/compose", json={"version": seen["version"], "complaint_ids": [complaint], "minutes": 10})
    draft = client.post(f"{at}/drafts", json={"label": "as it was"}).json()["id"]
    protocol = client.post("/api/protocols", json={"visit_id": visit["visit_id"], "name": f"Kept {draft[:8]}"}).json()[
        "id"
    ]
    said = event("soreness", value=3)
    client.post(f"{at}/events", json={"events": [said], "sent_at": said["at"]})
    place = client.post("/api/places", json={"name": f"Room {draft[:8]}"}).json()["id"]
    series = {"first": "2027-01-05", "minutes": 30, "visits": [{"after_days": 0}]}
    planned = client.post(f"/api/people/{person}/series", json=series).json()[-1]["id"]
    letter = {"recipient": "a doctor", "about": "the knee", "sent_on": "2026-01-05"}
    client.post(f"/api/people/{person}/letters", json=letter)
    invited = {"name": "Somebody", "email": f"{draft}@elsewhere.example", "role": "reader"}
    assert client.post("/api/staff/invitations", json=invited).status_code == 201

    def made(address, body):
        answer = client.post(address, json={"id": str(uuid.uuid4()), **body})
        assert answer.status_code == 201, answer.text
        return answer.json()

    rated = made(f"/api/complaints/{complaint}/ratings", {"value": 4, "moment": "home"})["ratings"][-1]
    entry = made(f"/api/people/{person}/log", {"kind": "event", "on_day": "2026-01-05", "words": "a fall"})
    proposed = client.get(f"/api/people/{person}/course").json()["complaints"][0]["proposal"]
    decision = made(f"/api/complaints/{complaint}/decisions", {"step": "go_on", "proposed": proposed})
    day = {"until": str(today() + timedelta(days=9))}
    asks = {"complaints": [complaint]}
    diary = made(f"/api/people/{person}/diaries", {**day, "asks": asks})["diary"]["id"]
    client.post(f"/api/people/{person}/consents", json={"about": "letters", "given": True, "how": "spoken"})
    paper = made(f"/api/people/{person}/papers", {"kind": "summary", "complaint_ids": [complaint]})["id"]
    return {
        "diary_id": diary,
        "flag_id": _flag(person, diary),
        "passkey_id": _passkey(client),
        "paper_id": paper,
        "rating_id": rated["id"],
        "entry_id": entry["id"],
        "decision_id": decision["id"],
        "place_id": place,
        "planned_id": planned,
        "letter_id": client.get(f"/api/people/{person}/letters").json()[0]["id"],
        "link_id": client.get("/api/staff").json()["invitations"][0]["id"],
        "session_id": client.get("/api/me/sessions").json()[0]["id"],
        "other_id": person,
        "act_id": act,
        "episode_id": episode,
        "person_id": person,
        "visit_id": visit["visit_id"],
        "complaint_id": complaint,
        "complaint_ids": complaint,
        "draft_id": draft,
        "protocol_id": protocol,
        "event_id": said["id"],
    }


def _passkey(client):
    """A passkey of whoever asks, as an authenticator would leave it."""
    email = client.get("/api/me").json()["email"]
    with transaction() as db:
        see_practice(db, practice_of(email))
        owner = db.scalar(select(PractitionerRow.id).where(PractitionerRow.email == email))
        row = PasskeyRow(
            practice_id=practice_of(email),
            practitioner_id=owner,
            credential_id=uuid.uuid4().bytes,
            public_key=b"key",
            name="A phone",
        )
        db.add(row)
        db.flush()
        return str(row.id)


def _flag(person, diary):
    """A red flag from home, as the diary would leave it."""
    with transaction() as db:
        for email in (EMAIL, OTHER_EMAIL):
            see_practice(db, practice_of(email))
            if db.get(PersonRow, uuid.UUID(person)) is not None:
                row = HomeFlagRow(
                    practice_id=practice_of(email),
                    person_id=uuid.UUID(person),
                    diary_id=uuid.UUID(diary),
                    question="new_numbness",
                    said_at=now(),
                )
                db.add(row)
                db.flush()
                return str(row.id)
    return None


OTHER_PATHS = {
    "id": "SP6",
    "channel": "SP",
    "sheet": "sole",
    "landmark": "glabella",
    "flag": "new_numbness",
    "kind": "poor_sleep",
}
MADE_BY_CLIENT = {("body", "id")}  # the sender makes these up; what is used elsewhere is told as such


def test_another_practices_ids_lead_nowhere_in_any_place_that_takes_one(app, ode, stranger, sides):
    """Places are found in the API's description: a new endpoint is tried without anybody thinking of it."""
    spec = app.openapi()
    before = ode.get(f"/api/people/{sides['theirs']['person_id']}/record").json()
    tried = 0
    for method, path, operation in operations(spec):
        slots = list(id_slots(spec, operation))
        unknown = {name for _, name in slots} - set(sides["own"]) - {"id"}
        assert not unknown, f"{method} {path} takes {unknown}, of which this test has none"
        for slot in slots:
            if slot in MADE_BY_CLIENT:
                continue
            answer = _asked(spec, stranger, method, path, operation, sides, slot)
            told = f"{method} {path}, {slot}: {answer.status_code} {answer.text[:200]}"
            assert "Tamsin" not in answer.text and "Orrell" not in answer.text, told
            if slot[0] == "query":
                assert answer.status_code in (200, 404), told
            else:
                assert answer.status_code == 404, told
            tried += 1
    assert tried >= 40
    assert ode.get(f"/api/people/{sides['theirs']['person_id']}/record").json() == before, "and nothing was changed"
    ours = {person["id"] for person in ode.get("/api/people").json()}
    assert ours.isdisjoint(person["id"] for person in stranger.get("/api/people").json())
    assert ours.isdisjoint(visit["person_id"] for visit in stranger.get("/api/day").json())


SOON = {"starts_at": (datetime.now(UTC) + timedelta(days=2)).isoformat()}
# What a body must say beyond its form, so that it is refused for the foreign id alone.
TRUE_BODIES = {
    "/screenings": {"answers": {}},
    "/clearances": {
        "flag": "new_numbness",
        "by": "a clinic",
        "given_on": "2026-01-05",
        "what_for": "x",
        "until": "2199-01-01",
    },
    "/complaints": {"kind": "poor_sleep", "since": None},
    "/events": {"events": [event("pause")], "sent_at": "2026-11-27T10:00:00Z"},
    "/ratings": {"moment": "before", "value": 3},
    "/trial": {"row": {"id": "own_x"}},
    "/findings": {"entry": "SP6"},
    "/stops": {"id": "SP6"},
    "/appointments": SOON,
    "/book": SOON,
    "{visit_id}": {"version": 1},
    "/say": {"says": "stop"},
    "/say/join": {"code": "000000"},
    "/home-plans": {"hours": ["08:00", "20:00"], "wish": {}},
    "/papers": {"kind": "summary"},
    "/diaries": {"asks": {"complaints": []}, "until": "2026-01-05"},
    "/leave": {"password": OTHER_PASSWORD},
    "{passkey_id}": {"password": OTHER_PASSWORD},
}


def _asked(spec, client, method, path, operation, sides, foreign):
    """One request in which one id is the other practice's and all others are one's own."""

    def id_for(place, name):
        return sides["theirs" if (place, name) == foreign else "own"][name]

    end = next((end for end in TRUE_BODIES if path.endswith(end)), None)
    query = {}
    for parameter in operation.get("parameters", ()):
        place, name = parameter["in"], parameter["name"]
        if place == "path":
            path = path.replace(
                f"{{{name}}}",
                id_for(place, name) if (place, name) in set(id_slots(spec, operation)) else OTHER_PATHS[name],
            )
        elif place == "query" and ((place, name) == foreign or parameter.get("required")):
            query[name] = id_for(place, name) if (place, name) == foreign else 30
    if path.endswith("/plates"):
        query["group"] = "SP"
    schema = body_of(spec, operation)
    if schema is None:
        return client.request(method, path, params=query)
    body = Drawing(spec, random.Random(1)).value(
        {
            **schema,
            "properties": {k: v for k, v in schema.get("properties", {}).items() if k in schema.get("required", ())},
        }
    )
    for place, name in id_slots(spec, operation):
        if place == "body" and name != "id":
            body[name] = [id_for(place, name)] if name.endswith("_ids") else id_for(place, name)
    body.update(TRUE_BODIES.get(end, {}))
    if end == "/ratings" or end == "/findings":
        body["id"] = str(uuid.uuid4())
    return client.request(method, path, params=query, json=body)


def test_an_id_that_was_used_elsewhere_is_told_and_kept_nowhere(ode, stranger, sides):
    used = sides["theirs"]["event_id"]
    said = {**event("soreness", value=9), "id": used}
    answer = stranger.post(
        f"/api/visits/{sides['own']['visit_id']}/events", json={"events": [said], "sent_at": said["at"]}
    ).json()
    assert [(one["id"], one["outcome"]) for one in answer["outcomes"]] == [(used, "elsewhere")]
    own = ode.post(
        f"/api/visits/{sides['theirs']['visit_id']}/events", json={"events": [said], "sent_at": said["at"]}
    ).json()
    assert own["outcomes"][0]["outcome"] == "known", "where it was used, it is the same event again"


def test_the_database_itself_keeps_practices_apart(world):
    """Without any of the application's own conditions: plain SQL as the application's role."""
    ours, theirs = practice_of(EMAIL), practice_of(OTHER_EMAIL)
    with engine(settings().database_url).connect() as connection:
        for table in (*GUARDED, "practice"):
            assert connection.execute(text(f"SELECT count(*) FROM {table}")).scalar() == 0, table
        role = connection.execute(
            text("SELECT rolsuper, rolbypassrls FROM pg_roles WHERE rolname = current_user")
        ).one()
        assert tuple(role) == (False, False)
    with transaction(ours) as db:
        for table in GUARDED:
            seen = db.execute(text(f"SELECT DISTINCT practice_id FROM {table}")).scalars().all()
            assert set(seen) <= {ours}, table
        assert OTHER_EMAIL not in db.scalars(select(PractitionerRow.email)).all(), "nor hashes and names of theirs"
        with pytest.raises(ProgrammingError, match="row-level security"):
            db.add(PersonRow(practice_id=theirs, given_name="Smuggled", born=now().date(), version=1, fingers={}))
            db.flush()
        db.rollback()


def test_every_table_with_a_practice_is_guarded(world):
    with_practice = {name for name, table in Base.metadata.tables.items() if "practice_id" in table.columns}
    assert with_practice == set(GUARDED)
    with engine(OWNER_URL).connect() as connection:
        forced = connection.execute(
            text("SELECT relname FROM pg_class WHERE relrowsecurity AND relforcerowsecurity")
        ).scalars()
        assert {*GUARDED, "practice"} <= set(forced)


def test_names_of_constraints_follow_one_rule(world):
    with engine(OWNER_URL).connect() as connection:
        found = connection.execute(
            text(
                "SELECT conname FROM pg_constraint "
                "WHERE connamespace = 'public'::regnamespace AND contype NOT IN ('n', 't') "
                "UNION SELECT indexname FROM pg_indexes WHERE schemaname = 'public'"
            )
        ).scalars()
        kept = {name for name in found if not name.startswith("alembic")}
    wanted = {
        str(one.name)  # type: ignore[attr-defined]
        for table in Base.metadata.tables.values()
        for one in (*table.constraints, *table.indexes)
        if one.name is not None  # type: ignore[attr-defined]
    }
    assert kept == wanted


@pytest.mark.parametrize("table", [*ONLY_ADDED, *NEVER_DELETED])
def test_nothing_that_was_recorded_goes_away(world, table):
    """No right to delete, and no key that would delete along with something else."""
    statements = [f"DELETE FROM {table}", f"TRUNCATE {table} CASCADE"]
    if table in ONLY_ADDED:
        statements.append(f"UPDATE {table} SET practice_id = practice_id")
    for statement in statements:
        with (
            engine(settings().database_url).connect() as connection,
            pytest.raises(ProgrammingError, match="permission denied"),
        ):
            connection.execute(text(statement))
    with engine(OWNER_URL).connect() as connection:
        ours = "connamespace = 'public'::regnamespace"  # jobs that wait record nothing
        going = f"SELECT count(*) FROM pg_constraint WHERE contype = 'f' AND {ours} AND confdeltype NOT IN ('a', 'r')"
        assert connection.execute(text(going)).scalar() == 0


def test_who_did_something_works_in_the_same_practice(world, newcomer):
    theirs = practice_of(OTHER_EMAIL)
    with transaction(theirs) as db:
        stranger_id = db.scalar(select(PractitionerRow.id).where(PractitionerRow.email == OTHER_EMAIL))
    with pytest.raises(IntegrityError, match="practitioner"), transaction(practice_of(EMAIL)) as db:
        db.execute(
            text("UPDATE visit SET practitioner_id = :who WHERE id = :id"),
            {"who": stranger_id, "id": newcomer.visit_id},
        )


def test_a_record_is_erased_as_a_whole_with_a_reason(newcomer, stranger, ode):
    newcomer.screen()
    complaint = newcomer.complain()
    newcomer.rate(complaint, 5)
    newcomer.compose(complaint)
    newcomer.say(newcomer.begin())
    newcomer.say(event("soreness", value=3))
    name = newcomer.get().json()["given_name"]

    def erase(**wanted):
        body = {"given_name": name, "reason": "asked for it", **wanted}
        return ode.post(f"/api/people/{newcomer.id}/erase", json=body)

    problem(erase(given_name="Somebody"), 422, "not match the person's first name")
    problem(erase(reason="x"), 422, "Enter a reason")
    assert newcomer.get().status_code == 200
    assert erase().status_code == 202
    problem(newcomer.get(), 404, "no such person")
    with transaction(practice_of(EMAIL)) as db:
        db.get(PersonRow, uuid.UUID(newcomer.id)).erase_at = now() - timedelta(minutes=1)
    erase_due(str(practice_of(EMAIL)), newcomer.id)
    with transaction(practice_of(EMAIL)) as db:
        for table in (
            name for name, one in Base.metadata.tables.items() if "person_id" in one.columns and name != "audit"
        ):
            left = db.execute(text(f"SELECT count(*) FROM {table} WHERE person_id = :id"), {"id": newcomer.id})
            assert left.scalar() == 0, table
    last = ode.get(f"/api/audit?person_id={newcomer.id}").json()["entries"][0]
    assert last["action"] == "record erased: asked for it" and last["who"] == "Ode Marrable"


# --- the audit


def test_the_stream_of_a_treatment_is_for_those_who_may_read_it(ode, stranger, cast, app):
    """It is not described with the rest of the API, so nothing else comes by it."""
    at = f"/api/visits/{cast['Tamsin']['visit_id']}/treatment/live"
    assert stranger.get(at).status_code == 404
    assert at_the_door(app).get(at).status_code == 401
