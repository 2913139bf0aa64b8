"""Where a hand stands, without fingerings: the way through windows that moves it least.

Each hand's strikes are cut into windows by dynamic programming: a window costs by its family and the bars it is used
in, a cut what it takes to put the hand down anew – less after a rest or a long note, at a bar line, and where a figure
is played again elsewhere; much more while the hand holds a key. Every family is hereditary, so the earliest strike that
a window may begin with only moves on: with a sliding minimum for each family the work is linear in the strikes.

Source: docs/trade.md 3.2 (common practice); the costs are ours, set by judgement.
"""

from __future__ import annotations

import math
from collections import deque
from collections.abc import Hashable, Iterable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import TypeVar

from laptick.core.base.kept import Kept
from laptick.core.base.units import Quarters
from laptick.core.score.pitch import steps_above_c0
from laptick.core.score.score import Hand, MarkKind, Score
from laptick.core.together.fingers import Fingered, fingers_of, stays
from laptick.core.together.sounds import Sound, sounds_of
from laptick.core.together.spans import CLOSED_STEPS, FAMILY_COST, OCTAVE, SIXTH_STEPS, Family, Key, Span, fits

#: A cut, and what takes from it: a rest of a beat before it, a long note before it that lasts a beat beyond the beat, a
#: bar line, a figure played again elsewhere.
CUT, BY_REST, BY_LONG_NOTE, BY_BAR_LINE, BY_FIGURE = 1.0, 0.5, 0.25, 0.2, 0.5

#: To cut while the hand holds a key.
WHILE_HELD = 6.0

#: Ties go to the later cut.
TIE = 1e-9


@dataclass(frozen=True, slots=True)
class Grip:
    """What one hand strikes at one instant. ``keys`` by step; ``end_quarters``: when the last of its sounds ends;
    ``free_ticks``: how long the hand has had nothing to hold before it (0: it came straight from a key, or holds one);
    ``before_ticks``: how long the grip before it lasts (0: it is the first); ``fingered``: its keys that have a finger
    in the score, with that."""

    index: int
    measure_index: int
    onset_quarters: Quarters
    sounds: tuple[Sound, ...]
    keys: tuple[Key, ...]
    ticks: int
    end_ticks: int
    free_ticks: int
    before_ticks: int
    holds: bool
    begins_bar: bool
    fingered: tuple[Fingered, ...]

    @property
    def end_quarters(self) -> Quarters:
        return max(self.sounds, key=lambda sound: sound.end_ticks).end_quarters


@dataclass(frozen=True, slots=True)
class Window:
    """Grips ``first`` to ``last`` of a hand lie under it as it stands; ``low`` and ``high``: the steps they use."""

    first: int
    last: int
    family: Family
    low: int
    high: int


def grips_of(score: Score, hand: Hand) -> tuple[Grip, ...]:
    """The grips of a hand in written order; none of notes without keys."""
    return GRIPS.of(score, hand, lambda: tuple(_grips(score, hand)))


GRIPS: Kept[Score, Hand, tuple[Grip, ...]] = Kept()


def _grips(score: Score, hand: Hand) -> list[Grip]:
    groups: list[list[Sound]] = []
    for sound in sounds_of(score):
        if sound.hand is hand and sound.pitch is not None:
            if groups and groups[-1][0].ticks == sound.ticks:
                groups[-1].append(sound)
            else:
                groups.append([sound])
    pedalled = deque(
        sorted(
            (mark.onset_quarters, mark.end_quarters)
            for mark in score.marks
            if mark.kind is MarkKind.PEDAL and mark.end_quarters is not None
        )
    )
    pedal_until = Fraction(0)  # of the pedals that went down before: grips come in order
    fingers = fingers_of(score)
    found: list[Grip] = []
    latest, begun = 0, 0
    for index, group in enumerate(groups):
        first = group[0]
        at = first.onset_quarters
        end_ticks = max([sound.end_ticks for sound in group])
        measure_index = first.measure_index
        while pedalled and pedalled[0][0] < at:
            pedal_until = max(pedal_until, pedalled.popleft()[1])
        holds = latest > first.ticks and at > pedal_until
        found.append(
            Grip(
                index,
                measure_index,
                at,
                tuple(group),
                tuple(sorted([(steps_above_c0(s.name), s.pitch) for s in group if s.pitch is not None])),
                first.ticks,
                end_ticks,
                first.ticks - latest if found and latest < first.ticks else 0,
                latest - begun if found and latest <= first.ticks else 0,
                holds,
                not found or found[-1].measure_index != measure_index,
                tuple(
                    (fingers[s.note_id], (steps_above_c0(s.name), s.pitch))
                    for s in group
                    if s.note_id in fingers and s.pitch is not None
                )
                if fingers
                else (),
            )
        )
        begun, latest = first.ticks, max(latest, end_ticks)
    return found


def windows_of(score: Score, hand: Hand, span: Span = OCTAVE) -> tuple[Window, ...]:
    """The windows of a hand, in order: every grip is in one."""
    return WINDOWS.of(score, (hand, span), lambda: tuple(_windows(score, hand, span)))


WINDOWS: Kept[Score, tuple[Hand, Span], tuple[Window, ...]] = Kept()


