"""Where teachers or editions differ: the place that a practice prefers, drawn in the standard's stead."""

from collections.abc import Mapping

from acuthesis.core.atlas.entries.catalogue import points
from acuthesis.core.atlas.entries.model import Alternative, Method, Point
from acuthesis.core.errors import UnknownId
from acuthesis.core.message import message

STANDARD = "standard"  # the id under which the standard's place is kept where another is preferred


def preferring(point: Point, alternative: str) -> Point:
    """The point with one of its alternatives drawn and trusted; the standard's place becomes an alternative.

    Ways that check the standard's place lead to that, so only the standard's own is kept.
    Raises: UnknownId where the point has no such alternative.

    >>> preferring(points()["GV26"], "upper_third").methods[0].name
    'a third of the way down the groove of the upper lip'
    """
    chosen = next((one for one in point.alternatives if one.id == alternative), None)
    if chosen is None:
        known = ", ".join(one.id for one in point.alternatives) or "none"
        raise UnknownId(
            message("preferred-no-place-there", id=point.id, alternative=alternative, known=known), where=point.id
        )
    first = point.methods[0]
    standard = Alternative(id=STANDARD, name=first.name, school="the international standard", place=first.place)
    others = tuple(one for one in point.alternatives if one is not chosen)
    return point.model_copy(
        update={
            "methods": (Method(name=chosen.name, place=chosen.place),),
            "finger_checks": {},
            "alternatives": (standard, *others),
        }
    )


def preferred_points(chosen: Mapping[str, str]) -> dict[str, Point]:
    """Points by id as a practice prefers them; `chosen` names an alternative for each.

    Raises: UnknownId for a point or an alternative that there is not.
    """
    for id in chosen:
        if id not in points():
            raise UnknownId(message("preferred-there-no-point-prefer-place", id=id), where=id)
    return {id: preferring(points()[id], alternative) for id, alternative in chosen.items()}
