"""Finding: the person's figure, each point or area located on it, what a hand found there, what to measure next."""

import uuid
from datetime import datetime
from typing import Annotated, Any, Literal

import numpy as np
from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import Here, SignedIn, now
from acuthesis.api.atlas import checked, entry_here, own_entries
from acuthesis.api.bodies import KeptBody, body_key, shelf
from acuthesis.api.text import LineOrNone
from acuthesis.core.atlas.assistant import WorthMeasuring, how_to, worth_measuring
from acuthesis.core.atlas.catalogue import Entry, is_shipped, points
from acuthesis.core.atlas.finding import Finding, Offset, Texture, in_words, moved, offset_to, part_of
from acuthesis.core.atlas.here import Nearby
from acuthesis.core.atlas.here import here as nearby
from acuthesis.core.atlas.locate import Located, Triple, locate, triple, with_way
from acuthesis.core.atlas.model import Point
from acuthesis.core.atlas.placed import Placed, place_one
from acuthesis.core.atlas.plate import plate
from acuthesis.core.atlas.ways import channel_line, triples
from acuthesis.core.body.asset import load_asset
from acuthesis.core.body.catalogue import landmarks, segments
from acuthesis.core.body.figure import Side
from acuthesis.core.body.frames import frame_of
from acuthesis.core.body.person import FINGER_RANGE_CM, body_measures
from acuthesis.core.errors import OutOfRange, UnknownId
from acuthesis.core.safety.rules import limits_for
from acuthesis.settings import settings
from acuthesis.store import atlas as atlas_store
from acuthesis.store import people as store
from acuthesis.store import visits
from acuthesis.store.model import FindingRow, PersonRow
from acuthesis.store.people import fingers_of

router = APIRouter(tags=["find"])
QUANTA = 65535
Centimetres = Annotated[float, Query(ge=-300, le=300, allow_inf_nan=False)]
Coordinate = Annotated[float, Field(ge=-300, le=300, allow_inf_nan=False)]
Place = tuple[Coordinate, Coordinate, Coordinate]


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


class LandmarkOnBody(BaseModel):
    """A landmark on this figure's left or its middle."""

    id: str
    name: str
    find: str
    paired: bool
    position_cm: Triple
    normal: Triple


class Trial(BaseModel):
    """A rule to be seen on a person before it is kept."""

    model_config = ConfigDict(extra="forbid")

    row: dict[str, Any]
    side: Side = "left"


class FindingIn(BaseModel):
    """What a hand found: beside the rule's place by mm, or at a place on the skin; how sore; how it felt."""

    model_config = ConfigDict(extra="forbid")

    id: uuid.UUID
    entry: Annotated[str, Field(max_length=60)]
    side: Side
    offset: Offset = Offset()
    found_cm: Place | None = None
    soreness: Annotated[int, Field(ge=0, le=10)] | None = None
    texture: Texture | None = None
    note: LineOrNone = ""


class FoundOut(BaseModel):
    """A finding with its place on the figure of today, and in words."""

    id: uuid.UUID
    entry: str
    name: str
    side: Side
    offset: Offset
    position_cm: Triple
    normal: Triple
    soreness: int | None
    texture: Texture | None
    note: str
    at: datetime
    words: str


class MeasureField(BaseModel):
    """One thing that can be measured: what, how, between which places on the figure, and the possible range."""

    id: str
    name: str
    how: str
    min: float
    max: float
    segment: str | None


def kept_body(here: Here, row: PersonRow) -> KeptBody:
    """The person's fitted body."""
    return shelf.body(store.body_facts(here.session, row, now().date()))


