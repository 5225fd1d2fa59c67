"""A limit on what one request may send, so that a huge file is refused before it is read."""

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from acuthesis.api.errors import Problem, answer

MOST_BYTES = 8 * 1024 * 1024  # a person's whole record after years of weekly visits is below 3 MB


class _TooLarge(Exception):
    pass


class BodyLimit:
    """ASGI middleware: answers 413 to a body above MOST_BYTES, whether its length was announced or not."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass the request on, counting what comes in."""
        if scope["type"] != "http":
            return await self.app(scope, receive, send)
        announced = dict(scope["headers"]).get(b"content-length", b"0")
        begun = False
        got = 0

        async def counted() -> Message:
            nonlocal got
            message = await receive()
            got += len(message.get("body", b""))
            if got > MOST_BYTES:
                raise _TooLarge
            return message

        async def noted(message: Message) -> None:
            nonlocal begun
            begun = True
            await send(message)

        try:
            if announced.isdigit() and int(announced) > MOST_BYTES:
                raise _TooLarge
            await self.app(scope, counted, noted)
        except _TooLarge:
            if begun:
                raise
            said = f"This is more than {MOST_BYTES // 1024**2} MB; nothing was taken in."
            await answer(413, Problem(code="too_large", message=said))(scope, receive, send)