class _Sliding:
    """One family: the earliest grip its window may begin with, and the cheapest way to begin."""

    def __init__(self, family: Family, hand: Hand, grips: Sequence[Grip], span: Span) -> None:
        self.family, self._grips, self._span = family, grips, span
        self._cost = FAMILY_COST[family]
        self._hand = hand
        # Of a family that asks for nearness only: how many steps apart are too many.
        self._too_wide = {Family.CLOSED: CLOSED_STEPS, Family.SIXTH: SIXTH_STEPS}.get(family, 0)
        if family is Family.SIXTH and span.steps < SIXTH_STEPS - 1:
            self._too_wide = 0
        self._keys: dict[Key, int] = {}
        self._fingered: dict[Fingered, int] = {}
        self._low = 0
        self._cheapest: deque[tuple[float, int]] = deque()

    def take(self, index: int, begun: float) -> tuple[float, int] | None:
        """Goes on to a grip that a new window would reach at the cost ``begun``: the cheapest end of a window at it,
        with the grip it begins with; ``None`` where the grip does not fit by itself."""
        grip, keys = self._grips[index], self._keys
        if self.family is Family.REACH:
            return begun + self._cost, index
        # What is under the hand already asks for nothing.
        is_fresh = _add(keys, grip.keys)
        if grip.fingered:
            is_fresh = _add(self._fingered, grip.fingered) or is_fresh
        if is_fresh:
            while self._low <= index and not self._fits(alone=self._low == index):
                left = self._grips[self._low]
                _remove(keys, left.keys)
                _remove(self._fingered, left.fingered)
                self._low += 1
        if self._low > index:
            self._cheapest.clear()
            return None
        here = begun - self._cost * grip.measure_index
        # Of what costs the same the later beginning is kept.
        while self._cheapest and self._cheapest[-1][0] >= here - TIE:
            self._cheapest.pop()
        self._cheapest.append((here, index))
        while self._cheapest[0][1] < self._low:
            self._cheapest.popleft()
        cheapest, begins = self._cheapest[0]
        return cheapest + self._cost * (grip.measure_index + 1), begins

    def _fits(self, *, alone: bool) -> bool:
        """A chord alone may be fingered as it likes: that is a stretch."""
        keys = self._keys
        if self._too_wide:
            if keys and max(keys)[0] - min(keys)[0] >= self._too_wide:
                return False
        elif not fits(self.family, keys.keys(), self._span):
            return False
        return alone or len(self._fingered) < 2 or stays(self._hand, self._fingered.keys(), self._span)


Counted = TypeVar("Counted", bound=Hashable)


def _add(counts: dict[Counted, int], ones: Iterable[Counted]) -> bool:
    """Is any of them new?"""
    is_fresh = False
    for one in ones:
        if one in counts:
            counts[one] += 1
        else:
            counts[one], is_fresh = 1, True
    return is_fresh


def _remove(counts: dict[Counted, int], ones: Iterable[Counted]) -> None:
    for one in ones:
        counts[one] -= 1
        if not counts[one]:
            del counts[one]


def _windows(score: Score, hand: Hand, span: Span) -> list[Window]:
    grips = grips_of(score, hand)
    if not grips:
        return []
    families = [_Sliding(family, hand, grips, span) for family in Family]
    again = _figures_again(score, grips)
    beats = [score.ticks_of(measure.meter.beat_quarters) for measure in score.measures]
    total = 0.0
    ends: list[tuple[int, Family]] = []
    for grip in grips:
        begun = total + (_cut(grip, beats[grip.measure_index], again) if grip.index else 0.0)
        best, end = (math.inf, 0), (grip.index, Family.REACH)
        for one in families:
            taken = one.take(grip.index, begun)
            if taken is None:
                continue
            cost, begins = taken
            # Of what costs the same the later beginning is taken, then the nearer family.
            by = (round(cost, 9), -begins)
            if by < best:
                best, total, end = by, cost, (begins, one.family)
        ends.append(end)
    windows: list[Window] = []
    last = len(grips) - 1
    while last >= 0:
        first, family = ends[last]
        steps = [step for grip in grips[first : last + 1] for step, _ in grip.keys]
        windows.append(Window(first, last, family, min(steps), max(steps)))
        last = first - 1
    return windows[::-1]


def _cut(grip: Grip, beat: int, again: frozenset[int]) -> float:
    """What it takes to put the hand down anew at a grip; ``beat``: one in ticks."""
    cost = CUT
    cost -= BY_REST * min(1.0, grip.free_ticks / beat)
    cost -= BY_LONG_NOTE * min(1.0, max(0.0, grip.before_ticks / beat - 1))
    cost -= BY_BAR_LINE if grip.begins_bar else 0.0
    cost -= BY_FIGURE if grip.begins_bar and grip.measure_index in again else 0.0
    return cost + (WHILE_HELD if grip.holds else 0.0)


def _figures_again(score: Score, grips: Sequence[Grip]) -> frozenset[int]:
    """Bars that play the figure of the bar before elsewhere."""
    bars: dict[int, list[Grip]] = {}
    for grip in grips:
        bars.setdefault(grip.measure_index, []).append(grip)
    found = set()
    shapes: dict[int, object] = {}
    for index, own in bars.items():
        base, start = own[0].keys[0][0], score.ticks_of(score.measures[index].start_quarters)
        shapes[index] = tuple((g.ticks - start, tuple(step - base for step, _ in g.keys)) for g in own)
        before = bars.get(index - 1)
        if before and shapes[index - 1] == shapes[index] and before[0].keys[0][0] != base:
            found.add(index)
    return frozenset(found)
