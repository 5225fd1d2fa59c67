"""Parses a dose in the practitioner's own words: "8 on 2 off for three minutes", "six circles each way, then four
pumps, then a sweep".

Phrases joined by "then", a comma or "and then" are done one after the other and become one compound dose. What is not
understood is named; nothing is guessed.
"""

import re
from collections.abc import Callable
from typing import Any

from pydantic import ValidationError

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
    Sign,
    SimpleDose,
    Until,
    Walk,
    stretched,
)
from acuthesis.core.errors import CoreError
from acuthesis.core.message import message

LONGEST_TEXT = 200
SMALL = "no one two three four five six seven eight nine ten eleven twelve"
NUMBERS: dict[str, float] = {word: number for number, word in enumerate(SMALL.split())} | {
    "a": 1,
    "an": 1,
    "half": 0.5,
    "fifteen": 15,
    "twenty": 20,
    "thirty": 30,
    "forty": 40,
    "sixty": 60,
}
N = r"(\d+(?:\.\d+)?|" + "|".join(sorted(NUMBERS, key=len, reverse=True)) + r")"
SECONDS = r"(?:s|sec|secs|second|seconds)"
MINUTES = r"(?:m|min|mins|minute|minutes)"
TIME = rf"{N}\s*({SECONDS}|{MINUTES})(\s+and\s+a\s+half)?"
SIGNS: dict[str, Sign] = {
    "eases": "eases",
    "subsides": "eases",
    "pulse": "pulse",
    "pulses": "pulse",
    "lets go": "letting_go",
    "letting go": "letting_go",
    "release": "letting_go",
    "warmth": "warm",
    "warm": "warm",
    "pink": "warm",
}
Read = Callable[[re.Match[str]], SimpleDose]
EXAMPLES = "45 s; 8 on 2 off for 3 minutes; 6 circles each way; 5 breaths; until it eases, at most a minute"


def read_dose(text: str) -> Dose:
    """The dose that a text means. Raises: CoreError saying which words were not understood.

    >>> from acuthesis.core.compose.knowledge.dose import dose_in_words
    >>> dose_in_words(read_dose("8 on 2 off for three minutes"))
    '18 times 8 s on, 2 s off'
    >>> dose_in_words(read_dose("six circles each way, then four pumps, then a sweep"))
    '6 circles each way, then 4 pumps, then 1 stroke of 3 s'
    """
    said = re.sub(r"\s+", " ", text.strip().lower()).rstrip(".")
    if not said:
        raise CoreError(message("dose-text-enter", examples=EXAMPLES), where="text")
    if len(said) > LONGEST_TEXT:
        raise CoreError(message("dose-text-dose-have-at-most-characters", longest_text=LONGEST_TEXT), where="text")
    together = bool(re.search(r",? ?(both sides )?(together|at once)$", said))
    said = re.sub(r",? ?(both sides )?(together|at once)$", "", said)
    said, rounds = _rounds(said)
    try:
        parts = [_phrase(phrase) for phrase in _phrases(said)]
        dose: Dose = parts[0] if len(parts) == 1 else Compound(parts=tuple(parts))
        if rounds > 1:
            dose = Compound(parts=tuple(parts), rounds=rounds)
        return dose.model_copy(update={"together": together})
    except ValidationError as error:
        first = error.errors()[0]
        where = str(first["loc"][-1]).replace("_", " ") if first["loc"] else "dose"
        raise CoreError(
            message("dose-text-invalid", text=text.strip(), where=where, problem=first["msg"].lower()), where="text"
        ) from error


# What a comma before does not make a phrase of its own.
BELONGS = (
    rf"at most|no longer|[\w.]+ ?(?:{SECONDS}|{MINUTES}) at most|[\w.]+ ?{SECONDS} (?:between|each)"
    r"|[\w.]+ (?:times|cycles)"
    rf"|(?:and )?[\w.]+ ?(?:{SECONDS} )?(?:off|rel)"
)


def _rounds(said: str) -> tuple[str, int]:
    """A whole that is repeated: "…, three rounds", "three times over"."""
    if found := re.match(rf"{N} rounds of:? ", said):
        return said[found.end() :], int(_number(found[1]))
    found = re.search(rf",? {N} (?:rounds|times over)$", said)
    return (said[: found.start()], int(_number(found[1]))) if found else (said, 1)


def _phrases(said: str) -> list[str]:
    """What is done one after the other; "at most …" and "… between" belong to what stands before them."""
    pieces = re.split(rf"(?:,| and)? then |; ?|, (?!{BELONGS})", said)
    return [piece.strip(" ,") for piece in pieces if piece.strip(" ,")]


