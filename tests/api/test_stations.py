"""The stations over the API: what a practitioner does, and what happens when it cannot be done."""

import json
import uuid
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
from scipy.spatial import cKDTree
from sqlalchemy import event as event_of_sql

from acuthesis.api import take_away
from acuthesis.core.atlas.entries.catalogue import entries
from acuthesis.core.body.person import BodyFacts
from acuthesis.demo.world import PLAYERS
from acuthesis.services import workers
from acuthesis.services.between import home_plan
from acuthesis.services.body.bodies import KEPT, Shelf
from acuthesis.settings import settings
from acuthesis.store.database import engine

from .conftest import Newcomer, event


def problem(answer, status, says):
    assert answer.status_code == status, answer.text
    assert says in answer.json()["message"], answer.text
    return answer.json()


def test_the_day_says_who_is_next_and_what_changed(cast):
    # Other tests' newcomers come at the hour at which they run.
    company = {player.given for player in PLAYERS}
    named = [name for name in cast if name in company]
    assert named[:3] == ["Tamsin", "Bram", "Fenn"]
    tamsin, fenn, soren, priya = (cast[name] for name in ("Tamsin", "Fenn", "Soren", "Priya"))
    assert tamsin["done"]
    assert tamsin["visits_before"] == 10
    assert "→" in tamsin["news"]
    assert (fenn["news"], fenn["next"]["station"]) == ("First visit", "screening")
    assert "screening is out of date" in soren["next"]["due"]
    assert "measurements missing" in priya["next"]["due"]
    assert cast["Bram"]["next"]["station"] == "treat"


def test_a_first_visit_goes_from_step_to_step(newcomer):
    step = lambda: newcomer.today()["next"]["station"]  # noqa: E731
    assert step() == "screening"
    assert newcomer.screen().status_code == 201
    assert step() == "complaints"
    complaint = newcomer.complain("migraine", side="left", acts=["reading"])
    assert step() == "rate_before"
    newcomer.rate(complaint, 7)
    assert step() == "measures"
    newcomer.measure(height_cm=170)
    assert step() == "compose"
    newcomer.compose(complaint)
    assert step() == "treat"
    newcomer.say(newcomer.begin(), event("end", reason="finished"))
    assert step() == "rate_after"
    newcomer.rate(complaint, 4, "after")
    assert step() == "take_away"
    assert newcomer.today()["done"]


def test_screening_stops_limits_and_is_kept(newcomer):
    kept = newcomer.screen(red_flags=["new_numbness"], blood_thinner=True).json()
    assert kept["verdict"]["decision"] == "refer"
    assert newcomer.today()["next"]["station"] == "screening"
    ticked = newcomer.screen(red_flags=["new_numbness"], cleared=["new_numbness"], blood_thinner=True)
    problem(ticked, 422, "with who gave it")
    assert newcomer.screen(blood_thinner=True).json()["verdict"]["decision"] == "ok"
    person = newcomer.get().json()
    assert person["limits"] == ["Blood-thinning medicine: level 2 at most, no pressing stick"]
    history = newcomer.get("/screenings").json()
    assert [row["verdict"]["decision"] for row in history] == ["ok", "refer"]
    problem(newcomer.screen(pregnant=True), 422, "there is no question 'pregnant'")
    assert len(newcomer.get("/screenings").json()) == 2


def test_measures_are_checked_added_and_versioned(newcomer):
    first = newcomer.measure(height_cm=171, measures_cm={"forearm": 25.0}, fingers={"thumb_width": 1.9}).json()
    assert first["measures"]["forearm"]["value_cm"] == 25.0
    wrong = problem(newcomer.measure(measures_cm={"forearm": 80}), 422, "Forearm is 80 cm; it can be 16 to 36 cm")
    assert wrong["where"] == "forearm"
    problem(newcomer.measure(height_cm=17), 422, "height_cm is 17 cm; it can be 120 to 220 cm")
    problem(newcomer.measure(height_cm=180, measures_cm={"tail": 3}), 422, "There is no measure 'tail'")
    assert newcomer.get().json()["height_cm"] == 171, "nothing of a refused change is kept"
    newcomer.measure(measures_cm={"forearm": 26.0})
    assert newcomer.get().json()["measures"]["forearm"]["value_cm"] == 26.0
    assert len([m for m in newcomer.get("/record").json()["measures"] if m["name"] == "forearm"]) == 2
    assert "unusual" in newcomer.measure(measures_cm={"forearm": 33}).json()["unusual"]["forearm"]


