"""What decides with the answers: a doctor's word, measured thresholds, breathing, a hand's levels, own complaints."""

import uuid
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import text

from acuthesis.core.atlas.entries.catalogue import entry
from acuthesis.demo.world import EMAIL
from acuthesis.store import access
from acuthesis.store.database import transaction
from tests.conftest import today

from .conftest import Newcomer, practice_of, signed_in
from .test_composing import layer
from .test_find import SHIN
from .test_record import in_order, renewed
from .test_stations import problem

TODAY = today()


def word(**change):
    return {
        "flag": "new_numbness",
        "by": "the clinic at the harbour",
        "given_on": str(TODAY - timedelta(days=2)),
        "what_for": "Numb thumb: looked at, harmless",
        "until": str(TODAY + timedelta(days=60)),
        **change,
    }


@pytest.fixture
def referred(newcomer):
    """Somebody whose answers need a doctor's word first, with a complaint."""
    newcomer.screen(red_flags=["new_numbness"], blood_thinner=True)
    newcomer.complaint = newcomer.complain("tired_legs")
    return newcomer


def clear(person, **change):
    return person.client.post(f"/api/people/{person.id}/clearances", json=word(**change))


def test_a_doctors_word_lets_the_work_go_on_until_it_is_taken_back(referred):
    refused = referred.compose(referred.complaint).json()["score"]
    assert refused["decision"] == "refer" and refused["reasons"][0]["clear"] == "new_numbness"
    [given] = clear(referred).json()
    assert (given["holds"], given["by"]) == (True, "the clinic at the harbour")
    score = referred.compose(referred.complaint).json()["score"]
    assert score["decision"] == "ok"
    assert max(stop["level"] for stop in score["stops"]) <= 2, "the blood thinner still holds"
    assert referred.say(referred.begin()).status_code == 200
    person = referred.get().json()
    assert person["verdict"]["decision"] == "ok" and referred.today()["next"]["station"] != "screening"

    path = f"/api/people/{referred.id}/clearances/new_numbness"
    history = referred.client.delete(path).json()
    assert [(row["granted"], row["holds"]) for row in history] == [(False, False), (True, False)]
    assert referred.treatment()["session"]["status"] == "stopped", "what is under way ends with it"
    assert referred.get().json()["verdict"]["decision"] == "refer"
    problem(referred.client.delete(path), 404, "There is no clearance")
    assert referred.get("/clearances").json() == history
    with transaction(practice_of(EMAIL)) as db:
        said = db.execute(text("SELECT action FROM audit WHERE person_id = :id"), {"id": referred.id})
        actions = {row.action for row in said}
    assert {"clearance recorded: new_numbness", "clearance withdrawn: new_numbness"} <= actions


@pytest.mark.parametrize(
    ("change", "says", "where"),
    [
        ({"flag": "chest_pain"}, "does not need clearance at present", "flag"),
        ({"flag": "unexplained_weight_loss"}, "does not need clearance at present", "flag"),
        ({"given_on": str(TODAY + timedelta(days=3))}, "it cannot have been cleared yet", "given_on"),
        ({"until": str(TODAY - timedelta(days=1))}, "clearance ended on", "until"),
        ({"by": "  "}, "at least 1 character", "by"),
        ({"until": "soon"}, "date", "until"),
    ],
)
def test_a_word_that_clears_nothing_is_refused(referred, change, says, where):
    assert problem(clear(referred, **change), 422, says)["where"] == where
    assert referred.get("/clearances").json() == []


def test_a_word_does_not_clear_what_comes_again(referred):
    clear(referred)
    referred.screen(blood_thinner=True)
    assert referred.get().json()["verdict"]["decision"] == "ok"
    referred.screen(red_flags=["new_numbness"], blood_thinner=True)
    assert referred.get().json()["verdict"]["decision"] == "refer", "another numbness, another word"
    assert [row["holds"] for row in referred.get("/clearances").json()] == [False]
    assert [row["holds"] for row in clear(referred, what_for="Seen again").json()] == [True, False]


