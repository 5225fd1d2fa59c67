"""Sign-in and sign-out, and what every other request needs: the session cookie, and the CSRF value for a change."""

import base64
import secrets
import uuid
from collections.abc import AsyncIterator
from datetime import datetime, timedelta
from typing import Annotated, Literal
from urllib.parse import urlsplit

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from fastapi.concurrency import contextmanager_in_threadpool
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.concurrency import database_turn, password_turn
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import Line
from acuthesis.core.body.person import Fingers
from acuthesis.core.errors import CoreError
from acuthesis.core.message import message
from acuthesis.core.safety.pressure import PressureTable, calibrated
from acuthesis.services.practice import notices
from acuthesis.services.practice.practice import check_schools
from acuthesis.services.practice.sign_in import check_pin, checked, device_words
from acuthesis.services.request.clock import now
from acuthesis.services.request.columns import fingers_of, scale_of
from acuthesis.services.request.errors import Covered, SignedOut
from acuthesis.services.request.here import Here
from acuthesis.services.request.roles import POWERS, Power, Role
from acuthesis.services.request.session_check import SESSION_COOKIES
from acuthesis.services.visit.treatment import hand_changed
from acuthesis.settings import settings
from acuthesis.store import access
from acuthesis.store.database import Db, transaction
from acuthesis.store.model import PracticeRow, PractitionerRow

DEVICE_KEY_HOLDS = timedelta(hours=14)
SAFE_METHODS = ("GET", "HEAD", "OPTIONS")
DEVICE_COOKIE, DEVICE_KNOWN_S = "acuthesis_device", 400 * 24 * 3600  # browsers forget any cookie after 400 days

router = APIRouter(route_class=StrictRoute, tags=["access"])


def cookie_name() -> str:
    """Name of the session's cookie. Over https its prefix has the browser refuse it from anywhere but this host."""
    plain, over_https = SESSION_COOKIES
    return over_https if settings().https else plain


async def database(_: Annotated[None, Depends(database_turn, scope="function")]) -> AsyncIterator[Db]:
    """One transaction a request; it ends before the answer is sent, so that an answer is never ahead of the data.

    The request has had its turn by then, so a connection is free for it.
    """
    async with contextmanager_in_threadpool(transaction()) as db:
        yield db


Database = Annotated[Db, Depends(database, scope="function")]


async def same_origin(request: Request) -> None:
    """Refuse writes that another site sends. Raises: HTTPException 403."""
    origin = request.headers.get("origin")
    if request.method not in SAFE_METHODS and origin and urlsplit(origin).netloc != request.headers.get("host"):
        raise HTTPException(403, message("request-from-another-site"))


def session(request: Request, db: Database) -> Here:
    """Whoever is signed in, also at a locked screen. Raises: HTTPException 401 without session, 403 without CSRF."""
    token = request.cookies.get(cookie_name())
    # What a page asks for on its own, at intervals, does not keep a session from ending when idle.
    acts = request.headers.get("x-background") is None and not request.url.path.endswith("/live")
    found = access.find_session(db, token, now(), acts) if token else None
    if found is None:
        raise HTTPException(401, message("session-ended"))
    opened, practitioner, practice = found
    sent = request.headers.get("x-csrf", "")
    if request.method not in SAFE_METHODS and not secrets.compare_digest(sent.encode(), opened.csrf.encode()):
        raise HTTPException(403, message("page-out-of-date"))
    return Here(db, practitioner, practice, opened, address_of(request))


OpenSession = Annotated[Here, Depends(session)]


def here(found: OpenSession) -> Here:
    """Whoever is signed in, whatever their role, at a screen that is not locked. Raises: Covered."""
    if found.browser.covered_at is not None:
        raise Covered(message("access-screen-locked-unlock-continue"))
    return found


Anybody = Annotated[Here, Depends(here)]


async def _signed_in(request: Request, here: Anybody) -> Here:
    here.require("read_health" if request.method in SAFE_METHODS else "write_health")
    return here


async def _booking(request: Request, here: Anybody) -> Here:
    if request.method not in SAFE_METHODS or "read_health" not in POWERS[here.role]:
        here.require("book")
    elif here.must_enrol:
        here.require("read_health")
    return here


async def _owner(here: Anybody) -> Here:
    here.require("manage")
    return here


# What an endpoint asks of whoever calls it. Health records are the rule: reading to read, writing for anything else.
SignedIn = Annotated[Here, Depends(_signed_in)]
Booking = Annotated[Here, Depends(_booking)]  # appointments and names: also whoever only reads may look
Owner = Annotated[Here, Depends(_owner)]
Password = Annotated[str, Field(min_length=1, max_length=200)]
Pin = Annotated[str, Field(pattern=r"^\d{4,12}$")]
NameLanguage = Literal["english", "romanised", "characters"]