def test_a_second_window_does_not_overwrite_the_first(newcomer, ode):
    seen = newcomer.version
    change = lambda **what: ode.patch(f"/api/people/{newcomer.id}", json={"version": seen, **what})  # noqa: E731
    assert change(breaths_per_minute=12).status_code == 200
    problem(change(breaths_per_minute=14), 409, "changed in another window")
    assert newcomer.get().json()["breaths_per_minute"] == 12
    complaint = newcomer.complain()
    newcomer.screen()
    stops = newcomer.compose(complaint).json()["score"]["stops"]
    old = newcomer.visit()["version"]
    assert newcomer.edit(stops[::-1], old).status_code == 200
    problem(newcomer.edit(stops, old), 409, "changed in another window")
    assert newcomer.visit()["score"]["stops"][0]["key"] == stops[-1]["key"]


def test_ratings_are_kept_once_and_fit_their_visit(newcomer):
    complaint = newcomer.complain()
    id = str(uuid.uuid4())
    for _ in range(3):
        newcomer.rate(complaint, 6, id=id)
    assert len(newcomer.get("/complaints").json()[0]["ratings"]) == 1
    problem(newcomer.rate(complaint, 6, "home", visit_id=newcomer.visit_id), 422, "needs its visit")
    problem(newcomer.rate(complaint, 6, "before", visit_id=None), 422, "needs its visit")
    assert newcomer.rate(complaint, 11).status_code == 422
    other = Newcomer(newcomer.client)
    problem(newcomer.rate(complaint, 5, visit_id=other.visit_id), 422, "another person's")


def test_the_figure_fits_the_person(ode, cast):
    tamsin = cast["Tamsin"]["person_id"]
    figure = ode.get(f"/api/people/{tamsin}/figure").json()
    assert figure["height_cm"] == pytest.approx(168, abs=0.2)
    forearm = next(segment for segment in figure["segments"] if segment["id"] == "forearm")
    assert forearm["length_cm"] == pytest.approx(25.1, abs=0.2)
    assert forearm["measured"]
    sides = [(entry.id, side) for entry in entries() for side in entry.sides]
    assert [(place["id"], place["side"]) for place in figure["places"]] == sides

    skin = ode.get(f"/api/people/{tamsin}/figure/skin")
    head = np.frombuffer(skin.content[:16], "<f4")
    vertices = head[:3] + np.frombuffer(skin.content[16:], "<u2").reshape(-1, 3) * head[3]
    assert np.ptp(vertices[:, 1]) == pytest.approx(168, abs=0.2)
    triangles = np.frombuffer(ode.get("/api/body/triangles").content, "<u2")
    cloth = np.frombuffer(ode.get("/api/body/cloth").content, "i1").reshape(2, -1)
    assert cloth.shape[1] == triangles.max() + 1, "a depth for every vertex, in both pieces"
    assert triangles.max() == len(vertices) - 1
    pack = ode.get("/api/body/areas").content
    length = int.from_bytes(pack[:4], "little")
    rows = json.loads(pack[4 : 4 + length])
    assert [id for id, _, _ in rows] == [entry.id for entry in entries() if entry.kind == "area"]
    total = sum(fill + outline for _, fill, outline in rows)
    mirror = np.frombuffer(pack[4 + length :], "<u2", len(vertices))
    corners = np.frombuffer(pack[4 + length + mirror.nbytes :], "<u2", 3 * total).reshape(-1, 3)
    shares = np.frombuffer(pack[4 + length + mirror.nbytes + corners.nbytes :], "u1").reshape(total, 2) / 255
    outlines = {(place["id"], place["side"]): place["outline_cm"] for place in figure["places"] if place["outline_cm"]}
    at = 0
    for id, fill, outline in rows:
        here = slice(at + fill, at + fill + outline)
        weights = np.column_stack([shares[here], 1 - shares[here].sum(axis=1)])
        for side, on in (("left", corners[here]), ("right", mirror[corners[here]])):
            if (id, side) in outlines:
                drawn = (vertices[on] * weights[:, :, None]).sum(axis=1)
                assert np.abs(drawn - outlines[id, side]).max() < 0.08, f"{id} lies where the person's figure has it"
        at += fill + outline
    again = ode.get(f"/api/people/{tamsin}/figure/skin", headers={"If-None-Match": skin.headers["etag"]})
    assert (again.status_code, again.content) == (304, b"")
    # Every place is on the skin that was sent.
    away, _ = cKDTree(vertices).query([place["position_cm"] for place in figure["places"]])
    assert away.max() < 1.5, figure["places"][away.argmax()]["id"]


