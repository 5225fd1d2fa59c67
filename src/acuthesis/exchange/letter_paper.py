"""A letter's text as plain text and as PDF. In the text, # begins a heading, a hyphen an item of a list, and a mark
stands for a figure.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from acuthesis.exchange.letter_template import figure_mark
from acuthesis.exchange.render import render


@dataclass(frozen=True)
class LetterFigure:
    """A figure (SVG), and what it shows in words, for whoever reads and does not see it."""

    svg: str
    words: str


@dataclass(frozen=True)
class Block:
    """A piece of a letter: `kind` is heading, paragraph, list or figure; `lines` its lines, of a figure its rank."""

    kind: str
    lines: tuple[str, ...]


def plain(text: str, figures: Sequence[LetterFigure]) -> str:
    """The letter without marks: headings are lines of their own, figures are told."""
    for rank, figure in enumerate(figures):
        text = text.replace(figure_mark(rank), f"(Figure: {figure.words})")
    return "\n".join(line.removeprefix("# ") for line in text.splitlines()) + "\n"


def blocks(text: str, figures: int) -> list[Block]:
    """The letter piece by piece.

    >>> [block.kind for block in blocks("# About\\n\\nOne line\\nand another.\\n- an item\\n\\n[[figure 1]]\\n", 1)]
    ['heading', 'paragraph', 'list', 'figure']
    """
    marks = {figure_mark(rank): str(rank) for rank in range(figures)}
    found: list[Block] = []
    kind, lines = "", list[str]()

    def done() -> None:
        if lines:
            found.append(Block(kind, tuple(lines)))
        lines.clear()

    for line in text.splitlines():
        told = line.strip()
        here, words = _kind(told, marks)
        if here != kind or here in ("heading", "figure"):
            done()
        kind = here
        if words:
            lines.append(words)
    done()
    return found


def _kind(line: str, marks: dict[str, str]) -> tuple[str, str]:
    if line.startswith("# "):
        return "heading", line.removeprefix("# ")
    if line.startswith("- "):
        return "list", line.removeprefix("- ")
    if line in marks:
        return "figure", marks[line]
    return ("paragraph", line) if line else ("", "")


def letter_pdf(title: str, practice: str, text: str, figures: Sequence[LetterFigure]) -> bytes:
    """The letter as PDF, with its figures where they are marked."""
    return render(
        "letter.html",
        title=title,
        practice=practice,
        blocks=blocks(text, len(figures)),
        figures=figures,
        drawings={f"figure-{rank}": figure.svg for rank, figure in enumerate(figures)},
    )
