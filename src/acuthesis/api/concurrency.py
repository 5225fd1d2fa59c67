"""Concurrency limits: how many requests at a time may hold a database connection, hash a password, or compute.

A request waits for its turn in the event loop, before it takes a thread. Were it to wait in a thread, the worker
threads would fill up with requests that wait for a connection, while those that hold one wait for a thread.
"""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

import anyio
from anyio import CapacityLimiter
from anyio.lowlevel import RunVar

from acuthesis.store.database import CONNECTIONS

WAIT_S = 20.0  # a request that waits longer than this for its turn is told to come back
RESERVED = 4  # connections for health checks, jobs and sign-outs, which must not queue behind requests


class Overloaded(Exception):
    """A request waited too long for its turn. Answered with 503 and `Retry-After`."""


class Limit:
    """A dependency that at most `most` requests at a time have passed.

    Parameters: name, for errors and logs; most, requests at a time; wait_s, how long a request waits for its turn.
    """

    def __init__(self, name: str, most: int, wait_s: float = WAIT_S) -> None:
        self.name, self.most, self.wait_s = name, most, wait_s
        self._limiter: RunVar[CapacityLimiter] = RunVar(f"acuthesis_{name}")

    def limiter(self) -> CapacityLimiter:
        """The limiter of the running event loop."""
        try:
            return self._limiter.get()
        except LookupError:
            made = CapacityLimiter(self.most)
            self._limiter.set(made)
            return made

    async def __call__(self) -> AsyncIterator[None]:
        """As a dependency: wait for a turn and hold it until the request is done. Raises: Overloaded."""
        async with self.turn():
            yield

    @asynccontextmanager
    async def turn(self) -> AsyncIterator[None]:
        """Wait for a turn and hold it for the length of the block. Raises: Overloaded."""
        limiter, turn = self.limiter(), object()
        try:
            with anyio.fail_after(self.wait_s):
                await limiter.acquire_on_behalf_of(turn)
        except TimeoutError as error:
            raise Overloaded(self.name) from error
        try:
            yield
        finally:
            limiter.release_on_behalf_of(turn)


# One connection each. Endpoints that open transactions themselves (signing in, one-time links) take a turn as well.
database_turn = Limit("database", CONNECTIONS - RESERVED)
# Argon2 takes 64 MB and a core for a while: more at a time would only slow each other down.
password_turn = Limit("password", 3)
# Composing, and printing: each has a worker process, in which one thing is done after the other. One more is prepared
# meanwhile; the others wait here, where they hold neither thread nor connection.
composing_turn = Limit("composing", 2, wait_s=60.0)
printing_turn = Limit("printing", 2, wait_s=60.0)
# Health checks are answered when everything else queues, so that a busy server is not taken for a dead one.
health_turn = Limit("health", 2, wait_s=3.0)
