"""Lines that come again, worked by hand. Common practice, no source. The scores have four bars a line."""

from __future__ import annotations

import pytest

from helpers import score_of
from laptick.core.rhythm.lines import alike_lines, line_words

A = "C4/q D4/q E4/q F4/q | E4/h C4/h | G4/w | C4/w"
B = "G4/h E4/h | F4/q E4/q D4/q C4/q | G4/w | G4/h C4/h"
A_OTHER_END = "C4/q D4/q E4/q F4/q | E4/h C4/h | G4/w | E4/w"
A_HIGHER = "D4/q E4/q F4/q G4/q | F4/h D4/h | A4/w | D4/w"

LINES = {
    "A B A": ([A, B, A], ["Line 3 is line 1 again: only the way into it is new."]),
    "A A": ([A, A], ["Line 2 is line 1 again: only the way into it is new."]),
    "A B A B: the way into the second B is the same": (
        [A, B, A, B],
        ["Line 3 is line 1 again: only the way into it is new.", "Line 4 is line 2 again."],
    ),
    "another last bar": ([A, B, A_OTHER_END], ["Line 3 is line 1 but for bar 12."]),
    "the same rhythm on other keys": ([A, A_HIGHER], ["Line 2 has the rhythm of line 1."]),
    "nothing again": ([A, B], []),
}


@pytest.mark.parametrize("words", LINES)
def test_lines_that_come_again(words):
    lines, expected = LINES[words]
    score = score_of(" | ".join(lines))
    assert [line_words(score, one) for one in alike_lines(score)] == expected


def test_the_same_is_told_rather_than_nearly_the_same():
    score = score_of(" | ".join([A_OTHER_END, A, A]))
    assert [line_words(score, one) for one in alike_lines(score)] == [
        "Line 2 is line 1 but for bar 8.",
        "Line 3 is line 2 again: only the way into it is new.",
    ]


def test_a_line_of_one_bar_is_told_by_its_bar():
    assert alike_lines(score_of(f"{A} | C4/w")) == []
