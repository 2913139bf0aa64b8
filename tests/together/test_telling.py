"""The map in a teacher's words, by hand-worked places. Common practice, no source; the words are ours."""

from __future__ import annotations

import pytest

from helpers import score_of
from laptick.core.score.score import HANDS, Hand
from laptick.core.together.costs import Reason
from laptick.core.together.events import Ratio
from laptick.core.together.shifts import shifts_of
from laptick.core.together.spans import OCTAVE
from laptick.core.together.telling import REASON_WORDS, HardKind, bar_words, go_from, hardest_first, shift_words


def test_every_reason_has_words():
    assert set(REASON_WORDS) == set(Reason)


#: Music of one hand over two bars of 4/4 (the other rests), and what is said of its one move.
SHIFTS = [
    (Hand.RIGHT, "C4/q D4/q E4/q r/q | C5/q D5/q E5/q F5/q", "The right hand moves up 7 steps: go in the rest, at beat 4.", 3),
    (
        Hand.LEFT,
        "C3/q D3/q E3/h | C2/q D2/q E2/q F2/q",
        "The left hand moves down 7 steps with no rest: go during beat 4, while the long note sounds.",
        3,
    ),
    (
        Hand.RIGHT,
        "C4/q D4/q E4/q D4/q | C5/q D5/q E5/q F5/q",
        "The right hand moves up 7 steps with no time to look: practise that way by itself, there and back.",
        4,
    ),
]  # fmt: skip


@pytest.mark.parametrize(("hand", "music", "words", "go"), SHIFTS, ids=["rest", "long note", "no time"])
def test_when_a_hand_goes(hand, music, words, go):
    rests = "r/w | r/w"
    score = score_of(music, rests) if hand is Hand.RIGHT else score_of(rests, music)
    (shift,) = shifts_of(score, hand)
    assert shift_words(score, shift) == words
    assert go_from(score, shift) == go


def test_a_crossing_passes_the_thumb_under_outward_and_over_inward():
    score = score_of("C4/e E4/e G4/e C5/e E5/e G5/e C6/q", "r/w")
    (shift,) = [one for one in shifts_of(score, Hand.RIGHT) if one.manner.value == "crossing"][:1]
    assert shift_words(score, shift).endswith("with the thumb passed under: prepare it early.")
    down = score_of("C6/e G5/e E5/e C5/e G4/e E4/e C4/q", "r/w")
    (shift,) = [one for one in shifts_of(down, Hand.RIGHT) if one.manner.value == "crossing"][:1]
    assert shift_words(down, shift).endswith("across the thumb: prepare it early.")


def test_both_hands_at_once_are_told_in_one_sentence():
    score = score_of("C4/q D4/q E4/q D4/q | C5/q D5/q E5/q F5/q", "C3/q D3/q E3/q D3/q | G3/q A3/q B3/q C4/q")
    place = hardest_first(score, 84.0, OCTAVE)[0]
    assert (place.kind, place.title) == (HardKind.SEAM, "Bar 1 into 2")
    assert place.words.startswith(
        "Both hands change at once. The right hand moves up 7 steps, the left up 4 steps, with no time to look:"
    )


def test_the_same_seam_is_told_once_with_where_it_comes_again():
    figure = "C4/q D4/q E4/q D4/q | C5/q D5/q E5/q F5/q"
    score = score_of(f"{figure} | {figure} | G4/w", "r/w | r/w | r/w | r/w | r/w")
    titles = [place.title for place in hardest_first(score, 84.0, OCTAVE) if place.kind is HardKind.SEAM]
    assert "Bar 1 into 2 and 3 into 4" in titles
    assert "Bar 3 into 4" not in titles


def test_three_against_two_is_said_so():
    assert list(bar_words(Ratio(3, 2), [Reason.CROSS_RHYTHM])) == ["Three against two."]
    assert list(bar_words(None, [Reason.CROSS_RHYTHM])) == [REASON_WORDS[Reason.CROSS_RHYTHM]]


def test_hardest_comes_first_and_easy_places_are_not_told():
    score = score_of("C4/q D4/q E4/q F4/q | C4/q D4/q E4/q F4/q", "C3/w | C3/w")
    assert hardest_first(score, 84.0, OCTAVE) == []
    hard = hardest_first(
        score_of("C4/q E4/q G4/q C5/q | C6/q C5/q C4/q r/q", "C3/h G3/h | C2/q C3/q E3/q r/q"), 84.0, OCTAVE
    )
    assert [p.points for p in hard] == sorted((p.points for p in hard), reverse=True)
    assert len(hard) >= 2
    assert {hand.value for hand in HANDS} <= {word for p in hard for word in p.words.split()}
