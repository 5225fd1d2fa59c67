"""Paper: the visit for the record, the score for the table, plates, as PDF from HTML."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields
from datetime import date, datetime

from markupsafe import Markup

from acuthesis.core.atlas.drawing.plates import Plate
from acuthesis.core.compose.knowledge.dose import dose_in_words
from acuthesis.core.compose.score.score import Score, Stop
from acuthesis.core.follow.outcome import Outcome
from acuthesis.core.safety.pressure import pressure_table
from acuthesis.core.treat.state import TreatmentState
from acuthesis.core.words import POSITION_WORDS
from acuthesis.exchange.drawn import DrawnPlace, named
from acuthesis.exchange.render import render
from acuthesis.exchange.score_svg import score_svg


@dataclass(frozen=True)
class RatedComplaint:
    """A complaint with its ratings at this visit and its judgement."""

    name: str
    side: str
    act: str
    before: int | None
    after: int | None
    outcome: Outcome


@dataclass(frozen=True)
class Aside:
    """Something that happened at a treatment and could not be applied: when, what, why, and what was noted of it."""

    at: datetime
    words: str
    reason: str
    note: str


@dataclass(frozen=True)
class VisitPaper:
    """What the write-up of a visit tells; moments are by the practice's clock."""

    person: str
    practice: str
    practitioner: str
    starts_at: datetime
    limits: Sequence[str]
    score: Score
    treatment: TreatmentState
    rated: Sequence[RatedComplaint]
    asides: Sequence[Aside]


def visit_pdf(paper: VisitPaper, drawn: Sequence[DrawnPlace]) -> bytes:
    """The write-up of a visit, with a drawing of every point."""
    return render(
        "visit.html",
        **{field.name: getattr(paper, field.name) for field in fields(paper)},
        score_svg=Markup(score_svg(paper.score, paper.treatment.records)),  # noqa: S704 - drawn by us
        drawn=drawn,
        drawings=named(drawing.svg for drawing in drawn),
        in_words=dose_in_words,
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
    return render(
        "score.html",
        sizes=("", "small", "tiny"),
        person=person,
        practice=practice,
        starts_at=starts_at,
        score=score,
        rows=_rows(stops),
        refused=refused,
        where=where,
        limits=limits,
        score_svg=Markup(score_svg(score)),  # noqa: S704 - drawn by us
        in_words=dose_in_words,
        positions=POSITION_WORDS,
    )


def _rows(stops: Sequence[Stop]) -> list[list[Stop]]:
    """The stops line by line: areas of a general or second round that follow one another on a side share one."""
    rows: list[list[Stop]] = []
    for stop in stops:
        row = rows[-1] if rows else []
        rounds = (stop.kind, stop.round, stop.phase, stop.side)
        joins = stop.kind == "area" and stop.round != "chosen"
        if joins and row and rounds == (row[0].kind, row[0].round, row[0].phase, row[0].side):
            row.append(stop)
        else:
            rows.append([stop])
    return rows


@dataclass(frozen=True)
class PlateRow:
    """A line of the list beside plates."""

    id: str
    name: str
    where: str
    feel: str


def plates_pdf(title: str, person: str, practice: str, on: date, drawings: list[Plate], rows: list[PlateRow]) -> bytes:
    """Plates of several points, and a list of where they are."""
    return render(
        "plates.html",
        title=title,
        person=person,
        practice=practice,
        on=on,
        plates=drawings,
        drawings=named(drawing.svg for drawing in drawings),
        rows=rows,
    )
