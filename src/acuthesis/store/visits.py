"""Visits, their scores, and the events of their treatments."""

import uuid
from collections import OrderedDict, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from threading import Lock
from typing import NamedTuple

from sqlalchemy import func, select, text
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import aliased, undefer

from acuthesis.core.compose.score import Score
from acuthesis.core.treat.events import EVENT, Event
from acuthesis.core.treat.session import fold
from acuthesis.core.treat.state import Session
from acuthesis.core.treat.tenderness import Sore, sore_places
from acuthesis.store.database import Db
from acuthesis.store.model import AddendumRow, SettlementRow, TreatmentEventRow, VisitRow
from acuthesis.store.people import NotFound


@dataclass(frozen=True)
class Folded:
    """Where a treatment stood when it was last read here: after how many events, the last one's number, the state."""

    count: int = 0
    last: int = 0
    state: Session = field(default_factory=Session)


class _LastFolded:
    """The treatments that were read last. Each is a beginning of what is kept: it is folded on where the database still
    has as many events up to its last one, and never trusted otherwise.
    """

    MOST = 64

    def __init__(self) -> None:
        self._of: OrderedDict[uuid.UUID, Folded] = OrderedDict()
        self._lock = Lock()

    def get(self, visit_id: uuid.UUID) -> Folded:
        with self._lock:
            return self._of.get(visit_id) or Folded()

    def put(self, visit_id: uuid.UUID, folded: Folded) -> None:
        with self._lock:
            self._of[visit_id] = folded
            self._of.move_to_end(visit_id)
            while len(self._of) > self.MOST:
                self._of.popitem(last=False)


_FOLDED = _LastFolded()


def visit(db: Db, visit_id: uuid.UUID, lock: bool = False) -> VisitRow:
    """A visit of this practice with its score; with `lock` nobody else writes to it until the transaction ends.

    Raises: NotFound.
    """
    query = select(VisitRow).where(VisitRow.id == visit_id).options(undefer(VisitRow.score))
    row = db.scalar((query.with_for_update() if lock else query).execution_options(populate_existing=True))
    if row is None:
        raise NotFound("there is no such visit in this practice", where="visit_id")
    return row


@dataclass(frozen=True)
class Listed:
    """A visit without its score, as lists need it."""

    row: VisitRow
    composed: bool
    visits_before: int


def visits_between(db: Db, start: datetime, end: datetime) -> list[Listed]:
    """Visits that start in a stretch of time, in order; earlier visits of the same person are counted, not read.

    Those that were cancelled or missed are in no list of what is to be done; the diary shows them.
    """
    return _listed(db, VisitRow.starts_at >= start, VisitRow.starts_at < end)


def latest_between(db: Db, person_id: uuid.UUID, start: datetime, end: datetime) -> Listed | None:
    """The last visit of a person that starts in a stretch of time."""
    found = _listed(db, VisitRow.person_id == person_id, VisitRow.starts_at >= start, VisitRow.starts_at < end)
    return found[-1] if found else None


def _listed(db: Db, *where: object) -> list[Listed]:
    earlier = aliased(VisitRow)
    before = (
        select(func.count())
        .where(
            earlier.person_id == VisitRow.person_id,
            earlier.starts_at < VisitRow.starts_at,
            earlier.attendance == "expected",
        )
        .scalar_subquery()
    )
    held = VisitRow.attendance == "expected"
    query = select(VisitRow, VisitRow.score.is_not(None), before).where(held, *where)  # type: ignore[arg-type]
    rows = db.execute(query.order_by(VisitRow.starts_at, VisitRow.id))
    return [Listed(row, composed, count) for row, composed, count in rows]


def visits_of(db: Db, person_id: uuid.UUID, scores: bool = False) -> list[VisitRow]:
    """A person's visits in order, with their scores only where these are asked for."""
    query = select(VisitRow).where(VisitRow.person_id == person_id).order_by(VisitRow.starts_at, VisitRow.id)
    return list(db.scalars(query.options(undefer(VisitRow.score)) if scores else query))


