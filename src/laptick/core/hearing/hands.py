"""Two hands that strike together, told apart by the partials that each has for itself.

A strike raises the level of its partials as a step, seen through the window of the spectrum; the attack of the *other*
hand reaches into every bin too, but as a pulse: it is gone when the window has passed. So the level of each partial is
laid out as what was there, a pulse where the other hand struck, and a step where this one did, and the step is looked
for that leaves least over. How sharply one instant explains the sound better than its neighbours tells how sure it is,
and a pair is told only where both are. Source: ours, measured in docs/hearing.md; the least squares are ordinary.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.units import Seconds
from laptick.core.hearing.listening import Fine
from laptick.core.hearing.partials import Hertz
from laptick.core.hearing.spectrum import WINDOW_S, Spectrum

Doubles = NDArray[np.float64]

#: Partials of two hands are told apart when they lie farther from each other, in bins; and at least so many are needed.
APART_BINS, LEAST_PARTIALS = 1.6, 2

#: How far round an event a hand is looked for, and how finely.
REACH_S, STEP_S = 0.110, 0.0025

#: The sound that is laid out: from so long before the earliest instant to so long after the latest, but not beyond the
#: event before or after it.
BEFORE_S, AFTER_S = 0.030, 0.045

#: A hand lies this near the event, and a pair this near the take's usual gap, as far as is known beforehand.
NEAR_SPREAD_S, GAP_SPREAD_S = 0.060, 0.030

#: Frames that overlap tell the same twice: one in so many counts; and of many partials so many.
OVERLAP, MOST_COUNTED = 5.0, 5

#: A hand is told when its instant is known this well, and no other one beyond ``RIVAL_S`` is nearly as likely.
SURE_S, RIVAL_S, RIVAL_LIKELY = 0.007, 0.015, 2.0

#: What is struck falls off the faster the higher: up to these frequencies, and above them, to 1/e within so long.
FADES_TO_HZ = (500.0, 1500.0)
FADES_S: tuple[Seconds, ...] = (0.8, 0.4, 0.2)

#: The pulse of the other hand is no more than this share of the step, and what it explains must be so much better:
#: a step that falls off looks a little like a pulse and a later step.
MOST_PULSE, PULSE_COST = 0.7, 2.0

#: From a hand's step to its strike; two within this are one.
FINE_PRIOR_S, SAME_S = 0.006, 0.004

#: So many pairs tell where the hands lie in the median.
LEAST_CLEAR = 3

#: A partial that rises by less than this share of the strongest is not there.
THERE = 0.02


@dataclass(frozen=True, slots=True)
class Chance:
    """An event of both hands: when it was struck, between which neighbours, and the partials of each hand's own."""

    near_s: Seconds
    after_s: Seconds
    before_s: Seconds
    right: Hertz
    left: Hertz

    @property
    def is_tellable(self) -> bool:
        return min(len(self.right), len(self.left)) >= LEAST_PARTIALS


@dataclass(frozen=True, slots=True)
class Pair:
    """``uncertainty_s``: standard uncertainty of the gap between them."""

    right_s: Seconds
    left_s: Seconds
    uncertainty_s: Seconds


@dataclass(frozen=True, slots=True)
class Step:
    """Where a step lies: when, how surely (standard uncertainty), and is it the only place?"""

    at_s: Seconds
    sure_s: Seconds
    is_only: bool

    @property
    def is_clear(self) -> bool:
        return self.is_only and self.sure_s <= SURE_S


def tell_apart(spectrum: Spectrum, fine: Fine, chances: Sequence[Chance]) -> list[Pair | None]:
    """When each hand struck, chance by chance; ``None`` where that cannot be told."""
    first = [_pair(spectrum, chance, None) if chance.is_tellable else None for chance in chances]
    clear = [
        both[0].at_s - both[1].at_s for both in first if both is not None and both[0].is_clear and both[1].is_clear
    ]
    if len(clear) < LEAST_CLEAR:
        return [None] * len(chances)
    usual_s = median(clear)
    second = [_pair(spectrum, chance, usual_s) if chance.is_tellable else None for chance in chances]
    return [
        _finely(fine, chance, *both) if both is not None and both[0].is_clear and both[1].is_clear else None
        for chance, both in zip(chances, second, strict=True)
    ]


def _finely(fine: Fine, chance: Chance, right: Step, left: Step) -> Pair:
    """Each hand at the steepest rise near its step; where one rise would stand for both, the steps remain."""
    right_s = fine.refine(right.at_s, chance.right, prior_s=FINE_PRIOR_S)
    left_s = fine.refine(left.at_s, chance.left, prior_s=FINE_PRIOR_S)
    if abs(right_s - left_s) < SAME_S < abs(right.at_s - left.at_s) / 2:
        right_s, left_s = right.at_s, left.at_s
    return Pair(right_s, left_s, float(np.hypot(right.sure_s, left.sure_s)))


