"""Where a hand stands and moves by its fingerings, worked by hand. Common practice, no source."""

from __future__ import annotations

from dataclasses import replace

import pytest

from helpers import score_of
from laptick.core.score.score import Hand, Mark, MarkKind, Score
from laptick.core.together.fingers import fingers_of, place_of, stays
from laptick.core.together.names import name_of_position
from laptick.core.together.shifts import Manner, positions_of, shifts_of
from laptick.core.together.sounds import sounds_of

RIGHT, LEFT = Hand.RIGHT, Hand.LEFT


def fingered(hand: Hand, music: str, fingers: str) -> Score:
    """Music of one hand over a bar or more of 4/4, with a finger (or -) for each of its strikes."""
    rests = " | ".join(["r/w"] * (music.count("|") + 1))
    score = score_of(music, rests) if hand is RIGHT else score_of(rests, music)
    strikes = [sound for sound in sounds_of(score) if sound.hand is hand]
    marks = [
        Mark(MarkKind.FINGERING, sound.onset_quarters, finger, None, hand, sound.note_id)
        for sound, finger in zip(strikes, fingers.split(), strict=True)
        if finger != "-"
    ]
    return replace(score, marks=(*score.marks, *marks))


#: (hand, music, fingers, shifts as (quarters, steps, manner)).
LINES = {
    "a new place after a rest": (RIGHT, "G4/q r/q D4/h", "3 2", [(2, -2, "move")]),
    "a sixth under one open hand": (RIGHT, "C4/q E4/q G4/q A4/q", "1 2 4 5", []),
    "the fourth finger leaves its key": (
        RIGHT, "E4/e C4/e G4/q E4/e C4/e B4/e A4/e", "2 1 4 2 1 5 4", [(3, 2, "move")],
    ),
    "the thumb passed under": (RIGHT, "C4/q D4/q E4/q F4/q", "1 2 3 1", [(3, 3, "crossing")]),
    "the third finger over the thumb": (RIGHT, "E4/q D4/q C4/q B3/q", "3 2 1 3", [(3, -3, "crossing")]),
    "another finger on the same key": (RIGHT, "E4/h E4/h", "1 2", [(2, -1, "move")]),
    "an octave from the fifth finger to the thumb": (LEFT, "C3/h C4/h", "5 1", []),
    "the left thumb passed under": (LEFT, "C4/q B3/q A3/q G3/q", "1 2 3 1", [(3, -3, "crossing")]),
    "the left third finger over the thumb": (LEFT, "G3/q A3/q B3/q C4/q", "3 2 1 3", [(3, 3, "crossing")]),
    "the finger decides, though all lie under one hand": (RIGHT, "C4/q D4/q E4/q F4/q", "1 2 1 2", [(2, 2, "crossing")]),
    "the same notes in one place": (RIGHT, "C4/q D4/q E4/q F4/q", "1 2 3 4", []),
    "the same notes without fingers": (RIGHT, "C4/q D4/q E4/q F4/q", "- - - -", []),
    "one finger is enough to tell": (RIGHT, "C4/q D4/q E4/q F4/q", "1 - - 1", [(3, 3, "crossing")]),
    "accidentals are no other place": (RIGHT, "F4/q F#4/q F4/q F#4/q", "2 3 2 3", []),
    "a minor triad by the first three fingers": (RIGHT, "C4/q Eb4/q G4/q Eb4/q", "1 2 3 2", []),
    "a chord alone is stretched as it likes": (RIGHT, "C4+F4/h C4+F4/h", "2 3 2 3", []),
    "the thumb has its neighbour too": (RIGHT, "C4/q D4/q E4/q G4/q", "1 1 2 4", []),
}  # fmt: skip


@pytest.mark.parametrize("words", LINES)
def test_shifts_by_the_fingers(words):
    hand, music, fingers, expected = LINES[words]
    score = fingered(hand, music, fingers)
    found = [
        (score.measures[one.measure_index].start_quarters + one.offset_quarters, one.steps, one.manner.value)
        for one in shifts_of(score, hand)
    ]
    assert found == expected


def test_a_line_that_is_fingered_otherwise_moves_elsewhere():
    """Six notes up: the hand goes where the finger says, not where the search would have it."""
    music = "C4/e D4/e E4/e F4/e G4/e A4/e B4/e C5/e"
    early, late = fingered(RIGHT, music, "1 2 3 1 2 3 4 5"), fingered(RIGHT, music, "1 2 3 4 1 2 3 4")
    assert [(s.offset_quarters, s.manner) for s in shifts_of(early, RIGHT)] == [(1.5, Manner.CROSSING)]
    assert [(s.offset_quarters, s.manner) for s in shifts_of(late, RIGHT)] == [(2, Manner.CROSSING)]


def test_a_place_with_a_finger_elsewhere_is_a_modified_one():
    def names(hand: Hand, music: str, fingers: str) -> list[str]:
        score = fingered(hand, music, fingers)
        return [name_of_position(score, position) for position in positions_of(score, hand)]

    assert names(RIGHT, "C4/q E4/q G4/q A4/q", "1 2 4 5") == ["modified C: 2 on E"]
    assert names(RIGHT, "C4/q E4/q G4/q E4/q", "1 3 5 3") == ["C position"]
    assert names(LEFT, "G3/q B3/q F4/q B3/q", "5 3 1 3") == ["modified G: 1 on F"]


def test_what_is_no_finger_is_none():
    score = fingered(RIGHT, "C4/q D4/q E4/q F4/q", "1-2 x 9 5")
    assert sorted(fingers_of(score).values()) == [1, 5]


def test_the_place_is_told_by_the_lowest_finger_else_by_the_middle_of_all():
    assert place_of(RIGHT, [(1, (28, 60)), (5, (33, 69))]) == 28
    assert place_of(RIGHT, [(2, (30, 64)), (4, (32, 67))]) == 29
    assert place_of(LEFT, [(1, (28, 60))]) == 24
    assert place_of(LEFT, []) is None


def test_keys_rise_with_the_fingers_of_the_right_hand_and_fall_with_those_of_the_left():
    up = [(1, (28, 60)), (3, (30, 64))]
    assert stays(RIGHT, up)
    assert not stays(LEFT, up)
