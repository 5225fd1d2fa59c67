"""Each main endpoint against one that reads a single row; fitting and placing against one shape.

Run by ./acuthesis bench, which starts the database and loads the demo world.
"""

import statistics
import time
from collections.abc import Callable
from dataclasses import replace

import numpy as np
from fastapi.testclient import TestClient

from acuthesis.api.app import create_app
from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.entries.search import search
from acuthesis.core.atlas.locating.locate import locate, with_way
from acuthesis.core.atlas.locating.placed import place_all
from acuthesis.core.body.asset import load_asset
from acuthesis.core.body.figure import Figure
from acuthesis.core.body.fit import FittedBody, fit
from acuthesis.core.body.person import BodyFacts
from acuthesis.core.body.places import Places
from acuthesis.core.body.pose import posed
from acuthesis.core.body.skeleton import skeleton
from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.choose.solve import solve
from acuthesis.core.compose.score.arrange import arrange
from acuthesis.core.safety.screening import Screening
from acuthesis.demo.world import EMAIL, PASSWORD
from acuthesis.settings import settings
from benchmarks.greedy import greedy, problem_for

ROUNDS = 9


def median_s(work: Callable[[], object], rounds: int = ROUNDS) -> float:
    """Median seconds of a few runs, the first (cold) one left out."""
    work()
    times = []
    for _ in range(rounds):
        begun = time.perf_counter()
        work()
        times.append(time.perf_counter() - begun)
    return statistics.median(times)


def table(title: str, base: tuple[str, float], rows: dict[str, float]) -> None:
    print(f"\n{title}\n  {'':34}{'ms':>9}{'ratio':>9}")
    for name, seconds in {base[0]: base[1], **rows}.items():
        print(f"  {name:34}{seconds * 1000:9.1f}{seconds / base[1]:9.1f}")


def endpoints() -> None:
    client = TestClient(create_app(), base_url="http://127.0.0.1")
    me = client.post("/api/sign-in", json={"email": EMAIL, "password": PASSWORD}).json()
    client.headers["X-CSRF"] = me["csrf"]
    day = {visit["given_name"]: visit for visit in client.get("/api/day").json()}
    person, visit = day["Tamsin"]["person_id"], day["Tamsin"]["visit_id"]
    paths = {
        "day": "/api/day",
        "person": f"/api/people/{person}",
        "figure (fitted)": f"/api/people/{person}/figure",
        "skin of the figure": f"/api/people/{person}/figure/skin",
        "one place": f"/api/people/{person}/places/SP6",
        "drawing": f"/api/people/{person}/places/SP6/drawing",
        "search": "/api/atlas/search?q=inner wrist",
        "search, misspelt": "/api/atlas/search?q=sanyinjao",
        "what is here": f"/api/people/{person}/nearby?x=10&y=100&z=8",
        "a sheet": f"/api/people/{person}/sheets/sole",
        "a channel's line": f"/api/people/{person}/channels/SP",
        "bones": f"/api/people/{person}/figure/bones",
        "what to measure next": f"/api/people/{person}/measure-next?ids=SP6",
        "visit with its score": f"/api/visits/{visit}",
        "treatment (fold)": f"/api/visits/{visit}/treatment",
        "course": f"/api/people/{person}/course",
        "record": f"/api/people/{person}/record",
        "home sheet (PDF)": f"/api/people/{person}/home.pdf",
    }
    base = median_s(lambda: client.get("/api/me"))
    rows = {
        name: median_s(lambda path=path: client.get(path), 3 if "PDF" in name else ROUNDS)
        for name, path in paths.items()
    }
    table("Endpoints, against one that reads a single row", ("me", base), rows)


def bodies() -> None:
    """Fitting and placing, against one evaluation of the shape: weights in, skin out."""
    asset = load_asset(settings().body_asset)
    three = {"forearm": 25.4, "lower_leg_inner": 36, "thigh_front": 40}
    girths = {**three, "waist_girth": 82, "calf_girth": 36, "hip_girth": 97}
    weights = np.zeros(len(asset.key_names))
    weights[: len(asset.key_names) // 3] = 0.1
    body = fit(asset, BodyFacts(height_cm=172, measures_cm={"forearm": 25.4}))
    point = catalogue.points()["SP6"]

    def fresh() -> FittedBody:
        """The fitted body with nothing worked out on it yet: no ray caster, no landmark."""
        return replace(body, figure=replace(body.figure), places=Places(replace(body.figure), body.places.fingers_cm))

    def fitted(**facts: object) -> Callable[[], object]:
        return lambda: fit(asset, BodyFacts(height_cm=172, **facts))

    base = median_s(lambda: Figure.from_weights(asset, weights, 1.0))
    count = len(place_all(body))
    rows = {
        "fit, nothing measured": median_s(fitted()),
        "fit, three lengths": median_s(fitted(measures_cm=three)),
        "fit, three lengths, weight": median_s(fitted(measures_cm=three, weight_kg=70)),
        "fit, three lengths, three girths": median_s(fitted(measures_cm=girths)),
        f"place all ({count}), from nothing": median_s(lambda: place_all(fresh())),
        "locate one point": median_s(lambda: locate(point, "left", body)),
        "the same, with its way on the skin": median_s(lambda: with_way(locate(point, "left", body), point, body)),
        "skeleton": median_s(lambda: skeleton(body.places)),
        "seated pose": median_s(lambda: posed(body.figure, "seated").skin),
        "search": median_s(lambda: search("below the kneecap")),
    }
    table("Bodies, against one evaluation of the shape", ("one evaluation of the shape", base), rows)


THREE = (
    ("neck_shoulder_ache", "poor_sleep", "low_back_ache"),
    ("knee_pain", "tension_headache", "worry_tension"),
    ("shoulder_pain", "migraine", "constipation"),
)


SIX = (*THREE[0], "tension_headache", "worry_tension", "indigestion")


def composing() -> None:
    """Choosing and ordering, against laying the result out once; the value against a greedy choice and the bound."""
    print("\nComposing 60 minutes, three complaints and six, feet and ears mixed in: cores and value against greedy")
    rows: dict[str, float] = {}
    base = 0.0
    for kinds in (*THREE, SIX):
        complaints = [
            ComplaintNow(id=id, rating=rating, side="right")
            for id, rating in zip(kinds, (7, 5, 4, 4, 3, 3), strict=False)
        ]
        request = ComposeRequest(complaints=complaints, minutes=60, also=["foot_hand_reflex", "ear_points"])
        problem = problem_for(request, Screening())
        number = len(problem.candidates)
        score = compose(request, Screening())
        core, value = greedy(request, Screening())
        best = score.objective
        print(
            f"  {number:3} candidates: cores {best.core:5.2f} against {core:5.2f}, value {best.value:6.2f} against "
            f"{value:6.2f}, bound {best.bound:6.2f} (gap {best.gap:.2%}); order {best.order:.1f}, bound "
            f"{best.order_bound:.1f}: {best.walked_m:.0f} m walked, {best.tool_changes} changes of what presses"
        )
        base = base or median_s(lambda score=score: arrange(score.stops, Screening()), 3)  # type: ignore[misc]
        rows[f"choosing, {number} candidates"] = median_s(lambda p=problem: solve(p), 3)  # type: ignore[misc]
        rows[f"all of it, {number} candidates"] = median_s(
            lambda r=request: compose(r, Screening()),  # type: ignore[misc]
            3,
        )
    table("Composing, against laying a score out once", ("laying out a score", base), rows)


if __name__ == "__main__":
    endpoints()
    bodies()
    composing()
