"""The person's own screen during a treatment: opened by a short code, ended with the treatment.

It shows a breath and takes a number, "lighter" and "stop". Nothing of the record is on it: no name, no place, nothing
that was said before.
"""

import secrets
import uuid
from datetime import datetime, timedelta
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.message import message
from acuthesis.core.treat.events import EventBody, Reacted, SetLevel, Soreness
from acuthesis.core.treat.moment import LiveMoment, moment, sided
from acuthesis.core.treat.state import OVER
from acuthesis.services.practice.sign_in import TOO_MANY
from acuthesis.services.request.clock import now
from acuthesis.services.request.errors import SayEnded, TooManyTries
from acuthesis.services.request.here import Here
from acuthesis.services.visit import treatment
from acuthesis.store import access, treatments, visits
from acuthesis.store import own_say as store
from acuthesis.store.database import Db, transaction
from acuthesis.store.links import token_hash
from acuthesis.store.model import OwnSayRow, PracticeRow

CODE_HOLDS = timedelta(minutes=15)
LETTERS = 8
ALPHABET = "23456789ABCDEFGHJKMNPQRSTVWXYZ"  # without those that are taken for each other; 30^8 is 6.6 · 10^11
# Tries of one address: enough for everybody on a practice's network, and far too few to find a code. Strangers at other
# addresses cannot use them up.
LIMITS = access.TryLimits(of_name_here=60, of_address=60, of_name_elsewhere=10**9)
GONE = message("person-screen-screen-ended-ask-your-practitioner")
WRONG = message("person-screen-code-not-recognised-mistyped-already")


class OwnSay(BaseModel):
    """The screen of a person at a treatment: whether they have joined, or until when the code lets them in."""

    joined: bool
    until: datetime | None


class ToldHere(BaseModel):
    """What the person says: how sore it is (0 to 10), less, or stop. The id comes from their device."""

    model_config = ConfigDict(extra="forbid")

    id: uuid.UUID
    says: Literal["sore", "lighter", "stop"]
    value: int | None = Field(None, ge=0, le=10)


def offer(here: Here, visit_id: uuid.UUID) -> tuple[str, datetime]:
    """A new code for a treatment that is under way, and until when it lets in; the screen before it ends.

    The code is kept nowhere. Raises: NotFound; NotAllowed where nothing is under way.
    """
    row = visits.visit(here.db, visit_id, lock=True)
    if row.treatment != "open":
        raise NotAllowed(message("person-screen-screen-person-available-only-during"), where="visit_id")
    store.end(here.db, row.id, now())
    code = next(one for one in iter(_code, "") if store.is_free(here.db, one))
    until = now() + CODE_HOLDS
    here.db.add(
        OwnSayRow(
            id=uuid.uuid4(),
            practice_id=row.practice_id,
            person_id=row.person_id,
            visit_id=row.id,
            code_hash=token_hash(code),
            code_until=until,
            made_by=here.practitioner.id,
            made_at=now(),
        )
    )
    here.audit(row.person_id, "person's screen opened")
    here.db.flush()
    return code, until


def _code() -> str:
    return "".join(secrets.choice(ALPHABET) for _ in range(LETTERS))


def as_typed(code: str) -> str:
    """A code as it was made, from how somebody typed it: in small letters or in groups.

    >>> as_typed(" k7qf-2mxp ")
    'K7QF2MXP'
    """
    return "".join(letter for letter in code.upper() if letter.isalnum())


def standing(here: Here, visit_id: uuid.UUID) -> OwnSay:
    """Whether the person has a screen at this treatment. Raises: NotFound."""
    row = visits.visit(here.db, visit_id)
    here.reads(row.person_id, "person's screen")
    found = store.of_visit(here.db, row.id)
    waits = found is not None and found.opened_at is None and found.code_until > now()
    return OwnSay(
        joined=found is not None and found.opened_at is not None and row.treatment == "open",
        until=found.code_until if found is not None and waits else None,
    )


def end(here: Here, visit_id: uuid.UUID) -> OwnSay:
    """End the person's screen at once. Raises: NotFound."""
    row = visits.visit(here.db, visit_id)
    store.end(here.db, row.id, now())
    here.audit(row.person_id, "person's screen closed")
    return OwnSay(joined=False, until=None)


def open_screen(code: str, address: str) -> str:
    """Let a device in by the code, which works once. Returns the key that it says everything with from then on.

    Failed tries are limited as at signing in, whatever code is tried. Raises: TooManyTries; SayEnded.
    """
    with transaction() as db:
        counted = access.count_try(db, f"code at {address}", f"codes from {address}", LIMITS, now())
        if counted is None:
            raise TooManyTries(TOO_MANY, where="code")
    key = ""
    with transaction() as db:
        row = store.of_code(db, code)
        if row is not None and row.code_until > now() and row.opened_at is None and row.ended_at is None:
            key = f"{row.practice_id.hex}.{secrets.token_urlsafe(32)}"
            row.code_hash, row.key_hash, row.opened_at = None, token_hash(key), now()
    if not key:
        raise SayEnded(WRONG, where="code")
    with transaction() as db:
        access.take_back_try(db, counted)
    return key


def beside(db: Db, key: str) -> tuple[Here, OwnSayRow]:
    """The practice as a person's screen sees it: nobody is signed in, and one treatment is spoken of.

    Raises: SayEnded for a key that opens nothing (any more).
    """
    row = store.of_key(db, key)
    if row is None or row.ended_at is not None:
        raise SayEnded(GONE)
    return Here(db, access.practitioner(db, row.made_by), db.get_one(PracticeRow, row.practice_id)), row


def shown(here: Here, row: OwnSayRow) -> LiveMoment:
    """What the person's screen shows. A treatment that is over ends it: that is told once."""
    state = treatments.treatment(here.db, row.visit_id)
    if state.status in OVER:
        row.ended_at, row.code_hash = now(), None
    return moment(state, now())


def say(here: Here, row: OwnSayRow, told: ToldHere) -> LiveMoment:
    """What the person says goes into the treatment as theirs. Said again with its id it counts once.

    Raises: CoreError for a number that is missing, or one said of nothing.
    """
    state = treatments.treatment(here.db, row.visit_id)
    at = now()
    stamp: dict[str, Any] = {"id": told.id, "at": at, "hands": 0, "by": "person", "key": state.current}
    event: EventBody
    if told.says == "stop":
        event = Reacted(**stamp, reaction="asks_to_stop")
    elif state.current is None:
        raise CoreError(message("person-screen-no-stop-started-yet"), where="says")
    elif told.says == "lighter":
        event = SetLevel(**stamp, level=max(state.records[state.current].level - 1, 1))
    elif told.value is None:
        raise CoreError(message("person-screen-how-sore-from"), where="value")
    else:
        event = Soreness(**stamp, value=told.value, side=sided(state, at))
    treatment.save_events(here, row.visit_id, [event], None)
    return shown(here, row)
