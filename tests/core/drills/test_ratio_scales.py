"""Scales in ratios: where the hands meet, worked out by hand, note by note at every beat (docs/trade.md 3.5, common
practice); and what must hold of every one of them."""

from __future__ import annotations

from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from laptick.core.base.errors import OptionError
from laptick.core.drills.drill import Meeting
from laptick.core.drills.met import met_at
from laptick.core.drills.ratios import MOTIONS, RATIOS, STARTS, RatioScale, make_ratio
from laptick.core.drills.scales import MODES, scale_of
from laptick.core.score.hand_line import hand_line
from laptick.core.score.score import Hand
from laptick.formats.musicxml.file import read_musicxml
from laptick.formats.musicxml_writing.writer import write_musicxml

#: scale, octaves, ratio, fast hand, start, motion → bar.beat-offset right/left of every meeting, = where it is one key.
#: Worked by hand: the degrees of both hands at every beat, the top and the bottom struck once each.
MEETINGS = """
C-major 1 2:1 right octave-apart parallel | 2+3 C4=C4
C-major 1 2:1 left  octave-apart parallel | 2+3 C5/C3
C-major 1 3:1 right octave-apart parallel | 2+3 C5/C4
C-major 1 3:1 left  octave-apart parallel | 2+3 C5/C4
C-major 1 4:1 right octave-apart parallel | 2+3 C4=C4
C-major 1 4:1 left  octave-apart parallel | 2+3 C5/C3
C-major 1 3:2 right octave-apart parallel | 2+3 C5/C3
C-major 1 3:2 left  octave-apart parallel | 2+3 C4=C4
C-major 1 4:3 right octave-apart parallel | 1+2 B4/B3, 2+0 E4/E3, 2+2 G4/G3, 2+3 C4=C4
C-major 1 4:3 left  octave-apart parallel | 1+2 B4/B3, 2+0 E4/E3, 2+2 G4/G3, 2+3 C5/C3
C-major 2 2:1 right octave-apart parallel | 2+3 C5/C3, 4+2 C3/C4
C-major 2 2:1 left  octave-apart parallel | 2+3 C4=C4, 4+2 C5/C2
C-major 2 3:1 right octave-apart parallel | 2+3 C4/C3, 4+2 C5/C4
C-major 2 4:1 right octave-apart parallel | 2+3 C3=C3, 4+2 C3/C4
C-major 1 2:1 right together contrary | 2+3 C4/C3
C-major 1 2:1 left  together contrary | 2+3 C5/C4
C-major 1 3:1 right octave-apart contrary | 2+3 C5/C2
C-major 1 4:1 right together contrary | 2+3 C4/C3
G-major 1 2:1 right octave-apart parallel | 2+3 G4=G4
D-major 1 3:1 left  octave-apart parallel | 2+3 D5/D4
F-major 1 2:1 left  octave-apart parallel | 2+3 F5/F3
Bb-major 1 4:1 right octave-apart parallel | 2+3 B♭3=B♭3
A-minor 1 4:3 right octave-apart parallel | 1+2 G♯4/G♯3, 2+0 C4/C3, 2+2 E4/E3, 2+3 A3=A3
E-major 1 2:1 right two-octaves-apart parallel | 2+3 E5/E4
C-major 1 2:1 right crossed parallel | 2+3 C3/C5
"""

CASES = [tuple(part.split()) for part in (line.partition("|")[0] for line in MEETINGS.strip().splitlines())]
WRITTEN = [line.partition("|")[2].strip() for line in MEETINGS.strip().splitlines()]


def made(key, octaves, ratio, fast, start, motion):
    return make_ratio(RatioScale(scale_of(key), int(octaves), ratio, Hand(fast), start, motion))


@pytest.mark.parametrize(("case", "written"), list(zip(CASES, WRITTEN, strict=True)), ids=str)
def test_where_the_hands_meet(case, written):
    drill = made(*case)
    told = ", ".join(
        f"{one.measure_index + 1}+{one.offset_quarters} {one.right}{'=' if one.same_key else '/'}{one.left}"
        for one in drill.meetings
    )
    assert told == written
    last = written.split()[-1].replace("=", "/").split("/")
    assert drill.ends_on == tuple(last)


def test_there_are_as_many_hand_worked_ones_as_were_asked_for():
    assert len(CASES) >= 24
    assert len({case[0] for case in CASES}) >= 5


def test_every_note_of_one_by_hand():
    """C major, 2 : 1, the right hand fast: eighths up and down over quarters up."""
    score = made("C-major", "1", "2:1", "right", "octave-apart", "parallel").score
    names = {
        hand: [(n.name, str(n.onset_quarters)) for n in score.notes if n.hand is hand and n.is_strike] for hand in Hand
    }
    up_and_down = ["C4", "D4", "E4", "F4", "G4", "A4", "B4", "C5", "B4", "A4", "G4", "F4", "E4", "D4", "C4"]
    assert [name for name, _ in names[Hand.RIGHT]] == up_and_down
    assert [at for _, at in names[Hand.RIGHT]] == [str(Fraction(i, 2)) for i in range(15)]
    assert [name for name, _ in names[Hand.LEFT]] == ["C3", "D3", "E3", "F3", "G3", "A3", "B3", "C4"]
    assert [at for _, at in names[Hand.LEFT]] == [str(i) for i in range(8)]


