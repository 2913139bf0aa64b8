"""Drawings on paper against what the layout library makes of the same SVG: its renderer is the outside reference, and
paths are worked by hand (SVG 1.1, chapter 8.3)."""

from __future__ import annotations

import base64
import logging

import numpy as np
import pypdfium2
import pytest
import weasyprint

from helpers import demo_bytes
from laptick.core.counting.counting import count_line
from laptick.formats.pages.notation_rows import draw_notation
from laptick.formats.pages.paper import Pictures, page_pdf
from laptick.formats.pages.paper_paths import Place, number, path_operators, place_of
from laptick.formats.pages.ruler_rows import FAMILIES, Drawing, draw_rows, font_face
from laptick.formats.score_files import drawn_from, open_score

logging.getLogger("weasyprint").setLevel(logging.ERROR)

PAGE = "<!doctype html><style>{letters}@page{{size:200mm 80mm;margin:0}} img{{display:block;width:190mm}}</style>{img}"


def pixels(pdf: bytes) -> np.ndarray:
    drawn = pypdfium2.PdfDocument(pdf)[0].render(scale=2, grayscale=True).to_numpy()
    return drawn.reshape(drawn.shape[:2]).astype(float)


def both(svg: str) -> tuple[np.ndarray, np.ndarray]:
    """The picture as it is drawn here, and as the library draws it."""
    pictures = Pictures()
    ours = page_pdf(PAGE.format(letters="", img=pictures.embed(svg)), pictures.drawings)
    image = f'<img src="data:image/svg+xml;base64,{base64.b64encode(svg.encode()).decode()}">'
    theirs = weasyprint.HTML(string=PAGE.format(letters=font_face(), img=image)).write_pdf()
    return pixels(ours), pixels(theirs)


def far_apart(ours: np.ndarray, theirs: np.ndarray) -> float:
    """The share of inked pixels that differ by more than the edge of a shape does."""
    inked = (ours < 250) | (theirs < 250)
    assert inked.sum() > 200, "nothing was drawn"
    return float((abs(ours - theirs)[inked] > 100).mean())


def shapes(inside: str, box: str = "0 0 400 160") -> str:
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{box}" font-family="{FAMILIES}">{inside}</svg>'


SHAPES = {
    "every curve": '<path d="M20 80C40 20 60 20 80 80S120 140 140 80q20-60 40 0t40 0l10 20h30v-40H240V90z"/>',
    "a path without space": '<path d="M10-5.5.5.25-3 40L90 60 10 90z" fill="#444" transform="translate(20 40)"/>',
    "more moves than one": '<path d="m20 20 40 0 0 40z m100 0 40 0 0 40z" fill="none" stroke="#000" stroke-width="4"/>',
    "an arc": '<path d="M40 80A40 30 0 0 1 120 80L80 120z"/>',
    "boxes": '<rect x="9" y="9" width="80" height="40" rx="13" fill="#444"/><rect x="120" y="9" width="90" height="60" rx="20" ry="6"'
    ' fill="#fff" stroke="#000" stroke-width="6"/><rect width="20" height="0"/>',
    "round ones": '<circle cx="50" cy="50" r="30"/><ellipse cx="200" cy="60" rx="80" ry="20" stroke="#777"'
    ' stroke-width="5" fill="none"/>',
    "dashes": '<path d="M9 30H390M9 60h380" stroke="#000" stroke-width="5" stroke-dasharray="20 9"/>'
    '<line x1="9" y1="90" x2="300" y2="140" stroke="#000" stroke-width="9" stroke-linecap="round"/>',
    "corners": '<polyline points="20,120 60,40 100,120" fill="none" stroke="#000" stroke-width="16"'
    ' stroke-linejoin="round"/><polygon points="200,20 300,20 250,120"/>',
    "over and under": '<rect width="200" height="100"/><path d="M20 20H180V80H20z" fill="#fff"/>'
    '<g fill="#888" stroke="#000"><path d="M60 40H120V60H60z" stroke-width="3"/></g>',
    "moved and scaled": '<g transform="translate(50,20) scale(2,-2)"><path d="M0 0H40V-30z"/>'
    '<g transform="scale(.5 .5)" stroke="#000" stroke-width="6"><path d="M120 0v-80"/></g></g>',
    "turned": '<g transform="rotate(20 100 80)"><path d="M40 60H200V90H40z"/></g><path d="M300 20h40v40h-40z"/>',
    "half seen": '<g opacity="0.5"><rect x="20" y="20" width="200" height="100"/></g>',
    "by reference": '<defs><g id="n"><path transform="scale(1,-1)" d="M0 0C40 0 40 40 0 40z"/></g></defs>'
    '<use href="#n" x="40" y="90"/><use href="#n" transform="translate(150, 90) scale(2, 2)"/>',
    "colours": '<g color="#c00"><rect width="99" height="99" fill="currentColor"/></g>'
    '<rect x="120" width="99" height="99" fill="rgb(0,80,0)"/>',
}

