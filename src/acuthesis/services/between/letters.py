"""Letters and summaries: requested with the person's consent, made by a background job, read, and cancelled."""

import uuid
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from datetime import datetime
from typing import Literal

from pydantic import BaseModel

from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.message import message
from acuthesis.exchange import letter_template
from acuthesis.exchange.letter_paper import LetterFigure, letter_pdf, plain
from acuthesis.exchange.letter_template import KINDS, LONGEST_TEXT, PaperKind, doubts
from acuthesis.services import jobs
from acuthesis.services.between.letter_facts import LetterSource, consent_for_letters
from acuthesis.services.between.letter_request import PaperWish
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.store import access
from acuthesis.store import papers as store
from acuthesis.store.database import transaction
from acuthesis.store.model import ConsentRow, LetterTemplateRow, PaperRow, PracticeRow
from acuthesis.store.people import Conflict, NotFound, check_version
from acuthesis.words.reader import english

BROKEN = "Something went wrong on the server. Try again. If it fails twice, tell your administrator."
STEPS = ("Reading the record", "Drawing the progress chart", "Printing")
State = Literal["waiting", "making", "made", "failed", "cancelled"]
MAKING = ("waiting", "making")


class PaperOut(BaseModel):
    """A letter or summary: how far it is (`step` of `steps`, with what is being done or why it failed), and its text,
    once made; `doubts`: words in it that a letter had better not use; `pdf`: whether there is one."""

    id: uuid.UUID
    kind: PaperKind
    title: str
    wish: PaperWish
    state: State
    step: int
    steps: int
    told: str
    text: str
    doubts: list[str]
    pdf: bool
    asked_by: str
    asked_at: datetime
    made_at: datetime | None


class TemplateOut(BaseModel):
    """The words for a kind of letter: the practice's own, or the shipped ones; `version` 0 where it has none."""

    kind: PaperKind
    title: str
    body: str
    own: bool
    version: int
    doubts: list[str]


# --- asking


def ask(here: Here, person_id: uuid.UUID, id: uuid.UUID, wish: PaperWish) -> PaperRow:
    """Ask for a letter or summary; asking twice with one id is asking once.

    Raises: NotFound; NotAllowed without the person's consent to letters; CoreError for a letter to nobody or about
    nothing, or about a complaint of somebody else's.
    """
    known = here.person(person_id)
    kept = here.db.get(PaperRow, id)
    if kept is not None:
        return kept
    consent = consent_for_letters(here, known.id)
    if wish.kind != "summary" and consent is None:
        raise NotAllowed(
            message("letters-not-agreed-letters-record-consent", given_name=known.row.given_name),
            where="consent",
        )
    if wish.kind != "summary" and not wish.recipient.strip():
        raise CoreError(message("letters-enter-recipient"), where="recipient")
    own = {row.id for row in known.complaints}
    if not wish.complaint_ids:
        raise CoreError(message("letters-choose-what-letter-about"), where="complaint_ids")
    if not set(wish.complaint_ids) <= own:
        raise NotFound(message("letters-person-no-such-complaint"), where="complaint_ids")
    if wish.text is not None and len(wish.text) > LONGEST_TEXT:
        raise CoreError(message("letters-letter-have-at-most-characters", longest_text=LONGEST_TEXT), where="text")
    row = PaperRow(
        id=id,
        practice_id=here.practice_id,
        person_id=known.id,
        kind=wish.kind,
        asked=wish.model_dump(mode="json"),
        body=template(here, wish.kind).body,
        consent_id=consent.id if consent and wish.kind != "summary" else None,
        state="waiting",
        step=0,
        told="",
        text="",
        plain="",
        asked_by=here.practitioner.id,
        asked_at=now(),
    )
    here.db.add(row)
    here.audit(known.id, f"{KINDS[wish.kind].lower()} asked for")
    here.db.flush()
    jobs.ask(here.db, make_paper, practice_id=str(row.practice_id), paper_id=str(row.id))
    return row


def cancel(here: Here, paper_id: uuid.UUID) -> PaperRow:
    """Cancel a letter that is not made yet; whoever makes it stops at the next step. Raises: NotFound; NotAllowed once
    it is made."""
    row = store.paper(here.db, paper_id)
    if not store.move(here.db, row.id, MAKING, state="cancelled", told=""):
        raise NotAllowed(message("letters-no-longer-being-created"), where="paper_id")
    here.audit(row.person_id, "letter cancelled")
    here.db.refresh(row)
    return row


# --- reading


def of_person(here: Here, person_id: uuid.UUID) -> list[PaperOut]:
    """A person's letters and summaries, newest first. Raises: NotFound."""
    known = here.person(person_id, "letters")
    return [paper_out(here, row) for row in store.papers(here.db, known.id)]


def one(here: Here, paper_id: uuid.UUID) -> PaperRow:
    """A letter that somebody reads. Raises: NotFound."""
    row = store.paper(here.db, paper_id)
    here.reads(row.person_id, "letter")
    return row


def paper_out(here: Here, row: PaperRow) -> PaperOut:
    """A letter as it stands."""
    names = {colleague.id: colleague.name for colleague in here.colleagues}
    kind: PaperKind = row.kind  # type: ignore[assignment]  # the database checks it
    return PaperOut(
        id=row.id,
        kind=kind,
        title=KINDS[kind],
        wish=PaperWish.model_validate(row.asked),
        state=row.state,
        step=row.step,
        steps=len(STEPS),
        told=row.told,
        text=row.text,
        doubts=list(doubts(row.text)),
        pdf=row.made_at is not None and store.pdf(here.db, row.id) is not None,
        asked_by=names[row.asked_by],
        asked_at=row.asked_at,
        made_at=row.made_at,
    )


