"""Where in a sound something is struck: every rise that may be a strike, strikes that fall together as one group.

The threshold is low on purpose, with about half as many again as there are strikes: what follows the score decides.
Source: spectral flux with a maximum filter (Böck & Widmer, DAFx 2013), from memory; the refining is ours.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.units import Seconds
from laptick.core.hearing.sound import Sound
from laptick.core.hearing.spectrum import Floats, Spectrum, spectrum_of

#: Rises are taken over so many frames.
LAG = 2

#: A peak is the largest within so long; it stands above a moving mean from before it to after it.
PEAK_S: Seconds = 0.030
MEAN_S: tuple[Seconds, Seconds] = (0.100, 0.070)
THRESHOLD, ABOVE, ABOVE_MEDIAN = 0.6, 0.055, 1.1

#: The first and the last of a sound are no strikes: there it was cut.
CUT_S: tuple[Seconds, Seconds] = (0.020, 0.030)

#: What lies nearer than this is one group.
TOGETHER_S: Seconds = 0.050

#: The energy of so short a window, taken so often, has its steepest rise at the strike.
FINE_S, FINE_HOP_S, FINE_REACH_S, FINE_PRIOR_S = 0.012, 0.001, 0.045, 0.022
STEP_S: Seconds = 0.00025


@dataclass(frozen=True, slots=True)
class Group:
    """What may be one strike: when, and how strong, where 1 is the strongest but for a few."""

    at_s: Seconds
    strength: float


@dataclass(frozen=True, eq=False)
class Flux:
    """How much is newly there, frame by frame, and its usual amount."""

    values: Floats
    median: float


@dataclass(frozen=True, eq=False)
class Rises:
    """What a sound is, whatever was asked for: its spectrum, and all in it that may be a strike."""

    spectrum: Spectrum
    groups: list[Group]


def rises_of(sound: Sound) -> Rises:
    """Of a sound, found once for all that it is compared with."""
    spectrum = spectrum_of(sound)
    return Rises(spectrum, groups_of(sound, spectrum, flux_of(spectrum)))


def flux_of(spectrum: Spectrum) -> Flux:
    """The rise of every band against the loudest of its neighbours before, summed; 1: the 99th percentile."""
    bands = spectrum.bands
    some = bands[:: max(1, len(bands) // 4000)]
    floor = 2 * np.percentile(some, 20, axis=0) + 1e-3 * float(np.percentile(some.max(axis=1), 95)) + 1e-6
    values = np.zeros(len(bands), np.float32)
    scale = (1 / (3 * floor)).astype(np.float32)
    for first in range(0, len(bands), 4096):
        level = np.log10(1 + bands[max(0, first - LAG) : first + 4096] * scale)
        widest = level.copy()
        widest[:, 1:] = np.maximum(widest[:, 1:], level[:, :-1])
        widest[:, :-1] = np.maximum(widest[:, :-1], level[:, 1:])
        rise = np.maximum(level[LAG:] - widest[:-LAG], 0).sum(axis=1)
        values[first + (LAG if first == 0 else 0) :][: len(rise)] = rise
    top = float(np.percentile(values, 99))
    values /= top if top > 0 else 1.0
    return Flux(values, float(np.median(values)))


def groups_of(sound: Sound, spectrum: Spectrum, flux: Flux) -> list[Group]:
    """Everything that may be a strike, in time order."""
    frames = _peaks(spectrum, flux)
    energy = Energy(sound)
    found: list[Group] = []
    for frame in frames.tolist():
        at_s = energy.steepest(spectrum.time_of(frame))
        if CUT_S[0] < at_s < sound.seconds - CUT_S[1]:
            found.append(Group(at_s, float(flux.values[frame])))
    return _together(sorted(found, key=lambda group: group.at_s))


def _peaks(spectrum: Spectrum, flux: Flux) -> NDArray[np.int64]:
    values, hop_s = flux.values, spectrum.hop_s
    reach = round(PEAK_S / hop_s)
    around = np.lib.stride_tricks.sliding_window_view(np.pad(values, reach), 2 * reach + 1).max(axis=1)
    before, after = (round(one / hop_s) for one in MEAN_S)
    total = np.concatenate([[0.0], np.cumsum(values, dtype=np.float64)])
    at = np.arange(len(values))
    low, high = np.maximum(at - before, 0), np.minimum(at + after + 1, len(values))
    mean = (total[high] - total[low]) / (high - low)
    least = mean + THRESHOLD * (ABOVE + ABOVE_MEDIAN * flux.median)
    return np.flatnonzero((values >= around) & (values > least))


def _together(found: list[Group]) -> list[Group]:
    """Groups of what lies near each other, each at the time of its strongest."""
    gathered: list[list[Group]] = []
    for group in found:
        if gathered and group.at_s - gathered[-1][0].at_s < TOGETHER_S:
            gathered[-1].append(group)
        else:
            gathered.append([group])
    return [max(near, key=lambda group: group.strength) for near in gathered]


class Energy:
    """The energy of short windows of a sound, of any instant at once."""

    def __init__(self, sound: Sound) -> None:
        # Summed in steps much shorter than a window: a sum of every sample would be twice as large as the sound.
        step = max(1, round(STEP_S * sound.rate))
        count = len(sound.samples) // step
        parts = sound.samples[: count * step].reshape(count, step)
        self._per_s = sound.rate / step
        self._total = np.concatenate([[0.0], np.cumsum(np.einsum("ij,ij->i", parts, parts), dtype=np.float64)])
        self._total /= step
        self._least = 1e-9 + 1e-6 * float(self._total[-1]) / max(1, count)

    def of(self, middles_s: NDArray[np.float64]) -> NDArray[np.float64]:
        """Mean square of the windows round instants."""
        half = round(FINE_S * self._per_s / 2)
        middle = np.round(middles_s * self._per_s).astype(np.int64)
        low = np.clip(middle - half, 0, len(self._total) - 1)
        high = np.clip(middle + half, 0, len(self._total) - 1)
        energy: NDArray[np.float64] = (self._total[high] - self._total[low]) / (2 * half) + self._least
        return energy

    def steepest(self, near_s: Seconds) -> Seconds:
        """When, near an instant, the energy rises most steeply for what it was."""
        offsets = np.arange(-FINE_REACH_S, FINE_REACH_S + FINE_HOP_S / 2, FINE_HOP_S)
        level = np.log(self.of(near_s + offsets))
        rise = np.maximum(level[4:] - level[:-4], 0) * np.exp(-0.5 * (offsets[2:-2] / FINE_PRIOR_S) ** 2)
        return near_s + float(offsets[2:-2][int(np.argmax(rise))]) if rise.any() else near_s
