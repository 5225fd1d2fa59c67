"""Change is judged honestly: not too early, not from noise, and worse counts at once."""

from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.follow.change import FAIR_DAYS, FAIR_VISITS, Edges, Rating, Series, at_a_glance, change
from acuthesis.core.follow.next_step import Standing, next_step

START = date(2026, 9, 1)


def series(*values, every=7, moment="before"):
    return Series(
        ratings=[Rating(on=START + timedelta(days=n * every), value=v, moment=moment) for n, v in enumerate(values)]
    )


@pytest.mark.parametrize(
    ("values", "trend", "says"),
    [
        ((), "no_rating", "No rating yet"),
        ((7,), "too_early", "3 visits (so far 1) and 14 days (so far 0)"),
        ((7, 5), "too_early", "3 visits (so far 2) and 14 days (so far 7)"),
        ((7, 6, 5, 4), "better", "2 points better (6.5 at the start, 4.5 now, -31 %)"),
        ((8, 8, 7, 5, 3, 3), "better", "5 points better (8 at the start, 3 now, -62 %)"),
        ((6, 7, 6, 6, 6), "no_change", "No real change after 5 visits in 28 days"),
        ((4, 7), "worse", "3 points worse (4 at the start, 7 now, +75 %)"),
        ((2, 2, 2, 1), "no_change", "real would be 2 points or 30 %"),
        ((0, 0, 0, 3, 3), "worse", "3 points worse (0 at the start, 3 now)"),
    ],
)
def test_trends_and_their_sentences(values, trend, says):
    found = change(series(*values))
    assert found.trend == trend
    assert says in found.sentence


def test_sessions_in_quick_succession_are_no_fair_trial():
    assert change(series(8, 6, 4, 2, every=1)).trend == "too_early"


def test_noise_is_told():
    assert "differ by about 2" in change(series(7, 5, 7, 5, 7)).sentence


def test_after_ratings_show_the_session_and_not_the_course():
    ratings = series(7, 7, 7).ratings + series(2, 2, 2, moment="after").ratings
    found = change(Series(ratings=ratings))
    assert found.trend == "no_change"
    assert found.within_session == -5


@given(st.lists(st.integers(0, 10), min_size=1, max_size=20), st.integers(1, 20))
def test_a_mirrored_course_is_judged_the_other_way_round(values, every):
    up, down = change(series(*values, every=every)), change(series(*(10 - v for v in values), every=every))
    assert up.points == pytest.approx(-down.points)
    if up.trend == "better":
        assert down.trend == "worse" or up.points > -2
    assert up.visits == len({START + timedelta(days=n * every) for n in range(len(values))})
    if up.trend in ("better", "no_change"):
        assert up.visits >= FAIR_VISITS
        assert up.days >= FAIR_DAYS


@given(st.lists(st.integers(0, 10), min_size=2, max_size=12))
def test_the_order_of_arrival_does_not_matter(values):
    whole = series(*values)
    assert change(Series(ratings=whole.ratings[::-1])) == change(whole)


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
    done = [
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
    assert (stale.station, stale.due) == ("screening", ("screening is out of date",))
    assert next_step(ready.model_copy(update={"allowed": False})).station == "screening"
    assert next_step(ready.model_copy(update={"treatment": "open", "screening_stale": True})).station == "treat"


DAYS = st.integers(0, 200).map(lambda n: date(2026, 1, 1) + timedelta(days=n))
RATINGS = st.lists(
    st.builds(Rating, on=DAYS, value=st.integers(0, 10), moment=st.sampled_from(["before", "after", "home"])),
    max_size=12,
)


@given(RATINGS)
def test_a_glance_says_what_the_whole_course_says(ratings):
    told = change(Series(ratings=ratings))
    course = sorted((one for one in ratings if one.moment != "after"), key=lambda one: one.on)
    values = [one.value for one in course]
    edges = Edges(
        first=values[:2],
        last=values[-2:],
        count=len(values),
        visits=len({one.on for one in ratings if one.moment == "before"}),
        days=(course[-1].on - course[0].on).days if course else 0,
    )
    assert at_a_glance(edges) == (told.trend, told.start, told.now)
