"""What is kept of a rung and what it comes to: by hand, and what must hold of every history. Source: docs/trade.md 3.3
(the word passes any gate; nearly neither counts nor breaks); what a deletion, an overrule and a judgement anew do is
ours."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from laptick.core.practice.ladder.events import Event, EventKind, standing_of, state_of
from laptick.core.practice.ladder.gates import Outcome
from laptick.core.practice.ladder.stages import GateKind
from laptick.core.practice.ladder.tempo_steps import Feel, Move
from laptick.formats.documents.ladder_edits import standing_document, standing_of_document

S, N, Q = Outcome.STEADY, Outcome.NOT_YET, Outcome.COULD_NOT_FOLLOW


def tried(take: int, outcome: Outcome, day: int = 1, bpm: float = 60) -> Event:
    return Event(EventKind.TRY, day, "the checker", take, outcome, bpm)


def of(kind: EventKind, take: int, outcome: Outcome | None = None) -> Event:
    return Event(kind, 1, "x", take, outcome)


def passed(gate: GateKind, *events: Event) -> bool:
    return state_of(gate, events).is_passed


ONE, TWO = GateKind.ONE_CLEAN, GateKind.TWO_OF_THREE


def test_an_overrule_holds_until_it_is_taken_back():
    said = [tried(1, N), of(EventKind.OVERRULED, 1, S)]
    assert passed(ONE, *said)
    assert not passed(ONE, *said, of(EventKind.OVERRULE_BACK, 1))
    assert not passed(ONE, tried(1, S), of(EventKind.OVERRULED, 1, N))


def test_a_judgement_anew_counts_and_undoes_no_gate():
    anew = of(EventKind.JUDGED, 1, N)
    assert passed(ONE, tried(1, S), anew)
    assert state_of(ONE, [tried(1, S), anew]).last == (False,)
    assert passed(ONE, tried(1, N), of(EventKind.JUDGED, 1, S))
    # What it helps to pass later it is counted for as it is now.
    assert passed(TWO, tried(1, S), anew, tried(2, S))
    assert not passed(TWO, tried(1, N), of(EventKind.JUDGED, 1, Q), tried(2, S))


def test_the_teachers_word_on_a_take_counts_before_a_judgement_anew():
    events = [tried(1, S), of(EventKind.JUDGED, 1, N), of(EventKind.OVERRULED, 1, N)]
    assert not passed(ONE, *events)


def test_what_is_deleted_counts_for_nothing_until_it_is_back():
    assert not passed(ONE, tried(1, S), of(EventKind.DELETED, 1))
    assert passed(ONE, tried(1, S), of(EventKind.DELETED, 1), of(EventKind.RESTORED, 1))
    # Held to be of other bars, and of these again.
    assert passed(ONE, tried(1, S), of(EventKind.DELETED, 1), tried(1, S))


def test_a_tick_passes_any_gate_and_is_no_try():
    tick = Event(EventKind.TICK, 3, "the checker", 7, S)
    for gate in GateKind:
        state = state_of(gate, [tick])
        assert (state.passed_day, state.tries) == (3, 0)
        assert not passed(gate, tick, of(EventKind.OVERRULED, 7, N))


def test_every_word_is_taken_back_at_once_and_what_was_played_still_counts():
    word, back = Event(EventKind.WORD, 1, "the teacher"), Event(EventKind.WORD_BACK, 1, "the teacher")
    assert passed(TWO, tried(1, N), word)
    assert not passed(TWO, tried(1, N), word, word, back)
    assert passed(ONE, tried(1, S), word, back)


def test_the_tempo_follows_the_tries_and_how_they_felt():
    up = standing_of(ONE, 88, [tried(1, S, bpm=56)])
    assert (up.tempo and up.tempo.bpm, up.move, up.fastest_bpm) == (69, Move.FASTER, 56)
    hard = [tried(1, S, bpm=56), Event(EventKind.FEEL, 1, "the student", 1, feel=Feel.HARD)]
    assert standing_of(ONE, 88, hard).tempo.bpm == 56
    down = standing_of(ONE, 88, [tried(1, N, bpm=60), tried(2, N, bpm=60)])
    assert (down.tempo.bpm, down.tempo.towards, down.move) == (56, 60, Move.SLOWER)
    # Another tempo than was due, by hand: it goes on from there, but never above the target.
    assert standing_of(ONE, 88, [tried(1, S, bpm=56), tried(2, S, bpm=72)]).tempo.bpm == 80
    assert standing_of(ONE, 88, [tried(1, S, bpm=56), tried(2, S, bpm=96)]).tempo.bpm == 88


takes = st.integers(1, 4)
event = st.builds(
    Event,
    st.sampled_from(list(EventKind)),
    st.integers(1, 3),
    st.just("x"),
    takes,
    st.sampled_from([S, N, Q, Outcome.NEARLY]),
    st.sampled_from([56.0, 60.0, 61.3, 88.0]),
    st.booleans(),
    st.sampled_from([None, *Feel]),
)


@given(st.sampled_from(list(GateKind)), st.lists(event, max_size=25))
def test_what_is_stored_of_any_history_is_what_it_comes_to(gate, events):
    standing = standing_of(gate, 88, events)
    assert standing_of_document(standing_document(standing)) == standing


@given(st.sampled_from(list(GateKind)), st.lists(event, max_size=20), takes, st.sampled_from([N, Q, Outcome.NEARLY]))
def test_no_judgement_anew_undoes_a_gate(gate, events, take, outcome):
    if passed(gate, *events):
        assert passed(gate, *events, of(EventKind.JUDGED, take, outcome))


@pytest.mark.parametrize(
    "damage", [{"passed": 3}, {"today": []}, {"tempo": [1, 2]}, {"move": "sideways"}, {"tries": "x"}]
)
def test_a_damaged_standing_is_told(damage):
    document = standing_document(standing_of(ONE, 88, [tried(1, S)])) | damage
    with pytest.raises((ValueError, TypeError, KeyError)):
        standing_of_document(document)
