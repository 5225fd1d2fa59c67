"""The catalogue: the messages of a language, from the Fluent files of its folder. Python and the browser read them."""

from functools import lru_cache
from pathlib import Path
from typing import Any

from fluent.runtime import FluentBundle, FluentResource
from fluent.syntax import FluentParser, ast

FOLDER = Path(__file__).parent
LANGUAGES = ("en",)
LOCALES = {"en": "en-GB"}


def lowered(given: Any) -> Any:
    """LOWER($words): words as they stand inside a sentence, with a small first letter unless they are a code.

    >>> lowered("Face down"), lowered("SP6")
    ('face down', 'SP6')
    """
    words = str(given)
    return words if words[1:2].isupper() or words[1:2].isdigit() else words[:1].lower() + words[1:]


@lru_cache
def files(language: str) -> tuple[Path, ...]:
    """The Fluent files of a language, in order."""
    return tuple(sorted((FOLDER / language).glob("*.ftl")))


@lru_cache
def entries(language: str) -> dict[str, ast.Message]:
    """The messages of a language by id, parsed. Raises: ValueError for a line that cannot be read, or an id that comes
    twice."""
    found: dict[str, ast.Message] = {}
    for path in files(language):
        for entry in FluentParser().parse(path.read_text()).body:
            if isinstance(entry, ast.Junk):
                raise ValueError(f"{path.name}: {str(entry.content)[:60]!r} cannot be read")
            if isinstance(entry, ast.Message):
                if entry.id.name in found:
                    raise ValueError(f"{path.name}: {entry.id.name} comes twice")
                found[entry.id.name] = entry
    return found


@lru_cache
def bundle(language: str) -> FluentBundle:
    """The messages of a language, ready to be formatted."""
    made = FluentBundle([LOCALES[language]], use_isolating=False, functions={"LOWER": lowered})
    for path in files(language):
        made.add_resource(FluentResource(path.read_text()))
    return made
