"""Same bars, thirds and fourths, by hand. Intervals: common practice (two letters away, three letters away)."""

from __future__ import annotations

from dataclasses import replace

from helpers import score_of
from laptick.core.practice.colouring import colouring_of
from laptick.core.score.score import Hand


def test_thirds_and_fourths_inside_a_bar():
    score = score_of("C4/q E4/q A4/q G4/q | E4/q G♯4/q D4/h | C4/q E4/q A4/q G4/q", "C3/w | F2/h C3+E3/h | C3/w")
    bars = colouring_of(score)
    assert [bar.same_as for bar in bars] == [0, 1, 0]
    # C–E a third, E–A a fourth, A–G a step; E–G sharp a third all the same, G sharp–D a fourth.
    assert [bar.intervals[Hand.RIGHT] for bar in bars] == [
        ("third", "fourth"),
        ("third", "fourth"),
        ("third", "fourth"),
    ]
    # Of a chord the highest note: F–E is a seventh; a bar's first note has none before it in the bar.
    assert [bar.intervals[Hand.LEFT] for bar in bars] == [(), (), ()]


def test_what_has_no_pitch_has_no_interval():
    score = score_of("C4/q E4/q A4/q G4/q")
    beaten = replace(score, notes=tuple(replace(note, pitch=None, name="") for note in score.notes))
    assert [bar.intervals[Hand.RIGHT] for bar in colouring_of(beaten)] == [()]
    assert [bar.intervals[Hand.RIGHT] for bar in colouring_of(score)] == [("third", "fourth")]
