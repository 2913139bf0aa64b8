"""Syncopations, cells, traps, rests, worth of lengths: hand-worked.

Syncopation by Longuet-Higgins & Lee (Music Perception 1(4), 1984) with the weights of docs/trade.md 2.6; the
rest common practice.
"""

from __future__ import annotations

from fractions import Fraction as F

import pytest

from laptick.core.counting.choices import Compound
from laptick.core.counting.counting import count_hand
from laptick.core.counting.traps import find_traps, lengths_worth
from laptick.core.rhythm.cells import find_cells
from laptick.core.rhythm.rests import hand_rests
from laptick.core.rhythm.syncopation import find_syncopations
from laptick.core.score.hand_line import hand_line
from laptick.core.score.score import Hand
from rhythms import rhythm

SYNCOPATIONS = [
    # signature, rhythm, (onset, strength, name, onset of the silent position) of each
    ("4/4", "7/2 1/2~ | 4", [(F(7, 2), 3, "tied over the bar", F(4))]),
    ("4/4", "1 1/2 1 1/2 1", [(F(3, 2), 2, "off-beat held over 3", F(2))]),
    ("4/4", "1/2 1 1/2 2", [(F(1, 2), 1, "off-beat held over 2", F(1))]),
    ("4/4", "3/2 5/2", [(F(3, 2), 2, "anticipation of 3", F(2))]),
    ("4/4", "1 2 1", [(F(1), 1, "held over 3", F(2))]),
    ("4/4", "1 1 r2", [(F(1), 1, "silence on 3", F(2))]),
    ("4/4", "1/2 r1/2 1 2", []),  # silence on the weaker position after a stronger note
    ("4/4", "1/4 1/2 1/4 1 2", [(F(1, 4), 1, "off-beat held over the & of 1", F(1, 2))]),
    ("4/4", "4", []),
    ("2/4", "1/2 1 1/2", [(F(1, 2), 1, "off-beat held over 2", F(1))]),
    ("3/4", "1/2 1 3/2", [(F(1, 2), 1, "off-beat held over 2", F(1)), (F(3, 2), 1, "off-beat held over 3", F(2))]),
    ("3/4", "1 2~ | 3", [(F(1), 1, "tied over the bar", F(3))]),
    ("6/8", "1/2 3/2 1", [(F(1, 2), 1, "off-beat held over 2", F(3, 2))]),
    ("6/8", "3/2 1/2 1~ | 3", [(F(2), 2, "tied over the bar", F(3))]),
    ("5/8", "1 1 1/2", [(F(1), 1, "off-beat held over 2", F(3, 2))]),
    ("5/4", "2 2 1", [(F(2), 1, "held over 4", F(3))]),
    ("2/2", "1 2 1", [(F(1), 1, "off-beat held over 2", F(2))]),
]


@pytest.mark.parametrize(("time", "right", "expected"), SYNCOPATIONS)
def test_syncopations(time, right, expected):
    score = rhythm(time, right)
    found = find_syncopations(score, hand_line(score, Hand.RIGHT), score.measures, Hand.RIGHT)
    assert [(s.onset_quarters, s.strength, s.name, s.silent_quarters) for s in found] == expected
    assert all(s.is_taught != s.name.startswith("silence") for s in found)


CELLS = [
    ("4/4", "3/2 3/2 1", [("tresillo", 0, (3, 3, 2), F(1, 2))]),
    ("4/4", "3/4 3/4 1/2 2", [("tresillo", 0, (3, 3, 2), F(1, 4))]),
    ("4/4", "2 3/4 3/4 1/2", [("tresillo", 2, (3, 3, 2), F(1, 4))]),
    ("2/4", "3/4 3/4 1/2", [("tresillo", 0, (3, 3, 2), F(1, 4))]),
    ("2/4", "3/2 1/2~ | 1 1", [("tresillo", 0, (3, 3, 2), F(1, 2))]),
    ("4/4", "3/4 3/4 3/4 3/4 1/2 1/2", [("double tresillo", 0, (3, 3, 3, 3, 2, 2), F(1, 4))]),
    ("4/4", "3/2 3/2 1~ | 1/2 3/2 1 1", [("double tresillo", 0, (3, 3, 3, 3, 2, 2), F(1, 2))]),
    ("4/4", "3/2 5/2", [("charleston", 0, (3, 5), F(1, 2))]),
    ("4/4", "3/2 1/2 r2", [("charleston", 0, (3, 5), F(1, 2))]),
    ("3/4", "2 1~ | 1 2", [("hemiola", 0, (2, 2, 2), F(1))]),
    ("6/8", "1 1 1", [("hemiola", 0, (2, 2, 2), F(1, 2))]),
    ("4/4", "r1/2 1 1 1 1/2~ | 1/2 1/2 3", [("off-beat run", F(1, 2), (2, 2, 2, 2, 1), F(1, 2))]),
    ("4/4", "1 1 1 1", []),
    ("3/4", "1 1 1 | 1 1 1", []),
    ("4/4", "1/2 1/2 1/2 1/2 2", []),
]


