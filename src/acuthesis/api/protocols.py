"""Protocols: scores that a practice keeps, shares as files, and applies to other people."""

import uuid
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import Line
from acuthesis.core.compose.score.protocol import Protocol, apply_protocol, protocol_of
from acuthesis.core.compose.score.score import PRESSED, Score, technique_of
from acuthesis.core.errors import CoreError
from acuthesis.core.message import message
from acuthesis.services.body.bodies import screening_on_body
from acuthesis.services.request.here import Here
from acuthesis.services.visit.composing import VisitOut, require_untreated, save_score, visit_out
from acuthesis.store import compose as stored
from acuthesis.store import people as store
from acuthesis.store import visits
from acuthesis.store.model import ProtocolRow

router = APIRouter(route_class=StrictRoute, tags=["protocols"])


class ProtocolOut(BaseModel):
    """A protocol of the practice."""

    id: uuid.UUID
    version: int
    changed_at: datetime
    protocol: Protocol


class KeepProtocol(BaseModel):
    """Which visit's score is kept, and what it is called."""

    model_config = ConfigDict(extra="forbid")

    visit_id: uuid.UUID
    name: Line
    note: Annotated[str, Field(max_length=2000)] = ""


class ApplyProtocol(BaseModel):
    """Which protocol is applied; `version` is the visit that was seen."""

    model_config = ConfigDict(extra="forbid")

    version: int
    protocol_id: uuid.UUID
    minutes: Annotated[float, Field(ge=3, le=180, allow_inf_nan=False)] | None = None


def _out(row: ProtocolRow) -> ProtocolOut:
    return ProtocolOut(
        id=row.id, version=row.version, changed_at=row.changed_at, protocol=Protocol.model_validate(row.protocol)
    )


def _sides(here: Here, person_id: uuid.UUID) -> list[tuple[str, str]]:
    """Kind and side of a person's open complaints."""
    return [(row.kind, row.side) for row in here.person(person_id).open_complaints]


def _affected(sides: list[tuple[str, str]], kinds: tuple[str, ...] = ()) -> str | None:
    """The one side that complaints are on, those of these kinds first; None where they are on both or on neither."""
    matching = [side for kind, side in sides if kind in kinds] or [side for _, side in sides]
    one = {side for side in matching if side in ("left", "right")}
    return one.pop() if len(one) == 1 else None


@router.get("/protocols")
def list_protocols(here: SignedIn) -> list[ProtocolOut]:
    """The practice's protocols by name."""
    return [_out(row) for row in stored.protocols(here.db)]


@router.post("/protocols", status_code=201)
def save_protocol(new: KeepProtocol, here: SignedIn) -> ProtocolOut:
    """Keep the score of a visit as a protocol, without the person."""
    row = visits.visit(here.db, new.visit_id)
    if row.score is None:
        raise CoreError(message("compose-there-no-score-yet-compose"), where="visit_id")
    sides = _sides(here, row.person_id)
    protocol = protocol_of(
        Score.model_validate(row.score),
        new.name,
        new.note,
        [kind for kind, _ in sides],
        _affected(sides),  # type: ignore[arg-type]
    )
    here.reads(row.person_id, "visit")
    return _kept(here, protocol)


@router.post("/protocols/import", status_code=201)
def import_protocol(protocol: Protocol, here: SignedIn) -> ProtocolOut:
    """Take in a protocol from a file. Every stop must exist here; all of it is kept or nothing."""
    for index, stop in enumerate(protocol.stops):
        try:
            if stop.kind in PRESSED:
                here.entry(stop.id)
            else:
                technique_of(stop)
        except CoreError as error:
            raise type(error)(error.message, where=f"stops.{index}.id") from error
    return _kept(here, protocol)


def _kept(here: Here, protocol: Protocol) -> ProtocolOut:
    here.audit(None, f"protocol saved: {protocol.name}")
    return _out(stored.save_protocol(here.db, here.practice_id, protocol.name, protocol.model_dump(mode="json")))


@router.get("/protocols/{protocol_id}/file", response_class=Response)
def protocol_file(protocol_id: uuid.UUID, here: SignedIn) -> Response:
    """A protocol as a file to share."""
    row = stored.protocol(here.db, protocol_id)
    here.audit(None, f"protocol exported: {row.name}")
    name = "".join(letter if letter.isascii() and letter.isalnum() else "-" for letter in row.name.lower())
    return Response(
        Protocol.model_validate(row.protocol).model_dump_json(indent=2, exclude_defaults=False),
        media_type="application/json",
        headers={"Content-Disposition": f'attachment; filename="{name or "protocol"}.json"'},
    )


@router.delete("/protocols/{protocol_id}", status_code=204)
def delete_protocol(protocol_id: uuid.UUID, here: SignedIn) -> None:
    """Remove a protocol; scores that were made with it stay."""
    here.audit(None, f"protocol removed: {stored.protocol(here.db, protocol_id).name}")
    stored.delete_protocol(here.db, protocol_id)


@router.post("/visits/{visit_id}/apply-protocol")
def apply_to_visit(visit_id: uuid.UUID, wish: ApplyProtocol, here: SignedIn) -> VisitOut:
    """Apply a protocol to a visit: screened, mirrored to this person's side, held to their limits, fitted in time."""
    row = visits.visit(here.db, visit_id, lock=True)
    require_untreated(row)
    protocol = Protocol.model_validate(stored.protocol(here.db, wish.protocol_id).protocol)
    score = apply_protocol(
        protocol,
        screening_on_body(here, row.person_id),
        wish.minutes or row.minutes,
        _affected(_sides(here, row.person_id), protocol.complaints),  # type: ignore[arg-type]
        here.school(protocol.school),
        here.entry,
    )
    if score.decision != "ok":
        return VisitOut(**{**visit_out(row).model_dump(), "score": score})
    store.check_version(row, wish.version, "This visit")
    return save_score(here, row, score, f"protocol applied: {protocol.name}")
