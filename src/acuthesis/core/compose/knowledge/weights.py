"""Weights of a composition, and modifiers of the dose by what is known of a person: weights.yaml, modifiers.yaml."""

from functools import lru_cache
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.atlas.entries.model import Position
from acuthesis.core.body.catalogue import read_yaml
from acuthesis.core.compose.knowledge.dose import DATA
from acuthesis.core.data_file import read
from acuthesis.core.safety.rule import Condition

CoverKind = Literal["local", "far", "calm"]


class _Data(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class CoreWeights(_Data):
    """What the places are worth that anybody would begin with, in a unit of their own."""

    ranks: tuple[float, ...]
    any: float
    pair: float
    half: float
    turn: float


class OrderWeights(_Data):
    """What an order costs: for each metre walked, each from hand to hand and each reached for beyond the arms, each
    change of what presses, each level that a place is gentler than the one before; `late`: for each place that the
    weightiest of a phase waits for.
    """

    walk: float
    hands: float
    tool: float
    softer: float
    stretch: float
    late: float

    def going(self, walked: float, hands: float, reached: float) -> float:
        """What metres cost: walked, from hand to hand, and reached for beyond the arms."""
        return self.walk * walked + self.hands * hands + self.stretch * reached


class Weights(_Data):
    """The numbers of weights.yaml; benefits are in units of benefit, times in seconds unless they are named minutes."""

    core: CoreWeights
    order: OrderWeights
    position_change: float
    lonely: float
    rest: float
    stop: float
    stroke: float
    reach: float
    part: float
    tool: float
    form: float
    again: tuple[float, ...]
    awkward: dict[Position, float]
    awkward_alone: dict[Position, float]
    cover: dict[CoverKind, float]
    half: float
    shorter: float
    longer: float
    prefer: float
    pinned: float
    history: float
    resting: float
    mixed: float
    complaint_min: float
    turn_from: tuple[float, ...]
    one_side_to: float
    sizes: tuple[tuple[float, float], ...]
    further: float
    most_points: int
    talk_share: float
    talk_most_s: float
    rating_s: float
    frame_share: float
    talk_longest_s: float
    arrive_longest_s: float
    close_longest_s: float
    unhurried_s: int
    general_share: float
    areas_share: float
    second_look_from: float
    second_look_least_s: float

    def of_length(self, factor: float) -> float:
        """Share of the full benefit of a dose that is `factor` times as long as usual."""
        return 1 - self.shorter * (1 - factor) if factor < 1 else 1 + self.longer * (factor - 1)

    def of_rank(self, rank: int) -> float:
        """Worth of a place of a core by its rank from 0.

        >>> [weights().of_rank(rank) for rank in (1, 2)]
        [0.34, 0.2]
        """
        return self.core.ranks[min(rank, len(self.core.ranks) - 1)]

    def points_for(self, most: int, minutes: float, complaints: int) -> int:
        """Most points in so many minutes for so many complaints, where a school has `most` in its longest session.

        >>> weights().points_for(15, 40, 1), weights().points_for(15, 40, 3), weights().points_for(15, 3, 1)
        (11, 12, 3)
        """
        at, share = zip(*self.sizes, strict=True)
        some = most * float(np.interp(minutes, at, share)) + self.further * (complaints - 1)
        return max(1, min(round(some), most, self.most_points))

    def turns_for(self, minutes: float) -> int:
        """How often somebody turns in so many minutes at most.

        >>> weights().turns_for(60)
        3
        """
        return sum(minutes >= start for start in self.turn_from)

    def complaints_for(self, minutes: float) -> int:
        """How many complaints so many minutes are enough for.

        >>> weights().complaints_for(15), weights().complaints_for(60)
        (3, 12)
        """
        return max(1, int(minutes // self.complaint_min))


class Modifier(_Data):
    """Something about a person that makes doses shorter, leaves no second look, or has them lie half reclined."""

    when: Condition
    factor: float = Field(1.0, gt=0.2, le=1)
    second_look: bool = True
    reclined: bool = False
    why: str


@lru_cache
def weights() -> Weights:
    """The weights of weights.yaml: what a benefit, a turn or a change of place is worth to the composer, with the
    source.

    >>> weights().of_rank(1) >= weights().of_rank(2)
    True
    """
    return Weights.model_validate(read(DATA / "weights.yaml"))


@lru_cache
def modifiers() -> tuple[Modifier, ...]:
    """The modifiers of modifiers.yaml: what in a person's story raises or lowers a benefit, and by which factor.

    >>> len(modifiers()) > 3
    True
    """
    return tuple(read_yaml(DATA / "modifiers.yaml", Modifier))
