"""Letters and summaries, made by a job; and the practice's own words for them."""

import uuid
from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import Owner, SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.api.files import file
from acuthesis.api.text import Day, LineOrNone, Paragraph, keepable
from acuthesis.exchange.letter_template import LONGEST, LONGEST_TEXT, PaperKind
from acuthesis.services.between import letters
from acuthesis.services.between.letter_request import PaperWish
from acuthesis.services.between.letters import PaperOut, TemplateOut

router = APIRouter(route_class=StrictRoute, tags=["papers"])
PDF: dict[int | str, dict[str, object]] = {200: {"content": {"application/pdf": {}}}}
TEXT: dict[int | str, dict[str, object]] = {200: {"content": {"text/plain": {}}}}
Body = Annotated[str, Field(min_length=1, max_length=LONGEST), keepable]


class _In(BaseModel):
    model_config = ConfigDict(extra="forbid")


class NewPaper(_In):
    """A letter or summary to make: to whom, about which complaints, what is asked of the reader. `text`: as it was
    edited, in place of the template. The id makes asking twice harmless."""

    id: uuid.UUID
    kind: PaperKind
    recipient: LineOrNone = ""
    address: Paragraph = ""
    complaint_ids: Annotated[list[uuid.UUID], Field(min_length=1, max_length=10)]
    asked_of_you: Paragraph = ""
    note: Paragraph = ""
    answer_due: Day | None = None
    text: Annotated[str, Field(max_length=LONGEST_TEXT), keepable] | None = None

    def wish(self) -> PaperWish:
        """The same as the use case takes it."""
        return PaperWish(**self.model_dump(exclude={"id"}))


class TemplateWords(_In):
    """A template."""

    body: Body


class OwnTemplate(TemplateWords):
    """The practice's own words; `version` is the one that was seen, 0 for the shipped ones."""

    version: int


class TriedTemplate(BaseModel):
    """A template filled in with made-up facts."""

    text: str


@router.get("/people/{person_id}/papers")
def read_papers(person_id: uuid.UUID, here: SignedIn) -> list[PaperOut]:
    """Letters and summaries that were made of a person, newest first."""
    return letters.of_person(here, person_id)


@router.post("/people/{person_id}/papers", status_code=201)
def make_paper(person_id: uuid.UUID, new: NewPaper, here: SignedIn) -> PaperOut:
    """Ask for a letter or summary. It is made while you do something else."""
    return letters.paper_out(here, letters.ask(here, person_id, new.id, new.wish()))


@router.get("/papers/{paper_id}")
def read_paper(paper_id: uuid.UUID, here: SignedIn) -> PaperOut:
    """How far it is, and its text once it is made."""
    return letters.paper_out(here, letters.one(here, paper_id))


@router.post("/papers/{paper_id}/cancel")
def cancel_paper(paper_id: uuid.UUID, here: SignedIn) -> PaperOut:
    """Cancel what is not made yet."""
    return letters.paper_out(here, letters.cancel(here, paper_id))


@router.get("/papers/{paper_id}/letter.pdf", response_class=Response, responses=PDF)
def read_paper_pdf(paper_id: uuid.UUID, here: SignedIn) -> Response:
    """The letter as PDF."""
    return file(letters.as_pdf(here, paper_id), "application/pdf", "letter.pdf")


@router.get("/papers/{paper_id}/letter.txt", response_class=Response, responses=TEXT)
def read_paper_text(paper_id: uuid.UUID, here: SignedIn) -> Response:
    """The letter as plain text."""
    return file(letters.as_text(here, paper_id), "text/plain", "letter.txt", saved=True)


@router.get("/letter-templates")
def read_templates(here: SignedIn) -> list[TemplateOut]:
    """The words for every kind of letter."""
    return letters.templates(here)


@router.post("/letter-templates/try")
def try_template(words: TemplateWords, here: SignedIn) -> TriedTemplate:
    """A template filled in with made-up facts; nothing is kept."""
    return TriedTemplate(text=letters.tried(words.body))


@router.put("/letter-templates/{kind}")
def write_template(kind: PaperKind, own: OwnTemplate, here: Owner) -> TemplateOut:
    """Keep the practice's own words for a kind of letter."""
    return letters.write_template(here, kind, own.version, own.body)


@router.delete("/letter-templates/{kind}")
def delete_template(kind: PaperKind, here: Owner) -> TemplateOut:
    """Go back to the shipped words."""
    return letters.delete_template(here, kind)
