"""Parses episodes as people tell them, several at once: "three last week, the worst on Thursday"."""

import re
from datetime import date, timedelta

from pydantic import BaseModel

NUMBERS = {
    "no": 0, "none": 0, "a": 1, "an": 1, "one": 1, "once": 1, "two": 2, "twice": 2, "couple": 2, "three": 3, "few": 3,
    "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8, "nine": 9, "ten": 10, "eleven": 11, "twelve": 12,
}  # fmt: skip
DAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
MOST = 31


class ToldEpisode(BaseModel):
    """An episode as it was told: its day, whether the day was said or only lies in the time that was, how strong."""

    day: date
    day_said: bool
    strength: int | None
    worst: bool


def episodes_told(text: str, today: date) -> list[ToldEpisode]:
    """Episodes out of a sentence, in order of time; what the sentence does not say is marked as not said.

    Understood: how many ("three", "2", "a few", "every day"), when ("last week", "this week", "yesterday", "in the last
    10 days", days of the week), the worst of them ("the worst on Thursday"), and how strong ("7 of 10", "strength 7";
    of the worst where one is named). Days that were not said are spread over the time that was.

    >>> told = episodes_told("three last week, the worst on Thursday, 8 of 10", date(2026, 3, 11))
    >>> [(f"{one.day:%a %d}", one.day_said, one.strength) for one in told]
    [('Mon 02', False, None), ('Thu 05', True, 8), ('Sun 08', False, None)]
    >>> [f"{one.day:%a}" for one in episodes_told("Monday and Friday", date(2026, 3, 11))]
    ['Fri', 'Mon']
    >>> episodes_told("none this week", date(2026, 3, 11))
    []
    """
    said = text.lower()
    worst = re.search(rf"worst (?:one )?(?:was |on |was on )*({'|'.join(DAYS)}|yesterday|today)", said)
    first, last = _when(said, today)
    named = [
        _day(match[0], last) for match in re.finditer(rf"\b(?:{'|'.join(DAYS)}|yesterday|last night|today)\b", said)
    ]
    days = sorted({day for day in named if first <= day <= today})
    count = _how_many(said, first, last, len(days))
    strength = _strength(said)
    worst_day = _day(worst[1], last) if worst else None
    found = [(day, True) for day in days] + [(day, False) for day in _spread(first, last, days, count - len(days))]
    return [
        ToldEpisode(
            day=day,
            day_said=is_said,
            strength=strength if worst_day is None or day == worst_day else None,
            worst=day == worst_day,
        )
        for day, is_said in sorted(found)
    ]


def _when(said: str, today: date) -> tuple[date, date]:
    """The first and the last day that are spoken of; a week back where no time is named."""
    monday = today - timedelta(days=today.weekday())
    if "last week" in said:
        return monday - timedelta(days=7), monday - timedelta(days=1)
    if "this week" in said:
        return monday, today
    back = re.search(r"last (\d+|\w+) days", said)
    if back and (number := _number(back[1])):
        return today - timedelta(days=min(number, MOST) - 1), today
    if "last month" in said or "this month" in said:
        return today - timedelta(days=29), today
    return today - timedelta(days=6), today


def _day(word: str, last: date) -> date:
    if word == "today":
        return last
    if word in ("yesterday", "last night"):
        return last - timedelta(days=1)
    return last - timedelta(days=(last.weekday() - DAYS.index(word)) % 7)


def _number(word: str) -> int | None:
    return int(word) if word.isdigit() else NUMBERS.get(word)


def _how_many(said: str, first: date, last: date, named: int) -> int:
    if re.search(r"\bevery (day|night|morning|evening)\b", said):
        return (last - first).days + 1
    # Numbers that say how strong or how far back are no counts.
    plain = re.sub(r"\b\d+ ?(?:of|out of|/) ?10\b|strength \d+|last (?:\d+|\w+) days", " ", said)
    for word in re.findall(r"[a-z]+|\d+", plain):
        number = _number(word)
        if number is not None and word not in ("a", "an", "one"):
            return max(min(number, MOST), named)
    if named:
        return named
    return 1 if re.search(r"\b(an?|one)\b", plain) else 0


def _strength(said: str) -> int | None:
    found = re.search(r"\b(\d+) ?(?:of|out of|/) ?10\b|strength (\d+)", said)
    value = int(next(group for group in found.groups() if group)) if found else None
    return value if value is not None and 0 <= value <= 10 else None


def _spread(first: date, last: date, taken: list[date], count: int) -> list[date]:
    """So many days, spread evenly over the time that was spoken of, on days that are not taken."""
    free = [first + timedelta(days=n) for n in range((last - first).days + 1)]
    free = [day for day in free if day not in taken]
    count = max(0, min(count, len(free)))
    if count == 0:
        return []
    if count == 1:
        return [free[len(free) // 2]]
    return [free[round(rank * (len(free) - 1) / (count - 1))] for rank in range(count)]
