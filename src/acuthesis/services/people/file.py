"""The person's file: story, contact, consents, letters; archive, restore, merge duplicates."""

import uuid
from collections.abc import Sequence
from datetime import date, timedelta
from typing import Literal

from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.message import message
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.store import booking, people, treatments
from acuthesis.store.model import ConsentRow, LetterRow, PersonRow, ReadingGrantRow, StoryRow
from acuthesis.store.people import check_version

How = Literal["in_writing", "spoken", "by_guardian"]
# What consent is asked for by itself, and what is asked when. Source: professional rules on consent for touch.
CONSENTS: dict[str, str] = {
    "treatment": "I agree to treatment by pressure on the places explained to me. I can stop at any time.",
    "records": "I agree that the practice keeps a record of what I report, what is done and what is felt.",
    "breast": "I agree to treatment of the chest beside and above the breast, over clothing, as explained to me.",
    "buttock": "I agree to treatment of the buttock and hip, over clothing or a cover, as explained to me.",
    "inner_thigh": "I agree to treatment of the inner thigh and groin crease, over clothing, as explained to me.",
    "letters": "I agree that the practice may write to my doctor about what is found and done here.",
}
OF_AGE = 18  # younger people have a guardian who consents with them


READING_HOLDS = timedelta(hours=12)


def grant_reading(here: Here, person_id: uuid.UUID, reason: str) -> None:
    """Let whoever is signed in read and treat a person who is not theirs, for a working day. Raises: NotFound."""
    row = people.person(here.db, person_id)
    here.db.add(
        ReadingGrantRow(
            id=uuid.uuid4(),
            practice_id=here.practice_id,
            person_id=row.id,
            practitioner_id=here.practitioner.id,
            reason=reason,
            until=now() + READING_HOLDS,
        )
    )
    here.audit(row.id, "record opened of a person they do not treat", reason=reason)


def save_story(here: Here, person_id: uuid.UUID, told: str, on: date | None) -> StoryRow:
    """Add to a person's story. Raises: NotFound; CoreError for a day to come."""
    person = people.person(here.db, person_id)
    day = on or here.today
    if day > here.today:
        raise CoreError(message("file-date-future"), where="told_on")
    row = StoryRow(
        id=uuid.uuid4(),
        practice_id=here.practice_id,
        person_id=person.id,
        told=told,
        told_on=day,
        written_by=here.practitioner.id,
        written_at=now(),
    )
    here.db.add(row)
    here.audit(person.id, "history added")
    here.db.flush()
    return row


def consent(
    here: Here, person_id: uuid.UUID, about: str, given: bool, said: str, how: How, on: date | None
) -> ConsentRow:
    """Keep a consent or its withdrawal. Raises: NotFound; CoreError for what nobody consents to, or a day to come.

    Somebody under age cannot be treated on their own word: a guardian consents for them.
    """
    known = here.person(person_id)
    if about not in CONSENTS:
        raise CoreError(message("file-no-consent-needed", about=about), where="about")
    day = on or here.today
    if day > here.today:
        raise CoreError(message("file-date-future"), where="given_on")
    if given and known.age < OF_AGE and how != "by_guardian":
        raise NotAllowed(
            message("file-parent-or-guardian-must-give", given_name=known.row.given_name, age=known.age), where="how"
        )
    row = ConsentRow(
        id=uuid.uuid4(),
        practice_id=here.practice_id,
        person_id=known.id,
        about=about,
        given=given,
        said=said,
        how=how,
        given_on=day,
        recorded_by=here.practitioner.id,
        recorded_at=now(),
    )
    here.db.add(row)
    here.audit(known.id, "consent recorded" if given else "consent withdrawn")
    here.db.flush()
    return row


def in_force(rows: Sequence[ConsentRow]) -> dict[str, ConsentRow]:
    """Of each thing the last word, where it is a consent; rows oldest first."""
    last = {row.about: row for row in rows}
    return {about: row for about, row in last.items() if row.given}


