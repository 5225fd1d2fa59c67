"""People: the list, one person with limits and measures, and changes to them."""

import uuid
from datetime import date, datetime
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import HASHES, Booking, Password, SignedIn, confirm_password
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import Day, Line, LineOrNone, Paragraph
from acuthesis.core.body.person import BodyFacts, Fingers, check_measure
from acuthesis.core.errors import CoreError, NotAllowed, OutOfRange
from acuthesis.core.message import message
from acuthesis.core.safety.screening import check_threshold
from acuthesis.services.calendar.booking import BookingInput, book
from acuthesis.services.people import erasure
from acuthesis.services.people.file import grant_reading, save_story
from acuthesis.services.request.clock import now
from acuthesis.services.request.columns import age_on
from acuthesis.services.request.here import Here
from acuthesis.services.request.person_view import PersonOut, Sex, person_out
from acuthesis.services.request.roles import HOLDS_VISITS
from acuthesis.services.visit.treatment import person_changed
from acuthesis.store import people as store
from acuthesis.store.model import MeasureRow, PersonRow, ThresholdRow

router = APIRouter(route_class=StrictRoute, tags=["people"])
LEAST_REASON = 3  # letters; the database asks for as many


class PersonShort(BaseModel):
    """A person as lists show them."""

    id: uuid.UUID
    given_name: str
    family_name: str
    age: int
    born: date
    in_charge: uuid.UUID | None


class ContactDetails(BaseModel):
    """Who a person is and how they are reached; nothing of their health."""

    id: uuid.UUID
    version: int
    given_name: str
    family_name: str
    born: date
    phone: str
    email: str
    address: str
    doctor: str
    emergency_contact: str
    guardian: str
    in_charge: uuid.UUID | None
    archived_at: datetime | None


class ContactChange(BaseModel):
    """Changes to the contact of a person; `version` is the one that was seen."""

    model_config = ConfigDict(extra="forbid")

    version: int
    given_name: Line | None = None
    family_name: LineOrNone | None = None
    born: Day | None = None
    phone: LineOrNone | None = None
    email: LineOrNone | None = None
    address: Paragraph | None = None
    doctor: Paragraph | None = None
    emergency_contact: Paragraph | None = None
    guardian: Paragraph | None = None
    in_charge: uuid.UUID | None = None


class NewPerson(BaseModel):
    """What is asked first."""

    model_config = ConfigDict(extra="forbid")

    given_name: Line
    family_name: LineOrNone = ""
    born: Day
    sex: Sex = "unspecified"
    phone: LineOrNone = ""
    email: LineOrNone = ""
    story: Paragraph = ""
    minutes: Annotated[int, Field(ge=3, le=240)] | None = Field(
        45, description="length of the visit that they are here for now; null where they are not here"
    )


class PersonChange(BaseModel):
    """Changes to a person; `version` is the one that was seen. Lengths and thresholds are added, never overwritten.

    `thresholds`: where pressure begins to hurt, by body part (N/cm²); null takes back what was measured before.
    """

    model_config = ConfigDict(extra="forbid")

    version: int
    given_name: Line | None = None
    family_name: LineOrNone | None = None
    sex: Sex | None = None
    height_cm: Annotated[float, Field(allow_inf_nan=False)] | None = None
    weight_kg: Annotated[float, Field(allow_inf_nan=False)] | None = None
    fingers: Fingers | None = None
    breaths_per_minute: Annotated[float, Field(ge=3, le=30, allow_inf_nan=False)] | None = None
    thresholds: dict[str, Annotated[float, Field(allow_inf_nan=False)] | None] | None = None
    measures_cm: dict[str, Annotated[float, Field(allow_inf_nan=False)]] = {}


@router.get("/people")
def list_people(
    here: Booking,
    q: Annotated[str, Query(max_length=120)] = "",
    archived: Annotated[bool, Query(description="only those who were put away")] = False,
) -> list[PersonShort]:
    """Everybody of the practice, or whoever may be meant: accents, case and a slip of a letter do not count."""
    here.reads(None, "list of people")
    return [
        PersonShort(
            id=row.id,
            given_name=row.given_name,
            family_name=row.family_name,
            age=age_on(row.born, here.today),
            born=row.born,
            in_charge=row.in_charge,
        )
        for row in store.people(here.db, q, archived)
    ]


@router.post("/people", status_code=201)
def add_person(new: NewPerson, here: Booking) -> ContactDetails:
    """Take in a new person, with a visit now unless they are not here."""
    _check_born(new.born, here)
    if new.story:
        here.require("write_health")
    row = PersonRow(
        id=uuid.uuid4(),
        practice_id=here.practice_id,
        version=1,
        fingers={},
        in_charge=here.practitioner.id if here.role in HOLDS_VISITS else None,
        address="",
        doctor="",
        emergency_contact="",
        guardian="",
        **new.model_dump(exclude={"story", "minutes"}),
    )
    here.db.add(row)
    here.db.flush()
    here.audit(row.id, "person added")
    if new.story:
        save_story(here, row.id, new.story, None)
    if new.minutes is not None:
        book(here, row.id, BookingInput(minutes=new.minutes), "walk_in")
    return contact_of(row)


def _check_born(born: date, here: Here) -> None:
    if not 0 <= age_on(born, here.today) <= 120:
        raise OutOfRange(message("people-gives-impossible-age-check-year", born=born), where="born")


