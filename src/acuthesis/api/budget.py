"""Rate limits by address and by session: generous for people at work, a stop for loops and scans. Refuses with 429.

Counted in this process, by address and by session. An address has several times the budget of a session, because a
practice's devices may all come from one.
"""

import hashlib
import time
from functools import lru_cache

from fastapi import Request
from limits import RateLimitItemPerMinute
from limits.storage import MemoryStorage
from limits.strategies import SlidingWindowCounterRateLimiter
from starlette.types import ASGIApp, Receive, Scope, Send

from acuthesis.api.errors import Problem, answer
from acuthesis.core.message import message
from acuthesis.services.request.session_check import SESSION_COOKIES
from acuthesis.settings import settings

FREE = ("/api/health",)  # asked by the launcher and by monitors, and cheap


@lru_cache
def counter() -> SlidingWindowCounterRateLimiter:
    """The counts of this process."""
    return SlidingWindowCounterRateLimiter(MemoryStorage())


class RequestBudget:
    """ASGI middleware: refuses requests to the API above the budget of their address or session."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass the request on, or say when to come back."""
        if scope["type"] == "http" and scope["path"].startswith("/api/") and scope["path"] not in FREE:
            wait_s = _wait_s(Request(scope))
            if wait_s is not None:
                problem = Problem(code="too_many_requests", message=message("too-many-requests", seconds=wait_s))
                await answer(429, problem, retry_after_s=wait_s)(scope, receive, send)
                return
        await self.app(scope, receive, send)


def _wait_s(request: Request) -> int | None:
    """Seconds until the next request is taken; None where this one is."""
    configured = settings()
    asked = [(configured.requests_per_minute_address, request.client.host if request.client else "")]
    asked += [
        (configured.requests_per_minute_session, hashlib.sha256(request.cookies[name].encode()).hexdigest())
        for name in SESSION_COOKIES
        if name in request.cookies
    ]
    for per_minute, whose in asked:
        item = RateLimitItemPerMinute(per_minute)
        if not counter().hit(item, whose):
            resets_at = counter().get_window_stats(item, whose).reset_time
            return max(1, round(resets_at - time.time()))
    return None
