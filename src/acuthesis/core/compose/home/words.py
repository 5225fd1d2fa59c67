"""The texts of a home plan: how to press in plain words, when not to, and when to see a doctor."""

import re
from collections.abc import Sequence

from acuthesis.core.atlas.entries.catalogue import Entry, part_of
from acuthesis.core.compose.knowledge.complaints import ComplaintKind
from acuthesis.core.compose.knowledge.dose import (
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
    Until,
    Walk,
)
from acuthesis.core.safety.limits import limits_for
from acuthesis.core.safety.screening import Question, Screening, questions
from acuthesis.core.safety.standing import holds

# How hard, by level of the pressure table, to somebody who presses themselves.
HOW_HARD = {
    1: "Only the weight of the hand.",
    2: "Lightly, until the skin gives.",
    3: "Firmly, into the muscle; it must stay comfortable.",
    4: "Firmly; it must stay comfortable.",
    5: "Firmly; it must stay comfortable.",
}
CONTACTS = {
    "thumb": "your thumb",
    "finger": "a fingertip",
    "stacked_fingers": "two fingers, one on top of the other",
    "knuckle": "a bent knuckle",
    "palm": "the palm",
    "stick": "a rounded handle",
}
# Hands that are weak or stiff: something that needs no grip. Source: what manual therapists teach at home.
WEAK_GROUND = ("face", "orbit", "vessel_or_nerve", "ear", "abdomen")  # where nothing harder than a finger is used
NOT_WHEN = (
    "you have a fever or feel ill",
    "the skin there is broken, inflamed, bruised or swollen",
    "you have drunk alcohol, or are about to drive while drowsy",
)
AFTER_MEALS = "you have eaten within the last hour"
UNDER_KNEE = "a calf is hot, swollen or newly painful: see a doctor today"
BLEEDING = "you bruise more than usual, or bleed: press lightly, because your blood clots slowly, and see your doctor"
NUMB = "you have not checked the skin where you feel numb: check before and after, and press only lightly"
LABOUR = "you are or may be pregnant: leave out {places}"
WOMB = "you have contractions, bleeding or abdominal pain: call your midwife or doctor"
THIN_BLOOD = ("blood_thinner", "thinner_medicine", "low_platelets", "platelets")
DULLED = ("numb_feet", "numb_places", "old_stroke_side")
MAY_CONCEIVE = range(11, 56)  # years
MOST_SIGNS = 7


def said_at_home(dose: Dose) -> str:
    """A dose to somebody who presses themselves: an instruction, without a full stop.

    >>> said_at_home(Pulse(on_s=5, off_s=3, cycles=6))
    'Press for 5 seconds, release for 3, 6 times'
    """
    match dose:
        case Hold():
            return f"Press and hold for {dose.seconds:g} seconds"
        case Pulse():
            return f"Press for {dose.on_s:g} seconds, release for {dose.off_s:g}, {dose.cycles} times"
        case Circles():
            return f"Make {dose.each_way} slow circles one way, then {dose.each_way} the other"
        case Breaths():
            breath = "breath" if dose.count == 1 else "breaths"
            return f"Hold for {dose.count} slow {breath}; press a little more as you breathe out"
        case Glide():
            return f"Stroke {dose.strokes} times, slowly"
        case Walk():
            return f"Walk your thumb over the area, {dose.passes} times"
        case Sets():
            return f"Press {dose.count} times, rest for {dose.release_s:g} seconds; {dose.sets} times in all"
        case Pumps():
            return f"Press {dose.count} times in a steady rhythm, without lifting off the skin"
        case Rubs():
            return f"Rub up and down {dose.count} times"
        case Until():
            return f"Hold until it eases, {dose.cap_s:g} seconds at most"
        case Compound():
            whole = ", then ".join(
                [said_at_home(dose.parts[0]), *(_lower(said_at_home(part)) for part in dose.parts[1:])]
            )
            return whole if dose.rounds == 1 else f"{whole}; {dose.rounds} times in all"


IN_CUN = re.compile(r"^([0-9.]+) of [0-9]+ cun ")


