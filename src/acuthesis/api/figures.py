"""The person's figure: its skin, bones, landmarks and segments, all that is located on it, and what can be measured."""

import uuid
from typing import Literal

import numpy as np
from fastapi import APIRouter, Request, Response
from pydantic import BaseModel

from acuthesis.api.access import SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import PoseId
from acuthesis.core.atlas.areas.pack import area_pack
from acuthesis.core.atlas.drawing.plate import landmark_plate
from acuthesis.core.atlas.drawing.sheet import SheetOnBody, Tradition, sheet_on
from acuthesis.core.atlas.entries.catalogue import part_of
from acuthesis.core.atlas.entries.groups import group_of
from acuthesis.core.atlas.locating.assistant import how_to
from acuthesis.core.atlas.locating.locate import Triple, triple
from acuthesis.core.atlas.locating.placed import Placed
from acuthesis.core.atlas.locating.ways import channel_line, triples
from acuthesis.core.body.asset import load_asset
from acuthesis.core.body.bony_ink import bony_ink
from acuthesis.core.body.catalogue import landmarks, segments
from acuthesis.core.body.cloth import cloth_depths, worn
from acuthesis.core.body.figure import Side
from acuthesis.core.body.person import FINGER_HOW, FINGER_RANGE_CM, body_measures
from acuthesis.core.body.pose import REFERENCE, Posed, pose_for
from acuthesis.core.safety.limits import limits_for
from acuthesis.core.safety.screening import Screening
from acuthesis.services.body.bodies import body_key, body_of, grounds_of, placed_here, refused_here, seen_on_body
from acuthesis.settings import settings

router = APIRouter(route_class=StrictRoute, tags=["figure"])
QUANTA = 65535


class PlaceOnBody(BaseModel):
    """Where one point or area is, for drawing all of them at once."""

    id: str
    kind: Literal["point", "area"]
    side: Side
    paired: bool
    name: str
    region: str
    part: str
    group: str
    pose: str
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
    ink_cm: list[list[Triple]]  # lines of bones that show through the skin
    cloth: list[str]  # pieces of cloth in which the person is shown, chest and hips


class LandmarkOnBody(BaseModel):
    """A landmark on this figure's left or its middle."""

    id: str
    name: str
    how: str
    paired: bool
    position_cm: Triple
    normal: Triple


class MeasureField(BaseModel):
    """One thing that can be measured: what, how, between which places on the figure, and the possible range."""

    id: str
    name: str
    how: str
    min: float
    max: float
    segment: str | None


class BoneOut(BaseModel):
    """A bone as `rings` cross-sections of `corners` places each; `grid` is their x, y, z in hundredths of a cm."""

    id: str
    name: str
    rings: int
    corners: int
    grid: list[int]


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
            how=FINGER_HOW,
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


@router.get("/body/cloth", response_class=Response, responses={200: {"content": {"application/octet-stream": {}}}})
def body_cloth() -> Response:
    """How deep each vertex of the skin lies in the cloth over the chest, then in that over the hips: int8, millimetres.

    Above zero it is covered. The same for every person.
    """
    return Response(
        cloth_depths(load_asset(settings().body_asset)).tobytes(),
        media_type="application/octet-stream",
        headers={"Cache-Control": "public, max-age=86400"},
    )


@router.get("/body/areas", response_class=Response, responses={200: {"content": {"application/octet-stream": {}}}})
def body_areas() -> Response:
    """Fills and outlines of all shipped areas, marked on the mesh (see core/atlas/areas/pack.py), for every person."""
    return Response(
        area_pack(load_asset(settings().body_asset)),
        media_type="application/octet-stream",
        headers={"Cache-Control": "public, max-age=86400"},
    )


@router.get("/people/{person_id}/figure")
def read_figure(person_id: uuid.UUID, here: SignedIn, pose: PoseId = REFERENCE) -> FigureOut:
    """The figure of a person, in a pose."""
    known = here.person(person_id, "figure")
    ready, screening = body_of(known), seen_on_body(known)
    body, stance = ready.body, ready.posed(pose)
    unsafe = set(refused_here(here, ready, screening))
    on_body = {name: body.places.segment(name, "left") for name in segments()}
    middles = np.array([one.path.mean(axis=0) for one in on_body.values()])
    facing = [body.figure.nearest_on_skin(middle)[1] for middle in middles]
    return FigureOut(
        key=f"{ready.key}-{pose}",
        height_cm=round(body.figure.height_cm, 1),
        residuals_cm={name: round(off, 2) for name, off in body.residuals_cm.items()},
        notes=list(body.notes),
        segments=[
            SegmentOut(
                id=name,
                name=one.segment.name,
                length_cm=round(one.length_cm, 2),
                cun=one.segment.cun,
                cun_cm=round(one.cun_cm, 3),
                measured=body.is_measured(name),
                path_cm=triples(stance.places(one.path)),
                normal=triple(normal),
            )
            for (name, one), normal in zip(on_body.items(), stance.directions(middles, np.array(facing)), strict=True)
        ],
        places=_places(placed_here(here, ready), stance, screening, unsafe),
        ink_cm=[triples(stance.places(line)) for line in bony_ink(body.places)],
        cloth=list(worn(body.facts)),
    )


class GroundOut(BaseModel):
    """Ground that is kept free: why, the vertices of the place itself (`at`), and those with its margin (`skin`)."""

    rule: str
    short: str
    reason: str
    at: list[int]
    skin: list[int]


