"""Techniques other than pressing: strokes, loosening, stretches, breathing; loaded from techniques.yaml."""

from functools import lru_cache
from typing import Literal

from pydantic import BaseModel, ConfigDict

from acuthesis.core.atlas.entries.catalogue import sites
from acuthesis.core.atlas.entries.model import Contact, Position, Tissue
from acuthesis.core.body.catalogue import read_yaml
from acuthesis.core.compose.knowledge.dose import DATA, dose_defaults
from acuthesis.core.errors import UnknownId
from acuthesis.core.message import message
from acuthesis.core.safety.body_parts import joints
from acuthesis.core.safety.rule import Motion
from acuthesis.core.safety.touching import StopSide, Target

TechniqueKind = Literal["stroke", "loosen", "stretch", "breathe"]


class Technique(BaseModel):
    """One technique: what is under the hands (`sites`), in which positions, with which dose, and how it is done."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    kind: TechniqueKind
    name: str
    phase: Literal["warm", "finish"]
    side: Literal["both", "midline"]
    sites: tuple[str, ...]
    positions: tuple[Position, ...]
    alone: bool
    dose: str
    contact: Contact
    joints: dict[str, Motion] = {}
    together: bool = False  # both hands, both sides at once
    words: str
    words_in: dict[Position, str] = {}  # for a position in which the usual words do not fit
    general: bool = False  # belongs to the general round of a school, not to a complaint
    along: tuple[str, ...] = ()  # channels that it follows

    def words_for(self, position: Position) -> str:
        """How it is done with somebody in a position.

        >>> techniques()["neck_loosening"].words_for("seated").startswith("One hand on the forehead")
        True
        """
        return self.words_in.get(position, self.words)

    @property
    def tissue(self) -> Tissue:
        """What is under the hands at its first site; breathing touches nothing and counts as muscle.

        >>> techniques()["belly_strokes"].tissue
        'abdomen'
        """
        return sites()[self.sites[0]]["tissue"] if self.sites else "muscle"

    def on(self, side: StopSide) -> Target:
        """What the rules are held against, worked on a side."""
        return Target(
            id=self.id,
            tissue=self.tissue,
            places=self.places,
            side=side,
            kind=self.kind,
            joints=tuple(self.joints),
            motions=tuple(dict.fromkeys(self.joints.values())),
        )

    @property
    def places(self) -> tuple[str, ...]:
        """Ids of the sites and parts that it lies on.

        >>> techniques()["belly_strokes"].places
        ('lower_belly', 'upper_belly', 'trunk')
        """
        return (*self.sites, *dict.fromkeys(sites()[site]["part"] for site in self.sites))


@lru_cache
def techniques() -> dict[str, Technique]:
    """Every technique by id. Raises: UnknownId if one mentions a site, joint or dose that does not exist.

    >>> techniques()["belly_strokes"].name
    'Circles over the abdomen'
    """
    table = {one.id: one for one in read_yaml(DATA / "techniques.yaml", Technique)}
    for one in table.values():
        for site in one.sites:
            if site not in sites():
                raise UnknownId(message("technique-technique-lies-on-which-does", id=one.id, site=site), where=one.id)
        for joint in one.joints:
            if joint not in joints():
                raise UnknownId(
                    message("technique-technique-moves-which-does-not", id=one.id, joint=joint), where=one.id
                )
        if one.dose not in dose_defaults():
            raise UnknownId(
                message("technique-technique-takes-dose-which-does", id=one.id, dose=one.dose), where=one.id
            )
    return table
