"""Schools (ways of working) as data: their points, phases, order and doses. One file for each school."""

from collections.abc import Callable
from functools import lru_cache
from pathlib import Path
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.atlas.entries.catalogue import Entry, entry, part_names, part_of, sites
from acuthesis.core.atlas.entries.model import Position, Tissue
from acuthesis.core.compose.knowledge.complaints import PointSource, Role
from acuthesis.core.compose.knowledge.dose import DATA, DoseDefault, dose_defaults
from acuthesis.core.compose.knowledge.technique import techniques
from acuthesis.core.data_file import read
from acuthesis.core.errors import UnknownId
from acuthesis.core.message import message

DEFAULT_SCHOOL = "channel_acupressure"
Within = Literal["importance", "toes_to_heel", "top_down", "broad_to_deep", "forehead_to_chin", "chin_to_scalp"]
FrameKind = Literal["rate", "breathe", "second_look", "close"]


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Phase(_Part):
    """A stretch of the sequence: which roles or framing stops belong to it, and which way it goes."""

    id: str
    name: str
    direction: Literal["settle", "work", "tone", "ground"]
    roles: tuple[Role, ...] = ()
    kinds: tuple[FrameKind, ...] = ()
    techniques: tuple[str, ...] = ()  # belong to every session of this school
    within: Within | None = None  # order inside the phase, where it is not the school's
    by_side: bool = False  # all of one side, then all of the other
    ground: bool = False  # ends with the school's grounding press
    general: Literal["warm", "finish"] | None = None  # holds what of the general round comes before, or after the rest
    again: bool = False  # holds the second round at the main places


class Order(_Part):
    """`scope` position: the phases run anew in each position; whole: once, over the whole sequence."""

    scope: Literal["position", "whole"]
    within: Within


class DoseRules(_Part):
    """Which named dose: by role first, then by site, then by tissue, else the default."""

    default: str
    tissue: dict[Tissue, str] = {}
    site: dict[str, str] = {}
    role: dict[Role, str] = {}


class Prefers(_Part):
    """Parts of the body that this school leans on."""

    parts: tuple[str, ...]
    factor: float = Field(gt=0, le=3)


class Grounding(_Part):
    """A short press that ends a phase."""

    id: str
    dose: str
    words: str


class SoreSpot(_Part):
    """What a sore spot gets first in a school, and the words in which the conductor says it."""

    then: Literal["leave", "ease", "rim", "short_firm_press"]
    words: str
    firm: bool = False  # once firmer for five seconds, under the ceiling, where two rounds did not help


class Load(_Part):
    """The most seconds on one site and side, and exceptions."""

    site_s: int = Field(gt=0)
    sites: dict[str, int] = {}


class Closing(_Part):
    """The last stop of a school's treatments: the name of its dose, and what is said."""

    dose: str
    words: str


class GeneralAreas(_Part):
    """Areas that the general round passes over: in which phases, with which dose, and how many at least, or none."""

    phases: tuple[str, ...] = Field(min_length=1)
    dose: str
    least: int = Field(gt=0)
    ids: tuple[str, ...]


class General(_Part):
    """What a school does with the minutes that its points leave: the general round (areas, then techniques, the first
    that fit), the doses of a second round at the main places, and by how much a hold may be longer than usual.
    """

    areas: GeneralAreas | None = None
    techniques: tuple[str, ...] = ()
    again: tuple[str, ...] = Field(min_length=1)
    longest: float = Field(ge=1, le=3)


