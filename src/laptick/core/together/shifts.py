"""Shifts: how a hand goes from one position to the next, how much time it has, and when to go.

A position is a window with the step its lowest finger stands on. Where a window shows fewer than five steps the hand
keeps the place it has, if that fits. Source: docs/trade.md 3.2 (common practice).
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from statistics import median

from laptick.core.base.kept import Kept
from laptick.core.base.units import Quarters
from laptick.core.score.score import Hand, Score
from laptick.core.together.fingers import crosses, place_of
from laptick.core.together.spans import CLOSED_STEPS, OCTAVE, Family, Span
from laptick.core.together.windows import Grip, Window, grips_of, windows_of


class When(StrEnum):
    """When a hand can go."""

    IN_REST = "in-rest"
    DURING_LONG_NOTE = "during-long-note"
    BETWEEN_NOTES = "between-notes"


class Manner(StrEnum):
    """How a hand goes: put down elsewhere, or by the thumb under it or a finger over the thumb."""

    MOVE = "move"
    CROSSING = "crossing"


#: A note so many steps on may be reached by a crossing; chords so many steps apart are one hand that changes its shape.
CROSSED_STEPS, CHORD_STEPS = 3, 2


@dataclass(frozen=True, slots=True)
class Position:
    """A hand as it stands for grips ``first`` to ``last``: ``low`` is the white-key step under its lowest finger."""

    hand: Hand
    first: int
    last: int
    family: Family
    low: int
    high: int


@dataclass(frozen=True, slots=True)
class Shift:
    """``steps`` up (+) or down at the first strike of the new position; ``time_quarters`` since the last sound of the
    old one ended; ``before`` and ``to``: the grips it leads from and to."""

    hand: Hand
    measure_index: int
    offset_quarters: Quarters
    steps: int
    time_quarters: Quarters
    when: When
    manner: Manner
    before: Grip
    to: Grip


def positions_of(score: Score, hand: Hand, span: Span = OCTAVE) -> tuple[Position, ...]:
    """Where a hand stands, in order."""
    return POSITIONS.of(score, (hand, span), lambda: tuple(_positions(score, hand, span)))


POSITIONS: Kept[Score, tuple[Hand, Span], tuple[Position, ...]] = Kept()


def _positions(score: Score, hand: Hand, span: Span) -> list[Position]:
    found: list[Position] = []
    grips = grips_of(score, hand)
    for window in windows_of(score, hand, span):
        fingered = {one for grip in grips[window.first : window.last + 1] for one in grip.fingered}
        place = place_of(hand, fingered)
        low = _low(window, found[-1].low if found else None) if place is None else place
        if found and found[-1].low == low and window.family is found[-1].family is Family.CLOSED:
            before = found.pop()
            found.append(Position(hand, before.first, window.last, before.family, low, max(before.high, window.high)))
        else:
            found.append(Position(hand, window.first, window.last, window.family, low, window.high))
    return found


def _low(window: Window, before: int | None) -> int:
    if before is not None and before <= window.low and window.high < before + CLOSED_STEPS:
        return before
    return window.low


def shifts_of(score: Score, hand: Hand, span: Span = OCTAVE) -> tuple[Shift, ...]:
    """How a hand goes from each position to the next; none where it only opens or closes, or goes from a chord to one
    close by."""
    return SHIFTS.of(score, (hand, span), lambda: _shifts(score, hand, span))


SHIFTS: Kept[Score, tuple[Hand, Span], tuple[Shift, ...]] = Kept()


def _shifts(score: Score, hand: Hand, span: Span) -> tuple[Shift, ...]:
    positions, grips = positions_of(score, hand, span), grips_of(score, hand)
    usual = median([g.end_ticks - g.ticks for g in grips]) if grips else 0
    found = []
    for old, new in itertools.pairwise(positions):
        if new.low == old.low:
            continue
        before, to = grips[old.last], grips[new.first]
        measure = score.measures[to.measure_index]
        # A key held from earlier than the last grip keeps the hand as well.
        time = Quarters(to.free_ticks, score.ticks_per_quarter)
        if not time and _changes_chord(before, to, new.low - old.low):
            continue
        found.append(
            Shift(
                hand,
                to.measure_index,
                to.onset_quarters - measure.start_quarters,
                new.low - old.low,
                time,
                _when(score, before, time, usual),
                _manner(hand, grips, new, new.low - old.low, time),
                before,
                to,
            )
        )
    return tuple(found)


def _changes_chord(before: Grip, to: Grip, steps: int) -> bool:
    """From a chord to one a step away, or to one of another shape close by."""
    if min(len(before.keys), len(to.keys)) < 2 or abs(steps) > CHORD_STEPS:
        return False
    shapes = [[step - grip.keys[0][0] for step, _ in grip.keys] for grip in (before, to)]
    return abs(steps) <= 1 or shapes[0] != shapes[1]


def _manner(hand: Hand, grips: Sequence[Grip], new: Position, steps: int, time_quarters: Quarters) -> Manner:
    """By the fingers, against which the hand goes on; without fingerings a crossing goes on, without a rest, in the
    direction of the single notes before it."""
    both = [grip.fingered for grip in grips[max(0, new.first - 1) : new.first + 1]]
    if len(both) == 2 and all(len(own) == 1 for own in both) and not time_quarters:
        (before_one,), (to_one,) = both
        near_enough = 0 < abs(to_one[1][0] - before_one[1][0]) <= CROSSED_STEPS
        return Manner.CROSSING if near_enough and crosses(hand, before_one, to_one) else Manner.MOVE
    near = [grip.keys for grip in grips[max(0, new.first - 2) : new.first + 1]]
    if time_quarters or len(near) < 3 or any(len(keys) > 1 for keys in near):
        return Manner.MOVE
    earlier, before, to = (keys[0][0] for keys in near)
    goes_on = (before - earlier) * steps > 0 and (to - before) * steps > 0
    return Manner.CROSSING if goes_on and abs(to - before) <= CROSSED_STEPS else Manner.MOVE


def _when(score: Score, before: Grip, time_quarters: Quarters, usual_ticks: float) -> When:
    if time_quarters:
        return When.IN_REST
    length = before.end_ticks - before.ticks
    beat = score.ticks_of(score.measures[before.measure_index].meter.beat_quarters)
    if length >= beat and length > usual_ticks:
        return When.DURING_LONG_NOTE
    return When.BETWEEN_NOTES
