"""Says in short phrases where a rule leads ("below the lower tip of the kneecap"), for finding a point by its place."""

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


def phrases(place: Place) -> list[str]:
    """Phrases of a relation and a landmark, in which a practitioner would describe the place."""
    match place:
        case str():
            name = _name(place)
            return [f"at {name}"] if name else []
        case OnLine():
            segment = catalogue.segments()[place.segment]
            at_first = catalogue.bare(segment.start) == place.start
            table, usual = (AWAY_FROM_FIRST_END, "below") if at_first else (AWAY_FROM_LAST_END, "above")
            return [
                f"{table.get(place.segment, usual)} {_name(place.start)}",
                f"between {_name(segment.start)} and {_name(segment.end)}",
            ]
        case OnArc():
            return [f"{AWAY_FROM_FIRST_END[place.arc]} {_name(catalogue.segments()[place.arc].start)}"]
        case Move():
            named = [name for name in map(_name, catalogue.mentioned(place.move)) if name]
            amounts = ((direction, amount) for direction, amount in place.by.items() if amount)
            return [
                f"{RELATIONS[direction]} {name}" for direction, _ in amounts if direction in RELATIONS for name in named
            ]
        case Level():
            return [f"level with {name}" for name in map(_name, catalogue.mentioned(place)) if name]
        case Drop():
            return phrases(place.drop)
        case Skin():
            return phrases(place.skin) + (phrases(place.through) if place.through is not None else [])
        case Between():
            ends = [name for name in map(_name, catalogue.mentioned(place)) if name]
            return [f"between {' and '.join(ends)}"] if ends else []
        case Beside():
            return [f"beside {' '.join(phrases(place.beside))}"]
        case Around():
            return [f"beside {' '.join(phrases(place.start))}"]
        case _:
            return []
