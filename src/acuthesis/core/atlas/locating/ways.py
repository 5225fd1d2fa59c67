"""Paths over one person's skin: from a rule's landmark to its point, and along a channel from point to point."""

from itertools import pairwise

import numpy as np
from pydantic import BaseModel, Field

from acuthesis.core.atlas.entries.catalogue import CHANNELS, MIDLINE, points
from acuthesis.core.atlas.entries.model import Point
from acuthesis.core.body import catalogue
from acuthesis.core.body.construct import Around, Beside, OnArc, OnLine, Place
from acuthesis.core.body.figure import Side, Vector
from acuthesis.core.body.fit import FittedBody
from acuthesis.core.body.places import MIRROR
from acuthesis.core.body.surface_path import way_over_skin
from acuthesis.core.errors import UnknownId
from acuthesis.core.message import message

Triple = tuple[float, float, float]
LEAST_CM = 0.4  # a shorter way is no way: the point is at the landmark
# The bladder channel goes down the back twice: its outer line begins anew at the upper back and joins at the knee.
BRANCHES = {"BL": ("BL41",)}


class LandmarkDistance(BaseModel):
    """From a landmark to the point: straight through, and with a tape along the skin."""

    from_: str = Field(serialization_alias="from")
    from_name: str
    straight_cm: float
    skin_cm: float
    path_cm: list[Triple]


def triples(path: Vector) -> list[Triple]:
    """Places (n, 3) in cm as triples rounded to a hundredth of a millimetre, as JSON carries them."""
    return [(round(float(x), 3), round(float(y), 3), round(float(z), 3)) for x, y, z in path]


def way_to(point: Point, side: Side, body: FittedBody) -> LandmarkDistance | None:
    """The way to a point from the landmark that its first rule starts from; None where the rule starts at the point."""
    placing = point.methods[0].place
    start = _start(placing)
    if start is None:
        return None
    first, last = body.places.landmark(start, "left"), body.places.at(placing, "left")
    if np.linalg.norm(last - first) < LEAST_CM:
        return None
    way = way_over_skin(body.figure, first, last)
    return LandmarkDistance(
        from_=start,
        from_name=catalogue.landmarks()[start].name,
        straight_cm=round(way.straight_cm, 2),
        skin_cm=round(way.length_cm, 2),
        path_cm=triples(way.path if side == "left" else way.path * MIRROR),
    )


def _start(place: Place) -> str | None:
    match place:
        case OnLine():
            return place.start
        case OnArc():
            return catalogue.bare(catalogue.segments()[place.arc].start)
        case Beside():
            return _start(place.beside)
        case Around():
            return _start(place.start)
        case _:
            mentioned = catalogue.mentioned(place)
            return mentioned[0] if mentioned else None


def channel_points(channel: str) -> list[list[str]]:
    """Ids of a channel's points in order, one list a branch. Raises: UnknownId.

    >>> channel_points("PC")[0][:3]
    ['PC1', 'PC2', 'PC3']
    """
    if channel not in CHANNELS:
        raise UnknownId(
            message("ways-there-no-channel-there", channel=channel, channels=", ".join(CHANNELS)), where="channel"
        )
    branches: list[list[str]] = [[]]
    for point in points().values():
        if point.channel == channel:
            if point.id in BRANCHES.get(channel, ()):
                branches.append([])
            branches[-1].append(point.id)
    return branches


def channel_line(channel: str, side: Side, body: FittedBody) -> list[Vector]:
    """A channel's line along the skin, places (n, 3) a branch, on one side or the midline. Worked out once a figure.

    Raises: UnknownId if there is no such channel.
    """
    key = ("channel", channel)
    if key not in body.places.memory:
        body.places.memory[key] = [_branch(ids, body) for ids in channel_points(channel)]
    branches = body.places.memory[key]
    assert isinstance(branches, list)
    return [branch if side == "left" or channel in MIDLINE else branch * MIRROR for branch in branches]


def _branch(ids: list[str], body: FittedBody) -> Vector:
    places = [body.places.at(points()[id].methods[0].place, "left") for id in ids]
    parts = [way_over_skin(body.figure, a, b).path for a, b in pairwise(places)]
    return np.concatenate([parts[0], *(part[1:] for part in parts[1:])])
