"""Bars that are the same, nearly the same, and the rhythms that occur: hand-worked. Common practice."""

from __future__ import annotations

import pytest

from helpers import demo_score, score_of
from laptick.core.rhythm.likeness import bar_likeness, letter_of, rhythms_used
from laptick.core.score.score import Hand


def likeness(right, left=""):
    return [
        (b.letter, b.same_rhythm_as, b.same_notes_as, b.almost, b.difference)
        for b in bar_likeness(score_of(right, left))
    ]


PAIRS = [
    # two bars, what the second has in common with the first
    ("C5/q D5/q E5/h | C5/q D5/q E5/h", ("A", 0, 0, None, "")),
    ("C5/q D5/q E5/h | E5/q F5/q G5/h", ("A", 0, None, None, "")),
    ("C5/q D5/q E5/h | C5/q D5/q F5/h", ("A", 0, None, 0, "right hand, beat 3: F5, not E5")),
    ("C5/q D5/q E5/h | C5/q D5/q E5/q r/q", ("B", None, None, 0, "right hand, beat 3: quarter, not half")),
    ("C5/q D5/q E5/h | C5/q D5/q E5+G5/h", ("A", 0, None, 0, "right hand, beat 3: G5 more")),
    ("C5/q D5/q E5+G5/h | C5/q D5/q E5/h", ("A", 0, None, 0, "right hand, beat 3: without G5")),
    ("C5/q D5/q E5/h | C5/q E5/q D5/h", ("A", 0, None, None, "")),
    ("C5/q D5/e D5/e E5/h | C5/q D5/e E5/e E5/h", ("A", 0, None, 0, "right hand, after beat 2: E5, not D5")),
]


@pytest.mark.parametrize(("bars", "second"), PAIRS)
def test_the_second_of_two_bars(bars, second):
    assert likeness(bars)[1] == second


def test_the_hands_are_compared_together():
    found = likeness("C5/h D5/h | C5/h D5/h", "C3/w | D3/w")
    assert found[1] == ("A", 0, None, 0, "left hand, beat 1: D3, not C3")


def test_the_earliest_bar_is_named():
    found = likeness("C5/h D5/h | C5/h E5/h | C5/h F5/h")
    assert [f[3] for f in found] == [None, 0, 0]


def test_letters_go_on_after_z():
    assert [letter_of(i) for i in (0, 25, 26, 27, 701, 702)] == ["A", "Z", "AA", "AB", "ZZ", "AAA"]


def test_rhythms_of_a_piece_the_commonest_first():
    uses = [
        (u.said, [i + 1 for i in u.measures]) for u in rhythms_used(demo_score("harbour-steps")) if u.hand is Hand.RIGHT
    ]
    assert uses[0] == ("1 2 & 3 4", [1, 3, 5])
    assert sum(len(bars) for _, bars in uses) == 8


def test_a_silent_bar_has_no_rhythm():
    uses = rhythms_used(score_of("C5/w | r/w"))
    assert [(u.hand, u.measures) for u in uses] == [(Hand.RIGHT, (0,))]
