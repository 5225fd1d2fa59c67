"""The phases of a stop: finding, entering, the dose, letting go; and the beats of a dose.

A dose is counted from the touch to the lifting of the hand, so entering and letting go lie inside it; finding lies in
the seconds before. Source of the seconds: manual-therapy teaching (enter with one breath out a level, leave as slowly).
"""

from functools import lru_cache
from typing import Literal

from pydantic import BaseModel, ConfigDict

from acuthesis.core.atlas.entries.model import Contact
from acuthesis.core.compose.knowledge.dose import (
    DATA,
    Breaths,
    Circles,
    Compound,
    Dose,
    Glide,
    Hold,
    Pulse,
    Pumps,
    Rubs,
    Sets,
    Side,
    Until,
    Walk,
)
from acuthesis.core.data_file import read
from acuthesis.core.safety.pressure import contact_words, entering

ENTER_S = 2.5  # one level deeper, with a breath out
RELEASE_S = 2.0  # as slowly as one came; half of it where hardly anything was pressed
MOST_OF_DOSE = 0.25  # entering, and letting go, take no more than this of a short dose
RELEASED, RESTING = 0.35, 0.3  # how far the ring stands open while released, and when the breath turns


class CalmBreath(BaseModel):
    """A calm breath, where nobody has tapped the person's own, with its source in data/breath.yaml."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    calm_per_minute: float
    in_share: float  # of a breath

    @property
    def seconds(self) -> float:
        """How long one takes.

        >>> calm_breath().seconds
        7.5
        """
        return 60 / self.calm_per_minute


@lru_cache
def calm_breath() -> CalmBreath:
    """The one pace that counts as calm.

    >>> calm_breath().seconds
    7.5
    """
    return CalmBreath.model_validate(read(DATA / "breath.yaml"))


StopPhase = Literal["find", "enter", "dose", "release"]


class Beat(BaseModel):
    """One movement: the word for it, its seconds, and how far the ring is open when it begins and ends (0 to 1)."""

    model_config = ConfigDict(frozen=True)

    word: str
    seconds: float
    opens: float = 1
    closes: float = 1
    breath: bool = False  # goes with the person's breath, at its own pace where that was tapped


class Phrase(BaseModel):
    """Beats that are done one after the other, so many times. `counts`: whether the times are worth saying."""

    model_config = ConfigDict(frozen=True)

    beats: tuple[Beat, ...]
    times: int = 1
    counts: bool = True


class CourseStep(BaseModel):
    """A part of a stop's course on one side. `at_s`: seconds from hands on, below zero while it is looked for."""

    model_config = ConfigDict(frozen=True)

    part: StopPhase
    side: Side
    at_s: float
    seconds: float
    level: int


def rhythm(dose: Dose) -> tuple[Phrase, ...]:
    """The beats of a dose on one side, in their order; together they take as long as the dose.

    >>> [(one.times, [beat.word for beat in one.beats]) for one in rhythm(Circles(each_way=6))]
    [(6, ['circle']), (6, ['the other way'])]
    """
    match dose:
        case Hold():
            return (_once("hold", dose.seconds),)
        case Until():
            return (_once("wait for it", dose.cap_s),)
        case Pulse():
            off = Beat(word="release", seconds=dose.off_s, opens=RELEASED, closes=RELEASED)
            return (Phrase(beats=(Beat(word="press", seconds=dose.on_s), off), times=dose.cycles),)
        case Circles():
            ways = ("circle", "the other way")
            return tuple(Phrase(beats=(_moved(word, dose.seconds_each),), times=dose.each_way) for word in ways)
        case Breaths():
            whole = 60 / dose.per_minute
            into = Beat(word="in", seconds=whole * calm_breath().in_share, opens=RESTING, closes=1, breath=True)
            out = Beat(word="out", seconds=whole * (1 - calm_breath().in_share), opens=1, closes=RESTING, breath=True)
            return (Phrase(beats=(into, out), times=dose.count),)
        case Glide():
            return (Phrase(beats=(_moved("glide", dose.seconds_each),), times=dose.strokes),)
        case Walk():
            return (Phrase(beats=(_moved("walk", dose.seconds_each),), times=dose.passes),)
        case Pumps():
            half = dose.seconds_each / 2
            beats = (Beat(word="pump", seconds=half), Beat(word="pump", seconds=half, opens=0.6, closes=0.6))
            return (Phrase(beats=beats, times=dose.count),)
        case Rubs():
            return (Phrase(beats=(_moved("rub", dose.seconds_each),), times=dose.count),)
        case Sets():
            return _sets(dose)
        case Compound():
            parts = tuple(phrase for part in dose.parts for phrase in rhythm(part))
            return parts * dose.rounds


