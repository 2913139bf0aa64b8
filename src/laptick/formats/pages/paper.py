"""A page of HTML laid out as PDF, lettered in the shipped fonts.

The fonts are unpacked once for a process, and the drawings of a page are put on it as its own operators.
"""

from __future__ import annotations

import atexit
from collections.abc import Mapping
from functools import lru_cache
from typing import Any

from laptick.formats.pages.paper_drawing import Fonts, PaperDrawing
from laptick.formats.pages.ruler_rows import font_face


class Pictures:
    """The drawings of one document, by the address that its page names them by."""

    def __init__(self) -> None:
        self._fonts = Fonts(_faces())
        self.drawings: dict[str, PaperDrawing] = {}

    def embed(self, svg: str) -> str:
        """Takes a drawing in; what stands for it on the page."""
        address = f"drawing:{len(self.drawings)}"
        self.drawings[address] = PaperDrawing(svg, self._fonts)
        return f'<img alt="" src="{address}">'


def page_pdf(html: str, drawings: Mapping[str, PaperDrawing] | None = None) -> bytes:
    """The page as PDF. It needs no letters of its own; ``drawings``: what its pictures are, by address."""
    import weasyprint  # slow to import, and only paper needs it

    document: bytes = weasyprint.HTML(string=html).write_pdf(font_config=_faces(), cache=dict(drawings or {}))
    return document


def lettered(html: str) -> str:
    """The page with the shipped letters in its style, to be shown anywhere."""
    return html.replace("<style>", f"<style>{font_face()}", 1)


@lru_cache(maxsize=1)
def _faces() -> Any:
    """The shipped fonts as what lays pages out knows them."""
    import weasyprint
    from weasyprint.text.fonts import FontConfiguration

    faces = FontConfiguration()
    weasyprint.CSS(string=font_face(), font_config=faces)
    atexit.register(_faces.cache_clear)  # it clears its files away itself, while there is still something to do it with
    return faces