class School(_Part):
    """A way of working: what it prefers, in which order, with which doses, and how much load; all of it data."""

    id: str
    name: str
    works_on: str
    draws: dict[PointSource, float]
    prefers: Prefers | None = None
    alone: bool = False  # only what a person reaches without help
    phases: tuple[Phase, ...]
    order: Order
    ground: Grounding | None = None
    positions: tuple[Position, ...] = ()  # the only ones, in order of ease; all if empty
    sides: Literal["in_turn", "right_then_left"]
    together: tuple[str, ...] = ()  # sites where both sides are pressed at once
    doses: DoseRules
    range: tuple[float, ...] = Field(min_length=1)  # by how much a dose may be shorter or longer
    level_ceiling: int | None = Field(None, ge=1, le=5)
    sore_spot: SoreSpot
    second_look_share: float = Field(ge=0, le=0.5)  # of the pressing time
    one_ground: bool = False  # of the grounds it draws on, a session keeps to one
    courses: tuple[tuple[str, ...], ...] = ()  # places worked one after the other in this order, as far as they are in
    parts_first: tuple[str, ...] = ()  # parts of the body that come before the others, within a phase
    load: Load
    most_points: int = Field(gt=0)  # in its longest session; a shorter one holds a share (weights.yaml)
    most_warm: int = Field(4, ge=0)  # strokes and the like before the pressing
    technique_parts: tuple[str, ...] = ()  # strokes and the like only on these parts; anywhere if empty
    own_techniques: bool = False  # none but those of its phases
    awkward: dict[Position, float] = {}  # positions that this school likes less than others do
    rest_every_s: int = Field(ge=120)
    general: General | None = None
    half_reclined: bool = False  # the person lies half reclined rather than flat
    closing: Closing
    turning: str

    def phase_of(self, role: Role) -> int | None:
        """Index of the phase that a role belongs to; None if this school has no place for it.

        >>> schools()["quiet_holding"].phase_of("main")
        2
        """
        return next((index for index, phase in enumerate(self.phases) if role in phase.roles), None)

    def frame_phase(self, kind: FrameKind) -> int | None:
        """Index of the first phase with a framing stop of this kind.

        >>> schools()["quiet_holding"].frame_phase("rate")
        0
        """
        return next((index for index, phase in enumerate(self.phases) if kind in phase.kinds), None)

    def last_phase(self, kind: FrameKind) -> int | None:
        """Index of the last phase with a framing stop of this kind.

        >>> schools()["quiet_holding"].last_phase("rate")
        7
        """
        return max((index for index, phase in enumerate(self.phases) if kind in phase.kinds), default=None)

    def dose_for(self, target: Entry, role: Role, doses: dict[str, DoseDefault]) -> DoseDefault:
        """The dose a point or area gets: by role, site, tissue or default; both sides together where it says so."""
        by = self.doses
        name = by.role.get(role) or by.site.get(target.site) or by.tissue.get(target.tissue) or by.default
        found = doses[name]
        if target.site in self.together:
            found = found.model_copy(update={"dose": found.dose.model_copy(update={"together": True})})
        return found


def check_school(school: School, doses: dict[str, DoseDefault] | None = None) -> School:
    """Raises: UnknownId if a school mentions a dose, site, part or technique that does not exist."""

    def known(names: object, there: object, what: str) -> None:
        for name in names:  # type: ignore[attr-defined]
            if name not in there:  # type: ignore[operator]
                raise UnknownId(
                    message("school-school-names-which-does-not", id=school.id, what=what, name=name), where=school.id
                )

    by = school.doses
    used = [by.default, *by.tissue.values(), *by.site.values(), *by.role.values(), school.closing.dose]
    known(used, doses or dose_defaults(), "dose")
    known([*school.together, *by.site, *school.load.sites], sites(), "site")
    parts = [*(school.prefers.parts if school.prefers else ()), *school.technique_parts, *school.parts_first]
    known(parts, part_names(), "body part")
    for course in school.courses:
        for id in course:
            entry(id)
    known([id for phase in school.phases for id in phase.techniques], techniques(), "technique")
    if school.general is not None:
        _check_general(school, school.general, doses or dose_defaults(), known)
    if school.ground is not None:
        entry(school.ground.id)
        known([school.ground.dose], doses or dose_defaults(), "dose")
    for kind in ("breathe", "close"):
        if school.frame_phase(kind) is None:
            raise UnknownId(message("school-school-no-phase-with", id=school.id, kind=kind), where=school.id)
    return school


def _check_general(
    school: School, general: General, doses: object, known: Callable[[object, object, str], None]
) -> None:
    known(general.techniques, techniques(), "technique")
    known(general.again, doses, "dose")
    if general.areas is not None:
        known([general.areas.dose], doses, "dose")
        known(general.areas.phases, {phase.id for phase in school.phases}, "phase")
        for id in general.areas.ids:
            entry(id)


def read_school(path: Path) -> School:
    """A school from its file. Raises: UnknownId, pydantic.ValidationError."""
    return check_school(School.model_validate(read(path)))


@lru_cache
def schools() -> dict[str, School]:
    """Every school by id, channel acupressure first: the one that a practice begins with.

    >>> sorted(schools())[0]
    'channel_acupressure'
    """
    loaded = [read_school(path) for path in sorted((DATA / "schools").glob("*.yaml"))]
    return {school.id: school for school in loaded}


def school_of(id: str) -> School:
    """A school by id. Raises: UnknownId listing what there is.

    >>> school_of("channel_acupressure").name
    'Channel acupressure'
    """
    if id not in schools():
        raise UnknownId(message("layer-there-no-school-there", id=id, schools=", ".join(schools())), where="school")
    return schools()[id]


def preference(school: School, target: Entry) -> float:
    """By how much a school leans on the part a target lies on: a factor on its benefit, 1 where it says nothing.

    >>> from acuthesis.core.atlas.entries.catalogue import entry
    >>> preference(schools()["quiet_holding"], entry("GB20"))
    1.3
    """
    return school.prefers.factor if school.prefers and part_of(target) in school.prefers.parts else 1.0
