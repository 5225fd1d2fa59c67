"""What the core says to people: a code and its values, never a sentence.

A message is rendered in the reader's language by `acuthesis.words`. Where a text comes with the data (a complaint's
name, the reason of a rule), the message carries that English text beside its code; a text that a person wrote has no
code and is said as it is.
"""

from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any, Literal, Self

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import CoreSchema, core_schema


class Message:
    """Something to say: `code` of the catalogue, `values` by the names of its placeholders.

    `text`: the words themselves, where there is no code; the English beside the data, where the code is `content`.
    Equal by what it says; cannot be turned into a string here, since that needs a language.
    """

    __slots__ = ("code", "text", "values")

    def __init__(self, code: str, values: "Mapping[str, Any] | None" = None, text: str = "") -> None:
        self.code = code
        self.values: dict[str, Any] = {name: _plain(value) for name, value in (values or {}).items()}
        self.text = text

    def __repr__(self) -> str:
        said = ", ".join([repr(self.code), *(f"{key}={value!r}" for key, value in self.values.items())])
        return f"Message({said}{f', text={self.text!r}' if self.text else ''})"

    def __str__(self) -> str:
        raise TypeError(f"{self!r} needs a reader to be said")

    def __format__(self, spec: str) -> str:
        return str(self)

    def __bool__(self) -> bool:
        """Whether there is anything to say."""
        return bool(self.code or self.text)

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Message):
            return NotImplemented
        return (self.code, self.text, self.values) == (other.code, other.text, other.values)

    def __hash__(self) -> int:
        return hash((self.code, self.text, tuple(self.values)))

    def shown_as(self, words: str) -> "Message":
        """The same message with the words in which somebody read it; a text without a code is those words already."""
        return Message(self.code, self.values, words) if self.code else self

    def record(self) -> "str | dict[str, Any]":
        """As it is stored: the text alone where there is no code; else the code, its values, and any text beside it.

        >>> message("left-minutes", minutes=3).record()
        {'say': 'left-minutes', 'values': {'minutes': 3}}
        >>> verbatim("hands cold").record()
        'hands cold'
        """
        if not self.code:
            return self.text
        stored: dict[str, Any] = {"say": self.code}
        if self.values:
            stored["values"] = {name: _stored(value) for name, value in self.values.items()}
        if self.text:
            stored["text"] = self.text
        return stored

    @classmethod
    def read(cls, stored: Any) -> Self:
        """What `record` stored, or a sentence that an earlier version stored. Raises: ValueError for anything else."""
        match stored:
            case Message():
                return stored  # type: ignore[return-value]
            case str():
                return cls("", text=stored)
            case {"say": str(code)} if set(stored) <= {"say", "values", "text"}:
                values = {str(name): _read(value) for name, value in (stored.get("values") or {}).items()}
                return cls(code, values, str(stored.get("text", "")))
            case _:
                raise ValueError("must be a text, or a code with its values")

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_plain_validator_function(
            cls.read,
            json_schema_input_schema=core_schema.str_schema(),
            serialization=core_schema.plain_serializer_function_ser_schema(lambda said: said.record()),
        )

    @classmethod
    def __get_pydantic_json_schema__(cls, schema: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        return {"type": "string"}


def _plain(value: Any) -> Any:
    """A value as a message keeps it: texts, numbers and messages; a day as a message, anything else as its text."""
    match value:
        case Message(code=""):
            return value.text
        case tuple() | list():
            return tuple(_plain(one) for one in value)
        case date():
            return day(value)
        case Message() | str() | int() | float():
            return value
        case _:
            return str(value)


def _stored(value: Any) -> Any:
    if isinstance(value, Message):
        return value.record()
    return [_stored(one) for one in value] if isinstance(value, tuple | list) else value


def _read(value: Any) -> Any:
    if isinstance(value, dict):
        return Message.read(value)
    return tuple(_read(one) for one in value) if isinstance(value, list) else value


def message(code: str, **values: Any) -> Message:
    """A message of the catalogue with its values: numbers, texts as they are, messages, or a tuple of messages."""
    return Message(code, values)


def verbatim(text: str) -> Message:
    """A text that somebody wrote, said as it is in every language."""
    return Message("", text=text)


def content(kind: str, id: str, field: str, english: str, **values: Any) -> Message:
    """A text of the shipped data, `field` of the entry `id` of its `kind`; other languages replace it by these three.

    `values`: what stands in braces in the text.
    """
    return Message("content", {"kind": kind, "id": id, "field": field, **values}, english)


def in_turn(things: "Sequence[Message | str]") -> Message:
    """Several things as a list: "a, b and c"."""
    return message("in-turn", things=tuple(things))


def either(things: "Sequence[Message | str]") -> Message:
    """One of several: "a, b or c"."""
    return message("either", things=tuple(things))


DayStyle = Literal["long", "short", "weekday", "short-month", "weekday-short"]


def day(on: date, style: DayStyle = "long") -> Message:
    """A day with month and year; `short` without its year, `weekday` with its name and without the year, `short-month`
    as narrow as a column of a table, `weekday-short` the name alone."""
    return message("day", on=f"{on:%Y-%m-%d}", style=style)


NOTHING = verbatim("")
