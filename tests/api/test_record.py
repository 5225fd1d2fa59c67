"""A record goes out and comes in without loss, or not at all; migrations go up and down on data."""

import copy
import json
import re
import uuid

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import text

from acuthesis.settings import settings
from acuthesis.store import access
from acuthesis.store.database import engine, see_practice, transaction
from acuthesis.store.migrate import migrate
from acuthesis.store.model import Base, PersonRow, PractitionerRow
from tests.conftest import OWNER_URL
from tests.databases import drop
from tests.tiers import some

from .conftest import EMAIL, OTHER_EMAIL, practice_of

ID = re.compile(r"[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}")


def renewed(record):
    """The same record under new ids, as if it came from another place; who did what is still the same people."""
    fresh: dict[str, str] = {who["id"]: who["id"] for who in record["practitioners"]}
    return json.loads(ID.sub(lambda id: fresh.setdefault(id[0], str(uuid.uuid4())), json.dumps(record)))


def in_order(record):
    """Rows of one moment are told apart by their ids, which are new; only events have an order of their own.

    Who did something is told by name: somebody who does not work here has another id here.
    """
    plain = json.dumps(record)
    for who in record["practitioners"]:
        plain = plain.replace(who["id"], who["name"])
    record = json.loads(plain)
    return {
        part: sorted(rows, key=lambda row: row["id"]) if isinstance(rows, list) else rows
        for part, rows in record.items()
    }


@pytest.fixture
def record(ode, cast):
    return ode.get(f"/api/people/{cast['Wren']['person_id']}/record").json()


def test_out_and_in_without_loss(stranger, record):
    sent = renewed(record)
    taken = stranger.post("/api/records", json=sent)
    assert taken.status_code == 201, taken.text
    assert taken.json()["limits"][0].startswith("Pregnancy")
    back = stranger.get(f"/api/people/{sent['person']['id']}/record").json()
    assert in_order(back) == in_order(sent)
    course = stranger.get(f"/api/people/{sent['person']['id']}/course").json()
    assert course["tenderness"], "the treatments fold as before"


def test_the_same_person_comes_in_once(ode, stranger, record):
    twice = ode.post("/api/records", json=record)
    assert twice.status_code == 409
    assert "is already in this practice" in twice.json()["message"]
    # Even where row-level security hides the first one, its ids are taken.
    assert stranger.post("/api/records", json=record).status_code == 409
    assert record["person"]["id"] not in [person["id"] for person in stranger.get("/api/people").json()]


def broken(record, change):
    damaged = renewed(copy.deepcopy(record))
    change(damaged)
    return damaged


@pytest.mark.parametrize(
    ("change", "says"),
    some(
        [
            (lambda r: r.update(format="something.else"), "format"),
            (lambda r: r.update(version=2), "version"),
            (lambda r: r.update(extra=1), "extra"),
            (lambda r: r["person"].update(height_cm=40), "height_cm is 40 cm"),
            (lambda r: r["person"].pop("born"), "person.born"),
            (lambda r: r["measures"][0].update(value_cm=900), "it can be"),
            (lambda r: r["screenings"][0]["answers"].update(pregnant=True), "no question 'pregnant'"),
            (lambda r: r["complaints"][0].update(kind="gout"), "no complaint 'gout'"),
            (lambda r: r["ratings"][0].update(value=11), "ratings.0.value"),
            (lambda r: r["ratings"][0].update(complaint_id=str(uuid.uuid4())), "not in the record"),
            (
                lambda r: next(one for one in r["ratings"] if one["visit_id"]).update(moment="home"),
                "does not fit its visit",
            ),
            (lambda r: r["visits"][0]["events"].reverse(), "before the session started"),
            (lambda r: r["visits"][0]["events"][1].update(key="SP99-1"), "no stop 'SP99-1'"),
            (lambda r: r["visits"][0]["score"]["stops"][0].update(level="hard"), "visits.0.score.stops.0.level"),
        ]
    ),
)
def test_a_damaged_record_says_where_and_leaves_nothing(stranger, record, change, says):
    before = stranger.get("/api/people").json()
    damaged = broken(record, change)
    answer = stranger.post("/api/records", json=damaged)
    assert answer.status_code == 422, answer.text
    details = " ".join(f"{row['where']} {row['message']}" for row in answer.json()["details"])
    assert says in details
    assert stranger.get("/api/people").json() == before


def test_models_and_migrations_say_the_same(world):
    with engine(OWNER_URL).connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": True})
        assert compare_metadata(context, Base.metadata) == []


def test_migrations_go_down_and_up_again_on_data(database, tmp_path_factory):
    """On a database of its own: down removes every table, up makes them as they were, constraints included."""
    from sqlalchemy import make_url

    from acuthesis.store.setup import ensure_database

    name = f"acuthesis_test_migrate_{uuid.uuid4().hex[:6]}"
    import os

    owner = str(make_url(OWNER_URL).set(database=name).render_as_string(hide_password=False))
    app = str(make_url(settings().database_url).set(database=name).render_as_string(hide_password=False))
    ensure_database(os.environ["ACUTHESIS_ADMIN_URL"], owner, app)
    listing = text("SELECT conname FROM pg_constraint WHERE connamespace = 'public'::regnamespace ORDER BY conname")
    try:
        with transaction(url=app) as db:
            access.add_practice(db, "Kept")
        with engine(owner).connect() as connection:
            before = connection.execute(listing).scalars().all()
        role = str(make_url(app).username)
        migrate(owner, role, "base")
        with engine(owner).connect() as connection:
            assert connection.execute(text("SELECT to_regclass('person')")).scalar() is None
        migrate(owner, role)
        with engine(owner).connect() as connection:
            assert connection.execute(listing).scalars().all() == before
        migrate(owner, role)  # a second time changes nothing
    finally:
        engine(owner).dispose()
        engine(app).dispose()
        drop(name)


@pytest.mark.parametrize(
    "change",
    [{"height_cm": 20}, {"weight_kg": 900}, {"sex": "robot"}],
)
def test_the_database_refuses_what_no_person_has(world, change):
    from sqlalchemy.exc import IntegrityError

    with pytest.raises(IntegrityError), transaction() as db:
        practice = practice_of(EMAIL)
        see_practice(db, practice)
        values = {"given_name": "Impossible", "born": "1990-01-01", "fingers": {}, "version": 1, **change}
        db.add(PersonRow(practice_id=practice, **values))
        db.flush()


def test_a_failed_transaction_keeps_nothing(world):
    from sqlalchemy import func, select

    count = select(func.count()).select_from(PractitionerRow)
    with transaction(practice_of(OTHER_EMAIL)) as db:
        before = db.scalar(count)
    with pytest.raises(RuntimeError), transaction() as db:
        practice = practice_of(OTHER_EMAIL)
        see_practice(db, practice)
        db.add(
            PractitionerRow(
                practice_id=practice, name="Half", email="half@elsewhere.example", password_hash="-", fingers={}
            )
        )
        db.flush()
        raise RuntimeError("the server dies here")
    with transaction(practice_of(OTHER_EMAIL)) as db:
        assert db.scalar(count) == before
