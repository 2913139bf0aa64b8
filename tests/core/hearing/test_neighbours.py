"""Which of neighbouring keys was struck: tones made here, so that it is known; common practice, no source."""

from __future__ import annotations

import numpy as np
import pytest

from laptick.core.hearing.neighbours import NEIGHBOURS, Look, struck_instead
from laptick.core.hearing.sound import Sound
from tones import sounded

AT_S = 1.0
ALONE = Look(AT_S, 2.0, 0.0, ())


def told(notes, key, look=ALONE, *, seems_struck=True, cents=0.0):
    neighbours = [key + by for by in NEIGHBOURS]
    return struck_instead(sounded(notes, 3.0, cents), key, neighbours, look, seems_struck=seems_struck)


@pytest.mark.parametrize("by", NEIGHBOURS)
@pytest.mark.parametrize("key", [33, 38, 43, 47, 52, 57])
def test_the_key_beside_is_told_and_the_key_itself_is_not(key, by):
    assert told([(AT_S, key + by, 0.8)], key) == key + by
    assert told([(AT_S, key + by, 0.8)], key, seems_struck=False) == key + by
    assert told([(AT_S, key, 0.8)], key) is None


def test_under_a_chord_it_is_told_by_the_partials_that_are_free():
    chord = [(AT_S, pitch, 0.8) for pitch in (64, 67, 72)]
    look = Look(AT_S, 2.0, 0.0, (64, 67, 72))
    assert told([(AT_S, 47, 0.8), *chord], 48, look) == 47
    for seems_struck in (True, False):
        assert told([(AT_S, 48, 0.8), *chord], 48, look, seems_struck=seems_struck) is None


def test_what_rang_before_is_no_strike():
    rings = (0.2, 47, 2.5)
    assert told([rings, (AT_S, 48, 0.8)], 48) is None
    assert told([rings], 48, seems_struck=False) is None


def test_both_struck_is_neither_in_the_place_of_the_other():
    assert told([(AT_S, 48, 0.8), (AT_S, 49, 0.8)], 48) is None


@pytest.mark.parametrize("seed", range(8))
def test_in_noise_nothing_was_struck_in_the_place_of_what_was_not(seed):
    noise = 0.05 * np.random.default_rng(seed).normal(size=3 * 22_050)
    sound = Sound(noise.astype(np.float32), 22_050)
    around = [48 + by for by in range(-4, 5) if by]
    assert struck_instead(sound, 48, around, ALONE, seems_struck=False) is None


def test_an_instrument_out_of_tune_is_told_by_its_own_tuning():
    look = Look(AT_S, 2.0, 30.0, ())
    assert told([(AT_S, 46, 0.8)], 45, look, cents=30.0) == 46
    assert told([(AT_S, 45, 0.8)], 45, look, cents=30.0) is None


@pytest.mark.parametrize(
    "look",
    [
        Look(AT_S, AT_S + 0.08, 0.0, ()),  # the next strike is too near
        Look(2.95, 4.0, 0.0, ()),  # the sound ends
    ],
)
def test_too_short_a_look_tells_nothing(look):
    assert told([(AT_S, 49, 0.8), (2.95, 49, 0.8)], 48, look) is None
    assert struck_instead(sounded([], 3.0), 48, [], ALONE, seems_struck=True) is None
