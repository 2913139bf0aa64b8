"""Questions to the student, on short scores whose answers are plain to see. Step, skip and leap: common practice, no
source."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from helpers import DEMO, demo_score, score_of
from laptick.core.practice.question import QuestionKind
from laptick.core.practice.questions import move_words, next_questions, questions

#: Bars 1 and 3 are the same; bar 4 has their rhythm; bar 2 is another.
SCORE = score_of("C5/q D5/q E5/q G5/q | C5/h B4/e B4/e F#5/q | C5/q D5/q E5/q G5/q | D5/q E5/q D5/q C5/q")


def asked(kind: QuestionKind):
    return {question.key: question for question in questions(SCORE, kind)}


def test_bars_that_are_the_same():
    made = asked(QuestionKind.SAME_BARS)
    assert set(made) == {"same-bars:1"}
    one = made["same-bars:1"]
    assert (one.options, one.answer, one.said, one.many) == (("2", "3", "4"), {"3"}, "bar 3", True)


def test_bars_of_the_same_rhythm():
    one = asked(QuestionKind.SAME_RHYTHM)["same-rhythm:1"]
    assert (one.answer, one.said) == ({"3", "4"}, "bars 3 and 4")


def test_names_have_every_letter_and_the_accidentals_of_the_piece_to_choose_from():
    made = list(asked(QuestionKind.NAMES).values())
    assert len(made) == 4 * 4
    assert made[0].options == ("C", "D", "E", "F", "G", "A", "B", "F♯")
    assert [sorted(q.answer)[0] for q in made[:8]] == ["C", "D", "E", "G", "C", "B", "B", "F♯"]


def test_moves_of_the_line():
    made = list(asked(QuestionKind.SKIPS).values())
    assert [sorted(q.answer)[0] for q in made[:8]] == [
        "a step up", "a step up", "a third up", "a fifth down", "a step down", "the same note", "a fifth up",
        "a fourth down",
    ]  # fmt: skip
    assert made[2].said == "a third up, E5 to G5"
    assert made[0].options[:3] == ("the same note", "a step up", "a step down")
    assert "a fifth up" in made[0].options
    assert "a seventh up" not in made[0].options


@pytest.mark.parametrize(
    ("here", "there", "words"),
    [
        ("C4", "C4", "the same note"), ("C4", "C♯4", "the same note"), ("B4", "C5", "a step up"),
        ("E♭4", "D4", "a step down"), ("F♯4", "A4", "a third up"), ("C5", "A4", "a third down"),
        ("C4", "F4", "a fourth up"), ("C5", "C4", "an octave down"), ("C4", "D5", "more than an octave up"),
        ("C4", "A4", "a sixth up"), ("B4", "C4", "a seventh down"), ("C-1", "E-1", "a third up"),
    ],
)  # fmt: skip
def test_a_move_is_by_lines_and_spaces(here, there, words):
    assert move_words(here, there) == words


def test_notes_struck_together_are_not_a_line():
    made = questions(score_of("C5+E5/h D5/h | E5/h F5/h"), QuestionKind.SKIPS)
    assert [q.said for q in made] == ["a step up, D5 to E5", "a step up, E5 to F5"]


def test_how_a_bar_is_counted_among_the_counts_of_the_other_bars():
    made = asked(QuestionKind.RHYTHMS)
    assert set(made) == {"rhythms:right:1", "rhythms:right:2"}  # bars 3 and 4 are counted as bar 1 is
    assert made["rhythms:right:2"].answer == {"1 (2) 3 & 4"}
    assert made["rhythms:right:2"].options == ("1 (2) 3 & 4", "1 2 3 4")


def test_a_piece_of_one_rhythm_asks_nothing_about_it():
    assert questions(score_of("C5/q C5/q C5/q C5/q"), QuestionKind.RHYTHMS) == []
    assert questions(score_of("C5/q D5/q C5/q C5/q"), QuestionKind.SAME_BARS) == []


@pytest.mark.parametrize("name", DEMO)
@pytest.mark.parametrize("kind", QuestionKind)
def test_every_answer_is_among_what_is_offered_and_nothing_gives_it_away(name, kind):
    score = demo_score(name)
    known = {n.id for n in score.notes} | {r.id for r in score.rests}
    for question in questions(score, kind):
        assert question.answer
        assert question.answer <= set(question.options)
        assert question.many or len(question.answer) == 1
        assert len(set(question.options)) == len(question.options) > 1
        assert set(question.notes) <= known
        if kind is not QuestionKind.SKIPS:
            assert question.said not in question.text
    keys = [question.key for question in questions(score, kind)]
    assert len(set(keys)) == len(keys)


@given(st.dictionaries(st.integers(0, 15), st.booleans()), st.integers(1, 20))
@settings(max_examples=60)
def test_what_is_asked_next(answered, limit):
    made = questions(SCORE, QuestionKind.NAMES)
    answers = {made[i].key: (right, when) for when, (i, right) in enumerate(answered.items())}
    found = next_questions(made, answers, limit)
    assert len(found) == min(limit, len(made))
    ranks = [0 if q.key not in answers else 2 if answers[q.key][0] else 1 for q in found]
    assert ranks == sorted(ranks)
    for one, other in itertools.pairwise(found):
        if one.key in answers and other.key in answers and answers[one.key][0] == answers[other.key][0]:
            assert answers[one.key][1] < answers[other.key][1]


def test_the_answer_is_always_among_what_is_offered():
    for question in questions(SCORE, QuestionKind.SKIPS):
        assert question.answer <= set(question.options)
        assert len(question.options) >= 7