def test_a_new_measure_moves_the_points(newcomer):
    newcomer.measure(height_cm=170, measures_cm={"lower_leg_inner": 33})
    short = newcomer.get("/places/SP6?side=left").json()
    key = newcomer.get("/figure").json()["key"]
    newcomer.measure(measures_cm={"lower_leg_inner": 37})
    long = newcomer.get("/places/SP6?side=left").json()
    assert newcomer.get("/figure").json()["key"] != key
    up = [found["position_cm"][1] - found["landmarks"]["medial_malleolus_prominence"][1] for found in (short, long)]
    assert up[1] - up[0] == pytest.approx(4 * 3 / 13, abs=0.1)


def test_places_carry_limits_and_the_practitioners_hand(newcomer):
    newcomer.screen(pregnancy_weeks=20)
    found = newcomer.get("/places/SP6").json()
    assert found["refused"]["rule"] == "pregnancy_points"
    assert found["fingers"][0]["practitioner_cm"] == 7.4
    refused = {(p["id"], p["side"]) for p in newcomer.get("/figure").json()["places"] if p["refused"]}
    for id in ("LI4", "SP6", "GB21", "ST25", "foot_womb_prostate", "ear_TF2"):
        assert (id, "left") in refused, id
    for id in ("ST36", "GV20", "yintang", "KI3", "foot_shoulder", "ear_TF4"):
        assert (id, "left") not in refused, id
    drawing = newcomer.get("/places/ear_TF4/drawing?side=right")
    assert drawing.headers["content-type"].startswith("image/svg+xml")
    problem(newcomer.get("/places/SP99"), 422, "There is no point or area 'SP99'")
    assert newcomer.get("/places/SP6?side=up").status_code == 422


def test_search_and_atlas(ode):
    assert ode.get("/api/atlas/search", params={"q": "san yin jiao"}).json()[0]["id"] == "SP6"
    assert [entry["id"] for entry in ode.get("/api/atlas").json()] == [entry.id for entry in entries()]
    assert ode.get("/api/atlas/search", params={"q": "x" * 81}).status_code == 422


