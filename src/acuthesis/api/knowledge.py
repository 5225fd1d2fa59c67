"""The knowledge that composing uses: complaints, schools, doses, techniques; and the practice's changes to it."""

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.core.atlas.entries.catalogue import entry
from acuthesis.core.compose.knowledge.complaints import ComplaintKind
from acuthesis.core.compose.knowledge.dose import DoseDefault, dose_in_words, duration_s
from acuthesis.core.compose.knowledge.layer import Knowledge, Layer, layered
from acuthesis.core.compose.knowledge.school import School
from acuthesis.core.compose.knowledge.technique import Technique, techniques
from acuthesis.core.compose.knowledge.use_reasons import why_of
from acuthesis.core.message import message
from acuthesis.services.visit.treatment import hand_changed
from acuthesis.store import compose as stored
from acuthesis.store import people as store

router = APIRouter(route_class=StrictRoute, tags=["knowledge"])


class UsedFor(BaseModel):
    """A point or area that a complaint uses, with its name and why."""

    id: str
    name: str
    ground: str
    role: str
    weight: float
    side: str
    why: str
    own: bool  # added or weighed by the practice


class ComplaintPage(BaseModel):
    """A complaint as the catalogue shows it; `changed` where the practice changed it."""

    kind: ComplaintKind
    uses: list[UsedFor]
    removed: list[str]
    changed: bool
    own: bool  # a complaint that the practice added


class SchoolPage(BaseModel):
    """A school as the catalogue shows it."""

    school: School
    changed: bool


class DosePage(BaseModel):
    """A named dose in words."""

    id: str
    dose: DoseDefault
    words: str
    seconds: float
    used_by: list[str]
    changed: bool


class Catalogue(BaseModel):
    """Everything that composing works with."""

    complaints: list[ComplaintPage]
    schools: list[SchoolPage]
    doses: list[DosePage]
    techniques: list[Technique]


class LayerOut(BaseModel):
    """The practice's changes, and their version."""

    version: int
    layer: Layer


class LayerIn(LayerOut):
    """The practice's changes as they are wanted; `version` is the one that was seen."""

    model_config = ConfigDict(extra="forbid")


@router.get("/catalogue")
def read_catalogue(here: SignedIn) -> Catalogue:
    """Complaints, schools, doses and techniques, with the practice's changes marked."""
    layer, known = here.layer, here.knowledge
    return Catalogue(
        complaints=[_complaint_page(kind, layer, known) for kind in known.complaints.values()],
        schools=[SchoolPage(school=school, changed=school.id in layer.schools) for school in known.schools.values()],
        doses=[
            DosePage(
                id=id,
                dose=dose,
                words=dose_in_words(dose.dose),
                seconds=duration_s(dose.dose),
                used_by=[school.name for school in known.schools.values() if id in _doses_of(school)],
                changed=id in layer.doses,
            )
            for id, dose in known.doses.items()
        ],
        techniques=list(techniques().values()),
    )


def _doses_of(school: School) -> set[str]:
    rules = school.doses
    return {rules.default, *rules.tissue.values(), *rules.site.values(), *rules.role.values(), school.closing.dose}


def _complaint_page(kind: ComplaintKind, layer: Layer, known: Knowledge) -> ComplaintPage:
    change = layer.complaints.get(kind.id)
    own = {use.id for use in change.add} | set(change.weights) if change else set()
    uses = [
        UsedFor(
            id=use.id,
            name=known.find(use.id).names.english,
            ground=use.ground,
            role=use.role,
            weight=use.weight,
            side=use.side,
            why=why_of(use, known.find(use.id), kind.id),
            own=use.id in own,
        )
        for use in kind.uses
    ]
    return ComplaintPage(
        kind=kind.model_copy(update={"uses": ()}),
        uses=uses,
        removed=list(change.remove) if change else [],
        changed=change is not None,
        own=kind.id in layer.own_complaints,
    )


@router.get("/practice/layer")
def read_layer(here: SignedIn) -> LayerOut:
    """The practice's changes to the shipped knowledge."""
    return LayerOut(version=here.layer_version, layer=here.layer)


class Preference(BaseModel):
    """Which of a point's places is drawn in this practice: the id of an alternative, or None for the standard's."""

    model_config = ConfigDict(extra="forbid")

    alternative: str | None = Field(None, max_length=60)


@router.put("/practice/preferred/{id}")
def prefer_place(id: str, wanted: Preference, here: SignedIn) -> LayerOut:
    """Prefer a place for a point on which teachers or editions differ, in the whole practice."""
    point = entry(id).id
    preferred = {one: chosen for one, chosen in here.layer.preferred.items() if one != point}
    if wanted.alternative is not None:
        preferred[point] = wanted.alternative
    layer = here.layer.model_copy(update={"preferred": preferred})
    return change_layer(LayerIn(version=here.layer_version, layer=layer), here)


@router.put("/practice/layer")
def change_layer(wanted: LayerIn, here: SignedIn) -> LayerOut:
    """Replace the practice's changes. They are checked as a whole: all of them are kept or none.

    A complaint of its own stays as long as somebody has it: their record would be about nothing.
    """
    layered(wanted.layer, here.own)
    gone = set(here.layer.own_complaints) - set(wanted.layer.own_complaints)
    for id in sorted(gone & store.complaints_in_use(here.db)):
        raise store.Conflict(
            message("knowledge-used-persons-record-so-cannot", id=id),
            where="own_complaints",
        )
    version = stored.save_layer(here.db, here.practice_id, wanted.layer, wanted.version, here.practitioner.id)
    here.audit(None, "practice rules and data changed")
    here.layer_changed()
    hand_changed(here)
    return LayerOut(version=version, layer=wanted.layer)
