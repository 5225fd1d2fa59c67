"""Pressing at home: how much, as reported. No conclusion whether it helped can be drawn from one person's log."""

from collections.abc import Sequence
from datetime import date, timedelta

from pydantic import BaseModel

from acuthesis.core.message import Message, message

WEEK = 7
LATELY_WEEKS = 4


class Practised(BaseModel):
    """What was done at home on a day, and for how long (minutes)."""

    on: date
    minutes: float | None = None
    words: str = ""


class HomePractice(BaseModel):
    """Days with practice and minutes in each of the last weeks (the newest last), and in words."""

    days_a_week: list[int]
    minutes_a_week: list[float]
    entries: int
    sentence: Message


def home_practice(entries: Sequence[Practised], today: date, first: date | None = None) -> HomePractice:
    """The last four weeks, or as many as there are since `first` (the day home practice was agreed).

    >>> told = [Practised(on=date(2026, 3, 1) + timedelta(days=n), minutes=6) for n in range(0, 28, 2)]
    >>> home_practice(told, date(2026, 3, 28)).minutes_a_week
    [24.0, 18.0, 24.0, 18.0]
    """
    begin = min([entry.on for entry in entries] + ([first] if first else []), default=today)
    weeks = min(max((today - begin).days // WEEK + 1, 1), LATELY_WEEKS)
    days, minutes = [], []
    for back in range(weeks - 1, -1, -1):
        last = today - timedelta(days=back * WEEK)
        own = [entry for entry in entries if last - timedelta(days=WEEK) < entry.on <= last]
        days.append(len({one.on for one in own}))
        minutes.append(round(sum(one.minutes or 0 for one in own), 1))
    told, mean = {"days": sum(days), "of": weeks * WEEK}, sum(minutes) / weeks
    if not entries:
        said = message("home-practice-none")
    elif mean >= 1:
        said = message("home-practice-minutes", **told, minutes=round(mean))
    else:
        said = message("home-practice", **told)
    return HomePractice(days_a_week=days, minutes_a_week=minutes, entries=len(entries), sentence=said)
