"""Anything sent in any state: never a 5xx, never half written, always a sentence. `bench --fuzz` walks much farther."""

import random

from benchmarks.walk import Walk

from acuthesis.store import access
from acuthesis.store.database import transaction

from .conftest import signed_in

EMAIL, PASSWORD = "walker@elsewhere.example", "walk-about"


def test_a_walk_through_states_with_anything_sent(app, world):
    with transaction() as db:
        practice = access.add_practice(db, "Walked through")
        access.add_practitioner(db, practice.id, "Walker", EMAIL, PASSWORD)
    walk = Walk(signed_in(app, EMAIL, PASSWORD), random.Random(3))
    while walk.calls < 330:
        walk.step()
    assert walk.checked > 8, "and what was refused left nothing behind"
    assert walk.seen[200] + walk.seen[201] > 80 and walk.seen[422] > 40, walk.seen
