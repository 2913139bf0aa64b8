"""Where the partials of a key lie, how far out of tune the piano is, and what keys struck together look like.

Conventions: pitches are MIDI numbers; tuning in cents, + sharp of A4 = 440 Hz. Sources: stretched partials of a stiff
string (Fletcher, *JASA* 36, 1964); the stiffness by key is an estimate.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.units import Seconds
from laptick.core.hearing.sound import Sound
from laptick.core.hearing.spectrum import TOP_HZ, Floats, Spectrum

Hertz = NDArray[np.float64]

#: So many partials of a key are listened for; so many may be in the way of another key's.
HEARD, IN_THE_WAY = 12, 24

#: A partial so many places higher in its row is far weaker: by ``FALL`` to the power of that.
FAR_WEAKER = 5

#: A piano may be so many cents out of tune; found in steps.
OUT_CENTS, STEP_CENTS = 45.0, 3.0

#: What keys look like when they are struck: the strength of partials falls by this.
FALL, LOOKED_AT = 0.75, 8

#: The tuning is told by so many partials: how far higher ones are stretched differs from piano to piano.
TUNED_BY = 4

#: Semitones that what is newly there is laid into.
LOWEST_KEY, HIGHEST_KEY = 21, 120

#: What is newly there at a strike: so long after it, less so much of what was there so long before.
AFTER_S, BEFORE_S, OF_BEFORE = 0.055, 0.050, 0.9


@lru_cache(maxsize=4096)
def _partials(pitch: int, cents: float, count: int, top_hz: float) -> Hertz:
    first = 440.0 * math.exp2((pitch - 69 + cents / 100) / 12)
    stiffness = 1.2e-4 * math.exp2((max(pitch, 48) - 48) / 10)
    number = np.arange(1, count + 1)
    hertz: Hertz = number * first * np.sqrt(1 + stiffness * number**2)
    hertz = hertz[hertz < top_hz]
    hertz.setflags(write=False)
    return hertz


def partials_of(pitches: Sequence[int], cents: float, count: int = HEARD) -> Hertz:
    """The partials of keys, each once, in Hz, from low to high."""
    return _once(tuple(pitches), cents, count)


@lru_cache(maxsize=4096)
def _once(pitches: tuple[int, ...], cents: float, count: int) -> Hertz:
    every = [_partials(pitch, cents, count, TOP_HZ) for pitch in pitches]
    return _united(every)


def own_partials(pitches: Sequence[int], others: Sequence[int], cents: float, apart_hz: float) -> Hertz:
    """The partials of keys that can be told apart from those of others: none lies near them but far weaker ones, which
    partials so much higher in their own row are."""
    return _own(tuple(pitches), tuple(others), cents, apart_hz)


@lru_cache(maxsize=4096)
def _own(pitches: tuple[int, ...], others: tuple[int, ...], cents: float, apart_hz: float) -> Hertz:
    foreign = [_partials(pitch, cents, IN_THE_WAY, TOP_HZ) for pitch in others]
    alone = []
    for pitch in pitches:
        own = _partials(pitch, cents, HEARD, TOP_HZ)
        number = np.arange(1, len(own) + 1)[:, None]
        free = np.ones(len(own), np.bool_)
        for row in foreign:
            near = np.abs(own[:, None] - row[None, :]) <= apart_hz
            strong = np.arange(1, len(row) + 1)[None, :] < number + FAR_WEAKER
            free &= ~(near & strong).any(axis=1)
        alone.append(own[free])
    return _united(alone)


def _united(every: Sequence[Hertz]) -> Hertz:
    """Each once, from low to high; shared, so not to be written to."""
    found: Hertz = np.unique(np.concatenate(every)) if every else np.zeros(0)
    found.setflags(write=False)
    return found


@dataclass(frozen=True)
class Tuning:
    """``cents``: how far from A4 = 440 Hz; ``clear``: does one tuning fit clearly better than the others?"""

    cents: float
    clear: bool


def tuning_of(sound: Sound, pitches: Sequence[int]) -> Tuning:
    """The one tuning of a take: where the mean spectrum is strongest at the partials of what is written."""
    keys = sorted(set(pitches))
    size = 1 << max(10, math.ceil(math.log2(0.35 * sound.rate)))
    if not keys or len(sound.samples) < size:
        return Tuning(0.0, False)
    step = max(size // 2, (len(sound.samples) - size) // 600 or 1)
    hann = np.hanning(size).astype(np.float32)
    frames = np.lib.stride_tricks.sliding_window_view(sound.samples, size)[::step]
    total = np.zeros(size // 2 + 1)
    for first in range(0, len(frames), 32):
        total += np.abs(np.fft.rfft(frames[first : first + 32] * hann, axis=1)).sum(axis=0)
    level = np.log(total / len(frames) + 1e-9 + 1e-4 * float(total.max()) / len(frames))
    bin_hz = sound.rate / size
    tried = np.arange(-OUT_CENTS, OUT_CENTS + STEP_CENTS / 2, STEP_CENTS)
    scores = []
    for cents in tried:
        at = np.concatenate([_partials(key, float(cents), TUNED_BY, min(TOP_HZ, 0.45 * sound.rate)) for key in keys])
        scores.append(float(np.interp(at / bin_hz, np.arange(len(level)), level).mean()))
    best = int(np.argmax(scores))
    spread = max(scores) - float(np.median(scores))
    return Tuning(float(tried[best]), spread > 0.1)


def semitones(spectrum: Spectrum, cents: float) -> Floats:
    """Bins to semitones of this tuning: each bin shared between the two nearest, by rows of semitones."""
    hertz = np.maximum(np.arange(spectrum.bins) * spectrum.bin_hz, 1.0)
    place = 69 + 12 * np.log2(hertz / 440.0) - cents / 100 - LOWEST_KEY
    table = np.zeros((HIGHEST_KEY - LOWEST_KEY + 1, spectrum.bins), np.float32)
    low = np.floor(place).astype(np.int64)
    share = place - low
    for semitone, weight in ((low, 1 - share), (low + 1, share)):
        inside = (semitone >= 0) & (semitone < len(table))
        np.add.at(table, (semitone[inside], np.flatnonzero(inside)), weight[inside])
    return table


def newly_there(spectrum: Spectrum, table: Floats, times_s: Sequence[float], after_s: Seconds = AFTER_S) -> Floats:
    """What each strike adds, in semitones, each of unit length: a row a time."""
    after = [spectrum.frame_of(at + after_s) for at in times_s]
    before = [spectrum.frame_of(at - BEFORE_S) for at in times_s]
    added = spectrum.magnitudes[after].astype(np.float32) - OF_BEFORE * spectrum.magnitudes[before].astype(np.float32)
    return _unit(np.sqrt(np.maximum(added, 0.0) @ table.T))


def looks_of(chords: Sequence[Sequence[int]], spectrum: Spectrum, table: Floats, cents: float) -> Floats:
    """What keys struck together look like, in semitones, each of unit length: a row a chord."""
    known: dict[int, Floats] = {}
    rows = np.zeros((len(chords), len(table)), np.float32)
    for row, chord in zip(rows, chords, strict=True):
        for pitch in chord:
            if pitch not in known:
                known[pitch] = table @ _look(pitch, cents, spectrum)
            row += known[pitch]
    return _unit(np.sqrt(rows))


#: A clap is a burst of noise: from so high on it is in every bin alike, and so long after it began it still sounds.
CLAP_FROM_HZ, CLAP_AFTER_S = 500.0, 0.025

#: What keys add is so much like that in the middle; claps, so much and more.
KEY_LIKE_CLAP, CLAP_LIKE_CLAP = 0.6, 0.9


def like_claps(spectrum: Spectrum, table: Floats, times_s: Sequence[float]) -> Floats:
    """How much what each strike adds sounds like a clap: 0 as a key does, 1 as a clap."""
    bins = (np.arange(spectrum.bins) * spectrum.bin_hz >= CLAP_FROM_HZ).astype(np.float32)
    alike = newly_there(spectrum, table, times_s, CLAP_AFTER_S) @ _unit(np.sqrt(table @ bins)[None])[0]
    share: Floats = np.clip((alike - KEY_LIKE_CLAP) / (CLAP_LIKE_CLAP - KEY_LIKE_CLAP), 0.0, 1.0)
    return share


#: How a steady tone spreads over the bins of a Hann window twice as long as it, bins from its middle.
_LEAK = np.array([0.05, 0.3, 0.75, 1.0, 0.75, 0.3, 0.05], np.float32)


def _look(pitch: int, cents: float, spectrum: Spectrum) -> Floats:
    """The bins of one key."""
    look = np.zeros(spectrum.bins, np.float32)
    for number, hertz in enumerate(_partials(pitch, cents, LOOKED_AT, TOP_HZ)):
        middle = round(float(hertz) / spectrum.bin_hz)
        if middle + 4 > spectrum.bins:
            break
        low = max(0, middle - 3)
        high = min(spectrum.bins, middle + 4)
        look[low:high] += FALL**number * _LEAK[low - middle + 3 : high - middle + 3]
    return look


def _unit(rows: Floats) -> Floats:
    length = np.sqrt((rows * rows).sum(axis=1, keepdims=True))
    unit: Floats = (rows / np.maximum(length, 1e-9)).astype(np.float32)
    return unit
