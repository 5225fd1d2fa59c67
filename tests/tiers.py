"""How much is drawn in a test run. A usual one: a fifth, from fixed seeds, so that a red run is the change's own doing.
`./acuthesis test --long`: everything, from new seeds each time, which are printed and can be given again (`--seed`).
"""

import os
import random
from collections.abc import Sequence
from typing import Any, TypeVar

from hypothesis import settings

T = TypeVar("T")
LONG = os.environ.get("ACUTHESIS_TEST_LONG") == "1"
SEED = os.environ.get("ACUTHESIS_TEST_SEED", "0") if LONG else "0"
SHARE = 5


def drawn(full: int) -> int:
    """How many are drawn in this run, of so many in a long one."""
    return full if LONG else -(-full // SHARE)


def examples(full: int, **more: Any) -> settings:
    """Hypothesis's settings for so many examples in a long run."""
    return settings(max_examples=drawn(full), **more)


def dice(*name: object) -> random.Random:
    """Chance for what is drawn under a name; another in every long run."""
    return random.Random(f"{SEED} {name}")


def some(cases: Sequence[T]) -> list[T]:
    """Every fifth of the cases, or all of them in a long run."""
    return list(cases) if LONG else list(cases[::SHARE])