class Credentials(BaseModel):
    """Email and password."""

    model_config = ConfigDict(extra="forbid")

    email: Line
    password: Password
    code: Line | None = None  # of the second factor


class Unlock(BaseModel):
    """What unlocks a screen: the password, or the PIN of whoever is signed in."""

    model_config = ConfigDict(extra="forbid")

    password: Password | None = None
    pin: Pin | None = None


class SessionState(BaseModel):
    """What a page may know of its session while the screen is locked."""

    name: str
    covered: bool
    has_pin: bool
    csrf: str


class Me(BaseModel):
    """The signed-in practitioner, and the CSRF value that writes must carry in `X-CSRF`.

    `device_key` (32 bytes, base64) seals what waits on this practitioner's devices.
    """

    id: uuid.UUID
    name: str
    email: str
    practice: str
    time_zone: str
    local_rules: str
    emergency: str  # whom to call where they work
    quick_words: list[str]  # notes that are taken in one touch while treating
    role: Role
    powers: list[Power]
    second_factor: bool
    must_enrol: bool  # the practice asks for a second factor, and there is none yet: nothing else is answered
    schools: list[str]  # that they begin with; none: all
    usual_minutes: int
    name_languages: list[NameLanguage]
    calendar: bool  # whether there is a feed of their appointments
    calendar_names: bool
    fingers: Fingers
    scale_g: dict[int, float]  # by level: what a kitchen scale showed under their thumb
    pressure: PressureTable  # their levels
    theme: Literal["auto", "light", "dim"]
    lock_minutes: int
    device_key: str
    device_key_until: datetime  # what a device keeps can be read until then: the end of the practice's day
    has_pin: bool
    csrf: str


class MyChange(BaseModel):
    """What a practitioner may change about themselves."""

    model_config = ConfigDict(extra="forbid")

    name: Line | None = None
    schools: Annotated[list[str], Field(max_length=20)] | None = None
    usual_minutes: Annotated[int, Field(ge=3, le=240)] | None = None
    name_languages: Annotated[list[NameLanguage], Field(min_length=1, max_length=3)] | None = None
    calendar_names: bool | None = None
    fingers: Fingers | None = None
    scale_g: dict[int, Annotated[float, Field(allow_inf_nan=False)]] | None = None
    theme: Literal["auto", "light", "dim"] | None = None
    lock_minutes: Annotated[int, Field(ge=1, le=120)] | None = None


def me_of(practice: PracticeRow, row: PractitionerRow, csrf: str, must_enrol: bool, until: datetime) -> Me:
    """Whoever is signed in, as the API gives them."""
    role: Role = row.role  # type: ignore[assignment]  # the database checks it
    return Me(
        id=row.id,
        name=row.name,
        email=row.email or "",
        role=role,
        powers=sorted(POWERS[role]),
        must_enrol=must_enrol,
        second_factor=row.totp_since is not None,
        practice=practice.name,
        time_zone=practice.time_zone,
        local_rules=practice.local_rules,
        emergency=practice.emergency,
        quick_words=practice.quick_words,
        fingers=fingers_of(row.fingers),
        scale_g=scale_of(row),
        pressure=calibrated(scale_of(row)),
        theme=row.theme,
        lock_minutes=row.lock_minutes,
        schools=row.schools,
        usual_minutes=row.usual_minutes,
        name_languages=row.name_languages,
        calendar=row.calendar_hash is not None,
        calendar_names=row.calendar_names,
        device_key=base64.b64encode(row.device_key).decode(),
        device_key_until=until,
        has_pin=row.pin_hash is not None,
        csrf=csrf,
    )


def my_account(here: Here) -> Me:
    """Whoever is signed in, in their session."""
    _, midnight = here.day_bounds(here.today)
    until = min(midnight, now() + DEVICE_KEY_HOLDS)
    return me_of(here.practice, here.practitioner, here.browser.csrf, here.must_enrol, until)


def address_of(request: Request) -> str:
    """Where a request comes from, for the limits on trying."""
    return request.client.host if request.client else ""


