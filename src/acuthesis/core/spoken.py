"""Everyday speech as words: split, and compared in any form and with slips of spelling."""

import re

from rapidfuzz.distance import OSA

LEAST_STEM = 4  # letters from which the beginning of a word stands for it
LONGER_BY = 3  # letters that a form of a word may have more
ONE_SLIP, TWO_SLIPS = 5, 9  # letters from which a word may have one slip, and two


def spoken_words(text: str) -> list[str]:
    """The words of a text in lower case, without apostrophes and points.

    >>> spoken_words("Can't see, on ONE eye!")
    ['cant', 'see', 'on', 'one', 'eye']
    """
    return re.findall(r"[^\W_]+", re.sub(r"['’´`]", "", text.lower()))


def alike(word: str, other: str) -> bool:
    """Whether two words are the same in another form, or with a slip of spelling.

    >>> alike("swollen", "swolen"), alike("cramp", "cramps"), alike("heel", "feel")
    (True, True, False)
    """
    if word == other:
        return True
    shorter = min(len(word), len(other))
    if shorter < LEAST_STEM:
        return False
    begins = word.startswith(other[: max(shorter - 1, LEAST_STEM)])
    if begins and abs(len(word) - len(other)) <= LONGER_BY:
        return True
    slips = (shorter >= ONE_SLIP) + (shorter >= TWO_SLIPS)
    # A slip seldom falls on the first letter, and there it makes other words: night and light.
    return slips > 0 and word[0] == other[0] and OSA.distance(word, other, score_cutoff=slips) <= slips
