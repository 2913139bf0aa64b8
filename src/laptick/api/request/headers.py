"""What stands at the head of every answer, and HEAD answered as GET without its body."""

from __future__ import annotations

import logging
import time

from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

log = logging.getLogger("laptick")

#: No request may take longer (docs/running.md): one that does is told in the log. What takes longer is a job.
BUDGET_S = 3.0

#: No page frames this one, whatever else it may load.
_NO_FRAMES = "frame-ancestors 'none'"

#: Where an answer says nothing else: nothing is guessed, kept, told to others or lent to their pages.
USUAL = {
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cache-Control": "no-store",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Content-Security-Policy": f"default-src 'none'; {_NO_FRAMES}",
}


class Head:
    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        is_head = scope["method"] == "HEAD"
        begun = time.monotonic()

        async def headed(message: Message) -> None:
            if message["type"] == "http.response.start":
                set_usual(MutableHeaders(scope=message))
                if (taken := time.monotonic() - begun) > BUDGET_S:
                    log.warning("%s %s took %.1f s", scope["method"], scope["path"][:200], taken)
            elif is_head and message["type"] == "http.response.body":
                if message.get("more_body", False):
                    return
                message = {**message, "body": b""}
            await send(message)

        await self.app({**scope, "method": "GET"} if is_head else scope, receive, headed)


def set_usual(headers: MutableHeaders) -> None:
    """Adds what is missing."""
    for name, value in USUAL.items():
        headers.setdefault(name, value)
    policy = headers["Content-Security-Policy"]
    if "frame-ancestors" not in policy:
        headers["Content-Security-Policy"] = f"{policy}; {_NO_FRAMES}"
