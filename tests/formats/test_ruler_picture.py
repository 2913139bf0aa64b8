"""The ruler as a picture: what stands in it, its size, and that it needs nothing from outside."""

from __future__ import annotations

import io
from dataclasses import replace

import numpy as np
import pytest
from lxml import etree
from PIL import Image

from helpers import DEMO, demo_score, score_of
from laptick.core.base.errors import OptionError
from laptick.core.score.score import Hand
from laptick.formats.pages import ruler_picture
from laptick.formats.pages.ruler_picture import HEADING, MARGIN, PNG_DPI, WIDTH, ruler_png, ruler_svg
from laptick.formats.pages.ruler_rows import SIZES

SVG = "{http://www.w3.org/2000/svg}"


def words_of(svg: str) -> list[str]:
    return [text.text for text in etree.fromstring(svg.encode()).iter(f"{SVG}text")]


@pytest.mark.parametrize("name", DEMO)
def test_every_bar_is_in_it_and_inside_its_frame(name):
    score = demo_score(name)
    svg = ruler_svg(score, None, 60)
    words = words_of(svg)
    assert words[0] == score.title
    for measure in score.measures:
        assert ("pickup" if measure.bar_in_line == 0 else measure.number) in words
    root = etree.fromstring(svg.encode())
    high = float(root.get("viewBox").split()[3])
    rows = [float(g.get("transform").split()[1].rstrip(")")) for g in root.iter(f"{SVG}g")]
    assert rows == sorted(rows)
    assert rows[0] >= MARGIN + HEADING
    assert rows[-1] + SIZES[False][0] + MARGIN == pytest.approx(high, abs=1)


def test_counts_of_one_hand_by_hand():
    """common practice, no source: quarter, two eighths, half; the half is held on 4."""
    words = words_of(ruler_svg(score_of("C5/q D5/e E5/e F5/h"), None, 60, Hand.RIGHT))
    assert words[-5:] == ["1", "2", "&", "3", "(4)"]


def test_it_carries_its_letters_and_links_nowhere():
    svg = ruler_svg(demo_score("harbour-steps"), None, 60)
    assert "data:font/woff2;base64," in svg
    assert "http" not in svg.replace("http://www.w3.org/2000/svg", "")
    assert "<script" not in svg


def test_a_piece_too_long_for_a_picture_says_so(monkeypatch):
    monkeypatch.setattr(ruler_picture, "MOST_ROWS", 1)
    with pytest.raises(OptionError, match="has 2 rows; a picture holds 1"):
        ruler_svg(demo_score("harbour-steps"), None, 60)


def test_pixels_are_of_the_size_the_drawing_says_and_not_empty():
    score = demo_score("harbour-steps")
    png = ruler_png(score, None, 60)
    picture = Image.open(io.BytesIO(png))
    assert picture.format == "PNG"
    assert picture.width == pytest.approx((WIDTH + 2 * MARGIN) / 10 / 25.4 * PNG_DPI, abs=2)
    assert 0.02 < (np.asarray(picture.convert("L")) < 128).mean() < 0.5


def test_a_title_with_signs_no_drawing_may_hold():
    svg = ruler_svg(replace(demo_score("harbour-steps"), title="A\x00 <b>\x1b"), None, 60)
    assert words_of(svg)[0] == "A <b>"
