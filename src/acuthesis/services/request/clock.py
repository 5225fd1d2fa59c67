"""The server's clock, in one place."""

from datetime import UTC, datetime


def now() -> datetime:
    """The server's clock, the only one that counts for what is kept."""
    return datetime.now(UTC)
