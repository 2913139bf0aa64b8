"""Events, lifts and ratios: the maps worked by hand (maps_by_hand.py), and properties."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from maps_by_hand import MAPS, MapByHand
from passages import an_octave_up, mirrored, passages

from helpers import score_of
from laptick.core.score.score import Hand
from laptick.core.together.events import BarEvents, events_of
from sampling import sampled


def bars_of(one: MapByHand) -> tuple[BarEvents, ...]:
    return events_of(score_of(one.right, one.left, time=one.time))


def shown_events(bar: BarEvents) -> str:
    return ", ".join(f"{event.offset_quarters} {event.letter}" for event in bar.events)


def shown_lifts(bar: BarEvents) -> str:
    return ", ".join(
        f"{lift.offset_quarters} {lift.hand[0].upper()} {' '.join(sound.name for sound in lift.sounds)}"
        for lift in bar.lifts
    )


@pytest.mark.parametrize("one", MAPS, ids=lambda one: one.words)
def test_events_lifts_and_ratio(one):
    bars = bars_of(one)
    assert tuple(shown_events(bar) for bar in bars) == one.events
    assert tuple(str(bar.ratio or "free") for bar in bars) == one.ratio
    assert tuple(shown_lifts(bar) for bar in bars) == (one.lifts or ("",) * len(bars))


@pytest.mark.parametrize(
    ("right", "left", "mixture"),
    [
        ("C5/q D5/q E5/h", "C3/h G3/h", ["2:1", "1:1"]),
        ("C5/q D5/q E5/q F5/q", "C3/q G3/q C3/h", ["1:1", "2:1"]),
        ("C5/et D5/et E5/et F5/q E5/e D5/e C5/q", "C3/q G3/q C3/q G3/q", ["3:1", "1:1", "2:1", "1:1"]),
        ("C5/q. D5/e E5/h", "C3/h G3/h", []),
        ("r/q D5/q E5/h", "C3/h G3/h", []),
    ],
)  # fmt: skip
def test_a_mixture_of_ratios(right, left, mixture):
    """From where both strike to where both strike again. By hand."""
    assert [str(ratio) for ratio in events_of(score_of(right, left))[0].mixture] == mixture


@given(score=passages())
@settings(max_examples=sampled(60, 400), deadline=None)
def test_every_strike_is_in_one_event_and_no_key_lifts_twice(score):
    bars = events_of(score)
    struck = [sound.note_id for bar in bars for event in bar.events for sound in event.struck]
    assert sorted(struck) == sorted(note.id for note in score.notes if note.is_strike)
    onsets = {hand: {n.onset_quarters for n in score.notes if n.is_strike and n.hand is hand} for hand in Hand}
    letters = [event.letter for bar in bars for event in bar.events]
    both = onsets[Hand.RIGHT] & onsets[Hand.LEFT]
    assert letters.count("T") == len(both)
    assert letters.count("R") == len(onsets[Hand.RIGHT] - both)
    assert letters.count("L") == len(onsets[Hand.LEFT] - both)
    lifted = [sound.note_id for bar in bars for lift in bar.lifts for sound in lift.sounds]
    assert len(lifted) == len(set(lifted))
    for bar in bars:
        for event in bar.events:
            assert not {s.note_id for s in event.struck} & {s.note_id for s in event.held}
            assert all(sound.ticks < event.ticks < sound.end_ticks for sound in event.held)
        for lift in bar.lifts:
            assert all(sound.end_ticks == lift.ticks for sound in lift.sounds)


@given(score=passages())
@settings(max_examples=sampled(40, 200), deadline=None)
def test_hands_exchanged_exchange_the_letters_and_the_ratio(score):
    swapped = {"T": "T", "R": "L", "L": "R"}
    for bar, other in zip(events_of(score), events_of(mirrored(score)), strict=True):
        assert [(e.ticks, swapped[e.letter]) for e in bar.events] == [(e.ticks, e.letter) for e in other.events]
        assert (bar.ratio is None) == (other.ratio is None)
        if bar.ratio and other.ratio:
            assert (bar.ratio.right, bar.ratio.left) == (other.ratio.left, other.ratio.right)
        assert {(x.ticks, x.hand) for x in bar.lifts} == {(x.ticks, _other(x.hand)) for x in other.lifts}


def _other(hand: Hand) -> Hand:
    return Hand.LEFT if hand is Hand.RIGHT else Hand.RIGHT


@given(score=passages())
@settings(max_examples=sampled(40, 200), deadline=None)
def test_an_octave_up_nothing_changes_but_the_keys(score):
    for bar, other in zip(events_of(score), events_of(an_octave_up(score)), strict=True):
        assert [(e.ticks, e.letter, len(e.held)) for e in bar.events] == [
            (e.ticks, e.letter, len(e.held)) for e in other.events
        ]
        assert [(x.ticks, x.hand, len(x.sounds)) for x in bar.lifts] == [
            (x.ticks, x.hand, len(x.sounds)) for x in other.lifts
        ]
        assert (bar.ratio, bar.mixture) == (other.ratio, other.mixture)
