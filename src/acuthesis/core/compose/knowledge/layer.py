"""A practice's changes to the shipped knowledge, merged over it and marked: complaints, schools, doses, rules.

It may add complaints of its own, which begin empty and get their points like the shipped ones get more.

The shipped data stays as it is; what a practice changed can always be seen, and taken back. Rules are only added, so a
practice can tighten what is shipped and never loosen it.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from acuthesis.core.atlas.entries.catalogue import Entry, entry
from acuthesis.core.atlas.entries.preferred import preferred_points
from acuthesis.core.compose.knowledge.complaints import (
    ComplaintKind,
    Core,
    Evidence,
    Use,
    check_complaint,
    complaint_kinds,
    unknown_complaint,
)
from acuthesis.core.compose.knowledge.dose import DoseDefault, dose_defaults
from acuthesis.core.compose.knowledge.school import School, SoreSpot, check_school, schools
from acuthesis.core.errors import CoreError, UnknownId
from acuthesis.core.message import message
from acuthesis.core.safety.rule import Rule
from acuthesis.core.safety.standing import house_rules

OWN_COMPLAINT = re.compile(r"own_[a-z0-9_]{1,50}")
OWN_EVIDENCE = Evidence(strength="none", says="Added by this practice; evidence not reviewed.")
LIGHTEST, HEAVIEST = 0.1, 5.0
Weight = Annotated[float, Field(ge=LIGHTEST, le=HEAVIEST, allow_inf_nan=False)]
ShortText = Annotated[str, StringConstraints(min_length=1, max_length=200, strip_whitespace=True)]


class _Change(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class OwnComplaint(_Change):
    """A complaint that the practice adds. Its points come from the `ComplaintChange` under the same id."""

    name: Annotated[str, StringConstraints(min_length=1, max_length=60, strip_whitespace=True)]
    sides: Literal["affected", "both"] = "both"
    stop_if: tuple[ShortText, ...] = Field((), max_length=12)
    ask: tuple[ShortText, ...] = Field((), max_length=12)
    acts: tuple[ShortText, ...] = Field((), max_length=12)
    measure: ShortText = "0 to 10, for the activity affected"
    techniques: tuple[str, ...] = Field((), max_length=12)

    def kind(self, id: str) -> ComplaintKind:
        """The complaint, still without points."""
        return ComplaintKind(id=id, red_flags=(), evidence=OWN_EVIDENCE, home=(), uses=(), **self.model_dump())


class ComplaintChange(_Change):
    """What a practice does otherwise for a complaint."""

    add: tuple[Use, ...] = Field((), max_length=60)
    remove: tuple[str, ...] = Field((), max_length=60)
    weights: dict[str, Weight] = {}
    home: tuple[str, ...] | None = Field(None, max_length=8)


class SchoolChange(_Change):
    """What a practice does otherwise in a school; what is None stays as shipped."""

    level_ceiling: int | None = Field(None, ge=1, le=5)
    most_points: int | None = Field(None, ge=1, le=60)
    most_warm: int | None = Field(None, ge=0, le=20)
    rest_every_s: int | None = Field(None, ge=120, le=7200)
    second_look_share: float | None = Field(None, ge=0, le=0.5)
    default_dose: str | None = None
    sore_spot: SoreSpot | None = None
    turning: str | None = Field(None, max_length=200)


class Layer(_Change):
    """Everything a practice changed. `overrides` allows a signed reason to lift what a rule lets a signature lift.

    `preferred`: of points on which teachers differ, the alternative (its id) that is drawn here, by point.
    """

    rules: tuple[Rule, ...] = Field((), max_length=100)
    own_complaints: dict[str, OwnComplaint] = Field({}, max_length=100)
    complaints: dict[str, ComplaintChange] = {}
    schools: dict[str, SchoolChange] = {}
    doses: dict[str, DoseDefault] = {}
    preferred: dict[str, str] = Field({}, max_length=100)
    overrides: bool = False


@dataclass(frozen=True)
class Knowledge:
    """What is composed from: complaints, schools and doses, each by id, and which of them a practice changed.

    `own`: the points and areas of the practice, beside the shipped atlas; `preferred`: shipped points as it likes them.
    """

    complaints: dict[str, ComplaintKind]
    schools: dict[str, School]
    doses: dict[str, DoseDefault]
    changed: frozenset[str] = field(default_factory=frozenset)
    own: Mapping[str, Entry] = field(default_factory=dict)
    preferred: Mapping[str, Entry] = field(default_factory=dict)

    def find(self, id: str) -> Entry:
        """A point or area by id, the practice's own among them. Raises: UnknownId.

        >>> shipped().find("sp6").id
        'SP6'
        """
        if id in self.own:
            return self.own[id]
        found = entry(id)
        return self.preferred.get(found.id, found)

    def name_of(self, complaint: str) -> str:
        """Name of a complaint, also of one that the practice has given up or that came with a record.

        >>> shipped().name_of("heel_pain")
        'Heel pain'
        """
        if complaint in self.complaints:
            return self.complaints[complaint].name
        return complaint.removeprefix("own_").replace("_", " ").capitalize()

    def complaint(self, id: str) -> ComplaintKind:
        """A complaint by id. Raises: UnknownId naming the nearest there are.

        >>> shipped().complaint("heel_pain").name
        'Heel pain'
        """
        if id not in self.complaints:
            raise unknown_complaint(id, self.complaints)
        return self.complaints[id]

    def school(self, id: str) -> School:
        """A school by id. Raises: UnknownId listing what there is.

        >>> shipped().school("quiet_holding").most_points
        12
        """
        if id not in self.schools:
            raise UnknownId(
                message("layer-there-no-school-there", id=id, schools=", ".join(self.schools)), where="school"
            )
        return self.schools[id]


@lru_cache
def shipped() -> Knowledge:
    """The knowledge (complaints, schools, doses, rules) as it is shipped, before any practice has changed it.

    >>> shipped().school("quiet_holding").name
    'Quiet holding'
    """
    return Knowledge(complaint_kinds(), schools(), dose_defaults())


def layered(layer: Layer, own: Mapping[str, Entry] | None = None) -> Knowledge:
    """The shipped knowledge with a practice's changes; `own` are its own points and areas.

    Raises: UnknownId for anything that does not exist, CoreError for a rule whose id is taken.

    >>> layered(Layer()).complaint("heel_pain").name
    'Heel pain'
    """
    house_rules(layer.rules)
    doses = {**dose_defaults(), **layer.doses}
    preferred = preferred_points(layer.preferred)
    found = Knowledge({}, {}, doses, own=own or {}, preferred=preferred)
    for id, added in layer.own_complaints.items():
        if not OWN_COMPLAINT.fullmatch(id):
            raise CoreError(message("layer-practice-complaint-id-like-own", id=id), where=id)
        check_complaint(added.kind(id))
    kinds = complaint_kinds() | {id: added.kind(id) for id, added in layer.own_complaints.items()}
    complaints = {
        id: _complaint(kind, layer.complaints[id], found) if id in layer.complaints else kind
        for id, kind in kinds.items()
    }
    ways = {
        id: _school(school, layer.schools[id], doses) if id in layer.schools else school
        for id, school in schools().items()
    }
    for id in (*layer.complaints, *layer.schools):
        if id not in complaints and id not in ways:
            raise UnknownId(message("layer-neither-complaint-nor-school-so", id=id), where=id)
    changed = frozenset((*layer.own_complaints, *layer.complaints, *layer.schools, *layer.doses))
    return Knowledge(complaints, ways, doses, changed, own or {}, preferred)


def _complaint(kind: ComplaintKind, change: ComplaintChange, found: Knowledge) -> ComplaintKind:
    for id in (*change.remove, *change.weights):
        found.find(id)
    kept = [use for use in kind.uses if use.id not in change.remove]
    weighed = [
        use.model_copy(update={"weight": change.weights[use.id]}) if use.id in change.weights else use for use in kept
    ]
    home = kind.home if change.home is None else change.home  # one that was emptied stays empty
    emptied = change.home == ()
    uses = (*weighed, *change.add)
    changed = kind.model_copy(
        update={"uses": uses, "core": _core(kind, uses), "home": home, "home_emptied": emptied},
    )
    check_complaint(changed, found.find)
    return changed


def _core(kind: ComplaintKind, uses: tuple[Use, ...]) -> tuple[Core, ...]:
    """The core without what the practice no longer uses."""
    used = {(use.ground, use.id) for use in uses}
    left = [(one, tuple(id for id in one.ids if (one.ground, id) in used)) for one in kind.core]
    return tuple(one.model_copy(update={"ids": ids}) for one, ids in left if ids)


def _school(school: School, change: SchoolChange, doses: dict[str, DoseDefault]) -> School:
    update = {name: value for name, value in change if value is not None and name != "default_dose"}
    if change.default_dose is not None:
        if change.default_dose not in doses:
            raise UnknownId(message("layer-there-no-dose", default_dose=change.default_dose), where=school.id)
        update["doses"] = school.doses.model_copy(update={"default": change.default_dose})
    return check_school(school.model_copy(update=update), doses)
