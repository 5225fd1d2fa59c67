"""Changes the treatment's TypeScript in small ways, each that Stryker knows, and counts what Vitest notices.

Stryker is no package of the front end: it is fetched here, by its version, and leaves the front end's lock alone.
What nothing noticed is listed, to be read: it is either guarded by a test, or explained in docs/guide/mutants.md.
"""

import json
import subprocess
import sys
from collections import Counter

from acuthesis.settings import ROOT
from benchmarks.mutants import REACH

WEB = ROOT / "web"
STRYKER = ("@stryker-mutator/core@10.1.1", "@stryker-mutator/vitest-runner@10.1.1")


def notices(npx: list[str]) -> bool:
    """Run Stryker with this npx, and print what was not noticed. Returns whether enough was."""
    fetch = ["npm", "install", "--no-save", "--no-audit", "--no-fund", *STRYKER]
    subprocess.run([*npx, *fetch], cwd=WEB, check=True)
    subprocess.run([*npx, "--no-install", "stryker", "run"], cwd=WEB, check=False)
    report = json.loads((WEB / "reports" / "mutation" / "mutation.json").read_text())
    states = Counter(mutant["status"] for file in report["files"].values() for mutant in file["mutants"])
    noticed = states["Killed"] + states["Timeout"]
    share = noticed / max(noticed + states["Survived"] + states["NoCoverage"], 1)
    for path, file in sorted(report["files"].items()):
        lines = file["source"].splitlines()
        for mutant in file["mutants"]:
            if mutant["status"] in ("Survived", "NoCoverage"):
                at = mutant["location"]["start"]["line"]
                print(f"{path}:{at} {mutant['mutatorName']}: {lines[at - 1].strip()}")
                print(f"    -> {mutant.get('replacement', '')[:120]}")
    print(f"{share:.0%} of {sum(states.values())} changes noticed (at least {REACH:.0%} wanted): {dict(states)}")
    return share >= REACH


if __name__ == "__main__":
    sys.exit(0 if notices(sys.argv[1:]) else 1)
