"""A drill from a spot of a piece, in its own key and in all keys, by hand. Common practice, no source."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hard_score import hard_score
from helpers import DEMO, demo_score, score_of
from laptick.core.base.errors import LapTickError, OptionError
from laptick.core.drills.moving import moved_key
from laptick.core.drills.spots import KEYS, make_spot
from laptick.core.score.pitch import read_pitch
from laptick.core.score.score import Hand
from laptick.core.score.within import Within, parse_within
from laptick.formats.musicxml.file import read_musicxml
from laptick.formats.musicxml_writing.writer import write_musicxml

SCORE = score_of("C5/q D5/q E5/q F5/q | G5/h A5/h", "C3/h E3/h | G3/w")


def told(score, bar):
    start = score.measures[bar].start_quarters
    notes = [n for n in score.notes if n.measure_index == bar]
    return [(n.hand.value, n.name, str(n.onset_quarters - start)) for n in notes]


def test_its_own_key_by_hand():
    """From beat 4 of the first bar to beat 1 of the second."""
    made = make_spot(SCORE, SCORE.measures, parse_within("3..0"), "own").score
    assert told(made, 0) == [("right", "F5", "3")]
    assert told(made, 1) == [("left", "G3", "0"), ("right", "G5", "0")]


def test_all_keys_by_hand():
    """F up to G in the right hand, over G: a semitone higher each time, from six on an octave lower."""
    made = make_spot(SCORE, SCORE.measures, parse_within("3..0"), "all").score
    assert len(made.measures) == 24
    first = [told(made, 2 * i)[0][1] for i in range(12)]
    assert first == ["F5", "G♭5", "G5", "A♭5", "A5", "B♭5", "C♭5", "C5", "D♭5", "D5", "E♭5", "E5"]
    last = [told(made, 2 * i + 1)[1][1] for i in range(12)]
    assert last == ["G5", "A♭5", "A5", "B♭5", "B5", "C6", "D♭5", "D5", "E♭5", "E5", "F5", "F♯5"]
    assert {n.pitch for n in made.notes if n.hand is Hand.RIGHT and n.onset_quarters % 8 == 3} == set(range(71, 83))


@pytest.mark.parametrize(
    ("key", "letters", "semitones", "name"),
    [("C4", 2, 4, "E4"), ("B3", 1, 1, "C4"), ("F♯4", 4, 7, "C♯5"), ("E♭4", -1, -2, "D♭4"), ("B♯3", 1, 2, "D4")],
)
def test_a_key_is_moved_by_hand(key, letters, semitones, name):
    found = moved_key(read_pitch(key), letters, semitones)
    assert found[1] == read_pitch(key)[1] + semitones
    if name != "D4":  # a double sharp goes by its own name
        assert found == read_pitch(name)


@settings(max_examples=40, deadline=None)
@given(st.sampled_from([*DEMO, "hard"]), st.integers(0, 5), st.integers(1, 3), st.sampled_from(list(KEYS)))
def test_any_bars_come_back_from_a_file_and_sound_as_they_are(name, first, bars, keys):
    score = hard_score(8) if name == "hard" else demo_score(name)
    measures = score.measures[first : first + bars]
    try:
        made = make_spot(score, measures, None, keys).score
    except LapTickError:
        return
    own = [n for n in score.notes if n.measure_index in {m.index for m in measures} and n.is_strike]
    each = Fraction(sum(m.length_quarters for m in measures))
    start = measures[0].start_quarters
    for time, semitones in enumerate(KEYS[keys]):
        here = [n for n in made.notes if time * each <= n.onset_quarters < (time + 1) * each and n.is_strike]
        assert sorted((n.onset_quarters - time * each, n.pitch - semitones) for n in here) == sorted(
            (n.onset_quarters - start, n.pitch) for n in own
        )
    back = read_musicxml(write_musicxml(made))
    assert [(n.hand, n.onset_quarters, n.pitch, n.name) for n in back.notes] == [
        (n.hand, n.onset_quarters, n.pitch, n.name) for n in made.notes
    ]


def test_what_is_no_spot_is_refused():
    for wrong in (
        lambda: make_spot(SCORE, SCORE.measures, Within(Fraction(9), Fraction(0)), "own"),
        lambda: make_spot(SCORE, SCORE.measures, None, "some"),
        lambda: make_spot(score_of("r/w | C5/w"), score_of("r/w | C5/w").measures[:1], None, "own"),
    ):
        with pytest.raises(OptionError):
            wrong()
