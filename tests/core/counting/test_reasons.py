"""Why a line is counted so: each choice's sentence names where it comes from."""

from __future__ import annotations

from helpers import score_of
from laptick.core.counting.choices import CountChoice, CountChoices, Density
from laptick.core.counting.counting import count_line
from laptick.core.counting.reasons import DENSITY_USE, FROM_LAYER, SYSTEM_USE, reasons_of
from laptick.core.counting.word_tables import System
from laptick.core.score.score import Hand

SCORE = score_of("C5/q D5/q E5/q G5/q")
FIVE = score_of("C5/e D5/e E5/e F5/e G5/e", time=(5, 8))


def why(choices=None, score=SCORE):
    return reasons_of(count_line(score, Hand.RIGHT, choices))


def test_what_is_usual_says_so():
    reasons = why()
    assert reasons.system.startswith("Usual: every place of the bar")
    assert reasons.density.startswith("Usual: a beat is divided only where")
    assert (reasons.compound, reasons.beat, reasons.grouping) == ("", "The beat of 4/4.", "")


def test_each_layer_is_named_and_the_last_one_wins():
    studio = CountChoice(system=System.FUNCTION, density=Density.BAR)
    layers = CountChoices(studio=studio, level=CountChoice(density=Density.STEADY))
    assert why(layers).system.startswith("As the studio counts: every place in the beat")
    assert why(layers).density.startswith("For this level: the finest division never stops")
    piece = CountChoices(studio=studio, piece=CountChoice(system=System.BEATS, beat="half"))
    assert why(piece).system.startswith("Chosen for this piece: only the beats")
    assert why(piece).beat == "Chosen for this piece, in place of the beat of 4/4."
    hand = CountChoices(studio=studio, hands={"right": CountChoice(system=System.NAMES)})
    assert why(hand).system.startswith("Chosen for this hand: the letters")
    bar = CountChoices(bars={"1": CountChoice(density=Density.BAR)})
    assert why(bar).density.startswith("Chosen for this bar")


def test_groups_come_from_the_usual_way_or_from_a_choice():
    assert why(score=FIVE).grouping.endswith("as is usual in 5/8; the beams do not tell.")
    chosen = CountChoices(piece=CountChoice(grouping=(2, 3)))
    assert why(chosen, FIVE).grouping == "Chosen for this piece: 2 + 3."
    assert why(score=FIVE).compound.startswith("Slow enough to say all five")


def test_every_choice_has_its_sentence():
    assert set(SYSTEM_USE) == set(System)
    assert set(DENSITY_USE) == set(Density)
    assert set(FROM_LAYER) == {"default", "studio", "level", "piece", "hand", "bar"}
