"""Sign-in: the password with its limits on trying, the second factor, and what makes a password strong enough."""

import hashlib
import re
import secrets
from datetime import datetime

import pyotp
from zxcvbn import zxcvbn

from acuthesis.core.errors import CoreError
from acuthesis.core.message import message
from acuthesis.services.practice import notices
from acuthesis.services.request.clock import now
from acuthesis.services.request.errors import CodesStopped, SecondFactorNeeded, SignedOut, TooManyTries
from acuthesis.services.request.here import Here
from acuthesis.store import access
from acuthesis.store.database import Db, transaction
from acuthesis.store.model import AuditRow, PractitionerRow

LIMITS = access.TryLimits()
TOO_MANY = message("sign-in-too-many-attempts-wait-five")
WRONG = message("sign-in-incorrect-email-or-password")
WRONG_CODE = message("sign-in-incorrect-code-enter-one-your")
STOPPED = message("sign-in-codes-from-your-authenticator-turned")
LEAST_LETTERS = 10
LEAST_STRENGTH = 3  # of 0 to 4: at least some hundred million guesses
MEASURED_LETTERS = 72  # what comes after them adds nothing that counts, and measuring gets slow
MOST_WRONG_PINS = 5  # in a row; then it takes the password
MOST_WRONG_CODES = 10  # in a row, each after the right password: somebody else has that
LEAST_DIFFERENT = 5
RECOVERY_CODES = 8
STEP_S = 30  # of a time-based code (RFC 6238)
# One step early or late: clocks of phones are off by some seconds.
NEIGHBOURS = (0, -1, 1)


def checked(email: str, password: str, code: str | None, address: str, action: str) -> access.Account:
    """The account whose password (and code, where it has a second factor) this is.

    A try is counted, as a failure, before its password is checked, and in a transaction that a refusal cannot undo: of
    many that arrive together no more are checked than the limit allows. A wrong code counts like a wrong password.
    Raises: TooManyTries; SecondFactorNeeded where the password is right and no code came; CodesStopped where there were
    too many wrong ones; SignedOut for a wrong name, password or code.
    """
    with transaction() as db:
        counted = access.count_try(db, email, address, LIMITS, now())
        if counted is None:
            raise TooManyTries(TOO_MANY)
        found = access.account(db, email)
    # Outside a transaction: making an Argon2 hash takes long on purpose.
    right, renewed = access.is_password(found, password)
    if found is None or not right:
        _audit(found, f"{action} failed", address)
        raise SignedOut(WRONG)
    refused: CoreError | None = None
    with transaction(found.practice_id) as db:
        row = access.practitioner(db, found.practitioner_id, lock=True)
        if renewed is not None:
            row.password_hash = renewed
        if action == "signed in" and (row.totp_since is not None or access.has_passkey(db, row.id)):
            refused = _second_factor(db, row, code)
        if refused is None:
            access.forgive_tries(db, email, address, now())
        elif isinstance(refused, SecondFactorNeeded):
            access.take_back_try(db, counted)  # the first half of signing in is no failure
    if not isinstance(refused, SecondFactorNeeded):
        _audit(found, action if refused is None else f"{action} failed", address)
    if refused is not None:
        raise refused
    return found


def _audit(found: access.Account | None, action: str, address: str) -> None:
    if found is not None:
        with transaction(found.practice_id) as db:
            row = AuditRow(
                practice_id=found.practice_id, practitioner_id=found.practitioner_id, action=action, address=address
            )
            db.add(row)


def _second_factor(db: Db, row: PractitionerRow, code: str | None) -> CoreError | None:
    """Why the second factor does not let somebody in whose password is right; None where it does."""
    if code is None:
        asked = "the code from your authenticator" if row.totp_since else "a recovery code, or use your passkey"
        return SecondFactorNeeded(message("sign-in-enter", asked=asked), where="code")
    recovered = _spend_recovery_code(row, code)
    if not recovered and row.codes_stopped_at is not None:
        return CodesStopped(STOPPED, where="code")
    if recovered or _spend_code(row, code, now()):
        row.wrong_codes, row.codes_stopped_at = 0, None
        return None
    row.wrong_codes += 1
    if row.wrong_codes >= MOST_WRONG_CODES:
        row.codes_stopped_at = now()
        notices.add(db, row, "codes_stopped")
        return CodesStopped(STOPPED, where="code")
    return SignedOut(WRONG_CODE, where="code")


