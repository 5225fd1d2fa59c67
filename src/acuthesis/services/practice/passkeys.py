"""Passkeys (WebAuthn): registered beside the password, then enough by themselves to sign in or to unlock a screen.

A passkey asks its owner for a finger, a face or a PIN, so it counts for both factors. A challenge is given out sealed,
with its purpose and its end, and counts once; nothing is stored until it has been answered.
"""

import hashlib
import json
import secrets
import uuid
from datetime import datetime, timedelta
from typing import Any, Literal, NamedTuple

from pydantic import BaseModel
from sqlalchemy import delete, select, text
from sqlalchemy.dialects.postgresql import insert
from webauthn import (
    generate_authentication_options,
    generate_registration_options,
    options_to_json,
    verify_authentication_response,
    verify_registration_response,
)
from webauthn.helpers import base64url_to_bytes
from webauthn.helpers.exceptions import WebAuthnException
from webauthn.helpers.structs import (
    AuthenticatorSelectionCriteria,
    PublicKeyCredentialDescriptor,
    ResidentKeyRequirement,
    UserVerificationRequirement,
)

from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.message import message
from acuthesis.services.practice import notices
from acuthesis.services.practice.sign_in import LIMITS, TOO_MANY, hash_of_code, new_recovery_codes
from acuthesis.services.request.clock import now
from acuthesis.services.request.errors import SignedOut, TooManyTries
from acuthesis.services.request.here import Here
from acuthesis.store import access, sealed
from acuthesis.store.database import Db, transaction
from acuthesis.store.model import AnsweredChallengeRow, AuditRow, PasskeyRow
from acuthesis.store.people import NotFound

ANSWER_WITHIN = timedelta(minutes=5)
MOST_KEYS = 12
UNKNOWN = message("passkeys-passkey-not-recognised-sign-with")
STALE = message("passkeys-took-too-long-or-already")
Purpose = Literal["register", "use"]


class RelyingParty(NamedTuple):
    """Where the browser is: the host without a port, and scheme, host and port."""

    host: str
    origin: str


class Challenge(BaseModel):
    """What the browser asks the authenticator for (`options`, as WebAuthn has them), and the sealed challenge to send
    back with its answer."""

    options: dict[str, Any]
    token: str


class Passkey(BaseModel):
    """A registered passkey."""

    id: uuid.UUID
    name: str
    created_at: datetime
    used_at: datetime | None


class Registered(BaseModel):
    """The passkeys, and recovery codes where these are the first of the account; shown once."""

    passkeys: list[Passkey]
    recovery_codes: list[str]


def of(here: Here) -> list[Passkey]:
    """The passkeys of whoever is signed in, the oldest first."""
    return [
        Passkey(id=row.id, name=row.name, created_at=row.created_at, used_at=row.used_at)
        for row in _rows(here.db, here.practitioner.id)
    ]


def offer_registration(here: Here, site: RelyingParty) -> Challenge:
    """What a browser needs to make a passkey."""
    row, known = here.practitioner, _rows(here.db, here.practitioner.id)
    if len(known) >= MOST_KEYS:
        raise NotAllowed(message("passkeys-account-have-at-most-passkeys", most_keys=MOST_KEYS), where="passkeys")
    challenge = secrets.token_bytes(32)
    options = generate_registration_options(
        rp_id=site.host,
        rp_name="Acuthesis",
        user_name=row.email or row.name,
        user_id=row.id.bytes,
        user_display_name=row.name,
        challenge=challenge,
        authenticator_selection=AuthenticatorSelectionCriteria(
            resident_key=ResidentKeyRequirement.REQUIRED, user_verification=UserVerificationRequirement.REQUIRED
        ),
        exclude_credentials=[PublicKeyCredentialDescriptor(id=key.credential_id) for key in known],
    )
    return Challenge(options=json.loads(options_to_json(options)), token=_sealed(challenge, "register", row.id))


def register(here: Here, site: RelyingParty, token: str, credential: dict[str, Any], name: str) -> Registered:
    """Keep a passkey that a browser has made. Raises: CoreError where it does not answer the challenge."""
    challenge = _opened(here.db, token, "register", here.practitioner.id)
    try:
        made = verify_registration_response(
            credential=credential,
            expected_challenge=challenge,
            expected_rp_id=site.host,
            expected_origin=site.origin,
            require_user_verification=True,
        )
    except WebAuthnException as error:
        raise CoreError(message("passkeys-passkey-could-not-verified-try"), where="credential") from error
    row = access.practitioner(here.db, here.practitioner.id, lock=True)
    here.db.add(
        PasskeyRow(
            practice_id=row.practice_id,
            practitioner_id=row.id,
            credential_id=made.credential_id,
            public_key=made.credential_public_key,
            sign_count=made.sign_count,
            name=name,
            created_at=now(),
        )
    )
    codes = [] if row.recovery_hashes else new_recovery_codes()
    if codes:
        row.recovery_hashes = [hash_of_code(code) for code in codes]
    notices.add(here.db, row, "passkey_added", here.browser)
    here.audit(None, "passkey added")
    here.db.flush()
    return Registered(passkeys=of(here), recovery_codes=codes)


