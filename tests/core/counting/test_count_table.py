"""Expected counts, worked by hand from the rules: every signature, school, density and kind of division.

Each row: signature, rhythm of the right hand (lengths in quarters; ``r`` rest, ``~`` tie; bars divided by
``|``), options, expected counts (strike bare, (hold), [rest]), and where the expectation comes from:
``hb`` the rule or the very words of docs/trade.md 2 (common practice there), ``cp`` common practice, no source,
``tk`` Takadimi syllables (Hoffman, Pelto & White 1996, from memory).
"""

from __future__ import annotations

from fractions import Fraction as F

import pytest

from helpers import shown
from laptick.core.counting.choices import Compound, Density
from laptick.core.counting.counting import count_hand
from laptick.core.counting.word_tables import System
from laptick.core.score.score import Hand
from rhythms import rhythm

BEATS, UNITS = {"compound": Compound.BEATS}, {"compound": Compound.UNITS}
GROUPS, RESTART = {"compound": Compound.GROUPS}, {"compound": Compound.GROUPS_RESTART}
BAR, STEADY = {"density": Density.BAR}, {"density": Density.STEADY}
DURATION, FUNCTION = {"system": System.DURATION}, {"system": System.FUNCTION}

TABLE = [
    # -- numbers, simple time --------------------------------------------------------------------------
    ("2/4", "1 1", {}, "1 2", "hb"),
    ("2/4", "1/2 1/2 1", {}, "1 & 2", "hb"),
    ("2/4", "1/4 1/4 1/4 1/4 1", {}, "1 e & a 2", "hb"),
    ("2/4", "3/4 1/4 1", {}, "1 (e) (&) a 2", "hb 2.3: a divided beat is said complete"),
    ("2/4", "1/3 1/3 1/3 1", {}, "1 trip let 2", "hb"),
    ("3/4", "2 1", {}, "1 (2) 3", "hb"),
    ("3/4", "3/2 1/2 1", {}, "1 (2) & 3", "hb"),
    ("3/4", "1 r1 1", {}, "1 [2] 3", "hb"),
    ("4/4", "4", {}, "1 (2) (3) (4)", "hb"),
    ("4/4", "4~ | 4", {}, "1 (2) (3) (4) | (1) (2) (3) (4)", "hb 2.4: eight counts"),
    ("4/4", "r1/2 1/2 r1 2", {}, "[1] & [2] 3 (4)", "hb 2.3: a written rest divides like a note"),
    ("4/4", "1/2 1/4 1/4 1/4 1/4 1/2 2", {}, "1 (e) & a 2 e & (a) 3 (4)", "hb"),
    ("4/4", "2/3 2/3 2/3 2", {}, "1 trip (2) let 3 (4)", "hb: the very words"),
    ("4/4", "4/3 4/3 4/3", {}, "1 (2) trip (3) let (4)", "cp: as over two beats, every beat said"),
    ("4/4", "2/3 1/3 1 2", {}, "1 (trip) let 2 3 (4)", "hb"),
    ("4/4", "r1/3 2/3 1 2", {}, "[1] trip (let) 2 3 (4)", "hb"),
    ("4/4", "1/5 1/5 1/5 1/5 1/5 1 2", {}, "1 ta ta ta ta 2 3 (4)", "cp: no agreed words; editable"),
    ("4/4", "4/5 4/5 4/5 4/5 4/5", {}, "1 ta (2) ta (3) ta (4) ta", "cp: every beat kept"),
    ("4/4", "1/6 1/6 1/6 1/6 1/6 1/6 1 2", {}, "1 trip let 2 trip let 3 (4) 5 (6) (7) (8)",
     "hb: finer than a quarter of the beat, eighths are counted"),
    ("4/4", "1/8 1/8 1/8 1/8 1/2 1 2", {}, "1 e & a 2 3 (4) 5 (6) (7) (8)", "hb: the same"),
    ("5/4", "1 1 1 1 1", {}, "1 2 3 4 5", "hb"),
    ("5/4", "3 2", {}, "1 (2) (3) 4 (5)", "hb"),
    ("7/4", "2 2 3", {}, "1 (2) 3 (4) 5 (6) (7)", "hb"),
    ("2/2", "2 1 1", {}, "1 2 &", "hb: half beats"),
    ("2/2", "1/2 1/2 1/2 1/2 2", {}, "1 e & a 2", "hb"),
    ("2/2", "2 1 1", {"beat": "quarter"}, "1 (2) 3 4", "hb: in four while learning"),
    ("3/2", "2 1 1 2", {}, "1 2 & 3", "hb"),
    ("4/2", "2 2 2 2", {}, "1 2 3 4", "hb"),
    ("4/4", "1 1 1 1", {"beat": "half"}, "1 & 2 &", "cp: in two"),
    ("3/4", "1 1 1", {"beat": "bar"}, "1 la li", "hb: fast 3/4 in one"),
    ("3/4", "1 1/2 1/2 1", {"beat": "bar"}, "1 (ta) la ta li (ta)", "hb: as a compound beat"),
    # -- 3/8 ---------------------------------------------------------------------------------------------
    ("3/8", "1/2 1/2 1/2", {}, "1 2 3", "hb: slow"),
    ("3/8", "1/4 1/4 1/2 1/2", {}, "1 & 2 3", "hb"),
    ("3/8", "3/2", {}, "1 (2) (3)", "hb"),
    ("3/8", "1/2 1/2 1/2", {"bpm": 200}, "1 la li", "hb: fast, one dotted quarter"),
    ("3/8", "1/2 1/2 1/2", {"bpm": 180}, "1 2 3", "hb: up to 180 units a minute"),
    ("3/8", "1 1/2", {"beat": "dotted-quarter"}, "1 (la) li", "hb"),
    # -- compound ----------------------------------------------------------------------------------------
    ("6/8", "1/2 1/2 1/2 3/2", BEATS, "1 la li 2", "hb"),
    ("6/8", "1/2 1/2 1/2 3/2", UNITS, "1 2 3 4 (5) (6)", "hb"),
    ("6/8", "1/2 1/2 1/2 3/2", GROUPS, "1 2 3 2 (2) (3)", "hb"),
    ("6/8", "1/2 1/2 1/2 3/2", RESTART, "1 2 3 1 (2) (3)", "hb"),
    ("6/8", "1 1/2 1 1/2", BEATS, "1 (la) li 2 (la) li", "hb"),
    ("6/8", "1/4 1/4 1/4 1/4 1/4 1/4 3/2", BEATS, "1 ta la ta li ta 2", "hb"),
    ("6/8", "1/2 1/4 1/4 1/2 3/2", UNITS, "1 2 & 3 4 (5) (6)", "hb"),
    ("6/8", "3/4 3/4 3/2", BEATS, "1 & 2", "hb: duplet"),
    ("6/8", "3/8 3/8 3/8 3/8 3/2", BEATS, "1 e & a 2", "cp: quadruplet as four"),
    ("6/8", "r5/2 1/2", UNITS, "[1] [2] [3] [4] [5] 6", "hb 2.4: a rest on a number says that number"),
    ("6/8", "3/4 1/4 1/2 3/2", BEATS, "1 (ta) (la) ta li (ta) 2", "hb: complete in its sixteenths"),
    ("6/8", "1/2 1/2 1/2 3/2", {"bpm": 60}, "1 2 3 4 (5) (6)", "hb: auto, 180 units a minute"),
    ("6/8", "1/2 1/2 1/2 3/2", {"bpm": 61}, "1 la li 2", "hb: auto, above"),
    ("9/8", "3/2 3/2 1/2 1/2 1/2", BEATS, "1 2 3 la li", "hb"),
    ("9/8", "1/2 1/2 1/2 1/2 1/2 1/2 1/2 1/2 1/2", GROUPS, "1 2 3 2 2 3 3 2 3", "hb: the very words"),
    ("9/8", "1/2 1/2 1/2 1/2 1/2 1/2 1/2 1/2 1/2", RESTART, "1 2 3 1 2 3 1 2 3", "hb: the very words"),
    ("9/8", "9/2", UNITS, "1 (2) (3) (4) (5) (6) (7) (8) (9)", "hb"),
    ("12/8", "3/2 1 1/2 3/2 3/2", BEATS, "1 2 (la) li 3 4", "hb"),
    ("12/8", "3/2 3/2 3/2 3/2", GROUPS, "1 (2) (3) 2 (2) (3) 3 (2) (3) 4 (2) (3)", "hb"),
    ("6/16", "1/4 1/4 1/4 3/4", BEATS, "1 la li 2", "hb: the beat is a dotted eighth"),
    ("6/16", "1/4 1/4 1/4 3/4", UNITS, "1 2 3 4 (5) (6)", "hb"),
    ("6/4", "3 1 1 1", BEATS, "1 2 la li", "hb: the beat is a dotted half"),
    ("6/4", "3 1 1 1", UNITS, "1 (2) (3) 4 5 6", "hb"),
    # -- asymmetric --------------------------------------------------------------------------------------
    ("5/8", "1/2 1/2 1/2 1/2 1/2", BEATS, "1 la li 2 &", "hb: the very words"),
    ("5/8", "1/2 1/2 1/2 1/2 1/2", UNITS, "1 2 3 4 5", "hb: the very words"),
    ("5/8", "1/2 1/2 1/2 1/2 1/2", {**BEATS, "grouping": (2, 3)}, "1 & 2 la li", "hb: grouping is changeable"),
    ("5/8", "3/2 1", UNITS, "1 (2) (3) 4 (5)", "hb"),
    ("7/8", "1/2 1/2 1/2 1/2 1/2 1/2 1/2", BEATS, "1 & 2 & 3 la li", "hb: 2+2+3"),
    ("7/8", "1/2 1/2 1/2 1/2 1/2 1/2 1/2", GROUPS, "1 2 2 2 3 2 3", "hb: the group's number leads"),
    ("7/8", "1 1 3/2", {**BEATS, "grouping": (3, 2, 2)}, "1 (la) li (2) & (3)", "hb"),
    ("8/8", "3/2 3/2 1", BEATS, "1 2 3", "hb: 3+3+2"),
    ("10/8", "3/2 1 3/2 1", BEATS, "1 2 3 4", "hb: 3+2+3+2"),
    ("11/8", "3/2 3/2 3/2 1", BEATS, "1 2 3 4", "hb: 3+3+3+2"),
    ("3+2/8", "1/2 1/2 1/2 1", BEATS, "1 la li 2", "cp: the signature's own terms"),
    ("2+3/8", "1/2 1/2 1/2 1", BEATS, "1 & 2 la (li)", "cp: the signature's own terms"),
    ("2+2+2+3/8", "1 1 1 3/2", BEATS, "1 2 3 4", "cp: nine eighths not in threes"),
    # -- densities ---------------------------------------------------------------------------------------
    ("4/4", "1 1/2 1/2 2 | 4", BAR, "1 (&) 2 & 3 (&) (4) (&) | 1 (2) (3) (4)", "hb 2.3"),
    ("4/4", "1 1/2 1/2 2 | 4", STEADY, "1 (&) 2 & 3 (&) (4) (&) | 1 (&) (2) (&) (3) (&) (4) (&)", "hb 2.3"),
    ("4/4", "1/3 1/3 1/3 1/2 1/2 2", BAR, "1 trip let 2 & 3 (&) (4) (&)", "hb 2.3: triplets stay triplets"),
    ("4/4", "1/3 1/3 1/3 1 2", BAR, "1 trip let 2 3 (4)", "hb 2.3: no duple division to take"),
    ("4/4", "1/4 1/4 1/4 1/4 1 2 | 2 r2", STEADY,
     "1 e & a 2 (e) (&) (a) 3 (e) (&) (a) (4) (e) (&) (a) |"
     " 1 (e) (&) (a) (2) (e) (&) (a) [3] [e] [&] [a] [4] [e] [&] [a]", "hb 2.3"),
    ("6/8", "1/2 1/2 1/2 3/2", {**BEATS, **BAR}, "1 la li 2 (la) (li)", "hb 2.3"),
    ("6/8", "1/4 1/4 1/2 1/2 3/2", {**UNITS, **BAR}, "1 & 2 (&) 3 (&) 4 (&) (5) (&) (6) (&)", "hb 2.3"),
    ("6/8", "3/4 3/4 1/2 1/2 1/2", {**BEATS, **BAR}, "1 & 2 la li", "hb 2.3: a duplet stays a duplet"),
    ("7/8", "1/2 1/2 1 3/2", {**BEATS, **STEADY}, "1 & 2 (&) 3 (la) (li)", "hb 2.3: the finest is the eighth"),
    ("4/4 | 6/8", "1/2 1/2 1 2 | 3/2 3/2", {**BEATS, **STEADY}, "1 & 2 (&) 3 (&) (4) (&) | 1 (la) (li) 2 (la) (li)",
     "hb 2.3: the finest of the passage, across a change of meter"),
    # -- the other systems ---------------------------------------------------------------------------------
    ("4/4", "1/2 1/2 1 3/2 1/2", {"system": System.BEATS}, "1 2 3 (4)", "hb"),
    ("6/8", "1/2 1/2 1/2 r3/2", {"system": System.BEATS, **BEATS}, "1 [2]", "hb"),
    ("4/4", "1 1 2", DURATION, "ta ta ta (a)", "hb: the very words"),
    ("4/4", "3 1", DURATION, "ta (a) (a) ta", "hb: the very words"),
    ("4/4", "1/2 1/2 1/2 1/2 2", DURATION, "ti ti ti ti ta (a)", "hb"),
    ("2/4", "1/4 1/4 1/4 1/4 1", DURATION, "ti ri ti ri ta", "hb: the very words"),
    ("2/4", "1/3 1/3 1/3 1", DURATION, "tri o la ta", "hb: the very words"),
    ("4/4", "1/2 1 1/2 2", DURATION, "syn co pa ta (a)", "hb: the very words"),
    ("4/4", "3/2 1/2 2", DURATION, "ta (i) ti ta (a)", "hb: the very words"),
    ("3/4", "1 r1 1", DURATION, "ta [sh] ta", "hb: the very words"),
    ("4/4", "1 1/2 1/2 2", FUNCTION, "ta ta di ta (ta)", "tk"),
    ("2/4", "1/4 1/4 1/4 1/4 1", FUNCTION, "ta ka di mi ta", "tk"),
    ("2/4", "1/3 1/3 1/3 1", FUNCTION, "ta ki da ta", "tk"),
    ("6/8", "1/2 1/2 1/2 1 1/2", {**FUNCTION, **BEATS}, "ta ki da ta (ki) da", "tk"),
    ("6/8", "1/4 1/4 1/4 1/4 1/4 1/4 3/2", {**FUNCTION, **BEATS}, "ta va ki di da ma ta", "tk"),
    ("6/8", "3/4 3/4 3/2", {**FUNCTION, **BEATS}, "ta di ta", "tk"),
    ("4/4", "2/3 2/3 2/3 2", FUNCTION, "ta da (ta) ki ta (ta)", "tk: by the place in the beat"),
    ("4/4", "1 1/2 1/2 1 1", {"system": System.LENGTH}, "long short short long long", "hb"),
    ("4/4", "2 1/2 1/2 1 | 1/2 1/2 1 r2", {"system": System.LENGTH}, "long short short long | short short long [rest]",
     "hb: against the two commonest, quarter and eighth; the half is nearer to the quarter"),
    ("4/4", "1 1 r2", {"system": System.NAMES}, "C C [rest]", "hb"),
    ("4/4", "1 1 1 1", {"system": System.HANDS}, "right right right right", "hb"),
]  # fmt: skip


