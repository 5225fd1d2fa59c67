"""Lists out and in: what somebody kept is read whole, each row once, with a reason where it cannot be."""

import csv
import io
from datetime import UTC, date, datetime, time

import pytest
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.errors import CoreError
from acuthesis.exchange.course_csv import (
    COLUMNS,
    DAYS,
    MOST_ROWS,
    Columns,
    CsvRating,
    ratings_csv,
    read_rows,
    read_table,
)

TODAY = date(2026, 11, 27)
PLAIN = Columns(day="Day", value="Pain", time=None, order="year_first")
days = st.dates(date(1990, 1, 1), TODAY)
cells = st.text(st.characters(blacklist_categories=("Cs", "Cc")), max_size=12)


@given(
    st.lists(st.tuples(days, st.integers(0, 10)), min_size=1, max_size=30),
    st.sampled_from(tuple(DAYS)),
    st.sampled_from((",", ";", "\t")),
    st.booleans(),
)
def test_a_list_that_is_written_in_any_of_the_usual_ways_is_read_as_it_was(kept, order, separator, marked):
    written = [f"Day{separator}Pain", *(f"{day.strftime(DAYS[order])}{separator}{value}/10" for day, value in kept)]
    text = ("\ufeff" if marked else "") + "\r\n".join(written)
    told, refused = read_rows(read_table(text), Columns("Day", "Pain", None, order), TODAY)
    assert refused == []
    assert [(one.day, one.value, one.at) for one in told] == [(day, value, time(12)) for day, value in kept]


@given(st.lists(st.tuples(cells, cells, cells), min_size=1, max_size=20))
def test_every_row_is_read_or_refused_with_a_reason_and_none_twice(rows):
    out = io.StringIO()
    csv.writer(out).writerows([("Day", "Pain", "At"), *rows])
    table = read_table(out.getvalue())
    told, refused = read_rows(table, Columns("Day", "Pain", "At", "day_first"), TODAY)
    numbers = sorted([one.number for one in told] + [one.number for one in refused])
    assert numbers == list(range(1, len(table.rows) + 1))
    assert all(one.why for one in refused)
    assert all(one.day <= TODAY and 0 <= one.value <= 10 for one in told)


@pytest.mark.parametrize(
    ("cell", "why"),
    [
        ("2026-11-28;4", "is in the future"),
        ("1949-01-01;4", "too far in the past"),
        ("2026-02-30;4", "is not a date"),
        ("last week;4", "is not a date"),
        ("2026-11-01;11", "not a whole number from 0 to 10"),
        ("2026-11-01;4.5", "not a whole number from 0 to 10"),
        ("2026-11-01;-1", "not a whole number from 0 to 10"),
        ("2026-11-01", "not a whole number from 0 to 10"),
    ],
)
def test_what_cannot_be_says_why(cell, why):
    told, (refused,) = read_rows(read_table(f"Day;Pain\n{cell}"), PLAIN, TODAY)
    assert told == [] and why in refused.why and refused.number == 1


def test_times_are_read_with_and_without_a_nought():
    table = read_table("Day,Time,Pain\n2026-11-01,7:05,3\n2026-11-01,19:30,4\n2026-11-01,,5\n2026-11-01,late,6")
    told, (refused,) = read_rows(table, Columns("Day", "Pain", "Time", "year_first"), TODAY)
    assert [one.at for one in told] == [time(7, 5), time(19, 30), time(12)]
    assert "is not a time" in refused.why


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("  \n ", "is empty"),
        ("one column\n4", "two to forty"),
        ("Day;Day\n1;2", "same head"),
        (";".join(f"c{n}" for n in range(41)), "two to forty"),
        ("Day;Pain\n" + "2026-01-01;4\n" * (MOST_ROWS + 1), f"at most {MOST_ROWS}"),
    ],
)
def test_what_is_no_list_is_refused_whole(text, why):
    with pytest.raises(CoreError, match=why):
        read_table(text)


def test_columns_are_suggested_by_their_heads_and_a_wrong_one_is_named():
    table = read_table("When,Hour,Back pain (0-10),Notes\n2026-11-01,8:00,4,rain")
    assert table.suggested == {"day": "When", "time": "Hour", "value": "Back pain (0-10)"}
    with pytest.raises(CoreError, match="There is no column “Day”"):
        read_rows(table, PLAIN, TODAY)


@given(st.lists(st.tuples(cells, cells), max_size=8))
def test_a_table_that_goes_out_holds_no_formula_and_every_row(words):
    at = datetime(2026, 11, 27, 9, 30, tzinfo=UTC)
    rows = [CsvRating(at, complaint, act, 4, "before", "person") for complaint, act in words]
    head, *out = csv.reader(io.StringIO(ratings_csv(rows)))
    assert tuple(head) == COLUMNS and len(out) == len(rows)
    for (complaint, act), told in zip(words, out, strict=True):
        assert not any(cell[:1] in ("=", "+", "-", "@", "\t") for cell in told)
        assert (told[2].removeprefix("'"), told[3].removeprefix("'")) == (
            complaint.removeprefix("'"),
            act.removeprefix("'"),
        )
