"""The record of a visit: written, closed, and append-only from then on."""

import uuid

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict

from acuthesis.api.access import SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import Paragraph
from acuthesis.core.treat.account import WriteUp
from acuthesis.services.visit import write_up
from acuthesis.services.visit.write_up import VisitRecord

router = APIRouter(route_class=StrictRoute, tags=["visit record"])


class RecordWords(BaseModel):
    """The words of a record, by heading; `version` is the one that was seen."""

    model_config = ConfigDict(extra="forbid")

    version: int
    asked: Paragraph = ""
    done: Paragraph = ""
    felt: Paragraph = ""
    observed: Paragraph = ""
    next: Paragraph = ""


class Close(BaseModel):
    """Closing the version that was seen."""

    model_config = ConfigDict(extra="forbid")

    version: int


class NewAddendum(BaseModel):
    """What is added to a closed record."""

    model_config = ConfigDict(extra="forbid")

    said: Paragraph


@router.get("/visits/{visit_id}/record")
def read_visit_record(visit_id: uuid.UUID, here: SignedIn) -> VisitRecord:
    """What was asked, composed, done, felt and written at a visit."""
    return write_up.record_of(here, visit_id)


@router.put("/visits/{visit_id}/record")
def write_visit_record(visit_id: uuid.UUID, words: RecordWords, here: SignedIn) -> VisitRecord:
    """Keep the practitioner's words."""
    return write_up.write(here, visit_id, words.version, WriteUp(**words.model_dump(exclude={"version"})))


@router.post("/visits/{visit_id}/record/close")
def close_visit_record(visit_id: uuid.UUID, wanted: Close, here: SignedIn) -> VisitRecord:
    """Close the record. It is never edited again."""
    return write_up.close(here, visit_id, wanted.version)


@router.post("/visits/{visit_id}/addenda", status_code=201)
def add_addendum(visit_id: uuid.UUID, wanted: NewAddendum, here: SignedIn) -> VisitRecord:
    """Add to a closed record."""
    return write_up.add(here, visit_id, wanted.said)
