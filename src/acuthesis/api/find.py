"""Finding: the atlas and its search, the person's figure, and each point or area located on it."""

import uuid
from typing import Annotated, Literal

import numpy as np
from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel

from acuthesis.api.access import Here, SignedIn, now
from acuthesis.api.bodies import KeptBody, body_key, shelf
from acuthesis.core.atlas.catalogue import Described, Entry, describe, entries, entry, surfaces
from acuthesis.core.atlas.locate import Located, Triple, locate, triple
from acuthesis.core.atlas.model import Area
from acuthesis.core.atlas.plate import plate
from acuthesis.core.atlas.search import search
from acuthesis.core.body.asset import load_asset
from acuthesis.core.body.catalogue import segments
from acuthesis.core.body.figure import Side
from acuthesis.core.body.person import FINGER_RANGE_CM, BodyMeasure, body_measures
from acuthesis.core.safety.rules import limits_for
from acuthesis.settings import settings
from acuthesis.store import people as store
from acuthesis.store.model import PersonRow
from acuthesis.store.people import fingers_of

router = APIRouter(tags=["find"])
QUANTA = 65535
FOREVER = "private, max-age=31536000, immutable"


class PlaceOnBody(BaseModel):
    """Where one point or area is, for drawing all of them at once."""

    id: str
    kind: Literal["point", "area"]
    side: Side
    paired: bool
    name: str
    region: str
    part: str
    position_cm: Triple
    normal: Triple
    outline_cm: list[Triple]
    refused: bool


class SegmentOut(BaseModel):
    """A proportional segment on this person."""

    id: str
    name: str
    length_cm: float
    cun: float
    cun_cm: float
    measured: bool
    path_cm: list[Triple]
    normal: Triple


class FigureOut(BaseModel):
    """A person's figure: its key (changes with the measures), how well it fits, its segments and all places."""

    key: str
    height_cm: float
    residuals_cm: dict[str, float]
    notes: list[str]
    segments: list[SegmentOut]
    places: list[PlaceOnBody]


class MeasureField(BaseModel):
    """One thing that can be measured: what, how, between which places on the figure, and the possible range."""

    id: str
    name: str
    how: str
    min: float
    max: float
    segment: str | None


def part_of(target: Entry) -> str:
    """Body part of a point, or of the surface an area lies on."""
    return surfaces()[target.surface].part if isinstance(target, Area) else target.part


def kept_body(here: Here, row: PersonRow) -> KeptBody:
    """The person's fitted body."""
    return shelf.body(store.body_facts(here.session, row, now().date()))


def _measure_how(measure: BodyMeasure) -> str:
    return measure.how or (segments()[measure.segment].how if measure.segment else "")


@router.get("/measures")
def list_measures() -> list[MeasureField]:
    """What can be measured, with the range an adult can have; finger widths last."""
    lengths = [
        MeasureField(id=m.id, name=m.name, how=_measure_how(m), min=m.min, max=m.max, segment=m.segment)
        for m in body_measures().values()
    ]
    fingers = [
        MeasureField(
            id=name,
            name=name.replace("_", " ").capitalize(),
            how="Across the middle joints, held together.",
            min=low,
            max=high,
            segment=None,
        )
        for name, (low, high) in FINGER_RANGE_CM.items()
    ]
    return [*lengths, *fingers]


@router.get("/atlas")
def list_atlas() -> list[Entry]:
    """Every point and area with its rule."""
    return entries()


@router.get("/atlas/search")
def search_atlas(q: Annotated[str, Query(max_length=80)]) -> list[Described]:
    """Points and areas by code, name with or without tone marks, characters, place or use; best first."""
    return [describe(found) for found in search(q)]


@router.get("/body/triangles", response_class=Response, responses={200: {"content": {"application/octet-stream": {}}}})
def body_triangles() -> Response:
    """Corners of the skin's triangles, uint16 little-endian, three a triangle; the same for every person."""
    triangles = load_asset(settings().body_asset).triangles.astype("<u2")
    return Response(
        triangles.tobytes(), media_type="application/octet-stream", headers={"Cache-Control": "public, max-age=86400"}
    )


