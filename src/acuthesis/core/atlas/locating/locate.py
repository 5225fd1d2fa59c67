"""Locates a point or area on one person: the place, the distances, the fingers, the words, the cautions."""

from collections.abc import Mapping
from typing import Literal

import numpy as np
from pydantic import BaseModel, Field

from acuthesis.core.atlas.areas.on_body import areas_on_body, filled
from acuthesis.core.atlas.areas.walk import walk
from acuthesis.core.atlas.entries.catalogue import source_of, surfaces
from acuthesis.core.atlas.entries.cross_section import TissueSection, cross_section
from acuthesis.core.atlas.entries.model import Area, Contact, Point
from acuthesis.core.atlas.locating import trust, wording
from acuthesis.core.atlas.locating.ways import LandmarkDistance, triples, way_to
from acuthesis.core.body import catalogue
from acuthesis.core.body.construct import Around, Beside, FingerSpan, OnArc, OnLine, Place
from acuthesis.core.body.figure import Side, Vector, other_side, unit
from acuthesis.core.body.fit import FittedBody
from acuthesis.core.body.frames import direction, frame_of
from acuthesis.core.body.places import MIRROR
from acuthesis.core.body.pose import Posed, posture
from acuthesis.core.reason import Reason
from acuthesis.core.words import region_words

AGREE_CUN = 0.4  # methods farther apart than this disagree; the brief of the method, see docs/guide/locating.md

MOST_LEVEL = 5  # the hardest there is; what holds on a person is the business of safety

Triple = tuple[float, float, float]


class SegmentUsed(BaseModel):
    """The proportional segment a point counts in, on this person."""

    id: str
    from_: str = Field(serialization_alias="from")
    to: str
    cun: float
    length_cm: float
    cun_cm: float
    measured: bool
    path_cm: list[Triple]


class AcrossUsed(BaseModel):
    """How far beside the midline a point lies: cun of a width segment, and that distance on this person."""

    segment: str
    cun: float
    cun_cm: float
    distance_cm: float


class MethodPlace(BaseModel):
    """Where one method leads, how far that is from the first, how exact it is on this person, and why."""

    name: str
    position_cm: Triple
    off_cm: float
    agrees: bool
    error_cm: float
    trusted: bool
    why: str


class AlternativePlace(BaseModel):
    """Where the same point lies by another teaching, and how far that is from the place that is drawn."""

    id: str
    name: str
    school: str
    position_cm: Triple
    off_cm: float


class FingerCheck(BaseModel):
    """A finger rule as a check: the wanted distance is `cun`, the hand's is `own_cm`; the error is theirs minus it."""

    span: FingerSpan
    cun: float
    wanted_cm: float
    own_cm: float
    practitioner_cm: float | None
    error_cm: float
    own_measured: bool


class PressAs(BaseModel):
    """Direction of pressure (unit vector in body coordinates), what presses, and how hard at most."""

    toward: str
    vector: Triple
    contact: Contact
    support: str
    max_level: int
    max_level_reasons: list[str]


class Located(BaseModel):
    """A point or area on one side of one person; `acuthesis locate --json` prints it, its id as `point`."""

    id: str
    kind: Literal["point", "area"]
    side: Side
    name: str
    romanised: str
    characters: str
    region: str
    position_cm: Triple
    normal: Triple
    landmarks: dict[str, Triple]
    landmark_names: dict[str, str]
    segment: SegmentUsed | None
    level_cun: float | None  # from the segment's first end
    counted_cun: float | None = None  # what the rule counts, from its own landmark
    across: AcrossUsed | None
    methods: list[MethodPlace]
    alternatives: list[AlternativePlace] = []
    posture: str = ""  # in which the standard looks for it; empty where any will do
    under: TissueSection | None = None  # what lies under it, as a schematic cross-section
    fingers: list[FingerCheck]
    uncertainty_cm: float
    steps: list[str]
    step_landmarks: list[str | None]  # what each step asks to find; None where it leads to the place itself
    feel: str
    press: PressAs
    cautions: list[str]
    source: str  # what the entry rests on, in a few words
    refused: Reason | None
    outline_cm: list[Triple]
    fill_cm: list[Triple]  # the area's skin as triangles, three corners each
    area_cm2: float | None
    walk_cm: list[Triple] = []  # the way of a thumb along an area, from end to end
    way: LandmarkDistance | None = None


def triple(vector: Vector) -> Triple:
    """A place as three numbers, rounded to a tenth of a millimetre."""
    x, y, z = (round(float(value), 4) for value in vector)
    return x, y, z


def locate(
    target: Point | Area,
    side: Side,
    body: FittedBody,
    practitioner: Mapping[FingerSpan, float] | None = None,
) -> Located:
    """Locate a target on one side of one person's body; what must not be done there is not its concern.

    Parameters: target, a point or area of the atlas; body, fitted to the person (cm, x to their left, y up, z forward);
    practitioner, widths of their own fingers (cm), for the checks.
    Returns the place with its distances, methods, finger checks and words; `refused` is None and `max_level` the
    hardest there is (see `acuthesis.core.safety.located` for this person's limits).
    Raises: CoreError if the rule cannot be followed on this body.
    """
    if isinstance(target, Area):
        return _locate_area(target, side, body)
    return _locate_point(target, side, body, practitioner or {})


