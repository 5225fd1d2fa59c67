"""Signing in and out, and what every other request must bring: the session cookie, and the CSRF value to write."""

import base64
import secrets
import uuid
from collections.abc import Iterator
from typing import Annotated, Literal
from urllib.parse import urlsplit

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy.orm import Session

from acuthesis.api.door import StrictRoute
from acuthesis.api.text import Line
from acuthesis.core.body.person import Fingers
from acuthesis.core.safety.pressure import PressureTable, calibrated
from acuthesis.services.here import Here, now
from acuthesis.services.treating import hand_changed
from acuthesis.settings import settings
from acuthesis.store import access
from acuthesis.store.database import see_practice, transaction
from acuthesis.store.model import AuditRow, PracticeRow, PractitionerRow
from acuthesis.store.people import fingers_of, scale_of

SAFE_METHODS = ("GET", "HEAD", "OPTIONS")
LIMITS = access.Limits()
TOO_MANY = "Too many tries. Wait five minutes, then try again."

router = APIRouter(route_class=StrictRoute, tags=["access"])


def cookie_name() -> str:
    """Name of the session's cookie. Over https its prefix has the browser refuse it from anywhere but this host."""
    return "__Host-acuthesis_session" if settings().https else "acuthesis_session"


def database() -> Iterator[Session]:
    """One transaction a request; it ends before the answer is sent, so that an answer is never ahead of the data."""
    with transaction() as session:
        yield session


Database = Annotated[Session, Depends(database, scope="function")]


def same_origin(request: Request) -> None:
    """Refuse writes that another site sends. Raises: HTTPException 403."""
    origin = request.headers.get("origin")
    if request.method not in SAFE_METHODS and origin and urlsplit(origin).netloc != request.headers.get("host"):
        raise HTTPException(403, "This request comes from another site.")


def here(request: Request, session: Database) -> Here:
    """The signed-in practitioner. Raises: HTTPException 401 without a session, 403 for a write without CSRF value."""
    token = request.cookies.get(cookie_name())
    found = access.find_session(session, token, now()) if token else None
    if found is None:
        raise HTTPException(401, "Your session has ended. Sign in again; what you entered is still here.")
    opened, practitioner, practice = found
    sent = request.headers.get("x-csrf", "")
    if request.method not in SAFE_METHODS and not secrets.compare_digest(sent.encode(), opened.csrf.encode()):
        raise HTTPException(403, "The page is out of date. Load it again.")
    return Here(session, practitioner, practice, opened)


SignedIn = Annotated[Here, Depends(here)]


class Credentials(BaseModel):
    """Email and password."""

    model_config = ConfigDict(extra="forbid")

    email: Line
    password: str = Field(min_length=1, max_length=200)


class Unlock(BaseModel):
    """The password once more, from a screen that was covered."""

    model_config = ConfigDict(extra="forbid")

    password: str = Field(min_length=1, max_length=200)


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
    fingers: Fingers
    scale_g: dict[int, float]  # by level: what a kitchen scale showed under their thumb
    pressure: PressureTable  # their levels
    theme: Literal["auto", "light", "dim"]
    lock_minutes: int
    device_key: str
    csrf: str


class MyChange(BaseModel):
    """What a practitioner may change about themselves."""

    model_config = ConfigDict(extra="forbid")

    fingers: Fingers | None = None
    scale_g: dict[int, Annotated[float, Field(allow_inf_nan=False)]] | None = None
    theme: Literal["auto", "light", "dim"] | None = None
    lock_minutes: Annotated[int, Field(ge=1, le=120)] | None = None


def _me(practice: PracticeRow, row: PractitionerRow, csrf: str) -> Me:
    return Me(
        id=row.id,
        name=row.name,
        email=row.email or "",
        practice=practice.name,
        time_zone=practice.time_zone,
        local_rules=practice.local_rules,
        fingers=fingers_of(row.fingers),
        scale_g=scale_of(row),
        pressure=calibrated(scale_of(row)),
        theme=row.theme,
        lock_minutes=row.lock_minutes,
        device_key=base64.b64encode(row.device_key).decode(),
        csrf=csrf,
    )


