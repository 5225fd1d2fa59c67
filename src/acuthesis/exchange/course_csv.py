"""Ratings as CSV, export and import, in the practice's time zone."""

import csv
import io
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, time
from typing import Literal

from acuthesis.core.errors import CoreError
from acuthesis.core.message import message

COLUMNS = ("day", "time", "complaint", "act", "value", "moment", "said_by")


MOST_ROWS = 5000
MOST_COLUMNS = 40
SEPARATORS = ",;\t"
DAYS = {"year_first": "%Y-%m-%d", "day_first": "%d/%m/%Y", "month_first": "%m/%d/%Y"}
DayOrder = Literal["year_first", "day_first", "month_first"]
# How people head such columns; the first column whose head has the word is suggested.
HEADS = {
    "day": ("day", "date", "when"),
    "time": ("time", "hour", "clock"),
    "value": ("value", "rating", "pain", "score", "0-10"),
}
EARLIEST_YEAR = 1950


@dataclass(frozen=True)
class CsvRating:
    """One row; `act` is empty for a rating of the complaint itself."""

    at: datetime
    complaint: str
    act: str
    value: int
    moment: str
    said_by: str


def ratings_csv(rows: Iterable[CsvRating]) -> str:
    """The table with its head. What a spreadsheet would take for a formula is kept a text.

    >>> row = CsvRating(datetime(2026, 3, 1, 9, 30), "Knee pain", "=stairs", 6, "before", "person")
    >>> print(ratings_csv([row]).splitlines()[1])
    2026-03-01,09:30,Knee pain,'=stairs,6,before,person
    """
    told = io.StringIO()
    writer = csv.writer(told)
    writer.writerow(COLUMNS)
    for row in rows:
        words = (row.complaint, row.act, str(row.value), row.moment, row.said_by)
        writer.writerow([f"{row.at:%Y-%m-%d}", f"{row.at:%H:%M}", *(_plain(word) for word in words)])
    return told.getvalue()


def _plain(words: str) -> str:
    return f"'{words}" if words[:1] in ("=", "+", "-", "@", "\t") else words


@dataclass(frozen=True)
class Table:
    """A list as somebody keeps it: the heads of its columns, its rows, and which columns are likely meant."""

    heads: list[str]
    rows: list[list[str]]
    suggested: dict[str, str]


@dataclass(frozen=True)
class Columns:
    """Which column is what, by its head; and how days are written."""

    day: str
    value: str
    time: str | None
    order: DayOrder


@dataclass(frozen=True)
class ReadRow:
    """One row as it is understood: `number` counts from the first below the heads."""

    number: int
    day: date
    at: time
    value: int


@dataclass(frozen=True)
class RefusedRow:
    """One row that cannot be, and why."""

    number: int
    why: str


def read_table(text: str) -> Table:
    """A list out of a file's text, separated by commas, semicolons or tabs. Raises: CoreError for what is none.

    >>> read_table("date,value\\n2026-03-01,5\\n").rows[0]
    ['2026-03-01', '5']
    """
    plain = text.removeprefix("\ufeff").strip()
    if not plain:
        raise CoreError(message("course-csv-file-empty"), where="text")
    first = plain.splitlines()[0]
    separator = max(SEPARATORS, key=first.count)
    try:
        lines = [
            row for row in csv.reader(io.StringIO(plain), delimiter=separator) if any(cell.strip() for cell in row)
        ]
    except csv.Error as error:
        raise CoreError(message("course-csv-file-cannot-read-as-table", error=error), where="text") from error
    heads = [cell.strip() for cell in lines[0]]
    if len(heads) < 2 or len(heads) > MOST_COLUMNS:
        raise CoreError(message("course-csv-table-needs-header-row-two"), where="text")
    if len(set(heads)) < len(heads):
        raise CoreError(message("course-csv-two-columns-have-same-heading"), where="text")
    if len(lines) - 1 > MOST_ROWS:
        raise CoreError(
            message("course-csv-there-rows-at-most-imported", count=len(lines) - 1, most_rows=MOST_ROWS), where="text"
        )
    return Table(heads=heads, rows=lines[1:], suggested=_suggested(heads))


def _suggested(heads: list[str]) -> dict[str, str]:
    found: dict[str, str] = {}
    for meant, words in HEADS.items():
        for head in heads:
            if any(word in head.lower() for word in words) and head not in found.values():
                found[meant] = head
                break
    return found


def read_rows(table: Table, columns: Columns, today: date) -> tuple[list[ReadRow], list[RefusedRow]]:
    """Rows as they are understood, and those that cannot be with why. Raises: CoreError for a column that is not there.

    >>> table = read_table("Date;Pain\\n1/3/2026;6\\n2/3/2026;a lot")
    >>> told, refused = read_rows(table, Columns("Date", "Pain", None, "day_first"), date(2026, 4, 1))
    >>> [(one.day.isoformat(), one.value) for one in told], [(one.number, one.why) for one in refused]
    ([('2026-03-01', 6)], [(2, '“a lot” is not a whole number from 0 to 10')])
    """
    for head in (columns.day, columns.value, columns.time):
        if head is not None and head not in table.heads:
            raise CoreError(message("course-csv-there-no-column", head=head), where="columns")
    told, refused = [], []
    for number, row in enumerate(table.rows, start=1):
        cells = dict(zip(table.heads, (cell.strip() for cell in row), strict=False))
        try:
            told.append(
                ReadRow(
                    number=number,
                    day=_day(cells.get(columns.day, ""), columns.order, today),
                    at=_clock(cells.get(columns.time, "") if columns.time else ""),
                    value=_value(cells.get(columns.value, "")),
                )
            )
        except ValueError as error:
            refused.append(RefusedRow(number, str(error)))
    return told, refused


def _day(text: str, order: DayOrder, today: date) -> date:
    plain = text.replace(".", "-" if order == "year_first" else "/").split(" ")[0].split("T")[0]
    plain = plain.replace("/", "-") if order == "year_first" else plain.replace("-", "/")
    try:
        found = datetime.strptime(plain, DAYS[order]).date()  # noqa: DTZ007 - only the day of it
    except ValueError as error:
        raise ValueError(f"“{text}” is not a date") from error
    if found > today:
        raise ValueError(f"{text} is in the future")
    if found.year < EARLIEST_YEAR:
        raise ValueError(f"{text} is too far in the past")
    return found


def _clock(text: str) -> time:
    if not text:
        return time(12)
    try:
        return time.fromisoformat(text if len(text.split(":")[0]) == 2 else f"0{text}")
    except ValueError as error:
        raise ValueError(f"“{text}” is not a time, such as 18:30") from error


def _value(text: str) -> int:
    plain = text.removesuffix("/10").strip()
    if not plain.isdigit() or int(plain) > 10:
        raise ValueError(f"“{text}” is not a whole number from 0 to 10")
    return int(plain)
