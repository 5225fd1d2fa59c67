"""Encrypted dumps, in the age format: whoever can write a dump need not be able to read one.

A dump is encrypted to a recipient (a public key). The identity that opens it is kept on another machine or on paper.
"""

from pathlib import Path
from typing import BinaryIO

from pyrage import DecryptError, RecipientError, decrypt_io, encrypt_io, x25519

from acuthesis.core.errors import CoreError
from acuthesis.core.message import message

MARK = b"age-encryption.org/v1"


def new_identity(path: str) -> str:
    """Make an identity and write it to a file that only its owner reads. Returns its recipient.

    Raises: CoreError where the file exists: what was encrypted to the identity in it could not be read any more.
    """
    made = x25519.Identity.generate()
    file = Path(path)
    try:
        file.touch(mode=0o600, exist_ok=False)
    except FileExistsError:
        raise CoreError(message("dumps-exists-already-choose-another-file", path=path)) from None
    except OSError as error:
        raise CoreError(message("dumps-file-error", path=path, strerror=error.strerror)) from error
    file.write_text(f"# Opens encrypted dumps of Acuthesis. Keep it away from the machine that makes them.\n{made}\n")
    return str(made.to_public())


def encrypt(recipient: str, plain: BinaryIO, sealed: BinaryIO) -> None:
    """Encrypt a stream to a recipient (`age1...`). Raises: CoreError for something that is none."""
    try:
        to = x25519.Recipient.from_str(recipient.strip())
    except RecipientError as error:
        raise CoreError(message("dumps-not-age-recipient-begins-with")) from error
    encrypt_io(plain, sealed, [to])


def decrypt(identity_file: Path, sealed: BinaryIO, plain: BinaryIO) -> None:
    """Decrypt a stream with the identities in a file. Raises: CoreError where none of them opens it."""
    try:
        lines = identity_file.read_text().splitlines()
        keys = [x25519.Identity.from_str(line.strip()) for line in lines if line.strip().startswith("AGE-SECRET-KEY-")]
    except (OSError, ValueError) as error:
        raise CoreError(message("dumps-file-with-key-cannot-read", identity_file=identity_file)) from error
    if not keys:
        raise CoreError(message("dumps-holds-no-key-line-begins", identity_file=identity_file))
    try:
        decrypt_io(sealed, plain, keys)
    except DecryptError as error:
        raise CoreError(message("dumps-key-does-not-open-dump")) from error
