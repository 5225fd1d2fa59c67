"""The diary on a person's own device: opened by a one-time code, what it asks, and entries from it."""

import uuid
from datetime import date

from pydantic import BaseModel

from acuthesis.core.compose.home.plan import HomePlan
from acuthesis.core.errors import CoreError, UnknownId
from acuthesis.core.follow.diary import (
    Asks,
    HomeWarning,
    warnings_at_home,
)
from acuthesis.core.message import message
from acuthesis.exchange.home_calendar import diary_calendar
from acuthesis.services.between import home_plan
from acuthesis.services.request.clock import now
from acuthesis.services.request.errors import DiaryEnded
from acuthesis.services.request.here import Here
from acuthesis.store import access
from acuthesis.store import home as store
from acuthesis.store.database import Db, transaction
from acuthesis.store.links import token_hash
from acuthesis.store.model import (
    ComplaintRow,
    DiaryRow,
    PracticeRow,
)

GONE = message("diary-diary-ended-or-link-already")


class AskedActivity(BaseModel):
    """Something that is hindered, to be rated."""

    id: uuid.UUID
    words: str


class AskedComplaint(BaseModel):
    """A complaint that is rated at home: its name, and whether its acts and episodes are asked for."""

    id: uuid.UUID
    name: str
    acts: list[AskedActivity]
    episodes: bool


class DiaryShown(BaseModel):
    """All that a person is shown: what they are asked, what they press, whom to call. Nothing of what they told."""

    practice: str
    given_name: str
    until: date
    today: date
    emergency: str
    complaints: list[AskedComplaint]
    sleep: bool
    medicine: bool
    hours: list[str]
    warnings: list[HomeWarning]
    plan: HomePlan | None
    plan_first_day: date | None
    plan_hours: list[str]
    breaths_per_minute: float


CALM_BREATHS = 6.0  # a minute, for somebody whose own were not measured; source: slow breathing as it is taught


def open_with(code: str, key: str) -> None:
    """Let a device in: the code works once, and from then on the key that the device made itself.

    Sent again by the same device (the answer was lost) it is as good as the first time. Raises: DiaryEnded.
    """
    with transaction() as db:
        row = store.of_code(db, code)
        if row is None or not key.startswith(f"{row.practice_id.hex}."):
            raise DiaryEnded(GONE, where="code")
        if row.key_hash == token_hash(key):
            return
        if row.key_hash is not None or row.code_until < now() or row.ended_at is not None:
            raise DiaryEnded(GONE, where="code")
        row.key_hash, row.opened_at = token_hash(key), now()


def at_home(db: Db, key: str) -> tuple[Here, DiaryRow]:
    """The practice as a device at home sees it: nobody is signed in, and one person is spoken of.

    Raises: DiaryEnded for a key that opens nothing (any more).
    """
    row = store.of_key(db, key)
    if row is None:
        raise DiaryEnded(GONE)
    here = Here(db, access.practitioner(db, row.made_by), db.get_one(PracticeRow, row.practice_id))
    if row.ended_at is not None or row.until < here.today:
        raise DiaryEnded(GONE)
    if here.person(row.person_id).row.archived_at is not None:
        raise DiaryEnded(GONE)
    return here, row


def shown(here: Here, row: DiaryRow) -> DiaryShown:
    """What the person is shown."""
    known, asks = here.person(row.person_id), Asks.model_validate(row.asks)
    plan = store.newest_plan(here.db, known.id)
    if plan is not None and not plan.first_day <= here.today <= plan.until:
        plan = None
    asked = [complaint for complaint in known.open_complaints if complaint.id in asks.complaints]
    kinds = [here.knowledge.complaints[one.kind] for one in asked if one.kind in here.knowledge.complaints]
    return DiaryShown(
        practice=here.practice.name,
        given_name=known.row.given_name,
        until=row.until,
        today=here.today,
        emergency=here.practice.emergency,
        complaints=[_asked(here, one, asks) for one in asked],
        sleep=asks.sleep,
        medicine=asks.medicine,
        hours=list(asks.hours),
        warnings=warnings_at_home(kinds),
        plan=None
        if plan is None
        else home_plan.still_allowed(here, known.id, HomePlan.model_validate({**plan.plan, "others": []})),
        plan_first_day=plan.first_day if plan else None,
        plan_hours=plan.hours if plan else [],
        breaths_per_minute=min(known.row.breaths_per_minute or CALM_BREATHS, CALM_BREATHS),
    )


def _asked(here: Here, row: ComplaintRow, asks: Asks) -> AskedComplaint:
    side = f", {row.side}" if row.side in ("left", "right") else ""
    acts = [AskedActivity(id=uuid.UUID(act["id"]), words=act["words"]) for act in row.acts] if asks.acts else []
    name = here.knowledge.name_of(row.kind) + side
    return AskedComplaint(id=row.id, name=name, acts=acts, episodes=row.id in asks.episodes)


def drawing(here: Here, row: DiaryRow, id: str) -> str:
    """The drawing (SVG) of a place of the plan on the person's own figure. Raises: UnknownId for any other place."""
    plan = store.newest_plan(here.db, row.person_id)
    places = HomePlan.model_validate(plan.plan).places if plan else ()
    place = next((one for one in places if one.id == id), None)
    if place is None:
        raise UnknownId(message("diary-point-not-home-plan"), where="id")
    assert here.person(row.person_id).facts
    assert here.own is not None
    here.release()
    return home_plan.drawn_at_home(here, row.person_id, place).svg


def reminders(here: Here, row: DiaryRow, address: str) -> bytes:
    """Reminders as a calendar file. Raises: CoreError where no hours were agreed."""
    asks = Asks.model_validate(row.asks)
    if not asks.hours:
        raise CoreError(message("diary-no-hours-were-agreed-diary"), where="hours")
    return diary_calendar(row.id, here.practice.name, address, asks.hours, row.until, row.made_at)
