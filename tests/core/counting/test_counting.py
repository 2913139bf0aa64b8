"""Counting. Every bar of the demo pieces by hand; single rules by small bars.

Source of the rules: docs/trade.md 2 (common practice); the counts below were worked by hand from the notes.
"""

from __future__ import annotations

import pytest

from helpers import demo_score, score_of, shown
from laptick.core.counting.count_in import count_in
from laptick.core.counting.counted_beats import resolve_compound
from laptick.core.counting.counting import Compound, Density, count_hand
from laptick.core.rhythm.rests import hand_rests
from laptick.core.rhythm.syncopation import find_syncopations
from laptick.core.score.hand_line import hand_line
from laptick.core.score.meter import TimeSignature, meter_of
from laptick.core.score.score import HANDS, Hand

# Strike bare, (hold), [rest]; bars in order.
BY_HAND = {
    ("harbour-steps", Hand.RIGHT): """1 2 & 3 4 | 1 & (2) & 3 (4) | 1 2 & 3 4 | 1 (2) & 3 [4]
        | 1 2 & 3 4 | 1 & (2) & (3) (4) | 1 & 2 & 3 4 | 1 (2) & 3 (4)""",
    ("harbour-steps", Hand.LEFT): """1 (2) 3 (4) | 1 2 3 4 | 1 (2) 3 (4) | 1 2 3 (4)
        | 1 (2) 3 (4) | 1 2 3 4 | 1 2 3 4 | 1 2 3 (4)""",
    ("harbour-steps", None): """1 2 & 3 4 | 1 & 2 & 3 4 | 1 2 & 3 4 | 1 2 & 3 (4)
        | 1 2 & 3 4 | 1 & 2 & 3 4 | 1 & 2 & 3 4 | 1 2 & 3 (4)""",
    ("kite-over-the-orchard", Hand.RIGHT): """3 | 1 2 & 3 | 1 (2) 3 | 1 2 & 3 | 1 (2) 3 | 1 2 & 3
        | 1 trip let 2 (3) | 1 2 3 | 1 (2) 3 | 1 & 2 3 | 1 trip let 2 (3) | 1 2 & 3 | 1 (2)""",
    ("kite-over-the-orchard", Hand.LEFT): """[3] | 1 2 3 | 1 2 [3] | 1 2 3 | 1 2 [3] | 1 2 3 | 1 2 3 | 1 2 3
        | 1 2 [3] | 1 2 3 | 1 2 3 | 1 2 3 | 1 (2)""",
    ("kite-over-the-orchard", None): """3 | 1 2 & 3 | 1 2 3 | 1 2 & 3 | 1 2 3 | 1 2 & 3
        | 1 trip let 2 3 | 1 2 3 | 1 2 3 | 1 & 2 3 | 1 trip let 2 3 | 1 2 & 3 | 1 (2)""",
    ("lantern-boat", Hand.RIGHT): """1 (2) (3) 4 (5) (6) | 1 (2) 3 4 (5) (6) | 1 2 3 4 (5) 6 | 1 (2) (3) [4] [5] [6]
        | 1 (2) 3 4 (5) 6 | 1 (2) (3) 4 (5) (6) | 1 2 3 4 (5) (6) | 1 (2) (3) (4) (5) (6)""",
    ("lantern-boat", Hand.LEFT): """1 2 3 4 5 6 | 1 (2) (3) 4 (5) 6 | 1 (2) (3) 4 (5) (6) | 1 2 3 4 (5) (6)
        | 1 2 3 4 5 6 | 1 (2) 3 4 (5) (6) | 1 (2) (3) 4 (5) 6 | 1 (2) (3) 4 (5) (6)""",
    ("lantern-boat", None): """1 2 3 4 5 6 | 1 (2) 3 4 (5) 6 | 1 2 3 4 (5) 6 | 1 2 3 4 (5) (6)
        | 1 2 3 4 5 6 | 1 (2) 3 4 (5) (6) | 1 2 3 4 (5) 6 | 1 (2) (3) 4 (5) (6)""",
    ("copper-kettle-parade", Hand.RIGHT): """1 2 | 1 e & a 2 | 1 (e) (&) a 2 | 1 2 | 1 2 | 1 e & a 2 | 1 (e) (&) a 2 &
        | 1 (2) | 1 & 2 | 1 & 2 | 1 e & a 2 & | 1 [&] 2 | 1 2 | 1 e & a 2 | 1 (e) (&) a 2 & | 1 [2]""",
    ("copper-kettle-parade", Hand.LEFT): """1 & 2 & | 1 2 | 1 2 | 1 & 2 & | 1 & 2 & | 1 2 | 1 2 | 1 [2]
        | 1 2 | 1 2 | 1 2 | 1 2 | 1 & 2 & | 1 2 | 1 2 | 1 [2]""",
    ("copper-kettle-parade", None): """1 & 2 & | 1 e & a 2 | 1 (e) (&) a 2 | 1 & 2 & | 1 & 2 & | 1 e & a 2
        | 1 (e) (&) a 2 & | 1 (2) | 1 & 2 | 1 & 2 | 1 e & a 2 & | 1 2 | 1 & 2 & | 1 e & a 2 | 1 (e) (&) a 2 & | 1 [2]""",
}


