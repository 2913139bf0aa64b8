"""The count sheet: its words and signs as text of the PDF, its pages, and what a rendering of it looks like.

The stored picture was looked at by hand; a rendering may differ by a few grey values where fonts are drawn anew.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pypdfium2
import pytest

from helpers import DEMO, demo_score, score_of
from laptick.core.counting.choices import CountChoices, Syllable, choose
from laptick.core.counting.counting import Density, System
from laptick.core.score.score import Hand
from laptick.core.together.shifts import shifts_of
from laptick.core.together.spans import OCTAVE
from laptick.formats.pages.map_drawing import map_on_paper
from laptick.formats.pages.sheet import PAPERS, SheetOptions, sheet_html, sheet_pdf

DATA = Path(__file__).resolve().parents[1] / "data"
POINTS_A_MM = 72 / 25.4


def pages(score, choices=None, **options):
    return pypdfium2.PdfDocument(sheet_pdf(score, choices, SheetOptions(**options), 72))


def text_of(document) -> str:
    return " ".join(page.get_textpage().get_text_range() for page in document).replace("\r\n", " ")


def grey(page, width=420):
    picture = page.render(scale=width / page.get_width()).to_numpy()
    return picture.mean(axis=2) if picture.ndim == 3 else picture


def test_words_of_the_sheet():
    text = text_of(pages(demo_score("harbour-steps")))
    for words in (
        "Harbour Steps",
        "4/4 · both hands · quarter = 72",
        "Count in: 1 & 2 & ready & go &",
        "line 2",
        "(4)",
        "1 / 1",
    ):
        assert words in text
    assert "quarter 1" in text


@pytest.mark.parametrize("paper", PAPERS)
@pytest.mark.parametrize("is_big", [False, True])
@pytest.mark.parametrize("name", DEMO)
def test_one_or_two_pages_of_the_paper_asked_for(name, is_big, paper):
    document = pages(demo_score(name), paper=paper, is_big=is_big)
    assert len(document) <= 2
    assert tuple(round(x / POINTS_A_MM) for x in document[0].get_size()) == PAPERS[paper]


class TestTheMapOnPaper:
    """The places are those that the map of *Lantern Boat* has by hand: the left hand goes from F to B flat into bars 2
    and 6, where it is hardest; the second line moves the right hand to C in bar 7."""

    score = demo_score("lantern-boat")

    def drawn(self, hand=None):
        return map_on_paper(self.score, hand, OCTAVE, 72)

    def test_says_where_hands_stand_and_where_it_is_hardest(self):
        text = text_of(pages(self.score, with_map=self.drawn(), shows="ruler"))
        for words in ("Hardest first", "Bar 5 into 6.", "D minor position", "B♭ position", "hard to go on", "1:3"):
            assert words in text
        assert "Hardest first" not in text_of(pages(self.score))

    def test_draws_a_bracket_for_every_position_and_a_head_for_every_move(self):
        drawn = self.drawn()
        page = sheet_html(self.score, None, SheetOptions(with_map=drawn), 72)
        shifts = [shift for hand in Hand for shift in shifts_of(self.score, hand, OCTAVE)]
        # One more of each is in the legend.
        assert page.count("l12 6-12 6z") == len(drawn.arrows) + 1 == len(shifts) + 1
        assert page.count("h22l-11") == len(drawn.notches) > 3
        assert [b.name for b in drawn.brackets if b.hand is Hand.RIGHT] == ["D minor position", "C position"]

    def test_of_one_hand_only_that_one_is_drawn(self):
        drawn = self.drawn(Hand.LEFT)
        assert {one.hand for one in (*drawn.brackets, *drawn.arrows)} == {Hand.LEFT}
        assert drawn.ratios == {}

    @pytest.mark.parametrize("is_big", [False, True])
    @pytest.mark.parametrize("name", DEMO)
    def test_stays_on_two_pages(self, name, is_big):
        drawn = map_on_paper(demo_score(name), None, OCTAVE, 84)
        assert len(pages(demo_score(name), with_map=drawn, is_big=is_big)) <= (3 if is_big else 2)


def test_big_print_is_bigger():
    def largest(is_big):
        page = pages(demo_score("harbour-steps"), is_big=is_big)[0].get_textpage()
        boxes = [page.get_charbox(i) for i in range(page.count_chars())]
        return sorted(top - bottom for _, bottom, _, top in boxes)[len(boxes) // 2]

    assert largest(True) > 1.2 * largest(False)


def test_choices_and_changed_syllables_stand_on_the_sheet():
    choices = CountChoices(
        piece=choose(system=System.FUNCTION, density=Density.BAR).piece, syllables=(Syllable("1", 0, "both", "hop"),)
    )
    text = text_of(pages(demo_score("harbour-steps"), choices, hand=Hand.RIGHT))
    assert "hop" in text
    assert "di" in text
    assert "right hand" in text


def test_traps_and_worth_are_said():
    text = text_of(pages(score_of("C5/e D5/e E5/et F5/et G5/et C5/h")))
    assert "Three in a beat beside two" in text
    assert "triplet eighth 1/3" in text


def test_a_title_is_text_and_nothing_else():
    from dataclasses import replace

    score = replace(demo_score("harbour-steps"), title="<script>alert(1)</script>")
    page = sheet_html(score, None, SheetOptions(), 72)
    assert "<script>" not in page
    assert "http" not in page.replace("http://www.w3.org/2000/svg", "")


def test_the_sheet_looks_as_it_did():
    """Mean difference of two grey renderings; a row moved or a hand missing differs by several times as much."""
    seen = grey(pages(demo_score("copper-kettle-parade"))[0])
    stored = np.load(DATA / "sheet-copper-kettle.npz")["grey"].astype(float)
    assert seen.shape == stored.shape
    assert np.abs(seen - stored).mean() < 0.3
    without_left = grey(pages(demo_score("copper-kettle-parade"), hand=Hand.RIGHT)[0])
    assert np.abs(without_left - stored).mean() > 0.4
