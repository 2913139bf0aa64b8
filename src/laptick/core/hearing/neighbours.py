"""Which of neighbouring keys was struck, told by a longer look.

What the spectrum shows of a low key and of the next one lies within one of its bins. In a stretch as long as the key
sounds alone their partials come apart, the higher the clearer; each partial of the one is set against the same of the
other, what sounded before taken off. Nothing need be known of how loud keys usually are. Source: ours, measured in
docs/hearing.md.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.units import Seconds
from laptick.core.hearing.partials import IN_THE_WAY, Hertz, partials_of
from laptick.core.hearing.sound import Sound

Floats = NDArray[np.float32]

#: Semitones from a key to those that are taken for it.
NEIGHBOURS = (-2, -1, 1, 2)

#: The look begins so long after the strike, is so long at most, and tells nothing where it is shorter.
AFTER_S, LONGEST_S, SHORTEST_S = 0.015, 0.250, 0.100

#: Partials come apart where they lie so many times the inverse of the look's length from each other.
APART = 1.8

#: A partial is looked for so far round where it should be, in proportion.
ROUND = 0.012

#: Above this share of the rate nothing is looked at.
HIGHEST = 0.45

#: So many partials must be told apart.
LEAST_PARTIALS = 3

#: Of what there was before, this much is taken off; and what is this much weaker than the strongest says nothing.
OF_BEFORE, WEAK = 0.9, 3e-3

#: One partial says at most so much (of the logarithm of its power), and on the mean so much is clear.
MOST_SAID, CLEAR = 3.0, 0.5

#: In the place of a key that was not struck nothing may have been: there one neighbour is ahead of every other one by
#: so much, and the others say no more than this on the median.
AHEAD, QUIET = 0.4, 0.25


@dataclass(frozen=True)
class Look:
    """From the strike of a key until something else is struck, on a piano of this tuning. ``others``: what is struck
    with it."""

    at_s: Seconds
    until_s: Seconds
    cents: float
    others: Sequence[int]


def struck_instead(sound: Sound, key: int, neighbours: Sequence[int], look: Look, *, seems_struck: bool) -> int | None:
    """The neighbour that was struck in a key's place, where that is clear. ``seems_struck``: something was there."""
    seconds = min(look.until_s - look.at_s - AFTER_S, LONGEST_S)
    if seconds < SHORTEST_S or not neighbours:
        return None
    power = _new_power(sound, look.at_s, seconds)
    if power is None:
        return None
    new = _New(power, sound.rate, partials_of(look.others, look.cents, IN_THE_WAY), APART / seconds)
    own = partials_of([key], look.cents)
    sizes = {one: new.sizes(own, partials_of([one], look.cents)) for one in neighbours}
    told = {one: both for one, both in sizes.items() if len(both) >= LEAST_PARTIALS}
    weak = WEAK * max((float(both.max()) for both in told.values()), default=0.0) + 1e-20
    said = sorted((_said(both + weak), one) for one, both in told.items())
    if not said or said[0][0] > -CLEAR:
        return None
    others = [by for by, _ in said[1:]]
    is_one = seems_struck or not others or (others[0] >= said[0][0] + AHEAD and median(map(abs, others)) <= QUIET)
    return said[0][1] if is_one else None


def _new_power(sound: Sound, at_s: Seconds, seconds: Seconds) -> Floats | None:
    """The power of what is new since a strike, bin by bin."""
    length, begin = round(seconds * sound.rate), round((at_s + AFTER_S) * sound.rate)
    after = sound.samples[begin : begin + length]
    if len(after) < length:
        return None
    size = 1 << math.ceil(math.log2(2 * length))
    hann = np.hanning(length + 2)[1:-1].astype(np.float32)
    power: Floats = np.abs(np.fft.rfft(after * hann, size)) ** 2
    end = round((at_s - AFTER_S / 2) * sound.rate)
    before = sound.samples[max(0, end - length) : max(0, end)]
    if len(before) == length:
        power = np.maximum(power - OF_BEFORE * np.abs(np.fft.rfft(before * hann, size)) ** 2, 0.0)
    return power


def _said(both: Floats) -> float:
    """How much partials say for the first of two keys, against the second, by their powers."""
    return float(np.clip(np.log(both[:, 0] / both[:, 1]), -MOST_SAID, MOST_SAID).mean())


@dataclass(frozen=True, eq=False)
class _New:
    """What is new since a strike: its power, bin by bin, of a sound of this rate; the partials that are the others',
    and how far from them and from each other partials come apart."""

    power: Floats
    rate: int
    foreign: Hertz
    apart_hz: float

    def sizes(self, first: Hertz, second: Hertz) -> Floats:
        """The powers of the partials of two keys, of each number a row, where they can be told from each other and
        from those of the others."""
        count = min(len(first), len(second))
        both = np.stack([first[:count], second[:count]], axis=1)
        free = (np.abs(both[:, 0] - both[:, 1]) >= self.apart_hz) & (both.max(axis=1) <= HIGHEST * self.rate)
        if len(self.foreign):
            free &= np.abs(both[:, :, None] - self.foreign).min(axis=(1, 2)) >= self.apart_hz
        return self._peaks(both[free])

    def _peaks(self, hertz: Hertz) -> Floats:
        """The power of partials."""
        if not hertz.size:
            return np.zeros(hertz.shape, np.float32)
        per_hz = 2 * (len(self.power) - 1) / self.rate
        low = np.floor(hertz.ravel() * (1 - ROUND) * per_hz).astype(np.int64)
        width = np.ceil(hertz.ravel() * (1 + ROUND) * per_hz).astype(np.int64) + 1 - low
        begin = np.cumsum(width) - width
        bins = np.arange(begin[-1] + width[-1]) + np.repeat(low - begin, width)  # those round each partial in turn
        peaks: Floats = np.maximum.reduceat(self.power[bins], begin).reshape(hertz.shape)
        return peaks