def _number(word: str) -> float:
    return NUMBERS[word] if word in NUMBERS else float(word)


def _time(found: re.Match[str], at: int) -> float:
    """Seconds of a time whose three groups begin at `at`."""
    each = 60 if found[at + 1].startswith("m") else 1
    return (_number(found[at]) + (0.5 if found[at + 2] else 0)) * each


def _many(found: re.Match[str], at: int = 1) -> int:
    number = _number(found[at])
    if number != int(number):
        raise CoreError(message("dose-text-enter-whole-number", found=found[0]), where="text")
    return int(number)


def _for(dose: SimpleDose, seconds: float) -> SimpleDose:
    made = stretched(dose, seconds)
    assert not isinstance(made, Compound)
    return made


def _pulse_for(found: re.Match[str]) -> SimpleDose:
    return _for(Pulse(on_s=_number(found[1]), off_s=_number(found[2]), cycles=1), _time(found, 3))


def _sets(found: re.Match[str]) -> SimpleDose:
    more: dict[str, Any] = {}
    if found[3]:
        more["seconds_each"] = _number(found[3])
    if found[4]:
        more["release_s"] = _number(found[4])
    return Sets(sets=_many(found), count=_many(found, 2), **more)


def _paced(found: re.Match[str]) -> SimpleDose:
    pace = {"per_minute": _number(found[2])} if found[2] else {}
    return Breaths(count=_many(found), **pace)


def _until(found: re.Match[str]) -> SimpleDose:
    sign = next(sign for word, sign in SIGNS.items() if word in found[1])
    return Until(sign=sign, cap_s=_time(found, 2) if found[2] else _time(found, 5) if found[5] else 60)


def _strokes(found: re.Match[str]) -> SimpleDose:
    each = {"seconds_each": _number(found[2])} if found[2] else {}
    return Glide(strokes=_many(found), **each)


ON = rf"{N} ?(?:{SECONDS} )?(?:on|press(?:ed)?),? ?(?:and )?{N} ?(?:{SECONDS} )?(?:off|release[d]?)"
CAP = rf"(?:,? (?:at most|no longer than) {TIME}|, {TIME} at most)?"
SHOWS = rf"(?:it |soreness |a |he |she |they )?(?:is |are |shows? )?({'|'.join(SIGNS)})(?: shows| is felt)?"
SWEEP = rf"{N} (?:long |light |slow )?(?:strokes?|sweeps?|glides?)(?: of {N} ?{SECONDS})?"
FORMS: tuple[tuple[str, Read], ...] = (
    (rf"{ON},? (?:for )?{TIME}", _pulse_for),
    (rf"{ON},? {N} (?:times|cycles)", lambda m: Pulse(on_s=_number(m[1]), off_s=_number(m[2]), cycles=_many(m, 3))),
    (rf"{N} times,? {ON}", lambda m: Pulse(on_s=_number(m[2]), off_s=_number(m[3]), cycles=_many(m, 1))),
    (rf"{ON}", lambda m: Pulse(on_s=_number(m[1]), off_s=_number(m[2]), cycles=6)),
    (rf"until {SHOWS}{CAP}", _until),
    (rf"(?:press and )?(?:hold|held|press)?(?: for)? ?{TIME}(?: held)?", lambda m: Hold(seconds=_time(m, 1))),
    (rf"{N} (?:slow )?circles?(?: each way| both ways| of the thumb)?", lambda m: Circles(each_way=_many(m))),
    (rf"{N} (?:slow |long )?breaths?(?: at {N} (?:a|per) minute)?", _paced),
    (rf"{N} sets? of {N}(?:,? {N} ?{SECONDS} each)?(?:,? {N} ?{SECONDS} between)?", _sets),
    (rf"{N} (?:small |short )?pumps?", lambda m: Pumps(count=_many(m))),
    (SWEEP, _strokes),
    (rf"{N} (?:warm )?rubs?(?: up and down)?", lambda m: Rubs(count=_many(m))),
    (rf"(?:walk )?{N} (?:thumb.walking )?pass(?:es)?(?: of the (?:walking )?thumb)?", lambda m: Walk(passes=_many(m))),
)


def _phrase(phrase: str) -> SimpleDose:
    for pattern, read in FORMS:
        if found := re.fullmatch(pattern, phrase):
            return read(found)
    raise CoreError(message("dose-text-not-understood-try-example", phrase=phrase, examples=EXAMPLES), where="text")
