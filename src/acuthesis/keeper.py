"""What whoever keeps the machine does with a database: make it ready, let the first one in, set a password anew.

Called by the launcher as `python -m acuthesis.keeper`; addresses of the database come in the environment.
"""

import os
import sys

from acuthesis.core.errors import CoreError
from acuthesis.services.first_link import first_link
from acuthesis.services.staff import set_password
from acuthesis.store.setup import ensure_from_environment


def main(arguments: list[str]) -> int:
    """Run a command: `ready`, `first-link EARLIER`, `passwd EMAIL [--no-second-factor]`. Errors are one line."""
    name, *rest = arguments
    try:
        if name == "ready":
            ensure_from_environment()
        elif name == "first-link":
            print(first_link(rest[0]))  # noqa: T201
        elif name == "passwd":
            # In the environment, not among the arguments, which every user of the machine can see.
            who = set_password(rest[0], os.environ["ACUTHESIS_NEW_PASSWORD"], "--no-second-factor" in rest)
            print(f"{who} has a new password and is signed out everywhere.")  # noqa: T201
    except CoreError as error:
        print(error.message)  # noqa: T201
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
