"""The demo world: its people and no others, with histories that keep every rule the core has."""

from datetime import UTC, datetime, timedelta
from uuid import UUID

import pytest
from sqlalchemy import select

from acuthesis.core.atlas.entries.catalogue import entry
from acuthesis.core.safety.limits import limits_for
from acuthesis.core.safety.screening import parse_screening
from acuthesis.demo.histories import load_demo
from acuthesis.demo.world import PLAYERS
from acuthesis.store.database import transaction
from acuthesis.store.model import VisitRow
from tests.conftest import ZONE

from .conftest import LOADED_VISITS

CAST = {
    "Tamsin Orrell": 34,
    "Bram Okonjo-Vale": 58,
    "Wren Halloran": 29,
    "Idris Pell": 41,
    "Maud Castellane": 72,
    "Soren Achterberg": 47,
    "Priya Lindqvist": 38,
    "Callum Drax": 50,
    "Noor Everhart": 44,
    "Fenn Ashgrove": 19,
}


def test_the_company_is_complete_and_nobody_else(cast):
    assert {f"{player.given} {player.family}": player.age for player in PLAYERS} == CAST
    for player in PLAYERS:
        assert cast[player.given]["age"] == player.age


def test_loading_twice_changes_nothing(world, ode):
    before = ode.get("/api/people").json()
    with transaction() as db:
        assert load_demo(db, datetime.now(UTC), ZONE) is False
    assert ode.get("/api/people").json() == before


def test_the_next_day_brings_those_who_were_not_treated(world, ode):
    ours = {player.given for player in PLAYERS}
    today = {visit["given_name"]: visit for visit in ode.get("/api/day").json() if visit["given_name"] in ours}
    with transaction() as db:
        load_demo(db, datetime.now(UTC) + timedelta(days=1), ZONE)
        moved = {row.id: row.starts_at for row in db.scalars(select(VisitRow))}
        for name, visit in today.items():
            begun, now = datetime.fromisoformat(visit["starts_at"]), moved[UUID(visit["visit_id"])]
            treated = next(player.today == "done" for player in PLAYERS if player.given == name)
            assert now - begun == timedelta(days=0 if treated else 1), name
        db.rollback()


def test_histories_keep_every_rule(ode, cast):
    for player in PLAYERS:
        record = ode.get(f"/api/people/{cast[player.given]['person_id']}/record").json()
        # Other tests book visits too; what was treated is the demo's own.
        treated = [visit for visit in record["visits"] if visit["events"]]
        assert len(treated) == player.sessions + (player.today == "done")
        missed = [visit for visit in record["visits"] if visit["attendance"] == "not_come"]
        assert len(missed) == len(player.missed)
        booked = bool(player.next_in_days) and not player.next_unbooked
        loaded = LOADED_VISITS[cast[player.given]["person_id"]]
        assert loaded == player.sessions + 1 + len(player.missed) + booked
        screening = parse_screening(player.screening or {})
        for visit in record["visits"]:
            for stop in (visit["score"] or {"stops": []})["stops"]:
                if stop["kind"] not in ("point", "area"):
                    continue
                limits = limits_for(entry(stop["id"]), stop["side"], screening)
                assert limits.refused is None, f"{player.given}: {stop['id']}"
                assert stop["level"] <= limits.ceiling
        rated = [rating for rating in record["ratings"] if rating["moment"] == "before"]
        done = player.sessions + (player.today in ("composed", "done"))
        assert len(rated) == done * len(player.complaints)


@pytest.mark.long
def test_courses_end_as_the_world_says(ode, cast):
    """The company shows every case that following knows."""
    course = {
        player.given: ode.get(f"/api/people/{cast[player.given]['person_id']}/course").json() for player in PLAYERS
    }
    trend = {name: {one["kind"]: one["outcome"]["trend"] for one in own["complaints"]} for name, own in course.items()}
    step = {name: {one["proposal"]["step"] for one in own["complaints"]} for name, own in course.items()}
    assert trend["Tamsin"] == {"neck_shoulder_ache": "better"} and step["Tamsin"] == {"go_on"}
    assert trend["Soren"] == {"heel_pain": "no_change"} and step["Soren"] <= {"change_plan", "refer"}
    assert set(trend["Maud"].values()) == {"too_early"} and step["Maud"] == {"look_again"}
    assert trend["Noor"] == {"poor_sleep": "better"} and course["Noor"]["practice"]["entries"] >= 10
    # Callum: every session eases, and nothing of it is left the next day.
    [callum] = course["Callum"]["complaints"]
    lasts = callum["analysis"]["carry_over"]
    assert (callum["outcome"]["trend"], lasts["half_life_days"]["high"] < 2) == ("no_change", True)
    assert "none of it lasts" in callum["proposal"]["why"]
    # Idris: fewer episodes, and what a session eases lasts for days.
    [idris] = course["Idris"]["complaints"]
    assert idris["episodes"]["ratio"]["high"] < 1
    assert 1.5 <= idris["analysis"]["carry_over"]["half_life_days"]["middle"] <= 10
    # Priya: one of three is better, and the caution says what that is worth.
    assert sorted(trend["Priya"].values()) == ["better", "no_change", "no_change"]
    told = [words for one in course["Priya"]["complaints"] for words in one["proposal"]["bear_in_mind"]]
    assert any(words.startswith("One of 3 complaints is better") for words in told)
    # Bram: something else began meanwhile.
    assert any("physiotherapy" in words for words in course["Bram"]["complaints"][0]["proposal"]["bear_in_mind"])


def test_noor_is_worked_on_the_free_arm_and_wren_never_on_the_front(ode, cast):
    noor = ode.get(f"/api/people/{cast['Noor']['person_id']}/record").json()
    wren = ode.get(f"/api/people/{cast['Wren']['person_id']}/record").json()
    arms = {
        stop["side"]
        for visit in noor["visits"]
        for stop in (visit["score"] or {"stops": []})["stops"]
        if stop["id"] in ("HT7", "PC6", "LI4", "TE5", "LI11")
    }
    assert arms == {"right"}
    positions = {stop["position"] for visit in wren["visits"] for stop in (visit["score"] or {"stops": []})["stops"]}
    assert positions.isdisjoint({"prone", "supine"})
