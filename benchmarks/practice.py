"""A practice of any size, grown from a seed: people with screenings, complaints, visits, ratings and soreness.

Rows are written by the database itself from a few composed scores, so that sixty thousand visits take a minute.
"""

import json
import random
import uuid
from dataclasses import dataclass
from datetime import UTC, date, datetime

from sqlalchemy import text

from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.follow.outcome import METHOD, judge
from acuthesis.core.follow.ratings import Series
from acuthesis.core.safety.screening import Screening
from acuthesis.store import access
from acuthesis.store.database import Db, see_practice, transaction

KINDS = ("neck_shoulder_ache", "poor_sleep", "knee_pain", "low_back_ache", "tension_headache")
PASSWORD = "a-long-ledger"


@dataclass(frozen=True)
class Grown:
    """A grown practice: how to sign in, and its people in the order in which they were made."""

    email: str
    people: list[uuid.UUID]


def grow(people: int, visits_each: int, today: int, seed: int = 7, zone: str = "Europe/London") -> Grown:
    """A practice with `people`, each with `visits_each` past visits; the first `today` of them have one today."""
    chance = random.Random(seed)
    email = f"ledger-{uuid.UUID(int=chance.getrandbits(128)).hex[:8]}-{people}@bench.example"
    with transaction() as db:
        practice = access.add_practice(db, f"{people} people", zone)
        worker = access.add_practitioner(db, practice.id, "Ledger", email, PASSWORD)
        ids = [uuid.UUID(int=chance.getrandbits(128), version=4) for _ in range(people)]
        home = {"practice": practice.id, "worker": worker.id, "now": datetime.now(UTC)}
        _people(db, ids, chance, home)
        _scores(db, chance)
        _visits(db, ids, visits_each, today, home)
        db.execute(text("DROP TABLE template"))
    return Grown(email, ids)


def _people(db: Db, ids: list[uuid.UUID], chance: random.Random, home: dict[str, object]) -> None:
    rows = [
        {
            "id": id,
            "given": f"Person {rank}",
            "born": date(1940 + chance.randint(0, 60), chance.randint(1, 12), 3),
            "sex": chance.choice(("female", "male")),
            "height": chance.randint(150, 195),
            "answers": json.dumps(chance.choice(({}, {"blood_thinner": True}, {"varicose_veins": True}))),
            **home,
        }
        for rank, id in enumerate(ids)
    ]
    for statement in (
        "INSERT INTO person (id, practice_id, given_name, born, sex, height_cm) "
        "VALUES (:id, :practice, :given, :born, :sex, :height)",
        "INSERT INTO screening (id, practice_id, person_id, answered_at, answered_by, answers) "
        "VALUES (gen_random_uuid(), :practice, :id, CAST(:now AS timestamptz) - interval '20 days', :worker, "
        "CAST(:answers AS jsonb))",
        "INSERT INTO measure (id, practice_id, person_id, name, value_cm) "
        "VALUES (gen_random_uuid(), :practice, :id, 'forearm', 25)",
    ):
        db.execute(text(statement), rows)
    for kind in chance.sample(KINDS, 2):
        db.execute(
            text(
                "INSERT INTO complaint (id, practice_id, person_id, kind, side, created_at) "
                "VALUES (gen_random_uuid(), :practice, :id, :kind, 'both', "
                "CAST(:now AS timestamptz) - interval '3 years')"
            ),
            [{"id": id, "kind": kind, **home} for id in ids],
        )


def _scores(db: Db, chance: random.Random) -> None:
    """A few composed scores for the visits to be made of."""
    db.execute(text("CREATE TEMPORARY TABLE template (number integer, score jsonb)"))
    for number in range(4):
        kinds = [ComplaintNow(id=kind, rating=chance.randint(3, 8)) for kind in chance.sample(KINDS, 2)]
        score = compose(ComposeRequest(complaints=kinds, minutes=25), Screening())
        db.execute(
            text("INSERT INTO template VALUES (:number, CAST(:score AS jsonb))"),
            {"number": number, "score": score.model_dump_json()},
        )


