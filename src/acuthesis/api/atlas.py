"""The atlas: list and search, a practice's own points and areas, and their export and import as a file."""

from functools import lru_cache
from typing import Annotated, Any

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.core.atlas.drawing.sheet import Tradition, sheets, traditions
from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.entries.catalogue import Described, Entry, describe
from acuthesis.core.atlas.entries.groups import Group, groups
from acuthesis.core.atlas.entries.search import Index, plain
from acuthesis.core.atlas.locating.own import AtlasPack
from acuthesis.core.body import catalogue as body
from acuthesis.core.body.pose import poses
from acuthesis.core.compose.knowledge.complaints import complaint_kinds
from acuthesis.core.errors import CoreError
from acuthesis.core.message import message
from acuthesis.services.body.locating import checked
from acuthesis.store import atlas as store
from acuthesis.store.people import Conflict

router = APIRouter(route_class=StrictRoute, tags=["atlas"])
FEW = 4  # with fewer hits than this, names that are nearly spelled right are looked for too
MOST_HITS = 24


class OwnOut(BaseModel):
    """A point or area of the practice's own, as a row of the atlas."""

    id: str
    version: int
    name: str
    row: dict[str, Any]


class OwnIn(BaseModel):
    """A row to keep; `version` as it was read, none for a new one."""

    model_config = ConfigDict(extra="forbid")

    row: dict[str, Any]
    version: Annotated[int, Field(ge=1, lt=2**31)] | None = None


class Taken(BaseModel):
    """What came in with a file."""

    added: list[str]
    changed: list[str]


class RulePart(BaseModel):
    """Something that rules are built of."""

    id: str
    name: str


class LandmarkOut(RulePart):
    """A landmark: where it is, how the hand finds it."""

    how: str
    part: str


class SegmentPart(RulePart):
    """A segment: its number of parts, and the landmarks at its ends."""

    cun: float
    start: str
    end: str


class RuleParts(BaseModel):
    """What a rule can be built of."""

    landmarks: list[LandmarkOut]
    segments: list[SegmentPart]
    lines: list[RulePart]
    sites: list[RulePart]


@lru_cache
def _index() -> Index:
    """The shipped atlas, with the complaints that a point is used for among its texts."""
    used: dict[str, list[str]] = {}
    for kind in complaint_kinds().values():
        for use in kind.uses:
            used.setdefault(use.id, []).append(kind.name)
    return Index(catalogue.entries(), used)


@router.get("/atlas")
def list_atlas(here: SignedIn) -> list[Entry]:
    """Every point and area with its rule, the practice's own last."""
    return [*catalogue.entries(), *here.own.values()]


@router.get("/atlas/search")
def search_atlas(q: Annotated[str, Query(max_length=80)], here: SignedIn) -> list[Described]:
    """Points and areas by code, name with or without tone marks, characters, place, landmark or use; best first."""
    hits = [*_index().search(q), *Index(here.own.values()).search(q)]
    found = [hit.entry for hit in sorted(hits, key=lambda hit: -hit.score)]
    if len(found) < FEW and plain(q):
        near = [catalogue.entry(id) for id in store.near_misses(here.db, plain(q), MOST_HITS)]
        found += [entry for entry in near if entry not in found]
    return [describe(entry) for entry in found[:MOST_HITS]]


@router.get("/atlas/parts")
def rule_parts() -> RuleParts:
    """Landmarks, segments, lines and sites: what a rule of one's own can be built of."""
    return RuleParts(
        landmarks=[LandmarkOut(id=m.id, name=m.name, how=m.how, part=m.part) for m in body.landmarks().values()],
        segments=[
            SegmentPart(id=s.id, name=s.name, cun=s.cun, start=body.bare(s.start), end=body.bare(s.end))
            for s in body.segments().values()
        ],
        lines=[RulePart(id=line.id, name=line.name) for line in body.lines().values()],
        sites=[RulePart(id=id, name=site["region"]) for id, site in catalogue.sites().items()],
    )


class SheetKnown(BaseModel):
    """A sheet that can be shown, with the traditions that have areas on it."""

    id: str
    group: str
    name: str
    traditions: list[Tradition]
    wide: bool


class Contents(BaseModel):
    """How the atlas is looked through: groups in their order, the close views of some, and the poses of the body."""

    groups: list[Group]
    sheets: list[SheetKnown]
    poses: list[RulePart]


@router.get("/atlas/contents")
def atlas_contents() -> Contents:
    """Groups and sheets."""
    known = [
        SheetKnown(id=s.id, group=s.group, name=s.name, traditions=traditions(s), wide=s.wide)
        for s in sheets().values()
    ]
    return Contents(groups=groups(), sheets=known, poses=[RulePart(id=p.id, name=p.name) for p in poses().values()])


@router.get("/atlas/own")
def list_own(here: SignedIn) -> list[OwnOut]:
    """The practice's own points and areas."""
    return [
        OwnOut(id=row.entry, version=row.version, name=row.row["names"]["english"], row=row.row)
        for row in store.own_rows(here.db)
    ]


@router.put("/atlas/own")
def save_own(wanted: OwnIn, here: SignedIn) -> OwnOut:
    """Keep a point or area of one's own, once it can be placed on every build it is tried on."""
    checked(wanted.row)
    row = store.save_own(here.db, here.practice_id, wanted.row, wanted.version)
    here.audit(None, f"own {row.entry} saved")
    return OwnOut(id=row.entry, version=row.version, name=row.row["names"]["english"], row=row.row)


@router.delete("/atlas/own", status_code=204)
def delete_own(here: SignedIn, id: Annotated[str, Query(max_length=60)], version: Annotated[int, Query(ge=1)]) -> None:
    """Remove a point or area of one's own, unless a complaint of the practice still uses it."""
    for complaint, change in here.layer.complaints.items():
        if id in {*(use.id for use in change.add), *(change.home or ())}:
            raise Conflict(message("atlas-used-remove-there-first", id=id, complaint=complaint), where="id")
    store.delete_own(here.db, id, version)
    here.audit(None, "own entry removed")


@router.get("/atlas/file")
def export_atlas(here: SignedIn, response: Response, own: bool = False) -> AtlasPack:
    """The whole atlas as a file, or only what is the practice's own (which can be taken in elsewhere)."""
    shipped = [] if own else [e.model_dump(mode="json", by_alias=True, exclude_none=True) for e in catalogue.entries()]
    name = "own-points" if own else "atlas"
    here.audit(None, f"{name.replace('-', ' ')} exported")
    response.headers["Content-Disposition"] = f'attachment; filename="{name}-{here.today:%Y-%m-%d}.json"'
    return AtlasPack(entries=[*shipped, *(row.row for row in store.own_rows(here.db))])


@router.post("/atlas/file", status_code=201)
def import_atlas(pack: AtlasPack, here: SignedIn) -> Taken:
    """Import a file of own points and areas: all of it, or nothing and the first place that cannot be used."""
    known = {row.entry: row.version for row in store.own_rows(here.db)}
    seen: set[str] = set()
    for rank, row in enumerate(pack.entries):
        checked(row, f"entries.{rank}")
        if row["id"] in seen:
            raise CoreError(message("atlas-duplicate-entry", row=row["id"]), where=f"entries.{rank}.id")
        seen.add(row["id"])
    for row in pack.entries:
        store.save_own(here.db, here.practice_id, row, known.get(row["id"]))
    here.audit(None, f"{len(pack.entries)} own entries imported")
    return Taken(
        added=[row["id"] for row in pack.entries if row["id"] not in known],
        changed=[row["id"] for row in pack.entries if row["id"] in known],
    )