def felt_at(db: Db, person_id: uuid.UUID, until: datetime) -> list[tuple[datetime, list[Sore]]]:
    """When a person's visits were, in order and up to a moment, and what was sore at each. Missed ones were none."""
    query = select(VisitRow.starts_at, VisitRow.felt).where(
        VisitRow.person_id == person_id, VisitRow.starts_at < until, VisitRow.attendance == "expected"
    )
    rows = db.execute(query.order_by(VisitRow.starts_at, VisitRow.id))
    return [(starts_at, [Sore.model_validate(one) for one in felt or ()]) for starts_at, felt in rows]


def planned(row: VisitRow) -> list[str]:
    """Ids of the points and areas in a visit's score, in order; none without a score."""
    if row.score is None:
        return []
    stops = Score.model_validate(row.score).stops
    return list(dict.fromkeys(stop.id for stop in stops if stop.kind in ("point", "area")))


def pressed_at(db: Db, visit_ids: Sequence[uuid.UUID]) -> dict[uuid.UUID, frozenset[str]]:
    """Ids of the points and areas in the scores of visits, picked out by the database."""
    if not visit_ids:
        return {}
    rows = db.execute(
        text(
            "SELECT visit.id, array_agg(DISTINCT stop ->> 'id') AS ids "
            "FROM visit, jsonb_array_elements(visit.score -> 'stops') AS stop "
            "WHERE visit.id = ANY(:ids) AND stop ->> 'kind' IN ('point', 'area') GROUP BY visit.id"
        ),
        {"ids": list(visit_ids)},
    )
    return {row.id: frozenset(row.ids) for row in rows}


class OfScore(NamedTuple):
    """What a course tells of a visit's score: the school, and the ids of the points and areas in it."""

    school: str
    pressed: frozenset[str]


def told_of_scores(db: Db, visit_ids: Sequence[uuid.UUID]) -> dict[uuid.UUID, OfScore]:
    """School and pressed places of the scores of visits, picked out by the database."""
    if not visit_ids:
        return {}
    rows = db.execute(
        text(
            "SELECT id, coalesce(score ->> 'school', '') AS school, ARRAY(SELECT DISTINCT stop ->> 'id' "
            "FROM jsonb_array_elements(score -> 'stops') AS stop WHERE stop ->> 'kind' IN ('point', 'area')) AS ids "
            "FROM visit WHERE id = ANY(:ids) AND score IS NOT NULL"
        ),
        {"ids": list(visit_ids)},
    )
    return {row.id: OfScore(row.school, frozenset(row.ids)) for row in rows}


def open_treatments(db: Db, person_id: uuid.UUID | None = None) -> list[uuid.UUID]:
    """Visits whose treatment has begun and is not over: of a person, or of the whole practice."""
    query = select(VisitRow.id).where(VisitRow.treatment == "open")
    return list(db.scalars(query if person_id is None else query.where(VisitRow.person_id == person_id)))


def events_of(db: Db, visit_ids: Sequence[uuid.UUID]) -> dict[uuid.UUID, list[Event]]:
    """Events of visits that moved their state, in the order in which they were kept."""
    table: dict[uuid.UUID, list[Event]] = defaultdict(list)
    wanted = TreatmentEventRow.visit_id.in_(visit_ids)
    rows = db.scalars(
        select(TreatmentEventRow).where(wanted, TreatmentEventRow.disputed.is_(None)).order_by(TreatmentEventRow.seq)
    )
    for row in rows:
        table[row.visit_id].append(EVENT.validate_python(row.body))
    return table


def disputed_of(db: Db, visit_id: uuid.UUID) -> list[tuple[TreatmentEventRow, SettlementRow | None]]:
    """Events of a visit that did not move its state, each with how it was settled."""
    query = (
        select(TreatmentEventRow, SettlementRow)
        .outerjoin(SettlementRow, SettlementRow.event_id == TreatmentEventRow.id)
        .where(TreatmentEventRow.visit_id == visit_id, TreatmentEventRow.disputed.is_not(None))
        .order_by(TreatmentEventRow.seq)
    )
    return [(event, settled) for event, settled in db.execute(query)]


