"""Beside the score: drafts of a visit, a practice's protocols, its changes to the knowledge."""

import uuid
from typing import Any

from sqlalchemy import func, select

from acuthesis.core.compose.knowledge.layer import Layer
from acuthesis.core.message import message
from acuthesis.core.safety.rule import Rule
from acuthesis.store.database import Db
from acuthesis.store.model import DraftRow, LayerRow, PracticeRow, ProtocolRow, VisitRow
from acuthesis.store.people import Conflict, NotFound

MOST_DRAFTS, MOST_PROTOCOLS = 50, 200


def layer_of(db: Db) -> tuple[Layer, int]:
    """The practice's layer and its version; an empty one with version 0 where nothing was changed."""
    row = db.scalar(select(LayerRow))
    return (Layer(), 0) if row is None else (Layer.model_validate(row.layer), row.version)


def house_rules_of(db: Db) -> tuple[Rule, ...]:
    """The rules that the practice added to the standing ones."""
    return layer_of(db)[0].rules


def save_layer(db: Db, practice_id: uuid.UUID, layer: Layer, version: int, by: uuid.UUID) -> int:
    """Replace the layer; `version` is the one that the caller saw. Returns the new version. Raises: Conflict."""
    db.execute(select(PracticeRow.id).where(PracticeRow.id == practice_id).with_for_update())
    row = db.scalar(select(LayerRow))
    if (row.version if row else 0) != version:
        raise Conflict(
            message("compose-practices-catalogue-changed-another-window"),
            where="version",
        )
    values = layer.model_dump(mode="json")
    if row is None:
        row = LayerRow(practice_id=practice_id, version=1, layer=values, changed_by=by)
        db.add(row)
    else:
        row.layer, row.version, row.changed_by = values, row.version + 1, by
        row.changed_at = func.now()
    db.flush()
    return row.version


def drafts_of(db: Db, visit_id: uuid.UUID) -> list[DraftRow]:
    """Drafts of a visit, oldest first."""
    query = select(DraftRow).where(DraftRow.visit_id == visit_id).order_by(DraftRow.kept_at, DraftRow.id)
    return list(db.scalars(query))


def draft(db: Db, draft_id: uuid.UUID) -> DraftRow:
    """One draft. Raises: NotFound."""
    row = db.scalar(select(DraftRow).where(DraftRow.id == draft_id))
    if row is None:
        raise NotFound(message("compose-there-no-such-draft-practice"), where="draft_id")
    return row


def save_draft(db: Db, visit: VisitRow, label: str, by: uuid.UUID) -> DraftRow:
    """Keep the score of a visit as it is now, under a label. Raises: Conflict where there are too many."""
    if len(drafts_of(db, visit.id)) >= MOST_DRAFTS:
        raise Conflict(message("compose-visit-have-at-most-drafts", most_drafts=MOST_DRAFTS), where="label")
    row = DraftRow(
        id=uuid.uuid4(),
        practice_id=visit.practice_id,
        person_id=visit.person_id,
        visit_id=visit.id,
        label=label,
        score=dict(visit.score or {}),
        kept_by=by,
    )
    db.add(row)
    db.flush()
    db.refresh(row)
    return row


def protocols(db: Db) -> list[ProtocolRow]:
    """The practice's protocols by name."""
    return list(db.scalars(select(ProtocolRow).order_by(ProtocolRow.name)))


def protocol(db: Db, protocol_id: uuid.UUID) -> ProtocolRow:
    """One protocol. Raises: NotFound."""
    row = db.scalar(select(ProtocolRow).where(ProtocolRow.id == protocol_id))
    if row is None:
        raise NotFound(message("compose-there-no-such-protocol-practice"), where="protocol_id")
    return row


def save_protocol(db: Db, practice_id: uuid.UUID, name: str, values: dict[str, Any]) -> ProtocolRow:
    """Keep a new protocol. Raises: Conflict where the name is taken or there are too many."""
    db.execute(select(PracticeRow.id).where(PracticeRow.id == practice_id).with_for_update())
    there = protocols(db)
    if any(row.name == name for row in there):
        raise Conflict(message("compose-there-already-protocol-called-choose", name=name), where="name")
    if len(there) >= MOST_PROTOCOLS:
        raise Conflict(message("compose-practice-have-at-most-protocols", most_protocols=MOST_PROTOCOLS), where="name")
    row = ProtocolRow(id=uuid.uuid4(), practice_id=practice_id, name=name, version=1, protocol=values)
    db.add(row)
    db.flush()
    db.refresh(row)
    return row


def delete_protocol(db: Db, protocol_id: uuid.UUID) -> None:
    """Remove a protocol. Raises: NotFound."""
    db.delete(protocol(db, protocol_id))
    db.flush()
