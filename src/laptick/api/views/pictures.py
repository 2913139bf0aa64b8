"""An address as a picture that a phone reads."""

from __future__ import annotations

import io

import segno


def qr_picture(text: str) -> str:
    """As a QR code (ISO/IEC 18004), an SVG of its own with a quiet zone."""
    out = io.BytesIO()
    segno.make(text, error="m", micro=False).save(
        out, kind="svg", border=4, scale=4, xmldecl=False, dark="#000", light="#fff"
    )
    return out.getvalue().decode()
