"""Sounds whose strikes are known because they were made: decaying partials of our own arithmetic, not the product's
piano."""

from __future__ import annotations

import numpy as np

from laptick.core.hearing.sound import RATE, Sound


def tone(pitch: int, held_s: float, cents: float = 0.0) -> np.ndarray:
    """Eight stretched partials that fall off, from full strength within a millisecond; let go after ``held_s``."""
    at = np.arange(int((held_s + 0.15) * RATE)) / RATE
    first = 440 * 2 ** ((pitch - 69 + cents / 100) / 12)
    stretch = 0.7e-4 * 2 ** ((max(pitch, 48) - 48) / 10)
    wave = sum(
        0.7**k
        * np.sin(2 * np.pi * (k + 1) * first * np.sqrt(1 + stretch * (k + 1) ** 2) * at)
        * np.exp(-at * (1 + k) / 1.5)
        for k in range(8)
        if (k + 1) * first < 0.45 * RATE
    )
    wave = wave * np.minimum(1, at / 0.001) * np.exp(-np.maximum(0, at - held_s) / 0.03)
    return 0.2 * wave


def sounded(notes: list[tuple[float, int, float]], seconds: float, cents: float = 0.0, noise: float = 1e-4) -> Sound:
    """(when, key, how long) as a sound."""
    rng = np.random.default_rng(1)
    total = noise * rng.normal(size=int(seconds * RATE))
    for at_s, pitch, held_s in notes:
        wave, begin = tone(pitch, held_s, cents), round(at_s * RATE)
        total[begin : begin + len(wave)] += wave[: len(total) - begin]
    return Sound(total.astype(np.float32), RATE)
