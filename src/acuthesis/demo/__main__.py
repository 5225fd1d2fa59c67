"""Prepares the database and loads the demo world; prints the sign-in on its last line."""

import os
from datetime import datetime

from acuthesis.demo.histories import load_demo
from acuthesis.demo.world import EMAIL, PASSWORD
from acuthesis.settings import settings
from acuthesis.store.database import transaction
from acuthesis.store.setup import ensure_database


def main() -> None:
    """Do it."""
    ensure_database(os.environ["ACUTHESIS_ADMIN_URL"], settings().owner_url, settings().database_url)
    with transaction() as session:
        load_demo(session, datetime.now().astimezone())
    print(f"{EMAIL}  {PASSWORD}")  # noqa: T201


if __name__ == "__main__":
    main()
