"""Each main endpoint against one that reads a single row; fitting and placing against one pass over the mesh.

Run by ./acuthesis bench, which starts the database and loads the demo world.
"""

import statistics
import time
from collections.abc import Callable

import numpy as np
from fastapi.testclient import TestClient

from acuthesis.api.app import create_app
from acuthesis.core.atlas.catalogue import entries
from acuthesis.core.atlas.locate import locate
from acuthesis.core.body.asset import load_asset
from acuthesis.core.body.figure import SIDES, Figure
from acuthesis.core.body.fit import fit
from acuthesis.core.body.person import BodyFacts
from acuthesis.demo.world import EMAIL, PASSWORD
from acuthesis.settings import settings

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
    client = TestClient(create_app())
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
    asset = load_asset(settings().body_asset)
    body = fit(asset, BodyFacts(height_cm=172, measures_cm={"forearm": 25.4}))
    skin = body.figure.skin
    weights = np.zeros(len(asset.key_names))

    def one_pass() -> float:
        """Area of the skin: every triangle touched once."""
        a, b, c = (skin[asset.triangles[:, i]] for i in range(3))
        return float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2)

    def place_all() -> None:
        for entry in entries():
            for side in SIDES if entry.paired else SIDES[:1]:
                locate(entry, side, body)

    base = median_s(one_pass)
    rows = {
        "one evaluation of the shape": median_s(lambda: Figure.from_weights(asset, weights, 1.0)),
        "fit, nothing measured": median_s(lambda: fit(asset, BodyFacts()), 5),
        "fit, three measures": median_s(
            lambda: fit(
                asset, BodyFacts(height_cm=172, measures_cm={"forearm": 25.4, "lower_leg_inner": 36, "thigh_front": 40})
            ),
            5,
        ),
        f"place all {len(entries())}, both sides": median_s(place_all, 5),
    }
    table("Bodies, against one pass over the mesh", ("one pass over the mesh", base), rows)


if __name__ == "__main__":
    endpoints()
    bodies()
