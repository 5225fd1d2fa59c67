"""The context of one request: who asks, in which practice, in which transaction; what was read is cached."""

import uuid
from datetime import UTC, date, datetime, time, timedelta
from functools import cached_property
from zoneinfo import ZoneInfo

from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.entries.catalogue import Entry
from acuthesis.core.atlas.locating.own import own_entry
from acuthesis.core.compose.knowledge.layer import Knowledge, Layer, layered
from acuthesis.core.compose.knowledge.school import School
from acuthesis.core.errors import UnknownId
from acuthesis.core.message import Message, message
from acuthesis.services.request.clock import now
from acuthesis.services.request.errors import MustEnrol, ReasonNeeded, SignedOut
from acuthesis.services.request.known import Known, known_of
from acuthesis.services.request.roles import Power, Role, require
from acuthesis.store import access, atlas, compose, people
from acuthesis.store.database import Db
from acuthesis.store.model import AuditRow, AuthSessionRow, PracticeRow, PractitionerRow
from acuthesis.words.reader import Reader, english


class Here:
    """Who asks, in which practice, in which transaction.

    Nobody may be signed in (`opened` None): a person writes from home, or a job works. `practitioner` is then whose
    hands and levels count, and the audit names nobody.

    What is read of the practice or of a person is kept for the length of the request: nobody changes it meanwhile but
    the request itself, which then says `forget`.
    """

    def __init__(
        self,
        db: Db,
        practitioner: PractitionerRow,
        practice: PracticeRow,
        opened: AuthSessionRow | None = None,
        address: str = "",
    ) -> None:
        self.db, self.practitioner, self.practice, self.opened = db, practitioner, practice, opened
        self.address = address  # where the request comes from
        self._persons: dict[uuid.UUID, Known] = {}
        self._read: set[tuple[uuid.UUID | None, str]] = set()
        self._treated: dict[uuid.UUID, bool] = {}

    @property
    def reader(self) -> Reader:
        """Renders messages in the language of whoever asks."""
        return english()

    def say(self, said: Message) -> str:
        """The words of a message for whoever asks."""
        return self.reader.say(said)

    @property
    def browser(self) -> AuthSessionRow:
        """The browser that is signed in with. Raises: SignedOut where nobody is."""
        if self.opened is None:
            raise SignedOut(message("here-no-one-signed"))
        return self.opened

    @property
    def signed_in(self) -> uuid.UUID | None:
        """Whoever is signed in: who is named for what is written. None from home, and for a job."""
        return self.practitioner.id if self.opened else None

    @property
    def role(self) -> Role:
        """What whoever asks is here."""
        return self.practitioner.role  # type: ignore[return-value]  # the database checks it

    def require(self, power: Power) -> None:
        """Raises: MustEnrol where a second factor is still missing, Forbidden where the role has not this power."""
        if self.must_enrol:
            raise MustEnrol(message("here-practice-requires-two-step-verification"))
        require(self.role, power)

    @cached_property
    def must_enrol(self) -> bool:
        """Whether a second factor is asked for and not there yet."""
        if not self.practice.second_factor_required or self.practitioner.totp_since is not None:
            return False
        return not access.has_passkey(self.db, self.practitioner.id)

    @property
    def practice_id(self) -> uuid.UUID:
        """The practice that everything in this request belongs to."""
        return self.practice.id

    @cached_property
    def zone(self) -> ZoneInfo:
        """The practice's time zone: what "today" means."""
        return ZoneInfo(self.practice.time_zone)

    @property
    def today(self) -> date:
        """The day it is in the practice."""
        return self.day_of(now())

    def day_of(self, moment: datetime) -> date:
        """The day on which a moment falls in the practice."""
        return moment.astimezone(self.zone).date()

    def local(self, moment: datetime) -> datetime:
        """A moment by the practice's clock."""
        return moment.astimezone(self.zone)

    def day_bounds(self, day: date) -> tuple[datetime, datetime]:
        """When a day of the practice begins and ends, in UTC: 23 to 25 hours where clocks are changed."""
        midnight = datetime.combine(day, time(), self.zone)
        following = datetime.combine(day + timedelta(days=1), time(), self.zone)
        return midnight.astimezone(UTC), following.astimezone(UTC)

    @cached_property
    def _layer(self) -> tuple[Layer, int]:
        return compose.layer_of(self.db)

    @property
    def layer(self) -> Layer:
        """The practice's changes to the shipped knowledge."""
        return self._layer[0]

    @property
    def layer_version(self) -> int:
        """Version of the layer."""
        return self._layer[1]

    @cached_property
    def own(self) -> dict[str, Entry]:
        """The practice's own points and areas by id."""
        return {row.entry: own_entry(row.row) for row in atlas.own_rows(self.db)}

    @cached_property
    def knowledge(self) -> Knowledge:
        """The shipped knowledge with this practice's changes and its own points."""
        return layered(self.layer, self.own)

    def entry(self, id: str) -> Entry:
        """A shipped point or area, or one of the practice's own. Raises: UnknownId."""
        if not id.startswith("own_"):
            found = catalogue.entry(id)
            return self.knowledge.preferred.get(found.id, found)
        if id not in self.own:
            raise UnknownId(message("catalogue-there-no-point-or-area", id=id), where=id)
        return self.own[id]

    def school(self, id: str) -> School | None:
        """The school of a score with the practice's changes; scores from before there were schools have none."""
        return self.knowledge.schools.get(id)

    def person(self, person_id: uuid.UUID, reading: str = "") -> Known:
        """A person of this practice with all that is known of them; `reading` names what is read, for the audit.

        Raises: NotFound.
        """
        if person_id not in self._persons:
            self._persons[person_id] = Known(self, people.person(self.db, person_id))
        if reading:
            self.reads(person_id, reading)
        return self._persons[person_id]

    def persons(self, ids: list[uuid.UUID]) -> dict[uuid.UUID, Known]:
        """Several persons at once, in a fixed number of statements however many they are."""
        missing = [id for id in dict.fromkeys(ids) if id not in self._persons]
        self._persons.update(known_of(self, missing))
        return {id: self._persons[id] for id in ids if id in self._persons}

    def forget(self, person_id: uuid.UUID) -> None:
        """What was read of a person is old: it has just been changed."""
        self._persons.pop(person_id, None)

    def layer_changed(self) -> None:
        """The practice's changes are old, and with them what was worked out of anybody."""
        for name in ("_layer", "knowledge"):
            self.__dict__.pop(name, None)
        self._persons.clear()

    def reads(self, person_id: uuid.UUID | None, what: str) -> None:
        """Note in the audit that something was read, once a request."""
        if (person_id, what) not in self._read:
            self._read.add((person_id, what))
            self.audit(person_id, f"{what} read")

    @cached_property
    def colleagues(self) -> list[PractitionerRow]:
        """Everybody who works or worked here, by name."""
        return access.practitioners(self.db)

    def must_find_colleague(self, practitioner_id: uuid.UUID) -> PractitionerRow:
        """Somebody of this practice. Raises: NotFound."""
        return access.colleague(self.db, practitioner_id)

    def audit(self, person_id: uuid.UUID | None, action: str, reason: str = "") -> None:
        """Record who did what with whose record. Raises: ReasonNeeded where it is not theirs to look at."""
        if person_id is not None and not reason:
            reason = self.require_access(person_id)
        self.db.add(
            AuditRow(
                practice_id=self.practice_id,
                practitioner_id=self.signed_in,
                person_id=person_id,
                action=action,
                address=self.address,
                device=self.opened.device if self.opened else "",
                reason=reason,
            )
        )

    @property
    def sees_own_people_only(self) -> bool:
        """Whether records of people whom this account does not treat ask for a reason."""
        return self.practice.own_people_only and self.opened is not None and self.role in ("practitioner", "reader")

    def require_access(self, person_id: uuid.UUID) -> str:
        """The reason that was given for looking at this person; empty where none is needed.

        Everything that reads or changes a record passes here, because it leaves a trace in the audit.
        Raises: ReasonNeeded where none was given.
        """
        if person_id in self._sealed:
            raise people.NotFound(message("here-record-will-erased-sealed-until"), where="person_id")
        if not self.sees_own_people_only or self.own_people(person_id):
            return ""
        granted = people.reading_grant(self.db, person_id, self.practitioner.id, now())
        if granted is None:
            raise ReasonNeeded(message("here-not-one-your-people-open"), where="person_id")
        return granted.reason

    @cached_property
    def _sealed(self) -> set[uuid.UUID]:
        return people.sealed_people(self.db)

    def unseal(self, person_id: uuid.UUID) -> None:
        """A record is no longer to be erased."""
        self._sealed.discard(person_id)

    @cached_property
    def _own_people(self) -> set[uuid.UUID]:
        return people.treated_by(self.db, self.practitioner.id)

    def may_list(self, person_id: uuid.UUID) -> bool:
        """Whether a list that tells something of a person's health may show them to whoever is signed in."""
        return person_id not in self._sealed and (not self.sees_own_people_only or person_id in self._own_people)

    def own_people(self, person_id: uuid.UUID) -> bool:
        """Whether this practitioner is responsible for a person or has or had an appointment with them."""
        if person_id not in self._treated:
            self._treated[person_id] = people.is_treated_by(self.db, person_id, self.practitioner.id)
        return self._treated[person_id]

    def release(self) -> None:
        """End the transaction so far: what follows holds no connection and no lock. The next query begins another."""
        self.db.commit()
