"""One spectrum for everything: short-time magnitudes of a whole take, and their floor.

Conventions: frames of 46 ms (Hann) every 5 ms; a frame's time is that of its middle; ``magnitudes`` hold the bins up to
``TOP_HZ`` as half-precision numbers, which keep three digits and half the room. Long takes are gone through in blocks,
so what is needed beside the result does not grow with their length.

Source: the short-time Fourier transform; floors per bin by percentiles over time, ours.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.units import Seconds
from laptick.core.hearing.sound import Sound

Floats = NDArray[np.float32]

WINDOW_S: Seconds = 0.0464
HOP_S: Seconds = 0.005

#: Partials are looked for up to here; strikes, up to the top of the bands.
TOP_HZ = 5_000.0
BANDS_FROM_HZ, BANDS_TO_HZ, BANDS_PER_OCTAVE = 30.0, 10_000.0, 24

#: So many levels are kept, some 4 MB: a take of three minutes is gone through several times, and asks for 1,800.
MOST_LEVELS = 2048

#: Frames that are gone through at once: what the processor has at hand.
BLOCK = 128

#: Floors are taken from so many frames at most: percentiles change no more beyond that.
FLOOR_FRAMES = 4000


@dataclass(frozen=True, eq=False)
class Spectrum:
    """``magnitudes[frame, bin]``; ``bands[frame, band]``: the same summed in bands of a quarter tone; ``floor``: per
    bin, what is there without a strike; ``bin_hz``: from one bin to the next."""

    magnitudes: NDArray[np.float16]
    bands: Floats
    floor: Floats
    bin_hz: float
    hop_s: Seconds
    begin_s: Seconds
    _levels: dict[tuple[int, int], NDArray[np.float64]] = field(default_factory=dict)

    @property
    def frames(self) -> int:
        return len(self.magnitudes)

    @property
    def bins(self) -> int:
        return int(self.magnitudes.shape[1])

    @cached_property
    def floor_between(self) -> Floats:
        """The floor between every bin and the next."""
        return np.maximum(self.floor[:-1], self.floor[1:])

    def frame_of(self, at_s: Seconds) -> int:
        """The frame whose middle is nearest."""
        return min(max(0, round((at_s - self.begin_s) / self.hop_s)), self.frames - 1)

    def levels(self, first: int, last: int) -> NDArray[np.float64]:
        """How loud it is between every bin and the next, against their floor, meant over frames from one up to
        another. Kept: many keys are looked for at the same strike."""
        known = self._levels.get((first, last))
        if known is None:
            if len(self._levels) >= MOST_LEVELS:
                self._levels.clear()
            here = self.magnitudes[first:last].astype(np.float32)
            size = np.maximum(here[:, :-1], here[:, 1:])
            size /= self.floor_between
            known = np.add.reduce(np.log1p(size, out=size), axis=0, dtype=np.float64) / len(size)
            self._levels[first, last] = known
        return known

    def times(self, first: int, last: int) -> NDArray[np.float64]:
        """The middles of frames, from one up to another."""
        times: NDArray[np.float64] = self.begin_s + self.hop_s * np.arange(first, last, dtype=np.float64)
        return times

    def time_of(self, frame: float) -> Seconds:
        return self.begin_s + frame * self.hop_s


def spectrum_of(sound: Sound) -> Spectrum:
    """The spectrum of a sound of at least one frame."""
    window, size, hop = _frame(sound.rate)
    bin_hz = sound.rate / size
    kept = min(size // 2 + 1, int(TOP_HZ / bin_hz) + 2)
    edges = band_edges(bin_hz, size // 2)
    # A sound that begins with a strike has its first frames too: silence is laid before it and after it.
    padded = np.concatenate([np.zeros(window // 2, np.float32), sound.samples, np.zeros(window, np.float32)])
    count = (len(padded) - window) // hop + 1
    magnitudes = np.empty((count, kept), np.float16)
    bands = np.empty((count, len(edges)), np.float32)
    for first, block in _blocks(padded, _scale(sound), (window, size, hop)):
        magnitudes[first : first + len(block)] = np.minimum(block[:, :kept], 60_000.0)
        bands[first : first + len(block)] = np.add.reduceat(block[:, : edges_top(bin_hz, size // 2)], edges, axis=1)
    return Spectrum(magnitudes, bands, _floor(magnitudes), bin_hz, hop / sound.rate, 0.0)


def sizes_of(numbers: NDArray[np.complexfloating]) -> Floats:
    """The sizes of complex numbers far from the ends of the range: quicker than where any overflow is kept off."""
    squares = numbers.real**2
    squares += numbers.imag**2
    sizes: Floats = np.sqrt(squares, out=squares)
    return sizes


def _frame(rate: int) -> tuple[int, int, int]:
    """(samples of a window, of the transform, of a hop)"""
    window = round(WINDOW_S * rate)
    size = 1 << (window - 1).bit_length()
    return window, size, round(HOP_S * rate)


def _scale(sound: Sound) -> float:
    """Brings the loudest to one level, so that half precision is never short of room."""
    loudest = float(np.max(np.abs(sound.samples))) if len(sound.samples) else 0.0
    return 100.0 / loudest if loudest > 0 else 1.0


def _blocks(samples: Floats, scale: float, frame: tuple[int, int, int]) -> Iterator[tuple[int, Floats]]:
    window, size, hop = frame
    hann = (scale * np.hanning(window + 1)[:-1]).astype(np.float32)
    frames = np.lib.stride_tricks.sliding_window_view(samples, window)[::hop]
    for first in range(0, len(frames), BLOCK):
        yield first, sizes_of(np.fft.rfft(frames[first : first + BLOCK] * hann, size, axis=1))


def band_edges(bin_hz: float, top_bin: int) -> NDArray[np.int64]:
    """The first bin of every band; low bands that are narrower than a bin are one bin each."""
    count = int(BANDS_PER_OCTAVE * np.log2(BANDS_TO_HZ / BANDS_FROM_HZ)) + 1
    hertz = BANDS_FROM_HZ * 2.0 ** (np.arange(count) / BANDS_PER_OCTAVE)
    return np.unique(np.minimum(np.round(hertz / bin_hz).astype(np.int64), edges_top(bin_hz, top_bin) - 1))


def edges_top(bin_hz: float, top_bin: int) -> int:
    return min(top_bin, int(BANDS_TO_HZ / bin_hz))


def _floor(magnitudes: NDArray[np.float16]) -> Floats:
    """Twice the 20th percentile over time, and a thousandth of what is loud."""
    some = magnitudes[:: max(1, len(magnitudes) // FLOOR_FRAMES)].astype(np.float32)
    quiet = np.percentile(some, 20, axis=0)
    loud = float(np.percentile(some.max(axis=1), 95))
    floor: Floats = (2 * quiet + 1e-3 * loud + 1e-6).astype(np.float32)
    return floor