def test_an_emergency_is_not_cleared(newcomer):
    newcomer.screen(red_flags=["chest_pain"])
    problem(clear(newcomer, flag="chest_pain"), 422, "does not need clearance")


def test_another_practice_sees_no_clearance_and_records_none(referred, stranger):
    clear(referred)
    assert stranger.get(f"/api/people/{referred.id}/clearances").status_code == 404
    assert stranger.post(f"/api/people/{referred.id}/clearances", json=word()).status_code == 404
    assert stranger.delete(f"/api/people/{referred.id}/clearances/new_numbness").status_code == 404
    assert referred.get().json()["verdict"]["decision"] == "ok"


def legs(person):
    """The points on the legs in a score for tired legs, by id."""
    score = person.compose(person.complaint, minutes=40).json()["score"]
    points = [stop for stop in score["stops"] if stop["kind"] == "point"]
    return {stop["id"]: stop for stop in points if entry(stop["id"]).part in ("lower_leg", "thigh", "foot")}


def test_a_measured_threshold_holds_every_level_below_it(newcomer):
    newcomer.screen()
    newcomer.complaint = newcomer.complain("tired_legs")
    free = legs(newcomer)
    kept = newcomer.measure(thresholds={"lower_leg": 2.0, "thigh": 2.0, "foot": 2.0}).json()
    assert kept["thresholds"]["lower_leg"]["n_per_cm2"] == 2.0
    held = legs(newcomer)
    assert max(stop["level"] for stop in free.values()) > 2 >= max(stop["level"] for stop in held.values())
    assert any("pressure pain threshold here is 2 N/cm²" in stop["ceiling_reasons"][0] for stop in held.values())
    newcomer.measure(thresholds=dict.fromkeys(("lower_leg", "thigh", "foot")))
    assert newcomer.get().json()["thresholds"] == {}
    assert {id: stop["level"] for id, stop in legs(newcomer).items()} == {
        id: stop["level"] for id, stop in free.items()
    }
    wrong = problem(newcomer.measure(thresholds={"tail": 2.0}), 422, "There is no body part 'tail'")
    assert wrong["where"] == "pressure_pain_n_per_cm2.tail"
    problem(newcomer.measure(thresholds={"foot": 500}), 422, "500 N/cm² is not between")
    assert len(newcomer.get("/record").json()["thresholds"]) == 6, "three measured, three taken back, nothing refused"


def test_breaths_go_at_the_persons_own_pace(newcomer):
    newcomer.screen()
    complaint = newcomer.complain("worry_tension")
    problem(newcomer.measure(breaths_per_minute=60), 422, "less than or equal to 30")

    def closing():
        score = newcomer.compose(complaint, minutes=30).json()["score"]
        return next(stop for stop in score["stops"] if stop["kind"] == "close")

    before = closing()
    newcomer.measure(breaths_per_minute=4)
    slow = closing()
    assert slow["dose"]["per_minute"] == 4 < before["dose"]["per_minute"]
    assert slow["duration_s"] == pytest.approx(slow["dose"]["count"] * 15, abs=1)
    newcomer.measure(breaths_per_minute=None)
    assert closing() == before


@pytest.fixture
def own_hand(ode):
    """Whatever a test sets for the practitioner's hand is taken back."""
    yield
    assert ode.patch("/api/me", json={"scale_g": {}}).status_code == 200


def test_a_kitchen_scale_sets_the_forces_of_this_practitioner(newcomer, own_hand):
    client = newcomer.client
    newcomer.screen()
    newcomer.complaint = newcomer.complain("tired_legs")
    usual = legs(newcomer)
    me = client.patch("/api/me", json={"scale_g": {"3": 1100}}).json()
    assert me["scale_g"] == {"3": 1100} and me["pressure"]["levels"][2]["n_per_cm2"] == pytest.approx(3.6, abs=0.01)
    strong = legs(newcomer)
    assert strong["SP6"]["force_n"] > usual["SP6"]["force_n"]
    assert client.get("/api/safety").json()["pressure"] == me["pressure"]
    wrong = client.patch("/api/me", json={"scale_g": {"2": 900, "3": 800}})
    assert problem(wrong, 422, "level 3 is no firmer than level 2")["where"] == "scale_g.3"
    assert client.get("/api/me").json()["scale_g"] == {"3": 1100}


