"""Paper: the visit for the record and the home sheet for the person, as PDF from HTML."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from functools import lru_cache
from pathlib import Path
from typing import Any

from jinja2 import Environment, FileSystemLoader, select_autoescape
from markupsafe import Markup

from acuthesis.core.atlas.fingers import SPAN_WORDS
from acuthesis.core.atlas.locate import Located
from acuthesis.core.atlas.plates import Plate
from acuthesis.core.compose.dose import in_words
from acuthesis.core.compose.home import HomePoint
from acuthesis.core.compose.score import Score
from acuthesis.core.follow.change import Change
from acuthesis.core.safety.pressure import pressure_table
from acuthesis.core.treat.session import Session
from acuthesis.exchange.score_svg import score_svg

POSITION_WORDS = {
    "supine": "on the back",
    "prone": "on the front",
    "left_side": "on the left side",
    "right_side": "on the right side",
    "seated": "seated",
}
WORDS = (
    "This supports care and does not replace it; it is not a diagnosis. In doubt, ask a doctor. "
    "Stop and get help with chest pain, sudden weakness, the worst headache of your life, or a hot swollen calf."
)


@lru_cache
def _templates() -> Environment:
    templates = FileSystemLoader(Path(__file__).parent / "templates")
    environment = Environment(loader=templates, autoescape=select_autoescape(), trim_blocks=True)
    environment.filters["short"] = short_id
    return environment


def short_id(id: str) -> str:
    """Code of a point or area as people say it: TF4 for `ear_TF4`, 'spine lumbar' for `foot_spine_lumbar`."""
    return id.removeprefix("ear_").removeprefix("foot_").replace("_", " ")


def _render(template: str, sizes: Sequence[str] = ("",), **values: Any) -> bytes:
    """A template as PDF; of several `sizes` (CSS classes, the largest first) the first that fits on one page."""
    # Imported at the first paper: it takes a second, which the start of the server should not wait for.
    from weasyprint import HTML

    base = str(Path(__file__).parent / "templates")
    for size in sizes:
        html = _templates().get_template(template).render(words=WORDS, size=size, **values)
        document = HTML(string=html, base_url=base).render()
        if len(document.pages) == 1:
            break
    return bytes(document.write_pdf())


@dataclass(frozen=True)
class Drawn:
    """A located point with its drawing."""

    located: Located
    svg: str


@dataclass(frozen=True)
class Rated:
    """A complaint with its ratings at this visit and its judgement."""

    name: str
    side: str
    act: str
    before: int | None
    after: int | None
    change: Change


def visit_pdf(
    person: str,
    practice: str,
    practitioner: str,
    starts_at: datetime,
    limits: list[str],
    score: Score,
    treatment: Session,
    rated: list[Rated],
    drawn: list[Drawn],
) -> bytes:
    """The write-up of a visit."""
    return _render(
        "visit.html",
        person=person,
        practice=practice,
        practitioner=practitioner,
        starts_at=starts_at,
        limits=limits,
        score=score,
        score_svg=Markup(score_svg(score, treatment.records)),
        treatment=treatment,
        rated=rated,
        drawn=drawn,
        Markup=Markup,
        in_words=in_words,
        levels={level.level: level for level in pressure_table().levels},
    )


def score_pdf(
    person: str,
    practice: str,
    starts_at: datetime,
    score: Score,
    where: Mapping[str, str],
    limits: Sequence[str],
) -> bytes:
    """The score for the table, on one page: drawn, then stop by stop."""
    stops = [stop for stop in score.stops if not stop.muted]
    refused = [row for row in score.left_out if row.severity != "note"]
    return _render(
        "score.html",
        sizes=("", "small", "tiny"),
        person=person,
        practice=practice,
        starts_at=starts_at,
        score=score,
        stops=stops,
        refused=refused,
        where=where,
        limits=limits,
        score_svg=Markup(score_svg(score)),
        in_words=in_words,
        positions=POSITION_WORDS,
    )


@dataclass(frozen=True)
class Row:
    """A line of the list beside plates."""

    id: str
    name: str
    where: str
    feel: str


def plates_pdf(title: str, person: str, practice: str, on: date, drawings: list[Plate], rows: list[Row]) -> bytes:
    """Plates of several points, and a list of where they are."""
    return _render(
        "plates.html",
        title=title,
        person=person,
        practice=practice,
        on=on,
        plates=drawings,
        rows=rows,
        Markup=Markup,
    )


def home_pdf(person: str, practice: str, on: date, points: list[tuple[HomePoint, Drawn]], times_a_day: int) -> bytes:
    """The sheet that goes home with the person."""
    return _render(
        "home.html",
        person=person,
        practice=practice,
        on=on,
        points=points,
        times_a_day=times_a_day,
        Markup=Markup,
        spans=SPAN_WORDS,
        levels={level.level: level for level in pressure_table().levels},
    )