def known_ids(db: Db, visit_id: uuid.UUID, ids: Sequence[uuid.UUID]) -> dict[uuid.UUID, str | None]:
    """Those of the ids that this visit has kept already, each with why it is disputed, if it is."""
    query = select(TreatmentEventRow.id, TreatmentEventRow.disputed)
    rows = db.execute(query.where(TreatmentEventRow.visit_id == visit_id, TreatmentEventRow.id.in_(ids)))
    return {row.id: row.disputed for row in rows}


def treatment(db: Db, visit_id: uuid.UUID) -> Session:
    """State of a visit's treatment."""
    known = _FOLDED.get(visit_id)
    own = (TreatmentEventRow.visit_id == visit_id, TreatmentEventRow.disputed.is_(None))
    counted = select(func.count()).where(*own, TreatmentEventRow.seq <= known.last)
    if known.count and db.scalar(counted) != known.count:
        known = Folded()  # what had been folded was not kept in the end
    bodies = select(TreatmentEventRow.seq, TreatmentEventRow.body).where(*own, TreatmentEventRow.seq > known.last)
    rows = db.execute(bodies.order_by(TreatmentEventRow.seq)).all()
    if not rows:
        return known.state
    state = fold([EVENT.validate_python(row.body) for row in rows], known.state)
    _FOLDED.put(visit_id, Folded(known.count + len(rows), rows[-1].seq, state))
    return state


def events_told(db: Db, visit_id: uuid.UUID) -> str:
    """How many events a visit has, and how many disputed ones are settled: another text where anything is new."""
    events = select(func.count()).where(TreatmentEventRow.visit_id == visit_id).scalar_subquery()
    settled = (
        select(func.count())
        .select_from(SettlementRow)
        .join(TreatmentEventRow, TreatmentEventRow.id == SettlementRow.event_id)
        .where(TreatmentEventRow.visit_id == visit_id)
        .scalar_subquery()
    )
    counted = db.execute(select(events, settled)).one()
    return f"{counted[0]}-{counted[1]}"


def keep_event(db: Db, row: VisitRow, event: Event, disputed: str | None = None, clock_offset_ms: int = 0) -> bool:
    """Add an event to a visit. Returns whether it was added: an id that any visit has used is not used again."""
    kept = db.execute(
        insert(TreatmentEventRow)
        .values(
            id=event.id,
            practice_id=row.practice_id,
            person_id=row.person_id,
            visit_id=row.id,
            at=event.at,
            body=event.model_dump(mode="json"),
            disputed=disputed,
            clock_offset_ms=clock_offset_ms,
        )
        .on_conflict_do_nothing()
        .returning(TreatmentEventRow.id)
    )
    return kept.scalar_one_or_none() is not None


def keep_state(row: VisitRow, state: Session) -> None:
    """Note with the visit what the fold says, for lists."""
    over = state.status in ("stopped", "finished")
    row.treatment = "not_begun" if state.status == "not_begun" else "over" if over else "open"
    if row.treatment != "not_begun":
        row.attendance, row.attendance_reason = "expected", ""  # they came after all
    row.felt = [sore.model_dump(mode="json") for sore in sore_places(state)]


def keep_events(db: Db, row: VisitRow, events: Sequence[Event]) -> Session:
    """Add a whole course of events to a visit that has none.

    Raises: NotAllowed, UnknownId if an event cannot follow what is there.
    """
    state = fold(events)
    for event in events:
        keep_event(db, row, event)
    keep_state(row, state)
    return state


def addenda_of(db: Db, visit_id: uuid.UUID) -> list[AddendumRow]:
    """What was added to the record of a visit after it was closed, oldest first."""
    query = select(AddendumRow).where(AddendumRow.visit_id == visit_id)
    return list(db.scalars(query.order_by(AddendumRow.added_at, AddendumRow.id)))
