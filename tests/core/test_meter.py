"""Meter: beats, divisions and weights. Tables: docs/trade.md 2.1 and 2.6 (common practice; the weights after
Longuet-Higgins & Lee, Music Perception 1(4), 1984)."""

from __future__ import annotations

from fractions import Fraction as F

import pytest

from laptick.core.base.errors import ScoreError
from laptick.core.score.meter import TimeSignature, meter_of

BEATS = [
    # signature, beat in quarters, beats in a bar, parts of a beat
    ((2, 4), F(1), 2, 2),
    ((3, 4), F(1), 3, 2),
    ((4, 4), F(1), 4, 2),
    ((5, 4), F(1), 5, 2),
    ((2, 2), F(2), 2, 2),
    ((3, 2), F(2), 3, 2),
    ((3, 8), F(1, 2), 3, 2),
    ((6, 8), F(3, 2), 2, 3),
    ((9, 8), F(3, 2), 3, 3),
    ((12, 8), F(3, 2), 4, 3),
    ((6, 16), F(3, 4), 2, 3),
    ((6, 4), F(3), 2, 3),
]


@pytest.mark.parametrize(("signature", "beat", "beats", "parts"), BEATS)
def test_beats(signature, beat, beats, parts):
    meter = meter_of(TimeSignature(*signature))
    assert meter.beat_quarters == beat
    assert len(meter.beats) == beats
    assert {b.division for b in meter.beats} == {parts}
    assert meter.beats[-1].end_quarters == meter.bar_quarters


WEIGHTS = [
    ((4, 4), F(1, 4), [0, -4, -3, -4, -2, -4, -3, -4, -1, -4, -3, -4, -2, -4, -3, -4]),
    ((2, 4), F(1, 2), [0, -2, -1, -2]),
    ((3, 4), F(1, 2), [0, -2, -1, -2, -1, -2]),
    ((6, 8), F(1, 2), [0, -2, -2, -1, -2, -2]),
    ((6, 8), F(1, 4), [0, -3, -2, -3, -2, -3, -1, -3, -2, -3, -2, -3]),
    ((5, 8), F(1, 2), [0, -2, -2, -1, -2]),
    ((7, 8), F(1, 2), [0, -2, -1, -2, -1, -2, -2]),
]


@pytest.mark.parametrize(("signature", "step", "weights"), WEIGHTS)
def test_weights(signature, step, weights):
    meter = meter_of(TimeSignature(*signature))
    assert [meter.weight(step * i) for i in range(len(weights))] == weights


def test_a_triplet_in_a_simple_beat_is_one_level_below_it():
    meter = meter_of(TimeSignature(3, 4))
    assert meter.weight(F(1, 3)) == meter.weight(F(1, 2)) == -2


@pytest.mark.parametrize("bad", [(0, 4), (4, 3), (65, 4), (4, 0)])
def test_impossible_signatures_are_refused(bad):
    with pytest.raises(ScoreError):
        TimeSignature(*bad)
