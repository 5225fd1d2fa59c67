"""What every request passes on its way in, and every answer on its way out: the hosts that we answer to, JSON that is
JSON, and headers that tell browsers what not to do."""

import json
import math
from collections.abc import Awaitable, Callable, Coroutine
from typing import Any

from fastapi import HTTPException, Request, Response
from fastapi.routing import APIRoute

from acuthesis.api.errors import Problem, answer
from acuthesis.settings import settings

CONTENT_POLICY = (
    "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; worker-src 'self' blob:; "
    "connect-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'; object-src 'none'"
)
# Nothing of a treatment room is seen, heard or located by the browser for us.
PERMISSIONS = ", ".join(
    f"{power}=()"
    for power in ("camera", "microphone", "geolocation", "payment", "usb", "serial", "bluetooth", "display-capture")
)
HTTPS_FOR_S = 365 * 24 * 3600
Next = Callable[[Request], Awaitable[Response]]


async def at_the_door(request: Request, call_next: Next) -> Response:
    """Turn away requests that were made for another host, and put the headers on every answer."""
    if _host(request) not in settings().hosts:
        # A name that somebody else points at this machine would otherwise make their page a page of ours.
        return answer(400, Problem(code="host", message="There is no practice under this name here."))
    response = await call_next(request)
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "no-referrer"
    response.headers["Content-Security-Policy"] = CONTENT_POLICY
    response.headers["Permissions-Policy"] = PERMISSIONS
    response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
    if settings().https:
        response.headers["Strict-Transport-Security"] = f"max-age={HTTPS_FOR_S}"
    if request.url.path.startswith("/api"):
        response.headers.setdefault("Cache-Control", "no-store")
    return response


def _host(request: Request) -> str:
    """The host that was asked for, without a port."""
    named = request.headers.get("host", "").lower()
    return named[: named.find("]") + 1] if named.startswith("[") else named.partition(":")[0]


def own_address(request: Request) -> str:
    """How the browser that asks reaches us: scheme and host, without a slash at the end."""
    return f"{'https' if settings().https else 'http'}://{request.headers['host']}"


class StrictRoute(APIRoute):
    """A route whose JSON holds numbers that are numbers: NaN and the infinities are in no standard, and in no body."""

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        """The handler, over a request that reads JSON strictly."""
        handle = super().get_route_handler()

        async def strict(request: Request) -> Response:
            return await handle(_StrictRequest(request.scope, request.receive))

        return strict


class _StrictRequest(Request):
    async def json(self) -> Any:
        """The body. Raises: HTTPException 422 where a number in it is none."""
        if not hasattr(self, "_json"):
            self._json = json.loads(await self.body(), parse_constant=_refuse, parse_float=_finite)
        return self._json


def _refuse(said: str) -> float:
    raise HTTPException(422, f"{said} is not a number that can be used.")


def _finite(written: str) -> float:
    value = float(written)
    return value if math.isfinite(value) else _refuse(written[:40])
