"""Turns a rule into words: the steps by which a hand finds a place, in this person's centimetres and fingers."""

from acuthesis.core.atlas.entries.fingers import spans_in_words
from acuthesis.core.atlas.entries.model import Point
from acuthesis.core.body import catalogue
from acuthesis.core.body.construct import Around, Beside, Between, Drop, Level, Move, OnArc, OnLine, Place, Skin
from acuthesis.core.body.figure import Side
from acuthesis.core.body.places import Places

DIRECTION_WORDS = {
    "lateral": "outward",
    "medial": "inward",
    "anterior": "forward",
    "posterior": "back",
    "superior": "up",
    "inferior": "down",
    "proximal": "toward the trunk",
    "distal": "away from the trunk",
    "radial": "toward the thumb",
    "ulnar": "toward the little finger",
    "dorsal": "toward the back of it",
    "palmar": "toward the palm",
    "plantar": "toward the sole",
}


def number(value: float) -> str:
    """A number as it is read aloud: up to two decimals, without trailing noughts.

    >>> number(1.5), number(3.0), number(0.75)
    ('1.5', '3', '0.75')
    """
    return f"{value:.2f}".rstrip("0").rstrip(".")


class FindingStep(str):
    """A sentence of the way to a place; `landmark` is what it asks to find, None where it leads to the place itself."""

    landmark: str | None = None


def steps(point: Point, places: Places, side: Side) -> list[str]:
    """Sentences that lead a hand to a point: its landmark, the way from there, what the finger meets.

    Those that ask to find a landmark are `Step`s.
    """
    placing = point.methods[0].place
    sentences = _way(placing, places, side) or [f"Go to: {point.methods[0].name}."]
    return [*sentences, f"Feel: {point.feel[0].lower()}{point.feel[1:]}", f"Press {point.press.words}."]


def _find(name: str) -> str:
    mark = catalogue.landmarks()[name]
    step = FindingStep(f"Find the {mark.name}. {mark.how}")
    step.landmark = name
    return step


def _way(place: Place, places: Places, side: Side) -> list[str]:
    match place:
        case str():
            name = catalogue.bare(place)
            return [] if name.startswith("joint.") else [_find(name)]
        case OnLine():
            return _along_line(place, places, side)
        case OnArc():
            segment = places.segment(place.arc, side)
            start = catalogue.landmarks()[catalogue.bare(segment.segment.start)]
            return [
                _find(start.id),
                f"From there go {place.cun * segment.cun_cm:.1f} cm along the {segment.segment.name} with a tape: "
                f"{number(place.cun)} of its {number(segment.segment.cun)} parts.",
            ]
        case Skin():
            return _way(place.skin, places, side) + (_way(place.through, places, side) if place.through else [])
        case Drop():
            return _way(place.drop, places, side)
        case Level():
            return [*_way(place.level, places, side), "Keep to its level."]
        case Move():
            return _way(place.move, places, side) + _moved(place, places, side)
        case Beside():
            return [*_way(place.beside, places, side), _across(place, places, side, "straight outward")]
        case Around():
            return [*_way(place.start, places, side), _across(place, places, side, "outward along the skin")]
        case Between():
            marks = catalogue.mentioned(place)
            named = [catalogue.landmarks()[name] for name in marks]
            if len(named) == 2 and place.at == 0.5:
                return [
                    *(_find(mark.id) for mark in named),
                    f"Half-way between the {named[0].name} and the {named[1].name}.",
                ]
            if len(named) == 1 and all(isinstance(end, str) for end in place.between):
                return [_find(named[0].id), "The middle between both sides."]
            found = [_find(mark.id) for mark in named]
            if len(named) == 2 and all(isinstance(end, str) for end in place.between):
                return [*found, f"Between them, nearer to the {named[0 if place.at < 0.5 else 1].name}."]
            return found
        case _:
            return []


def _along_line(place: OnLine, places: Places, side: Side) -> list[str]:
    segment = places.segment(place.segment, side)
    line = catalogue.lines()[place.line]
    start = catalogue.landmarks()[catalogue.bare(place.start)]
    into = segment.level_cun(places.landmark(start.id, side)) < segment.segment.cun / 2
    far = catalogue.landmarks()[catalogue.bare(segment.segment.end if into else segment.segment.start)]
    if place.cun is None:
        return [
            _find(start.id),
            f"Lay {spans_in_words(place.span or ())} of the person toward the {far.name}.",
            f"Stay {line.name}.",
        ]
    return [
        _find(start.id),
        f"Go {place.cun * segment.cun_cm:.1f} cm toward the {far.name}: {number(place.cun)} of the "
        f"{number(segment.segment.cun)} parts of the {segment.segment.name} "
        f"({segment.length_cm:.1f} cm on this person).",
        f"Stay {line.name}.",
    ]


def _across(place: Beside | Around, places: Places, side: Side, how: str) -> str:
    if place.cun is None:
        return f"Lay {spans_in_words(place.span or ())} of the person {how}."
    width = places.segment(place.of, side)
    return (
        f"Go {place.cun * width.cun_cm:.1f} cm {how}: {number(place.cun)} of the {number(width.segment.cun)} parts "
        f"of the {width.segment.name} ({width.length_cm:.1f} cm on this person)."
    )


def _moved(move: Move, places: Places, side: Side) -> list[str]:
    # Steps forward and back only bring the ray's start inside the body; a hand does not take them.
    spoken = [(name, amount) for name, amount in move.by.items() if name not in ("anterior", "posterior")]
    if not catalogue.mentioned(move):
        return []
    if move.cun is None:
        return [f"Then a little {' and '.join(DIRECTION_WORDS[name] for name, _ in spoken)}."] if spoken else []
    unit = places.segment(move.cun, side).cun_cm
    return [f"Go {amount * unit:.1f} cm {DIRECTION_WORDS[name]}: {number(amount)} parts." for name, amount in spoken]