@router.get("/people/{person_id}/figure")
def read_figure(person_id: uuid.UUID, here: SignedIn) -> FigureOut:
    """The figure of a person."""
    row = store.person(here.session, person_id)
    kept = kept_body(here, row)
    screening = store.screening_of(here.session, row.id)
    body = kept.body
    return FigureOut(
        key=kept.key,
        height_cm=round(body.figure.height_cm, 1),
        residuals_cm={name: round(off, 2) for name, off in body.residuals_cm.items()},
        notes=list(body.notes),
        segments=[
            SegmentOut(
                id=name,
                name=segment.name,
                length_cm=round(on_body.length_cm, 2),
                cun=segment.cun,
                cun_cm=round(on_body.cun_cm, 3),
                measured=body.is_measured(name),
                path_cm=[triple(place) for place in on_body.path],
                normal=triple(body.figure.nearest_on_skin(on_body.path.mean(axis=0))[1]),
            )
            for name, segment in segments().items()
            if (on_body := body.places.segment(name, "left"))
        ],
        places=[
            PlaceOnBody(
                id=found.entry.id,
                kind=found.entry.kind,
                side=found.side,
                paired=len(found.entry.sides) == 2,
                name=found.entry.names.english,
                region=found.entry.region,
                part=part_of(found.entry),
                position_cm=triple(found.position),
                normal=triple(found.normal),
                outline_cm=[] if found.outline is None else [triple(place) for place in found.outline],
                refused=limits_for(found.entry, found.side if found.entry.paired else "midline", screening).refused
                is not None,
            )
            for found in kept.placed()
        ],
    )


@router.get(
    "/people/{person_id}/figure/skin",
    response_class=Response,
    responses={200: {"content": {"application/octet-stream": {}}}},
)
def read_skin(person_id: uuid.UUID, here: SignedIn, request: Request) -> Response:
    """Skin vertices: four float32 (lowest x, y, z in cm, and cm a step), then uint16 x, y, z each; little-endian."""
    row = store.person(here.session, person_id)
    key = body_key(store.body_facts(here.session, row, now().date()))
    headers = {"Cache-Control": "private, no-cache", "ETag": f'"{key}"'}
    if request.headers.get("if-none-match") == headers["ETag"]:
        return Response(status_code=304, headers=headers)
    skin = kept_body(here, row).body.figure.skin
    low = skin.min(axis=0)
    step = float(np.ptp(skin, axis=0).max()) / QUANTA
    head = np.array([*low, step], dtype="<f4").tobytes()
    return Response(
        head + np.round((skin - low) / step).astype("<u2").tobytes(),
        media_type="application/octet-stream",
        headers=headers,
    )


def located_for(here: Here, row: PersonRow, id: str, side: Side) -> tuple[Located, Entry, KeptBody]:
    """A target on a person, with their limits and the practitioner's fingers."""
    target = entry(id)
    kept = kept_body(here, row)
    practitioner = fingers_of(here.practitioner.fingers).measured()
    screening = store.screening_of(here.session, row.id)
    with kept.lock:
        return locate(target, side, kept.body, screening, practitioner), target, kept


@router.get("/people/{person_id}/places/{id}")
def read_place(person_id: uuid.UUID, id: str, here: SignedIn, side: Side = "left") -> Located:
    """One point or area on a person: place, methods, fingers, steps, cautions."""
    row = store.person(here.session, person_id)
    return located_for(here, row, id, side)[0]


@router.get(
    "/people/{person_id}/places/{id}/drawing",
    response_class=Response,
    responses={200: {"content": {"image/svg+xml": {}}}},
)
def read_drawing(person_id: uuid.UUID, id: str, here: SignedIn, side: Side = "left") -> Response:
    """The flat drawing of a point or area on a person, as SVG."""
    row = store.person(here.session, person_id)
    found, target, kept = located_for(here, row, id, side)
    return Response(plate(found, part_of(target), kept.body), media_type="image/svg+xml")
