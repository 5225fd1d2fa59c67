"""The body sites of complaints, so that "at the place itself" is said only where it is true."""

from functools import lru_cache

from pydantic import BaseModel, ConfigDict

from acuthesis.core.atlas.entries.catalogue import Entry, points, sites
from acuthesis.core.body.catalogue import read_yaml
from acuthesis.core.body.regions import regions
from acuthesis.core.compose.knowledge.dose import DATA
from acuthesis.core.compose.knowledge.said import phrases


class _Region(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    sites: tuple[str, ...]


@lru_cache
def sites_of_regions() -> dict[str, frozenset[str]]:
    """For each region that people point at, the sites of the atlas that lie in it. Raises: ValueError.

    >>> "brow" in sites_of_regions()["forehead"]
    True
    """
    table = {row.id: frozenset(row.sites) for row in read_yaml(DATA / "region_sites.yaml", _Region)}
    if unknown := set().union(*table.values()) - set(sites()):
        raise ValueError(f"region_sites.yaml names {unknown}, which are no sites")
    if set(table) != {region.id for region in regions()}:
        raise ValueError("region_sites.yaml and the regions differ")
    return table


def lies_there(target: Entry, complaint: str) -> bool | None:
    """Whether a point or area lies where a complaint sits; None for a complaint without a place (sleep, mood), and for
    a practice's own.
    """
    said = phrases().get(complaint)
    if said is None or not said.where:
        return None
    return any(target.site in sites_of_regions()[region] for region in said.where)


@lru_cache
def channels_there(complaint: str) -> frozenset[str]:
    """The channels that pass where a complaint sits: those with a point there. Empty for a complaint without a place.

    >>> "BL" in channels_there("low_back_ache"), "LU" in channels_there("low_back_ache")
    (True, False)
    """
    return frozenset(point.channel for point in points().values() if lies_there(point, complaint))
