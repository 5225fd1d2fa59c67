"""What is due without an appointment: planned visits, letters, measures, and screening that is getting old."""

import uuid
from datetime import date, timedelta
from typing import Literal

from pydantic import BaseModel

from acuthesis.core.safety.screening import fresh_until
from acuthesis.services.request.here import Here
from acuthesis.store import booking, people

AHEAD = timedelta(days=7)
# Finger widths and girths change with weight, swelling and pregnancy. Source: general anthropometry.
MEASURES_HOLD = timedelta(days=365)
SEEN_LATELY = timedelta(days=120)  # nobody is asked to do again what concerns somebody who no longer comes


class Due(BaseModel):
    """Something to do for a person. `planned_id` where it is a visit to be booked."""

    kind: Literal["planned_visit", "letter", "measure", "screening"]
    person_id: uuid.UUID
    given_name: str
    family_name: str
    on: date
    words: str
    planned_id: uuid.UUID | None = None
    minutes: int | None = None


def due(here: Here) -> list[Due]:
    """What is due within a week, or overdue, the longest due first."""
    here.reads(None, "what is due")
    until = here.today + AHEAD
    found = [*_planned(here, until), *_letters(here, until), *_of_people(here, until)]
    return sorted(found, key=lambda one: (one.on, one.given_name, one.kind))


def _planned(here: Here, until: date) -> list[Due]:
    return [
        Due(
            kind="planned_visit",
            person_id=person.id,
            given_name=person.given_name,
            family_name=person.family_name,
            on=row.due_on,
            words=f"Visit {row.number} of the series is not booked" + (f": {row.purpose}" if row.purpose else ""),
            planned_id=row.id,
            minutes=row.minutes,
        )
        for row, person in booking.unbooked(here.db, until)
    ]


def _letters(here: Here, until: date) -> list[Due]:
    return [
        Due(
            kind="letter",
            person_id=person.id,
            given_name=person.given_name,
            family_name=person.family_name,
            on=row.answer_due,
            words=f"No reply yet from {row.recipient} about {row.about}",
        )
        for row, person in people.letters_awaited(here.db, until)
        if row.answer_due is not None
    ]


def _of_people(here: Here, until: date) -> list[Due]:
    """Screening and measures of the people who have been here lately or are to come, and have no visit today."""
    found = []
    coming = people.seen_since(here.db, here.day_bounds(here.today - SEEN_LATELY)[0])
    known = here.persons(coming)
    measured = people.last_measured(here.db, coming)
    for id in coming:
        person = known[id]

        def add(kind: Literal["measure", "screening"], on: date, words: str, of: uuid.UUID = id) -> None:
            row = known[of].row
            found.append(
                Due(kind=kind, person_id=of, given_name=row.given_name, family_name=row.family_name, on=on, words=words)
            )

        if person.answered_on is not None:
            last = fresh_until(person.answered_on, person.screening)
            if last <= until:
                add("screening", last, "Screening needs repeating")
        if id in measured:
            again = here.day_of(measured[id]) + MEASURES_HOLD
            if again <= until:
                add("measure", again, "Measurements are a year old")
    return found
