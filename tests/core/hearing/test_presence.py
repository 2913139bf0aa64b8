"""Was a key struck? Many keys at once are told as each by itself."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from laptick.core.following.by_ear.other_keys import key_struck, taken_for
from laptick.core.hearing.presence import Beside, Usual, loudness_of, share_of, shares_of
from laptick.core.hearing.sound import RATE, Sound
from laptick.core.hearing.spectrum import spectrum_of

KEYS = st.lists(st.integers(21, 108), max_size=12, unique=True)


@pytest.fixture(scope="module")
def spectrum():
    rng = np.random.default_rng(5)
    at = np.arange(3 * RATE) / RATE
    wave = sum(
        np.where(at >= begin_s, np.sin(2 * np.pi * hertz * at) * np.exp(-5 * np.maximum(at - begin_s, 0)), 0.0)
        for begin_s in (0.3, 0.9, 1.7)
        for hertz in 130.81 * np.arange(1, 9)
    )
    return spectrum_of(Sound((0.1 * wave + 0.003 * rng.normal(size=len(at))).astype(np.float32), RATE))


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.integers(40, 84), st.floats(0.1, 2.8)), max_size=15), KEYS, KEYS, st.floats(0.0, 3.0))
def test_many_keys_are_told_as_each_by_itself(spectrum, struck, keys, others, at_s):
    usual = Usual(loudness_of(spectrum, pitch, Beside([], 0.0, struck_s)) for pitch, struck_s in struck)
    beside = Beside(others, 0.0, at_s)
    each = [share_of(loudness_of(spectrum, key, beside), usual) for key in keys]
    for one, alone in zip(shares_of(spectrum, usual, keys, beside), each, strict=True):
        assert (one is None) == (alone is None)
        if one is not None:
            assert one.loud == pytest.approx(alone.loud, rel=1e-9, abs=1e-9)
            assert one.new == pytest.approx(alone.new, rel=1e-9, abs=1e-9)


def test_a_key_that_is_struck_is_there_and_one_that_is_not_is_not(spectrum):
    usual = Usual(loudness_of(spectrum, 48, Beside([], 0.0, at_s)) for at_s in (0.3, 0.9, 1.7))
    at, after = (shares_of(spectrum, usual, [48], Beside([], 0.0, at_s))[0] for at_s in (0.9, 1.4))
    assert at.new > 0.6
    assert after.new < 0.3


@pytest.mark.parametrize("key", [0, 3, 124, 127])
def test_beside_the_last_keys_there_are_there_is_none(spectrum, key):
    usual = Usual(loudness_of(spectrum, pitch, Beside([], 0.0, 0.9)) for pitch in (48, key))
    beside = Beside([], 0.0, 0.9)
    for found in (
        key_struck(spectrum, usual, range(key - 7, key + 8), beside),
        taken_for(spectrum, usual, key, beside, frozenset({key})),
    ):
        assert found is None or 0 <= found.pitch <= 127
