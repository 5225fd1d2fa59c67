"""Paper: the visit for the record and the home sheet for the person, as PDF from HTML."""

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
from acuthesis.core.compose.dose import Breaths, Circles, Dose, Glide, Hold, Pulse
from acuthesis.core.compose.home import HomePoint
from acuthesis.core.compose.score import Score
from acuthesis.core.follow.change import Change
from acuthesis.core.safety.pressure import pressure_table
from acuthesis.core.treat.session import Session
from acuthesis.exchange.score_svg import score_svg

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


def dose_words(dose: Dose) -> str:
    """A dose as it is spoken of."""
    match dose:
        case Hold():
            return f"hold {dose.seconds:g} s"
        case Pulse():
            return f"{dose.cycles} times {dose.on_s:g} s on, {dose.off_s:g} s off"
        case Circles():
            return f"{dose.each_way} circles each way"
        case Breaths():
            return f"{dose.count} breaths"
        case Glide():
            return f"{dose.strokes} strokes"


def _render(template: str, **values: Any) -> bytes:
    # Imported at the first paper: it takes a second, which the start of the server should not wait for.
    from weasyprint import HTML

    html = _templates().get_template(template).render(words=WORDS, **values)
    return bytes(HTML(string=html, base_url=str(Path(__file__).parent / "templates")).write_pdf())


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
        dose_words=dose_words,
        levels={level.level: level for level in pressure_table().levels},
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
