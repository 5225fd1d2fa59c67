"""Stored events of treatments, and the state of a treatment after them."""

import json
import uuid
from collections import OrderedDict, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from threading import Lock
from typing import NamedTuple

from sqlalchemy import ARRAY, Uuid, any_, func, literal, select, text

from acuthesis.core.treat.events import EVENT, Event
from acuthesis.core.treat.fold import fold
from acuthesis.core.treat.state import TreatmentState
from acuthesis.core.treat.tenderness import sore_places
from acuthesis.store.database import Db
from acuthesis.store.model import SettlementRow, TreatmentEventRow, VisitRow


@dataclass(frozen=True)
class Folded:
    """Where a treatment stood when it was last read here: after how many events, the last one's number, the state."""

    count: int = 0
    last: int = 0
    state: TreatmentState = field(default_factory=TreatmentState)


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
    given = any_(literal(list(ids), ARRAY(Uuid)))  # one parameter, however many there are
    query = select(TreatmentEventRow.id, TreatmentEventRow.disputed)
    rows = db.execute(query.where(TreatmentEventRow.visit_id == visit_id, TreatmentEventRow.id == given))
    return {row.id: row.disputed for row in rows}


def treatment(db: Db, visit_id: uuid.UUID) -> TreatmentState:
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


class EventToStore(NamedTuple):
    """An event that is to be kept, and why it does not move the state, where it does not."""

    event: Event
    disputed: str | None = None


def add(
    db: Db, row: VisitRow, told: Sequence[EventToStore], clock_offset_ms: int = 0, after: TreatmentState | None = None
) -> set[uuid.UUID]:
    """Add events to a visit, in their order: all of them, or none.

    Returns the ids that some visit has used already, in this practice or in one that cannot be seen from here: an id is
    not used again. Where there are such, nothing is added. `after`: where the treatment stands after them, if the visit
    is locked and that was folded from what `treatment` said; it need not be folded again then.
    """
    if not told:
        return set()
    said = [f'{{"disputed": {json.dumps(one.disputed)}, "body": {one.event.model_dump_json()}}}' for one in told]
    of = {"practice": row.practice_id, "person": row.person_id, "visit": row.id, "offset": clock_offset_ms}
    with db.begin_nested() as attempt:
        rows = db.execute(_ADD, {**of, "told": f"[{','.join(said)}]"}).all()
        taken = {one.event.id for one in told} - {kept.id for kept in rows}
        if taken:
            attempt.rollback()
    if after is not None and not taken:
        # Should the transaction not be kept, fewer events are counted than are noted here, and it is not believed.
        moved = sum(one.disputed is None for one in told)
        _FOLDED.put(row.id, Folded(_FOLDED.get(row.id).count + moved, max(kept.seq for kept in rows), after))
    return taken


# One statement however many there are: their order is the order of the treatment, by which `seq` is given out.
_ADD = text(
    "INSERT INTO treatment_event (id, practice_id, person_id, visit_id, at, body, disputed, clock_offset_ms) "
    "SELECT (one -> 'body' ->> 'id')::uuid, :practice, :person, :visit, (one -> 'body' ->> 'at')::timestamptz, "
    "one -> 'body', one ->> 'disputed', :offset "
    "FROM jsonb_array_elements(CAST(:told AS jsonb)) WITH ORDINALITY AS told (one, nth) ORDER BY nth "
    "ON CONFLICT DO NOTHING RETURNING id, seq"
)


def save_state(row: VisitRow, state: TreatmentState) -> None:
    """Note with the visit what the fold says, for lists."""
    over = state.status in ("stopped", "finished")
    row.treatment = "not_begun" if state.status == "not_begun" else "over" if over else "open"
    if row.treatment != "not_begun":
        row.attendance, row.attendance_reason = "expected", ""  # they came after all
    row.felt = [sore.model_dump(mode="json") for sore in sore_places(state)]


def save_course(db: Db, row: VisitRow, events: Sequence[Event]) -> TreatmentState:
    """Add a whole course of events to a visit that has none.

    Raises: NotAllowed, UnknownId if an event cannot follow what is there.
    """
    state = fold(events)
    add(db, row, [EventToStore(event) for event in events])
    save_state(row, state)
    return state