WORDS = {
    "plain and bold": '<text x="20" y="60" font-size="40">1 e &amp; a</text>'
    '<text x="20" y="130" font-size="40" font-weight="700">(2) ready</text>',
    "anchors": '<text x="200" y="40" font-size="30" text-anchor="middle">mmm</text>'
    '<text x="200" y="80" font-size="30" text-anchor="end">mmm</text>'
    '<text x="200" y="120" font-size="30" text-anchor="start">mmm</text>',
    "pieces": '<text y="90" x="200" font-size="0px" text-anchor="middle"> <tspan class="text">\n'
    '<tspan font-size="52px">24</tspan>\n</tspan> </text>',
    "moved": '<g transform="translate(40,40) scale(2)"><text x="5" y="20" font-size="14px" fill="#555">so-fa</text></g>',
}


@pytest.mark.parametrize("name", SHAPES)
def test_shapes_are_drawn_as_the_library_draws_them(name):
    assert far_apart(*both(shapes(SHAPES[name]))) < 0.005  # an edge may fall on the next pixel


@pytest.mark.parametrize("name", WORDS)
def test_words_stand_where_the_library_sets_them(name):
    # It shapes them letter by letter, we a word at a time: kerning moves some by a fraction of a point.
    ours, theirs = both(shapes(WORDS[name]))
    for axis in (0, 1):
        spans = [np.flatnonzero((drawn < 200).any(axis=axis)) for drawn in (ours, theirs)]
        assert abs(spans[0][0] - spans[1][0]) <= 2
        assert abs(spans[0][-1] - spans[1][-1]) <= 3
    assert abs((ours < 128).sum() - (theirs < 128).sum()) < 0.03 * (theirs < 128).sum()


@pytest.mark.parametrize("piece", ["copper-kettle-parade", "lantern-boat", "five-stones"])
def test_rows_of_a_piece_are_the_same_picture(piece):
    file = open_score(demo_bytes(piece), filename=f"{piece}.musicxml")
    counted = count_line(file.score, None, None, bpm=72)
    notes = draw_notation(drawn_from(file), counted, None, 184, is_big=False)
    rulers = draw_rows(file.score, counted, None, Drawing(1840.0))
    for svg in (notes[0].svg, notes[-1].svg, rulers[0].svg):
        assert far_apart(*both(svg)) < 0.03  # words are shaped otherwise


def test_words_can_be_found_and_copied():
    pictures = Pictures()
    text = '<text x="20" y="60" font-size="40">1 e &amp; a</text><text x="200" y="60" font-size="40">la</text>'
    pdf = page_pdf(PAGE.format(letters="", img=pictures.embed(shapes(text))), pictures.drawings)
    assert pypdfium2.PdfDocument(pdf)[0].get_textpage().get_text_range().split() == ["1", "e", "&", "a", "la"]


@pytest.mark.parametrize(
    ("d", "operators"),
    [
        ("M1 2L3 4", "1 2 m|3 4 l"),
        ("m1 2 3 4", "1 2 m|4 6 l"),
        ("M1,2h3v-1z", "1 2 m|4 2 l|4 1 l|h"),
        ("M0 0c1 1 2 1 3 0s2-1 3 0", "0 0 m|1 1 2 1 3 0 c|4 -1 5 -1 6 0 c"),
        ("M0 0S1 1 2 2", "0 0 m|0 0 1 1 2 2 c"),  # no curve before it: its first control point is where it starts
        ("M0 0Q3 3 6 0", "0 0 m|2 2 4 2 6 0 c"),
        ("M0 0q3 3 6 0t6 0", "0 0 m|2 2 4 2 6 0 c|8 -2 10 -2 12 0 c"),
        ("M5 5zl1 1", "5 5 m|h|6 6 l"),
        ("M.5.25-1e1-2", "0.5 0.25 m|-10 -2 l"),
    ],
)
def test_paths_by_hand(d, operators):
    assert path_operators(d) == operators.replace("|", "\n").encode()


@pytest.mark.parametrize("d", ["M0 0A1 1 0 0 1 2 2", "M0", "1 2", "M0 0L1", "M0 0x3"])
def test_what_is_no_path_here_is_left_to_the_library(d):
    assert path_operators(d) is None


def test_places():
    assert place_of("translate(10,20) scale(2)") == Place(10, 20, 2, 2)
    assert place_of("scale(2,-3) translate(1 1)") == Place(2, -3, 2, -3)
    assert place_of(None) == Place()
    assert place_of("rotate(90)") is None
    assert Place(1, 1, 2, 2).within(Place(10, 10, 3, -3)) == Place(13, 7, 6, -6)
    assert (number(1e-9), number(-0.0), number(12.5), number(1e6)) == ("0", "0", "12.5", "1000000")
