"""Encrypted columns, with a key from outside the database: secrets of authenticators, keys of devices.

A dump, or a look into the database, then gives nobody a second factor. Keys come from the environment, newest first;
each value is encrypted with the newest and read with whichever fits, so that a key can be rotated (`access.reseal`).
"""

from functools import lru_cache
from typing import Any

from cryptography.fernet import Fernet, InvalidToken, MultiFernet
from sqlalchemy import Dialect, LargeBinary, String, TypeDecorator

from acuthesis.settings import settings

MARK = "sealed:"  # a value without it is of an earlier version, and stands as it is


@lru_cache
def _cipher(keys: str) -> MultiFernet:
    return MultiFernet([Fernet(key) for key in keys.split(",")])


def new_key() -> str:
    """A new key."""
    return Fernet.generate_key().decode()


def seal(plain: bytes) -> str:
    """A value as it is stored."""
    return MARK + _cipher(settings().secret_keys).encrypt(plain).decode()


def unseal(stored: str) -> bytes | None:
    """A stored value as it was; None where no key fits: it was encrypted on another machine, whose key is not here."""
    if not stored.startswith(MARK):
        return stored.encode()
    try:
        return _cipher(settings().secret_keys).decrypt(stored.removeprefix(MARK).encode())
    except InvalidToken:
        return None


class SealedText(TypeDecorator[str]):
    """Text that is encrypted in its column."""

    impl = String
    cache_ok = True

    def process_bind_param(self, value: str | None, dialect: Dialect) -> str | None:
        """What goes into the column."""
        return None if value is None else seal(value.encode())

    def process_result_value(self, value: Any, dialect: Dialect) -> str | None:
        """What comes out of it; None where no key fits."""
        found = None if value is None else unseal(value)
        return None if found is None else found.decode()


class SealedBytes(TypeDecorator[bytes]):
    """Bytes that are encrypted in their column."""

    impl = LargeBinary
    cache_ok = True

    def process_bind_param(self, value: bytes | None, dialect: Dialect) -> bytes | None:
        """What goes into the column."""
        return None if value is None else seal(value).encode()

    def process_result_value(self, value: Any, dialect: Dialect) -> bytes | None:
        """What comes out of it; empty where no key fits."""
        if value is None:
            return None
        if not bytes(value).startswith(MARK.encode()):
            return bytes(value)
        return unseal(bytes(value).decode()) or b""