def with_way(found: Located, target: Point | Area, body: FittedBody) -> Located:
    """The same with the way over the skin from its landmark; that takes some 20 ms, so not every place needs it."""
    if isinstance(target, Area):
        return found
    return found.model_copy(update={"way": way_to(target, found.side, body)})


def _segment(point: Point, body: FittedBody, side: Side) -> SegmentUsed | None:
    used = catalogue.segment_of(point.methods[0].place)
    if used is None:
        return None
    on_body = body.places.segment(used, side)
    return SegmentUsed(
        id=used,
        from_=on_body.segment.start,
        to=on_body.segment.end,
        cun=on_body.segment.cun,
        length_cm=round(on_body.length_cm, 3),
        cun_cm=round(on_body.cun_cm, 4),
        measured=body.is_measured(used),
        path_cm=[triple(place) for place in on_body.path],
    )


def _landmarks(point: Point, segment: SegmentUsed | None, body: FittedBody, side: Side) -> dict[str, Triple]:
    names = [name for method in point.methods for name in catalogue.mentioned(method.place)]
    if segment is not None:
        names += [catalogue.bare(segment.from_), catalogue.bare(segment.to)]
    return {name: triple(body.places.landmark(name, side)) for name in dict.fromkeys(names)}


def _locate_point(point: Point, side: Side, body: FittedBody, practitioner: Mapping[FingerSpan, float]) -> Located:
    places = [body.places.on_side(method.place, side) for method in point.methods]
    segment = _segment(point, body, side)
    cun_cm = segment.cun_cm if segment else body.places.fingers_cm["thumb_width"]
    level = _level(point.methods[0].place, body, side)
    across = _across(point.methods[0].place, body, side)
    judged = trust.judge(point, places, body, side)
    normal = body.figure.normals_at(places[0][None])[0]
    steps = wording.steps(point, body.places, side)
    return Located(
        id=point.id,
        kind="point",
        side=side,
        name=point.names.english,
        romanised=point.names.romanised,
        characters=point.names.characters,
        region=region_words(point.region),
        position_cm=triple(places[0]),
        normal=triple(normal),
        landmarks=_landmarks(point, segment, body, side),
        landmark_names={name: catalogue.landmarks()[name].name for name in _landmarks(point, segment, body, side)},
        segment=segment,
        level_cun=None if level is None else round(level, 4),
        counted_cun=_count(point.methods[0].place),
        across=across,
        methods=[
            MethodPlace(
                name=method.name,
                position_cm=triple(place),
                off_cm=round(float(np.linalg.norm(place - places[0])), 2),
                agrees=bool(np.linalg.norm(place - places[0]) <= AGREE_CUN * cun_cm),
                error_cm=round(one.error_cm, 2),
                trusted=one is judged.best,
                why=one.why,
            )
            for method, place, one in zip(point.methods, places, judged.methods, strict=True)
        ],
        alternatives=_alternatives(point, places[0], body, side),
        posture=posture(point.id),
        under=cross_section(point),
        fingers=_finger_checks(point, across.cun_cm if across else cun_cm, body, practitioner),
        uncertainty_cm=judged.uncertainty_cm,
        steps=steps,
        step_landmarks=[getattr(step, "landmark", None) for step in steps],
        feel=point.feel,
        press=PressAs(
            toward=point.press.words,
            vector=triple(press_vector(point, places[0], side, body)),
            contact=point.press.contact,
            support=point.press.support,
            max_level=MOST_LEVEL,
            max_level_reasons=[],
        ),
        cautions=[f"Nearby: {danger}." for danger in point.dangers],
        source=source_of(point).words,
        refused=None,
        outline_cm=[],
        fill_cm=[],
        area_cm2=None,
    )


def _alternatives(point: Point, here: Vector, body: FittedBody, side: Side) -> list[AlternativePlace]:
    places = [body.places.on_side(one.place, side) for one in point.alternatives]
    return [
        AlternativePlace(
            id=one.id,
            name=one.name,
            school=one.school,
            position_cm=triple(place),
            off_cm=round(float(np.linalg.norm(place - here)), 2),
        )
        for one, place in zip(point.alternatives, places, strict=True)
    ]


def press_vector(point: Point, place: Vector, side: Side, body: FittedBody) -> Vector:
    """Unit vector (3,) along which to press at a point that lies at `place` (3,) cm on the skin."""
    frame = {**frame_of(body.figure, point.press.part, side), "inward": -body.figure.facing(place)}
    return direction(frame, point.press.toward)


def _level(place: Place, body: FittedBody, side: Side) -> float | None:
    """How far the place lies from the segment's first end, in cun; None where it counts in nothing."""
    counted = catalogue.counted(place)
    used = catalogue.segment_of(place)
    if counted is None or used is None:
        return None
    return body.places.segment(used, side).level_cun(body.places.at(counted, side))


