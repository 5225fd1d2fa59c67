"""Everyday phrases that point at an emergency or a red flag: alarms.yaml. Matched before any complaint is."""

from collections.abc import Sequence
from functools import lru_cache

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from acuthesis.core.data_file import read
from acuthesis.core.errors import UnknownId
from acuthesis.core.message import message
from acuthesis.core.safety.rule import DATA
from acuthesis.core.safety.screening import questions
from acuthesis.core.spoken import alike, spoken_words

ORDER = ("emergency", "refer", "context")


class Alarm(BaseModel):
    """A question of the screening that what was said points at: to be asked before anything else.

    `severity` as of the question; `say` what is then to be done; `why` the words that pointed at it.
    """

    flag: str
    ask: str
    say: str
    severity: str
    why: str


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)

    flag: str
    said: tuple[tuple[str, ...], ...] = Field(min_length=1)
    but_not: tuple[str, ...] = ()


class _Table(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)

    ideas: dict[str, tuple[str, ...]]
    alarms: tuple[_Row, ...]


@lru_cache
def _table() -> _Table:
    """Raises: UnknownId for a question that does not exist."""
    table = TypeAdapter(_Table).validate_python(read(DATA / "alarms.yaml"))
    for row in table.alarms:
        if row.flag not in questions():
            raise UnknownId(message("alarms-alarms-yaml-asks-which-no", flag=row.flag), where=row.flag)
    return table


def alarms_in(text: str) -> list[Alarm]:
    """The questions that a text points at, emergencies first; each once, in the order of the screening.

    >>> [alarm.flag for alarm in alarms_in("crushing chest pain")]
    ['chest_pain']
    >>> alarms_in("shoulder will not go up")
    []
    """
    said = spoken_words(text)
    found: dict[str, Alarm] = {}
    for row in _table().alarms:
        why = next((why for ideas in row.said if (why := _heard(ideas, said))), None)
        if why is None or row.flag in found or any(_idea(idea, said) for idea in row.but_not):
            continue
        question = questions()[row.flag]
        found[row.flag] = Alarm(
            flag=row.flag, ask=question.ask, say=question.say, severity=question.severity, why=" … ".join(why)
        )
    rank = {id: place for place, id in enumerate(questions())}
    return sorted(found.values(), key=lambda alarm: (ORDER.index(alarm.severity), rank[alarm.flag]))


def _heard(ideas: Sequence[str], said: Sequence[str]) -> list[str] | None:
    """What was said for each of the ideas, in any order; None where one of them is missing."""
    found = [_idea(idea, said) for idea in ideas]
    return None if None in found else list(dict.fromkeys(words for words in found if words))


def _idea(idea: str, said: Sequence[str]) -> str | None:
    """The words for an idea that were said; of an idea that is not in the table, the words themselves."""
    for phrase in _table().ideas.get(idea, (idea,)):
        words = phrase.split()
        # Short words say little by themselves: those of one phrase stand together, in its order.
        if len(words) == 1:
            if any(alike(words[0], word) for word in said):
                return phrase
        elif _in_order(words, said):
            return phrase
    return None


def _in_order(words: Sequence[str], said: Sequence[str]) -> bool:
    """Whether words are said one after the other, with at most one other word between two of them."""
    starts = [place for place, word in enumerate(said) if alike(words[0], word)]
    for start in starts:
        at = start
        for word in words[1:]:
            following = [place for place in (at + 1, at + 2) if place < len(said) and alike(word, said[place])]
            if not following:
                break
            at = following[0]
        else:
            return True
    return False
