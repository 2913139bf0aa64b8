"""Which requests are answered at all: those that name this server, and changes that come from its own pages.

A page of another site can make a browser send requests here. Its own name in ``Host`` (after it has let that name point
here: DNS rebinding) is refused; so is everything but reading that carries its ``Origin`` or says so in
``Sec-Fetch-Site``. Programs other than browsers send neither header, and are answered.

Sources: Fetch standard (fetch.spec.whatwg.org), “Origin header”; W3C Fetch Metadata Request Headers, section 2.
"""

from __future__ import annotations

import ipaddress
from urllib.parse import urlsplit

from starlette.datastructures import Headers
from starlette.types import ASGIApp, Receive, Scope, Send

from laptick.api.request.errors import error_answer

#: Methods that change nothing.
READING = frozenset({"GET", "HEAD", "OPTIONS"})


class Guard:
    """``hosts``: names by which this server is reached beside ``localhost``; ``any_address``: it listens beyond its own
    machine, so any address of its own may stand in their place (a rebound name is a name, never an address)."""

    def __init__(self, app: ASGIApp, *, hosts: frozenset[str] = frozenset(), any_address: bool = False) -> None:
        self.app = app
        self.hosts = {"localhost", *(host.lower() for host in hosts)}
        self.any_address = any_address

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        host = headers.get("host", "")
        if "\0" in scope["path"]:
            answer = error_answer(404, "not-found", "there is nothing at this address.", todo="Go back to the pieces.")
        elif not self._is_here(host):
            answer = error_answer(
                421,
                "wrong-host",
                "this address does not belong to Lap Tick.",
                kept="Nothing was changed.",
                todo="Open it at the address that it told when it started.",
            )
        elif scope["method"] not in READING and _is_foreign(headers, host):
            answer = error_answer(
                403, "foreign-page", "another site’s page asked for this.", kept="Nothing was changed."
            )
        else:
            await self.app(scope, receive, send)
            return
        await answer(scope, receive, send)

    def _is_here(self, host: str) -> bool:
        try:
            name = urlsplit(f"//{host}").hostname or ""
        except ValueError:
            return False
        try:
            address = ipaddress.ip_address(name)
        except ValueError:
            return name in self.hosts
        return address.is_loopback or self.any_address


def _is_foreign(headers: Headers, host: str) -> bool:
    origin = headers.get("origin")
    if origin is not None:
        try:
            return urlsplit(origin).netloc.lower() != host.lower()
        except ValueError:
            return True
    return headers.get("sec-fetch-site", "none") not in ("same-origin", "none")