def test_all_of_it_is_in_the_record_and_comes_in_again(referred, stranger):
    clear(referred)
    referred.client.delete(f"/api/people/{referred.id}/clearances/new_numbness")
    clear(referred, what_for="Seen again")
    referred.measure(thresholds={"foot": 3.5}, breaths_per_minute=9.5)
    record = referred.get("/record").json()
    assert [row["granted"] for row in record["clearances"]] == [True, False, True]
    assert record["person"]["breaths_per_minute"] == 9.5
    sent = renewed(record)
    taken = stranger.post("/api/records", json=sent)
    assert taken.status_code == 201, taken.text
    assert taken.json()["thresholds"]["foot"]["n_per_cm2"] == 3.5
    assert taken.json()["verdict"]["decision"] == "ok", "what was cleared stays cleared"
    assert in_order(stranger.get(f"/api/people/{sent['person']['id']}/record").json()) == in_order(sent)
    again = renewed(record)
    again["thresholds"][0]["part"] = "tail"
    problem(stranger.post("/api/records", json=again), 422, "there is no body part 'tail'")
    again = renewed(record)
    again["clearances"][0]["until"] = "2001-01-01"
    problem(stranger.post("/api/records", json=again), 422, "would end")


@pytest.fixture
def workshop(app):
    """A client in a practice of its own, whose changes touch nobody else."""
    email, password = f"{uuid.uuid4().hex[:8]}@workshop.example", "rods-and-strings"
    with transaction() as db:
        practice = access.add_practice(db, "Workshop")
        access.add_practitioner(db, practice.id, "Carver", email, password)
    return signed_in(app, email, password)


@pytest.mark.long
def test_a_complaint_of_the_practices_own_is_worked_with_everywhere(workshop, stranger):
    use = {"ground": "points", "weight": 4, "side": "affected", "why": "our own find"}
    changes = {
        "own_complaints": {"own_rod_arm": {"name": "Rod arm", "sides": "affected", "acts": ["a scene with rods"]}},
        "complaints": {
            "own_rod_arm": {
                "add": [
                    {**use, "id": "LI11", "role": "main"},
                    {**use, "id": "LI4", "role": "far"},
                    {**use, "id": "HT7", "role": "calm"},
                ],
                "home": ["HT7"],
            }
        },
    }
    kept = layer(workshop, **changes)
    assert kept.status_code == 200, kept.text
    page = next(
        row for row in workshop.get("/api/catalogue").json()["complaints"] if row["kind"]["id"] == "own_rod_arm"
    )
    assert page["own"] and [use["id"] for use in page["uses"]] == ["LI11", "LI4", "HT7"]
    assert "own_rod_arm" in [kind["id"] for kind in workshop.get("/api/complaint-kinds").json()]
    assert "own_rod_arm" not in [kind["id"] for kind in stranger.get("/api/complaint-kinds").json()]
    person = Newcomer(workshop)
    person.screen()
    complaint = person.complain("own_rod_arm", side="left")
    person.rate(complaint, 6)
    score = person.compose(complaint, minutes=20).json()["score"]
    assert {stop["id"] for stop in score["stops"] if stop["kind"] == "point"} == {"LI11", "LI4", "HT7"}
    assert [row["name"] for row in score["coverage"]] == ["Rod arm"]
    assert person.get("/course").json()["complaints"][0]["name"] == "Rod arm"
    for paper in (f"/api/people/{person.id}/home.pdf", f"/api/visits/{person.visit_id}/visit.pdf"):
        assert workshop.get(paper).content.startswith(b"%PDF")
    problem(layer(workshop), 409, "is used in a person's record")
    problem(stranger.post(f"/api/people/{person.id}/complaints", json={"kind": "own_rod_arm"}), 404, "no such person")

    # In a practice that does not know it, the record keeps its name.
    sent = renewed(person.get("/record").json())
    assert stranger.post("/api/records", json=sent).status_code == 201
    assert stranger.get(f"/api/people/{sent['person']['id']}/complaints").json()[0]["name"] == "Rod arm"
    problem(layer(workshop, **{**changes, "own_complaints": {"rod": {"name": "Rod"}}}), 422, "has an id like own_")


