"""What is known of a person (answers, clearances, measures, complaints, ratings), as values of the core."""

import uuid
from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping, Sequence
from datetime import date, datetime
from functools import cached_property
from typing import Any, Protocol, TypeVar

from acuthesis.core.body.person import BodyFacts, figure_fits
from acuthesis.core.compose.knowledge.layer import Layer
from acuthesis.core.safety.clearance import Clearance, holding, raised_since
from acuthesis.core.safety.pressure import calibrated
from acuthesis.core.safety.screening import Screening, is_stale, parse_screening
from acuthesis.core.safety.verdict import Verdict, verdict
from acuthesis.services.request.columns import age_on, body_facts, scale_of
from acuthesis.store import people
from acuthesis.store.database import Db
from acuthesis.store.model import (
    ClearanceRow,
    ComplaintRow,
    MeasureRow,
    PersonRow,
    PractitionerRow,
    ScreeningRow,
    ThresholdRow,
)
from acuthesis.store.people import RatingRead

PersonRowT = TypeVar("PersonRowT", ScreeningRow, ClearanceRow, ThresholdRow, ComplaintRow)


class Surroundings(Protocol):
    """What decides beside the person: whose hands, whose rules, which day it is there."""

    db: Db
    practitioner: PractitionerRow

    @property
    def layer(self) -> Layer:
        """The practice's changes to the shipped knowledge."""

    @property
    def today(self) -> date:
        """The day it is in the practice."""

    def day_of(self, moment: datetime) -> date:
        """The day on which a moment falls there."""


