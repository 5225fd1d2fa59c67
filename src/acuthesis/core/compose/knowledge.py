"""What the tradition uses for a complaint: loaded from complaints.yaml and checked against atlas and doses."""

from functools import lru_cache
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.atlas.catalogue import entry
from acuthesis.core.body.catalogue import read_yaml
from acuthesis.core.compose.dose import DATA, dose_defaults
from acuthesis.core.errors import UnknownId

Role = Literal["main", "supply", "far", "pain", "calm"]
ROLE_ORDER: tuple[Role, ...] = ("main", "supply", "far", "pain", "calm")


class Use(BaseModel):
    """One point or area used for a complaint."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    role: Role
    weight: float = Field(gt=0, le=5)
    side: Literal["affected", "other", "both", "midline"]
    dose: str
    why: str


class ComplaintKind(BaseModel):
    """A complaint by its plain name, acts it may hinder, and what is traditionally used."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    name: str
    acts: tuple[str, ...]
    uses: tuple[Use, ...]


@lru_cache
def complaint_kinds() -> dict[str, ComplaintKind]:
    """Every complaint by id. Raises: UnknownId if one uses a point or dose that does not exist."""
    table = {kind.id: kind for kind in read_yaml(DATA / "complaints.yaml", ComplaintKind)}
    for kind in table.values():
        for use in kind.uses:
            entry(use.id)
            if use.dose not in dose_defaults():
                raise UnknownId(f"{kind.id} uses the dose '{use.dose}', which does not exist", where=kind.id)
    return table


def complaint_kind(id: str) -> ComplaintKind:
    """A complaint by id. Raises: UnknownId listing what there is."""
    if id not in complaint_kinds():
        raise UnknownId(f"there is no complaint '{id}'; there are {', '.join(complaint_kinds())}", where="complaints")
    return complaint_kinds()[id]
