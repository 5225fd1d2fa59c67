"""Paper: the visit for the record, the score for the table, plates, as PDF from HTML."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, fields
from datetime import date, datetime
from typing import TypeVar

from markupsafe import Markup

from acuthesis.core.atlas.drawing.plates import Plate
from acuthesis.core.atlas.entries.catalogue import points
from acuthesis.core.compose.knowledge.dose import Dose, dose_in_words
from acuthesis.core.compose.score.score import LeftOut, Score, Stop
from acuthesis.core.follow.outcome import Outcome
from acuthesis.core.treat.account import StopAccount, WriteUp
from acuthesis.core.treat.state import TreatmentState
from acuthesis.core.words import POSITION_WORDS, short_id
from acuthesis.exchange.drawn import DrawnPlace, named
from acuthesis.exchange.render import render
from acuthesis.exchange.score_svg import score_svgs
from acuthesis.words.reader import english

Row = TypeVar("Row")
ON_TABLE_S = 30 * 60.0  # of the score in one strip, where it shares its page with the list


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
class Added:
    """What was added to a record after it was closed."""

    at: datetime
    by: str
    said: str


@dataclass(frozen=True)
class VisitPaper:
    """What the paper of a visit tells; moments are by the practice's clock.

    `record`: what the practitioner wrote, or its draft while nothing is written; `stops`: what became of each stop of
    the score, in its order; `back_on`: the day of the next visit, if one is booked.
    """

    person: str
    born: date
    age: int
    practice: str
    practitioner: str
    starts_at: datetime
    limits: Sequence[str]
    score: Score
    treatment: TreatmentState
    stops: Sequence[StopAccount]
    rated: Sequence[RatedComplaint]
    record: WriteUp
    closed_at: datetime | None
    closed_by: str
    addenda: Sequence[Added]
    asides: Sequence[Aside]
    back_on: date | None


def visit_pdf(paper: VisitPaper, drawn: Sequence[DrawnPlace]) -> bytes:
    """The paper of a visit. Page one is what a colleague needs: limits, complaints, the record, the score; then stop by
    stop, what was left out, and a drawing of every point."""
    told = {field.name: getattr(paper, field.name) for field in fields(paper)}
    headings = ("asked", "done", "felt", "observed", "next")
    written = [(f"paper-record-{name}", getattr(paper.record, name)) for name in headings]
    accounts = {one.key: one for one in paper.stops}
    stops = [(stop, accounts[stop.key]) for stop in paper.score.stops if not stop.muted and stop.key in accounts]
    return render(
        "visit.html",
        **told | {"record": [(heading, words) for heading, words in written if words]},
        minutes=round(paper.score.total_s / 60),
        strips=_drawn(score_svgs(paper.score, english(), paper.treatment.records)),
        rows=_rows(stops, lambda row: row[0], lambda row: not _seen(row[1]) and row[1].sore_first is None),
        seen=_seen,
        left_out=_by_reason(paper.score.left_out),
        drawn=drawn,
        drawings=named(drawing.svg for drawing in drawn),
        in_words=_dose,
        positions=POSITION_WORDS,
    )


def _drawn(svgs: Sequence[str]) -> list[Markup]:
    return [Markup(svg) for svg in svgs]  # noqa: S704 - drawn by us


def _dose(dose: Dose) -> str:
    """A dose in words, without what the column of sides says."""
    return dose_in_words(dose.model_copy(update={"together": False}))


def _seen(done: StopAccount) -> str:
    """What was seen, found and said at a stop, and why it was not played as planned."""
    told = [*(name.lower() for name in dict.fromkeys(done.reactions)), *done.found, *done.notes, *done.said]
    return "; ".join([*told, *([done.why] if done.outcome != "done" and done.why else [])])


def _by_reason(left_out: Sequence[LeftOut]) -> list[tuple[str, list[str]]]:
    """Why points are left out, and which for each reason."""
    found: dict[str, list[str]] = {}
    for row in left_out:
        name = short_id(row.id) if row.id in points() else row.name or short_id(row.id)
        found.setdefault(row.reason, []).append(name)
    return [(reason, list(dict.fromkeys(names))) for reason, names in found.items()]


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
        sizes=("", "small", "tiny", "least"),
        person=person,
        practice=practice,
        starts_at=starts_at,
        minutes=round(score.total_s / 60),
        booked=round(score.minutes),
        rows=_rows(stops, lambda stop: stop, lambda stop: True),
        refused=_by_reason(refused),
        where=where,
        limits=limits,
        strips=_drawn(score_svgs(score, english(), strip_s=ON_TABLE_S, techniques_named=False)),
        in_words=_dose,
        positions=POSITION_WORDS,
    )


def _rows(rows: Sequence[Row], stop_of: Callable[[Row], Stop], may_join: Callable[[Row], bool]) -> list[list[Row]]:
    """The stops line by line: areas of a general or second round that follow one another on a side share one."""
    lines: list[list[Row]] = []
    for row in rows:
        line, stop = lines[-1] if lines else [], stop_of(row)
        joins = stop.kind == "area" and stop.round != "chosen" and may_join(row)
        if joins and line and may_join(line[0]) and _round(stop) == _round(stop_of(line[0])):
            line.append(row)
        else:
            lines.append([row])
    return lines


def _round(stop: Stop) -> tuple[object, ...]:
    return stop.kind, stop.round, stop.phase, stop.side


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