def _visits(db: Db, ids: list[uuid.UUID], each: int, today: int, home: dict[str, object]) -> None:
    begins = datetime.now(UTC).replace(hour=7, minute=0, second=0, microsecond=0)
    felt = json.dumps([{"id": "GB21", "name": "Well", "side": "right", "first": 6, "last": 4, "level": 3}])
    told = {"ids": ids, "each": each, "begins": begins, "felt": felt, **home}
    db.execute(
        text(
            "INSERT INTO visit (id, practice_id, person_id, practitioner_id, starts_at, minutes, score, "
            "treatment, felt) "
            "SELECT gen_random_uuid(), :practice, who.id, :worker, "
            "CAST(:begins AS timestamptz) - n * interval '7 days' + (who.rank % 30) * interval '20 minutes', 40, "
            "template.score, "
            "'over', CAST(:felt AS jsonb) "
            "FROM unnest(CAST(:ids AS uuid[])) WITH ORDINALITY AS who (id, rank), generate_series(1, :each) AS n "
            "JOIN template ON template.number = n % 4"
        ),
        told,
    )
    db.execute(
        text(
            "INSERT INTO visit (id, practice_id, person_id, practitioner_id, starts_at, minutes) "
            "SELECT gen_random_uuid(), :practice, who.id, :worker, "
            "CAST(:begins AS timestamptz) + who.rank * interval '20 minutes', 40 "
            "FROM unnest(CAST(:ids AS uuid[])) WITH ORDINALITY AS who (id, rank)"
        ),
        {**told, "ids": ids[:today]},
    )
    db.execute(
        text(
            "INSERT INTO rating (id, practice_id, person_id, complaint_id, visit_id, moment, value, rated_at) "
            "SELECT gen_random_uuid(), :practice, visit.person_id, complaint.id, visit.id, moment, "
            "abs(hashtext(visit.id::text || moment)) % 8 + 1, visit.starts_at "
            "FROM visit JOIN complaint USING (person_id), unnest(ARRAY['before', 'after']) AS moment "
            "WHERE visit.treatment = 'over' AND visit.practice_id = :practice"
        ),
        home,
    )
    db.execute(
        text(
            "INSERT INTO audit (practice_id, practitioner_id, person_id, action, at) "
            "SELECT :practice, :worker, visit.person_id, 'person read', visit.starts_at + n * interval '1 minute' "
            "FROM visit, generate_series(1, 4) AS n WHERE visit.practice_id = :practice"
        ),
        home,
    )


def judge_all(email: str) -> None:
    """Outcomes for all complaints of a practice at once: as they are once every list has been looked at.

    What they say is made up; judging two thousand courses of sixty ratings would take minutes.
    """
    with transaction() as db:
        found = access.account(db, email)
        assert found is not None
        see_practice(db, found.practice_id)
        told = judge(Series()).model_dump_json()
        db.execute(
            text(
                "INSERT INTO outcome (id, practice_id, person_id, method, rated, trend, last_on, told) "
                "SELECT complaint.id, practice_id, person_id, :method, rated, "
                "(ARRAY['better', 'no_change', 'worse', 'cannot_tell'])[abs(hashtext(complaint.id::text)) % 4 + 1], "
                "current_date, CAST(:told AS jsonb) FROM complaint WHERE practice_id = :practice "
                "ON CONFLICT (id) DO NOTHING"
            ),
            {"method": METHOD, "told": told, "practice": found.practice_id},
        )


def settle_statistics(owner_url: str) -> None:
    """What the database does by itself overnight: without it the first plans after a bulk load are guesses."""
    from sqlalchemy import create_engine

    engine = create_engine(owner_url, isolation_level="AUTOCOMMIT")
    with engine.connect() as connection:
        connection.execute(text("ANALYZE"))
    engine.dispose()
