"""Request middleware: allowed hosts, strict JSON, and security headers on every answer."""

from collections.abc import Callable, Coroutine
from typing import Any

from fastapi import Request, Response
from fastapi.routing import APIRoute
from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from acuthesis.api.bodies import parsed
from acuthesis.api.errors import Problem, answer
from acuthesis.core.message import message
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


class AtTheDoor:
    """Turns away requests that were made for another host, and puts the headers on every answer."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on. What is not HTTP passes as it is."""

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                _put_on(MutableHeaders(scope=message), scope["path"])
            await send(message)

        passed = self.app
        if scope["type"] == "http" and _host(Request(scope)) not in settings().hosts:
            # A name that somebody else points at this machine would otherwise make their page a page of ours.
            passed = answer(400, Problem(code="host", message=message("no-practice-here")))
        await passed(scope, receive, with_headers)


def _put_on(headers: MutableHeaders, path: str) -> None:
    headers["X-Content-Type-Options"] = "nosniff"
    headers["Referrer-Policy"] = "no-referrer"
    headers["Content-Security-Policy"] = CONTENT_POLICY
    headers["Permissions-Policy"] = PERMISSIONS
    headers["Cross-Origin-Opener-Policy"] = "same-origin"
    if settings().https:
        headers["Strict-Transport-Security"] = f"max-age={HTTPS_FOR_S}"
    if path.startswith("/api"):
        headers.setdefault("Cache-Control", "no-store")


def _host(request: Request) -> str:
    """The host that was asked for, without a port."""
    named = request.headers.get("host", "").lower()
    return named[: named.find("]") + 1] if named.startswith("[") else named.partition(":")[0]


def own_address(request: Request) -> str:
    """How the browser that asks reaches us: scheme and host, without a slash at the end."""
    return f"{'https' if settings().https else 'http'}://{request.headers['host']}"


def bearer(authorization: str) -> str:
    """The key in an `Authorization: Bearer` header; empty where there is none, which opens nothing."""
    kind, _, key = authorization.partition(" ")
    return key.strip() if kind.lower() == "bearer" else ""


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
        """The body. Raises: HTTPException 422 where a number in it is none, or it is nested too deep."""
        if not hasattr(self, "_json"):
            self._json = await parsed(await self.body(), self.url.path)
        return self._json
