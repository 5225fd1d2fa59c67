"""Turns a rule into words: the steps by which a hand finds a place, in this person's centimetres and fingers."""

from collections.abc import Mapping

from acuthesis.core.atlas.entries.fingers import spans_in_words
from acuthesis.core.atlas.entries.model import Point
from acuthesis.core.atlas.entries.whereabouts import AGAINST, OPPOSITE
from acuthesis.core.body import catalogue
from acuthesis.core.body.construct import Around, Beside, Between, Drop, Level, Move, OnArc, OnLine, Place, Skin
from acuthesis.core.body.figure import Side
from acuthesis.core.body.places import Places

DIRECTION_WORDS = {
    "lateral": "outwards",
    "medial": "inwards",
    "anterior": "forward",
    "posterior": "back",
    "superior": "up",
    "inferior": "down",
    "proximal": "towards the trunk",
    "distal": "away from the trunk",
    "radial": "towards the thumb",
    "ulnar": "towards the little finger",
    "dorsal": "towards the back of it",
    "palmar": "towards the palm",
    "plantar": "towards the sole",
}
FRACTIONS = {
    1 / 4: "A quarter",
    1 / 3: "A third",
    2 / 5: "Two fifths",
    1 / 2: "Half",
    3 / 5: "Three fifths",
    2 / 3: "Two thirds",
    3 / 4: "Three quarters",
}
EITHER_WAY = {"anterior": 1.0, "posterior": 1.0}
NEARLY = 0.035  # a share this near to a fraction is called by it


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
    sentences = _way(placing, places, side, {})
    if not sentences:
        sentences = [f"Go to: {point.methods[0].name}."]
    elif not isinstance(placing, str) and not _says_all(placing):
        sentences.append(f"The point: {point.methods[0].name}.")
    return [*sentences, f"Under the finger: {point.feel[0].lower()}{point.feel[1:]}", f"Press {point.press.words}."]


def _find(name: str) -> str:
    mark = catalogue.landmarks()[name]
    step = FindingStep(f"Find the {mark.name}. {mark.how}")
    step.landmark = name
    return step


def _says_all(place: Place) -> bool:
    """Whether the steps of a rule lead all the way; else what a finger would look for there has to be said too."""
    match place:
        case OnLine() | OnArc() | Beside() | Around():
            return True
        case Between():
            return len(catalogue.mentioned(place)) == 2
        case _:
            return False


def _way(place: Place, places: Places, side: Side, ray: Mapping[str, float]) -> list[str]:
    """The sentences of a rule; `ray` is the direction in which the place is then looked for on the skin."""
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
                f"From there, measure {place.cun * segment.cun_cm:.1f} cm along the {segment.segment.name} with a "
                f"tape ({number(place.cun)} of {number(segment.segment.cun)} cun).",
            ]
        case Skin():
            # Forward or back, a second place only gives the direction.
            through = _way(place.through, places, side, EITHER_WAY) if place.through else []
            return _once(_way(place.skin, places, side, place.toward or {}) + through)
        case Drop():
            return _way(place.drop, places, side, {})
        case Level():
            return [*_way(place.level, places, side, {}), "Stay level with it."]
        case Move():
            return _way(place.move, places, side, ray) + _moved(place, places, side, ray)
        case Beside():
            return [*_way(place.beside, places, side, {}), _across(place, places, side, "straight outwards")]
        case Around():
            return [*_way(place.start, places, side, {}), _across(place, places, side, "outwards along the skin")]
        case Between():
            return _between(place)
        case _:
            return []


def _once(sentences: list[str]) -> list[str]:
    """The sentences in their order, none twice."""
    return list({str(sentence): sentence for sentence in sentences}.values())


def _between(place: Between) -> list[str]:
    named = [catalogue.landmarks()[name] for name in catalogue.mentioned(place)]
    found: list[str] = [_find(mark.id) for mark in named]
    if not all(isinstance(end, str) for end in place.between):
        return found
    if len({catalogue.bare(str(end)) for end in place.between}) == 1:
        return [*found, "Take the midpoint between left and right."]
    if len(named) < 2:
        return found
    first, last = (mark.name for mark in named)
    fraction = min(FRACTIONS, key=lambda share: abs(share - place.at))
    if abs(fraction - place.at) > NEARLY:
        return [*found, f"The point is between them, closer to the {(first if place.at < 0.5 else last)}."]
    if fraction == 0.5:
        return [*found, f"Find the midpoint between the {first} and the {last}."]
    return [*found, f"{FRACTIONS[fraction]} of the way from the {first} to the {last}."]


def _along_line(place: OnLine, places: Places, side: Side) -> list[str]:
    segment = places.segment(place.segment, side)
    line = catalogue.lines()[place.line]
    start = catalogue.landmarks()[catalogue.bare(place.start)]
    into = segment.level_cun(places.landmark(start.id, side)) < segment.segment.cun / 2
    far = catalogue.landmarks()[catalogue.bare(segment.segment.end if into else segment.segment.start)]
    if place.cun is None:
        return [
            _find(start.id),
            f"Measure {spans_in_words(place.span or ())} (the person's own hand) towards the {far.name}.",
            f"Keep {line.name}.",
        ]
    if place.cun == 0:
        return [_find(start.id), f"Stay level with it, {line.name}."]
    return [
        _find(start.id),
        f"Go {place.cun * segment.cun_cm:.1f} cm ({number(place.cun)} cun) towards the {far.name}. The "
        f"{segment.segment.name} is {number(segment.segment.cun)} cun, {segment.length_cm:.1f} cm on this person.",
        f"Keep {line.name}.",
    ]


def _across(place: Beside | Around, places: Places, side: Side, how: str) -> str:
    if place.cun is None:
        return f"Measure {spans_in_words(place.span or ())} (the person's own hand) {how}."
    width = places.segment(place.of, side)
    return (
        f"Go {place.cun * width.cun_cm:.1f} cm ({number(place.cun)} cun) {how}. The {width.segment.name} is "
        f"{number(width.segment.cun)} cun, {width.length_cm:.1f} cm on this person."
    )


def _moved(move: Move, places: Places, side: Side, ray: Mapping[str, float]) -> list[str]:
    if not catalogue.mentioned(move):
        return []
    # Steps against the ray only bring its start inside the body; a hand does not take them.
    steps = [
        (name if amount > 0 else OPPOSITE.get(name, name), abs(amount)) for name, amount in move.by.items() if amount
    ]
    spoken = [(name, amount) for name, amount in steps if ray.get(OPPOSITE.get(name, ""), 0) < AGAINST]
    if not spoken:
        return []
    if move.cun is None:
        return [f"Then move slightly {' and '.join((DIRECTION_WORDS[name] for name, _ in spoken))}."]
    unit = places.segment(move.cun, side).cun_cm
    return [f"Go {amount * unit:.1f} cm ({number(amount)} cun) {DIRECTION_WORDS[name]}." for name, amount in spoken]
