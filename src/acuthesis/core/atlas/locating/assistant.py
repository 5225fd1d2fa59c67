"""What to measure next: the length that would reduce the uncertainty of the wanted points most."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace

from pydantic import BaseModel

from acuthesis.core.atlas.entries.model import Point
from acuthesis.core.atlas.locating import trust
from acuthesis.core.body.catalogue import segments
from acuthesis.core.body.fit import FittedBody
from acuthesis.core.body.person import FINGER_HOW, FINGER_RANGE_CM, BodyMeasure, Fingers, body_measures

LEAST_GAIN_CM = 0.02


class WorthMeasuring(BaseModel):
    """A measure not taken yet: the points whose place it would make surer, and their mean ring before and after, cm."""

    id: str
    name: str
    how: str
    points: list[str]
    ring_cm: float
    ring_then_cm: float
    gain_cm: float


def worth_measuring(points: Sequence[Point], body: FittedBody) -> list[WorthMeasuring]:
    """Measures that are missing, the most useful first; `gain_cm` is what all rings together would lose.

    A length is imagined to be measured as the figure has it: the place stays, only what is known of it grows.
    """
    concerned: dict[str, list[Point]] = defaultdict(list)
    for point in points:
        for measure in {id for method in point.methods for id in trust.measures_behind(method.place)}:
            concerned[measure].append(point)
    counted = {point.id: point for missing in concerned.values() for point in missing}.values()
    places = {point.id: [body.places.at(method.place, "left") for method in point.methods] for point in counted}
    rings = {point.id: trust.judge(point, places[point.id], body, "left").uncertainty_cm for point in counted}
    found = []
    for id, name, how, imagined in _candidates(body):
        then = {
            point.id: trust.judge(point, places[point.id], imagined, "left").uncertainty_cm for point in concerned[id]
        }
        surer = [one for one in then if rings[one] - then[one] > LEAST_GAIN_CM]
        if not surer:
            continue
        before, after = (sum(table[one] for one in surer) / len(surer) for table in (rings, then))
        found.append(
            WorthMeasuring(
                id=id,
                name=name,
                how=how,
                points=surer,
                ring_cm=round(before, 2),
                ring_then_cm=round(after, 2),
                gain_cm=round((before - after) * len(surer), 2),
            )
        )
    return sorted(found, key=lambda row: -row.gain_cm)


def _candidates(body: FittedBody) -> list[tuple[str, str, str, FittedBody]]:
    facts = body.facts
    rows = []
    for measure in body_measures().values():
        if measure.segment is not None and measure.id not in facts.measures_cm:
            length = body.places.segment(measure.segment, "left").length_cm
            known = facts.model_copy(update={"measures_cm": {**facts.measures_cm, measure.id: length}})
            rows.append((measure.id, measure.name, how_to(measure), replace(body, facts=known)))
    missing = {name: body.places.fingers_cm[name] for name in FINGER_RANGE_CM if name not in facts.fingers.measured()}
    for name, width in missing.items():
        # Not validated: the imagined width is the figure's, and what is there already may be unusual.
        fingers = Fingers.model_construct(**{**facts.fingers.model_dump(), name: width})
        known = facts.model_copy(update={"fingers": fingers})
        shown = name.replace("_", " ").capitalize()
        rows.append((name, shown, FINGER_HOW, replace(body, facts=known)))
    return rows


def how_to(measure: BodyMeasure) -> str:
    """What the hand with the tape does for a measure of measures.yaml, one or two sentences; the screens show them.

    >>> how_to(body_measures()["forearm"])
    'Palm up: from the elbow crease to the wrist crease, over the middle.'
    """
    return measure.how or (segments()[measure.segment].how if measure.segment else "")
