"""The practitioner's own account: password, second factor, open sessions, calendar feed, leaving the practice."""

import secrets
import uuid
from datetime import datetime

import segno
from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, ConfigDict

from acuthesis.api.access import HASHES, Anybody, Password, Pin, confirm_password, cookie_name
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import Line
from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.message import message
from acuthesis.services.practice import notices, staff
from acuthesis.services.practice.notices import Notice
from acuthesis.services.practice.sign_in import (
    WRONG_CODE,
    authenticator_address,
    check_new_password,
    hash_of_code,
    is_second_factor,
    matching_step,
    new_recovery_codes,
    offered_secret,
    set_pin,
)
from acuthesis.services.request.clock import now
from acuthesis.settings import settings
from acuthesis.store import access, links
from acuthesis.store.people import NotFound

router = APIRouter(route_class=StrictRoute, tags=["account"])


class _In(BaseModel):
    model_config = ConfigDict(extra="forbid")


class NewPassword(_In):
    """The old password and the new one."""

    password: Password
    new_password: Password


class Confirmed(_In):
    """The password, for what should not happen to a screen that was left alone."""

    password: Password


class ConfirmedByCode(Confirmed):
    """The password, and a code from the authenticator or a recovery code."""

    code: Line


class NewPin(Confirmed):
    """The password, and a PIN of 4 to 12 digits; without one the PIN is removed."""

    pin: Pin | None = None


class Leaving(Confirmed):
    """Leaving the practice; `hand_over_to` takes one's people and appointments over."""

    hand_over_to: uuid.UUID | None = None


class Code(_In):
    """A code from the authenticator."""

    code: Line


class OpenSession(BaseModel):
    """A browser that is signed in. `here`: this one."""

    id: uuid.UUID
    device: str
    address: str
    since: datetime
    seen_at: datetime
    here: bool


class Offered(BaseModel):
    """A second factor to be confirmed: the secret, its address, and a QR code of it (SVG)."""

    secret: str
    address: str
    qr_svg: str


class RecoveryCodes(BaseModel):
    """Codes for the day on which the phone is lost; shown once, each counts once."""

    codes: list[str]


class Feed(BaseModel):
    """The token of a calendar feed, shown once: its address is /api/calendar/TOKEN.ics."""

    token: str


@router.post("/me/password", status_code=204, dependencies=HASHES)
def change_password(wanted: NewPassword, here: Anybody, request: Request) -> None:
    """Choose a new password. Every other browser is signed out."""
    check_new_password(wanted.new_password, here.practitioner.email or "")
    confirm_password(here, wanted.password, request, "password requested")
    row = access.practitioner(here.db, here.practitioner.id, lock=True)
    row.password_hash = access.PASSWORDS.hash(wanted.new_password)
    row.wrong_pins = 0
    access.end_sessions(here.db, row.id, but=here.browser.id)
    notices.add(here.db, row, "password_changed", here.browser)
    here.audit(None, "password changed")


@router.put("/me/pin", status_code=204, dependencies=HASHES)
def change_pin(wanted: NewPin, here: Anybody, request: Request) -> None:
    """Set or remove the PIN that unlocks the screen."""
    confirm_password(here, wanted.password, request, "PIN")
    set_pin(here, wanted.pin)


@router.get("/me/notices")
def list_notices(here: Anybody) -> list[Notice]:
    """What happened to one's account: new devices, changes of password and factors."""
    return notices.of(here)


@router.post("/me/notices/dismiss", status_code=204)
def dismiss_notices(here: Anybody) -> None:
    """One has seen them. What was done in this very session stays for the next one."""
    notices.dismiss(here)


@router.get("/me/sessions")
def list_sessions(here: Anybody) -> list[OpenSession]:
    """The browsers one is signed in with, the one used last first."""
    return [
        OpenSession(
            id=row.id,
            device=row.device,
            address=row.address,
            since=row.created_at,
            seen_at=row.seen_at,
            here=row.id == here.browser.id,
        )
        for row in access.sessions_of(here.db, here.practitioner.id, now())
    ]


