"""Search of points and areas by anything a practitioner types: code, name with or without tone marks, place, use."""

import unicodedata
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

from acuthesis.core.atlas.entries.catalogue import Entry, entries, sites, surfaces
from acuthesis.core.atlas.entries.model import Area
from acuthesis.core.atlas.entries.whereabouts import phrases

# Weights of the texts of an entry: a hit in the code counts more than one in a use.
CODE, NAME, ENGLISH, ALIAS, PLACE, WHERE, USE, FEEL = 10, 8, 7, 6, 4, 3, 2, 1
SMALL_WORDS = {
    "a",
    "an",
    "and",
    "around",
    "at",
    "for",
    "from",
    "in",
    "into",
    "is",
    "its",
    "of",
    "on",
    "or",
    "the",
    "to",
    "with",
}
# What people call a thing beside the name that our texts give it.
SAME = {
    "patella": "kneecap",
    "shinbone": "tibia",
    "shin bone": "tibia",
    "eyebrow": "brow",
    "malleolus": "ankle bone",
    "cord": "tendon",
    "heel cord": "achilles tendon",
    "belly button": "navel",
    "umbilicus": "navel",
    "sternum": "breastbone",
    "clavicle": "collarbone",
    "scapula": "shoulder blade",
    "lower back": "low back",
    "vertebra": "spinous process",
    "nape": "back of the neck",
    "rib space": "intercostal space",
}


def plain(text: str) -> str:
    """Lower case, tone marks and punctuation off, single spaces: 'Sān Yīn-Jiāo' becomes 'san yin jiao'.

    >>> plain("Sānyīnjiāo")
    'sanyinjiao'
    """
    bare = "".join(c for c in unicodedata.normalize("NFD", text.lower()) if not unicodedata.combining(c))
    return " ".join("".join(c if c.isalnum() else " " for c in bare).split())


def texts(entry: Entry) -> list[tuple[int, str]]:
    """Everything an entry may be found by, with its weight, in plain form.

    >>> from acuthesis.core.atlas.entries.catalogue import entry
    >>> texts(entry("SP6"))[0]
    (10, 'sp6')
    """
    code = entry.id.split("_", 1)[-1]
    site = sites()[entry.site]["region"] if entry.site else ""
    found = [
        (CODE, entry.id),
        (CODE if any(letter.isdigit() for letter in code) else ALIAS, code),  # else a plain word: `scalp_crown`
        (NAME, entry.names.romanised),
        (NAME, entry.names.characters),
        (ENGLISH, entry.names.english),
        *((ALIAS, name) for name in entry.also_called),
        (PLACE, entry.region),
        (WHERE, site),
        *((USE, use) for use in entry.traditional),
        (FEEL, entry.feel),
    ]
    if isinstance(entry, Area):
        found += [(WHERE, f"{entry.where} {surfaces()[entry.surface].name}")]
    else:
        found += [(WHERE, method.name) for method in entry.methods]
        found += [(WHERE, phrase) for method in entry.methods for phrase in phrases(method.place)]
    return list(dict.fromkeys((weight, plain(text)) for weight, text in found if plain(text)))


@dataclass(frozen=True)
class Hit:
    """An entry that was found; the higher the score, the better it fits."""

    entry: Entry
    score: float


class Index:
    """The texts of some entries, ready to be searched; `also` adds further uses by id (complaints, say)."""

    def __init__(self, entries: Iterable[Entry], also: Mapping[str, Sequence[str]] | None = None) -> None:
        further = also or {}
        self._rows = []
        for entry in entries:
            known = texts(entry) + [(USE, plain(text)) for text in further.get(entry.id, ())]
            rows = [(weight, text, text.replace(" ", ""), frozenset(text.split())) for weight, text in known]
            self._rows.append((entry, rows, " ".join(row[1] for row in rows), "\n".join(row[2] for row in rows)))

    def search(self, text: str) -> list[Hit]:
        """Entries in which every word typed is found, best first; spaces do not matter within a name."""
        wanted = plain(text)
        together = wanted.replace(" ", "")
        words = _our_words(wanted)
        if not words:
            return []
        hits = []
        for entry, rows, everything, packed_everything in self._rows:
            score = 0.0
            if together in packed_everything:
                score = max(_name_score(weight, packed, together) for weight, _, packed, _ in rows)
            elif all(word in everything for word in words):
                score = _words_score(rows, words)
            if score:
                hits.append(Hit(entry, score))
        return sorted(hits, key=lambda hit: -hit.score)


def _our_words(wanted: str) -> list[str]:
    """The words that carry meaning, in the words that our texts use."""
    spaced = f" {wanted} "
    for theirs, ours in SAME.items():
        spaced = spaced.replace(f" {theirs} ", f" {ours} ")
    return [word for word in spaced.split() if word not in SMALL_WORDS]


def _name_score(weight: int, packed: str, together: str) -> float:
    """A text that is what was typed counts most, then one that begins with it, then one that holds it."""
    if together not in packed:
        return 0.0
    return weight * (3 if packed == together else 2 if packed.startswith(together) else 1)


def _words_score(rows: list[tuple[int, str, str, frozenset[str]]], words: list[str]) -> float:
    """How well texts hold the words: most if one text holds them all, in full; then by where each is found."""
    whole = max((weight for weight, text, _, _ in rows if all(word in text for word in words)), default=0)
    each = 0.0
    for word in words:
        each += max(
            (weight * (1.0 if word in full else 0.6) for weight, text, _, full in rows if word in text), default=0
        )
    return each / len(words) / 2 + whole / 2


@lru_cache
def index() -> Index:
    """The index of the whole atlas, made once a process: codes, names in all languages, and where each place is."""
    return Index(entries())


def search(text: str, limit: int = 20) -> list[Entry]:
    """Entries of the atlas that match, best first, at most `limit`. Codes, names with or without tone marks, and places
    ("inner wrist") are understood; nothing found is an empty list.

    >>> search("san yin jiao", 1)[0].id
    'SP6'
    """
    return [hit.entry for hit in index().search(text)[:limit]]