@pytest.mark.parametrize(("name", "hand"), BY_HAND, ids=lambda value: str(value))
def test_every_bar_of_the_demo_pieces(name, hand):
    expected = [" ".join(bar.split()) for bar in BY_HAND[name, hand].split("|")]
    assert [shown(bar) for bar in count_hand(demo_score(name), hand).bars] == expected


def right_counts(score, **options) -> list[str]:
    return [shown(bar) for bar in count_hand(score, Hand.RIGHT, **options).bars]


class TestDensity:
    piece = score_of("C5/q D5/e E5/e C5/h | C5/w | C5/et D5/et E5/et C5/q D5/s D5/s D5/e C5/q")

    def test_beat_divides_only_where_something_happens(self):
        assert right_counts(self.piece) == ["1 2 & 3 (4)", "1 (2) (3) (4)", "1 trip let 2 3 e & (a) 4"]

    def test_bar_takes_the_bars_finest_duple_division_and_leaves_triplets(self):
        assert right_counts(self.piece, density=Density.BAR) == [
            "1 (&) 2 & 3 (&) (4) (&)",
            "1 (2) (3) (4)",
            "1 trip let 2 (e) (&) (a) 3 e & (a) 4 (e) (&) (a)",
        ]

    def test_steady_keeps_the_passages_finest_through_long_notes(self):
        assert right_counts(self.piece, density=Density.STEADY)[1] == (
            "1 (e) (&) (a) (2) (e) (&) (a) (3) (e) (&) (a) (4) (e) (&) (a)"
        )


COMPOUND = [
    (Compound.BEATS, ["1 (la) li 2", "1 ta la ta li ta 2 (la) li"]),
    (Compound.UNITS, ["1 (2) 3 4 (5) (6)", "1 & 2 & 3 & 4 (5) 6"]),
    (Compound.GROUPS, ["1 (2) 3 2 (2) (3)", "1 & 2 & 3 & 2 (2) 3"]),
    (Compound.GROUPS_RESTART, ["1 (2) 3 1 (2) (3)", "1 & 2 & 3 & 1 (2) 3"]),
]


@pytest.mark.parametrize(("compound", "expected"), COMPOUND)
def test_compound_schools(compound, expected):
    score = score_of("C5/q D5/e C5/q. | C5/s D5/s C5/s D5/s C5/s D5/s C5/q D5/e", time=(6, 8))
    assert right_counts(score, compound=compound) == expected


def test_a_duplet_in_a_compound_beat():
    assert right_counts(score_of("C5/e. D5/e. C5/q.", time=(6, 8)), compound=Compound.BEATS) == ["1 & 2"]


@pytest.mark.parametrize(("bpm", "chosen"), [(60, Compound.UNITS), (61, Compound.BEATS), (None, Compound.UNITS)])
def test_auto_counts_units_up_to_180_a_minute(bpm, chosen):
    assert resolve_compound(Compound.AUTO, meter_of(TimeSignature(6, 8)), bpm)[0] is chosen


def test_a_triplet_over_two_beats_keeps_both_beats():
    score = score_of("C5/qt D5/qt E5/qt C5/h")
    assert right_counts(score) == ["1 trip (2) let 3 (4)"]


def test_three_against_two_in_one_beat():
    score = score_of("C5/et D5/et E5/et C5/h.", "C3/e D3/e C3/h.")
    assert shown(count_hand(score, None).bars[0]) == "1 trip & let 2 (3) (4)"


def test_finer_than_a_quarter_of_the_beat_the_next_smaller_unit_is_counted_and_said_so():
    score = score_of("C5/q C5/s. C5/s. C5/s. C5/s. C5/s C5/e C5/s C5/e")
    counted = count_hand(score, Hand.RIGHT)
    assert shown(counted.bars[0]).startswith("1 (2) 3")
    assert counted.changes[0].after == "count in eighths"


def test_a_tie_over_two_bars_is_eight_counts():
    score = score_of("C5/w~ | C5/w")
    assert right_counts(score) == ["1 (2) (3) (4)", "(1) (2) (3) (4)"]


def test_a_rest_says_its_own_number_and_divides_like_a_note():
    assert right_counts(score_of("C5/e r/e r/q C5/h")) == ["1 [&] [2] 3 (4)"]