def contact_of(row: PersonRow) -> ContactDetails:
    """Who a person is and how they are reached."""
    return ContactDetails(**{name: getattr(row, name) for name in ContactDetails.model_fields})


@router.get("/people/{person_id}/contact")
def read_contact(person_id: uuid.UUID, here: Booking) -> ContactDetails:
    """Who a person is and how they are reached."""
    row = store.person(here.db, person_id)
    here.reads(row.id, "contact")
    return contact_of(row)


@router.patch("/people/{person_id}/contact")
def change_contact(person_id: uuid.UUID, change: ContactChange, here: Booking) -> ContactDetails:
    """Change who a person is and how they are reached, and who is in charge of them."""
    row = store.person(here.db, person_id)
    if change.born is not None:
        _check_born(change.born, here)
    if change.in_charge is not None:
        who = here.must_find_colleague(change.in_charge)
        if who.email is None or who.role not in HOLDS_VISITS:
            raise NotAllowed(message("people-does-not-treat-here", name=who.name), where="in_charge")
    store.check_version(row, change.version, "This person")
    for name, value in change.model_dump(exclude_unset=True, exclude={"version"}).items():
        if value is not None:
            setattr(row, name, value)
    here.audit(row.id, "contact changed")
    here.db.flush()
    if change.born is not None:
        person_changed(here, row.id)
    return contact_of(row)


@router.get("/people/{person_id}")
def read_person(person_id: uuid.UUID, here: SignedIn) -> PersonOut:
    """One person."""
    return person_out(here.person(person_id, "person"))


@router.patch("/people/{person_id}")
def change_person(person_id: uuid.UUID, change: PersonChange, here: SignedIn) -> PersonOut:
    """Change a person. Impossible values are refused with the possible range, and then nothing is changed."""
    known = here.person(person_id)
    row = known.row
    for name, value in change.measures_cm.items():
        check_measure(name, value)
    for part, threshold in (change.thresholds or {}).items():
        if threshold is not None:
            check_threshold(part, threshold)
    store.check_version(row, change.version, "This person")
    plain = change.model_dump(exclude_unset=True, exclude={"version", "measures_cm", "thresholds", "fingers"})
    for name, value in plain.items():
        if value is not None or name in ("height_cm", "weight_kg", "breaths_per_minute"):
            setattr(row, name, value)
    if change.fingers is not None:
        row.fingers = change.fingers.model_dump(exclude_none=True)
    # Built before anything is written: it refuses what no person has.
    BodyFacts(**{name: value for name in ("height_cm", "weight_kg") if (value := getattr(row, name)) is not None})
    taken: dict[str, Any] = {"practice_id": here.practice_id, "person_id": row.id, "taken_at": now()}
    for name, value in change.measures_cm.items():
        here.db.add(MeasureRow(id=uuid.uuid4(), name=name, value_cm=value, **taken))
    for part, threshold in (change.thresholds or {}).items():
        if threshold is not None or part in known.thresholds:  # nothing to take back where nothing was measured
            here.db.add(ThresholdRow(id=uuid.uuid4(), part=part, n_per_cm2=threshold, **taken))
    here.audit(row.id, "person changed")
    here.db.flush()
    person_changed(here, row.id)
    return person_out(here.person(row.id))


class ReadingReason(BaseModel):
    """Why the record of somebody whom one does not treat is opened."""

    model_config = ConfigDict(extra="forbid")

    reason: Annotated[Line, Field(min_length=LEAST_REASON)]


@router.post("/people/{person_id}/access", status_code=204)
def open_record(person_id: uuid.UUID, look: ReadingReason, here: SignedIn) -> None:
    """Open the record of somebody whom one does not treat, for twelve hours, with a reason that stands in the audit."""
    grant_reading(here, person_id, look.reason)


class Erasure(BaseModel):
    """Why a record is erased. The name is typed once more, so that nobody is erased by a slip; whoever is no owner
    enters their password."""

    model_config = ConfigDict(extra="forbid")

    given_name: Line
    reason: Line
    password: Password | None = None


class Erasing(BaseModel):
    """When a record will be erased for good; until then it can be taken back."""

    erase_at: datetime


@router.post("/people/{person_id}/erase", status_code=202, dependencies=HASHES)
def erase_person(person_id: uuid.UUID, wanted: Erasure, here: SignedIn, request: Request) -> Erasing:
    """Erase a person's whole record in seven days; until then it is sealed, and that can be taken back.

    That it was erased, by whom and why, stays in the audit.
    """
    row = here.person(person_id).row
    if wanted.given_name != row.given_name:
        raise CoreError(message("people-does-not-match-persons-first"), where="given_name")
    if len(wanted.reason) < LEAST_REASON:
        raise CoreError(message("booking-enter-reason-word-or-two"), where="reason")
    if here.role != "owner":
        if wanted.password is None:
            raise NotAllowed(message("people-enter-your-password-only-owner"), where="password")
        confirm_password(here, wanted.password, request, "erasure")
    return Erasing(erase_at=erasure.ask(here, person_id, wanted.reason))


@router.post("/people/{person_id}/erase/undo", status_code=204)
def cancel_erasure(person_id: uuid.UUID, here: SignedIn) -> None:
    """Do not erase a record after all: it is in the archive then."""
    erasure.cancel(here, person_id)


@router.get("/erasures")
def list_erasures(here: SignedIn) -> list[erasure.Sealed]:
    """The records that will be erased, the next first."""
    return erasure.asked_for(here)
