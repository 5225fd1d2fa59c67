"""A person's file: story, consents, letters; archive, restore, merge duplicates."""

import uuid
from datetime import date, datetime
from typing import Annotated, Literal

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import Day, Line, Paragraph
from acuthesis.services.people import file as service
from acuthesis.services.request.here import Here
from acuthesis.services.request.person_view import PersonOut, person_out
from acuthesis.store import people
from acuthesis.store.model import LetterRow

router = APIRouter(route_class=StrictRoute, tags=["person"])
StoryText = Annotated[Paragraph, Field(min_length=1)]


class _In(BaseModel):
    model_config = ConfigDict(extra="forbid")


class StoryOut(BaseModel):
    """A piece of the story: what was told, when, and who wrote it down (empty for what came with a record)."""

    id: uuid.UUID
    told: str
    told_on: date
    written_by: str
    written_at: datetime


class NewStory(_In):
    """A piece of the story to add, told today or on an earlier day."""

    told: StoryText
    told_on: Day | None = None


class ConsentSaid(BaseModel):
    """A consent or a withdrawal, as it was recorded."""

    id: uuid.UUID
    given: bool
    said: str
    how: Literal["in_writing", "spoken", "by_guardian"]
    given_on: date
    recorded_by: str


class ConsentOut(BaseModel):
    """What consent is asked for, its usual words, whether it holds, and everything that was said of it."""

    about: str
    words: str
    holds: bool
    history: list[ConsentSaid]


class NewConsent(_In):
    """A consent, or (`given` false) its withdrawal."""

    about: Line
    given: bool
    said: Paragraph = ""
    how: Literal["in_writing", "spoken", "by_guardian"]
    given_on: Day | None = None


class LetterOut(BaseModel):
    """A letter about a person."""

    id: uuid.UUID
    version: int
    recipient: str
    about: str
    sent_on: date
    answer_due: date | None
    answered_on: date | None
    answer: str


class NewLetter(_In):
    """A letter that was sent, and until when an answer is awaited, if one is."""

    recipient: Line
    about: Line
    sent_on: Day
    answer_due: Day | None = None


class LetterAnswer(_In):
    """The answer to a letter."""

    version: int
    answered_on: Day
    answer: StoryText


class Archive(_In):
    """Put away or taken back."""

    version: int
    archived: bool


class MergeWith(_In):
    """The other record of the same person; its first name is typed once more."""

    other_id: uuid.UUID
    given_name: Line


@router.get("/people/{person_id}/story")
def read_story(person_id: uuid.UUID, here: SignedIn) -> list[StoryOut]:
    """What a person told, in the order in which it was told."""
    known = here.person(person_id, "story")
    names = {row.id: row.name for row in here.colleagues}
    return [
        StoryOut(
            id=row.id,
            told=row.told,
            told_on=row.told_on,
            written_by=names[row.written_by] if row.written_by else "",
            written_at=row.written_at,
        )
        for row in people.stories(here.db, known.id)
    ]


@router.post("/people/{person_id}/story", status_code=201)
def save_story(person_id: uuid.UUID, new: NewStory, here: SignedIn) -> list[StoryOut]:
    """Add to the story."""
    service.save_story(here, person_id, new.told, new.told_on)
    return read_story(person_id, here)


@router.get("/people/{person_id}/consents")
def read_consents(person_id: uuid.UUID, here: SignedIn) -> list[ConsentOut]:
    """What consent is asked for, and how it stands with this person."""
    known = here.person(person_id, "consents")
    return _consents(here, known.id)


@router.post("/people/{person_id}/consents", status_code=201)
def record_consent(person_id: uuid.UUID, new: NewConsent, here: SignedIn) -> list[ConsentOut]:
    """Record a consent, or its withdrawal."""
    service.consent(here, person_id, new.about, new.given, new.said, new.how, new.given_on)
    return _consents(here, person_id)


def _consents(here: Here, person_id: uuid.UUID) -> list[ConsentOut]:
    rows = people.consents(here.db, person_id)
    holding, names = service.in_force(rows), {row.id: row.name for row in here.colleagues}
    return [
        ConsentOut(
            about=about,
            words=words,
            holds=about in holding,
            history=[
                ConsentSaid(
                    id=row.id,
                    given=row.given,
                    said=row.said,
                    how=row.how,
                    given_on=row.given_on,
                    recorded_by=names[row.recorded_by],
                )
                for row in rows
                if row.about == about
            ],
        )
        for about, words in service.CONSENTS.items()
    ]


@router.get("/people/{person_id}/letters")
def read_letters(person_id: uuid.UUID, here: SignedIn) -> list[LetterOut]:
    """Letters about a person, newest first."""
    known = here.person(person_id, "letters")
    return [_letter(row) for row in people.letters(here.db, known.id)]


@router.post("/people/{person_id}/letters", status_code=201)
def send_letter(person_id: uuid.UUID, new: NewLetter, here: SignedIn) -> LetterOut:
    """Note a letter that was sent."""
    return _letter(service.send_letter(here, person_id, new.recipient, new.about, new.sent_on, new.answer_due))


@router.post("/letters/{letter_id}/answer")
def answer_letter(letter_id: uuid.UUID, wanted: LetterAnswer, here: SignedIn) -> LetterOut:
    """Note the answer to a letter."""
    return _letter(service.answer_letter(here, letter_id, wanted.version, wanted.answered_on, wanted.answer))


def _letter(row: LetterRow) -> LetterOut:
    return LetterOut(**{name: getattr(row, name) for name in LetterOut.model_fields})


@router.post("/people/{person_id}/archive")
def archive_person(person_id: uuid.UUID, wanted: Archive, here: SignedIn) -> PersonOut:
    """Put a person's record away, or take it back: it is in no list then, and nothing of it is lost."""
    service.archive(here, person_id, wanted.version, wanted.archived)
    return person_out(here.person(person_id))


@router.post("/people/{person_id}/join")
def join_persons(person_id: uuid.UUID, wanted: MergeWith, here: SignedIn) -> PersonOut:
    """Join the other record of the same person to this one: both histories are kept, the other record is gone."""
    return person_out(here.person(service.join_records(here, person_id, wanted.other_id, wanted.given_name)))
