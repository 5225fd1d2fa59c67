"""What a composition is judged by, and what about a person changes doses: weights.yaml and modifiers.yaml."""

from functools import lru_cache
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.atlas.model import Position
from acuthesis.core.body.catalogue import read_yaml
from acuthesis.core.compose.dose import DATA
from acuthesis.core.data_file import read
from acuthesis.core.safety.rule import Condition

CoverKind = Literal["local", "far", "calm"]


class Weights(BaseModel):
    """The numbers of weights.yaml; benefits are in units of benefit, times in seconds."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    position_change: float
    rest: float
    stop: float
    reach: float
    awkward: dict[Position, float]
    cover: dict[CoverKind, float]
    half: float
    shorter: float
    longer: float
    prefer: float
    pinned: float
    history: float
    resting: float
    mixed: float
    talk_share: float
    talk_most_s: float
    rating_s: float
    frame_share: float
    second_look_from: float
    second_look_least_s: float

    def of_length(self, factor: float) -> float:
        """Share of the full benefit of a dose that is `factor` times as long as usual."""
        return 1 - self.shorter * (1 - factor) if factor < 1 else 1 + self.longer * (factor - 1)


class Modifier(BaseModel):
    """Something about a person that makes doses shorter."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    when: Condition
    factor: float = Field(gt=0.2, le=1)
    why: str


@lru_cache
def weights() -> Weights:
    """The weights of weights.yaml: what a benefit, a turn or a change of place is worth to the composer, with the
    source.
    """
    return Weights.model_validate(read(DATA / "weights.yaml"))


@lru_cache
def modifiers() -> tuple[Modifier, ...]:
    """The modifiers of modifiers.yaml: what in a person's story raises or lowers a benefit, and by which factor."""
    return tuple(read_yaml(DATA / "modifiers.yaml", Modifier))
