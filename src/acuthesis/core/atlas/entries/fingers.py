"""Adds finger measurements to a rule that counts in cun: the same count in the person's own finger widths.

The hand measures of the tradition, at the middle joints: a thumb is one cun, index and middle finger one and a half,
index to ring finger two, index to little finger three. They are a check and a fallback, never the first method.
"""

from acuthesis.core.atlas.entries.model import Method, Point
from acuthesis.core.body.construct import Beside, FingerSpan, OnLine, Place

SPAN_CUN: dict[FingerSpan, float] = {"thumb_width": 1, "two_fingers": 1.5, "three_fingers": 2, "four_fingers": 3}
SPAN_WORDS: dict[FingerSpan, str] = {
    "thumb_width": "one thumb width",
    "two_fingers": "two finger widths",
    "three_fingers": "three finger widths",
    "four_fingers": "four finger widths",
}
# A cun of the lower belly is half as long again as a finger's on most people: the hand would lead elsewhere.
NOT_BY_HAND = ("lower_abdomen",)
MOST_SPANS = 2  # the hand laid down more often than twice adds more error than it checks


def spans_for(cun: float) -> tuple[FingerSpan, ...] | None:
    """Finger widths, widest first, that add up to so many cun; None where the hand cannot count it.

    >>> spans_for(3.0), spans_for(0.25)
    (('four_fingers',), None)
    """
    rest, spans = cun, []
    for span in sorted(SPAN_CUN, key=lambda name: -SPAN_CUN[name]):
        while rest >= SPAN_CUN[span] - 1e-9:
            rest -= SPAN_CUN[span]
            spans.append(span)
    return tuple(spans) if not rest > 1e-9 and 0 < len(spans) <= MOST_SPANS else None


def spans_in_words(spans: tuple[FingerSpan, ...]) -> str:
    """Finger spans laid side by side, in words.

    >>> spans_in_words(("four_fingers", "thumb_width"))
    'four finger widths and one thumb width'
    """
    return " and ".join(SPAN_WORDS[span] for span in spans)


def with_fingers(point: Point) -> Point:
    """The point with a finger method and its check, where its first rule counts cun that a hand can lay down."""
    placing = point.methods[0].place
    if not isinstance(placing, OnLine | Beside) or placing.cun is None:
        return point  # on the head a cun across is no finger's width
    if isinstance(placing, OnLine) and placing.segment in NOT_BY_HAND:
        return point
    spans = spans_for(placing.cun)
    if spans is None or len(spans) > (MOST_SPANS if isinstance(placing, OnLine) else 1):
        return point
    checks = point.finger_checks
    if not checks and len(spans) == 1:
        checks = {spans[0]: placing.cun}
    if any(uses_fingers(method.place) for method in point.methods):
        return point.model_copy(update={"finger_checks": checks})
    by_hand = placing.model_copy(update={"cun": None, "span": spans})
    method = Method(name=f"by the person's own hand: {spans_in_words(spans)}", place=by_hand)
    return point.model_copy(update={"finger_checks": checks, "methods": (*point.methods, method)})


def uses_fingers(place: Place) -> bool:
    """Whether a placing counts in the person's own finger widths, itself or in a place it is built from.

    >>> from acuthesis.core.atlas.entries.catalogue import entry
    >>> [uses_fingers(method.place) for method in entry("SP6").methods][:1]
    [False]
    """
    if isinstance(place, str):
        return False
    if getattr(place, "span", None) or getattr(place, "width", None):
        return True
    values = [getattr(place, name) for name in type(place).model_fields]
    inner = [item for value in values for item in (value if isinstance(value, tuple) else [value])]
    return any(uses_fingers(item) for item in inner if hasattr(item, "model_fields"))
