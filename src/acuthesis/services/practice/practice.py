"""The practice: set up once, changed by its owners; its hours and places."""

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import time
from typing import Annotated
from zoneinfo import ZoneInfo, available_timezones

from pydantic import BaseModel, ConfigDict, StringConstraints

from acuthesis.core.body.person import Fingers
from acuthesis.core.compose.knowledge.layer import shipped
from acuthesis.core.errors import CoreError, OutOfRange, UnknownId
from acuthesis.core.message import message
from acuthesis.services.practice.sign_in import check_new_password
from acuthesis.services.practice.staff import SPENT
from acuthesis.services.request.clock import now
from acuthesis.services.request.errors import LinkSpent
from acuthesis.services.request.here import Here
from acuthesis.store import access, booking, links
from acuthesis.store.database import transaction
from acuthesis.store.model import AuditRow, PlaceRow
from acuthesis.store.people import Conflict, check_version

Hours = Mapping[int, tuple[time, time]]
# Where nothing is said: weekdays, nine to six.
USUAL_HOURS: Hours = {day: (time(9), time(18)) for day in range(5)}


def hours_of(kept: Mapping[str, Sequence[str]]) -> Hours:
    """Hours from their column; the usual ones where nothing was said."""
    if not kept:
        return USUAL_HOURS
    return {int(day): (time.fromisoformat(span[0]), time.fromisoformat(span[1])) for day, span in kept.items() if span}


Clock = Annotated[str, StringConstraints(pattern=r"^([01]\d|2[0-3]):[0-5]\d$")]


class WorkingHours(BaseModel):
    """Working hours of a day, by the practice's clock, such as 09:00."""

    model_config = ConfigDict(extra="forbid")

    opens: Clock
    closes: Clock


def spans(hours: Mapping[int, tuple[time, time]]) -> dict[int, WorkingHours]:
    """Working hours as the API gives them."""
    return {
        day: WorkingHours(opens=f"{opens:%H:%M}", closes=f"{closes:%H:%M}") for day, (opens, closes) in hours.items()
    }


def hours_to_keep(hours: Hours) -> dict[str, list[str]]:
    """Hours as their column keeps them. Raises: OutOfRange if a day ends before it begins."""
    if not hours:
        raise OutOfRange(message("practice-choose-at-least-one-working"), where="hours")
    for day, (opens, closes) in hours.items():
        if not 0 <= day <= 6 or opens >= closes:
            raise OutOfRange(message("practice-working-day-must-start-before"), where=f"hours.{day}")
    return {str(day): [f"{opens:%H:%M}", f"{closes:%H:%M}"] for day, (opens, closes) in sorted(hours.items())}


def check_time_zone(name: str) -> str:
    """Raises: UnknownId if no clock goes by this name."""
    if name not in available_timezones():
        raise UnknownId(message("practice-there-no-time-zone-choose", name=name), where="time_zone")
    return ZoneInfo(name).key


def check_schools(ids: Sequence[str], known: Sequence[str] | None = None) -> list[str]:
    """Raises: UnknownId naming a way of working that does not exist."""
    schools = known if known is not None else list(shipped().schools)
    for id in ids:
        if id not in schools:
            raise UnknownId(message("practice-there-no-school", id=id), where="schools")
    return list(dict.fromkeys(ids))


@dataclass(frozen=True)
class FirstPractitioner:
    """Who sets a practice up, and how they work: columns of the practitioner by name."""

    name: str
    email: str
    password: str
    fingers: Fingers | None
    works: Mapping[str, object]


def set_up(token: str, said: Mapping[str, str], first: FirstPractitioner) -> access.Account:
    """Make the practice that a set-up link is for, with its first practitioner, an owner; all of it or nothing.

    `said`: name, time_zone, local_rules, emergency. Raises: LinkSpent; CoreError naming what cannot be.
    """
    with transaction() as db:
        link = links.spend(db, token, now())
        if link is None or link.kind != "set_up":
            raise LinkSpent(SPENT, where="token")
        check_new_password(first.password, first.email)
        practice = access.add_practice(db, said["name"], check_time_zone(said["time_zone"]), link.practice_id)
        practice.local_rules, practice.emergency = said["local_rules"], said["emergency"]
        row = access.add_practitioner(db, practice.id, first.name, first.email, first.password, "owner")
        if first.fingers is not None:
            row.fingers = first.fingers.model_dump(exclude_none=True)
        for name, value in first.works.items():
            setattr(row, name, value)
        db.flush()
        db.add(AuditRow(practice_id=practice.id, practitioner_id=row.id, action="practice set up"))
        return access.Account(row.id, practice.id, row.password_hash or "")


def add_place(here: Here, name: str, address: str) -> PlaceRow:
    """A place where people are treated. Raises: Conflict if there is one by this name."""
    if any(place.name.lower() == name.lower() for place in booking.places(here.db)):
        raise Conflict(message("practice-there-already-place-called", name=name), where="name")
    row = PlaceRow(id=uuid.uuid4(), practice_id=here.practice_id, name=name, address=address, version=1)
    here.db.add(row)
    here.db.flush()
    here.audit(None, f"place {name} added")
    return row


def change_place(
    here: Here, place_id: uuid.UUID, version: int, name: str | None, address: str | None, archived: bool | None
) -> PlaceRow:
    """Rename a place, or put it away: it stays with the visits that were there. Raises: NotFound, Conflict."""
    row = booking.place(here.db, place_id)
    check_version(row, version, "This place")
    others = [place.name.lower() for place in booking.places(here.db) if place.id != row.id]
    if name is not None and name.lower() in others:
        raise Conflict(message("practice-there-already-place-called", name=name), where="name")
    row.name, row.address = name or row.name, row.address if address is None else address
    if archived is not None:
        row.archived_at = now() if archived else None
    here.db.flush()
    here.audit(None, f"place {row.name} changed")
    return row


def require_second_factor(here: Here, wanted: bool) -> None:
    """Ask everybody here for a second factor, or no longer. Whoever asks it of others has one.

    Raises: CoreError where the owner who asks has none.
    """
    if wanted and here.practitioner.totp_since is None:
        raise CoreError(message("practice-set-up-two-step-verification"), where="second_factor_required")
    here.practice.second_factor_required = wanted