@pytest.fixture
def knot(workshop):
    """A point of the workshop's own, where SP6 lies, used for tired legs."""
    inner = {
        "line": "shin_inner_border_behind",
        "segment": "lower_leg_inner",
        "from": "medial_malleolus_prominence",
        "cun": 3,
    }
    row = {**SHIN, "id": "own_knot", "site": "leg_inner", "methods": [{"name": "our knot", "place": inner}]}
    made = workshop.put("/api/atlas/own", json={"row": row})
    assert made.status_code == 200, made.text
    use = {"id": "own_knot", "ground": "points", "role": "main", "weight": 5, "side": "both", "why": "our own find"}
    kept = layer(workshop, complaints={"tired_legs": {"add": [use], "home": ["own_knot", "KI1"]}})
    assert kept.status_code == 200, kept.text
    return workshop


@pytest.mark.long
def test_an_own_point_is_composed_with_and_left_out_where_it_lies_on_a_refused_one(knot):
    person = Newcomer(knot)
    person.screen()
    complaint = person.complain("tired_legs")
    score = person.compose(complaint, minutes=30).json()["score"]
    [stop] = [stop for stop in score["stops"] if stop["id"] == "own_knot"]
    assert stop["why"][0] == "Tired legs: our own find."
    assert knot.get(f"/api/people/{person.id}/home.pdf").content.startswith(b"%PDF")
    plan = knot.post(
        f"/api/visits/{person.visit_id}/programme?number=2", json={"complaint_ids": [complaint], "minutes": 25}
    ).json()
    assert plan["home"][0]["points"][0]["id"] == "own_knot"

    person.screen(pregnancy_weeks=14)
    score = person.compose(complaint, minutes=30).json()["score"]
    assert "own_knot" not in {stop["id"] for stop in score["stops"]}
    [row] = [row for row in score["left_out"] if row["id"] == "own_knot"]
    assert "cm from SP6. Traditionally not pressed in pregnancy." in row["reason"] and not row["overridable"]
    problem(person.compose(complaint, minutes=30, pinned=["own_knot"]), 422, "is pinned but not possible")
    # As a protocol of the practice it is left out for her too.
    free = Newcomer(knot)
    free.screen()
    free.compose(free.complain("tired_legs"), minutes=30)
    made = knot.post("/api/protocols", json={"visit_id": free.visit_id, "name": "Heavy legs", "note": ""}).json()
    body = {"version": person.visit()["version"], "protocol_id": made["id"], "minutes": 30}
    applied = knot.post(f"/api/visits/{person.visit_id}/apply-protocol", json=body).json()["score"]
    assert "own_knot" in {row["id"] for row in applied["left_out"]}
    assert "own_knot" not in {stop["id"] for stop in applied["stops"]}


def test_an_own_point_that_a_complaint_uses_is_not_removed_under_it(knot):
    version = knot.get("/api/atlas/own").json()[0]["version"]
    gone = knot.delete("/api/atlas/own", params={"id": "own_knot", "version": version})
    problem(gone, 409, "own_knot is used for tired_legs")
    assert layer(knot).status_code == 200
    assert knot.delete("/api/atlas/own", params={"id": "own_knot", "version": version}).status_code == 204


def test_an_own_point_on_a_place_refused_on_one_side_alone_is_left_out(workshop):
    """By its own row it lies elsewhere; where it comes to lie on this body, the skin is broken on the left."""
    inner = {
        "line": "shin_inner_border_behind",
        "segment": "lower_leg_inner",
        "from": "medial_malleolus_prominence",
        "cun": 3,
    }
    row = {**SHIN, "id": "own_scrape", "methods": [{"name": "our knot", "place": inner}]}
    assert workshop.put("/api/atlas/own", json={"row": row}).status_code == 200
    person = Newcomer(workshop)
    person.screen()
    person.compose(person.complain("tired_legs"), minutes=30)
    add = f"/api/visits/{person.visit_id}/stops"
    assert workshop.post(add, json={"id": "own_scrape", "side": "left"}).status_code == 200
    assert person.screen(broken_skin=["leg_inner.left"]).status_code == 201
    problem(workshop.post(add, json={"id": "own_scrape", "side": "left"}), 422, "cm from SP6")