def test_changes_of_division_are_announced_at_their_beat():
    counted = count_hand(demo_score("kite-over-the-orchard"), Hand.RIGHT)
    score = demo_score("kite-over-the-orchard")
    told = [(score.measures[c.measure_index].number, c.offset_quarters, c.before, c.after) for c in counted.changes]
    assert told == [
        ("6", 0, "eighths", "triplets"),
        ("9", 0, "triplets", "eighths"),
        ("10", 0, "eighths", "triplets"),
        ("11", 1, "triplets", "eighths"),
    ]


COUNT_INS = [
    # rhythm, signature, pickup, compound, bpm, said (docs/trade.md 2.5)
    ("C5/q C5/q C5/h", (4, 4), False, Compound.AUTO, 60, "1 2 ready go"),
    ("C5/q C5/q C5/q", (3, 4), False, Compound.AUTO, 60, "1 ready go"),
    ("C5/e C5/e C5/h", (3, 4), False, Compound.AUTO, 60, "1 & ready & go &"),
    ("C5/q C5/q", (2, 4), False, Compound.AUTO, 60, "1 2 ready go"),
    ("C5/q. C5/q.", (6, 8), False, Compound.BEATS, 60, "1 2 ready go"),
    ("C5/q. C5/q.", (6, 8), False, Compound.UNITS, 60, "1 2 3 4 5 6"),
    ("C5/q | C5/w", (4, 4), True, Compound.AUTO, 60, "1 ready go"),
    ("C5/e | C5/q.", (3, 8), True, Compound.AUTO, 60, "1 2"),
    ("C5/s C5/s | C5/q.", (3, 8), True, Compound.AUTO, 60, "1 & 2 &"),
    ("C5/q C5/q C5/h", (4, 4), False, Compound.AUTO, 200, "1 2 3 4 1 2 ready go"),
    ("C5/h. | C5/w", (4, 4), True, Compound.AUTO, 60, "1 2 3 ready go"),
    ("C5/e C5/e C5/e C5/e C5/e", (5, 8), False, Compound.AUTO, 60, "1 2 3 4 5"),
]


@pytest.mark.parametrize(("right", "time", "pickup", "compound", "bpm", "said"), COUNT_INS)
def test_count_ins(right, time, pickup, compound, bpm, said):
    score = score_of(right, time=time, pickup=pickup)
    counts = count_hand(score, None, compound=compound, bpm=bpm)
    words = count_in(counts, bpm)
    assert " ".join(word.say for word in words) == said
    assert all(word.offset_quarters < 0 for word in words)


SYNCOPATIONS = [
    # rhythm, (strength, name) of each: docs/trade.md 2.6, worked there
    ("C5/h. C5/e C5/e~ | C5/w", [(3, "tied over the bar")]),
    ("C5/q C5/e C5/q C5/e C5/q", [(2, "off-beat held over 3")]),
    ("C5/e C5/q C5/e C5/h", [(1, "off-beat held over 2")]),
    ("C5/q C5/q r/h", [(1, "silence on 3")]),
    ("C5/q C5/q C5/q C5/q", []),
]


@pytest.mark.parametrize(("right", "expected"), SYNCOPATIONS)
def test_syncopations_by_hand(right, expected):
    score = score_of(right)
    found = find_syncopations(score, hand_line(score, Hand.RIGHT), score.measures, Hand.RIGHT)
    assert [(s.strength, s.name) for s in found] == expected
    assert all(s.is_taught != s.name.startswith("silence") for s in found)


def test_rests_are_listed_bar_by_bar_as_written():
    score = demo_score("lantern-boat")
    rests = hand_rests(hand_line(score, Hand.RIGHT), score.measures, Hand.RIGHT)
    assert [(score.measures[r.measure_index].number, r.offset_quarters, r.length_quarters) for r in rests] == [
        ("4", 3 / 2, 3 / 2)
    ]
    silent = score_of("C5/w | C5/q r/e r/e C5/h")
    rests = hand_rests(hand_line(silent, Hand.RIGHT), silent.measures, Hand.RIGHT)
    assert [(r.measure_index, r.offset_quarters, r.length_quarters) for r in rests] == [(1, 1, 0.5), (1, 1.5, 0.5)]
    empty = hand_rests(hand_line(silent, Hand.LEFT), silent.measures, Hand.LEFT)
    assert [r.length_quarters for r in empty if r.measure_index == 0] == [4]


def test_every_count_is_one_of_three_kinds_and_every_strike_is_counted():
    for name in ("harbour-steps", "kite-over-the-orchard", "lantern-boat", "copper-kettle-parade"):
        score = demo_score(name)
        for hand in (*HANDS, None):
            counted = count_hand(score, hand)
            strikes = {
                measure.start_quarters + count.offset_quarters
                for measure, bar in zip(score.measures, counted.bars, strict=True)
                for count in bar
                if count.kind.value == "strike"
            }
            assert strikes == set(hand_line(score, hand).strikes)
