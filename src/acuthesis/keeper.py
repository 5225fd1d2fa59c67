"""Administration of an installation, called by the launcher as `python -m acuthesis.keeper`.

Prepares a database, makes the first link, sets a password, encrypts dumps, revokes access after a restore, verifies the
audit and rotates keys. Addresses of the database and keys come in the environment.
"""

import os
import sys
from collections.abc import Callable
from pathlib import Path

from acuthesis.core.errors import CoreError
from acuthesis.exchange import dumps
from acuthesis.services import maintenance
from acuthesis.services.practice.first_link import first_link
from acuthesis.services.practice.staff import set_password
from acuthesis.store.setup import ensure_from_environment

KEEPING: dict[str, Callable[..., str]] = {
    "ledger": maintenance.bring_ledger_up_to_date,
    "after-restore": maintenance.after_restore,
    "reseal": maintenance.reseal_all,
    "verify-audit": maintenance.verify_audit,
    "new-identity": dumps.new_identity,
}


def main(arguments: list[str]) -> int:
    """Run a command; errors are one line.

    `ready` · `first-link EARLIER` · `passwd EMAIL [--no-second-factor]` · `ledger` · `after-restore` · `reseal` ·
    `verify-audit` · `new-identity FILE` · `encrypt RECIPIENT` and `decrypt IDENTITY_FILE` (standard input to output)
    """
    name, *rest = arguments
    try:
        if name == "ready":
            ensure_from_environment()
        elif name in KEEPING:
            print(KEEPING[name](*rest))  # noqa: T201
        elif name == "encrypt":
            dumps.encrypt(rest[0], sys.stdin.buffer, sys.stdout.buffer)
        elif name == "decrypt":
            dumps.decrypt(Path(rest[0]), sys.stdin.buffer, sys.stdout.buffer)
        elif name == "first-link":
            print(first_link(rest[0]))  # noqa: T201
        elif name == "passwd":
            # In the environment, not among the arguments, which every user of the machine can see.
            who = set_password(rest[0], os.environ["ACUTHESIS_NEW_PASSWORD"], "--no-second-factor" in rest)
            print(f"{who} has a new password and is signed out everywhere.")  # noqa: T201
    except CoreError as error:
        print(error.message, file=sys.stderr)  # noqa: T201
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
