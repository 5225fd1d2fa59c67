"""The next step: what is due now, in the order of the work, with a stop above all."""

from typing import Any

from acuthesis.core.follow.next_step import Standing, next_step
from tests.saying import all_said

FRESH = Standing(
    visits_before=0,
    screened=False,
    screening_stale=False,
    allowed=True,
    complaints=0,
    rated_before=0,
    rated_after=0,
    measured=False,
    composed=False,
    treatment="not_begun",
)


def test_the_steps_of_a_first_visit_come_in_the_order_of_the_work():
    done: list[tuple[str, dict[str, Any]]] = [
        ("screening", {"screened": True}),
        ("complaints", {"complaints": 1}),
        ("rate_before", {"rated_before": 1}),
        ("measures", {"measured": True}),
        ("compose", {"composed": True}),
        ("treat", {"treatment": "over"}),
        ("rate_after", {"rated_after": 1}),
        ("take_away", {}),
    ]
    standing = FRESH
    for station, change_of_it in done:
        assert next_step(standing).station == station
        standing = standing.model_copy(update=change_of_it)


def test_what_is_due_is_said_and_a_stop_stands_above_all():
    ready = FRESH.model_copy(
        update={"screened": True, "complaints": 1, "rated_before": 1, "measured": True, "composed": True}
    )
    assert next_step(ready).due == ()
    stale = next_step(ready.model_copy(update={"screening_stale": True}))
    assert (stale.station, all_said(stale.due)) == ("screening", ["screening is out of date"])
    assert next_step(ready.model_copy(update={"allowed": False})).station == "screening"
    assert next_step(ready.model_copy(update={"treatment": "open", "screening_stale": True})).station == "treat"
