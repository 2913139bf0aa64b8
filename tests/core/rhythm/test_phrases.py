"""Where phrases begin, on short scores; hand-worked. The rules are common practice, no source."""

from __future__ import annotations

from fractions import Fraction as F

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from helpers import DEMO, demo_score, score_of
from laptick.core.base.errors import OptionError
from laptick.core.editing.changes import AddLift, AddPhrase, NoteRef, PencilChange
from laptick.core.editing.pencil import apply_pencil
from laptick.core.rhythm.phrases import check_places, find_phrases
from laptick.core.score.score import Place

BAR = "C5/q D5/q E5/q G5/q"
OTHER = "C5/h D5/h"
EIGHT = score_of(" | ".join([BAR, OTHER, BAR, OTHER, BAR, OTHER, BAR, BAR]))


def starts(score, own=()):
    return [p.start_quarters for p in find_phrases(score, own).phrases]


def test_every_four_bars_where_nothing_tells():
    phrasing = find_phrases(EIGHT)
    assert [p.start_quarters for p in phrasing.phrases] == [0, 16]
    assert [(p.letter, p.same_rhythm_as, p.same_notes_as) for p in phrasing.phrases] == [
        ("A", None, None), ("B", None, None),
    ]  # fmt: skip
    assert (phrasing.phrases[0].last, phrasing.is_own) == (Place("4", F(2)), False)


def test_the_upbeat_goes_with_its_phrase():
    score = demo_score("kite-over-the-orchard")
    first = score.measures[0]
    whole = next(m for m in score.measures if not m.is_pickup)
    upbeat = first.length_quarters if first.is_pickup else F(0)
    fifth = score.measures[whole.index + 4]
    assert starts(score)[1] == fifth.start_quarters - upbeat


def pencilled(score, *changes):
    made = apply_pencil(score, [PencilChange(str(i), change) for i, change in enumerate(changes)])
    assert [o.problem for o in made.outcomes] == [None] * len(changes)
    return made.score


def at(score, onset) -> NoteRef:
    return NoteRef(next(n.id for n in score.notes if n.onset_quarters == onset))


def test_long_slurs_tell_where_they_cover_the_melody():
    slurred = pencilled(
        EIGHT, AddPhrase(at(EIGHT, 0), at(EIGHT, 6)), AddPhrase(at(EIGHT, 8), at(EIGHT, 18)),
        AddPhrase(at(EIGHT, 19), at(EIGHT, 31)),
    )  # fmt: skip
    phrasing = find_phrases(slurred)
    assert [p.start_quarters for p in phrasing.phrases] == [0, 8, 19]
    assert phrasing.reason == "By the long slurs of the melody."
    assert phrasing.phrases[2].start == Place("5", F(3))  # not at a bar line


def test_a_few_slurs_and_short_ones_do_not_tell():
    assert starts(pencilled(EIGHT, AddPhrase(at(EIGHT, 8), at(EIGHT, 14)))) == [0, 16]
    short = [AddPhrase(at(EIGHT, 8 * i), at(EIGHT, 8 * i + 1)) for i in range(4)]
    assert starts(pencilled(EIGHT, *short)) == [0, 16]


def test_a_slur_inside_another_begins_no_phrase():
    slurred = pencilled(EIGHT, AddPhrase(at(EIGHT, 0), at(EIGHT, 31)), AddPhrase(at(EIGHT, 8), at(EIGHT, 14)))
    assert starts(slurred) == [0]


def test_a_written_lift_ends_a_phrase():
    assert starts(pencilled(EIGHT, AddLift(at(EIGHT, 6)))) == [0, 8, 16]
    assert starts(pencilled(EIGHT, AddLift(at(EIGHT, 31)))) == [0, 16]  # after the last note nothing begins


def test_the_teachers_own_division_wins():
    own = [Place("1", F(0)), Place("3", F(0)), Place("6", F(2))]
    phrasing = find_phrases(EIGHT, own)
    assert ([p.start_quarters for p in phrasing.phrases], phrasing.is_own) == ([0, 8, 22], True)
    assert starts(EIGHT, [Place("1", F(0))]) == [0]  # all of it in one
    halves = find_phrases(EIGHT, [Place("3", F(0)), Place("5", F(0))]).phrases
    assert [(p.letter, p.same_notes_as) for p in halves] == [("A", None), ("A", 0), ("B", None)]


def test_a_place_that_is_not_there():
    assert starts(EIGHT, [Place("99", F(0)), Place("5", F(4))]) == [0, 16]
    for place in (Place("99", F(0)), Place("5", F(4)), Place("5", F(-1))):
        with pytest.raises(OptionError, match="no place"):
            check_places(EIGHT, [place])


@settings(max_examples=60)
@given(st.sampled_from(DEMO), st.data())
def test_phrases_are_the_whole_piece(name, data):
    score = demo_score(name)
    own = [
        Place(m.number, m.length_quarters * F(data.draw(st.integers(0, 3)), 4))
        for m in data.draw(st.lists(st.sampled_from(score.measures), max_size=5))
    ]
    phrases = find_phrases(score, own).phrases
    assert (phrases[0].start_quarters, phrases[-1].end_quarters) == (0, score.end_quarters)
    assert all(p.start_quarters < p.end_quarters for p in phrases)
    assert [p.end_quarters for p in phrases[:-1]] == [p.start_quarters for p in phrases[1:]]
