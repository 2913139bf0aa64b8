"""A process that hands out the studio's certificate, without TLS: nobody trusts it before. It has no database and knows
nobody; whatever else it is asked for, it sends to the address with TLS.
"""

from __future__ import annotations

import json
import socket
import sys
from html import escape
from pathlib import Path

import uvicorn
from cryptography import x509
from cryptography.hazmat.primitives import serialization
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, RedirectResponse, Response
from starlette.routing import Route

#: What is done, device by device; from memory, checked on none of them.
STEPS = {
    "iPhone, iPad": (
        "Press the button, in Safari, and allow the profile to be loaded.",
        "Settings: “Profile Downloaded” stands on top. Install it.",
        "Settings, General, About, Certificate Trust Settings: turn it on.",
    ),
    "Android": (
        "Press the button; the file is saved.",
        "Settings, Security, Encryption and credentials, Install a certificate, CA certificate: choose the file.",
        "Android says that somebody may be watching; here that is your own studio, and for its addresses only.",
    ),
    "Windows": (
        "Press the button and open the file; Install certificate, Current user.",
        "Place it in “Trusted Root Certification Authorities”.",
    ),
    "Mac": (
        "Press the button and open the file; it goes to the keychain “login”.",
        "Open it there: Trust, When using this certificate, Always trust.",
    ),
    "Linux": ("Press the button.", "In the browser: Settings, Certificates, Authorities, Import; trust it for sites."),
}

_STYLE = (
    "body{font:18px/1.5 system-ui,sans-serif;max-width:36rem;margin:2rem auto;padding:0 1rem;background:#f6f3ec;"
    "color:#1e222d}a.b{display:block;padding:1rem;border-radius:12px;background:#1e222d;color:#fffdf8;font-weight:700;"
    "text-align:center;text-decoration:none}code{word-break:break-all}summary{padding:.6rem 0;font-weight:700}"
)


def install_page(told: dict[str, object]) -> str:
    urls = told.get("urls")
    first = str(urls[0]) if isinstance(urls, list) and urls else ""
    steps = ""
    for device, todo in STEPS.items():
        items = "".join(f"<li>{escape(one)}</li>" for one in todo)
        steps += f"<details><summary>{escape(device)}</summary><ol>{items}</ol></details>"
    return (
        "<!doctype html><html lang=en><meta charset=utf-8><meta name=viewport content='width=device-width'>"
        f"<title>Trust this studio · Lap Tick</title><style>{_STYLE}</style>"
        "<main><h1>Trust this studio</h1>"
        "<p>Once on each phone: then it lets Lap Tick use the microphone and keeps the screen awake. Without it"
        " everything else works: take a recording with the phone’s own recorder and send the file.</p>"
        "<p><a class=b href='/studio.crt'>Load the studio’s certificate</a></p>"
        f"<h2>Then, by device</h2>{steps}"
        "<p>It vouches for addresses of a house’s network only. Compare what the phone shows with:<br>"
        f"<code>{escape(str(told.get('fingerprint') or ''))}</code></p>"
        f"<p><a href='{escape(first)}'>{escape(first)}</a> is the studio.</p></main></html>"
    )


def create_app(folder: Path) -> Starlette:
    def told() -> dict[str, object]:
        try:
            found = json.loads((folder / "reach.json").read_text(encoding="utf-8"))
        except (OSError, ValueError):
            return {}
        return found if isinstance(found, dict) else {}

    async def page(_: Request) -> Response:
        return HTMLResponse(
            install_page(told()),
            headers={
                "Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'none'",
                "X-Content-Type-Options": "nosniff",
                "Cache-Control": "no-store",
            },
        )

    async def certificate(_: Request) -> Response:
        found = x509.load_pem_x509_certificate((folder / "authority.pem").read_bytes())
        return Response(
            found.public_bytes(serialization.Encoding.DER),
            media_type="application/x-x509-ca-cert",
            headers={"Content-Disposition": 'attachment; filename="studio.crt"'},
        )

    async def elsewhere(request: Request) -> Response:
        urls = told().get("urls")
        first = str(urls[0]) if isinstance(urls, list) and urls else ""
        return RedirectResponse(f"{first}{request.url.path}" if first else "/", status_code=302)

    return Starlette(routes=[Route("/", page), Route("/studio.crt", certificate), Route("/{path:path}", elsewhere)])


def main(descriptor: int, folder: Path) -> None:
    config = uvicorn.Config(create_app(folder), log_level="warning", access_log=False, timeout_graceful_shutdown=3)
    uvicorn.Server(config).run(sockets=[socket.socket(fileno=descriptor)])


if __name__ == "__main__":
    main(int(sys.argv[1]), Path(sys.argv[2]))
