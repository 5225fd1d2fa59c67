"""Two tiers of tests.

`./acuthesis test`: a fifth of what is drawn, from fixed seeds, so that a red run is the change's own doing; of whole
walks through the interface or the launcher, one for each road. What is marked `long` is left to the other tier.
`./acuthesis test --long`: everything, from new seeds each time, which are printed and can be given again (`--seed`).
Tests that are named (`./acuthesis test -- tests/browser`) run whatever their mark.
"""

import os
import random
from collections.abc import Sequence
from typing import Any, TypeVar

from hypothesis import settings

T = TypeVar("T")
LONG = os.environ.get("ACUTHESIS_TEST_LONG") == "1"
SHORT = os.environ.get("ACUTHESIS_TEST_SHORT") == "1"
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
