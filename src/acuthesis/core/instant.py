"""Moments from outside: with a time zone, and no farther away than a person's life."""

from datetime import UTC, datetime
from typing import Annotated

from pydantic import AfterValidator, AwareDatetime

# A device whose clock was reset says 1970. Nearer to the ends of the calendar, arithmetic with zones overflows.
EARLIEST = datetime(1900, 1, 1, tzinfo=UTC)
LATEST = datetime(2200, 1, 1, tzinfo=UTC)


def _possible(value: datetime) -> datetime:
    try:
        within = EARLIEST <= value <= LATEST
    except OverflowError:
        within = False
    if not within:
        raise ValueError(f"is not between {EARLIEST.year} and {LATEST.year}")
    return value


Instant = Annotated[AwareDatetime, AfterValidator(_possible)]
