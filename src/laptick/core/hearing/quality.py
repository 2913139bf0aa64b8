"""How good a recording is: how loud, and how far the room lies below the playing. Levels in dB; the thresholds are
estimates."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from laptick.core.base.units import Seconds
from laptick.core.hearing.sound import Sound
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
    """How far the quietest lies below the playing; ``None`` where the sound has no quiet place to tell the room by."""
    window = round(WINDOW_S * sound.rate)
    count = len(sound.samples) // window
    if count < 20:
        return None
    parts = sound.samples[: count * window].reshape(count, window)
    power = np.einsum("ij,ij->i", parts, parts).astype(np.float64) / window
    room, playing = np.percentile(power, [ROOM_PERCENT, PLAYING_PERCENT])
    return float(10 * np.log10((playing + 1e-12) / (room + 1e-12)))


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
