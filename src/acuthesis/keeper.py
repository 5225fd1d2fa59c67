"""Administration of an installation, called by the launcher as `python -m acuthesis.keeper`.

Prepares a database, makes the first link, sets a password, encrypts dumps, revokes access after a restore, verifies the
audit and rotates keys. Addresses of the database and keys come in the environment.
"""

import os
import sys
from collections.abc import Callable
from pathlib import Path

from acuthesis.core.errors import CoreError
from acuthesis.words.reader import english

# A command imports what it needs and nothing else: a dump calls several, and the store takes seconds to import.


def _ready() -> str:
    from acuthesis.store.setup import ensure_from_environment

    ensure_from_environment()
    return ""


def _first_link(earlier: str) -> str:
    from acuthesis.services.practice.first_link import first_link

    return first_link(earlier)


def _passwd(email: str, *options: str) -> str:
    from acuthesis.services.practice.staff import set_password

    # In the environment, not among the arguments, which every user of the machine can see.
    who = set_password(email, os.environ["ACUTHESIS_NEW_PASSWORD"], "--no-second-factor" in options)
    return f"{who} has a new password and is signed out everywhere."


def _ledger() -> str:
    from acuthesis.services import maintenance

    return maintenance.bring_ledger_up_to_date()


def _after_restore() -> str:
    from acuthesis.services import maintenance

    return maintenance.after_restore()


def _reseal() -> str:
    from acuthesis.services import maintenance

    return maintenance.reseal_all()


def _verify_audit() -> str:
    from acuthesis.services import maintenance

    return maintenance.verify_audit()


def _new_identity(file: str) -> str:
    from acuthesis.exchange import dumps

    return dumps.new_identity(file)


def _encrypt(recipient: str) -> str:
    from acuthesis.exchange import dumps

    dumps.encrypt(recipient, sys.stdin.buffer, sys.stdout.buffer)
    return ""


def _decrypt(identity_file: str) -> str:
    from acuthesis.exchange import dumps

    dumps.decrypt(Path(identity_file), sys.stdin.buffer, sys.stdout.buffer)
    return ""


COMMANDS: dict[str, Callable[..., str]] = {
    "ready": _ready,
    "first-link": _first_link,
    "passwd": _passwd,
    "ledger": _ledger,
    "after-restore": _after_restore,
    "reseal": _reseal,
    "verify-audit": _verify_audit,
    "new-identity": _new_identity,
    "encrypt": _encrypt,
    "decrypt": _decrypt,
}


def main(arguments: list[str]) -> int:
    """Run a command; errors are one line.

    `ready` · `first-link EARLIER` · `passwd EMAIL [--no-second-factor]` · `ledger` · `after-restore` · `reseal` ·
    `verify-audit` · `new-identity FILE` · `encrypt RECIPIENT` and `decrypt IDENTITY_FILE` (standard input to output)
    """
    name, *rest = arguments
    try:
        said = COMMANDS[name](*rest)
    except CoreError as error:
        print(english().say(error.message), file=sys.stderr)  # noqa: T201
        return 1
    if said:
        print(said)  # noqa: T201
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