def counted(score, hand, options):
    bpm = options.get("bpm")
    choices = {key: value for key, value in options.items() if key != "bpm"}
    bars = count_hand(score, hand, bpm=bpm, **choices).bars
    return " | ".join(shown(bar) for bar in bars)


@pytest.mark.parametrize(("time", "right", "options", "expected", "source"), TABLE)
def test_counts_by_hand(time, right, options, expected, source):
    assert counted(rhythm(time, right), Hand.RIGHT, options) == " ".join(expected.split())


def test_the_table_has_at_least_eighty_bars():
    assert sum(row[1].count("|") + 1 for row in TABLE) >= 80


COMPOSITE = [
    # signature, right, left, options, expected composite, source
    ("4/4", "1/3 1/3 1/3 1 2", "1/2 1/2 1 2", {}, "1 trip & let 2 3 (4)", "hb: three against two in one beat"),
    ("4/4", "2/3 2/3 2/3 2", "1 1 2", {}, "1 trip 2 let 3 (4)", "hb: over two beats; the middle beat is struck here"),
    ("4/4", "1/3 1/3 1/3 1 2", "1/4 1/4 1/4 1/4 1 2", {}, "1 e trip & let a 2 3 (4)", "cp: four against three"),
    ("6/8", "1/2 1/2 1/2 3/2", "3/4 3/4 3/2", BEATS, "1 (ta) la ta li (ta) 2",
     "hb: two against three falls on the sixteenths of the compound beat"),
    ("4/4", "1 r1 2", "r1 1 r2", {}, "1 2 3 (4)", "hb: rest only where both are silent"),
    ("4/4", "1 1 r2", "r2 1 1", {"system": System.HANDS}, "right right left left", "hb"),
    ("4/4", "1 1/2 1/2 2", "2 2", {"system": System.HANDS}, "together right right together", "hb"),
    ("2/4", "1/2 1/2 1", "1 1", FUNCTION, "ta di ta", "tk"),
]  # fmt: skip


