"""Complaints and what the tradition uses for them: from complaints/*.yaml, checked against atlas and screening."""

from collections.abc import Callable, Iterable
from functools import lru_cache
from typing import Any, Literal, get_args

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, model_validator

from acuthesis.core.atlas.entries.catalogue import Entry, entry
from acuthesis.core.atlas.entries.model import Position
from acuthesis.core.body.catalogue import read_yaml
from acuthesis.core.compose.knowledge.dose import DATA
from acuthesis.core.compose.knowledge.technique import techniques
from acuthesis.core.data_file import read
from acuthesis.core.errors import UnknownId
from acuthesis.core.message import message
from acuthesis.core.safety.screening import questions

Role = Literal["warm", "main", "supply", "far", "pain", "calm", "finish"]
ROLE_ORDER: tuple[Role, ...] = get_args(Role)
# What a use lies on; a school draws on one or several.
PointSource = Literal["points", "reflexes", "ear", "face", "ribs"]
GROUND_WORDS: dict[PointSource, str] = {
    "points": "body points",
    "reflexes": "foot and hand reflexes",
    "ear": "the ear",
    "face": "face and scalp",
    "ribs": "rib and breastbone points",
}
GROUNDS: tuple[PointSource, ...] = get_args(PointSource)
USE_SIDES = Literal["affected", "other", "both", "midline"]

# Weight of the first of a list by its role, and by how much each next one weighs less: lists run from the most to the
# least important. A weight of its own overrules.
FIRST_WEIGHT: dict[Role, float] = {
    "warm": 2.0,
    "main": 4.0,
    "supply": 3.0,
    "far": 3.0,
    "pain": 2.0,
    "calm": 2.5,
    "finish": 2.0,
}
WEIGHT_STEP, LEAST_WEIGHT = 0.3, 1.0
DEFAULT_CORE = 2  # places of a core that is not written
ROLE_WORDS: dict[Role, str] = {
    "warm": "warm-up",
    "main": "local",
    "supply": "adjacent",
    "far": "distal",
    "pain": "pain relief",
    "calm": "calming",
    "finish": "to finish",
}


class Use(BaseModel):
    """One point or area used for a complaint: on which ground, in which role, how much the tradition leans on it."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    ground: PointSource
    role: Role
    weight: float = Field(gt=0, le=5)
    side: USE_SIDES
    level: int | None = Field(None, ge=1, le=5)  # no more than this, where it is done lightly
    why: str


class Core(BaseModel):
    """One rank of what anyone would begin with for a complaint on a ground; several ids go together."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    ground: PointSource
    rank: int = Field(ge=0)
    ids: tuple[str, ...] = Field(min_length=1, max_length=4)


class Evidence(BaseModel):
    """How strong the evidence is for pressing, and what it says; never a claim of cure."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    strength: Literal["none", "weak", "some", "fair"]
    says: str


class ComplaintKind(BaseModel):
    """A complaint by its plain name: what stops it, what to ask, what it hinders, what is traditionally used."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    name: str
    sides: Literal["affected", "both"]
    checked: str = ""  # what a doctor must have looked at before
    red_flags: tuple[str, ...]
    stop_if: tuple[str, ...]
    ask: tuple[str, ...]
    acts: tuple[str, ...]
    measure: str
    evidence: Evidence
    techniques: tuple[str, ...]
    home: tuple[str, ...]
    not_in: dict[Position, str] = {}  # positions that it is not worked on in, with the reason
    needs: tuple[str, ...] = ()  # questions of the screening without whose answer it is not worked on
    home_emptied: bool = False  # a practice wants nothing pressed at home for it
    uses: tuple[Use, ...]
    core: tuple[Core, ...] = ()

    def core_on(self, ground: PointSource) -> tuple[Core, ...]:
        """What to begin with on a ground, by rank: as written, or the first two main places of the complaint.

        >>> complaint_kind("eye_strain").core_on("points")[0].ids
        ('BL2',)
        """
        written = tuple(one for one in self.core if one.ground == ground)
        if written:
            return written
        first = [use for use in self.uses if use.ground == ground and use.role == "main"]
        first.sort(key=lambda use: -use.weight)
        return tuple(Core(ground=ground, rank=rank, ids=(use.id,)) for rank, use in enumerate(first[:DEFAULT_CORE]))

    @model_validator(mode="before")
    @classmethod
    def _flat(cls, row: Any) -> Any:
        """Turns the lists by ground and role into uses."""
        if not isinstance(row, dict) or "uses" in row:
            return row
        uses = [
            _use(listed, ground, role, place, row["sides"])
            for ground in GROUNDS
            for role in ROLE_ORDER
            for place, listed in enumerate(row.get(ground, {}).get(role, ()))
        ]
        for ground in GROUNDS:
            for role in row.get(ground, {}):
                if role not in ROLE_ORDER:
                    raise ValueError(f"{row['id']}: there is no role '{role}'")
        return {key: value for key, value in row.items() if key not in GROUNDS} | {"uses": uses}


