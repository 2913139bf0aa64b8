"""One hand's strike as a step in its own partials: tones that begin at a known instant, beside what disturbs them.

Signals made here, so the instant is known exactly; common practice, no source.
"""

from __future__ import annotations

import numpy as np
import pytest

from laptick.core.hearing.sound import Sound
from laptick.core.hearing.steps import Span, Step, lines_of

RATE = 22_050
PARTIALS = np.array([220.0, 440.0, 660.0, 880.0])
OTHERS = np.array([550.0, 1100.0, 1650.0])
SPAN = Span(1.0, 0.0, 2.0)


def tones(hertz: np.ndarray, begin_s: float, fade_s: float = 1.0, strength: float = 1.0) -> np.ndarray:
    at = np.arange(2 * RATE) / RATE
    after = np.maximum(at - begin_s, 0)
    wave = sum(np.sin(2 * np.pi * one * after) for one in hertz)
    return strength * np.where(at >= begin_s, wave * np.exp(-after / fade_s), 0.0)


def burst(at_s: float, strength: float) -> np.ndarray:
    """A knock: noise of 4 ms, in every partial alike."""
    wave = np.zeros(2 * RATE)
    begin = round(at_s * RATE)
    wave[begin : begin + 88] = strength * np.random.default_rng(3).normal(size=88)
    return wave


def steps(wave: np.ndarray, *hands: np.ndarray) -> list[Step]:
    lines = lines_of(Sound(wave.astype(np.float32), RATE), SPAN, hands)
    assert lines is not None
    return [line.step(SPAN.near_s, 0.06) for line in lines]


@pytest.mark.parametrize("begin_s", [0.94, 0.98, 1.0, 1.013, 1.06])
def test_a_step_lies_where_the_tones_begin(begin_s):
    (step,) = steps(tones(PARTIALS, begin_s), PARTIALS)
    assert step.is_clear
    assert step.at_s == pytest.approx(begin_s, abs=0.002)


@pytest.mark.parametrize("gap_s", [-0.06, -0.03, -0.015, 0.015, 0.03, 0.06])
def test_two_hands_each_have_their_own(gap_s):
    wave = tones(PARTIALS, 1.0) + tones(OTHERS, 1.0 + gap_s)
    right, left = steps(wave, OTHERS, PARTIALS)
    assert right.is_clear
    assert left.is_clear
    assert right.at_s - left.at_s == pytest.approx(gap_s, abs=0.003)


@pytest.mark.parametrize("knock_s", [-0.04, -0.02, 0.02, 0.04])
def test_the_attack_of_the_other_hand_does_not_move_it(knock_s):
    (step,) = steps(tones(PARTIALS, 1.0) + burst(1.0 + knock_s, 1.0), PARTIALS)
    assert step.at_s == pytest.approx(1.0, abs=0.006)


def test_what_rang_before_is_not_taken_for_it():
    (step,) = steps(tones(PARTIALS, 0.2, fade_s=3.0, strength=0.4) + tones(PARTIALS, 1.0), PARTIALS)
    assert step.at_s == pytest.approx(1.0, abs=0.004)


def test_partials_a_little_beside_where_they_should_be_are_followed():
    (step,) = steps(tones(PARTIALS * 1.005, 1.0), PARTIALS)
    assert step.is_clear
    assert step.at_s == pytest.approx(1.0, abs=0.003)


@pytest.mark.parametrize("seed", range(6))
def test_noise_is_no_clear_step(seed):
    (step,) = steps(0.1 * np.random.default_rng(seed).normal(size=2 * RATE), PARTIALS)
    assert not step.is_clear


@pytest.mark.parametrize(
    ("span", "hertz"),
    [
        (Span(1.0, 0.99, 1.02), PARTIALS),  # no room between the neighbours
        (SPAN, PARTIALS[:1]),  # one partial is none
        (SPAN, np.zeros(0)),
        (Span(3.0, 2.5, 4.0), PARTIALS),  # beyond the end
    ],
)
def test_where_there_is_too_little_nothing_is_told(span, hertz):
    assert lines_of(Sound(tones(PARTIALS, 1.0).astype(np.float32), RATE), span, [hertz]) is None
