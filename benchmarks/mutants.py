"""Changes the code in small ways and counts how many of the changes the tests notice.

mutmut changes `core/safety`, `core/treat`, `core/follow` and `core/compose/score/arrange.py` (pyproject.toml), and runs
the core's tests against each change. Thousands are possible: a sample is drawn anew each time, and its seed is printed.
What nothing noticed is listed, to be read: it is either guarded by a test, or explained in docs/guide/mutants.md.
"""

import json
import os
import random
import shutil
import subprocess
import sys
from collections import Counter, defaultdict

from acuthesis.settings import ROOT

WORK = ROOT / ".acuthesis" / "mutants"
REACH = 0.85  # of the changes, to be noticed
SURVIVED, UNTESTED = 0, 33  # exit codes that mutmut keeps: all tests passed; no test runs the function
Verdicts = dict[str, int | None]


def _copy() -> None:
    """A copy of what the core's tests need, where mutmut may write; what it found of unchanged files is kept."""
    WORK.mkdir(parents=True, exist_ok=True)
    for name in ("src", "tests", "launch", "docs", "benchmarks"):
        shutil.rmtree(WORK / name, ignore_errors=True)
        shutil.copytree(ROOT / name, WORK / name, ignore=shutil.ignore_patterns("__pycache__", "dumps", "screenshots"))
    for name in ("pyproject.toml", "README.md", "requirements.lock"):
        shutil.copy(ROOT / name, WORK / name)


def _mutmut(*names: str) -> int:
    environment = {**os.environ, "ACUTHESIS_BODY_ASSET": str(ROOT / ".acuthesis" / "body.npz")}
    # Nothing but the changed copy may be found under the name of the application.
    command = [sys.executable, "-m", "mutmut", "run", "--max-children", str(os.cpu_count() or 1), *names]
    with (WORK / "mutmut.log").open("ab") as log:
        return subprocess.run(command, cwd=WORK, env=environment, stdout=log, stderr=log, check=False).returncode


def _verdicts() -> Verdicts:
    """Exit code by change; None where its tests were not run."""
    found: Verdicts = {}
    for meta in sorted((WORK / "mutants" / "src").rglob("*.meta")):
        found |= json.loads(meta.read_text())["exit_code_by_key"]
    return found


def _room(name: str) -> str:
    """Of the name of a change, as acuthesis.core.safety.limits.x_limits_for__mutmut_3: the package of the core."""
    return ".".join(name.split(".")[1:3])


def notices(number: int, seed: int) -> bool:
    """Draw `number` changes of the core and print what became of them. Returns whether enough were noticed."""
    _copy()
    _mutmut("none at all")  # writes the changed files and notes which test runs which function
    drawn = random.Random(seed).sample(sorted(_verdicts()), number)
    _mutmut(*drawn)
    after = _verdicts()
    told = {name: after[name] for name in drawn}
    missed = [name for name, code in told.items() if code in (SURVIVED, UNTESTED)]
    unknown = [name for name, code in told.items() if code is None]
    if unknown:
        print(f"{len(unknown)} were not tried: see {WORK / 'mutmut.log'}")
    by_room: dict[str, Counter[bool]] = defaultdict(Counter)
    for name in told:
        by_room[_room(name)][name not in missed] += 1
    for room, counted in sorted(by_room.items()):
        print(f"  {room:14} {counted[True]:4} of {counted.total():4} noticed")
    share = 1 - (len(missed) + len(unknown)) / number
    print(f"  {share:.0%} of {number} changes noticed (seed {seed}; at least {REACH:.0%} wanted). Not noticed:")
    for name in missed:
        print(_difference(name))
    return share >= REACH


def _difference(name: str) -> str:
    shown = subprocess.run(
        [sys.executable, "-m", "mutmut", "show", name], cwd=WORK, capture_output=True, text=True, check=False
    ).stdout
    lines = [line for line in shown.splitlines() if line[:1] in "+-" and not line.startswith(("+++", "---"))]
    return "\n".join([f"\n{name}", *(f"    {line}" for line in lines)])


if __name__ == "__main__":
    number, seed = map(int, sys.argv[1:])
    sys.exit(0 if notices(number, seed) else 1)
