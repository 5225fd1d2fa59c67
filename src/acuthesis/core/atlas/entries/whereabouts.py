"""Short descriptions of where a rule leads ("below the lower tip of the kneecap"), for search by place."""

from collections.abc import Mapping

from acuthesis.core.body import catalogue
from acuthesis.core.body.construct import Around, Beside, Between, Drop, Level, Move, OnArc, OnLine, Place, Skin

RELATIONS = {
    "inferior": "below",
    "distal": "below",
    "superior": "above",
    "proximal": "above",
    "anterior": "in front of",
    "posterior": "behind",
    "lateral": "outside of",
    "medial": "inside of",
    "radial": "on the thumb side of",
    "ulnar": "on the little finger side of",
}
ON_FOOT = {"distal": "in front of", "proximal": "behind"}
_PAIRS = (
    ("inferior", "superior"),
    ("distal", "proximal"),
    ("anterior", "posterior"),
    ("lateral", "medial"),
    ("radial", "ulnar"),
)
OPPOSITE = {one: other for pair in _PAIRS for one, other in (pair, pair[::-1])}
AGAINST = 0.5  # share of a ray from which it goes against a step
# Marks within a segment from which is counted: those near its first end. From all others a rule goes back up.
NEAR_FIRST_END = frozenset(
    {
        ("lower_leg_outer", "fibula_head"),
        ("lower_leg_outer", "knee_eye_lateral"),
        ("forearm", "olecranon"),
        ("forearm_back", "olecranon"),
        ("upper_arm", "acromial_angle"),
    }
)
# Every segment runs down the body from its first end to its second, but for these over the head.
AWAY_FROM_FIRST_END = {
    "brow_to_hairline": "above",
    "head_midline": "behind",
    "head_by_bones": "behind",
    "mastoid_width": "beside",
}
AWAY_FROM_LAST_END = {
    "brow_to_hairline": "below",
    "head_midline": "in front of",
    "head_by_bones": "in front of",
    "mastoid_width": "beside",
}


def _name(reference: str) -> str | None:
    mark = catalogue.landmarks().get(catalogue.bare(reference))
    return mark.name if mark else None


def _steps(place: Move, ray: Mapping[str, float]) -> list[str]:
    """The relations that the steps of a rule make. A step against the ray only brings its start into the body: no place
    is "behind the navel".
    """
    told = []
    relations = RELATIONS | ON_FOOT if place.part == "foot" else RELATIONS
    for named, amount in place.by.items():
        direction = named if amount > 0 else OPPOSITE.get(named, "")
        if amount and direction in relations and ray.get(OPPOSITE[direction], 0) < AGAINST:
            told.append(relations[direction])
    return told


def phrases(place: Place) -> list[str]:
    """Phrases of a relation and a landmark, in which a practitioner would describe the place.

    >>> from acuthesis.core.atlas.entries.catalogue import entry
    >>> phrases(entry("SP6").methods[0].place)[0]
    'above bump of the inner ankle bone'
    """
    return _phrases(place, {})


def _phrases(place: Place, ray: Mapping[str, float]) -> list[str]:
    """The same. `ray`: the directions in which the skin is looked for afterwards, empty where it is not."""
    match place:
        case str():
            name = _name(place)
            return [f"at {name}"] if name else []
        case OnLine():
            segment = catalogue.segments()[place.segment]
            start = catalogue.bare(place.start)
            at_first = start == catalogue.bare(segment.start) or (place.segment, start) in NEAR_FIRST_END
            table, usual = (AWAY_FROM_FIRST_END, "below") if at_first else (AWAY_FROM_LAST_END, "above")
            way = "level with" if place.cun == 0 else table.get(place.segment, usual)
            return [
                f"{way} {_name(place.start)}",
                f"between {_name(segment.start)} and {_name(segment.end)}",
            ]
        case OnArc():
            return [f"{AWAY_FROM_FIRST_END[place.arc]} {_name(catalogue.segments()[place.arc].start)}"]
        case Move():
            name = _name(place.move) if isinstance(place.move, str) else None
            return [f"{way} {name}" for way in _steps(place, ray)] if name else phrases(place.move)
        case Level():
            return [f"level with {name}" for name in map(_name, catalogue.mentioned(place)) if name]
        case Drop():
            return phrases(place.drop)
        case Skin():
            return _phrases(place.skin, place.toward or {}) + (
                phrases(place.through) if place.through is not None else []
            )
        case Between():
            ends = [name for name in map(_name, catalogue.mentioned(place)) if name]
            return [f"between {' and '.join(ends)}"] if ends else []
        case Beside():
            return [f"beside {' '.join(phrases(place.beside))}"]
        case Around():
            return [f"beside {' '.join(phrases(place.start))}"]
        case _:
            return []
