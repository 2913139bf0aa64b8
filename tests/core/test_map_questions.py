"""Questions from the together map, by hand-worked pieces. Common practice, no source."""

from __future__ import annotations

from dataclasses import replace

from helpers import score_of
from laptick.core.practice.question import QuestionKind
from laptick.core.practice.questions import questions
from laptick.core.score.score import Hand, Mark, MarkKind
from laptick.core.together.sounds import sounds_of


def asked(score, kind):
    return {question.key: question for question in questions(score, kind)}


def test_bars_that_are_the_same_but_for_one_thing():
    score = score_of("C4/q D4/q E4/q F4/q | G4/w | C4/q D4/q E4/q E4/q | C4/q D4/q E4/q G4/q")
    made = asked(score, QuestionKind.ALMOST)
    assert set(made) == {"almost:1"}
    one = made["almost:1"]
    assert (one.options, one.answer, one.many) == (("2", "3", "4"), {"3", "4"}, True)
    assert one.said.startswith("bar 3: ")


def test_where_a_hand_moves_is_asked_line_by_line():
    """Four bars a line: the right hand goes an octave up in bar 2 and back in bar 5; the left stays throughout."""
    low, high = "C4/q D4/q E4/q F4/q", "C5/q D5/q E5/q F5/q"
    score = score_of(" | ".join([low, high, high, high, low, low, low, low]), " | ".join(["C3/h G3/h"] * 8))
    made = asked(score, QuestionKind.MOVES)
    assert {key: sorted(one.answer) for key, one in made.items()} == {
        f"moves:{Hand.RIGHT}:1": ["2"],
        f"moves:{Hand.RIGHT}:2": ["5"],
    }
    assert made[f"moves:{Hand.RIGHT}:1"].options == ("1", "2", "3", "4", "in none of them")


def test_a_line_without_a_move_is_asked_too():
    low, high = "C4/q D4/q E4/q F4/q", "C5/q D5/q E5/q F5/q"
    score = score_of(" | ".join([low, high, *[high] * 6]))
    (first, second) = questions(score, QuestionKind.MOVES)
    assert (first.answer, first.said) == ({"2"}, "in bar 2")
    assert (second.answer, second.said) == ({"in none of them"}, "in none of them")


def test_where_each_finger_first_plays():
    score = score_of("C4/q E4/q G4/q E4/q | C5/q G4/q E4/q C4/q")
    sounds = sounds_of(score)
    marks = [
        Mark(MarkKind.FINGERING, sounds[index].onset_quarters, finger, None, Hand.RIGHT, sounds[index].note_id)
        for index, finger in ((0, "1"), (1, "2"), (2, "3"), (4, "5"), (6, "2"))
    ]
    score = replace(score, marks=(*score.marks, *marks))
    made = asked(score, QuestionKind.FINGERS)
    assert {key[-1]: one.answer for key, one in made.items()} == {"1": {"C4"}, "2": {"E4"}, "3": {"G4"}, "5": {"C5"}}
    assert made[f"fingers:{Hand.RIGHT}:5"].said == "C5, in bar 2"
    assert made[f"fingers:{Hand.RIGHT}:2"].options == ("C4", "E4", "G4", "C5")


def test_without_fingerings_nothing_is_asked_of_them():
    assert questions(score_of("C4/q D4/q E4/q F4/q"), QuestionKind.FINGERS) == []
