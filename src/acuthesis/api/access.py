"""Signing in and out, and what every other request must bring: the session cookie, and the CSRF value to write."""

import secrets
import uuid
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Annotated, Literal
from urllib.parse import urlsplit

from fastapi import APIRouter, Cookie, Depends, Header, HTTPException, Request, Response
from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy.orm import Session

from acuthesis.api.text import Line
from acuthesis.core.body.person import Fingers
from acuthesis.core.safety.pressure import PressureTable, calibrated
from acuthesis.settings import settings
from acuthesis.store import access
from acuthesis.store.database import see_practice, transaction
from acuthesis.store.model import PracticeRow, PractitionerRow
from acuthesis.store.people import fingers_of, scale_of

COOKIE = "acuthesis_session"
SAFE_METHODS = ("GET", "HEAD", "OPTIONS")

router = APIRouter(tags=["access"])


def now() -> datetime:
    """The server's clock, the only one that counts for what is kept."""
    return datetime.now(UTC)


def database() -> Iterator[Session]:
    """One transaction a request; it ends before the answer is sent, so that an answer is never ahead of the data."""
    with transaction() as session:
        yield session


Database = Annotated[Session, Depends(database, scope="function")]


@dataclass(frozen=True)
class Here:
    """Who asks, in which practice, in which transaction."""

    session: Session
    practitioner: PractitionerRow

    @property
    def practice_id(self) -> uuid.UUID:
        """The practice that everything in this request belongs to."""
        return self.practitioner.practice_id


def same_origin(request: Request) -> None:
    """Refuse writes that another site sends. Raises: HTTPException 403."""
    origin = request.headers.get("origin")
    if request.method not in SAFE_METHODS and origin and urlsplit(origin).netloc != request.headers.get("host"):
        raise HTTPException(403, "This request comes from another site.")


def here(
    request: Request,
    session: Database,
    acuthesis_session: Annotated[str | None, Cookie(include_in_schema=False)] = None,
    x_csrf: Annotated[str | None, Header(include_in_schema=False)] = None,
) -> Here:
    """The signed-in practitioner. Raises: HTTPException 401 without a session, 403 for a write without CSRF value."""
    found = access.find_session(session, acuthesis_session, now()) if acuthesis_session else None
    if found is None:
        raise HTTPException(401, "Your session has ended. Sign in again; what you entered is still here.")
    opened, practitioner = found
    if request.method not in SAFE_METHODS and not secrets.compare_digest((x_csrf or "").encode(), opened.csrf.encode()):
        raise HTTPException(403, "The page is out of date. Load it again.")
    see_practice(session, practitioner.practice_id)
    return Here(session, practitioner)


SignedIn = Annotated[Here, Depends(here)]


class Credentials(BaseModel):
    """Name and password."""

    model_config = ConfigDict(extra="forbid")

    email: Line
    password: str = Field(min_length=1, max_length=200)


class Me(BaseModel):
    """The signed-in practitioner, and the CSRF value that writes must carry in `X-CSRF`."""

    name: str
    email: str
    practice: str
    local_rules: str
    fingers: Fingers
    scale_g: dict[int, float]  # by level: what a kitchen scale showed under their thumb
    pressure: PressureTable  # their levels
    theme: Literal["auto", "light", "dim"]
    csrf: str


class MyChange(BaseModel):
    """What a practitioner may change about themselves."""

    model_config = ConfigDict(extra="forbid")

    fingers: Fingers | None = None
    scale_g: dict[int, Annotated[float, Field(allow_inf_nan=False)]] | None = None
    theme: Literal["auto", "light", "dim"] | None = None


def _me(session: Session, row: PractitionerRow, csrf: str) -> Me:
    practice = session.get_one(PracticeRow, row.practice_id)
    return Me(
        name=row.name,
        email=row.email,
        practice=practice.name,
        local_rules=practice.local_rules,
        fingers=fingers_of(row.fingers),
        scale_g=scale_of(row),
        pressure=calibrated(scale_of(row)),
        theme=row.theme,
        csrf=csrf,
    )


@router.post("/sign-in", dependencies=[Depends(same_origin)])
def sign_in(credentials: Credentials, response: Response) -> Me:
    """Sign in. After several wrong passwords a name has to wait some minutes."""
    here_settings = settings()
    key = credentials.email.strip().lower()[:200]
    window = timedelta(seconds=here_settings.sign_in_window_s)
    with transaction() as session:
        if access.too_many_tries(session, key, here_settings.sign_in_tries, window, now()):
            raise HTTPException(429, "Too many tries. Wait five minutes, then try again.")
        row = access.check_password(session, key, credentials.password)
        if row is None:
            access.note_failed_try(session, key)
    # The failed try is kept by a transaction of its own, which the refusal must not undo.
    if row is None:
        raise HTTPException(401, "Name and password do not fit together.")
    with transaction() as session:
        opened = access.open_session(session, row, now(), here_settings.session_hours)
        me = _me(session, row, opened.csrf)
    response.set_cookie(
        COOKIE,
        opened.token,
        max_age=here_settings.session_hours * 3600,
        httponly=True,
        samesite="strict",
        secure=here_settings.secure_cookie,
        path="/",
    )
    return me


@router.post("/sign-out", status_code=204, dependencies=[Depends(same_origin)])
def sign_out(here: SignedIn, request: Request, response: Response) -> None:
    """Sign this browser out."""
    access.close_session(here.session, request.cookies[COOKIE])
    response.delete_cookie(COOKIE, path="/")


@router.get("/me")
def me(here: SignedIn, request: Request) -> Me:
    """Who is signed in."""
    found = access.find_session(here.session, request.cookies[COOKIE], now())
    assert found is not None  # `here` has just found it
    return _me(here.session, here.practitioner, found[0].csrf)


@router.patch("/me")
def change_me(change: MyChange, here: SignedIn, request: Request) -> Me:
    """Change finger widths, the levels as read off a scale, or the display."""
    row = here.practitioner
    if change.scale_g is not None:
        calibrated(change.scale_g)  # refuses what no thumb gives
        row.scale_g = {str(level): grams for level, grams in sorted(change.scale_g.items())}
    if change.fingers is not None:
        row.fingers = change.fingers.model_dump(exclude_none=True)
    if change.theme is not None:
        row.theme = change.theme
    here.session.flush()
    return me(here, request)