@pytest.mark.parametrize(("time", "right", "expected"), CELLS)
def test_cells(time, right, expected):
    score = rhythm(time, right)
    found = find_cells(hand_line(score, Hand.RIGHT), score.measures, Hand.RIGHT)
    assert [(c.name, c.onset_quarters, c.units, c.unit_quarters) for c in found] == expected


def test_a_strike_inside_a_hemiola_is_named_so():
    score = rhythm("3/4", "2 1~ | 1 2")
    [found] = find_syncopations(score, hand_line(score, Hand.RIGHT), score.measures, Hand.RIGHT)
    assert (found.name, found.onset_quarters) == ("hemiola", 2)


TRAPS = [
    ("4/4", "1/2 1/2 1/3 1/3 1/3 2", [("triplet-beside-eighths", "1", 1)]),
    ("4/4", "1/3 1/3 1/3 1 1/2 1/2 1", []),  # a whole beat between them
    ("4/4", "3/4 1/4 1/3 1/3 1/3 2", [("dotted-beside-triplet", "1", 1)]),
    ("4/4", "1/2 1/2 1/2 1/2 2", []),
    ("4/4", "1 1 1 1/2 1/2 | 1/3 1/3 1/3 3", [("triplet-beside-eighths", "2", 0)]),
]


@pytest.mark.parametrize(("time", "right", "expected"), TRAPS)
def test_traps(time, right, expected):
    score = rhythm(time, right)
    counted = count_hand(score, Hand.RIGHT)
    found = find_traps(counted, hand_line(score, Hand.RIGHT))
    assert [(t.kind, score.measures[t.measure_index].number, t.offset_quarters) for t in found] == expected
    assert all(t.text.endswith(".") for t in found)


WORTH = [
    # signature, rhythm, options, (length, counts)
    ("3/8", "1/2 1", {}, [("eighth", 1), ("quarter", 2)]),
    ("6/8", "1/2 1 3/2", {"compound": Compound.UNITS}, [("eighth", 1), ("quarter", 2), ("dotted quarter", 3)]),
    ("6/8", "1/2 1 3/2", {"compound": Compound.BEATS}, [("eighth", F(1, 3)), ("quarter", F(2, 3)), ("dotted quarter", 1)]),
    ("4/4", "1/2 1/2 1 2", {}, [("eighth", F(1, 2)), ("quarter", 1), ("half", 2)]),
    ("2/2", "2 1 1", {}, [("quarter", F(1, 2)), ("half", 1)]),
    ("2/2", "2 1 1", {"beat": "quarter"}, [("quarter", 1), ("half", 2)]),
    ("5/8", "3/2 1", {"compound": Compound.BEATS}, [("quarter", 2), ("dotted quarter", 3)]),
]  # fmt: skip


@pytest.mark.parametrize(("time", "right", "options", "expected"), WORTH)
def test_what_each_length_is_worth(time, right, options, expected):
    score = rhythm(time, right)
    found = lengths_worth(score, count_hand(score, Hand.RIGHT, **options))
    assert [(w.name, w.counts) for w in found] == expected


def test_a_rest_knows_where_the_hand_comes_in_again():
    score = rhythm("4/4", "1 r1 r2 | r1/2 1/2 3")
    rests = hand_rests(hand_line(score, Hand.RIGHT), score.measures, Hand.RIGHT)
    assert [(r.measure_index, r.offset_quarters, r.length_quarters, r.entry_quarters) for r in rests] == [
        (0, 1, 1, F(9, 2)), (0, 2, 2, F(9, 2)), (1, 0, F(1, 2), F(9, 2))
    ]  # fmt: skip
    silent = rhythm("4/4", "1 r3")
    assert hand_rests(hand_line(silent, Hand.RIGHT), silent.measures, Hand.RIGHT)[-1].entry_quarters is None
