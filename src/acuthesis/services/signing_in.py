"""Coming in: the password with its limits, the second factor, and what makes a password good enough."""

import hashlib
import secrets
from datetime import datetime

import pyotp

from acuthesis.core.errors import CoreError
from acuthesis.services.clock import now
from acuthesis.services.errors import SecondFactorNeeded, SignedOut, TooManyTries
from acuthesis.store import access
from acuthesis.store.database import see_practice, transaction
from acuthesis.store.model import AuditRow, PractitionerRow

LIMITS = access.Limits()
TOO_MANY = "Too many tries. Wait five minutes, then try again."
WRONG = "Incorrect email or password."
WRONG_CODE = "Incorrect code. Enter the one your authenticator shows now, or a recovery code."
LEAST_LETTERS = 10
LEAST_DIFFERENT = 5
RECOVERY_CODES = 8
STEP_S = 30  # of a time-based code (RFC 6238)
# One step early or late: clocks of phones are off by some seconds.
NEIGHBOURS = (0, -1, 1)


def checked(email: str, password: str, code: str | None, address: str, action: str) -> access.Account:
    """The account whose password (and code, where it has a second factor) this is.

    A failed try is kept by a transaction that its refusal cannot undo. A wrong code counts like a wrong password.
    Raises: TooManyTries; SecondFactorNeeded where the password is right and no code came; SignedOut for a wrong name,
    password or code.
    """
    with transaction() as db:
        if access.too_many_tries(db, email, address, LIMITS, now()):
            raise TooManyTries(TOO_MANY)
        found = access.account(db, email)
    # Outside a transaction: making an Argon2 hash takes long on purpose.
    right, renewed = access.is_password(found, password)
    with transaction() as db:
        second = True
        if found is not None and right:
            see_practice(db, found.practice_id)
            row = access.practitioner(db, found.practitioner_id, lock=True)
            if renewed is not None:
                row.password_hash = renewed
            if row.totp_since is not None and action == "signed in":
                if code is None:
                    raise SecondFactorNeeded("Enter the code from your authenticator.", where="code")
                second = _is_second_factor(row, code, now())
        access.note_try(db, email, address, right and second, LIMITS, now())
        if found is not None:
            see_practice(db, found.practice_id)
            said = action if right and second else f"{action} failed"
            db.add(AuditRow(practice_id=found.practice_id, practitioner_id=found.practitioner_id, action=said))
    if found is None or not right:
        raise SignedOut(WRONG)
    if not second:
        raise SignedOut(WRONG_CODE, where="code")
    return found


def check_new_password(password: str, email: str) -> None:
    """Raises: CoreError if it is too short, too uniform, or the email itself."""
    if len(password) < LEAST_LETTERS:
        raise CoreError(f"A password has at least {LEAST_LETTERS} characters.", where="password")
    if len(set(password)) < LEAST_DIFFERENT:
        raise CoreError("This password repeats the same few characters. Choose another one.", where="password")
    name = email.strip().lower()
    if name and (name in password.lower() or password.lower() in name):
        raise CoreError("This password contains the email address. Choose another one.", where="password")


def offered_secret() -> str:
    """A new secret for an authenticator (base32)."""
    return pyotp.random_base32()


def authenticator_address(secret: str, email: str) -> str:
    """What the authenticator reads from the QR code."""
    return pyotp.TOTP(secret, interval=STEP_S).provisioning_uri(name=email, issuer_name="Acuthesis")


def matching_step(secret: str, code: str, at: datetime) -> int | None:
    """Which time step a code is of, or None; a step is `STEP_S` seconds since 1970."""
    generator = pyotp.TOTP(secret, interval=STEP_S)
    current = int(at.timestamp()) // STEP_S
    given = code.replace(" ", "")
    for neighbour in NEIGHBOURS:
        if secrets.compare_digest(generator.at((current + neighbour) * STEP_S).encode(), given.encode()):
            return current + neighbour
    return None


def new_recovery_codes() -> list[str]:
    """Codes for the day on which the phone is lost: each counts once."""
    return [f"{secrets.token_hex(3)}-{secrets.token_hex(3)}" for _ in range(RECOVERY_CODES)]


def hash_of_code(code: str) -> str:
    """What is kept of a recovery code. It is random, so a plain hash is enough."""
    return hashlib.sha256(code.strip().lower().encode()).hexdigest()


def _is_second_factor(row: PractitionerRow, code: str, at: datetime) -> bool:
    """Whether a code is right; it is spent then: no code counts twice."""
    step = matching_step(row.totp_secret or "", code, at)
    if step is not None:
        fresh = step > row.totp_last_step
        row.totp_last_step = max(step, row.totp_last_step)
        return fresh
    given = hash_of_code(code)
    if given in row.recovery_hashes:
        row.recovery_hashes = [one for one in row.recovery_hashes if one != given]
        return True
    return False


def device_words(agent: str) -> str:
    """Browser and system in words, from what the browser says of itself; enough to tell one's devices apart."""
    browsers = (("Edg/", "Edge"), ("Firefox/", "Firefox"), ("Chrome/", "Chrome"), ("Safari/", "Safari"))
    systems = (
        ("iPad", "iPad"),
        ("iPhone", "iPhone"),
        ("Android", "Android"),
        ("Windows", "Windows"),
        ("Mac OS", "Mac"),
        ("CrOS", "ChromeOS"),
        ("Linux", "Linux"),
    )
    browser = next((name for mark, name in browsers if mark in agent), "A browser")
    system = next((name for mark, name in systems if mark in agent), "")
    return f"{browser} on {system}" if system else browser
