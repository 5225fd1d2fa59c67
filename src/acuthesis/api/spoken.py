"""Responses in the reader's language: the messages that the core made, as sentences."""

from contextvars import ContextVar
from typing import Any

from fastapi.responses import JSONResponse

from acuthesis.core.message import Message
from acuthesis.words.reader import Reader, english

_READER: ContextVar[Reader | None] = ContextVar("reader", default=None)
MESSAGE_KEYS = frozenset({"say", "values", "text"})


def current_reader() -> Reader:
    """Whoever reads the answer to this request; English where nothing says another language."""
    return _READER.get() or english()


class Spoken(JSONResponse):
    """JSON in which every message is said in the language of the reader."""

    def render(self, content: Any) -> bytes:
        """The bytes of the response."""
        return super().render(in_words(content, current_reader()))


def in_words(content: Any, reader: Reader) -> Any:
    """JSON values with the sentence in place of each message.

    >>> in_words({"due": [{"say": "due-screening"}], "code": "ok"}, english())
    {'due': ['no screening yet'], 'code': 'ok'}
    """
    match content:
        case dict() if "say" in content and MESSAGE_KEYS.issuperset(content):
            return reader.say(Message.read(content))
        case dict():
            return {key: in_words(value, reader) for key, value in content.items()}
        case list() | tuple():
            return [in_words(value, reader) for value in content]
        case _:
            return content
