"""Two hands that strike together, told apart by the partials that each has for itself.

Each hand is a step in its own partials (``steps.py``), which the attack of the other hand hardly moves, and a steepest
rise near them (``listening.py``), which is sharper where nothing else rises and follows the other hand where it does.
Steps lie later than rises by what the instrument and the room make of an attack, which is the same all through a take
and taken off; then each counts by how sure it is. A pair is told only where both hands' steps are. What one hand
strikes alone is put where it fell in the same way. Source: ours, measured in docs/hearing.md.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from laptick.core.base.units import Seconds
from laptick.core.hearing.listening import Fine
from laptick.core.hearing.partials import Hertz
from laptick.core.hearing.steps import LEAST_PARTIALS, Line, Span, Step, lines_of

#: Partials of two hands are told apart when they lie farther from each other, in bins.
APART_BINS = 1.6

#: A hand lies this near the event, and a pair this near the take's usual gap, as far as is known beforehand.
NEAR_SPREAD_S, GAP_SPREAD_S = 0.060, 0.030

#: The steepest rise is looked for so near the step, and is so sure (standard uncertainty).
FINE_PRIOR_S, FINE_SURE_S = 0.006, 0.0015

#: Steps lie behind rises by about this, in a dry room.
BEHIND_S = 0.003

#: Less sure than this, a hand's own instant is no better than the event's.
LIKELY_S = 0.012

#: What one hand strikes lies so near where it rises most steeply, as far as is known beforehand; no farther from there
#: it is looked for.
LONE_SPREAD_S, LONE_REACH_S = 0.020, 0.045

#: So many pairs tell where the hands lie in the median, and how far steps lie behind rises.
LEAST_CLEAR = 3


@dataclass(frozen=True, slots=True)
class Chance:
    """An event of both hands: where it was struck, and the partials of each hand's own."""

    span: Span
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


@dataclass(frozen=True, slots=True)
class _Steps:
    """Both hands' steps at a chance."""

    chance: Chance
    right: Step
    left: Step

    @property
    def is_clear(self) -> bool:
        return self.right.is_clear and self.left.is_clear

    @property
    def is_likely(self) -> bool:
        return max(self.right.sure_s, self.left.sure_s) <= LIKELY_S


def tell_apart(fine: Fine, chances: Sequence[Chance]) -> list[Pair | None]:
    """When each hand struck, chance by chance; ``None`` where that cannot be told."""
    lines = [_lines(fine, chance) for chance in chances]
    alone = [None if both is None else _alone(chance, *both) for chance, both in zip(chances, lines, strict=True)]
    clear = [both.right.at_s - both.left.at_s for both in alone if both is not None and both.is_clear]
    if len(clear) < LEAST_CLEAR:
        return [None] * len(chances)
    usual_s = median(clear)
    steps = [
        None if both is None or first is None else _beside(first, *both, usual_s)
        for first, both in zip(alone, lines, strict=True)
    ]
    return _finely(fine, steps)


def sharpened(fine: Fine, lone: Sequence[tuple[Span, Hertz]]) -> list[Seconds]:
    """When events were struck that one hand has for itself: each near an instant, with its partials."""
    steps = [_step_of(fine, span, hertz) for span, hertz in lone]
    found = _together(
        fine,
        [None if step is None else (step, hertz, step.is_clear) for step, (_, hertz) in zip(steps, lone, strict=True)],
    )
    return [span.near_s if at_s is None else at_s for at_s, (span, _) in zip(found, lone, strict=True)]


def _step_of(fine: Fine, span: Span, hertz: Hertz) -> Step | None:
    lines = lines_of(fine.sound, span, (hertz,), reach_s=LONE_REACH_S)
    step = None if lines is None else lines[0].step(span.near_s, LONE_SPREAD_S)
    return step if step is not None and step.sure_s <= LIKELY_S else None


def _lines(fine: Fine, chance: Chance) -> tuple[Line, Line] | None:
    """Both hands' own partials, where each has enough of them."""
    if not chance.is_tellable:
        return None
    lines = lines_of(fine.sound, chance.span, (chance.right, chance.left))
    return None if lines is None else (lines[0], lines[1])


def _alone(chance: Chance, right: Line, left: Line) -> _Steps:
    """Each hand near the event."""
    return _Steps(chance, *(line.step(chance.span.near_s, NEAR_SPREAD_S) for line in (right, left)))


def _beside(alone: _Steps, right: Line, left: Line, usual_s: Seconds) -> _Steps:
    """Each hand where it usually lies beside the other."""
    return _Steps(
        alone.chance,
        right.step(alone.left.at_s + usual_s, GAP_SPREAD_S),
        left.step(alone.right.at_s - usual_s, GAP_SPREAD_S),
    )


def _finely(fine: Fine, steps: Sequence[_Steps | None]) -> list[Pair | None]:
    """Steps and rises together, hand by hand."""
    likely = [one if one is not None and one.is_likely else None for one in steps]
    rights = _together(fine, [None if one is None else (one.right, one.chance.right, one.is_clear) for one in likely])
    lefts = _together(fine, [None if one is None else (one.left, one.chance.left, one.is_clear) for one in likely])
    return [
        None if one is None or right_s is None or left_s is None else Pair(right_s, left_s, one.is_clear)
        for one, right_s, left_s in zip(likely, rights, lefts, strict=True)
    ]


def _together(fine: Fine, hand: Sequence[tuple[Step, Hertz, bool] | None]) -> list[Seconds | None]:
    """One hand's instants, out of its steps and its rises; a step is clear or it is not."""
    rises = [None if one is None else fine.refine(one[0].at_s - BEHIND_S, one[1], prior_s=FINE_PRIOR_S) for one in hand]
    behind = [one[0].at_s - rise for one, rise in zip(hand, rises, strict=True) if one and rise is not None and one[2]]
    behind_s = median(behind) if len(behind) >= LEAST_CLEAR else BEHIND_S
    return [
        None if one is None or rise is None else _weighed(one[0].at_s - behind_s, one[0].sure_s, rise)
        for one, rise in zip(hand, rises, strict=True)
    ]


def _weighed(step_s: Seconds, sure_s: Seconds, rise_s: Seconds) -> Seconds:
    """By how sure each is."""
    step, rise = sure_s**-2, FINE_SURE_S**-2
    return (step * step_s + rise * rise_s) / (step + rise)
