"""Whether it stays quick as a practice grows: the day, a person, a course and papers, as ratios within one run.

`python -m benchmarks.growth` for a year or two of one practitioner; `--large` adds 1,000 people with 60,000 visits.
"""

import os
import sys

from fastapi.testclient import TestClient
from sqlalchemy import event

from acuthesis.api.app import create_app
from acuthesis.demo.histories import load_demo
from acuthesis.demo.world import EMAIL
from acuthesis.demo.world import PASSWORD as DEMO_PASSWORD
from acuthesis.services.request.clock import now
from acuthesis.settings import settings
from acuthesis.store.database import engine, transaction
from acuthesis.store.setup import ensure_from_environment
from benchmarks.practice import PASSWORD, Grown, grow, judge_all, settle_statistics
from benchmarks.ratios import median_s

REACH = {"day, 10 visits": 4.0, "day, 30 visits": 6.0, "course, 200 visits against 2": 3.0}
PAPER_S = {"visit, printed": 1.2, "home sheet, printed": 1.0}
LARGE_REACH = 1.5
FOLLOW_UP_S = 1.0


def signed_in(email: str, password: str) -> TestClient:
    client = TestClient(create_app(), base_url="http://127.0.0.1")
    me = client.post("/api/sign-in", json={"email": email, "password": password})
    assert me.status_code == 200, me.text
    client.headers["X-CSRF"] = me.json()["csrf"]
    return client


def statements(client: TestClient, path: str) -> int:
    """How many statements an answer takes."""
    told: list[str] = []

    def note(connection, cursor, statement, *rest):  # type: ignore[no-untyped-def]
        told.append(statement)

    event.listen(engine(settings().database_url), "before_cursor_execute", note)
    client.get(path)
    event.remove(engine(settings().database_url), "before_cursor_execute", note)
    return len(told)


def seconds(client: TestClient, path: str, rounds: int = 9) -> float:
    def ask() -> None:
        answer = client.get(path)
        assert answer.status_code == 200, answer.text[:300]

    return median_s(ask, rounds)


def said(name: str, value: float, reach: float, unit: str = "times") -> bool:
    met = value <= reach
    print(f"  {name:46}{value:7.2f} {unit}   reach {reach:g}   {'met' if met else 'NOT MET'}")
    return met


def growth() -> bool:
    """The day at 10 and 30 visits, a course of 2 and of 200, papers."""
    small, full, long = grow(10, 8, 10), grow(30, 8, 30, seed=8), grow(2, 200, 0, seed=9)
    short = grow(2, 2, 0, seed=10)
    settle_statistics(os.environ["ACUTHESIS_OWNER_URL"])
    ten, thirty = signed_in(small.email, PASSWORD), signed_in(full.email, PASSWORD)
    me = seconds(ten, "/api/me")
    print("\nAs a practice grows, against an answer that reads a single row")
    met = [
        said("day, 10 visits", seconds(ten, "/api/day") / me, REACH["day, 10 visits"]),
        said("day, 30 visits", seconds(thirty, "/api/day") / me, REACH["day, 30 visits"]),
    ]
    counts = statements(ten, "/api/day"), statements(thirty, "/api/day")
    met.append(counts[0] == counts[1])
    print(f"  statements of the day at 10 and at 30 visits    {counts[0]} and {counts[1]}")
    courses = [seconds(signed_in(one.email, PASSWORD), f"/api/people/{one.people[0]}/course") for one in (long, short)]
    met.append(said("course, 200 visits against 2", courses[0] / courses[1], REACH["course, 200 visits against 2"]))
    return all([*met, papers()])


def papers() -> bool:
    """What is printed, warm: the drawings are there already, as on any second sheet of a person."""
    ode = signed_in(EMAIL, DEMO_PASSWORD)
    tamsin = next(visit for visit in ode.get("/api/day").json() if visit["given_name"] == "Tamsin")
    print("\nPapers, warm")
    visit = seconds(ode, f"/api/visits/{tamsin['visit_id']}/visit.pdf", 3)
    home = seconds(ode, f"/api/people/{tamsin['person_id']}/home.pdf", 3)
    return all(
        [
            said("visit, printed", visit, PAPER_S["visit, printed"], "s"),
            said("home sheet, printed", home, PAPER_S["home sheet, printed"], "s"),
        ]
    )


def large() -> bool:
    """1,000 people with 60,000 visits, against the demo world in the same database."""
    grown: Grown = grow(1000, 60, 10, seed=11)
    judge_all(grown.email)
    settle_statistics(os.environ["ACUTHESIS_OWNER_URL"])
    ode, many = signed_in(EMAIL, DEMO_PASSWORD), signed_in(grown.email, PASSWORD)
    tamsin = next(visit for visit in ode.get("/api/day").json() if visit["given_name"] == "Tamsin")["person_id"]
    print("\n1,000 people with 60,000 visits, against the demo's")
    day = seconds(many, "/api/day") / seconds(ode, "/api/day")
    person = seconds(many, f"/api/people/{grown.people[0]}") / seconds(ode, f"/api/people/{tamsin}")
    today = seconds(many, f"/api/people/{grown.people[0]}/today") / seconds(ode, f"/api/people/{tamsin}/today")
    audit = seconds(many, "/api/audit") / seconds(ode, "/api/audit")
    return all(
        [
            said("day", day, LARGE_REACH),
            said("person", person, LARGE_REACH),
            said("visit of today", today, LARGE_REACH),
            said("audit", audit, LARGE_REACH),
            said("follow-up", seconds(many, "/api/follow-up", 3), FOLLOW_UP_S, "s"),
        ]
    )


if __name__ == "__main__":
    ensure_from_environment()
    with transaction() as db:
        load_demo(db, now())
    done = growth()
    if "--large" in sys.argv:
        done = large() and done
    sys.exit(0 if done else 1)
