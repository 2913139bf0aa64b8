"""Typed passages: faults named in words, and the score they make; hand-worked."""

from __future__ import annotations

from fractions import Fraction as F

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from helpers import assert_same_music
from laptick.core.base.errors import LimitError, OptionError
from laptick.core.base.units import LengthNaming
from laptick.core.counting.counting import count_line
from laptick.core.editing.entry import MAX_EVENTS, Entry, EntryBar, TypedEvent, bar_faults, entry_score
from laptick.core.score.meter import TimeSignature
from laptick.core.score.score import HANDS, Hand
from laptick.formats.documents.entry import entry_document, entry_of
from laptick.formats.musicxml.file import open_musicxml
from laptick.formats.musicxml_writing.writer import write_musicxml

WALTZ = TimeSignature(3, 4)


def e(length, *pitches, tied=False) -> TypedEvent:
    return TypedEvent(F(length), pitches, is_tied=tied)


def r(length) -> TypedEvent:
    return TypedEvent(F(length), is_rest=True)


def entry(*bars, signature=WALTZ, pickup=F(0)) -> Entry:
    made = [EntryBar(*(tuple(hand) for hand in (bar if isinstance(bar, tuple) else (bar, [])))) for bar in bars]
    return Entry("Passage", signature, tuple(made), pickup)


@pytest.mark.parametrize(
    ("events", "text", "is_unfinished"),
    [
        ([e(1), e(1), e(F(1, 2)), e(1)], "bar 1 is one eighth too long, right hand", False),
        ([e(1), e(1)], "bar 1 is one quarter short, right hand", True),
        ([e(2), e(2)], "bar 1 is one quarter too long, right hand", False),
        ([e(1)], "bar 1 is one half short, right hand", True),
        ([e(F(5, 2))], "bar 1 is one eighth short, right hand", True),
        ([e(F(9, 4))], "bar 1 is three sixteenths short, right hand", True),
        ([e(1), e(1), e(F(1, 3)), e(F(1, 3))], "bar 1 is one triplet eighth short, right hand", True),
        ([e(2), e(F(1, 3)), e(F(2, 3)), e(F(2, 3))], "bar 1 is two triplet eighths too long, right hand", False),
    ],
)
def test_a_fault_says_how_much(events, text, is_unfinished):
    faults = bar_faults(entry(events))
    assert [(f.text, f.is_unfinished) for f in faults] == [(text, is_unfinished)]


def test_faults_use_the_studios_names_and_the_names_of_bars():
    faults = bar_faults(entry([e(1)], [e(1), e(1)], pickup=F(1)), LengthNaming.BRITISH)
    assert [f.text for f in faults] == ["bar 1 is one crotchet short, right hand"]


def test_full_bars_and_empty_hands_are_no_fault():
    assert bar_faults(entry(([e(1)] * 3, []), ([], [e(3)]), ([], []))) == []


def lines(score, hand):
    return [
        (n.name, n.onset_quarters, n.duration_quarters, n.tied_from_before, n.tied_onward)
        for n in score.notes
        if n.hand is hand
    ]


def test_a_passage_makes_a_score():
    typed = entry(
        (
            [e(1, "C5"), e(F(1, 2), "D5"), e(F(1, 2), "E5"), e(1, "F♯5", tied=True)],
            [e(1, "C3"), e(1, "E3", "G3"), r(1)],
        ),
        ([e(2, "F♯5"), e(1)], []),
    )
    score = entry_score(typed)
    assert lines(score, Hand.RIGHT) == [
        ("C5", 0, 1, False, False), ("D5", 1, F(1, 2), False, False), ("E5", F(3, 2), F(1, 2), False, False),
        ("F♯5", 2, 1, False, True), ("F♯5", 3, 2, True, False), ("x", 5, 1, False, False),
    ]  # fmt: skip
    assert lines(score, Hand.LEFT) == [
        ("C3", 0, 1, False, False),
        ("E3", 1, 1, False, False),
        ("G3", 1, 1, False, False),
    ]
    left = [(x.onset_quarters, x.duration_quarters) for x in score.rests if x.hand is Hand.LEFT]
    assert left == [(2, 1), (3, 3)]  # its own rest, and the bar in which it has nothing
    assert [m.number for m in score.measures] == ["1", "2"]
    assert [c.say for c in count_line(score, Hand.RIGHT).bars[0]] == ["1", "2", "&", "3"]