def test_composing_and_editing_a_score(newcomer):
    newcomer.screen(blood_thinner=True)
    complaint = newcomer.complain("neck_shoulder_ache", side="right")
    newcomer.rate(complaint, 8)
    visit = newcomer.compose(complaint, avoid=["GB21"]).json()
    stops = visit["score"]["stops"]
    assert "GB21" not in [stop["id"] for stop in stops]
    li4 = next(stop for stop in stops if stop["id"] == "LI4")
    assert (li4["side"], li4["level"], li4["ceiling"]) == ("right", 2, 2)

    raised = [{**stop, "level": 3} if stop["id"] == "LI4" else stop for stop in stops]
    refused = problem(newcomer.edit(raised), 422, "LI4: level 3 is above the maximum of 2. Blood-thinning medicine")
    assert refused["where"] == f"stops.{stops.index(li4)}.level"
    dose = newcomer.client.post("/api/doses/reshape", json={"dose": li4["dose"], "seconds": 60, "form": "pulse"}).json()
    edited = [{**stop, "dose": dose, "side": "both"} if stop["id"] == "LI4" else stop for stop in stops]
    after = newcomer.edit(edited).json()["score"]
    longer = next(stop for stop in after["stops"] if stop["id"] == "LI4")
    assert longer["duration_s"] == 2 * 64  # eight cycles of eight seconds on each side
    assert after["total_s"] > visit["score"]["total_s"]
    problem(newcomer.edit([{**stops[0], "key": "x"}, {**stops[0], "key": "x"}]), 422, "same key")
    assert newcomer.edit([{**stops[0], "dose": {"form": "tickle"}}]).status_code == 422


def test_composing_needs_what_it_needs(newcomer):
    newcomer.screen()
    complaint = newcomer.complain()
    problem(newcomer.edit([]), 422, "Compose one first")
    everything = ["supine", "half_reclined", "prone", "seated", "leaning", "left_side", "right_side"]
    problem(newcomer.compose(complaint, positions_excluded=everything), 422, "No point can be pressed")
    problem(newcomer.compose(str(uuid.uuid4())), 404, "no such complaint")
    assert newcomer.compose(complaint, minutes=1).status_code == 422
    other = Newcomer(newcomer.client).complain()
    problem(newcomer.compose(other), 422, "another person's")


def test_the_course_tells_change_and_soreness(ode, cast):
    course = ode.get(f"/api/people/{cast['Tamsin']['person_id']}/course").json()
    assert course["complaints"][0]["outcome"]["trend"] == "better"
    assert len([visit for visit in course["visits"] if visit["held"]]) == 11
    gb21 = [row for row in course["tenderness"] if row["id"] == "GB21"]
    assert len(gb21) >= 10
    assert len([row for row in gb21 if row["side"] in ("right", "both")]) >= 10, "the left is only compared"
    soren = ode.get(f"/api/people/{cast['Soren']['person_id']}/course").json()
    assert soren["complaints"][0]["outcome"]["trend"] == "no_change"


def test_papers_are_pdf_and_say_what_is_missing(ode, cast, newcomer):
    visit = ode.get(f"/api/visits/{cast['Tamsin']['visit_id']}/visit.pdf")
    home = ode.get(f"/api/people/{cast['Wren']['person_id']}/home.pdf")
    for paper in (visit, home):
        assert paper.headers["content-type"] == "application/pdf"
        assert paper.content.startswith(b"%PDF")
        assert len(paper.content) > 20_000
    problem(newcomer.client.get(f"/api/visits/{newcomer.visit_id}/visit.pdf"), 422, "no score yet")


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"given_name": ""}, "given_name"),
        ({"given_name": "a\x00b"}, "control character"),
        ({"born": "1700-01-01"}, "not a possible date"),
        ({"born": "2150-01-01"}, "gives an impossible age"),
        ({"born": "yesterday"}, "born"),
        ({"sex": "robot"}, "sex"),
        ({"minutes": 0}, "minutes"),
        ({"shoe_size": 43}, "shoe_size"),
    ],
)
def test_new_people_have_to_be_possible(ode, change, says):
    answer = ode.post("/api/people", json={"given_name": "Nobody", "born": "1990-01-01", **change})
    problem(answer, 422, says)


