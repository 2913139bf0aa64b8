"""Caps on request bodies, before anything reads them whole: on how large they are, and on how slowly they come."""

from __future__ import annotations

import asyncio
import time
from contextlib import suppress

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from laptick.api.request.errors import error_answer

#: The largest score file and its wrapping.
MAX_BODY_BYTES = 9 * 1024 * 1024

#: A body that is no file: the longest take is a third of it. Reading one holds everything up.
MAX_JSON_BYTES = 3 * 1024 * 1024


#: The longest pause in a body, and the longest it may take in all: the largest file over a slow line.
PAUSE_S, WHOLE_S = 15.0, 120.0


class _TooMuchError(Exception):
    pass


class BodyLimit:
    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = dict(scope["headers"])
        declared = headers.get(b"content-length", b"0")
        is_file = headers.get(b"content-type", b"").lstrip().lower().startswith(b"multipart/")
        most = MAX_BODY_BYTES if is_file else MAX_JSON_BYTES
        seen, started, is_whole = 0, False, False
        too_large = declared.isdigit() and (len(declared) > 12 or int(declared) > most)
        too_slow = False
        until = time.monotonic() + WHOLE_S

        async def counted() -> Message:
            nonlocal seen, too_large, too_slow, is_whole
            if is_whole:  # what is waited for now is that the other side goes away
                return await receive()
            try:
                message = await asyncio.wait_for(receive(), max(0.0, min(PAUSE_S, until - time.monotonic())))
            except TimeoutError:
                too_slow = True
                raise _TooMuchError from None
            is_whole = not message.get("more_body", False)
            seen += len(message.get("body", b""))
            if seen > most:
                too_large = True
                raise _TooMuchError
            return message

        async def watched(message: Message) -> None:
            nonlocal started
            if (too_large or too_slow) and not started:
                return  # what the application makes of the broken-off body; ours is sent below
            started = True
            await send(message)

        if not too_large:
            with suppress(_TooMuchError):
                await self.app(scope, counted, watched)
        if too_slow and not started:
            answer = error_answer(
                408,
                "too-slow",
                "this came too slowly, or broke off.",
                kept="Nothing was changed.",
                todo="Send it again.",
            )
            await answer(scope, receive, send)
        elif too_large and not started:
            answer = error_answer(
                413,
                "too-large",
                f"this is larger than {most // 2**20} MB.",
                kept="Nothing was changed.",
                todo="Send a smaller file.",
            )
            await answer(scope, receive, send)
