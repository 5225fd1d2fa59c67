"""Renders templates to PDF from local files only: a document never reads this machine or the network."""

from collections.abc import Mapping, Sequence
from functools import lru_cache
from pathlib import Path
from typing import Any

from jinja2 import Environment, FileSystemLoader, StrictUndefined, select_autoescape

from acuthesis.core.message import Message, day, message
from acuthesis.core.words import short_id
from acuthesis.words.reader import english

TEMPLATES, FONTS = Path(__file__).parent / "templates", Path(__file__).parent / "fonts"
MEDIA_TYPES = {".css": "text/css", ".ttf": "font/ttf"}
SHIPPED = "file:///shipped/"  # where papers think they lie; nothing is read under this name but what `shipped` gives


@lru_cache
def _templates() -> Environment:
    environment = Environment(
        loader=FileSystemLoader(TEMPLATES),
        autoescape=select_autoescape(),
        trim_blocks=True,
        undefined=StrictUndefined,  # a paper with a gap in it must not be printed
    )
    environment.filters["short"] = short_id
    return environment


def _say(said: Message | str, **values: Any) -> str:
    """The words of a message, or of a code with its values."""
    return english().say(said if isinstance(said, Message) else message(said, **values))


def _clock(seconds: float) -> str:
    """Minutes and seconds of a session."""
    return f"{int(seconds) // 60}:{int(seconds) % 60:02d}"


# What every template may call: words, days and times as the reader writes them.
_SPEECH: dict[str, Any] = {
    "language": english().language,
    "say": _say,
    "day": lambda on, style="long": english().say(day(on, style)),
    "time": lambda at: english().time(at),
    "clock": _clock,
}


def render(
    template: str,
    sizes: Sequence[str] = ("",),
    drawings: Mapping[str, str] | None = None,
    most_pages: int = 1,
    **values: Any,
) -> bytes:
    """A template as PDF; of several `sizes` (CSS classes, the largest first) the first that fits on so many pages.

    `drawings`: SVG by name, which the template shows as `<img src="name">`. As pictures they are read as what they are,
    and not as a part of the page that every rule of style has to be tried on.
    """
    # Imported at the first paper: it takes a second, which the start of the server should not wait for.
    from weasyprint import HTML

    for size in sizes:
        html = _templates().get_template(template).render(_SPEECH | {"size": size} | values)
        document = HTML(string=html, base_url=SHIPPED, url_fetcher=_fetcher(drawings or {})).render()
        if len(document.pages) <= most_pages:
            break
    return bytes(document.write_pdf())


def shipped(url: str) -> bytes:
    """A style sheet that lies beside the templates, or a font, by its name. Raises: ValueError for anything else."""
    wanted = (FONTS if url.endswith(".ttf") else TEMPLATES) / url.removeprefix(SHIPPED)
    lies_here = wanted.parent in (FONTS, TEMPLATES) and wanted.suffix in MEDIA_TYPES and wanted.is_file()
    if not url.startswith(SHIPPED) or not lies_here:
        raise ValueError(f"papers do not load {url[:80]}")
    return wanted.read_bytes()


def _fetcher(drawings: Mapping[str, str]) -> Any:
    from weasyprint.urls import URLFetcher, URLFetcherResponse

    class Shipped(URLFetcher):  # type: ignore[misc]
        """Gives this paper's drawings and shipped style sheets, and refuses the rest."""

        def fetch(self, url: str, headers: dict[str, str] | None = None) -> Any:
            name = url.removeprefix(SHIPPED)
            if name in drawings:
                return URLFetcherResponse(url, drawings[name].encode(), {"Content-Type": "image/svg+xml"})
            return URLFetcherResponse(url, shipped(url), {"Content-Type": MEDIA_TYPES[Path(url).suffix]})

    return Shipped(fail_on_errors=True)
