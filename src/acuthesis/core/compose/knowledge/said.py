"""Matches what people say, and where they point, to complaints: ranked, each with the reason."""

import re
from collections.abc import Collection, Mapping, Sequence
from functools import lru_cache
from typing import Literal

from pydantic import BaseModel, ConfigDict

from acuthesis.core.body.catalogue import read_yaml
from acuthesis.core.body.regions import regions
from acuthesis.core.compose.knowledge.complaints import ComplaintKind, complaint_kinds
from acuthesis.core.compose.knowledge.dose import DATA
from acuthesis.core.data_file import read
from acuthesis.core.safety.alarms import Alarm, alarms_in
from acuthesis.core.spoken import alike, spoken_words

LEAST_SHARE = 0.5  # of a phrase's words that have to be said
WHERE_SCORE = 0.8  # pointing at a place of a complaint says nearly as much as a whole phrase of it
NAME_SCORE = 1.2
SMALL_SHARE = 0.001
MOST = 8
# Said around everything, and telling nothing apart.
SMALL_WORDS = frozenset(read(DATA / "small_words.yaml"))
Side = Literal["left", "right", "both"]


class ComplaintPhrases(BaseModel):
    """How people say a complaint: phrases, regions they point at, and whether it can sit on one side."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    one_sided: bool
    where: tuple[str, ...]
    says: tuple[str, ...]


class Fit(BaseModel):
    """A complaint that fits what was said: how well (1 is a whole phrase of it), and why, in words."""

    id: str
    name: str
    score: float
    why: str


class Heard(BaseModel):
    """What was understood: questions to ask before anything else; complaints that fit, the best first; the side, if one
    was named.
    """

    alarms: list[Alarm]
    fits: list[Fit]
    side: Side | None


@lru_cache
def phrases() -> Mapping[str, ComplaintPhrases]:
    """How people say each shipped complaint. Raises: ValueError where one is missing, or a region is unknown.

    >>> phrases()["calf_cramp"].where
    ('calf',)
    """
    found = {row.id: row for row in read_yaml(DATA / "said.yaml", ComplaintPhrases)}
    if set(found) != set(complaint_kinds()):
        raise ValueError(f"said.yaml and the complaints differ in {set(found) ^ set(complaint_kinds())}")
    known = {region.id for region in regions()}
    if unknown := {where for row in found.values() for where in row.where} - known:
        raise ValueError(f"said.yaml points at {unknown}, which are no regions")
    return found


def can_be_one_sided(kind: ComplaintKind) -> bool:
    """Whether a complaint asks for its side. A practice's own does where its points are on the affected side.

    >>> from acuthesis.core.compose.knowledge.complaints import complaint_kind
    >>> can_be_one_sided(complaint_kind("knee_pain")), can_be_one_sided(complaint_kind("poor_sleep"))
    (True, False)
    """
    said = phrases().get(kind.id)
    return said.one_sided if said else kind.sides == "affected"


def heard(text: str, where: Collection[str], kinds: Mapping[str, ComplaintKind]) -> Heard:
    """The complaints that fit what somebody says and where they point, the best first.

    Parameters: text, in their words; where, names of regions; kinds, the complaints of the practice by id.
    Returns at most `MOST`; none where neither words nor places fit anything.

    >>> [fit.id for fit in heard("wakes at four", (), complaint_kinds()).fits]
    ['poor_sleep']
    >>> found = heard("the left one, stairs down", ("knee",), complaint_kinds())
    >>> found.fits[0].id, found.fits[0].why, found.side
    ('knee_pain', 'said: stairs down; points at the knee', 'left')
    """
    found = [fit for kind in kinds.values() if (fit := _fit(kind, text, where)) is not None]
    return Heard(alarms=alarms_in(text), fits=sorted(found, key=lambda fit: -fit.score)[:MOST], side=_side(text))


def _fit(kind: ComplaintKind, text: str, where: Collection[str]) -> Fit | None:
    words = _words(text)
    said = phrases().get(kind.id)
    score, why = 0.0, []
    named = _share(_words(kind.name), words)
    if named >= LEAST_SHARE:
        score, why = NAME_SCORE * named, [f"named: {kind.name.lower()}"]
    best = max(
        ((_share_of(one, text, words), one) for one in (*(said.says if said else ()), *kind.acts)), default=(0.0, "")
    )
    if best[0] >= LEAST_SHARE:
        # Of two phrases that are said whole the longer one tells more.
        told = best[0] * (1 + 0.1 * len(_words(best[1])))
        if told > score:
            score, why = told, [f"said: {best[1]}"]
    pointed = [region for region in (said.where if said else ()) if region in where]
    if pointed:
        # The first region of a complaint is where it sits; the others are where it spreads.
        score += WHERE_SCORE * (1.0 if said and pointed[0] == said.where[0] else 0.5)
        why.append(f"points at the {pointed[0]}")
    return Fit(id=kind.id, name=kind.name, score=round(score, 2), why="; ".join(why)) if why else None


def _words(text: str) -> list[str]:
    """The words that tell something apart."""
    return [word for word in spoken_words(text) if word not in SMALL_WORDS]


def _share(phrase: Sequence[str], said: Sequence[str]) -> float:
    """Share of a phrase's words that were said, in any order and form."""
    if not phrase:
        return 0.0
    return sum(any(alike(word, other) for other in said) for word in phrase) / len(phrase)


def _share_of(phrase: str, text: str, words: Sequence[str]) -> float:
    """Share of a phrase that was said; one of small words alone is said whole and in its order, or not at all."""
    telling, whole = _words(phrase), spoken_words(phrase)
    if telling:
        # Of two phrases that say the same, the one whose small words were said too: stairs up, stairs down.
        return _share(telling, words) + SMALL_SHARE * _share(whole, spoken_words(text))
    return float(" ".join(whole) in " ".join(spoken_words(text)))


def _side(text: str) -> Side | None:
    named = {side for side in ("left", "right", "both") if re.search(rf"\b{side}\b", text.lower())}
    if "both" in named or named == {"left", "right"}:
        return "both"
    return named.pop() if named else None  # type: ignore[return-value]  # one of the three