def in_centimetres(where: str, cun_cm: float | None) -> str:
    """Where a point is, for a client: in centimetres where it is given in cun, one of which is `cun_cm` on them.

    >>> in_centimetres("2 of 12 cun above the wrist crease, between the two tendons", 1.71)
    '3.4 cm above the wrist crease, between the two tendons'
    >>> in_centimetres("middle of the crease behind the knee", 1.71)
    'middle of the crease behind the knee'
    """
    told = IN_CUN.match(where)
    if told is None or cun_cm is None:
        return where
    return f"{float(told[1]) * cun_cm:.1f} cm {where[told.end() :]}"


def _lower(text: str) -> str:
    return text[:1].lower() + text[1:]


def press_with(target: Entry, weak_hands: bool, no_stick: bool) -> str:
    """What somebody presses with; with weak hands, what needs no grip and spares the thumb."""
    usual = CONTACTS[target.contact if target.kind == "area" else target.press.contact]
    if not weak_hands:
        return usual
    if target.tissue in WEAK_GROUND:
        return "a fingertip, with your elbow resting on a table"
    return "a bent knuckle of the other hand" if no_stick else "a rounded handle, or a bent knuckle of the other hand"


def not_when(targets: Sequence[Entry], screening: Screening) -> tuple[str, ...]:
    """When nothing is pressed at home: of everybody, and of this person and these places."""
    said = list(NOT_WHEN)
    if any(target.tissue == "abdomen" for target in targets):
        said.append(AFTER_MEALS)
    if any(part_of(target) in ("lower_leg", "foot") for target in targets):
        said.append(UNDER_KNEE)
    if any(screening.answer(question) for question in THIN_BLOOD):
        said.append(BLEEDING)
    if any(screening.answer(question) for question in DULLED):
        said.append(NUMB)
    if labour := _may_start_labour(targets, screening):
        said.append(LABOUR.format(places=" and ".join(labour)))
    if screening.answer("pregnancy_weeks") is not None or screening.answer("might_be_pregnant"):
        said.append(WOMB)
    return tuple(said)


def _may_start_labour(targets: Sequence[Entry], screening: Screening) -> list[str]:
    """Places that would be left out in a pregnancy, of somebody who can have one and is not asked every time."""
    can = screening.sex != "male" and (screening.age is None or screening.age in MAY_CONCEIVE)
    if not can:
        return []
    if_pregnant = screening.model_copy(update={"answers": {**screening.answers, "might_be_pregnant": True}})
    return [target.id for target in targets if limits_for(target, target.whole, if_pregnant).refused]


def see_doctor(complaints: Sequence[ComplaintKind], screening: Screening) -> tuple[str, ...]:
    """Signs that somebody with these complaints takes to a doctor: every emergency that is asked about with them, then
    the signs of the complaints themselves, then the other red flags, as far as there is room. What was answered takes
    none away, for it may be new; what cannot concern the reader is left out.
    """
    asked = [one for one in warnings(complaints) if one.severity != "context" and _concerns(one, screening)]
    first = dict.fromkeys(_at_home(one) for one in asked if one.severity == "emergency")
    own = [sign for kind in complaints for sign in kind.stop_if]
    rest = [sign for sign in dict.fromkeys([*own, *(_at_home(one) for one in asked)]) if sign not in first]
    return (*first, *rest[: max(MOST_SIGNS - len(first), 0)])


def _at_home(question: Question) -> str:
    return _lower(question.ask_at_home or question.ask)


def _concerns(question: Question, screening: Screening) -> bool:
    """Whether a question can concern this person, who reads it alone at home."""
    return not question.only_in_the_room and (question.asked_of is None or holds(question.asked_of, screening))


def warnings(complaints: Sequence[ComplaintKind]) -> list[Question]:
    """The red flags that are asked of these complaints, emergencies first."""
    ids = dict.fromkeys(id for kind in complaints for id in kind.red_flags)
    found = [questions()[id] for id in ids]
    return sorted(found, key=lambda one: one.severity != "emergency")
