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

from laptick.core.base.units import Seconds
from laptick.core.hearing.listening import Fine
from laptick.core.hearing.partials import Hertz
from laptick.core.hearing.spectrum import Spectrum
from laptick.core.hearing.steps import LEAST_PARTIALS, Levels, Span, Step

#: Partials of two hands are told apart when they lie farther from each other, in bins.
APART_BINS = 1.6

#: A hand lies this near the event, and a pair this near the take's usual gap, as far as is known beforehand.
NEAR_SPREAD_S, GAP_SPREAD_S = 0.060, 0.030

#: From a hand's step to its strike; two within this are one.
FINE_PRIOR_S, SAME_S = 0.006, 0.004

#: Less sure than this, a hand's own instant is no better than the event's.
LIKELY_S = 0.012

#: So many pairs tell where the hands lie in the median.
LEAST_CLEAR = 3


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
    """``is_told``: is it sure enough to be told? Where it is not, each hand's time is still nearer to its strike than
    one time for both."""

    right_s: Seconds
    left_s: Seconds
    is_told: bool


def tell_apart(spectrum: Spectrum, fine: Fine, chances: Sequence[Chance]) -> list[Pair | None]:
    """When each hand struck, chance by chance; ``None`` where that cannot be told."""
    sides = [_levels(spectrum, chance) for chance in chances]
    first = [None if both is None else _pair(*both, chance, None) for both, chance in zip(sides, chances, strict=True)]
    clear = [
        both[0].at_s - both[1].at_s for both in first if both is not None and both[0].is_clear and both[1].is_clear
    ]
    if len(clear) < LEAST_CLEAR:
        return [None] * len(chances)
    usual_s = median(clear)
    second = [
        None if both is None else _pair(*both, chance, usual_s) for both, chance in zip(sides, chances, strict=True)
    ]
    return [
        _finely(fine, chance, *both) if both is not None and max(both[0].sure_s, both[1].sure_s) <= LIKELY_S else None
        for chance, both in zip(chances, second, strict=True)
    ]


def _finely(fine: Fine, chance: Chance, right: Step, left: Step) -> Pair:
    """Each hand at the steepest rise near its step; where one rise would stand for both, the steps remain."""
    right_s = fine.refine(right.at_s, chance.right, prior_s=FINE_PRIOR_S)
    left_s = fine.refine(left.at_s, chance.left, prior_s=FINE_PRIOR_S)
    if abs(right_s - left_s) < SAME_S < abs(right.at_s - left.at_s) / 2:
        right_s, left_s = right.at_s, left.at_s
    return Pair(right_s, left_s, right.is_clear and left.is_clear)


def _levels(spectrum: Spectrum, chance: Chance) -> tuple[Levels, Levels] | None:
    """The levels of both hands' own partials, where each has enough of them."""
    if not chance.is_tellable:
        return None
    span = Span(chance.near_s, chance.after_s, chance.before_s)
    right, left = (Levels.of(spectrum, span, own) for own in (chance.right, chance.left))
    return None if right is None or left is None else (right, left)


def _pair(right: Levels, left: Levels, chance: Chance, usual_s: Seconds | None) -> tuple[Step, Step]:
    """Both hands' steps: each first beside a pulse at the event, then beside one where the other hand was found."""
    before = [one.step(chance.near_s, chance.near_s, NEAR_SPREAD_S) for one in (right, left)]
    if usual_s is None:
        near, spread_s = (chance.near_s, chance.near_s), NEAR_SPREAD_S
    else:
        near, spread_s = (before[1].at_s + usual_s, before[0].at_s - usual_s), GAP_SPREAD_S
    found = right.step(before[1].at_s, near[0], spread_s), left.step(before[0].at_s, near[1], spread_s)
    right.settle()
    left.settle()
    return found
