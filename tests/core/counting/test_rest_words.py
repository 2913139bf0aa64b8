"""What is said in a silence: the four schools in every system. By hand, after docs/trade.md 2.4 (common practice)."""

from __future__ import annotations

import pytest

from helpers import score_of, shown
from laptick.core.base.errors import OptionError
from laptick.core.counting.choices import CountChoice, CountChoices, RestWords, choose
from laptick.core.counting.counting import count_line
from laptick.core.counting.counts import Kind
from laptick.core.counting.word_tables import System
from laptick.core.score.score import HANDS, Hand
from laptick.core.takes.task import count_task
from laptick.formats.documents.choices import choice_of

SCORE = score_of("C5/q r/q D5/q r/q | r/h E5/h | C5/e r/e r/q D5/h")


@pytest.mark.parametrize(
    ("rests", "expected"),
    [
        (RestWords.NUMBER, "1 [2] 3 [4] | [1] [2] 3 (4) | 1 [&] [2] 3 (4)"),
        (RestWords.REST, "1 [rest] 3 [rest] | [rest] [rest] 3 (4) | 1 [rest] [rest] 3 (4)"),
        # Where the hand lifts: not again in a silence that goes on, over a bar line neither.
        (RestWords.OFF, "1 [off] 3 [off] | [1] [2] 3 (4) | 1 [off] [2] 3 (4)"),
        (RestWords.SILENCE, "1 [] 3 [] | [] [] 3 (4) | 1 [] [] 3 (4)"),
    ],
)
def test_the_schools_in_numbers(rests, expected):
    counted = count_line(SCORE, Hand.RIGHT, choose(rests=rests))
    assert " | ".join(shown(bar) for bar in counted.bars) == expected


@pytest.mark.parametrize("system", System)
@pytest.mark.parametrize("rests", RestWords)
def test_every_system_has_every_school_and_only_silences_change(system, rests):
    own = count_line(SCORE, Hand.RIGHT, choose(system=system))
    counted = count_line(SCORE, Hand.RIGHT, choose(system=system, rests=rests))
    lifted = True
    for before, after in zip(own.bars, counted.bars, strict=True):
        assert [(c.offset_quarters, c.kind) for c in before] == [(c.offset_quarters, c.kind) for c in after]
        for was, now in zip(before, after, strict=True):
            if now.kind is not Kind.REST:
                assert now.say == was.say
                lifted = False
                continue
            expected = {RestWords.REST: "rest", RestWords.SILENCE: ""}.get(rests, was.say)
            assert now.say == ("off" if rests is RestWords.OFF and not lifted else expected)
            lifted = True


def test_a_bar_may_have_its_own_school_and_a_syllable_its_own_word():
    choices = CountChoices(piece=CountChoice(rests=RestWords.REST), bars={"2": CountChoice(rests=RestWords.SILENCE)})
    assert [shown(bar) for bar in count_line(SCORE, Hand.RIGHT, choices).bars][:2] == [
        "1 [rest] 3 [rest]",
        "[] [] 3 (4)",
    ]


def test_where_nothing_is_said_there_is_nothing_to_tap():
    counted = count_line(SCORE, Hand.RIGHT, choose(rests=RestWords.SILENCE))
    said = [count for bar in counted.bars for count in bar if count.say]
    assert len(count_task(SCORE, counted, SCORE.measures, 60).expected) == len(said) == 7


def test_the_composite_rests_only_where_both_do():
    score = score_of("C5/q r/q D5/q r/q", "r/q C3/q r/q r/q")
    assert shown(count_line(score, None, choose(rests=RestWords.OFF)).bars[0]) == "1 2 3 [off]"
    assert all(count_line(score, hand).bars for hand in HANDS)


def test_documents():
    assert choice_of({"rests": "off"}).rests is RestWords.OFF
    with pytest.raises(OptionError, match="number, rest, off, silence"):
        choice_of({"rests": "hush"})
