"""What a teacher points at in the notes, each by hand. Common practice, no source; that an accidental holds to the end
of its bar on its line is a rule of notation (from memory)."""

from __future__ import annotations

from dataclasses import replace

import pytest

from helpers import score_of
from laptick.core.practice.reading_aids import AidKind, reading_aids, signed_by_key
from laptick.core.score.score import Mark, MarkKind


def told(right: str, left: str = "", fifths: int = 0) -> list[str]:
    score = score_of(right, left)
    if fifths:
        others = tuple(mark for mark in score.marks if mark.kind is not MarkKind.KEY)
        score = replace(score, marks=(Mark(MarkKind.KEY, score.measures[0].start_quarters, str(fifths)), *others))
    return [aid.words for aid in reading_aids(score)]


class TestBrokenChords:
    CHORD = "left hand: one chord, C E G, broken: lay the hand on it first."

    @pytest.mark.parametrize(
        "left", ["C3/e G3/e E3/e G3/e C3/e G3/e E3/e G3/e", "C3/q E3/q G3/q E3/q", "G3/h. E3/q | C3/q E3/q G3/q C3/q"]
    )
    def test_a_figure_of_one_chord(self, left):
        bar = "2" if "|" in left else "1"
        assert told("C5/w" if bar == "1" else "C5/w | D5/w", left) == [f"Bar {bar}, {self.CHORD}"]

    def test_the_same_in_several_bars_is_told_once(self):
        bars = " | ".join(["C3/q E3/q G3/q E3/q", "G2/w", "C3/q E3/q G3/q E3/q"])
        assert told("C5/w | D5/w | C5/w", bars) == [f"Bars 1 and 3, {self.CHORD}"]

    def test_a_seventh_chord_whole(self):
        assert told("C5/w", "G2/q B2/q D3/q F3/q") == [
            "Bar 1, left hand: one chord, G B D F, broken: lay the hand on it first."
        ]

    @pytest.mark.parametrize(
        "left",
        [
            "C3/q D3/q E3/q F3/q",  # a scale
            "C3/q E3/q C3/q E3/q",  # two keys
            "D3/q E3/q G3/q E3/q",  # steps and a third: a melody
            "C3/q. E3/e G3/q E3/q",  # not evenly spaced
            "C3/q E3/q Eb3/q G3/q",  # two kinds of third
            "C2/q E3/q G4/q E3/q",  # further than a hand
            "C3+G3/q E3/q C3+G3/q E3/q",  # struck together, in part
            "C3/e E3/e G3/e r/e r/h",  # less than half of the bar
        ],
    )
    def test_none(self, left):
        assert told("C5/w", left) == []


class TestAccidentals:
    def test_holds_later_in_its_bar_and_is_told_once(self):
        assert told("F#5/q G5/q F#5/q F#5/q | F#5/q G5/h.") == ["Bar 1, beat 3, right hand: the F♯ still holds."]

    def test_not_for_another_octave_nor_another_sign(self):
        assert told("F#5/q F#4/q F5/q F#5/q") == []

    def test_what_the_key_signature_has_is_no_accidental(self):
        assert told("F#5/q G5/q F#5/q G5/q", fifths=1) == []
        assert told("F5/q G5/q F5/q G5/q", fifths=1) == ["Bar 1, beat 3, right hand: the F♮ still holds."]

    def test_a_hand_of_its_own_staff(self):
        assert told("F#4/q G4/q A4/h", "C3/h F#4/h") == []

    @pytest.mark.parametrize(
        ("letter", "fifths", "sign"), [("F", 1, "♯"), ("C", 1, ""), ("B", -1, "♭"), ("E", -1, ""), ("B", 7, "♯")]
    )
    def test_signature(self, letter, fifths, sign):
        assert signed_by_key(letter, fifths) == sign


class TestInEachOthersWay:
    def test_a_held_key_is_let_go(self):
        assert told("C5/q E4/q C5/h", "E4/w") == [
            "Bar 1, beat 2: both hands want E4: the left hand lets it go just before.",
        ]

    def test_an_octave_becomes_a_fifth(self):
        assert told("C4/h E4/h", "C3+C4/h G3/h") == [
            "Bar 1, beat 1: both hands want C4: the left hand’s octave becomes a fifth."
        ]

    def test_one_leaves_it_to_the_other(self):
        assert told("C4/w", "C4/w") == ["Bar 1, beat 1: both hands want C4: one of them leaves it to the other."]

    def test_hands_that_cross_are_told_where_they_begin_to(self):
        aids = reading_aids(score_of("C4/q C4/q C5/q C4/q", "E4/q E4/q C3/q E4/q"))
        assert [(aid.kind, aid.words) for aid in aids] == [
            (
                AidKind.HAND_OVER_HAND,
                "Bar 1, beat 1; bar 1, beat 4: one hand lies over the other: hover above the keys before playing.",
            )
        ]