@pytest.mark.parametrize(("time", "right", "left", "options", "expected", "source"), COMPOSITE)
def test_composite_counts_by_hand(time, right, left, options, expected, source):
    assert counted(rhythm(time, right, left), None, options) == expected


def test_a_swung_rhythm_in_one_hand_is_no_triplet_over_two_beats():
    swung = "2/3 1/3 1/3 2/3 2"
    assert counted(rhythm("4/4", swung), Hand.RIGHT, {}) == "1 (trip) let 2 trip (let) 3 (4)"
    assert counted(rhythm("4/4", swung, "4"), None, {}) == "1 (trip) let 2 trip (let) 3 (4)"


def test_a_pickup_is_counted_from_its_own_number_and_its_offsets_from_its_own_bar():
    score = rhythm("4/4", "1/2 1/2 | 4")
    [pickup, _] = count_hand(score, Hand.RIGHT).bars
    assert [(count.say, count.offset_quarters) for count in pickup] == [("4", 0), ("&", F(1, 2))]


def test_names_take_the_outer_notes():
    from laptick.core.score.score import Note, Score

    plain = rhythm("4/4", "4", "4")
    notes = [
        Note("a", Hand.RIGHT, "1", 0, F(0), F(4), 64, "E4"),
        Note("b", Hand.RIGHT, "1", 0, F(0), F(4), 67, "G4"),
        Note("c", Hand.LEFT, "1", 0, F(0), F(4), 48, "C3"),
        Note("d", Hand.LEFT, "1", 0, F(0), F(4), 53, "F3"),
    ]
    score = Score("", "", plain.measures, tuple(sorted(notes, key=lambda n: n.pitch)))
    said = {hand: counted(score, hand, {"system": System.NAMES}) for hand in (Hand.RIGHT, Hand.LEFT, None)}
    assert said == {Hand.RIGHT: "G", Hand.LEFT: "C", None: "G"}