def _pair(spectrum: Spectrum, chance: Chance, usual_s: Seconds | None) -> tuple[Step, Step] | None:
    """Both hands' steps: each first beside a pulse at the event, then beside one where the other hand was found."""
    levels = [_Levels.of(spectrum, chance, own) for own in (chance.right, chance.left)]
    right, left = levels
    if right is None or left is None:
        return None
    before = [one.step(chance.near_s, chance.near_s, NEAR_SPREAD_S) for one in (right, left)]
    if usual_s is None:
        near = (chance.near_s, chance.near_s)
        spread_s = NEAR_SPREAD_S
    else:
        near = (before[1].at_s + usual_s, before[0].at_s - usual_s)
        spread_s = GAP_SPREAD_S
    return right.step(before[1].at_s, near[0], spread_s), left.step(before[0].at_s, near[1], spread_s)


@dataclass(frozen=True, eq=False)
class _Levels:
    """The levels of one hand's partials round an event, each 1 at the most: ``levels[frame, partial]``."""

    times: Doubles
    levels: Doubles
    tried: Doubles
    kinds: NDArray[np.int64]

    @classmethod
    def of(cls, spectrum: Spectrum, chance: Chance, hertz: Hertz) -> _Levels | None:
        begin_s = max(chance.near_s - REACH_S - BEFORE_S, chance.after_s)
        end_s = min(chance.near_s + REACH_S + AFTER_S, chance.before_s)
        first, last = spectrum.frame_of(begin_s), spectrum.frame_of(end_s) + 1
        place = hertz / spectrum.bin_hz
        below = place[place < spectrum.bins - 1].astype(np.int64)
        if last - first < 12 or len(below) < LEAST_PARTIALS:
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
        low, high = max(chance.near_s - REACH_S, times[0] + 0.02), min(chance.near_s + REACH_S, times[-1] - 0.02)
        tried = np.arange(low, high, STEP_S)
        return (
            cls(times, levels, tried, np.searchsorted(FADES_TO_HZ, hertz[: len(below)][kept]))
            if len(tried) > 8
            else None
        )

    def step(self, pulse_s: Seconds, near_s: Seconds, spread_s: Seconds) -> Step:
        """The step that leaves least over, beside a pulse; ``near_s``, ``spread_s``: where it is likely."""
        over = self._left_over(pulse_s)
        count = len(self.times) / OVERLAP * min(self.levels.shape[1], MOST_COUNTED)
        unlikely = 0.5 * count * np.log(over) + 0.5 * ((self.tried - near_s) / spread_s) ** 2
        best = int(np.argmin(unlikely))
        unlikely = unlikely - unlikely[best]
        likely = np.exp(-unlikely)
        round_best = np.abs(self.tried - self.tried[best]) <= RIVAL_S
        weight = likely * round_best
        at_s = float((weight * self.tried).sum() / weight.sum())
        sure_s = float(np.sqrt((weight * (self.tried - at_s) ** 2).sum() / weight.sum()))
        others = unlikely[~round_best]
        return Step(at_s, max(sure_s, STEP_S / 2), not len(others) or float(others.min()) >= RIVAL_LIKELY)

    def _left_over(self, pulse_s: Seconds) -> Doubles:
        """Of all partials together, the squares that a step at each instant tried leaves over, of those there are."""
        pulse = _pulse(self.times - pulse_s)
        offsets = self.times[None, :] - self.tried[:, None]
        rising = _step(offsets)
        total = (self.levels**2).sum(axis=0)
        flat = np.broadcast_to(np.ones(len(self.times)), rising.shape)
        pulses = np.broadcast_to(pulse, rising.shape)
        left = np.full((len(self.tried), len(total)), np.inf)
        for kind in np.unique(self.kinds):
            own = self.kinds == kind
            steps = rising * np.exp(-np.maximum(offsets, 0) / FADES_S[kind])
            for bases in ((steps, pulses, flat), (steps, flat)):
                fit, parts = _fitted(self.levels[:, own], np.stack(bases, axis=1))
                over = total[own] - fit
                bad = parts[:, 0] < 0
                if len(bases) == 3:
                    bad |= (parts[:, 1] < 0) | (parts[:, 1] > MOST_PULSE * parts[:, 0])
                    over = over * PULSE_COST
                left[:, own] = np.minimum(left[:, own], np.where(bad, np.inf, over))
        none = total - (self.levels.sum(axis=0) ** 2) / len(self.times)
        left = np.minimum(left, none)
        summed: Doubles = (left / np.maximum(none, 1e-9)).mean(axis=1) + 1e-3
        return summed


def _fitted(levels: Doubles, bases: Doubles) -> tuple[Doubles, Doubles]:
    """Least squares of every partial by ``bases[tried, part, frame]``: the squares explained ``[tried, partial]``, and
    the parts ``[tried, part, partial]``."""
    inner = bases @ bases.transpose(0, 2, 1) + 1e-9 * np.eye(bases.shape[1])
    along = bases @ levels
    weights: Doubles = np.asarray(np.linalg.solve(inner, along), np.float64)
    return np.einsum("tpk,tpk->tk", along, weights), weights


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