def _use(listed: Any, ground: PointSource, role: Role, place: int, sides: str) -> dict[str, Any]:
    given = {"id": listed} if isinstance(listed, str) else dict(listed)
    return {
        "ground": ground,
        "role": role,
        "weight": max(FIRST_WEIGHT[role] - WEIGHT_STEP * place, LEAST_WEIGHT),
        "side": "both" if role == "calm" else sides,
        "why": "",
        **given,
    }


def check_complaint(kind: ComplaintKind, find: Callable[[str], Entry] = entry) -> None:
    """Raises: UnknownId if a complaint mentions a point, technique or question that does not exist."""
    for id in (*(use.id for use in kind.uses), *kind.home):
        try:
            find(id)
        except UnknownId as error:
            raise UnknownId(message("error-of", id=kind.id, said=error.message), where=kind.id) from error
    for one in kind.core:
        for id in one.ids:
            if not any(use.id == id and use.ground == one.ground for use in kind.uses):
                raise UnknownId(
                    message("complaints-begins-with-which-not-among", id=kind.id, point=id, ground=one.ground),
                    where=kind.id,
                )
    for id in kind.techniques:
        if id not in techniques():
            raise UnknownId(
                message("complaints-uses-technique-which-does-not", id=kind.id, technique=id), where=kind.id
            )
    for id in (*kind.red_flags, *kind.needs):
        if id not in questions():
            raise UnknownId(
                message("complaints-asks-which-no-question-screening", id=kind.id, question=id), where=kind.id
            )


@lru_cache
def complaint_kinds() -> dict[str, ComplaintKind]:
    """Every complaint by id, in the order of the files. Raises: UnknownId, pydantic.ValidationError.

    >>> complaint_kinds()["heel_pain"].name
    'Heel pain'
    """
    files = ("head", "neck_and_arm", "back_and_leg", "chest_and_mood", "belly", "general")
    table = {kind.id: kind for name in files for kind in read_yaml(DATA / "complaints" / f"{name}.yaml", ComplaintKind)}
    for id, by_ground in cores().items():
        if id not in table:
            raise UnknownId(message("complaints-cores-yaml-names-complaint-which", id=id), where=id)
        table[id] = table[id].model_copy(update={"core": by_ground})
    for kind in table.values():
        check_complaint(kind)
    return table


def cores() -> dict[str, tuple[Core, ...]]:
    """The cores of cores.yaml by complaint. Raises: pydantic.ValidationError.

    >>> cores()["eye_strain"][0].ids
    ('BL2',)
    """
    rows = TypeAdapter(dict[str, dict[PointSource, list[str | list[str]]]]).validate_python(read(DATA / "cores.yaml"))
    return {
        id: tuple(
            Core(ground=ground, rank=rank, ids=(listed,) if isinstance(listed, str) else tuple(listed))
            for ground, ranked in by_ground.items()
            for rank, listed in enumerate(ranked)
        )
        for id, by_ground in rows.items()
    }


def unknown_complaint(id: str, there: Iterable[str]) -> UnknownId:
    """The error for a complaint that does not exist; it names the nearest, or all.

    >>> unknown_complaint("heal_pain", ["heel_pain"]).message.values["near"]
    'heel_pain'
    """
    words = set(id.split("_"))
    near = [one for one in there if words & set(one.split("_"))]
    return UnknownId(
        message("complaints-there-no-complaint-there", id=id, near=", ".join(near or there)), where="complaints"
    )


def complaint_kind(id: str) -> ComplaintKind:
    """A shipped complaint by id. Raises: UnknownId naming the nearest there are.

    >>> complaint_kind("heel_pain").sides
    'affected'
    """
    if id not in complaint_kinds():
        raise unknown_complaint(id, complaint_kinds())
    return complaint_kinds()[id]
