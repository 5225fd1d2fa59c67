"""Letters: asked for with consent, made by a job that outlives its process, in the practice's own words."""

import uuid
from typing import Any

from sqlalchemy import text

from acuthesis.demo.world import EMAIL, PASSWORD
from acuthesis.services import jobs
from acuthesis.settings import settings
from acuthesis.store.database import engine, transaction
from tests.conftest import OWNER_URL

from .conftest import practice_of, signed_in
from .test_between import opened, tell
from .test_stations import problem


def letter(person, **more):
    body = {
        "id": str(uuid.uuid4()),
        "kind": "doctor",
        "recipient": "Dr. Lamplight",
        "complaint_ids": [person.head],
        **more,
    }
    return person.client.post(f"/api/people/{person.id}/papers", json={"id": str(uuid.uuid4()), **body})


def agree(person, given=True):
    said = {"about": "letters", "given": given, "how": "spoken"}
    assert person.client.post(f"/api/people/{person.id}/consents", json=said).status_code == 201


def test_a_letter_needs_consent_and_is_made_by_a_job(home):
    problem(letter(home), 422, "has not agreed to letters")
    agree(home)
    problem(letter(home, recipient=""), 422, "Enter a recipient")
    problem(letter(home, complaint_ids=[str(uuid.uuid4())]), 404, "no such complaint")
    for value, moment in ((7, "before"), (4, "after")):
        home.rate(home.head, value, moment)
    asked = letter(home, asked_of_you="Please look at the neck.", complaint_ids=[home.head, home.shoulder])
    assert asked.status_code == 201 and asked.json()["state"] == "waiting"
    paper = asked.json()["id"]
    problem(home.client.get(f"/api/papers/{paper}/letter.pdf"), 404, "not ready yet")
    jobs.work_off()
    done = home.client.get(f"/api/papers/{paper}").json()
    assert done["state"] == "made" and done["step"] == done["steps"] and done["pdf"], done
    name = home.get().json()["given_name"]
    assert f"# About {name}" in done["text"] and "Please look at the neck." in done["text"]
    assert "[[figure 1]]" in done["text"] and "[[figure 2]]" not in done["text"], "nothing is drawn of what is unrated"
    assert done["doubts"] == []
    assert home.client.get(f"/api/papers/{paper}/letter.pdf").content.startswith(b"%PDF")
    plain = home.client.get(f"/api/papers/{paper}/letter.txt").text
    assert "(Figure: Tension headache" in plain and "# " not in plain
    # Edited by hand, it is printed as it was edited.
    edited = letter(home, text=done["text"].replace("With kind regards", "Yours")).json()["id"]
    agree(home, given=False)
    problem(letter(home), 422, "has not agreed")
    summary = letter(home, kind="summary", recipient="").json()["id"]
    jobs.work_off()
    assert "Yours" in home.client.get(f"/api/papers/{edited}").json()["text"]
    own = home.client.get(f"/api/papers/{summary}").json()
    assert own["state"] == "made" and f"# For {name}" in own["text"]
    assert [one["kind"] for one in home.get("/papers").json()] == ["summary", "doctor", "doctor"]


def test_a_letter_tells_what_was_done_and_how_it_went(ode, cast):
    soren = cast["Soren"]["person_id"]
    heel = ode.get(f"/api/people/{soren}/complaints").json()[0]["id"]
    body = {"id": str(uuid.uuid4()), "kind": "doctor", "recipient": "Dr. Lamplight", "complaint_ids": [heel]}
    assert ode.post(f"/api/people/{soren}/papers", json=body).status_code == 201
    jobs.work_off()
    made = ode.get(f"/api/papers/{body['id']}").json()
    assert made["state"] == "made", made["told"]
    told = made["text"]
    assert "5 sessions from" in told and "Pressure: level" in told and "Points used most:" in told
    outcome = ode.get(f"/api/people/{soren}/course").json()["complaints"][0]["outcome"]["sentence"]
    assert f"Heel pain, left: {outcome}" in told, "the sentence of the course, word for word"
    assert "activities affected: " in told and "# Observations" in told


def test_whoever_waits_is_told_when_it_breaks(home, monkeypatch):
    from acuthesis.services.between import letters

    agree(home)
    paper = letter(home).json()["id"]
    monkeypatch.setattr(letters, "letter_pdf", lambda *rest: 1 / 0)
    jobs.work_off()
    broken = home.client.get(f"/api/papers/{paper}").json()
    assert broken["state"] == "failed" and "Try again" in broken["told"]


