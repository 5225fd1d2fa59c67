"""Says messages in a language."""

from collections.abc import Callable
from datetime import date, datetime
from functools import lru_cache
from typing import Any, Literal

from babel.dates import format_skeleton, format_time
from babel.lists import format_list
from babel.numbers import format_decimal
from fluent.runtime.types import fluent_number

from acuthesis.core import errors
from acuthesis.core.message import Message
from acuthesis.words.catalogue import LOCALES, bundle

# The parts of a day by its style, as Unicode names them; their order is the locale's.
DAY_PARTS = {"long": "yMMMMd", "short": "MMMMd", "weekday": "MMMMEEEEd", "short-month": "MMMd", "weekday-short": "E"}


class MissingWords(LookupError):
    """A code that is in no catalogue, or a message without the value that it names: a fault of ours."""


class Reader:
    """Renders messages for somebody who reads `language`."""

    def __init__(self, language: str = "en") -> None:
        self.language = language
        self._bundle = bundle(language)
        self._locale = LOCALES[language].replace("-", "_")

    def say(self, said: Message) -> str:
        """The words of a message. Raises: MissingWords for a code or value that the catalogue does not have."""
        if not said.code:
            return said.text
        if said.code in RESERVED:
            return RESERVED[said.code](self, said)
        if not self._bundle.has_message(said.code):
            raise MissingWords(f"there are no words for {said.code!r} in {self.language}")
        pattern = self._bundle.get_message(said.code).value
        assert pattern is not None, "the catalogue has no attributes without a value"
        values = {name: self._value(value) for name, value in said.values.items()}
        words, errors = self._bundle.format_pattern(pattern, values)
        if errors:
            raise MissingWords(f"{said.code}: {errors[0]}")
        return str(words)

    def time(self, at: datetime) -> str:
        """The time of day of a moment, by the clock that it stands on."""
        return format_time(at, "short", tzinfo=at.tzinfo, locale=self._locale)

    def _value(self, value: Any) -> Any:
        match value:
            case Message():
                return self.say(value)
            case bool() | str():
                return str(value)
            case int() | float():
                whole = int(value) if float(value).is_integer() else value
                return fluent_number(whole, useGrouping=False)
            case _:
                raise MissingWords(f"{value!r} is no value of a message")

    def _things(self, said: Message) -> list[str]:
        return [self.say(one) if isinstance(one, Message) else str(one) for one in said.values["things"]]

    def _content(self, said: Message) -> str:
        words = said.text
        for name, value in said.values.items():
            if name not in ("kind", "id", "field"):
                words = words.replace("{" + name + "}", str(self._value(value)))
        return words

    def _listed(self, said: Message, style: Literal["standard", "or"]) -> str:
        things = self._things(said)
        if any("," in one for one in things) and len(things) > 1:
            return "; ".join(things)
        # British lists have no comma before the last; Babel's do.
        return format_list(things, style=style, locale=self._locale)

    def _day(self, said: Message) -> str:
        parts = DAY_PARTS[said.values.get("style", "long")]
        return format_skeleton(parts, date.fromisoformat(said.values["on"]), locale=self._locale)

    def _signed(self, said: Message) -> str:
        points = said.values["points"]
        return f"{'−' if points < 0 else '+'}{format_decimal(abs(points), '0.0', locale=self._locale)}"

    def _end(self, said: Message) -> str:
        points = said.values["points"]
        return f"{'−' if points < 0 else ''}{format_decimal(abs(points), '0.0', locale=self._locale)}"


RESERVED: dict[str, Callable[[Reader, Message], str]] = {
    "content": Reader._content,
    "in-turn": lambda reader, said: reader._listed(said, "standard"),
    "either": lambda reader, said: reader._listed(said, "or"),
    "day": Reader._day,
    "signed": Reader._signed,
    "end-of-interval": Reader._end,
}


@lru_cache
def english() -> Reader:
    """The reader of English."""
    return Reader("en")


errors.in_words = lambda said: english().say(said)
