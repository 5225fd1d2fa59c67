"""Two practices on one database, and clients signed in to each."""

import sys
import uuid
from datetime import UTC, datetime

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import func, select

from acuthesis.api.app import create_app
from acuthesis.demo.world import EMAIL, PASSWORD
from acuthesis.store import access
from acuthesis.store.database import see_practice, transaction
from acuthesis.store.model import VisitRow
from tests.conftest import ZONE, demo_database

LOADED_VISITS: dict[str, int] = {}  # how many visits the demo gave each person, before tests booked more
OTHER_EMAIL, OTHER_PASSWORD = "visitor@elsewhere.example", "another-practice"


@pytest.fixture(scope="package")
def database():
    with demo_database() as url:
        yield url


@pytest.fixture(scope="package")
def world(database):
    """The demo world, and beside it an empty practice with a practitioner of its own."""
    with transaction() as db:
        see_practice(db, access.account(db, EMAIL).practice_id)
        counted = db.execute(select(VisitRow.person_id, func.count()).group_by(VisitRow.person_id))
        LOADED_VISITS.update({str(person_id): count for person_id, count in counted})
        practice = access.add_practice(db, "Elsewhere", ZONE)
        access.add_practitioner(db, practice.id, "Visitor", OTHER_EMAIL, OTHER_PASSWORD)
    return database


@pytest.fixture(scope="package")
def app(world):
    return create_app()


def at_the_door(app) -> TestClient:
    """A client that nobody has signed in with."""
    return TestClient(app, base_url="http://127.0.0.1")


def practice_of(email):
    """The practice of an account."""
    with transaction() as db:
        return access.account(db, email).practice_id


def signed_in(app, email, password) -> TestClient:
    client = at_the_door(app)
    me = client.post("/api/sign-in", json={"email": email, "password": password})
    assert me.status_code == 200, me.text
    client.headers["X-CSRF"] = me.json()["csrf"]
    return client


@pytest.fixture
def clock(monkeypatch):
    """Sets the server's clock; it runs on nobody's."""

    def to(moment):
        for name, module in list(sys.modules.items()):
            if name.startswith(("acuthesis.services.", "acuthesis.api.")) and hasattr(module, "now"):
                monkeypatch.setattr(module, "now", lambda: moment)

    return to


@pytest.fixture
def ode(app):
    """A client signed in as the demo's practitioner."""
    return signed_in(app, EMAIL, PASSWORD)


@pytest.fixture
def stranger(app):
    """A client signed in to the other practice."""
    return signed_in(app, OTHER_EMAIL, OTHER_PASSWORD)


@pytest.fixture
def cast(ode):
    """The day's visits by given name."""
    return {visit["given_name"]: visit for visit in ode.get("/api/day").json()}


class Newcomer:
    """A new person with a visit today, and shortcuts to what a practitioner does with them."""

    def __init__(self, client, **details):
        self.client = client
        new = {"given_name": f"Test {uuid.uuid4().hex[:6]}", "born": "1990-05-01", "sex": "female", **details}
        made = client.post("/api/people", json=new)
        assert made.status_code == 201, made.text
        self.id = made.json()["id"]
        self.visit_id = self.today()["visit_id"]

    def get(self, path=""):
        return self.client.get(f"/api/people/{self.id}{path}")

    def today(self):
        return self.get("/today").json()

    @property
    def version(self):
        return self.get().json()["version"]

    def screen(self, **answers):
        return self.client.post(f"/api/people/{self.id}/screenings", json={"answers": answers})

    def measure(self, **change):
        return self.client.patch(f"/api/people/{self.id}", json={"version": self.version, **change})

    def complain(self, kind="tension_headache", **more):
        made = self.client.post(f"/api/people/{self.id}/complaints", json={"kind": kind, **more})
        assert made.status_code == 201, made.text
        return made.json()["id"]

    def rate(self, complaint, value, moment="before", id=None, visit_id=...):
        visit = (None if moment == "home" else self.visit_id) if visit_id is ... else visit_id
        body = {"id": id or str(uuid.uuid4()), "value": value, "moment": moment, "visit_id": visit}
        return self.client.post(f"/api/complaints/{complaint}/ratings", json=body)

    def visit(self):
        return self.client.get(f"/api/visits/{self.visit_id}").json()

    def compose(self, *complaints, minutes=25, **more):
        wish = {"version": self.visit()["version"], "complaint_ids": complaints, "minutes": minutes, **more}
        return self.client.post(f"/api/visits/{self.visit_id}/compose", json=wish)

    def edit(self, stops, version=None):
        seen = self.visit()["version"] if version is None else version
        return self.client.put(f"/api/visits/{self.visit_id}/score", json={"version": seen, "stops": stops})

    def say(self, *events, **more):
        body = {"events": events, "sent_at": datetime.now(UTC).isoformat(), **more}
        return self.client.post(f"/api/visits/{self.visit_id}/events", json=body)

    def begin(self):
        """The event that begins the treatment with the score as it is."""
        return event("begin", version=self.visit()["version"])

    def treatment(self):
        return self.client.get(f"/api/visits/{self.visit_id}/treatment").json()


@pytest.fixture
def newcomer(ode):
    return Newcomer(ode)


@pytest.fixture
def home(newcomer):
    """Somebody with two complaints, asked and measured."""
    newcomer.screen()
    newcomer.measure(height_cm=171)
    newcomer.shoulder = newcomer.complain("shoulder_pain", acts=["hanging up the lights"])
    newcomer.head = newcomer.complain("tension_headache")
    return newcomer


def event(kind, **values):
    return {"id": str(uuid.uuid4()), "at": datetime.now(UTC).isoformat(), "kind": kind, **values}