def send_letter(
    here: Here, person_id: uuid.UUID, recipient: str, about: str, sent_on: date, answer_due: date | None
) -> LetterRow:
    """Note a letter about a person. Raises: NotFound; CoreError for an answer that is due before it was sent."""
    person = people.person(here.db, person_id)
    if answer_due is not None and answer_due < sent_on:
        raise CoreError(message("file-reply-cannot-due-before-letter"), where="answer_due")
    row = LetterRow(
        id=uuid.uuid4(),
        practice_id=here.practice_id,
        person_id=person.id,
        recipient=recipient,
        about=about,
        sent_on=sent_on,
        answer_due=answer_due,
        answer="",
        sent_by=here.practitioner.id,
        version=1,
    )
    here.db.add(row)
    here.audit(person.id, "letter recorded")
    here.db.flush()
    return row


def answer_letter(here: Here, letter_id: uuid.UUID, version: int, answered_on: date, answer: str) -> LetterRow:
    """Note the answer to a letter. Raises: NotFound, Conflict; CoreError for a day before it was sent."""
    row = people.letter(here.db, letter_id)
    check_version(row, version, "This letter")
    if answered_on < row.sent_on:
        raise CoreError(message("file-reply-cannot-have-come-before"), where="answered_on")
    row.answered_on, row.answer = answered_on, answer
    here.audit(row.person_id, "reply to a letter recorded")
    here.db.flush()
    return row


def archive(here: Here, person_id: uuid.UUID, version: int, archived: bool) -> PersonRow:
    """Put a person's record away, or take it back. Raises: NotFound, Conflict; NotAllowed with appointments to come."""
    row = people.person(here.db, person_id)
    check_version(row, version, "This person")
    coming = [
        one
        for one in booking.of_person(here.db, row.id)
        if one.visit.starts_at > now() and one.visit.attendance == "expected"
    ]
    if archived and coming:
        raise NotAllowed(
            message("file-upcoming-appointments", name=row.given_name, count=len(coming)), where="person_id"
        )
    row.archived_at = now() if archived else None
    here.audit(row.id, "archived" if archived else "restored from the archive")
    here.db.flush()
    return row


def join_records(here: Here, kept_id: uuid.UUID, other_id: uuid.UUID, other_given_name: str) -> uuid.UUID:
    """Join two records of one person: all of the other's history moves to the one that is kept.

    What the kept record does not say of contact is taken over; where both say something else, the other's words become
    part of the story. The name of the other is typed once more. Raises: NotFound; CoreError for a wrong name;
    NotAllowed while one of them is being treated.
    """
    kept, other = people.person(here.db, kept_id), people.person(here.db, other_id)
    if kept.id == other.id:
        raise CoreError(message("file-both-same-record"), where="other_id")
    if other_given_name.strip() != other.given_name:
        raise CoreError(message("file-does-not-match-first-name"), where="given_name")
    for row in (kept, other):
        if treatments.open_treatments(here.db, row.id):
            raise NotAllowed(
                message("file-being-treated-merge-records-afterwards", given_name=row.given_name), where="person_id"
            )
    differing = [f"born {other.born:%d %B %Y}"] if other.born != kept.born else []
    if (other.given_name, other.family_name) != (kept.given_name, kept.family_name):
        differing.insert(0, f"{other.given_name} {other.family_name}".strip())
    for name in ("phone", "email", "address", "doctor", "emergency_contact", "guardian"):
        said = getattr(other, name)
        if said and not getattr(kept, name):
            setattr(kept, name, said)
        elif said and said != getattr(kept, name):
            differing.append(f"{name.replace('_', ' ')} {said}")
    for name in ("height_cm", "weight_kg", "breaths_per_minute"):
        if getattr(kept, name) is None:
            setattr(kept, name, getattr(other, name))
    kept.fingers = {**other.fingers, **kept.fingers}
    kept.version += 1
    told = "Merged with a second record" + (f": {', '.join(differing)}." if differing else ".")
    save_story(here, kept.id, told, None)
    people.merge(here.db, kept.id, other.id, here.practitioner.id)
    here.forget(kept_id)
    here.forget(other_id)
    return kept_id
