"""Maps columns of a person and of a practitioner to values of the core."""

from datetime import date
from typing import Any

from acuthesis.core.body.person import BodyFacts, Fingers, usual_height_cm
from acuthesis.store.model import PersonRow, PractitionerRow


def scale_of(row: PractitionerRow) -> dict[int, float]:
    """What a kitchen scale showed (g) under a practitioner's thumb, by level."""
    return {int(level): grams for level, grams in row.scale_g.items()}


def age_on(born: date, day: date) -> int:
    """Age in whole years."""
    return day.year - born.year - ((day.month, day.day) < (born.month, born.day))


def body_facts(row: PersonRow, age: int, measures_cm: dict[str, float]) -> BodyFacts:
    """What the figure is fitted to; with no height yet, an average one for the sex."""
    return BodyFacts(
        sex=row.sex,
        age=min(max(age, 12), 105),
        height_cm=row.height_cm or usual_height_cm(row.sex),  # type: ignore[arg-type]  # the database checks it
        weight_kg=row.weight_kg,
        measures_cm=measures_cm,
        fingers=fingers_of(row.fingers),
    )


def fingers_of(widths: dict[str, Any]) -> Fingers:
    """Finger widths from their column."""
    return Fingers(**{name: widths.get(name) for name in Fingers.model_fields})
