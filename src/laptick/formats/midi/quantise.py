"""Quantising: played instants of a MIDI file to the parts of a quarter that a page would write.

Each quarter takes its duple grid unless its strikes fit the triple one clearly better. Ends go to the same
grids; a note that all but reaches the next strike reaches it; none is shorter than the grid.
Method: ours; nearest grid point, grid chosen by the sum of distances.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from laptick.core.base.units import Quarters

#: The triple grid must fit this much better than the duple one, in distance summed over a quarter.
TRIPLE_ADVANTAGE = Fraction(2, 3)

#: A note reaches the next strike when it ends within this share of the time to it.
REACHES = Fraction(1, 8)


@dataclass(frozen=True, slots=True)
class HeldKey:
    """A key held from ``start`` to ``end``, in quarters. ``pitch`` is ``None`` for a strike without one."""

    start: Quarters
    end: Quarters
    pitch: int | None


@dataclass(frozen=True)
class Quantised:
    """``moved``: (new place, by how much) of every strike that was not on the grid; ``lengthened``: how
    many notes were shorter than the grid."""

    notes: tuple[HeldKey, ...]
    moved: tuple[tuple[Quarters, Quarters], ...]
    lengthened: int


def quantise(notes: Sequence[HeldKey], duple: Quarters, triple: Quarters | None) -> Quantised:
    """The notes of one track on the grid."""
    steps = _steps([note.start for note in notes], duple, triple)
    starts = [_to_grid(note.start, steps, duple) for note in notes]
    strikes = sorted(set(starts))
    result: list[HeldKey] = []
    moved: list[tuple[Quarters, Quarters]] = []
    lengthened = 0
    for note, start in zip(notes, starts, strict=True):
        if start != note.start:
            moved.append((start, start - note.start))
        following = bisect_right(strikes, start)
        end = _to_grid(note.end, steps, duple)
        if following < len(strikes):
            ahead = strikes[following]
            if note.end < ahead and (ahead - note.end) <= REACHES * (ahead - start):
                end = ahead
        step = steps.get(start.numerator // start.denominator, duple)
        if end <= start:
            end = start + step
            lengthened += 1
        result.append(HeldKey(start, end, note.pitch))
    return Quantised(tuple(result), tuple(moved), lengthened)


def _steps(starts: Sequence[Quarters], duple: Quarters, triple: Quarters | None) -> dict[int, Quarters]:
    """The grid of each quarter that has strikes in it."""
    if triple is None:
        return {}
    inside: dict[int, list[Quarters]] = {}
    for start in starts:
        inside.setdefault(start.numerator // start.denominator, []).append(start)
    steps: dict[int, Quarters] = {}
    for quarter, found in inside.items():
        in_two = sum((_distance(at, duple) for at in found), Fraction(0))
        in_three = sum((_distance(at, triple) for at in found), Fraction(0))
        # One strike alone is no triplet, unless it lies exactly on one.
        fits = in_three < TRIPLE_ADVANTAGE * in_two and (len(found) > 1 or in_three == 0)
        steps[quarter] = triple if fits else duple
    return steps


def _nearest(at: Quarters, step: Quarters) -> Quarters:
    return round(at / step) * step


def _distance(at: Quarters, step: Quarters) -> Quarters:
    return abs(at - _nearest(at, step))


def _to_grid(at: Quarters, steps: dict[int, Quarters], duple: Quarters) -> Quarters:
    return _nearest(at, steps.get(at.numerator // at.denominator, duple))