def test_an_upbeat_is_a_bar_of_its_own_length():
    score = entry_score(entry([e(1, "D5")], [e(3, "G5")], pickup=F(1)))
    assert [(m.number, m.length_quarters, m.lead_quarters) for m in score.measures] == [("0", 1, 2), ("1", 3, 0)]
    assert [c.say for c in count_line(score, Hand.RIGHT).bars[0]] == ["3"]


def test_what_is_too_long_is_left_out_and_what_is_short_is_silent_and_both_are_said():
    score = entry_score(entry([e(2, "C5"), e(2, "D5")], [e(1, "E5")]))
    assert lines(score, Hand.RIGHT) == [
        ("C5", 0, 2, False, False), ("D5", 2, 1, False, False), ("E5", 3, 1, False, False),
    ]  # fmt: skip
    assert [(x.onset_quarters, x.duration_quarters) for x in score.rests] == [(4, 2)]
    assert [(n.kind, n.measure, n.text) for n in score.notices] == [
        ("unused", "1", "bar 1 is one quarter too long, right hand: what reaches over is left out"),
        ("changed", "2", "bar 2 is one half short, right hand: the rest of it is silent"),
    ]


def test_a_tie_needs_the_same_key_next():
    score = entry_score(entry([e(1, "C5", tied=True), e(1, "D5", tied=True), e(1, "D5", tied=True)]))
    assert [(n.tied_from_before, n.tied_onward) for n in score.notes] == [(False, False), (False, True), (True, False)]
    chord = entry_score(entry([e(1, "C5", "E5", tied=True), e(2, "E5", "G5")]))
    assert [(n.name, n.tied_onward) for n in chord.notes if n.tied_onward] == [("E5", True)]


@pytest.mark.parametrize(
    ("broken", "family"),
    [
        (entry([e(1, "H5")]), OptionError), (entry([e(F(1, 100))]), OptionError), (entry([e(9)]), OptionError),
        (entry([e(1)], signature=TimeSignature(33, 4)), OptionError), (entry([e(1)], pickup=F(3)), OptionError),
        (entry([e(F(1, 16))] * (MAX_EVENTS + 1)), LimitError), (Entry("x", WALTZ, ()), LimitError),
        (entry([e(1, *["C5"] * 11)]), LimitError),
    ],
)  # fmt: skip
def test_what_cannot_be(broken, family):
    with pytest.raises(family):
        entry_score(broken)


LENGTHS = [F(1, 4), F(1, 3), F(1, 2), F(3, 4), F(1), F(3, 2), F(2), F(3)]
EVENTS = st.builds(
    TypedEvent,
    st.sampled_from(LENGTHS),
    st.lists(st.sampled_from(["C4", "E♭4", "F♯5", "B3"]), unique=True, max_size=2).map(tuple),
    st.booleans(),
    st.booleans(),
)


@settings(max_examples=80, deadline=None)
@given(st.lists(st.tuples(st.lists(EVENTS, max_size=6), st.lists(EVENTS, max_size=6)), min_size=1, max_size=4))
def test_every_passage_makes_a_score_that_is_written_and_read_back(bars):
    typed = entry(*bars)
    assert entry_of(entry_document(typed)) == typed
    score = entry_score(typed)
    for measure in score.measures:  # whatever was typed, each hand that plays fills each bar
        for hand in {n.hand for n in score.notes}:
            inside = [*score.notes_of_measure(measure.index), *score.rests_of_measure(measure.index)]
            spans = {(x.onset_quarters, x.end_quarters) for x in inside if x.hand is hand}
            assert sum((end - start for start, end in spans), F(0)) == measure.length_quarters
    again = open_musicxml(write_musicxml(score), allow_silent=True).score
    if {n.hand for n in score.notes} == set(HANDS):
        assert_same_music(again, score)
    assert [(n.onset_quarters, n.pitch, n.duration_quarters) for n in again.notes] == [
        (n.onset_quarters, n.pitch, n.duration_quarters) for n in score.notes
    ]