def test_addresses_that_lead_nowhere(ode):
    problem(ode.get("/api/nowhere"), 404, "nothing at this address")
    problem(ode.get("/api/people/nonsense"), 404, "There is no such person in this practice.")
    problem(ode.get("/api/visits/17/treatment"), 404, "There is no such visit in this practice.")
    assert ode.get("/api/day", params={"on": "0001-01-01"}).status_code == 422
    assert ode.get("/api/health").json()["status"] == "ok"
    assert ode.post("/api/people", content=b"{", headers={"Content-Type": "application/json"}).status_code == 422
    headers = ode.get("/api/health").headers
    assert headers["x-content-type-options"] == "nosniff"
    assert "default-src 'self'" in headers["content-security-policy"]
    assert "camera=()" in headers["permissions-policy"]


def test_the_shelf_keeps_a_few_bodies_and_the_same_one_for_the_same_facts():
    shelf = Shelf()
    first = shelf.body(BodyFacts(height_cm=150))
    assert shelf.body(BodyFacts(height_cm=150)) is first
    for height in range(151, 151 + KEPT):
        shelf.body(BodyFacts(height_cm=height))
    assert shelf.body(BodyFacts(height_cm=150)) is not first


def test_the_shelf_fits_one_body_once_and_lets_others_by():
    """Several ask for the same body at once and get one; a fit that cannot be is told to everybody, and not kept."""
    shelf = Shelf()
    facts = [BodyFacts(height_cm=163), BodyFacts(height_cm=164)] * 4
    with ThreadPoolExecutor(8) as pool:
        bodies = list(pool.map(shelf.body, facts))
    assert len({id(body) for body in bodies}) == 2
    assert len({body.key for body in bodies}) == 2


@pytest.mark.long
def test_solving_and_printing_hold_no_connection(newcomer, monkeypatch):
    """Whoever composes or prints keeps nobody from the database meanwhile."""
    held = {}
    pool = engine(settings().database_url).pool

    def watched(module, name):
        real = getattr(module, name)

        def call(*arguments, **values):
            held[name] = pool.checkedout()  # type: ignore[attr-defined]
            return real(*arguments, **values)

        monkeypatch.setattr(module, name, call)

    for module, name in (
        (workers, "compose"),
        (take_away, "visit_pdf"),
        (home_plan, "home_pdf"),
        (take_away, "score_pdf"),
    ):
        watched(module, name)
    newcomer.screen()
    newcomer.compose(newcomer.complain("poor_sleep"))
    for paper in (
        f"visits/{newcomer.visit_id}/visit.pdf",
        f"visits/{newcomer.visit_id}/score.pdf",
        f"people/{newcomer.id}/home.pdf",
    ):
        assert newcomer.client.get(f"/api/{paper}").status_code == 200
    assert held == {"compose": 0, "visit_pdf": 0, "home_pdf": 0, "score_pdf": 0}


def test_the_day_takes_as_many_statements_for_one_as_for_ten(ode, stranger):
    told = []

    def note(connection, cursor, statement, *rest):
        told.append(statement)

    counts = []
    event_of_sql.listen(engine(settings().database_url), "before_cursor_execute", note)
    try:
        Newcomer(stranger)
        for client in (ode, stranger):
            client.get("/api/day")  # outcomes that nobody has asked for yet are judged once, and kept
            told.clear()
            assert client.get("/api/day").json()
            counts.append(len(told))
    finally:
        event_of_sql.remove(engine(settings().database_url), "before_cursor_execute", note)
    assert counts[0] == counts[1] <= 15, counts


def test_the_day_says_of_each_complaint_what_the_course_says(ode, cast):
    """The list reads what is kept of a course; it must not come to another trend than the whole of it."""
    order = ("worse", "better", "no_change", "cannot_tell", "too_early", "no_rating")
    for name in (player.given for player in PLAYERS):
        course = ode.get(f"/api/people/{cast[name]['person_id']}/course").json()["complaints"]
        rated = [one for one in course if one["outcome"]["start"] is not None]
        if not rated or not cast[name]["visits_before"]:
            continue
        first = min(rated, key=lambda one: order.index(one["outcome"]["trend"]))
        assert cast[name]["news"] == f"{first['name']} {first['outcome']['start']:.0f} → {first['outcome']['now']:.0f}"
