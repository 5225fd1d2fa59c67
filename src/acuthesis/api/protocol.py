"""The HTTP protocol of the server, with a time limit on headers: a connection that sends none is closed."""

import asyncio
from typing import Any

from uvicorn.protocols.http.h11_impl import H11Protocol

HEADERS_WITHIN_S = 10.0


class TimedProtocol(H11Protocol):
    """Closes a connection whose request headers are not complete within `HEADERS_WITHIN_S` of being opened, or of the
    first byte of a further request on it. Uvicorn limits only the pause between two requests.

    Named to uvicorn as `--http acuthesis.api.protocol:TimedProtocol`.
    """

    _deadline: asyncio.TimerHandle | None = None
    _seen: object = None  # the request whose headers came last

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """A client has connected: its headers are expected."""
        super().connection_made(transport)
        self._expect_headers()

    def data_received(self, data: bytes) -> None:
        """Something came. Once a request has its headers, its body has a time limit of its own."""
        idle = self._deadline is None and (self.cycle is None or self.cycle.response_complete)
        if idle:
            self._expect_headers()
        super().data_received(data)
        if self.cycle is not self._seen:
            self._seen = self.cycle
            self._forget_deadline()

    def connection_lost(self, exc: Exception | None) -> None:
        """The connection is gone."""
        self._forget_deadline()
        super().connection_lost(exc)

    def _expect_headers(self) -> None:
        self._deadline = self.loop.call_later(HEADERS_WITHIN_S, self._close)

    def _forget_deadline(self) -> None:
        if self._deadline is not None:
            self._deadline.cancel()
            self._deadline = None

    def _close(self, *_: Any) -> None:
        self._deadline = None
        self.transport.close()
