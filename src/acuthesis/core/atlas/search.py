"""Finds points and areas by whatever a practitioner types: code, name with or without tone marks, place, use."""

import unicodedata
from functools import lru_cache

from acuthesis.core.atlas.catalogue import Entry, entries


def plain(text: str) -> str:
    """Lower case, tone marks and punctuation off, single spaces: 'Sān Yīn-Jiāo' becomes 'san yin jiao'."""
    bare = "".join(c for c in unicodedata.normalize("NFD", text.lower()) if not unicodedata.combining(c))
    return " ".join("".join(c if c.isalnum() else " " for c in bare).split())


@lru_cache
def _index() -> list[tuple[Entry, tuple[tuple[int, str], ...]]]:
    """For each entry its texts with their weight: a hit in the code counts more than one in a use."""
    rows = []
    for entry in entries():
        texts = [
            (10, entry.id.removeprefix("ear_").removeprefix("foot_")),
            (8, entry.names.romanised),
            (8, entry.names.characters),
            (7, entry.names.english),
            *((6, name) for name in entry.also_called),
            (4, entry.region),
            *((2, use) for use in entry.traditional),
        ]
        rows.append((entry, tuple((weight, plain(text)) for weight, text in texts if text)))
    return rows


def search(text: str, limit: int = 20) -> list[Entry]:
    """Entries that match, best first. Every word typed must be found; spaces do not matter within a name."""
    wanted = plain(text)
    if not wanted:
        return []
    together = wanted.replace(" ", "")
    scored: list[tuple[float, int, Entry]] = []
    for position, (entry, texts) in enumerate(_index()):
        score = 0.0
        for weight, known in texts:
            packed = known.replace(" ", "")
            if packed == together:
                score = max(score, weight * 3)
            elif packed.startswith(together):
                score = max(score, weight * 2)
            elif together in packed:
                score = max(score, weight)
        words = wanted.split()
        if not score and all(any(word in known for _, known in texts) for word in words):
            score = sum(max(weight for weight, known in texts if word in known) for word in words) / len(words) / 2
        if score:
            scored.append((-score, position, entry))
    return [entry for _, _, entry in sorted(scored, key=lambda row: row[:2])[:limit]]