def let_in(found: access.Account, request: Request, response: Response) -> Me:
    """Open a session for an account in this browser. A browser that the account was never used in is told of."""
    known = request.cookies.get(DEVICE_COOKIE, "")
    with transaction(found.practice_id) as db:
        row = access.practitioner(db, found.practitioner_id)
        device = device_words(request.headers.get("user-agent", ""))
        opened = access.open_session(db, row, now(), settings().session_hours, device, address_of(request))
        if not row.device_key:  # encrypted with a key that is not here: what devices sealed with it cannot be read
            row.device_key = secrets.token_bytes(32)
        token, is_new = access.recognise_device(db, row, known, device, now())
        if is_new:
            notices.add(db, row, "new_device", opened.row)
        me = my_account(Here(db, row, db.get_one(PracticeRow, found.practice_id), opened.row))
    response.set_cookie(
        cookie_name(),
        opened.token,
        max_age=settings().session_hours * 3600,
        httponly=True,
        samesite="strict",
        secure=settings().https,
        path="/",
    )
    response.set_cookie(
        DEVICE_COOKIE,
        token,
        max_age=DEVICE_KNOWN_S,
        httponly=True,
        samesite="strict",
        secure=settings().https,
        path="/api/",
    )
    return me


# For endpoints that check or make a password, and for those that open their transactions themselves.
HASHES = [Depends(password_turn, scope="function")]
OWN_TRANSACTION = [Depends(database_turn, scope="function")]
SIGNS_IN = [*HASHES, *OWN_TRANSACTION, Depends(same_origin)]


@router.post("/sign-in", dependencies=SIGNS_IN)
def sign_in(credentials: Credentials, request: Request, response: Response) -> Me:
    """Sign in, with a code where the account has a second factor (`second_factor` says that it is missing).

    After several wrong passwords tries from the same place have to wait some minutes.
    """
    email = credentials.email.strip().lower()
    found = checked(email, credentials.password, credentials.code, address_of(request), "signed in")
    return let_in(found, request, response)


@router.get("/session")
def read_session(here: OpenSession) -> SessionState:
    """Whether the screen is locked, and how it can be unlocked."""
    row = here.practitioner
    covered = here.browser.covered_at is not None
    return SessionState(name=row.name, covered=covered, has_pin=row.pin_hash is not None, csrf=here.browser.csrf)


@router.post("/cover", status_code=204)
def cover(here: OpenSession) -> None:
    """Lock the screen: from here on the session reads and writes nothing until it is unlocked."""
    if here.browser.covered_at is None:
        here.browser.covered_at = now()
        here.audit(None, "screen locked")


@router.post("/unlock", dependencies=HASHES)
def unlock(wanted: Unlock, here: OpenSession, request: Request) -> Me:
    """Unlock the screen with the password or the PIN of whoever is signed in, with the limits of signing in."""
    opened = here.browser.id
    if wanted.pin is not None:
        check_pin(here, wanted.pin, address_of(request))
    elif wanted.password is not None:
        confirm_password(here, wanted.password, request, "unlocked")
    else:
        raise CoreError(message("access-enter-password-or-pin"), where="password")
    access.uncover(here.db, opened)
    return my_account(here)


def confirm_password(here: Here, password: str, request: Request, action: str) -> None:
    """The password of whoever is signed in, with the limits of signing in. Raises: CoreError where it is wrong.

    The transaction so far ends.
    """
    email = here.practitioner.email or ""
    here.release()
    try:
        checked(email, password, None, address_of(request), action)
    except SignedOut as error:
        # 401 would mean that the session has ended.
        raise CoreError(message("access-incorrect-password"), where="password") from error


@router.post("/sign-out", status_code=204, dependencies=[Depends(same_origin)])
def sign_out(here: OpenSession, request: Request, response: Response) -> None:
    """Sign this browser out."""
    here.audit(None, "signed out")
    access.close_session(here.db, request.cookies[cookie_name()])
    response.delete_cookie(cookie_name(), path="/", secure=settings().https, httponly=True, samesite="strict")


@router.get("/me")
def me(here: Anybody) -> Me:
    """Who is signed in."""
    return my_account(here)


@router.patch("/me")
def change_me(change: MyChange, here: Anybody) -> Me:
    """Change what is one's own: name, hand, levels off a scale, display, cover, how one works, calendar."""
    row = here.practitioner
    if change.scale_g is not None:
        calibrated(change.scale_g)  # refuses what no thumb gives
        row.scale_g = {str(level): grams for level, grams in sorted(change.scale_g.items())}
    if change.fingers is not None:
        row.fingers = change.fingers.model_dump(exclude_none=True)
    if change.schools is not None:
        row.schools = check_schools(change.schools, list(here.knowledge.schools))
    for name in ("name", "theme", "lock_minutes", "usual_minutes", "name_languages", "calendar_names"):
        value = getattr(change, name)
        if value is not None:
            setattr(row, name, value)
    here.db.flush()
    if change.scale_g is not None:
        hand_changed(here)
    return me(here)
