"""What lies under a place, from the skin inward: a schematic cross-section, by stretch of the body and by single point.

Order and neighbours are anatomy; no measure is taken from it, and people differ. Source: data/layers.yaml.
"""

from functools import lru_cache
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from acuthesis.core.atlas.entries.catalogue import DATA
from acuthesis.core.atlas.entries.model import Point
from acuthesis.core.data_file import read
from acuthesis.core.errors import UnknownId
from acuthesis.core.message import message

LayerKind = Literal[
    "skin", "fat", "fascia", "muscle", "tendon", "membrane", "bone", "cartilage", "joint", "organ", "gland"
]
Share = Annotated[float, Field(ge=-1, le=1)]


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class TissueLayer(_Row):
    """A layer of the cross-section; `thick` is its part of the depth, beside the other layers'."""

    kind: LayerKind
    name: str
    thick: float = Field(1.0, gt=0, le=4)


class Neighbour(_Row):
    """What runs through the cross-section: a tendon, vessel or nerve.

    `side`: from -1 (toward the middle of the body, or the little finger) to 1 (outward, or the thumb).
    `depth`: from 0 (under the skin) to 1 (as deep as is drawn).
    """

    kind: Literal["tendon", "vessel", "nerve", "gland", "organ"]
    name: str
    side: Share
    depth: float = Field(ge=0, le=1)


class TissueSection(_Row):
    """Layers from the skin inward, and what runs between them; `gap`: the two tendons that a finger goes between."""

    layers: tuple[TissueLayer, ...] = Field(min_length=1)
    beside: tuple[Neighbour, ...] = ()
    gap: tuple[str, str] | None = None


class _SectionRow(_Row):
    """A row of layers.yaml: for sites, or for single points, whose row counts before that of their site."""

    sites: tuple[str, ...] = ()
    points: tuple[str, ...] = ()
    layers: tuple[TissueLayer, ...]
    beside: tuple[Neighbour, ...] = ()

    @model_validator(mode="before")
    @classmethod
    def _spread(cls, row: dict[str, Any]) -> dict[str, Any]:
        layers = [dict(zip(("kind", "name", "thick"), layer, strict=False)) for layer in row["layers"]]
        beside = [dict(zip(("kind", "name", "side", "depth"), one, strict=True)) for one in row.get("beside", [])]
        return {**row, "layers": layers, "beside": beside}

    def section(self) -> TissueSection:
        over = (
            TissueLayer(kind="skin", name="skin", thick=0.4),
            TissueLayer(kind="fat", name="fat under it", thick=0.6),
        )
        return TissueSection(layers=(*over, *self.layers), beside=self.beside, gap=_gap(self.beside))


def _gap(beside: tuple[Neighbour, ...]) -> tuple[str, str] | None:
    """The two tendons that lie next to a place on either side, near the skin."""
    cords = [one for one in beside if one.kind == "tendon" and one.depth < 0.5]
    inner = max((one for one in cords if one.side < 0), key=lambda one: one.side, default=None)
    outer = min((one for one in cords if one.side > 0), key=lambda one: one.side, default=None)
    return (inner.name, outer.name) if inner and outer else None


@lru_cache
def _sections() -> tuple[dict[str, TissueSection], dict[str, TissueSection]]:
    """Cross-sections by site and by point. Raises: UnknownId where two rows are for the same, ValidationError."""
    rows = [_SectionRow.model_validate(row) for row in read(DATA / "layers.yaml")]
    by_site: dict[str, TissueSection] = {}
    by_point: dict[str, TissueSection] = {}
    for row in rows:
        for ids, table in ((row.sites, by_site), (row.points, by_point)):
            for id in ids:
                if id in table:
                    raise UnknownId(message("cross-section-there-two-cross-sections", id=id), where="layers")
                table[id] = row.section()
    return by_site, by_point


def cross_section(point: Point) -> TissueSection | None:
    """What lies under a point; None for one on a stretch of the body that has no row.

    >>> from acuthesis.core.atlas.entries.catalogue import points
    >>> section = cross_section(points()["PC6"])
    >>> section.gap
    ('palmaris longus', 'flexor carpi radialis')
    """
    by_site, by_point = _sections()
    return by_point.get(point.id) or by_site.get(point.site)
