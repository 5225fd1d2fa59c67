"""Body parts that rules refer to: joints, quarters of the trunk, limbs, and where somebody lies on: body.yaml."""

from functools import lru_cache

from pydantic import BaseModel, ConfigDict, TypeAdapter

from acuthesis.core.atlas.entries.catalogue import part_names, sites
from acuthesis.core.atlas.entries.model import Position
from acuthesis.core.body.catalogue import landmarks
from acuthesis.core.data_file import read
from acuthesis.core.errors import UnknownId
from acuthesis.core.message import message
from acuthesis.core.safety.rule import DATA


class Joint(BaseModel):
    """A joint: the landmarks it lies between, and the sites and parts of the atlas that belong to it."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: str
    at: tuple[str, ...]
    sites: tuple[str, ...] = ()
    parts: tuple[str, ...] = ()


class _Body(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)

    joints: dict[str, Joint]
    quarters: dict[str, tuple[str, ...]]
    limbs: dict[str, tuple[str, ...]]
    lain_on: dict[Position, tuple[str, ...]]


@lru_cache
def _body() -> _Body:
    """Raises: UnknownId for a landmark, site or part that does not exist."""
    body = TypeAdapter(_Body).validate_python(read(DATA / "body.yaml"))
    named = [name for joint in body.joints.values() for name in joint.sites]
    named += [name for group in body.quarters.values() for name in group]
    named += [name.partition(".")[0] for group in body.lain_on.values() for name in group]
    parts = [part for joint in body.joints.values() for part in joint.parts]
    parts += [part for group in body.limbs.values() for part in group]
    at = [name for joint in body.joints.values() for name in joint.at]
    for names, known in ((named, sites()), (parts, part_names()), (at, landmarks())):
        for name in names:
            if name not in known:
                raise UnknownId(message("body-parts-body-yaml-names-which-does", name=name), where=name)
    return body


def joints() -> dict[str, Joint]:
    """Every joint that a technique may move, by id.

    >>> "knee" in joints()
    True
    """
    return _body().joints


def quarters() -> dict[str, tuple[str, ...]]:
    """Sites of a quarter of the trunk, on one side: those whose lymph drains to the nodes of arm or groin.

    >>> sorted(quarters())[:2]
    ['lower', 'upper']
    """
    return _body().quarters


def limbs() -> dict[str, tuple[str, ...]]:
    """Body parts of arm and leg.

    >>> sorted(limbs())
    ['arm', 'leg']
    """
    return _body().limbs


@lru_cache
def lain_on() -> dict[Position, tuple[tuple[str, str], ...]]:
    """What a person lies on in each position, as (site, side); the side is empty where it is both.

    >>> sorted(lain_on())[-1]
    'supine'
    """
    return {
        position: tuple((name.partition(".")[0], name.partition(".")[2]) for name in names)
        for position, names in _body().lain_on.items()
    }
