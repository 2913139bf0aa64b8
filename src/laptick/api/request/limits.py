"""A cap on request bodies, before anything reads them whole."""

from __future__ import annotations

from contextlib import suppress

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from laptick.api.request.errors import error_answer

#: The largest score file and its wrapping.
MAX_BODY_BYTES = 9 * 1024 * 1024


class _TooLargeError(Exception):
    pass


class BodyLimit:
    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        declared = dict(scope["headers"]).get(b"content-length", b"0")
        seen, started = 0, False
        too_large = declared.isdigit() and int(declared) > MAX_BODY_BYTES

        async def counted() -> Message:
            nonlocal seen, too_large
            message = await receive()
            seen += len(message.get("body", b""))
            if seen > MAX_BODY_BYTES:
                too_large = True
                raise _TooLargeError
            return message

        async def watched(message: Message) -> None:
            nonlocal started
            if too_large and not started:
                return  # what the application makes of the broken-off body; ours is sent below
            started = True
            await send(message)

        if not too_large:
            with suppress(_TooLargeError):
                await self.app(scope, counted, watched)
        if too_large and not started:
            answer = error_answer(
                413,
                "too-large",
                f"this is larger than {MAX_BODY_BYTES // 2**20} MB.",
                kept="Nothing was changed.",
                todo="Send a smaller file.",
            )
            await answer(scope, receive, send)