class Known:
    """One person, each part read when it is first asked for (or beforehand, for many persons at once)."""

    def __init__(self, here: Surroundings, row: PersonRow) -> None:
        self.here, self.row = here, row

    @property
    def id(self) -> uuid.UUID:
        """The person's id."""
        return self.row.id

    @property
    def age(self) -> int:
        """Age in whole years today."""
        return age_on(self.row.born, self.here.today)

    @cached_property
    def screenings(self) -> list[ScreeningRow]:
        """All answers ever given, newest first."""
        return people.screenings(self.here.db, [self.id])

    @property
    def answered(self) -> ScreeningRow | None:
        """The newest answers, or None."""
        return self.screenings[0] if self.screenings else None

    @cached_property
    def clearances(self) -> list[ClearanceRow]:
        """What doctors cleared, and what was taken back, oldest first."""
        return people.clearances(self.here.db, [self.id])

    @cached_property
    def _thresholds(self) -> list[ThresholdRow]:
        return people.thresholds(self.here.db, [self.id])

    @property
    def thresholds(self) -> dict[str, ThresholdRow]:
        """The newest measured pressure-pain threshold of each body part; one without a value was taken back."""
        return {row.part: row for row in self._thresholds}

    @cached_property
    def _measures(self) -> list[MeasureRow]:
        return people.measures(self.here.db, [self.id])

    @property
    def measures(self) -> dict[str, MeasureRow]:
        """The newest measure of each length."""
        return {row.name: row for row in self._measures}

    @cached_property
    def complaints(self) -> list[ComplaintRow]:
        """Complaints, oldest first."""
        return people.complaints(self.here.db, [self.id])

    @property
    def open_complaints(self) -> list[ComplaintRow]:
        """Complaints that are not closed."""
        return [row for row in self.complaints if row.closed_on is None]

    @property
    def sides_of_complaints(self) -> dict[str, str]:
        """The side of each open complaint by its kind; the same kind on two sides is on both."""
        found: dict[str, str] = {}
        for row in self.open_complaints:
            found[row.kind] = row.side if found.get(row.kind, row.side) == row.side else "both"
        return found

    @cached_property
    def ratings(self) -> list[RatingRead]:
        """Ratings in order of time."""
        return people.ratings(self.here.db, [self.id])

    @cached_property
    def ratings_of(self) -> Mapping[uuid.UUID, list[RatingRead]]:
        """Ratings by complaint, each in order of time; none for a complaint that was never rated."""
        found: dict[uuid.UUID, list[RatingRead]] = defaultdict(list)
        for rating in self.ratings:
            found[rating.complaint_id].append(rating)
        return found

    @cached_property
    def screening(self) -> Screening:
        """The newest answers as the core reads them today, with everything else that decides."""
        return self.screening_from(self.answered)

    def screening_from(self, answered: ScreeningRow | None) -> Screening:
        """Answers of one screening as the core reads them today; none if there are none.

        With them: age and measured thresholds, what a doctor cleared, the practice's own rules, and the levels of
        whoever presses.
        """
        screening = parse_screening(
            answered.answers if answered else {},
            self.age,
            {part: one.n_per_cm2 for part, one in self.thresholds.items() if one.n_per_cm2 is not None},
            house=self.here.layer.rules,
            pressure=calibrated(scale_of(self.here.practitioner)),
            sex=self.row.sex,  # type: ignore[arg-type]  # the database checks it
            complaints=self.sides_of_complaints,
        )
        if not self.clearances:
            return screening
        given = [clearance_from(clearance) for clearance in self.clearances]
        history = [(one.answered_at, screening.model_copy(update=_answers_of(one))) for one in self.screenings]
        lifted = holding(given, raised_since(history), self.here.today)
        return screening.model_copy(update={"cleared": (*screening.cleared, *lifted)})

    @property
    def answered_on(self) -> date | None:
        """The day on which all questions were last asked, by the practice's clock; None where they never were."""
        whole = next((one for one in self.screenings if one.in_full), None)
        return self.here.day_of(whole.answered_at) if whole else None

    @property
    def stale(self) -> bool:
        """Whether there are answers that are too old to work on."""
        return self.answered_on is not None and is_stale(self.answered_on, self.here.today, self.screening)

    @cached_property
    def verdict(self) -> Verdict:
        """Whether there may be a session."""
        return verdict(self.screening)

    @property
    def has_figure(self) -> bool:
        """Whether distances on the figure are this person's. Of small children the smallest figure is shown, of their
        height; what rules keep free goes by named places then.
        """
        return figure_fits(self.age)

    @property
    def facts(self) -> BodyFacts:
        """What the figure is fitted to: the nearest age for which there is one."""
        measured = {name: one.value_cm for name, one in sorted(self.measures.items())}
        return body_facts(self.row, self.age, measured)


def clearance_from(row: ClearanceRow) -> Clearance:
    """A clearance as the core reads it."""
    return Clearance(**{name: getattr(row, name) for name in Clearance.model_fields})


def _answers_of(row: ScreeningRow) -> dict[str, Any]:
    read = parse_screening(row.answers)
    return {"answers": read.answers, "cleared": read.cleared}


def known_of(here: Surroundings, ids: Sequence[uuid.UUID]) -> dict[uuid.UUID, Known]:
    """Several persons with all that a list shows of them, one statement a table."""
    found = {row.id: Known(here, row) for row in people.persons(here.db, ids)}

    def shared_out(rows: Iterable[PersonRowT], keep: Callable[[Known, list[PersonRowT]], None]) -> None:
        by_person: dict[uuid.UUID, list[PersonRowT]] = defaultdict(list)
        for row in rows:
            by_person[row.person_id].append(row)
        for id, known in found.items():
            keep(known, by_person[id])

    db, asked = here.db, list(found)
    shared_out(people.screenings(db, asked), lambda known, rows: setattr(known, "screenings", rows))
    shared_out(people.clearances(db, asked), lambda known, rows: setattr(known, "clearances", rows))
    shared_out(people.thresholds(db, asked), lambda known, rows: setattr(known, "_thresholds", rows))
    shared_out(people.complaints(db, asked), lambda known, rows: setattr(known, "complaints", rows))
    return found