def check_new_password(password: str, email: str) -> None:
    """Raises: CoreError if it is too short, too easy to guess, or the email itself.

    Measured by zxcvbn, which knows common passwords, words, names, dates and key patterns; source: zxcvbn, low-budget
    password strength estimation (USENIX Security 2016).
    """
    if len(password) < LEAST_LETTERS:
        raise CoreError(
            message("sign-in-password-needs-at-least-characters", least_letters=LEAST_LETTERS), where="password"
        )
    if len(set(password)) < LEAST_DIFFERENT:
        raise CoreError(message("sign-in-password-repeats-same-few-characters"), where="password")
    name = email.strip().lower()
    if name and (name in password.lower() or password.lower() in name):
        raise CoreError(message("sign-in-password-contains-email-address-choose"), where="password")
    measured = zxcvbn(password[:MEASURED_LETTERS], user_inputs=[name, *re.split(r"\W+", name), "acuthesis"])
    if measured["score"] < LEAST_STRENGTH:
        why = measured["feedback"]["warning"] or "This password is easy to guess."
        raise CoreError(message("sign-in-use-three-or-four-unrelated", rstrip=why.rstrip(".")), where="password")


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


def check_pin(here: Here, pin: str, address: str) -> None:
    """Raises: CoreError for a wrong PIN, or one that no longer works after too many wrong ones; TooManyTries.

    The transaction so far ends; a wrong try is counted in one of its own.
    """
    who, practice = here.practitioner.id, here.practice_id
    here.release()
    with transaction(practice) as db:
        row = access.practitioner(db, who, lock=True)
        if row.pin_hash is None:
            raise CoreError(message("sign-in-no-pin-set-enter-your"), where="pin")
        if row.wrong_pins >= MOST_WRONG_PINS:
            raise CoreError(message("sign-in-pin-off-after-five-wrong"), where="pin")
        right = access.PASSWORDS.verify(pin, row.pin_hash)
        row.wrong_pins = 0 if right else row.wrong_pins + 1
        said = "unlocked" if right else "unlocked failed"
        db.add(AuditRow(practice_id=practice, practitioner_id=who, action=said, address=address))
    if not right:
        raise CoreError(message("sign-in-incorrect-pin"), where="pin")


def set_pin(here: Here, pin: str | None) -> None:
    """Set or remove the short PIN that unlocks the screen and, on a device, what it keeps for offline work."""
    if pin is not None and (len(set(pin)) < 2 or pin in "01234567890123456789" or pin in "98765432109876543210"):
        raise CoreError(message("sign-in-pin-too-easy-guess-choose"), where="pin")
    row = access.practitioner(here.db, here.practitioner.id, lock=True)
    row.pin_hash, row.wrong_pins = access.PASSWORDS.hash(pin) if pin else None, 0
    notices.add(here.db, row, "pin_set", here.browser)
    here.audit(None, "PIN set" if pin else "PIN removed")


def is_second_factor(row: PractitionerRow, code: str) -> bool:
    """Whether a code from the authenticator (unless turned off) or a recovery code is right; it is spent then."""
    return _spend_recovery_code(row, code) or (row.codes_stopped_at is None and _spend_code(row, code, now()))


def _spend_code(row: PractitionerRow, code: str, at: datetime) -> bool:
    """Whether a code from the authenticator is right and was not used before."""
    step = matching_step(row.totp_secret or "", code, at)
    if step is None:
        return False
    fresh = step > row.totp_last_step
    row.totp_last_step = max(step, row.totp_last_step)
    return fresh


def _spend_recovery_code(row: PractitionerRow, code: str) -> bool:
    given = hash_of_code(code)
    if given not in row.recovery_hashes:
        return False
    row.recovery_hashes = [known for known in row.recovery_hashes if known != given]
    return True


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
