"""The beat ruler with its counts as one picture: SVG that carries its own letters, and PNG.

Black and white safe like the count sheet, whose rows it is made of. Lengths are in tenths of a millimetre.
"""

from __future__ import annotations

import io
from html import escape

from laptick.core.base.errors import OptionError
from laptick.core.base.units import Bpm
from laptick.core.counting.choices import CountChoices
from laptick.core.counting.counting import count_line
from laptick.core.score.score import Hand, Score
from laptick.formats.pages.paper import page_pdf
from laptick.formats.pages.ruler_rows import FAMILIES, ROW_GAP_MM, Drawing, draw_rows, font_face, thinned_text

#: Width of the rows, the margin around, and the heading.
WIDTH, MARGIN, HEADING = 1840.0, 60.0, 90.0

#: Dots to the inch of a PNG, and the most rows one may have: a picture of more is too large to be of use.
PNG_DPI, MOST_ROWS = 150, 120


def ruler_svg(
    score: Score, choices: CountChoices | None, bpm: Bpm, hand: Hand | None = None, *, is_big: bool = False
) -> str:
    """The whole ruler as one SVG document. ``hand``: whose count; ``None``: both hands together.

    Raises OptionError for a piece with more rows than a picture can hold."""
    rows = draw_rows(score, count_line(score, hand, choices, bpm=bpm), hand, Drawing(WIDTH, is_big))
    if len(rows) > MOST_ROWS:
        raise OptionError(
            f"the ruler of this piece has {len(rows)} rows; a picture holds {MOST_ROWS}. Use the count sheet (PDF).",
            where="format",
            kept="Nothing was changed.",
        )
    # A title from a MIDI file may hold signs that no XML can.
    title = escape("".join(sign for sign in score.title if sign.isprintable()))
    top, parts, line = MARGIN + HEADING, [], 0
    for row in rows:
        if row.line != line:
            parts.append(f'<text x="{MARGIN}" y="{top + 22:.1f}" font-size="26">line {row.line}</text>')
            line = row.line
        top += ROW_GAP_MM * 10
        parts.append(f'<g transform="translate({MARGIN:.0f} {top:.1f})">{row.shapes}</g>')
        top += row.height
    if text := thinned_text([name for row in rows for name in row.thinned]):
        top += 40
        parts.append(f'<text x="{MARGIN}" y="{top:.1f}" font-size="30">{escape(text)}</text>')
    wide, high = WIDTH + 2 * MARGIN, top + MARGIN
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide:.0f} {high:.0f}" width="{wide / 10:.1f}mm"'
        f' height="{high / 10:.1f}mm" font-family="{FAMILIES}" role="img">'
        f"<title>{title}: the beat ruler with its counts</title>"
        f"<style>{font_face()}</style>"
        f'<rect width="{wide:.0f}" height="{high:.0f}" fill="#fff"/>'
        f'<text x="{MARGIN}" y="{MARGIN + 50}" font-size="54" font-weight="700">{title}</text>'
        f"{''.join(parts)}</svg>"
    )


def ruler_png(
    score: Score, choices: CountChoices | None, bpm: Bpm, hand: Hand | None = None, *, is_big: bool = False
) -> bytes:
    """The same picture in pixels. Raises as ``ruler_svg``."""
    import pypdfium2  # slow to import, and only pictures need it

    svg = ruler_svg(score, choices, bpm, hand, is_big=is_big)
    size = svg[svg.index('width="') :].split('"')
    # What lays out the page looks for letters in its own style only.
    page = (
        '<!doctype html><html><head><meta charset="utf-8"><style>'
        f"@page {{ size: {size[1]} {size[3]}; margin: 0 }} body {{ margin: 0 }} svg {{ display: block }}"
        f"</style></head><body>{svg}</body></html>"
    )
    document = pypdfium2.PdfDocument(page_pdf(page))
    out = io.BytesIO()
    document[0].render(scale=PNG_DPI / 72).to_pil().save(out, "PNG")
    return out.getvalue()
