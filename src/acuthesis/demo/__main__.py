"""Prepares the database and loads the demo world; prints the sign-in on its last line."""

from datetime import UTC, datetime

from acuthesis.demo.histories import load_demo
from acuthesis.demo.world import EMAIL, PASSWORD
from acuthesis.store.database import transaction
from acuthesis.store.setup import ensure_from_environment


def main() -> None:
    """Do it."""
    ensure_from_environment()
    with transaction() as db:
        load_demo(db, datetime.now(UTC))
    print(f"{EMAIL}  {PASSWORD}")  # noqa: T201


if __name__ == "__main__":
    main()