def test_a_child_for_whom_there_is_no_figure_is_screened_composed_for_and_treated(ode):
    """Painted places count as the sites they lie on; nothing is answered in numbers of ages."""
    child = Newcomer(ode, born=f"{TODAY.year - 9}-01-01")
    assert child.measure(height_cm=131).status_code == 200
    skin = list(range(4624, 4660))  # around the right knee
    told = child.screen(broken_skin=[{"skin": skin}]).json()
    assert told["verdict"]["decision"] == "refer"
    assert clear(child, flag="child_without_consent", by="the father, in the room").status_code == 201
    cough, knee = child.complain("cough"), child.complain("knee_pain", side="right")
    score = child.compose(cough, knee).json()["score"]
    assert score["decision"] == "ok" and score["stops"]
    assert any(row["rule"] == "skin_place" for row in score["left_out"]), "what lies there is left out by its name"
    right = {stop["id"] for stop in score["stops"] if stop["side"] != "left"}
    assert not right & {"ST35", "neixiyan", "heding", "BL40"}
    assert max(stop["level"] for stop in score["stops"]) <= 2
    begun = child.say(child.begin())
    assert begun.status_code == 200, begun.text
    assert child.get("/figure").status_code == 200, "the smallest figure is shown, of their height"


def test_a_no_at_the_intake_counts_as_an_answer_and_makes_no_old_answers_younger(ode):
    person = Newcomer(ode)
    person.complain("menstrual_cramps", red_flags={"might_be_pregnant": False})
    assert person.get().json()["screened_on"] is None, "who was never screened is not taken for screened"
    person.screen(blood_thinner=True)
    day = person.get().json()["screened_on"]
    person.complain("premenstrual_tension", red_flags={"might_be_pregnant": False, "self_harm_thoughts": False})
    newest = person.get("/screenings").json()[0]
    assert newest["answers"] == {"blood_thinner": True, "might_be_pregnant": False} and not newest["in_full"]
    assert newest["verdict"]["decision"] == "ok" and person.get().json()["screened_on"] == day


def test_a_yes_that_is_added_counts_at_once_and_makes_no_old_answers_younger(ode, clock):
    person = Newcomer(ode)

    def added(**answers):
        return ode.post(f"/api/people/{person.id}/screenings", json={"answers": answers, "in_full": False})

    long_ago = datetime.now(UTC) - timedelta(days=400)
    clock(long_ago)
    person.screen(blood_thinner=True, red_flags=["new_numbness"])
    clock(datetime.now(UTC))
    told = added(harm_by_somebody=True, red_flags=["chest_pain"], new_numbness=False)
    assert told.status_code == 201 and told.json()["verdict"]["decision"] == "emergency"
    assert told.json()["answers"] == {"blood_thinner": True, "harm_by_somebody": True, "chest_pain": True}
    known = person.get().json()
    assert known["screened_on"] == str(today() - timedelta(days=400)) and known["screening_stale"]
    problem(added(no_such_question=True), 422, "no_such_question")
    assert len(person.get("/screenings").json()) == 2
    knee = {"skin": list(range(4624, 4660))}  # around the right knee
    for late in (timedelta(), timedelta(hours=-1), timedelta(hours=-2)):  # a clock that stands, and one set back
        clock(datetime.now(UTC) + late)
        painted = added(broken_skin=[knee], new_numbness=late < timedelta()).json()["answers"]
        assert painted["broken_skin"][0]["words"] and painted["harm_by_somebody"], "told by what it lies on"
        assert painted.get("new_numbness", False) == (late < timedelta()), "what is said last counts"