def remove(here: Here, passkey_id: uuid.UUID) -> None:
    """Remove a passkey. Raises: NotFound; NotAllowed for the last factor, where the practice requires one."""
    mine = _rows(here.db, here.practitioner.id)
    row = next((key for key in mine if key.id == passkey_id), None)
    if row is None:
        raise NotFound(message("passkeys-you-have-no-such-passkey"), where="passkey_id")
    if here.practice.second_factor_required and len(mine) == 1 and here.practitioner.totp_since is None:
        raise NotAllowed(message("passkeys-practice-requires-two-step-verification"), where="passkey_id")
    here.db.delete(row)
    notices.add(here.db, here.practitioner, "passkey_removed", here.browser)
    here.audit(None, "passkey removed")
    here.db.flush()


def offer_use(site: RelyingParty) -> Challenge:
    """What a browser needs to show a passkey: whichever of this site it has, without anybody being named."""
    challenge = secrets.token_bytes(32)
    options = generate_authentication_options(
        rp_id=site.host, challenge=challenge, user_verification=UserVerificationRequirement.REQUIRED
    )
    return Challenge(options=json.loads(options_to_json(options)), token=_sealed(challenge, "use", None))


def used(site: RelyingParty, token: str, credential: dict[str, Any], address: str, action: str) -> access.Account:
    """The account whose passkey answered. Raises: TooManyTries; SignedOut for one that is not known or not right."""
    with transaction() as db:
        counted = access.count_try(db, f"passkeys at {address}", address, LIMITS, now())
        if counted is None:
            raise TooManyTries(TOO_MANY)
        challenge = _opened(db, token, "use", None)
        found = _whose(db, credential)
    if found is None:
        raise SignedOut(UNKNOWN)
    practitioner_id, practice_id, credential_id = found
    with transaction(practice_id) as db:
        key = db.scalar(select(PasskeyRow).where(PasskeyRow.credential_id == credential_id).with_for_update())
        row = access.practitioner(db, practitioner_id)
        if key is None or row.email is None:
            raise SignedOut(UNKNOWN)
        try:
            answered = verify_authentication_response(
                credential=credential,
                expected_challenge=challenge,
                expected_rp_id=site.host,
                expected_origin=site.origin,
                credential_public_key=key.public_key,
                credential_current_sign_count=key.sign_count,
                require_user_verification=True,
            )
        except WebAuthnException as error:
            raise SignedOut(message("passkeys-passkey-could-not-verified-try")) from error
        key.sign_count, key.used_at = answered.new_sign_count, now()
        access.take_back_try(db, counted)
        db.add(
            AuditRow(practice_id=practice_id, practitioner_id=row.id, action=f"{action} by passkey", address=address)
        )
        return access.Account(row.id, practice_id, row.password_hash or "")


def _rows(db: Db, practitioner_id: uuid.UUID) -> list[PasskeyRow]:
    query = select(PasskeyRow).where(PasskeyRow.practitioner_id == practitioner_id)
    return list(db.scalars(query.order_by(PasskeyRow.created_at, PasskeyRow.id)))


def _whose(db: Db, credential: dict[str, Any]) -> tuple[uuid.UUID, uuid.UUID, bytes] | None:
    try:
        wanted = base64url_to_bytes(str(credential["rawId"]))
    except (KeyError, ValueError):
        return None
    found = db.execute(text("SELECT * FROM passkey_lookup(:id)"), {"id": wanted}).one_or_none()
    return None if found is None else (found.practitioner_id, found.practice_id, wanted)


def _sealed(challenge: bytes, purpose: Purpose, whose: uuid.UUID | None) -> str:
    until = (now() + ANSWER_WITHIN).isoformat()
    told = {"challenge": challenge.hex(), "for": purpose, "whose": str(whose or ""), "until": until}
    return sealed.seal(json.dumps(told).encode()).removeprefix(sealed.MARK)


def _opened(db: Db, token: str, purpose: Purpose, whose: uuid.UUID | None) -> bytes:
    """The challenge in a token, which counts once. Raises: CoreError for one that is old, used, or for another use."""
    try:
        told = json.loads(sealed.unseal(sealed.MARK + token) or b"")
    except ValueError:
        told = None
    if not isinstance(told, dict) or (told.get("for"), told.get("whose")) != (purpose, str(whose or "")):
        raise CoreError(STALE, where="token")
    until = datetime.fromisoformat(told["until"])
    if until < now():
        raise CoreError(STALE, where="token")
    db.execute(delete(AnsweredChallengeRow).where(AnsweredChallengeRow.until < now()))
    noted = insert(AnsweredChallengeRow).values(hash=hashlib.sha256(token.encode()).digest(), until=until)
    if db.scalar(noted.on_conflict_do_nothing().returning(AnsweredChallengeRow.hash)) is None:
        raise CoreError(STALE, where="token")
    return bytes.fromhex(told["challenge"])