@router.get("/measures")
def list_measures() -> list[MeasureField]:
    """What can be measured, with the range an adult can have; finger widths last."""
    lengths = [
        MeasureField(id=m.id, name=m.name, how=how_to(m), min=m.min, max=m.max, segment=m.segment)
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


@router.get("/body/triangles", response_class=Response, responses={200: {"content": {"application/octet-stream": {}}}})
def body_triangles() -> Response:
    """Corners of the skin's triangles, uint16 little-endian, three a triangle; the same for every person."""
    triangles = load_asset(settings().body_asset).triangles.astype("<u2")
    return Response(
        triangles.tobytes(), media_type="application/octet-stream", headers={"Cache-Control": "public, max-age=86400"}
    )


def _own_placed(here: Here, kept: KeptBody) -> list[Placed]:
    with kept.lock:
        return [one for entry in own_entries(here).values() for one in place_one(entry, kept.body)]


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
            for found in [*kept.placed(), *_own_placed(here, kept)]
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
    target = entry_here(here, id)
    kept = kept_body(here, row)
    return _located(here, row, target, side, kept), target, kept


def _located(here: Here, row: PersonRow, target: Entry, side: Side, kept: KeptBody) -> Located:
    practitioner = fingers_of(here.practitioner.fingers).measured()
    screening = store.screening_of(here.session, row.id)
    with kept.lock:
        return locate(target, side, kept.body, screening, practitioner)


@router.get("/people/{person_id}/places/{id}")
def read_place(person_id: uuid.UUID, id: str, here: SignedIn, side: Side = "left") -> Located:
    """One point or area on a person: place, methods, way over the skin, fingers, steps, cautions."""
    row = store.person(here.session, person_id)
    found, target, kept = located_for(here, row, id, side)
    with kept.lock:
        return with_way(found, target, kept.body)


@router.post("/people/{person_id}/trial")
def try_rule(person_id: uuid.UUID, trial: Trial, here: SignedIn) -> Located:
    """Where a rule of one's own leads on a person; nothing is kept."""
    row = store.person(here.session, person_id)
    return _located(here, row, checked(trial.row), trial.side, kept_body(here, row))


@router.get("/people/{person_id}/here")
def what_is_here(person_id: uuid.UUID, here: SignedIn, x: Centimetres, y: Centimetres, z: Centimetres) -> list[Nearby]:
    """Points, areas and landmarks around a place on a person's skin, the nearest first."""
    kept = kept_body(here, store.person(here.session, person_id))
    placed = kept.placed()
    with kept.lock:
        place, _ = kept.body.figure.nearest_on_skin(np.array([x, y, z]))
        return nearby(place, kept.body, placed)


@router.get("/people/{person_id}/figure/landmarks")
def read_landmarks(person_id: uuid.UUID, here: SignedIn) -> list[LandmarkOnBody]:
    """Every landmark on a person, and how the hand finds it."""
    kept = kept_body(here, store.person(here.session, person_id))
    with kept.lock:
        places = kept.body.places
        found = [(mark, places.landmark(id, "left")) for id, mark in landmarks().items()]
        normals = kept.body.figure.normals_at(np.array([place for _, place in found]))
    return [
        LandmarkOnBody(
            id=mark.id,
            name=mark.name,
            find=mark.find,
            paired=mark.paired,
            position_cm=triple(place),
            normal=triple(normal),
        )
        for (mark, place), normal in zip(found, normals, strict=True)
    ]


@router.get("/people/{person_id}/channels/{channel}")
def read_channel(person_id: uuid.UUID, channel: str, here: SignedIn, side: Side = "left") -> list[list[Triple]]:
    """A channel's line along a person's skin, one list of places a branch."""
    kept = kept_body(here, store.person(here.session, person_id))
    with kept.lock:
        return [triples(branch) for branch in channel_line(channel, side, kept.body)]


@router.get("/people/{person_id}/measure-next")
def what_to_measure_next(
    person_id: uuid.UUID, here: SignedIn, ids: Annotated[list[str] | None, Query(max_length=400)] = None
) -> list[WorthMeasuring]:
    """Which measure would make the places of some points surer (by default those of the visit's score, or all)."""
    row = store.person(here.session, person_id)
    if ids is None:
        ids = [id for visit in visits.visits_of(here.session, row.id)[-1:] for id in visits.planned(visit)]
    wanted = [entry_here(here, id) for id in ids]
    chosen = [one for one in wanted if isinstance(one, Point)] or list(points().values())
    kept = kept_body(here, row)
    with kept.lock:
        return worth_measuring(chosen, kept.body)


def _found(here: Here, row: FindingRow, kept: KeptBody) -> FoundOut:
    target = entry_here(here, row.entry)
    side: Side = "left" if row.side == "left" else "right"
    finding = Finding(
        entry=row.entry,
        side=side,
        offset=Offset(mm=row.offset_mm),
        soreness=row.soreness,
        texture=row.texture,
        at=row.at,
    )
    with kept.lock:
        place = moved(place_one(target, kept.body)[0].on(side).position, finding.offset, target, side, kept.body)
        normal = kept.body.figure.normals_at(place[None])[0]
    return FoundOut(
        id=row.id,
        name=target.names.english,
        position_cm=triple(place),
        normal=triple(normal),
        words=in_words(finding, part_of(target)),
        **finding.model_dump(),
    )


@router.get("/people/{person_id}/findings")
def list_findings(person_id: uuid.UUID, here: SignedIn) -> list[FoundOut]:
    """The person's own map: everything that hands found, oldest first."""
    row = store.person(here.session, person_id)
    kept = kept_body(here, row)
    known = own_entries(here)
    found = [
        one for one in atlas_store.findings_of(here.session, row.id) if one.entry in known or is_shipped(one.entry)
    ]
    return [_found(here, one, kept) for one in found]


@router.post("/people/{person_id}/findings", status_code=201)
def add_finding(person_id: uuid.UUID, wanted: FindingIn, here: SignedIn) -> FoundOut:
    """Keep what a hand found. Sent twice with the same id, it is kept once."""
    row = store.person(here.session, person_id)
    target = entry_here(here, wanted.entry)
    if wanted.side not in target.sides:
        raise OutOfRange(f"{target.id} is not on the {wanted.side}", where="side")
    kept = kept_body(here, row)
    offset = wanted.offset
    if wanted.found_cm is not None:
        with kept.lock:
            place = place_one(target, kept.body)[0].on(wanted.side).position
            found, _ = kept.body.figure.nearest_on_skin(np.array(wanted.found_cm))
            offset = offset_to(found, place, target, wanted.side, kept.body)
    directions = frame_of(kept.body.figure, part_of(target), wanted.side)
    for name in offset.mm:
        if name not in directions:
            raise UnknownId(f"'{name}' is not a direction there; there are {', '.join(directions)}", where="offset.mm")
    known = here.session.get(FindingRow, wanted.id)
    if known is None:
        known = FindingRow(
            id=wanted.id,
            practice_id=row.practice_id,
            person_id=row.id,
            entry=target.id,
            side=wanted.side,
            offset_mm=offset.mm,
            soreness=wanted.soreness,
            texture=wanted.texture,
            note=wanted.note,
            at=now(),
        )
        here.session.add(known)
        here.session.flush()
        store.audit(here.session, here.practice_id, here.practitioner.id, row.id, f"found at {target.id}")
    elif known.person_id != row.id:
        raise store.Conflict("this finding belongs to another person", where="id")
    return _found(here, known, kept)


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