def _address(request: Request) -> str:
    return request.client.host if request.client else ""


def _checked(email: str, password: str, address: str, action: str) -> access.Account:
    """The account whose password this is. A failed try is kept by a transaction that its refusal cannot undo.

    Raises: HTTPException 429 where tries have to wait, 401 for a wrong name or password, which sound alike.
    """
    with transaction() as session:
        if access.too_many_tries(session, email, address, LIMITS, now()):
            raise HTTPException(429, TOO_MANY)
        found = access.account(session, email)
    # Outside a transaction: making an Argon2 hash takes long on purpose.
    right, renewed = access.is_password(found, password)
    with transaction() as session:
        access.note_try(session, email, address, right, LIMITS, now())
        if found is not None:
            see_practice(session, found.practice_id)
            said = action if right else f"{action} failed"
            session.add(AuditRow(practice_id=found.practice_id, practitioner_id=found.practitioner_id, action=said))
            if renewed is not None:
                access.practitioner(session, found.practitioner_id).password_hash = renewed
    if found is None or not right:
        raise HTTPException(401, "Incorrect email or password.")
    return found


@router.post("/sign-in", dependencies=[Depends(same_origin)])
def sign_in(credentials: Credentials, request: Request, response: Response) -> Me:
    """Sign in. After several wrong passwords tries from the same place have to wait some minutes."""
    email = credentials.email.strip().lower()
    found = _checked(email, credentials.password, _address(request), "signed in")
    with transaction(found.practice_id) as session:
        row = access.practitioner(session, found.practitioner_id)
        opened = access.open_session(session, row, now(), settings().session_hours)
        me = _me(session.get_one(PracticeRow, found.practice_id), row, opened.csrf)
    response.set_cookie(
        cookie_name(),
        opened.token,
        max_age=settings().session_hours * 3600,
        httponly=True,
        samesite="strict",
        secure=settings().https,
        path="/",
    )
    return me


@router.post("/unlock", status_code=204)
def unlock(wanted: Unlock, here: SignedIn, request: Request) -> None:
    """Uncover a screen that was left alone: the password of whoever is signed in, with the limits of signing in."""
    email = here.practitioner.email or ""
    here.release()
    try:
        _checked(email, wanted.password, _address(request), "unlocked")
    except HTTPException as error:
        if error.status_code != 401:
            raise
        raise HTTPException(422, "Incorrect password.") from error  # 401 would mean that the session has ended


@router.post("/sign-out", status_code=204, dependencies=[Depends(same_origin)])
def sign_out(here: SignedIn, request: Request, response: Response) -> None:
    """Sign this browser out."""
    here.audit(None, "signed out")
    access.close_session(here.session, request.cookies[cookie_name()])
    response.delete_cookie(cookie_name(), path="/", secure=settings().https, httponly=True, samesite="strict")


@router.get("/me")
def me(here: SignedIn) -> Me:
    """Who is signed in."""
    return _me(here.practice, here.practitioner, here.opened.csrf)


@router.patch("/me")
def change_me(change: MyChange, here: SignedIn) -> Me:
    """Change finger widths, the levels as read off a scale, the display, or when an idle screen is covered."""
    row = here.practitioner
    if change.scale_g is not None:
        calibrated(change.scale_g)  # refuses what no thumb gives
        row.scale_g = {str(level): grams for level, grams in sorted(change.scale_g.items())}
    if change.fingers is not None:
        row.fingers = change.fingers.model_dump(exclude_none=True)
    if change.theme is not None:
        row.theme = change.theme
    if change.lock_minutes is not None:
        row.lock_minutes = change.lock_minutes
    here.session.flush()
    if change.scale_g is not None:
        hand_changed(here)
    return me(here)
