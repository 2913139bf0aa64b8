"""What passes a rung, and how the tempo moves: the whole decision tables by hand, and what must hold of all.

Source: docs/trade.md 3.3 and 3.4 (common practice)."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from laptick.core.base.units import METRONOME_MARKS
from laptick.core.practice.ladder.gates import Evidence, Outcome, after, fold
from laptick.core.practice.ladder.stages import GateKind
from laptick.core.practice.ladder.tempo_steps import Feel, Move, Tempo, after_try, first_tempo, stops_of

#: Tries as letters: S steady, n nearly, N not yet, ? could not follow, w the teacher's word; ``|`` a new day. Each with
#: whether it passes a gate: one clean, two of the last three, two days.
TRIES: dict[str, tuple[bool, bool, bool]] = {
    "": (False, False, False),
    "N": (False, False, False),
    "n": (False, False, False),
    "S": (True, False, False),
    "NS": (True, False, False),
    "SS": (True, True, False),
    "SNS": (True, True, False),
    "SNNS": (True, False, False),
    "SnnnS": (True, True, False),
    "S?S": (True, True, False),
    "S|S": (True, True, True),
    "SS|N": (True, True, False),
    "SNN|NS": (True, False, True),
    "w": (True, True, True),
    "NNw": (True, True, True),
    "SSNNN": (True, True, False),
}
LETTERS = {
    "S": Outcome.STEADY,
    "n": Outcome.NEARLY,
    "N": Outcome.NOT_YET,
    "?": Outcome.COULD_NOT_FOLLOW,
    "w": Outcome.WORD,
}
GATES = (GateKind.ONE_CLEAN, GateKind.TWO_OF_THREE, GateKind.TWO_DAYS)


def evidence(tries: str) -> list[Evidence]:
    found, day = [], 1
    for letter in tries:
        if letter == "|":
            day += 1
        else:
            found.append(Evidence(LETTERS[letter], day, "the checker", at_target=True))
    return found


@pytest.mark.parametrize("tries", TRIES)
def test_gates(tries):
    assert tuple(fold(gate, evidence(tries)).is_passed for gate in GATES) == TRIES[tries]


def test_by_word_goes_only_the_word():
    assert not fold(GateKind.WORD, evidence("SSSS|SSS")).is_passed
    state = fold(GateKind.WORD, evidence("NN|w"))
    assert (state.passed_day, state.passed_by, state.tries) == (2, "the checker", 2)


def test_two_days_are_at_the_target():
    slower = [Evidence(Outcome.STEADY, day, "the checker") for day in (1, 2, 3)]
    assert not fold(GateKind.TWO_DAYS, slower).is_passed


def test_six_tries_are_enough_for_a_day():
    state = fold(GateKind.ONE_CLEAN, evidence("NNNNNN"))
    assert state.is_enough_on(1)
    assert not state.is_enough_on(2)
    assert not fold(GateKind.ONE_CLEAN, evidence("NNNNN|N")).is_enough_on(2)
    assert not fold(GateKind.ONE_CLEAN, evidence("SNNNNNNN")).is_enough_on(1)


@given(st.sampled_from(list(GateKind)), st.text("SnN?w|", max_size=30), st.text("SnN?w|", max_size=10))
def test_what_is_passed_stays_passed_and_folding_in_two_is_folding(gate, first, second):
    whole = evidence(first + second)
    before = fold(gate, whole[: len(evidence(first))])
    state = before
    for one in whole[len(evidence(first)) :]:
        state = after(gate, state, one)
    assert state == fold(gate, whole)
    if before.is_passed:
        assert (state.passed_day, state.passed_by) == (before.passed_day, before.passed_by)


#: From a tempo (target 100: stops 80, 88, 100): at, failures so far, towards → outcome, feel → at, failures, towards, move.
MOVES = [
    ((66, 0, None), (Outcome.STEADY, None), (80, 0, None), Move.FASTER),
    ((66, 0, None), (Outcome.STEADY, Feel.EASY), (80, 0, None), Move.FASTER),
    ((66, 0, None), (Outcome.STEADY, Feel.ALL_RIGHT), (80, 0, None), Move.FASTER),
    ((66, 0, None), (Outcome.STEADY, Feel.HARD), (66, 0, None), Move.AGAIN),
    ((66, 0, None), (Outcome.WORD, None), (80, 0, None), Move.FASTER),
    ((66, 1, None), (Outcome.STEADY, None), (80, 0, None), Move.FASTER),
    ((80, 0, None), (Outcome.STEADY, None), (88, 0, None), Move.FASTER),
    ((88, 0, None), (Outcome.STEADY, None), (100, 0, None), Move.FASTER),
    ((100, 0, None), (Outcome.STEADY, None), (100, 0, None), Move.REACHED),
    ((100, 0, None), (Outcome.STEADY, Feel.HARD), (100, 0, None), Move.REACHED),
    ((80, 0, None), (Outcome.NEARLY, None), (80, 0, None), Move.AGAIN),
    ((80, 1, None), (Outcome.NEARLY, None), (80, 1, None), Move.AGAIN),
    ((80, 0, None), (Outcome.COULD_NOT_FOLLOW, None), (80, 0, None), Move.AGAIN),
    ((80, 0, None), (Outcome.NOT_YET, None), (80, 1, None), Move.AGAIN),
    ((80, 1, None), (Outcome.NOT_YET, None), (72, 0, 80), Move.SLOWER),
    ((72, 0, 80), (Outcome.STEADY, None), (76, 0, 80), Move.FASTER),
    ((76, 0, 80), (Outcome.STEADY, None), (80, 0, None), Move.FASTER),
    ((76, 0, 80), (Outcome.STEADY, Feel.HARD), (76, 0, 80), Move.AGAIN),
    ((76, 1, 80), (Outcome.NOT_YET, None), (69, 0, 80), Move.SLOWER),
    ((40, 1, None), (Outcome.NOT_YET, None), (40, 0, 40), Move.AGAIN),
    ((80, 1, 88), (Outcome.STEADY, Feel.TIRED), (80, 1, 88), Move.END),
    ((80, 1, 88), (Outcome.NOT_YET, Feel.TIRED), (80, 1, 88), Move.END),
    ((80, 1, 88), (Outcome.STEADY, Feel.HURTS), (80, 1, 88), Move.END_AND_TELL),
]


@pytest.mark.parametrize(("now", "what", "then", "move"), MOVES)
def test_moves(now, what, then, move):
    bpm, failures, towards = now
    tempo, made = after_try(Tempo(bpm, 100, failures, towards), *what)
    assert ((tempo.bpm, tempo.failures, tempo.towards), made) == (then, move)


@pytest.mark.parametrize(
    ("target", "hand", "first"),
    [(100, None, 63), (88, None, 56), (100, 58, 58), (100, 90, 63), (40, None, 40), (120, 30, 40)],
)
def test_where_it_begins(target, hand, first):
    assert first_tempo(target, hand).bpm == first


def test_stops():
    assert stops_of(Tempo(66, 100)) == (80, 88, 100)
    assert stops_of(Tempo(40, 40)) == (40,)


@given(
    st.floats(40, 208),
    st.lists(st.tuples(st.sampled_from(list(Outcome)), st.sampled_from([None, *Feel])), max_size=60),
)
def test_never_above_the_target_and_always_on_a_mark(target, tries):
    tempo = first_tempo(target)
    for outcome, feel in tries:
        before = tempo
        tempo, move = after_try(tempo, outcome, feel)
        assert tempo.bpm in METRONOME_MARKS
        assert tempo.bpm <= max(tempo.target, METRONOME_MARKS[0])
        assert (tempo.bpm > before.bpm) is (move is Move.FASTER)
        assert (tempo.bpm < before.bpm) is (move is Move.SLOWER)


def test_who_plays_cleanly_is_there_after_four_tries():
    tempo, moves = first_tempo(100), []
    for _ in range(4):
        tempo, move = after_try(tempo, Outcome.STEADY)
        moves.append(move)
    assert (tempo.bpm, moves) == (100, [Move.FASTER] * 3 + [Move.REACHED])
