"""Says messages in English, as the screens and papers do, for tests that read what people would read."""

from acuthesis.core.message import Message
from acuthesis.words.reader import english


def said(message: Message) -> str:
    """The English words of a message."""
    return english().say(message)


def all_said(messages: "list[Message] | tuple[Message, ...]") -> list[str]:
    """The English words of several."""
    return [said(one) for one in messages]
