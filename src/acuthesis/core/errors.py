"""The errors that the core raises: a code, what is said to people, and where in the input."""

from collections.abc import Callable, Sequence

from acuthesis.core.message import Message, verbatim

# How an error is put into words where only a text will do. The catalogue (`acuthesis.words`) gives English.
in_words: Callable[[Message], str] = repr


class CoreError(Exception):
    """Something in the input cannot be used. `where` names the field or id; `code` is stable for programs.

    `details`: where and what, of everything that is wrong, where that is more than one thing.
    """

    code = "invalid"

    def __init__(
        self, message: Message | str, where: str = "", details: Sequence[tuple[str, Message | str]] = ()
    ) -> None:
        super().__init__(message)
        self.message = verbatim(message) if isinstance(message, str) else message
        self.where = where
        self.details = tuple(details)

    def __str__(self) -> str:
        """For logs and for libraries that ask an error for its text; people are told `message` in their language."""
        return in_words(self.message)


class UnknownId(CoreError):
    """An id that is in no data file (a point, a landmark, a complaint, a dose)."""

    code = "unknown_id"


class OutOfRange(CoreError):
    """A value outside what is humanly possible; the message says the range."""

    code = "out_of_range"


class NotAllowed(CoreError):
    """A step that the state or the safety rules do not permit; the message says why."""

    code = "not_allowed"
