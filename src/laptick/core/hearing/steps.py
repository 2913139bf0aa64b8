"""One hand's strike as a step in the levels of its own partials, beside a pulse where the other hand struck.

Each partial's level over time is laid out as a constant, a step that falls off slowly, and a pulse, all as the window
of the spectrum shows them; by ordinary least squares, for every instant tried. What is left over of all partials
together tells how likely each instant is. Source: ours, measured in docs/hearing.md.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.units import Seconds
from laptick.core.hearing.partials import Hertz
from laptick.core.hearing.spectrum import WINDOW_S, Spectrum

Doubles = NDArray[np.float64]

#: How far round an event a hand is looked for, and how finely.
REACH_S, STEP_S = 0.110, 0.0025

#: The sound that is laid out: from so long before the earliest instant to so long after the latest, but not beyond the
#: event before or after it.
BEFORE_S, AFTER_S = 0.030, 0.045

#: Frames that overlap tell the same twice: one in so many counts; and of many partials so many.
OVERLAP, MOST_COUNTED = 5.0, 5

#: A hand is told when its instant is known this well, and no other one beyond ``RIVAL_S`` is nearly as likely.
SURE_S, RIVAL_S, RIVAL_LIKELY = 0.007, 0.015, 2.0

#: The pulse of the other hand is no more than this share of the step, and what it explains must be so much better:
#: a step that falls off looks a little like a pulse and a later step.
MOST_PULSE, PULSE_COST = 0.7, 2.0

#: What is struck falls off the faster the higher: up to these frequencies, and above them, to 1/e within so long.
FADES_TO_HZ = (500.0, 1500.0)
FADES_S: tuple[Seconds, ...] = (0.8, 0.4, 0.2)

#: A partial that rises by less than this share of the strongest is not there.
THERE = 0.02

#: So many of its own partials are needed.
LEAST_PARTIALS = 2

#: Fewer frames or instants than this tell nothing.
LEAST_FRAMES, LEAST_TRIED = 12, 8


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
class Levels:
    """The levels of one hand's partials round an event, each 1 at the most: ``levels[frame, partial]``, sorted by how
    fast they fall off; ``tried``: the instants; ``known``: what was found beside a pulse at an instant."""

    times: Doubles
    tried: Doubles
    count: float
    parts: list[_Part]
    known: dict[Seconds, Doubles] = field(default_factory=dict)

    @classmethod
    def of(cls, spectrum: Spectrum, span: Span, hertz: Hertz) -> Levels | None:
        """``None`` where too few partials rise, or too little lies between the neighbours."""
        begin_s = max(span.near_s - REACH_S - BEFORE_S, span.after_s)
        end_s = min(span.near_s + REACH_S + AFTER_S, span.before_s)
        first, last = spectrum.frame_of(begin_s), spectrum.frame_of(end_s) + 1
        place = hertz / spectrum.bin_hz
        below = place[place < spectrum.bins - 1].astype(np.int64)
        if last - first < LEAST_FRAMES or len(below) < LEAST_PARTIALS:
            return None
        here = spectrum.magnitudes[first:last]
        size = np.maximum(here[:, below], here[:, below + 1]).astype(np.float64)
        least = np.maximum(spectrum.floor[below], spectrum.floor[below + 1])
        rises = size.max(axis=0) - size[: max(3, len(size) // 4)].min(axis=0)
        kept = (rises > least) & (rises > THERE * rises.max())
        if kept.sum() < LEAST_PARTIALS:
            return None
        levels = size[:, kept] / size[:, kept].max(axis=0)
        times = spectrum.times(first, last)
        low, high = max(span.near_s - REACH_S, times[0] + 0.02), min(span.near_s + REACH_S, times[-1] - 0.02)
        tried = np.arange(low, high, STEP_S)
        if len(tried) <= LEAST_TRIED:
            return None
        offsets = times[None, :] - tried[:, None]
        rising = _step(offsets)
        kinds = np.searchsorted(FADES_TO_HZ, hertz[: len(below)][kept])
        parts = []
        for kind in np.unique(kinds):
            steps = _apart(rising * np.exp(-np.maximum(offsets, 0) / FADES_S[kind]), axis=1)
            parts.append(_Part.of(steps, _apart(levels[:, kinds == kind], axis=0)))
        count = len(times) / OVERLAP * min(levels.shape[1], MOST_COUNTED)
        return cls(times, tried, count, parts)

    def step(self, pulse_s: Seconds, near_s: Seconds, spread_s: Seconds) -> Step:
        """The step that leaves least over, beside a pulse; ``near_s``, ``spread_s``: where it is likely."""
        if pulse_s not in self.known:
            self.known[pulse_s] = self._left_over(pulse_s)
        unlikely = 0.5 * self.count * np.log(self.known[pulse_s]) + 0.5 * ((self.tried - near_s) / spread_s) ** 2
        best = int(np.argmin(unlikely))
        unlikely = unlikely - unlikely[best]
        round_best = np.abs(self.tried - self.tried[best]) <= RIVAL_S
        weight = np.exp(-unlikely) * round_best
        at_s = float((weight * self.tried).sum() / weight.sum())
        sure_s = float(np.sqrt((weight * (self.tried - at_s) ** 2).sum() / weight.sum()))
        others = unlikely[~round_best]
        return Step(at_s, max(sure_s, STEP_S / 2), not len(others) or float(others.min()) >= RIVAL_LIKELY)

    def settle(self) -> None:
        """Keeps what is known beside the pulses that were tried, and lets go of what it was worked out of."""
        self.parts.clear()

    def _left_over(self, pulse_s: Seconds) -> Doubles:
        """Of all partials together, the share of what there is that a step at each instant leaves over."""
        pulse = _pulse(self.times - pulse_s)
        pulse = pulse - pulse.mean()
        left = np.concatenate([part.left_over(pulse) for part in self.parts], axis=1)
        shares: Doubles = left.mean(axis=1) + 1e-3
        return shares


@dataclass(frozen=True, eq=False)
class _Part:
    """Partials that fall off alike, and the steps that do; both without their means, which is what was there before.
    ``along[tried, partial]``: each step along each partial; ``lengths``, ``total``: their squares."""

    steps: Doubles
    levels: Doubles
    along: Doubles
    lengths: Doubles
    total: Doubles

    @classmethod
    def of(cls, steps: Doubles, levels: Doubles) -> _Part:
        lengths = (steps * steps).sum(axis=1)[:, None] + 1e-9
        total = (levels * levels).sum(axis=0)[None, :] + 1e-9
        return cls(steps, levels, steps @ levels, lengths, total)

    def left_over(self, pulse: Doubles) -> Doubles:
        """By a step alone, or by a step and a smaller pulse where that is clearly better."""
        alone = np.where(self.along >= 0, self.along**2 / self.lengths, 0.0)
        left = self.total - alone
        length = float(pulse @ pulse) + 1e-9
        across = (self.steps @ pulse)[:, None]
        beside = (pulse @ self.levels)[None, :]
        determinant = self.lengths * length - across**2 + 1e-9
        height = (length * self.along - across * beside) / determinant
        other = (self.lengths * beside - across * self.along) / determinant
        fits = (height >= 0) & (other >= 0) & (other <= MOST_PULSE * height)
        both = PULSE_COST * (self.total - height * self.along - other * beside)
        best: Doubles = np.minimum(left, np.where(fits, both, np.inf)) / self.total
        return best


def _apart(rows: Doubles, axis: int) -> Doubles:
    """Without their means."""
    found: Doubles = rows - rows.mean(axis=axis, keepdims=True)
    return found


def _pulse(offsets: Doubles) -> Doubles:
    """What the window makes of a pulse."""
    inside = np.abs(offsets) < WINDOW_S / 2
    made: Doubles = np.where(inside, 0.5 + 0.5 * np.cos(2 * np.pi * offsets / WINDOW_S), 0.0)
    return made


def _step(offsets: Doubles) -> Doubles:
    """What the window makes of a step: what of it has come in."""
    part = np.clip(offsets / WINDOW_S, -0.5, 0.5)
    made: Doubles = 0.5 + part + np.sin(2 * np.pi * part) / (2 * np.pi)
    return made
