"""Passkeys (WebAuthn): registering one, and signing in or unlocking a screen with it."""

import uuid
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Request, Response
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import (
    HASHES,
    OWN_TRANSACTION,
    Anybody,
    Me,
    OpenSession,
    Password,
    address_of,
    confirm_password,
    let_in,
    my_account,
    same_origin,
)
from acuthesis.api.door import StrictRoute, own_address
from acuthesis.api.text import Line
from acuthesis.core.errors import NotAllowed
from acuthesis.core.message import message
from acuthesis.services.practice import passkeys
from acuthesis.services.practice.passkeys import Challenge, Passkey, Registered, RelyingParty
from acuthesis.store import access

router = APIRouter(route_class=StrictRoute, tags=["account"])
Credential = Annotated[dict[str, Any], Field(max_length=12, description="the browser's answer, as WebAuthn has it")]


class Confirmed(BaseModel):
    """The password, for what should not happen at a screen that was left alone."""

    model_config = ConfigDict(extra="forbid")

    password: Password


class PasskeyAnswer(BaseModel):
    """What the authenticator answered, with the sealed challenge."""

    model_config = ConfigDict(extra="forbid")

    token: Annotated[str, Field(max_length=1000)]
    credential: Credential


class NewPasskey(PasskeyAnswer):
    """A passkey that was made, and what it is called."""

    name: Line


def site_of(request: Request) -> RelyingParty:
    """Where the browser is."""
    return RelyingParty(request.url.hostname or "", own_address(request))


@router.get("/me/passkeys")
def list_passkeys(here: Anybody) -> list[Passkey]:
    """One's own passkeys, the oldest first."""
    return passkeys.of(here)


@router.post("/me/passkeys/challenge", dependencies=HASHES)
def offer_passkey(wanted: Confirmed, here: Anybody, request: Request) -> Challenge:
    """What a browser needs to make a passkey."""
    confirm_password(here, wanted.password, request, "passkey requested")
    return passkeys.offer_registration(here, site_of(request))


@router.post("/me/passkeys", status_code=201)
def register_passkey(made: NewPasskey, here: Anybody, request: Request) -> Registered:
    """Keep a passkey that a browser has made."""
    return passkeys.register(here, site_of(request), made.token, made.credential, made.name)


@router.delete("/me/passkeys/{passkey_id}", status_code=204, dependencies=HASHES)
def remove_passkey(passkey_id: uuid.UUID, wanted: Confirmed, here: Anybody, request: Request) -> None:
    """Remove a passkey."""
    confirm_password(here, wanted.password, request, "removing a passkey")
    passkeys.remove(here, passkey_id)


@router.post("/sign-in/challenge", dependencies=[Depends(same_origin)])
def offer_sign_in(request: Request) -> Challenge:
    """What a browser needs to show a passkey."""
    return passkeys.offer_use(site_of(request))


@router.post("/sign-in/passkey", dependencies=[*OWN_TRANSACTION, Depends(same_origin)])
def sign_in_by_passkey(answer: PasskeyAnswer, request: Request, response: Response) -> Me:
    """Sign in with a passkey: it counts for password and second factor."""
    found = passkeys.used(site_of(request), answer.token, answer.credential, address_of(request), "signed in")
    return let_in(found, request, response)


@router.post("/unlock/passkey")
def unlock_by_passkey(answer: PasskeyAnswer, here: OpenSession, request: Request) -> Me:
    """Unlock the screen with a passkey of whoever is signed in."""
    opened, who = here.browser.id, here.practitioner.id
    here.release()
    found = passkeys.used(site_of(request), answer.token, answer.credential, address_of(request), "unlocked")
    if found.practitioner_id != who:
        raise NotAllowed(message("passkeys-passkey-belongs-someone-else"), where="credential")
    access.uncover(here.db, opened)
    return my_account(here)