def as_pdf(here: Here, paper_id: uuid.UUID) -> bytes:
    """The PDF of a letter. Raises: NotFound where it has none."""
    row = one(here, paper_id)
    found = store.pdf(here.db, row.id)
    if found is None:
        raise NotFound(message("letters-letter-no-pdf-not-ready"), where="paper_id")
    here.audit(row.person_id, "letter printed")
    return found


def as_text(here: Here, paper_id: uuid.UUID) -> str:
    """The letter as plain text. Raises: NotFound where it is not made."""
    row = one(here, paper_id)
    if row.state != "made":
        raise NotFound(message("letters-letter-not-ready-yet"), where="paper_id")
    here.audit(row.person_id, "letter exported")
    return row.plain


# --- making


def _gave_up(practice_id: str, paper_id: str) -> None:
    _end(uuid.UUID(practice_id), uuid.UUID(paper_id), state="failed", told=BROKEN)


@jobs.job(given_up=_gave_up)
def make_paper(practice_id: str, paper_id: str) -> None:
    """Make a letter, step by step: each step is seen by whoever waits, and before each it may have been cancelled.

    Begun again after a restart, it begins anew: nothing of it is kept before it is whole. Whatever goes wrong, whoever
    waits is told.
    """
    practice, id = uuid.UUID(practice_id), uuid.UUID(paper_id)
    if not _at_step(practice, id, 0):
        return
    try:
        with _read(practice, id) as (source, row):
            wish, body, practice_name = PaperWish.model_validate(row.asked), row.body, source.here.practice.name
            facts = source.facts()
            text = wish.text if wish.text is not None else letter_template.filled_in(body, facts)
            if not _at_step(practice, id, 1):
                return
            figures = source.figures()
        if not _at_step(practice, id, 2):
            return
        printed = letter_pdf(f"{KINDS[wish.kind]}, {facts.person}", practice_name, text, figures)
    except CoreError as error:
        _end(practice, id, state="failed", told=english().say(error.message))
        return
    except Exception:
        _end(practice, id, state="failed", told=BROKEN)
        raise  # the log has it whole
    _end(practice, id, state="made", text=text, plain=plain(text, figures), pdf=printed, made_at=now(), told="")


def _at_step(practice_id: uuid.UUID, paper_id: uuid.UUID, step: int) -> bool:
    with transaction(practice_id) as db:
        return store.move(db, paper_id, MAKING, state="making", step=step, told=STEPS[step])


def _end(practice_id: uuid.UUID, paper_id: uuid.UUID, **to: object) -> None:
    with transaction(practice_id) as db:
        store.move(db, paper_id, MAKING, **to, step=len(STEPS))


@contextmanager
def _read(practice_id: uuid.UUID, paper_id: uuid.UUID) -> Iterator[tuple[LetterSource, PaperRow]]:
    with transaction(practice_id) as db:
        row = store.paper(db, paper_id)
        writer = access.practitioner(db, row.asked_by)
        here = Here(db, writer, db.get_one(PracticeRow, practice_id))
        consent = db.get(ConsentRow, row.consent_id) if row.consent_id else None
        wish = PaperWish.model_validate(row.asked)
        yield LetterSource(here, here.person(row.person_id), wish, writer.name, consent), row


# --- the practice's own words


def templates(here: Here) -> list[TemplateOut]:
    """The words for every kind of letter."""
    return [template(here, kind) for kind in KINDS]


def template(here: Here, kind: PaperKind) -> TemplateOut:
    """The words for one kind: the practice's own, or the shipped ones."""
    own = store.templates(here.db).get(kind)
    body = own.body if own else letter_template.shipped(kind)
    return TemplateOut(
        kind=kind,
        title=KINDS[kind],
        body=body,
        own=own is not None,
        version=own.version if own else 0,
        doubts=list(doubts(body)),
    )


def write_template(here: Here, kind: PaperKind, version: int, body: str) -> TemplateOut:
    """Keep the practice's own words. Raises: CoreError saying what in them cannot be used; Conflict where somebody else
    changed them since."""
    letter_template.check(body)
    own = store.templates(here.db).get(kind)
    if own is None:
        if version != 0:
            raise Conflict(message("letters-template-restored-another-window-reload"), where="version")
        here.db.add(
            LetterTemplateRow(
                practice_id=here.practice_id,
                kind=kind,
                version=1,
                body=body,
                changed_by=here.practitioner.id,
                changed_at=now(),
            )
        )
    else:
        check_version(own, version, "This template")
        own.body, own.changed_by, own.changed_at = body, here.practitioner.id, now()
    here.audit(None, f"text of a {KINDS[kind].lower()} changed")
    here.db.flush()
    return template(here, kind)


def delete_template(here: Here, kind: PaperKind) -> TemplateOut:
    """Go back to the shipped words."""
    own = store.templates(here.db).get(kind)
    if own is not None:
        here.db.delete(own)
        here.audit(None, f"text of a {KINDS[kind].lower()} restored")
        here.db.flush()
    return template(here, kind)


def tried(body: str) -> str:
    """A template filled in with made-up facts, as plain text. Raises: CoreError as `write_template`."""
    letter_template.check(body)
    facts = letter_template.EXAMPLE
    shown: Sequence[LetterFigure] = [LetterFigure("", f"{course.name}: {course.sentence}") for course in facts.courses]
    return plain(letter_template.filled_in(body, facts), shown)