def _count(place: Place) -> float | None:
    """What a rule counts from its landmark; along a tape over the head, from the end that is nearer."""
    counted = catalogue.counted(place)
    if isinstance(counted, OnArc):
        return min(counted.cun, catalogue.segments()[counted.arc].cun - counted.cun)
    return counted.cun if isinstance(counted, OnLine) else None


def _across(place: Place, body: FittedBody, side: Side) -> AcrossUsed | None:
    if not isinstance(place, Beside | Around) or place.cun is None:
        return None
    unit_cm = body.places.segment(place.of, side).cun_cm
    return AcrossUsed(
        segment=place.of, cun=place.cun, cun_cm=round(unit_cm, 4), distance_cm=round(place.cun * unit_cm, 2)
    )


def _finger_checks(
    point: Point, cun_cm: float, body: FittedBody, practitioner: Mapping[FingerSpan, float]
) -> list[FingerCheck]:
    own = body.places.fingers_cm
    measured = body.facts.fingers.measured()
    return [
        FingerCheck(
            span=span,
            cun=cun,
            wanted_cm=round(cun * cun_cm, 2),
            own_cm=round(own[span], 2),
            practitioner_cm=practitioner.get(span),
            error_cm=round(own[span] - cun * cun_cm, 2),
            own_measured=span in measured,
        )
        for span, cun in point.finger_checks.items()
    ]


def _locate_area(area: Area, side: Side, body: FittedBody) -> Located:
    surface = surfaces()[area.surface]
    (left,) = areas_on_body([area], body.places)
    drawn, size_cm2 = left if side == "left" else left.mirrored(), left.size_cm2
    mirror = [1, 1, 1] if side == "left" else MIRROR
    fill = filled(area, body.places)
    inward = -unit(drawn.normal)
    return Located(
        id=area.id,
        kind="area",
        side=side,
        name=area.names.english,
        romanised=area.names.romanised,
        characters=area.names.characters,
        region=region_words(area.region),
        position_cm=triple(drawn.centre),
        normal=triple(drawn.normal),
        landmarks={},
        landmark_names={},
        segment=None,
        level_cun=None,
        across=None,
        methods=[
            MethodPlace(
                name=area.where,
                position_cm=triple(drawn.centre),
                off_cm=0,
                agrees=True,
                error_cm=round(float(np.sqrt(size_cm2)) / 2, 2),
                trusted=True,
                why="drawn on this person's own surface",
            )
        ],
        fingers=[],
        uncertainty_cm=round(float(np.sqrt(size_cm2)) / 2, 2),
        step_landmarks=[None, None],
        steps=[
            f"Go to the {surface.name}: {area.where}."
            + (f" It corresponds to the {other_side(side)} side of the head." if area.crossed else ""),
            f"Feel: {area.feel[0].lower()}{area.feel[1:]}",
        ],
        feel=area.feel,
        press=PressAs(
            toward="straight into the surface",
            vector=triple(inward),
            contact=area.contact,
            support="",
            max_level=MOST_LEVEL,
            max_level_reasons=[],
        ),
        cautions=[],
        source=source_of(area).words,
        refused=None,
        outline_cm=[triple(place) for place in drawn.outline],
        fill_cm=triples(fill.reshape(-1, 3) * mirror),
        area_cm2=round(size_cm2, 2),
        walk_cm=triples(walk(fill, body.figure) * mirror),
    )


def in_pose(found: Located, body: Posed) -> Located:
    """The same as it lies in a pose: every place and direction is carried along; distances stay what they are."""

    def places(rows: list[Triple]) -> list[Triple]:
        return triples(body.places(np.array(rows))) if rows else []

    at = np.array([found.position_cm])
    turned = body.directions(np.repeat(at, 2, axis=0), np.array([found.normal, found.press.vector]))
    names = list(found.landmarks)
    return found.model_copy(
        update={
            "position_cm": triple(body.places(at)[0]),
            "normal": triple(turned[0]),
            "press": found.press.model_copy(update={"vector": triple(turned[1])}),
            "landmarks": dict(zip(names, places(list(found.landmarks.values())), strict=True)),
            "methods": [
                one.model_copy(update={"position_cm": place})
                for one, place in zip(
                    found.methods, places([method.position_cm for method in found.methods]), strict=True
                )
            ],
            "alternatives": [
                one.model_copy(update={"position_cm": place})
                for one, place in zip(
                    found.alternatives, places([one.position_cm for one in found.alternatives]), strict=True
                )
            ],
            "segment": found.segment and found.segment.model_copy(update={"path_cm": places(found.segment.path_cm)}),
            "outline_cm": places(found.outline_cm),
            "fill_cm": places(found.fill_cm),
            "walk_cm": places(found.walk_cm),
            "way": found.way and found.way.model_copy(update={"path_cm": places(found.way.path_cm)}),
        }
    )
