"""Back to the sound: a strike that is looked for by its own partials, near where it should be.

*Rise*: how steeply the level of partials rises, meant over them; its height near an instant is the *evidence* that the
keys were struck there, its peak the *comb time* (frames of 5 ms). *Fine time*: the steepest rise of the energy near
those partials alone in windows of 12 ms every millisecond, so that clicks, consonants and the other hand stay out.
Times are of the strike: the moment the attack reaches 5 % of its strength. Source: ours, measured in docs/hearing.md.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.units import Seconds
from laptick.core.hearing.partials import Hertz
from laptick.core.hearing.sound import Sound
from laptick.core.hearing.spectrum import Floats, Spectrum

#: Rises are taken by the derivative of a Gaussian of so many frames.
SLOPE_FRAMES = 2.0
REACH = 5
_AT = np.arange(-REACH, REACH + 1)
SLOPE = (_AT * np.exp(-0.5 * (_AT / SLOPE_FRAMES) ** 2)).astype(np.float32)
SLOPE /= float((SLOPE * _AT).sum())

#: Of a strike that was heard, and of one that is only expected.
HEARD_PRIOR_S, EXPECTED_PRIOR_S = 0.045, 0.060

#: Windows for the fine time.
FINE_S, FINE_HOP_S, FINE_REACH_S, FINE_PRIOR_S = 0.012, 0.001, 0.030, 0.010
NEAR_PARTIAL_HZ = 40.0
#: Quieter than this share of the loudest is silence.
SILENT = 1e-2

#: The steepest rise lies so much after the attack has reached 5 % of its strength.
RISES_AFTER_S = 0.001


@dataclass(frozen=True, slots=True)
class Peak:
    """The strongest rise near an instant. ``rival``: the second strongest, as a share of it."""

    at_s: Seconds
    evidence: float
    rival: float


NOTHING = Peak(0.0, 0.0, 1.0)


def rises(spectrum: Spectrum, hertz: Hertz, first: int, last: int) -> Floats:
    """How steeply the partials rise, frame by frame from ``first`` up to ``last``; zeros where there are none."""
    low, high = max(0, first - REACH), min(spectrum.frames, last + REACH)
    found = np.zeros(last - first, np.float32)
    place = hertz / spectrum.bin_hz
    place = place[place < spectrum.bins - 1]
    if not len(place) or high - low <= 2 * REACH:
        return found
    below = place.astype(np.int64)
    here = spectrum.magnitudes[low:high]
    level = np.maximum(here[:, below], here[:, below + 1]).astype(np.float32)
    level = np.log1p(level / spectrum.floor_between[below])
    slope = np.lib.stride_tricks.sliding_window_view(level, 2 * REACH + 1, axis=0) @ SLOPE
    rise = np.maximum(slope, 0).mean(axis=1)
    begin = low + REACH - first
    found[begin : begin + len(rise)] = rise
    return found


def peak_of(rise: Floats, times_s: NDArray[np.float64], near_s: Seconds, prior_s: Seconds) -> Peak:
    """The strongest rise near an instant, between frames by a parabola."""
    weighed = rise * np.exp(-0.5 * ((times_s - near_s) / prior_s) ** 2)
    best = int(np.argmax(weighed))
    if weighed[best] <= 0:
        return Peak(near_s, 0.0, 1.0)
    at_s = float(times_s[best]) + _between(weighed, best) * float(times_s[1] - times_s[0])
    return Peak(at_s, float(rise[best]), _rival(weighed, best))


def _between(values: Floats, best: int) -> float:
    if not 0 < best < len(values) - 1:
        return 0.0
    before, here, after = (float(one) for one in values[best - 1 : best + 2])
    bend = before - 2 * here + after
    return 0.0 if bend >= 0 else max(-0.5, min(0.5, 0.5 * (before - after) / bend))


def _rival(values: Floats, best: int) -> float:
    """The highest other peak, as a share of the best."""
    inner = values[1:-1]
    peaks = 1 + np.flatnonzero((inner >= values[:-2]) & (inner > values[2:]))
    others = values[peaks[np.abs(peaks - best) > 1]]
    return float(others.max() / values[best]) if len(others) else 0.0


def listen_for(spectrum: Spectrum, hertz: Hertz, near_s: Seconds, prior_s: Seconds) -> Peak:
    """Were keys of these partials struck near an instant, and when?"""
    reach = round(2.2 * prior_s / spectrum.hop_s)
    middle = spectrum.frame_of(near_s)
    rise = rises(spectrum, hertz, middle - reach, middle + reach + 1)
    times = spectrum.times(middle - reach, middle + reach + 1)
    return peak_of(rise, times, near_s, prior_s)


class Fine:
    """When a strike fell, by the sound near its own partials."""

    def __init__(self, sound: Sound) -> None:
        self.sound = sound
        self._rate = sound.rate
        self._window = round(FINE_S * sound.rate)
        size = 1 << self._window.bit_length()
        self._windows = sound.windows(self._window)
        self._hertz = np.arange(size // 2 + 1) * sound.rate / size
        # The transform of a window, a row a bin, of the real parts and of the imaginary ones: of the few bins near some
        # partials it costs less than a fast one of them all.
        turn = np.exp(-2j * np.pi * np.arange(len(self._hertz))[:, None] * np.arange(self._window) / size)
        turn *= np.hanning(self._window + 2)[1:-1]
        self._turn = np.concatenate([turn.real, turn.imag]).astype(np.float32)
        self._known: dict[bytes, NDArray[np.int64]] = {}

    def refine(self, near_s: Seconds, hertz: Hertz, *, prior_s: Seconds = FINE_PRIOR_S) -> Seconds:
        """The strike nearest an instant; that itself where nothing rises."""
        offsets = np.arange(-FINE_REACH_S, FINE_REACH_S + FINE_HOP_S / 2, FINE_HOP_S)
        starts = np.round((near_s + offsets) * self._rate).astype(np.int64) - self._window // 2
        inside = (starts >= 0) & (starts < len(self._windows))
        if inside.sum() < 8 or not len(hertz):
            return near_s
        starts, offsets = starts[inside], offsets[inside]
        parts = self._windows[starts] @ self._turn[self._near(hertz)].T
        energy = (parts * parts).sum(axis=1)
        level = np.log(energy + SILENT * float(energy.max()) + 1e-20)
        weighed = np.maximum(level[4:] - level[:-4], 0) * np.exp(-0.5 * (offsets[2:-2] / prior_s) ** 2)
        best = int(np.argmax(weighed))
        if weighed[best] <= 0:
            return near_s
        between = _between(weighed.astype(np.float32), best) * FINE_HOP_S
        return near_s + float(offsets[2:-2][best]) + between - RISES_AFTER_S

    def _near(self, hertz: Hertz) -> NDArray[np.int64]:
        """The rows of the transform that are near partials."""
        key = hertz.tobytes()
        if key not in self._known:
            near_hz = max(NEAR_PARTIAL_HZ, 0.6 * self._hertz[1])
            near = np.abs(self._hertz[:, None] - hertz[None, :]).min(axis=1) <= near_hz
            self._known[key] = np.flatnonzero(np.concatenate([near, near]))
        return self._known[key]
