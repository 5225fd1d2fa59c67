"""Request bodies: how large one may be, at which pace it must arrive, and what shape its JSON may have.

Size depends on the endpoint and on who asks. A body larger than `UNASKED` is read no further before the session (or the
key of a diary or a person's screen) is known to be a real one; only imports may be larger than `USUAL`.
"""

import asyncio
import contextlib
import json
import math
import re
from typing import Any

from fastapi import HTTPException, Request, Response
from fastapi.concurrency import run_in_threadpool
from sqlalchemy.exc import OperationalError
from sqlalchemy.exc import TimeoutError as NoConnection
from starlette.types import ASGIApp, Receive, Scope, Send
from starlette.types import Message as Part

from acuthesis.api.concurrency import Overloaded, database_turn
from acuthesis.api.errors import Problem, answer, overloaded
from acuthesis.core.message import Message, message
from acuthesis.services.request.session_check import is_known

KB = 1024
UNASKED, USUAL, IMPORT = 16 * KB, 256 * KB, 8 * KB * KB  # a record after years of weekly visits is below 3 MB
IMPORTS = re.compile(r"/api/(records|atlas/file|protocols/import|ratings-list/columns|complaints/[^/]+/ratings-list)")
NEXT_PART_S = 30.0  # so long after one part of a body the next must have come
DISCARD_BYTES, DISCARD_S = 2 * IMPORT, 5.0  # of a refused body
PARSED_ASIDE = USUAL  # larger bodies are parsed in a thread, so that others are served meanwhile
# A body of the usual size holds at most some 4,000 names (500 entries of a treatment); an import at most some 300,000.
MOST_NAMES, MOST_NAMES_IMPORT, DEEPEST = 10_000, 1_000_000, 100


def _unusable(said: Message) -> HTTPException:
    """An input that cannot be read. FastAPI lets no other exception through from the reading of a body."""
    return HTTPException(422, said)


class _Refused(Exception):
    """Breaks off the reading of a body; the answer is in `_Incoming.refusal`."""


def most_bytes(method: str, path: str) -> int:
    """The largest body that an endpoint reads from somebody who is signed in, in bytes.

    >>> most_bytes("POST", "/api/records") > most_bytes("POST", "/api/people")
    True
    """
    return IMPORT if method == "POST" and IMPORTS.fullmatch(path) else USUAL


class BodyLimit:
    """ASGI middleware: refuses bodies that are too large (413), too slow (408), or too large for a stranger (401)."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass the request on, and count what comes in."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        body = _Incoming(scope, receive)

        async def unless_refused(part: Part) -> None:
            if body.refusal is None:  # otherwise it is what the application makes of a body that breaks off
                await send(part)

        try:
            await body.check_announced()
            await self.app(scope, body.receive, unless_refused)
        except _Refused:
            pass
        if body.refusal is not None:
            if body.refusal.status_code != 408:
                await body.discard_rest()
            body.refusal.headers["Connection"] = "close"  # what is still on its way after that is not read
            await body.refusal(scope, receive, send)


class _Incoming:
    """The body of one request while it comes in."""

    def __init__(self, scope: Scope, receive: Receive) -> None:
        self.request, self._receive = Request(scope), receive
        self.most = most_bytes(scope["method"], scope["path"])
        self.got, self.known, self.complete = 0, False, False
        self.refusal: Response | None = None

    async def check_announced(self) -> None:
        """Refuse by the announced length, before anything is read. Raises: _Refused."""
        announced = self.request.headers.get("content-length", "")
        if announced.isdigit():
            await self._check(int(announced))

    async def receive(self) -> Part:
        """The next part. Raises: _Refused where there is too much of it, or it does not come."""
        if self.complete:  # what comes now is that the client has left, whenever that is
            return await self._receive()
        try:
            part = await asyncio.wait_for(self._receive(), NEXT_PART_S)
        except TimeoutError:
            raise self._refused(408, "too_slow", message("request-too-slow", seconds=NEXT_PART_S)) from None
        self.complete = not part.get("more_body", False)
        self.got += len(part.get("body", b""))
        await self._check(self.got)
        return part

    async def discard_rest(self) -> None:
        """Read on without keeping anything, within bounds: a client that is still sending would not see the refusal."""
        got = self.got
        with contextlib.suppress(TimeoutError):
            async with asyncio.timeout(DISCARD_S):
                while not self.complete and got < DISCARD_BYTES:
                    part = await self._receive()
                    got += len(part.get("body", b""))
                    self.complete = part["type"] != "http.request" or not part.get("more_body", False)

    async def _check(self, size: int) -> None:
        if size > self.most:
            most = f"{self.most // KB**2} MB" if self.most >= KB**2 else f"{self.most // KB} KB"
            raise self._refused(413, "too_large", message("request-too-large", most=most))
        if size > UNASKED and not self.known:
            try:
                self.known = await _is_known(self.request)
            except (Overloaded, OperationalError, NoConnection):
                self.refusal = overloaded()
                raise _Refused from None
            if not self.known:
                raise self._refused(401, "signed_out", message("sign-in-first"))

    def _refused(self, status: int, code: str, said: Message) -> "_Refused":
        self.refusal = answer(status, Problem(code=code, message=said))
        return _Refused()


async def _is_known(request: Request) -> bool:
    """Whether somebody real asks; takes a connection for one query, in its turn."""
    async with database_turn.turn():
        return await run_in_threadpool(is_known, request.cookies, request.headers.get("authorization", ""))


async def parsed(body: bytes, path: str) -> Any:
    """The JSON of a body, read strictly. Raises: HTTPException 422, JSONDecodeError."""
    if len(body) <= PARSED_ASIDE:
        return _parsed(body, MOST_NAMES_IMPORT if IMPORTS.fullmatch(path) else MOST_NAMES)
    return await run_in_threadpool(_parsed, body, MOST_NAMES_IMPORT)


def _parsed(body: bytes, most_names: int) -> Any:
    try:
        value = json.loads(body, parse_constant=_refuse, parse_float=_finite)
    except RecursionError:
        raise _unusable(message("input-nested-too-deep", levels=DEEPEST)) from None
    except UnicodeDecodeError:
        raise _unusable(message("input-not-utf")) from None
    _check_shape(value, most_names)
    return value


def _check_shape(value: Any, most_names: int) -> None:
    """Raises: HTTPException 422 for JSON that is nested too deep or has more names than any real request."""
    level, names = [value], 0
    for _ in range(DEEPEST):
        inner: list[Any] = []
        for part in level:
            if isinstance(part, dict):
                names += len(part)
                inner += [child for child in part.values() if isinstance(child, dict | list)]
            elif isinstance(part, list):
                inner += [child for child in part if isinstance(child, dict | list)]
        if names > most_names:
            raise _unusable(message("input-too-many-fields", most=most_names))
        if not inner:
            return
        level = inner
    raise _unusable(message("input-nested-too-deep", levels=DEEPEST))


def _refuse(said: str) -> float:
    raise _unusable(message("input-no-number", said=said))


def _finite(written: str) -> float:
    value = float(written)
    return value if math.isfinite(value) else _refuse(written[:40])
