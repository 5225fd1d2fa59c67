"""Read model of a person: who they are, what is measured, and what limits hold today."""

import uuid
from datetime import date, datetime
from typing import Literal

from pydantic import BaseModel

from acuthesis.core.body.person import Fingers, unusual_measures
from acuthesis.core.safety.limits import complaints_out, limit_strip
from acuthesis.core.safety.verdict import Verdict
from acuthesis.services.request.columns import fingers_of
from acuthesis.services.request.known import Known

Sex = Literal["female", "male", "unspecified"]


class MeasureTaken(BaseModel):
    """A length and when it was taken."""

    value_cm: float
    taken_at: datetime


class ThresholdTaken(BaseModel):
    """A measured pressure-pain threshold and when it was taken."""

    n_per_cm2: float
    taken_at: datetime


class PersonOut(BaseModel):
    """A person with the limits that hold today."""

    id: uuid.UUID
    version: int
    given_name: str
    family_name: str
    born: date
    age: int
    sex: Sex
    height_cm: float | None
    weight_kg: float | None
    fingers: Fingers
    breaths_per_minute: float | None
    in_charge: uuid.UUID | None
    archived_at: datetime | None
    measures: dict[str, MeasureTaken]
    thresholds: dict[str, ThresholdTaken]
    unusual: dict[str, str]
    screened_on: date | None
    screening_stale: bool
    verdict: Verdict
    limits: list[str]
    light_sensitive: bool
    not_offered: dict[str, str]  # complaints that are not worked on with them, with the reason


def person_out(known: Known) -> PersonOut:
    """A person as the API gives them."""
    row = known.row
    return PersonOut(
        id=row.id,
        version=row.version,
        given_name=row.given_name,
        family_name=row.family_name,
        born=row.born,
        age=known.age,
        sex=row.sex,
        height_cm=row.height_cm,
        weight_kg=row.weight_kg,
        fingers=fingers_of(row.fingers),
        breaths_per_minute=row.breaths_per_minute,
        in_charge=row.in_charge,
        archived_at=row.archived_at,
        thresholds={
            part: ThresholdTaken(n_per_cm2=one.n_per_cm2, taken_at=one.taken_at)
            for part, one in known.thresholds.items()
            if one.n_per_cm2 is not None
        },
        measures={
            name: MeasureTaken(value_cm=measure.value_cm, taken_at=measure.taken_at)
            for name, measure in known.measures.items()
        },
        unusual=unusual_measures(known.facts) if row.height_cm and known.has_figure else {},
        screened_on=known.answered_on,
        screening_stale=known.stale,
        verdict=known.verdict,
        limits=list(limit_strip(known.screening)),
        light_sensitive=known.screening.light_sensitive,
        not_offered=complaints_out(known.screening),
    )
