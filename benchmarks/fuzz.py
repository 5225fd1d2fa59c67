"""The suite's walk through the API, much farther: `python -m benchmarks.fuzz CALLS`."""

import random
import sys
import time

from fastapi.testclient import TestClient

from acuthesis.api.app import create_app
from acuthesis.store import access
from acuthesis.store.database import transaction
from acuthesis.store.setup import ensure_from_environment
from benchmarks.walk import Walk

EMAIL, PASSWORD = "walker@bench.example", "walk-about"


def main(calls: int) -> int:
    ensure_from_environment()
    with transaction() as db:
        practice = access.add_practice(db, "Walked through")
        access.add_practitioner(db, practice.id, "Walker", EMAIL, PASSWORD)
    client = TestClient(create_app(), base_url="http://127.0.0.1")
    me = client.post("/api/sign-in", json={"email": EMAIL, "password": PASSWORD}).json()
    client.headers["X-CSRF"] = me["csrf"]
    walk = Walk(client, random.Random(calls))
    begun = time.monotonic()
    told = 0
    while walk.calls < calls:
        walk.step()
        if walk.calls - told >= 1000:
            told = walk.calls
            print(f"  {walk.calls} calls, {time.monotonic() - begun:.0f} s", flush=True)
    kinds = ", ".join(f"{status}: {count}" for status, count in sorted(walk.seen.items()))
    print(f"{walk.calls} calls, none a 5xx ({kinds}); {walk.checked} refused writes looked into, nothing half written")
    return 0


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1])))
