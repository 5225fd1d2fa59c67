"""Ratings as a table for other programs: one row a rating, days and hours by the practice's clock."""

import csv
import io
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

COLUMNS = ("day", "time", "complaint", "act", "value", "moment", "said_by")


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
        writer.writerow([f"{row.at:%Y-%m-%d}", f"{row.at:%H:%M}", *(_plain(one) for one in words)])
    return told.getvalue()


def _plain(words: str) -> str:
    return f"'{words}" if words[:1] in ("=", "+", "-", "@", "\t") else words
