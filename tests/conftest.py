"""What all tests share: the body asset, a database of the test run's own, and the application on top of it."""

import base64
import logging
import os
import socket
import tempfile
import uuid
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import hypothesis
import pytest
from pwdlib import PasswordHash
from pwdlib.hashers.argon2 import Argon2Hasher

import acuthesis.words.reader  # noqa: F401 - errors read in English, as everywhere outside the core
from acuthesis.core.body.asset import load_asset
from tests.tiers import LONG, SHORT, drawn

DATABASE = f"acuthesis_test_{os.environ.get('PYTEST_XDIST_WORKER', 'main')}_{uuid.uuid4().hex[:6]}"
OWNER, APP, ADMIN = (
    os.environ.get(f"ACUTHESIS_TEST_{role}", "") for role in ("ACUTHESIS_OWNER", "ACUTHESIS_APP", "POSTGRES")
)
OWNER_URL = OWNER.format(DATABASE)
# The same draws in every usual run: a red test is the change's doing, not chance's.
hypothesis.settings.register_profile(
    "tier",
    max_examples=drawn(100),
    derandomize=not LONG,
    database=None,
    deadline=None,
    suppress_health_check=[hypothesis.HealthCheck.too_slow],
)
hypothesis.settings.load_profile("tier")
# Keys and the ledger of erasures as the launcher would keep them; a server that a test starts has the same.
os.environ["ACUTHESIS_SECRET_KEYS"] = base64.urlsafe_b64encode(b"not a secret: the tests' own key"[:32]).decode()
os.environ["ACUTHESIS_ERASURES"] = str(Path(tempfile.mkdtemp(prefix="acuthesis-test-")) / "erasures.jsonl")
# Heavy work in this process: a process beside each worker of the tests would only take from the others.
os.environ["ACUTHESIS_PROCESSES"] = "false"
# One address and one session send the requests of a whole test run; the budget has tests of its own.
os.environ["ACUTHESIS_REQUESTS_PER_MINUTE_SESSION"] = os.environ["ACUTHESIS_REQUESTS_PER_MINUTE_ADDRESS"] = "1000000"
# Before anything reads the settings: this process works on the test database.
if OWNER:
    os.environ["ACUTHESIS_OWNER_URL"] = OWNER_URL
    os.environ["ACUTHESIS_DATABASE_URL"] = APP.format(DATABASE)
    os.environ["ACUTHESIS_ADMIN_URL"] = ADMIN.format("postgres")

from acuthesis.settings import settings  # noqa: E402
from acuthesis.store import access  # noqa: E402
from tests.databases import ZONE, clone_demo, drop, today  # noqa: E402, F401
from tests.timing import pytest_terminal_summary  # noqa: E402, F401

# A hash takes a quarter of a second on purpose, and most tests begin with a sign-in. The servers that tests start have
# the real one.
access.PASSWORDS = PasswordHash((Argon2Hasher(time_cost=1, memory_cost=64, parallelism=1),))


def _ports() -> Iterator[int]:
    """Ports below those that the system gives to outgoing connections, each worker's own and each port once.

    What is free can be taken between looking and binding: by an outgoing connection while a server is down, or by
    the other worker, whose server would then answer in place of ours.
    """
    first = 21_000 + 4_000 * (os.environ.get("PYTEST_XDIST_WORKER", "gw0") != "gw0")
    for port in range(first, first + 4_000):
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)) != 0:
                yield port


PORTS = _ports()


def free_port() -> int:
    return next(PORTS)


def pytest_collection_modifyitems(config, items):
    """The browser's tests first, which take longest: two workers take file by file, and end at about the same time.

    In the short tier without those that are marked `long`.
    """
    twice = [name for name, times in Counter(item.nodeid for item in items).items() if times > 1]
    if twice:  # spread over workers, only one of them would run
        raise pytest.UsageError(f"tests of the same name: {', '.join(twice[:5])}")
    if SHORT:
        config.hook.pytest_deselected(items=[item for item in items if item.get_closest_marker("long")])
        items[:] = [item for item in items if not item.get_closest_marker("long")]
    order = ("browser", "launch", "api", "exchange", "core")
    items.sort(key=lambda item: next((at for at, part in enumerate(order) if part in item.path.parts), len(order)))


@pytest.fixture(scope="session")
def asset():
    return load_asset(settings().body_asset)


@contextmanager
def demo_database() -> Iterator[str]:
    """A new database with the demo world, dropped at the end. Fails where ./acuthesis test did not start a server.

    Each folder of tests has one of its own: what the browser's tests did to the practice, and the jobs of their server,
    are nothing to the API's.
    """
    from acuthesis.store.database import engine

    if not OWNER:
        pytest.fail("no test database: run the tests with ./acuthesis test")
    clone_demo(DATABASE, ADMIN.format("postgres"), OWNER, APP)
    try:
        yield settings().database_url
    finally:
        # Its listener goes on until the process ends.
        logging.getLogger("acuthesis.services.visit.live").disabled = True
        engine(settings().database_url).dispose()
        engine(OWNER_URL).dispose()
        drop(DATABASE)
