"""Validated text fields: no control characters that the database cannot store, and a maximum length."""

from datetime import date
from typing import Annotated

from fastapi import Query
from pydantic import AfterValidator, StringConstraints

EARLIEST = date(1900, 1, 1)
LATEST = date(2200, 1, 1)


def _keepable(value: str) -> str:
    if any((ord(letter) < 32 and letter not in "\n\t") or 0xD800 <= ord(letter) <= 0xDFFF for letter in value):
        raise ValueError("contains a control character that cannot be stored")
    return value


def _sensible(value: date) -> date:
    if not EARLIEST <= value <= LATEST:
        raise ValueError("is not a possible date")
    return value


keepable = AfterValidator(_keepable)
Line = Annotated[str, StringConstraints(min_length=1, max_length=120, strip_whitespace=True), AfterValidator(_keepable)]
LineOrNone = Annotated[str, StringConstraints(max_length=120, strip_whitespace=True), AfterValidator(_keepable)]
Paragraph = Annotated[str, StringConstraints(max_length=4000), AfterValidator(_keepable)]
Day = Annotated[date, AfterValidator(_sensible)]
PoseId = Annotated[str, Query(max_length=20, description="a pose of /atlas/contents")]