keys = st.sampled_from([f"{letter}{sign}" for letter in "CDEFGAB" for sign in ("", "b", "#")])


@given(
    keys, st.sampled_from(list(MODES)), st.integers(1, 3), st.sampled_from(list(RATIOS)), st.sampled_from(list(Hand)),
    st.sampled_from(list(STARTS)), st.sampled_from(MOTIONS),
)  # fmt: skip
def test_any_scale_ends_together_with_its_top_struck_once_and_comes_back_from_a_file(
    key, mode, octaves, ratio, fast, start, motion
):
    try:
        scale = scale_of(f"{key}-{mode}")
        drill = make_ratio(RatioScale(scale, octaves, ratio, fast, start, motion))
    except OptionError:
        return  # a key with too many signs, or hands that would want the same keys
    score = drill.score
    lines = {hand: hand_line(score, hand).strikes for hand in Hand}
    assert lines[Hand.RIGHT][-1] == lines[Hand.LEFT][-1]
    assert (
        drill.meetings[-1].offset_quarters + score.measures[drill.meetings[-1].measure_index].start_quarters
        == (lines[Hand.RIGHT][-1])
    )
    many, few = RATIOS[ratio]
    assert (len(lines[fast]) - 1) * few == (len(lines[Hand.LEFT if fast is Hand.RIGHT else Hand.RIGHT]) - 1) * many
    for hand in Hand:
        pitches = [note.pitch for note in score.notes if note.hand is hand and note.is_strike]
        assert all(here != after for here, after in pairwise(pitches))
    back = read_musicxml(write_musicxml(score))
    assert [(n.hand, n.onset_quarters, n.pitch, n.name) for n in back.notes] == [
        (n.hand, n.onset_quarters, n.pitch, n.name) for n in score.notes
    ]


@pytest.mark.parametrize(
    "wrong",
    [
        {"ratio": "5:1"}, {"start": "anywhere"}, {"motion": "sideways"}, {"octaves": 0}, {"octaves": 9},
        {"start": "together"},
    ],
)  # fmt: skip
def test_what_there_is_none_of_is_refused(wrong):
    with pytest.raises(OptionError):
        make_ratio(RatioScale(scale_of("C-major"), **wrong))


@pytest.mark.parametrize("text", ["", "H-major", "C-merry", "Fb-minor", "c" * 50])
def test_no_scale(text):
    with pytest.raises(OptionError):
        scale_of(text)


@pytest.mark.parametrize(
    ("text", "notes"),
    [
        ("C", "C4 D4 E4 F4 G4 A4 B4 C5"),
        ("F#-minor", "F♯4 G♯4 A4 B4 C♯5 D5 E♯5 F♯5"),
        ("Bb-major", "B♭4 C5 D5 E♭5 F5 G5 A5 B♭5"),
        ("Cb-major", "C♭4 D♭4 E♭4 F♭4 G♭4 A♭4 B♭4 C♭5"),
        ("D dorian", "D4 E4 F4 G4 A4 B4 C5 D5"),
        ("G-pentatonic", "G4 A4 B4 D5 E5 G5"),
        ("C-five-finger", "C4 D4 E4 F4 G4"),
    ],
)
def test_scales_as_they_are_spelled(text, notes):
    scale = scale_of(text)
    assert [scale.note(degree, 4)[0] for degree in range(scale.size + 1)] == notes.split()


@pytest.mark.parametrize(
    ("right_ms", "left_ms", "is_met", "text"),
    [
        (3.0, -4.0, True, "You met on C: right."),
        (60.0, -30.0, True, "You met on C: right."),
        (140.0, 5.0, False, "You did not meet on C: the right hand came 140 ms late."),
        (5.0, -160.0, False, "You did not meet on C: the left hand came 160 ms early."),
        (-62.0, 57.0, False, "You did not meet on C: the right hand came 119 ms before the left."),
        (70.0, -45.0, False, "You did not meet on C: the left hand came 115 ms before the right."),
        (None, 5.0, False, "You did not meet on C: the right hand was not on C4."),
        (None, None, False, "You did not meet on C: the right hand was not on C4 and the left hand was not on C3."),
    ],
)
def test_whether_they_met_by_hand(right_ms, left_ms, is_met, text):
    met = met_at(Meeting(1, Fraction(3), "C4", "C3", False), {Hand.RIGHT: right_ms, Hand.LEFT: left_ms}, 50.0)
    assert (met.is_met, met.text) == (is_met, text)
