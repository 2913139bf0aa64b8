"""How good a recording is: how loud, and how far the room lies below the playing. Levels in dB; the thresholds are
estimates."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np

from laptick.core.base.units import Seconds
from laptick.core.hearing.sound import Samples, Sound
from laptick.core.takes.heard import SoundLevel

#: Peaks below this share of full scale are too quiet for the smallest recorders; so many samples in a row at the
#: highest value that occurs are clipped, if they are this share of all that is loud.
QUIET_PEAK, FULL, CLIPPED_SHARE = 0.02, 0.89, 2e-4

#: The level is taken over so long.
WINDOW_S = 0.05

#: The room is what is left in the quietest of so many hundredths, the playing what is in the loudest.
ROOM_PERCENT, PLAYING_PERCENT = 3, 90


def level_of(sound: Sound) -> SoundLevel:
    """How loud a recording is."""
    size = np.abs(sound.samples)
    peak = float(size.max())
    if peak < QUIET_PEAK:
        return SoundLevel.TOO_QUIET
    top = size >= 0.995 * peak
    # A wave that is not cut off is near its highest value for one sample or two at a time.
    flat = top[1:-1] & top[:-2] & top[2:]
    if peak >= FULL and float(flat.mean()) > CLIPPED_SHARE:
        return SoundLevel.CLIPPING
    return SoundLevel.GOOD


def noise_db_of(sound: Sound) -> float | None:
    """How far the quietest lies below the playing; ``None`` where the sound has no quiet place to tell the room by, or
    what is quietest are tones that die away."""
    window = round(WINDOW_S * sound.rate)
    count = len(sound.samples) // window
    if count < 20:
        return None
    parts = sound.samples[: count * window].reshape(count, window)
    power = np.einsum("ij,ij->i", parts, parts).astype(np.float64) / window
    room, playing = np.percentile(power, [ROOM_PERCENT, PLAYING_PERCENT])
    if room > SILENT * playing and _flatness(parts[power <= room], sound.rate) < FLAT:
        return None
    return float(10 * np.log10((playing + 1e-12) / (room + 1e-12)))


#: A room's noise is flat within a third of an octave, tones that die away are not: the mean over such bands of the
#: geometric over the arithmetic mean. Less than this share of the playing's power is silence.
FLAT, SILENT = 0.6, 1e-6
LOWEST_HZ, HIGHEST_HZ = 300.0, 3500.0


def _flatness(parts: Samples, rate: int) -> float:
    """How flat the mean spectrum of some windows is, third of an octave by third of an octave."""
    power = (np.abs(np.fft.rfft(parts * np.hanning(parts.shape[1]), axis=1)) ** 2).mean(axis=0) + 1e-20
    hertz = np.fft.rfftfreq(parts.shape[1], 1 / rate)
    edges = LOWEST_HZ * 2 ** (np.arange(int(3 * np.log2(HIGHEST_HZ / LOWEST_HZ)) + 1) / 3)
    bands = [power[(hertz >= low) & (hertz < high)] for low, high in itertools.pairwise(edges)]
    return float(np.mean([np.exp(np.log(band).mean()) / band.mean() for band in bands if len(band) >= 3]))


#: The shape of a sound, as it is drawn: at most so many levels, each of at least so long.
MOST_LEVELS, LEAST_STEP_S = 1200, 0.05

#: Levels are drawn from so far below the loudest.
RANGE_DB = 45.0


@dataclass(frozen=True)
class Envelope:
    """How loud a sound is, ``step_s`` by ``step_s``: from 0, where hardly anything sounds, to 100."""

    step_s: Seconds
    levels: tuple[int, ...]


def envelope_of(sound: Sound) -> Envelope:
    """The shape of a sound, by the loudest of each step."""
    step_s = max(LEAST_STEP_S, sound.seconds / MOST_LEVELS)
    begins = np.arange(int(np.ceil(sound.seconds / step_s))) * step_s * sound.rate
    edges = np.minimum(begins.astype(int), len(sound.samples) - 1)
    peaks = np.maximum.reduceat(np.abs(sound.samples), edges)
    level = 1 + 20 * np.log10(np.maximum(peaks, 1e-9) / max(float(peaks.max()), 1e-9)) / RANGE_DB
    return Envelope(step_s, tuple(int(one) for one in np.round(100 * np.clip(level, 0, 1))))
