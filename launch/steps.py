"""Shows each step with its time, and runs programs so that a failure is one clear line."""

import hashlib
import os
import subprocess
import sys
import threading
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
WORK = ROOT / ".acuthesis"
LOGS = WORK / "logs"
COUNTS_FROM_S = 2.0


class CannotGoOn(Exception):
    """One line that says what is wrong, and a way out."""


@contextmanager
def step(name: str) -> Iterator[None]:
    """Print a step's name, then the seconds it took; in a terminal, after two of them, how many it is at."""
    print(f"  {name} ...", end="", flush=True)
    start, done = time.monotonic(), threading.Event()
    counting = threading.Thread(target=_count, args=(name, start, done), daemon=True)
    if sys.stdout.isatty():
        counting.start()
    try:
        yield
    except BaseException:
        _end_counting(counting, done)
        print(" failed", flush=True)
        raise
    _end_counting(counting, done)
    print(f" {time.monotonic() - start:.1f} s", flush=True)


def _count(name: str, start: float, done: threading.Event) -> None:
    if done.wait(COUNTS_FROM_S):
        return
    while not done.wait(1):
        print(f"\r  {name} ... {time.monotonic() - start:.0f} s", end="", flush=True)
    print(f"\r  {name} ...{' ' * 8}\r  {name} ...", end="", flush=True)


def _end_counting(counting: threading.Thread, done: threading.Event) -> None:
    done.set()
    if counting.is_alive():
        counting.join()


def run(
    command: Sequence[str],
    *,
    log: str,
    hint: str = "",
    cwd: Path = ROOT,
    env: dict[str, str] | None = None,
    timeout: float | None = None,
) -> str:
    """Run a program quietly; its output goes to a log. Returns what it printed.

    Raises: CannotGoOn with the last line it said, the log's place, and a hint.
    """
    LOGS.mkdir(parents=True, exist_ok=True)
    path = LOGS / f"{log}.log"
    try:
        done = subprocess.run(
            command,
            cwd=cwd,
            env={**os.environ, **(env or {})},
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            stdin=subprocess.DEVNULL,
            text=True,
            errors="replace",
            timeout=timeout,
            check=False,
        )
    except FileNotFoundError as error:
        raise CannotGoOn(f"{command[0]} is not installed. {hint}".strip()) from error
    except subprocess.TimeoutExpired as error:
        raise CannotGoOn(f"{command[0]} did not finish in {timeout:g} s. {hint}".strip()) from error
    write_private(path, done.stdout)
    if done.returncode:
        said = [line for line in done.stdout.splitlines() if line.strip()]
        last = said[-1].strip()[:200] if said else "it said nothing"
        raise CannotGoOn(
            f"{Path(command[0]).name} failed: {last} (all of it: {path.relative_to(ROOT)}). {hint}".strip()
        )
    return done.stdout


def fingerprint(*paths: Path) -> str:
    """A name for the contents of files and folders: it changes when any of them does."""
    digest = hashlib.sha256()
    for path in paths:
        found = sorted(p for p in path.rglob("*") if p.is_file()) if path.is_dir() else [path]
        files = [file for file in found if "__pycache__" not in file.parts]
        for file in files:
            digest.update(str(file.relative_to(ROOT)).encode())
            digest.update(file.read_bytes())
    return digest.hexdigest()


def is_stamped(name: str, value: str) -> bool:
    """Whether a step was last finished for this fingerprint."""
    stamp = WORK / "stamps" / name
    return stamp.exists() and stamp.read_text() == value


def stamp(name: str, value: str) -> None:
    """Remember that a step is finished for this fingerprint."""
    path = WORK / "stamps" / name
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(value)


def rotate(path: Path, most_bytes: int = 5_000_000, kept: int = 5) -> None:
    """Put a log that has grown too large aside as `.1`, and the older ones one number further."""
    if not path.exists() or path.stat().st_size < most_bytes:
        return
    for number in range(kept - 1, 0, -1):
        older = path.with_name(f"{path.name}.{number}")
        if older.exists():
            older.replace(path.with_name(f"{path.name}.{number + 1}"))
    path.replace(path.with_name(f"{path.name}.1"))


def append_private(path: Path, line: str) -> None:
    """Append to a log that only its owner can read, and that is rotated."""
    path.parent.mkdir(parents=True, exist_ok=True)
    rotate(path)
    path.touch(mode=0o600)
    path.chmod(0o600)
    with path.open("a") as log:
        log.write(line)


def write_private(path: Path, content: str) -> None:
    """Write a file that only its owner can read, also where it was readable before."""
    path.unlink(missing_ok=True)
    path.touch(mode=0o600)
    path.write_text(content)