def _once(word: str, seconds: float) -> Phrase:
    return Phrase(beats=(Beat(word=word, seconds=seconds),), counts=False)


def _moved(word: str, seconds: float) -> Beat:
    return Beat(word=word, seconds=seconds, opens=0.5, closes=1)


def _sets(dose: Sets) -> tuple[Phrase, ...]:
    work = Phrase(beats=(_moved("work", dose.seconds_each),), times=dose.count)
    if not dose.release_s:
        return (work,) * dose.sets
    rest = Phrase(beats=(Beat(word="release", seconds=dose.release_s, opens=RELEASED, closes=RELEASED),), counts=False)
    return (work, *((rest, work) * (dose.sets - 1)))


def course(sides: tuple[Side, ...], level: int, side_s: float, find_s: float) -> tuple[CourseStep, ...]:
    """The parts of a stop in their order, one side after the other.

    Parameters: sides, in the order in which they are worked (`both` for both at once); level, the aim (1 to 5); side_s,
    seconds of the dose on one side; find_s, seconds before the hands are on.
    Returns: steps whose seconds, without finding, are those of the stop.

    >>> [(one.part, one.at_s, one.level) for one in course(("left",), 3, 40, 5)]
    [('find', -5.0, 3), ('enter', 0.0, 2), ('dose', 2.5, 3), ('release', 38.0, 2)]
    """
    steps: list[CourseStep] = []
    way_in = entering(level)
    most = side_s * MOST_OF_DOSE
    release = min(RELEASE_S if level > 1 else RELEASE_S / 2, most)
    each = min(ENTER_S, most / max(len(way_in) - 1, 1))
    at = 0.0
    if find_s:
        steps.append(CourseStep(part="find", side=sides[0], at_s=-find_s, seconds=find_s, level=level))
    for side in sides:
        begun = at
        for lighter in way_in[:-1]:
            steps.append(CourseStep(part="enter", side=side, at_s=round(at, 2), seconds=round(each, 2), level=lighter))
            at += each
        held = begun + side_s - release - at
        steps.append(CourseStep(part="dose", side=side, at_s=round(at, 2), seconds=round(held, 2), level=level))
        at += held
        gone = CourseStep(
            part="release", side=side, at_s=round(at, 2), seconds=round(release, 2), level=max(level - 1, 1)
        )
        steps.append(gone)
        at = begun + side_s
    return tuple(steps)


# What the hand that does not press is there for, by part of the body. Source: manual-therapy teaching.
SUPPORT: dict[str, str] = {
    "head": "steady the head from the far side with the other hand",
    "ear": "place a fingertip behind the ear, against the thumb",
    "trunk": "rest the other hand flat beside it",
    "upper_arm": "support the elbow with the other hand",
    "forearm": "support the wrist with the other hand",
    "hand": "hold the fingers with the other hand, fingertips behind the point",
    "thigh": "rest the other hand above the knee",
    "lower_leg": "hold the leg from the far side with the other hand",
    "foot": "hold the foot from the far side with the other hand and lean it into the pressing hand",
}
TWO_HANDED = frozenset({"stacked_fingers", "palm"})


def hand_words(contact: Contact, part: str, *, together: bool, alone: bool) -> str:
    """What presses, and what the other hand does meanwhile.

    >>> hand_words("thumb", "foot", together=False, alone=False)
    'A thumb; hold the foot from the far side with the other hand and lean it into the pressing hand.'
    """
    presses = contact_words(contact)
    if together:
        return f"{presses.capitalize()} of each hand, one on either side."
    if alone or contact in TWO_HANDED:
        return f"{presses.capitalize()}."
    return f"{presses.capitalize()}; {SUPPORT[part]}."
