"""One hand's strike as a step in its own partials.

Each partial is turned down to standstill, so that while it sounds it is one complex number: what rang before stays as
it was, and the strike adds a step, as the window shows it, that falls off slowly. By ordinary least squares, for every
instant tried; once for the number itself, where what comes from elsewhere adds with any phase and so hardly disturbs,
and once for its size, which the echoes of a room disturb less. What both leave over, of all partials together, tells
how likely each instant is. Source: ours, measured in docs/hearing.md; the least squares are ordinary.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.units import Seconds
from laptick.core.hearing.partials import Hertz
from laptick.core.hearing.sound import Sound

Doubles = NDArray[np.float64]
Complexes = NDArray[np.complex64]

#: Windows (Hann) in which a partial is followed, and how often.
WINDOW_S, HOP_S = 0.030, 0.004

#: How far round an event a hand is looked for, where nothing else is asked, and how finely.
REACH_S, STEP_S = 0.110, 0.0025

#: The sound that is laid out: from so long before the earliest instant to so long after the latest, but not beyond the
#: event before or after it; and no instant so near its ends is tried.
BEFORE_S, AFTER_S, EDGE_S = 0.030, 0.060, 0.020

#: A partial may lie so far beside where it should, in Hz and in proportion; told by how it turns, this long after.
BESIDE_HZ, BESIDE_SHARE, RINGS_S = 4.0, 0.006, 0.030

#: Frames that overlap tell the same twice: one in so many counts; and of many partials so many.
OVERLAP, MOST_COUNTED = 5.0, 5

#: Of what a partial is, so much may be left over without telling anything.
LEFT = 0.03

#: A hand is told when its instant is known this well, and no other one beyond ``RIVAL_S`` is nearly as likely.
SURE_S, RIVAL_S, RIVAL_LIKELY = 0.0035, 0.015, 6.0

#: What is struck falls off the faster the higher: up to these frequencies, and above them, to 1/e within so long.
FADES_TO_HZ = (500.0, 1500.0)
FADES_S: tuple[Seconds, ...] = (2.0, 1.0, 0.5)

#: A partial that rises by less than this share of the strongest is not there.
THERE = 0.03

#: So many of its own partials are needed.
LEAST_PARTIALS = 2

#: Fewer frames or instants than this tell nothing.
LEAST_FRAMES, LEAST_TRIED = 16, 8


@dataclass(frozen=True, slots=True)
class Span:
    """Where a step is looked for: near an instant, between the events on either side."""

    near_s: Seconds
    after_s: Seconds
    before_s: Seconds


@dataclass(frozen=True, slots=True)
class Step:
    """Where a step lies: when, how surely (standard uncertainty), and is it the only place?"""

    at_s: Seconds
    sure_s: Seconds
    is_only: bool

    @property
    def is_clear(self) -> bool:
        return self.is_only and self.sure_s <= SURE_S


@dataclass(frozen=True, eq=False)
class Line:
    """One hand round an event. ``tried``: the instants; ``unlikely``: how unlikely each is, less is likelier."""

    tried: Doubles
    unlikely: Doubles

    def step(self, near_s: Seconds, spread_s: Seconds) -> Step:
        """The likeliest step. ``near_s``, ``spread_s``: where it is likely beforehand."""
        unlikely = self.unlikely + 0.5 * ((self.tried - near_s) / spread_s) ** 2
        best = int(np.argmin(unlikely))
        unlikely = unlikely - unlikely[best]
        round_best = np.abs(self.tried - self.tried[best]) <= RIVAL_S
        weight = np.exp(-unlikely) * round_best
        at_s = float((weight * self.tried).sum() / weight.sum())
        sure_s = float(np.sqrt((weight * (self.tried - at_s) ** 2).sum() / weight.sum()))
        others = unlikely[~round_best]
        return Step(at_s, max(sure_s, STEP_S / 2), not len(others) or float(others.min()) >= RIVAL_LIKELY)


@dataclass(frozen=True, eq=False)
class _Grid:
    """Instants tried, and frames laid out, round one near which a hand is looked for: both count from it in seconds.
    ``steps[kind][instant, frame]``: what the window makes of a step at an instant, by how fast it falls off."""

    tried: Doubles
    frames: Doubles
    hop: int
    steps: tuple[Doubles, ...]


@lru_cache(maxsize=16)
def _grid(rate: int, reach_s: Seconds) -> _Grid:
    hop, most = round(HOP_S * rate), round(reach_s / STEP_S)
    tried = STEP_S * np.arange(-most, most + 1, dtype=np.float64)
    first, last = int((reach_s + BEFORE_S) * rate / hop), int((reach_s + AFTER_S) * rate / hop)
    frames = np.arange(-first, last + 1, dtype=np.float64) * hop / rate
    offsets = frames[None, :] - tried[:, None]
    rising = _step(offsets)
    return _Grid(tried, frames, hop, tuple(rising * np.exp(-np.maximum(offsets, 0) / fade_s) for fade_s in FADES_S))


def lines_of(sound: Sound, span: Span, hands: Sequence[Hertz], *, reach_s: Seconds = REACH_S) -> list[Line] | None:
    """Each hand's line, so far round where it is near; ``None`` where too few partials of one rise, or too little lies
    between the neighbours."""
    grid = _grid(sound.rate, reach_s)
    size, near = round(WINDOW_S * sound.rate), round(span.near_s * sound.rate)
    near_s = near / sound.rate
    tried = _within(grid.tried, span.after_s + EDGE_S - near_s, span.before_s - EDGE_S - near_s)
    begin_s, end_s = (size // 2 - 0.5) / sound.rate, (len(sound.samples) - size + size // 2 + 0.5) / sound.rate
    frames = _within(grid.frames, max(span.after_s, begin_s) - near_s, min(span.before_s, end_s) - near_s)
    if frames.stop - frames.start < LEAST_FRAMES or tried.stop - tried.start < LEAST_TRIED:
        return None
    times = grid.frames[frames]
    first = near + round(times[0] * sound.rate) - size // 2
    laid = np.ascontiguousarray(sound.windows(size)[first :: grid.hop][: len(times)])
    steps = _steps_of(sound.rate, reach_s, (tried.start, tried.stop), (frames.start, frames.stop))
    lines = []
    for hertz in hands:
        own = hertz[hertz < 0.45 * sound.rate]
        still = [_still(one, sound.rate, reach_s)[frames] for one in own.tolist()]
        found = _standing(laid, times, own, still, sound.rate)
        if found is None:
            return None
        partials, level = found
        left = _left_over(steps, [0, *np.searchsorted(partials, FADES_TO_HZ, "right").tolist(), len(partials)], level)
        count = len(times) / OVERLAP * min(1.0, MOST_COUNTED / left.shape[1])
        lines.append(Line(near_s + grid.tried[tried], count * np.log(left + LEFT).sum(axis=1)))
    return lines


@lru_cache(maxsize=128)
def _steps_of(rate: int, reach_s: Seconds, tried: tuple[int, int], frames: tuple[int, int]) -> list[_Steps]:
    """The steps of a grid at some of its instants and frames, by how fast they fall off."""
    return [_Steps.of(one[slice(*tried), slice(*frames)]) for one in _grid(rate, reach_s).steps]


def _within(times: Doubles, from_s: Seconds, to_s: Seconds) -> slice:
    """The times from one on, before another."""
    first, last = np.searchsorted(times, (from_s, to_s))
    return slice(int(first), int(last))


@lru_cache(maxsize=2048)
def _turning(hertz: float, size: int, rate: int) -> NDArray[np.float32]:
    """What turns one partial down to standstill, under the window: its real and its imaginary part."""
    turn = np.exp(-2j * np.pi * hertz * (np.arange(size) - size // 2) / rate) * np.hanning(size + 2)[1:-1]
    both: NDArray[np.float32] = np.stack([turn.real, turn.imag]).astype(np.float32)
    both.setflags(write=False)
    return both


@lru_cache(maxsize=2048)
def _still(hertz: float, rate: int, reach_s: Seconds) -> Complexes:
    """What brings one partial to a standstill from frame to frame of a grid."""
    turn: Complexes = np.exp(-2j * np.pi * hertz * _grid(rate, reach_s).frames).astype(np.complex64)
    turn.setflags(write=False)
    return turn


def _turns(radians: NDArray[np.float32]) -> Complexes:
    """Turned back by angles of a few turns at most: exact to single precision, and many times as quick as the complex
    exponential."""
    turns = np.empty(radians.shape, np.complex64)
    np.cos(radians, out=turns.real)
    np.negative(np.sin(radians, out=turns.imag), out=turns.imag)
    return turns


def _standing(
    frames: NDArray[np.float32], times: Doubles, hertz: Hertz, still: Sequence[Complexes], rate: int
) -> tuple[Hertz, Complexes] | None:
    """The partials that rise, each at a standstill: ``level[frame, partial]``. ``times``: from the event; ``still``:
    what brings each partial there."""
    if len(hertz) < LEAST_PARTIALS:
        return None
    turning = np.concatenate([_turning(one, frames.shape[1], rate) for one in hertz.tolist()])
    turned = (frames @ turning.T).view(np.complex64)
    turned *= np.stack(still, axis=1)
    ringing = times[1:] > RINGS_S
    if ringing.sum() < 6:
        ringing = times[1:] > times[-1] - RINGS_S
    on = (turned[1:] * np.conj(turned[:-1]))[ringing].sum(axis=0)
    most_hz = BESIDE_HZ + BESIDE_SHARE * hertz
    beside_hz = np.clip(np.angle(on) / (2 * np.pi * (times[1] - times[0])), -most_hz, most_hz)
    level: Complexes = turned * _turns((2 * np.pi * times[:, None] * beside_hz[None, :]).astype(np.float32))
    size_of = np.abs(level)
    rises = size_of.max(axis=0) - size_of[: max(4, len(level) // 5)].min(axis=0)
    kept = rises > THERE * rises.max()
    return (hertz[kept], level[:, kept]) if kept.sum() >= LEAST_PARTIALS else None


@dataclass(frozen=True, eq=False)
class _Steps:
    """Steps at each instant, without their means, which is what was there before. ``square``: their sums of squares."""

    steps: Doubles
    square: Doubles

    @classmethod
    def of(cls, made: Doubles) -> _Steps:
        apart = made - made.mean(axis=1, keepdims=True)
        return cls(apart, (apart * apart).sum(axis=1)[:, None] + 1e-9)


def _left_over(steps: Sequence[_Steps], bounds: Sequence[int], level: Complexes) -> Doubles:
    """Of every partial, the share of what there is that a step at each instant leaves over: the geometric mean of that
    of the number and of its size. ``bounds``: between which partials each of the steps is theirs."""
    parts = np.stack([level.real, level.imag, np.abs(level)], axis=1, dtype=np.float64)  # frame, part, partial
    parts -= np.add.reduce(parts, axis=0) / len(parts)
    along, square = np.empty((len(steps[0].steps), *parts.shape[1:])), np.empty((len(steps[0].steps), parts.shape[2]))
    for one, (first, last) in zip(steps, itertools.pairwise(bounds), strict=True):
        if first < last:
            own = parts[:, :, first:last].reshape(len(parts), -1)
            along[:, :, first:last] = (one.steps @ own).reshape(len(along), 3, -1)
            square[:, first:last] = one.square
    np.maximum(along[:, 2], 0.0, out=along[:, 2])  # a size can only rise
    along *= along
    parts *= parts
    total = np.add.reduce(parts, axis=0) + 1e-20
    number = _share(along[:, 0] + along[:, 1], square, total[0] + total[1])
    number *= _share(along[:, 2], square, total[2])
    return np.sqrt(number, out=number)


def _share(along: Doubles, square: Doubles, total: Doubles) -> Doubles:
    """What is left over of all there is. ``along``: what lies along each step, squared."""
    left: Doubles = along / (square * total)
    np.subtract(1.0, left, out=left)
    return left.clip(1e-6, 1.0, out=left)


def _step(offsets: Doubles) -> Doubles:
    """What the window makes of a step: what of it has come in."""
    part = np.clip(offsets / WINDOW_S, -0.5, 0.5)
    made: Doubles = 0.5 + part + np.sin(2 * np.pi * part) / (2 * np.pi)
    return made