def test_what_was_asked_for_survives_and_is_cancelled(home, monkeypatch):
    agree(home)
    kept, dropped, broken = (letter(home).json()["id"] for _ in range(3))
    assert home.client.post(f"/api/papers/{dropped}/cancel").json()["state"] == "cancelled"
    with engine(OWNER_URL).connect() as connection:
        waiting = connection.execute(text("SELECT count(*) FROM jobs.procrastinate_jobs WHERE status = 'todo'"))
        assert waiting.scalar() >= 3, "it lies in the database, and not in this process"
    from acuthesis.core.errors import CoreError
    from acuthesis.services.between import letters

    real: Any = vars(letters)["letter_pdf"]

    def printing(title, *rest):
        if broken_now:
            raise CoreError("The printer is out of ink.", where="pdf")
        return real(title, *rest)

    broken_now = False
    monkeypatch.setattr(letters, "letter_pdf", printing)
    practice = str(practice_of(EMAIL))
    letters.make_paper(practice_id=practice, paper_id=kept)
    broken_now = True
    letters.make_paper(practice_id=practice, paper_id=broken)
    monkeypatch.undo()
    jobs.work_off()  # what was done by hand above is not done again
    states = {one["id"]: (one["state"], one["told"]) for one in home.get("/papers").json()}
    assert states == {
        kept: ("made", ""),
        dropped: ("cancelled", ""),
        broken: ("failed", "The printer is out of ink."),
    }
    problem(home.client.post(f"/api/papers/{kept}/cancel"), 422, "no longer being created")


def leave_dead(paper, attempts):
    """A process has taken the job of a paper, and has not been heard of for a minute."""
    with engine(OWNER_URL).connect() as connection:
        connection.execute(text("SET LOCAL search_path = public, jobs"))
        connection.execute(
            text(
                "WITH dead AS (INSERT INTO procrastinate_workers (last_heartbeat) "
                "VALUES (now() - interval '1 minute') RETURNING id) "
                "UPDATE procrastinate_jobs SET status = 'doing', worker_id = dead.id, attempts = :attempts FROM dead "
                "WHERE status = 'todo' AND args ->> 'paper_id' = :paper"
            ),
            {"paper": paper, "attempts": attempts},
        )
        connection.commit()


def test_a_job_whose_process_died_is_taken_up_by_another(home):
    agree(home)
    paper = letter(home).json()["id"]
    leave_dead(paper, attempts=1)
    jobs.work_off()
    assert home.client.get(f"/api/papers/{paper}").json()["state"] == "made"
    # One that every process died of is given up, and says so.
    fatal = letter(home).json()["id"]
    leave_dead(fatal, attempts=3)
    jobs.work_off()
    assert home.client.get(f"/api/papers/{fatal}").json()["state"] == "failed"


def test_ratings_are_judged_by_a_job(home):
    device, _ = opened(home)
    told = ({"kind": "rating", "complaint_id": home.head, "value": 6 - number // 2} for number in range(6))
    assert all(one["kept"] for one in tell(device, *told))
    with transaction(practice_of(EMAIL)) as db:
        judged = (
            "SELECT count(*) FROM outcome JOIN complaint USING (id) WHERE id = :id AND outcome.rated = complaint.rated"
        )
        assert db.execute(text(judged), {"id": home.head}).scalar() == 0
        db.execute(text("SET LOCAL search_path = public, jobs"))
        db.execute(text("UPDATE procrastinate_jobs SET scheduled_at = NULL WHERE status = 'todo'"))  # not in a while
    jobs.work_off()
    with transaction(practice_of(EMAIL)) as db:
        assert db.execute(text(judged), {"id": home.head}).scalar() == 1


def test_a_practice_writes_its_own_words(home, app):
    templates = {one["kind"]: one for one in home.client.get("/api/letter-templates").json()}
    assert not templates["summary"]["own"] and templates["summary"]["version"] == 0
    body = "# For {{ given_name }}\n\nThis will cure you.\n"
    at = "/api/letter-templates/summary"
    problem(home.client.put(at, json={"version": 0, "body": "{{ ''.__class__ }}"}), 422, "__class__")
    assert "Bram" in home.client.post("/api/letter-templates/try", json={"body": body}).json()["text"]
    kept = home.client.put(at, json={"version": 0, "body": body}).json()
    assert kept["own"] and kept["doubts"] == ["cure"]
    problem(home.client.put(at, json={"version": 7, "body": body}), 409, "another window")
    paper = letter(home, kind="summary").json()["id"]
    jobs.work_off()
    assert home.client.get(f"/api/papers/{paper}").json()["text"].endswith("This will cure you.\n")
    assert home.client.delete(at).json()["own"] is False
    assert (
        signed_in(app, EMAIL, PASSWORD).get("/api/letter-templates").json()[2]["body"] == templates["summary"]["body"]
    )
    assert settings().works, "a server works on the queue by itself"