@router.delete("/me/sessions/{session_id}", status_code=204)
def end_session(session_id: uuid.UUID, here: Anybody) -> None:
    """Sign one browser out."""
    if not access.end_sessions(here.db, here.practitioner.id, only=session_id):
        raise NotFound(message("account-there-no-such-open-session"), where="session_id")
    here.audit(None, "session ended")


@router.post("/me/sessions/end-others", status_code=204)
def end_other_sessions(here: Anybody) -> None:
    """Sign every other browser out."""
    access.end_sessions(here.db, here.practitioner.id, but=here.browser.id)
    here.audit(None, "other sessions ended")


@router.post("/me/second-factor", dependencies=HASHES)
def offer_second_factor(wanted: Confirmed, here: Anybody, request: Request) -> Offered:
    """A secret for an authenticator. It counts from the moment a code of it is confirmed."""
    confirm_password(here, wanted.password, request, "two-step verification requested")
    row = access.practitioner(here.db, here.practitioner.id, lock=True)
    if row.totp_since is not None:
        raise NotAllowed(message("account-two-step-verification-already-on"), where="second_factor")
    row.totp_secret = offered_secret()
    address = authenticator_address(row.totp_secret, row.email or "")
    code = segno.make(address, error="m").svg_inline(scale=5, border=3, light="#ffffff")
    return Offered(secret=row.totp_secret, address=address, qr_svg=code)


@router.post("/me/second-factor/confirm")
def confirm_second_factor(wanted: Code, here: Anybody) -> RecoveryCodes:
    """Confirm that the authenticator shows the right codes: from now on every sign-in asks for one."""
    row = access.practitioner(here.db, here.practitioner.id, lock=True)
    if row.totp_secret is None or row.totp_since is not None:
        raise NotAllowed(message("account-nothing-waiting-confirmed"), where="code")
    step = matching_step(row.totp_secret, wanted.code, now())
    if step is None:
        raise CoreError(message("account-code-is-wrong"), where="code")
    codes = new_recovery_codes()
    row.totp_since, row.totp_last_step = now(), step
    row.wrong_codes, row.codes_stopped_at = 0, None
    notices.add(here.db, row, "factor_on", here.browser)
    row.recovery_hashes = [hash_of_code(code) for code in codes]
    here.audit(None, "two-step verification turned on")
    return RecoveryCodes(codes=codes)


@router.post("/me/second-factor/off", status_code=204, dependencies=HASHES)
def remove_second_factor(wanted: ConfirmedByCode, here: Anybody, request: Request) -> None:
    """Turn two-step verification off, where the practice does not require it: with the password and a code of it."""
    if here.practice.second_factor_required:
        raise NotAllowed(message("account-practice-requires-two-step-verification"), where="second_factor")
    confirm_password(here, wanted.password, request, "turning off two-step verification")
    row = access.practitioner(here.db, here.practitioner.id, lock=True)
    if row.totp_since is not None and not is_second_factor(row, wanted.code):
        raise CoreError(WRONG_CODE, where="code")
    staff.remove_second_factor(row)
    notices.add(here.db, row, "factor_off", here.browser)
    here.audit(None, "two-step verification turned off")


@router.post("/me/calendar")
def make_calendar(here: Anybody) -> Feed:
    """A private feed of one's appointments; an earlier one ends."""
    here.require("book")
    token = f"{here.practice_id.hex}.{secrets.token_urlsafe(24)}"
    here.practitioner.calendar_hash = links.token_hash(token)
    here.audit(None, "calendar link created")
    return Feed(token=token)


@router.delete("/me/calendar", status_code=204)
def end_calendar(here: Anybody) -> None:
    """End the feed of one's appointments."""
    here.practitioner.calendar_hash = None
    here.audit(None, "calendar link turned off")


@router.post("/me/leave", status_code=204, dependencies=HASHES)
def leave(wanted: Leaving, here: Anybody, request: Request, response: Response) -> None:
    """Leave the practice: the account is closed, the name stays on what one did."""
    confirm_password(here, wanted.password, request, "leaving")
    staff.close_account(here, here.practitioner.id, wanted.hand_over_to)
    response.delete_cookie(cookie_name(), path="/", secure=settings().https, httponly=True, samesite="strict")
