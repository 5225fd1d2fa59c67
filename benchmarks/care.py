"""Care, at length: ten thousand drawn people composed for, each score held against everything that care asks for.

The checks are those of tests/core/test_care.py; here they run on many more people, and what became of them is counted.
"""

import sys
from collections import Counter

from tests.core.conftest import TWELVE, body_of
from tests.core.test_care import keeps

from acuthesis.stand_ins.people import drawn_people

SEED = 77_000
SAID_EVERY = 500


def main(count: int) -> int:
    """Compose for so many people; 1 where anything was not kept, with who it was."""
    skin = len(body_of(TWELVE["average"]).figure.skin)
    became: Counter[str] = Counter()
    for number, person in enumerate(drawn_people(count, SEED, list(TWELVE), skin), 1):
        try:
            became[keeps(person)] += 1
        except AssertionError as error:
            became["not kept"] += 1
            print(f"person {number}: {error}\n  {person}")
        if number % SAID_EVERY == 0:
            print(f"{number}: {dict(became)}", flush=True)
    return 1 if became["not kept"] else 0


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1])))
