"""Processes by number and start: a number alone may have been given to another process since."""

import shutil
from pathlib import Path

Identity = tuple[int, int]  # process id, and when it started, in ticks since the machine did


def identity(pid: int) -> Identity | None:
    """Process id and start of a running process; None where there is none, or only its remains.

    >>> identity(os.getpid()) == identity(os.getpid()) != None
    True
    """
    try:
        fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    except (OSError, ValueError):
        return None
    return None if fields[0] == "Z" else (pid, int(fields[19]))


def is_alive(known: object) -> bool:
    """Whether the process of an identity, as it came out of a state file, still runs."""
    return isinstance(known, list | tuple) and len(known) == 2 and identity(int(known[0])) == tuple(known)


def dies_with_parent(command: list[str]) -> list[str]:
    """A command whose process is asked to end when the one that started it dies, in whatever way."""
    found = shutil.which("setpriv")
    return [found, "--pdeathsig", "TERM", *command] if found else command
