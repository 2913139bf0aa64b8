"""What a browser keeps of being signed in: the token of its session, and one by which the device is known again.

No script can read them (``HttpOnly``), no other site's page can send them (``SameSite=Strict``), and under TLS nothing
else can (``Secure``, with the prefix that browsers hold one to). Cookies know no ports, so their names do: two servers
on one machine do not sign each other out.

Source: RFC 6265bis, sections 4.1.2 and 4.1.3.
"""

from __future__ import annotations

from urllib.parse import urlsplit

from fastapi import Request, Response

#: What a device is known by again is kept so long: the longest that browsers allow.
KEPT_S = 400 * 86400

#: No token is longer; a longer one is not looked up.
MOST_TOKEN = 100


def _name(request: Request, of: str) -> str:
    prefix = "__Host-" if _is_safe(request) else ""
    try:
        port = urlsplit(f"//{request.headers.get('host', '')}").port or 0
    except ValueError:
        port = 0
    return f"{prefix}laptick-{of}-{port}"


def _is_safe(request: Request) -> bool:
    return request.url.scheme == "https"


def session_token(request: Request) -> str:
    return request.cookies.get(_name(request, "session"), "")[:MOST_TOKEN]


def device_token(request: Request) -> str:
    return request.cookies.get(_name(request, "device"), "")[:MOST_TOKEN]


def keep_session(response: Response, request: Request, token: str, stay_s: int | None) -> None:
    """``stay_s``: how long it stays, ``None``: until the browser is closed."""
    _keep(response, request, "session", token, stay_s)


def keep_device(response: Response, request: Request, token: str) -> None:
    _keep(response, request, "device", token, KEPT_S)


def forget_session(response: Response, request: Request) -> None:
    _keep(response, request, "session", "", 0)


def _keep(response: Response, request: Request, of: str, token: str, stay_s: int | None) -> None:
    response.set_cookie(
        _name(request, of),
        token,
        max_age=stay_s,
        path="/",
        secure=_is_safe(request),
        httponly=True,
        samesite="strict",
    )
