"""What is heard and said about a course, word for word: expected by hand from the sentences, not from the code."""

from datetime import date, timedelta

import pytest

from acuthesis.core.follow.carry_over import in_days, in_points
from acuthesis.core.follow.episodes import EpisodeEntry, Rate, episodes_over, rate_ratio
from acuthesis.core.follow.needed import needed
from acuthesis.core.follow.told import episodes_told
from acuthesis.core.message import message
from tests.saying import said

WEDNESDAY = date(2026, 3, 11)
MARCH = {f"{day}": date(2026, 3, day) for day in range(1, 12)}


@pytest.mark.parametrize(
    ("said", "heard"),
    [
        ("strength 7 yesterday", [("10", True, 7)]),
        ("Strength 7 last night", [("10", True, 7)]),
        ("an attack on Monday", [("9", True, None)]),
        ("one", [("8", False, None)]),
        ("none at all", []),
        ("nothing to tell", []),
        ("two last week, the worst on Tuesday, 6/10", [("3", True, 6), ("6", False, None)]),
        ("two last week, the worst one was on Tuesday", [("3", True, None), ("6", False, None)]),
        ("every day this week", [("9", False, None), ("10", False, None), ("11", False, None)]),
        ("4 in the last 10 days", [("2", False, None), ("5", False, None), ("8", False, None), ("11", False, None)]),
        ("a few, the worst today, 9 of 10", [("5", False, None), ("10", False, None), ("11", True, 9)]),
        ("twice, 12 of 10", [("5", False, None), ("11", False, None)]),
        ("Monday, Tuesday and two more", [("9", True, None), ("10", True, None)]),
        ("5 out of 10 on Sunday and Monday", [("8", True, 5), ("9", True, 5)]),
    ],
)
def test_episodes_are_heard_as_they_are_told(said, heard):
    told = episodes_told(said, WEDNESDAY)
    assert [(one.day, one.day_said, one.strength) for one in told] == [(MARCH[d], is_, s) for d, is_, s in heard]
    worst = [one.day for one in told if one.worst]
    assert worst == (
        [MARCH["3"]] if "Tuesday" in said and "worst" in said else [MARCH["11"]] if "worst" in said else []
    )


def rate(count, weeks, per_week):
    return Rate(count=count, weeks=weeks, per_week=per_week, hours=None, strength=None)


def test_rates_are_compared_only_where_both_times_are_long_enough_and_something_happened():
    assert rate_ratio(rate(3, 0.4, None), rate(2, 4, 0.5)) is None
    assert rate_ratio(rate(3, 4, 0.75), rate(2, 0.4, None)) is None
    assert rate_ratio(rate(0, 4, 0.0), rate(0, 4, 0.0)) is None
    assert rate_ratio(rate(4, 4, 1.0), rate(2, 4, 0.5)).middle == pytest.approx(0.5)


FIRST = date(2026, 1, 1)


def over(episodes, days, began, today):
    entries = [EpisodeEntry(on=FIRST + timedelta(days=day)) for day in episodes]
    kept = [FIRST + timedelta(days=day) for day in days]
    return episodes_over(entries, kept, FIRST + timedelta(days=began), FIRST + timedelta(days=today))


def test_what_became_of_episodes_is_said_and_silence_is_no_good_week():
    kept = range(43)
    fewer = said(over((1, 3, 6, 8, 11, 13, 25, 40), kept, 14, 42).sentence)
    assert (
        fewer.startswith("Fewer: 3.0 per week before the first session, 0.5 since (16% of the earlier rate")
        and "not counted" not in fewer
    )
    assert said(over((), kept, 14, 42).sentence) == "No episodes recorded."
    assert said(over((1, 20), kept, 14, 42).sentence).startswith("Not clear yet: 0.5 per week before")
    assert said(over((2,), range(3), 40, 3).sentence).startswith(
        "1 episode so far. A comparison needs a week of entries before"
    )
    more = over((3, *range(15, 43)), kept, 14, 42)
    assert said(more.sentence).startswith("More: 0.5 per week before the first session, 6.8 since (13.5 times")
    gap = over((1, 3, 6, 8, 11, 13, 40), [*range(15), *range(38, 43)], 14, 42)
    assert said(gap.sentence).endswith(
        "Periods without entries are not counted: they may have been good, or not recorded."
    )
    assert [(one.first, one.last) for one in gap.silent] == [(FIRST + timedelta(days=28), FIRST + timedelta(days=37))]


def test_episodes_that_come_in_clusters_are_told_from_steady_ones():
    steady = [week * 7 + 3 for week in range(8)]
    bunch = [0, 1, 2, 3, 4, 5, 6, 48]
    assert not over(steady, range(57), 28, 56).clustered
    assert over(bunch, range(57), 28, 56).clustered
    assert not over(bunch[:5], range(57), 28, 56).clustered, "five are too few to say so"


def test_how_many_more_ratings_is_said_with_a_plan():
    plans = {needed(scatter, 4, 3).more: needed(scatter, 4, 3) for scatter in (0.75, 0.8, 0.85, 0.9, 1.0, 1.2)}
    for more, plan in plans.items():
        if more == 0:
            assert plan.enough and "enough ratings" in said(plan.plan)
            continue
        weeks = (more + 1) // 2
        assert plan.weeks == weeks and not plan.enough
        words = said(plan.plan)
        assert words.endswith("Ask on Mondays and Thursdays for a week." if weeks == 1 else f"for {weeks} weeks.")
        assert ("1 more is needed" if more == 1 else f"{more} more are needed") in words
    assert len(plans) >= 3


def test_points_days_and_ranges_in_words():
    assert said(message("end-of-interval", points=-0.4)) == "−0.4"
    assert [said(in_points(value)) for value in (1.04, 2.0, 0.5)] == ["1 point", "2 points", "0.5 points"]
    assert [said(in_days(value)) for value in (0.04, 0.5, 1.0, 1.3, 3.4)] == [
        "an hour",
        "12 hours",
        "a day",
        "1.5 days",
        "3 days",
    ]


def test_the_ratio_of_rates_is_that_of_the_rates_that_are_told():
    found = over((3, *range(15, 43)), range(43), 14, 42)
    assert found.ratio.middle == pytest.approx(found.since.per_week / found.before.per_week)