@router.get("/people/{person_id}/kept-free")
def read_kept_free(person_id: uuid.UUID, here: SignedIn) -> list[GroundOut]:
    """What is kept free on a person's figure, by numbers of its skin vertices, rule by rule."""
    known = here.person(person_id, "figure")
    return [
        GroundOut(rule=one.reason.rule, short=one.short, reason=one.reason.text, at=list(one.at), skin=list(one.skin))
        for one in grounds_of(known)
    ]


def _places(placed: list[Placed], stance: Posed, screening: Screening, unsafe: set[str]) -> list[PlaceOnBody]:
    at = np.array([one.position for one in placed])
    positions, normals = stance.places(at), stance.directions(at, np.array([one.normal for one in placed]))
    outlines = [np.empty((0, 3)) if one.outline is None else one.outline for one in placed]
    around = np.split(stance.places(np.concatenate(outlines)), np.cumsum([len(outline) for outline in outlines])[:-1])
    return [
        PlaceOnBody(
            id=found.entry.id,
            kind=found.entry.kind,
            side=found.side,
            paired=len(found.entry.sides) == 2,
            name=found.entry.names.english,
            region=found.entry.region,
            part=part_of(found.entry),
            group=group_of(found.entry),
            pose=pose_for(found.entry.site, found.entry.id),
            position_cm=triple(position),
            normal=triple(normal),
            outline_cm=triples(outline),
            refused=found.entry.id in unsafe
            or limits_for(found.entry, found.side if found.entry.paired else "midline", screening).refused is not None,
        )
        for found, position, normal, outline in zip(placed, positions, normals, around, strict=True)
    ]


@router.get(
    "/people/{person_id}/figure/skin",
    response_class=Response,
    responses={200: {"content": {"application/octet-stream": {}}}},
)
def read_skin(person_id: uuid.UUID, here: SignedIn, request: Request, pose: PoseId = REFERENCE) -> Response:
    """Skin vertices: four float32 (lowest x, y, z in cm, and cm a step), then uint16 x, y, z each; little-endian."""
    known = here.person(person_id, "figure")
    key = f"{body_key(known.facts)}-{pose}"
    headers = {"Cache-Control": "private, no-cache", "ETag": f'"{key}"'}
    if request.headers.get("if-none-match") == headers["ETag"]:
        return Response(status_code=304, headers=headers)
    skin = body_of(known).posed(pose).skin
    low = skin.min(axis=0)
    step = float(np.ptp(skin, axis=0).max()) / QUANTA
    head = np.array([*low, step], dtype="<f4").tobytes()
    return Response(
        head + np.round((skin - low) / step).astype("<u2").tobytes(),
        media_type="application/octet-stream",
        headers=headers,
    )


@router.get("/people/{person_id}/figure/bones")
def read_bones(person_id: uuid.UUID, here: SignedIn, pose: PoseId = REFERENCE) -> list[BoneOut]:
    """The skeleton inside a person's figure."""
    ready = body_of(here.person(person_id, "figure"))
    bones, stance = ready.bones(), ready.posed(pose)
    corners = stance.places(np.concatenate([bone.rings.reshape(-1, 3) for bone in bones]))
    grids = np.split(corners, np.cumsum([bone.rings.size // 3 for bone in bones])[:-1])
    return [
        BoneOut(
            id=bone.id,
            name=bone.name,
            rings=bone.rings.shape[0],
            corners=bone.rings.shape[1],
            grid=[int(value) for value in (grid.ravel() * 100).round()],
        )
        for bone, grid in zip(bones, grids, strict=True)
    ]


@router.get("/people/{person_id}/figure/landmarks")
def read_landmarks(person_id: uuid.UUID, here: SignedIn, pose: PoseId = REFERENCE) -> list[LandmarkOnBody]:
    """Every landmark on a person, and how the hand finds it."""
    ready = body_of(here.person(person_id, "figure"))
    stance = ready.posed(pose)
    with ready.lock:
        at = np.array([ready.body.places.landmark(id, "left") for id in landmarks()])
        normals = stance.directions(at, ready.body.figure.normals_at(at))
        positions = stance.places(at)
    return [
        LandmarkOnBody(
            id=mark.id,
            name=mark.name,
            how=mark.how,
            paired=mark.paired,
            position_cm=triple(place),
            normal=triple(normal),
        )
        for mark, place, normal in zip(landmarks().values(), positions, normals, strict=True)
    ]


@router.get(
    "/people/{person_id}/landmarks/{landmark}/drawing",
    response_class=Response,
    responses={200: {"content": {"image/svg+xml": {}}}},
)
def read_landmark_drawing(person_id: uuid.UUID, landmark: str, here: SignedIn, side: Side = "left") -> Response:
    """Where a landmark lies on a person, as a small flat drawing (SVG)."""
    ready = body_of(here.person(person_id, "figure"))
    with ready.lock:
        return Response(landmark_plate(landmark, side, ready.body), media_type="image/svg+xml")


@router.get("/people/{person_id}/channels/{channel}")
def read_channel(
    person_id: uuid.UUID, channel: str, here: SignedIn, side: Side = "left", pose: PoseId = REFERENCE
) -> list[list[Triple]]:
    """A channel's line along a person's skin, one list of places a branch."""
    ready = body_of(here.person(person_id, "figure"))
    stance = ready.posed(pose)
    with ready.lock:
        return [triples(stance.places(branch)) for branch in channel_line(channel, side, ready.body)]


@router.get("/people/{person_id}/sheets/{sheet}")
def read_sheet(
    person_id: uuid.UUID, sheet: str, here: SignedIn, tradition: Tradition = "first", side: Side = "left"
) -> SheetOnBody:
    """The close flat view of a surface on a person, with every area of one tradition."""
    ready = body_of(here.person(person_id, "figure"))
    with ready.lock:
        return sheet_on(sheet, tradition, side, ready.body)
