"""Anything sent in any state: never a 5xx, never half written, always a sentence. `bench --fuzz` walks much farther."""

import pytest
from benchmarks.walk import Walk

from acuthesis.store import access
from acuthesis.store.database import transaction
from tests.tiers import dice, drawn

from .conftest import signed_in

EMAIL, PASSWORD = "walker@elsewhere.example", "walk-about"


@pytest.mark.long
def test_a_walk_through_states_with_anything_sent(app, world):
    with transaction() as db:
        practice = access.add_practice(db, "Walked through")
        access.add_practitioner(db, practice.id, "Walker", EMAIL, PASSWORD)
    walk, calls = Walk(signed_in(app, EMAIL, PASSWORD), dice("walk")), drawn(1000)
    while walk.calls < calls:
        walk.step()
    assert walk.checked > 8 * calls / 330, "and what was refused left nothing behind"
    assert walk.seen[200] + walk.seen[201] > 80 * calls / 330 and walk.seen[422] > 40 * calls / 330, walk.seen
