"""How good a recording is: how loud, and how far the room lies below the playing. Levels in dB; the thresholds are
estimates."""

from __future__ import annotations

import numpy as np

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
