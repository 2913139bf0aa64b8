"""What one hand can cover without being put down anew: the families of windows, and which keys fit each.

``CLOSED`` covers five neighbouring white-key steps; in a ``SIXTH`` an outer finger has two keys; an ``OPEN`` hand
covers up to the span with at most five different steps, if rising fingers exist each pair of which lies within what is
comfortable. What does not fit even alone is a ``REACH``. A family holds whatever is left of keys that it holds.

Source: docs/trade.md 3.2 (common practice); comfortable spans of pairs of fingers after Parncutt, Sloboda, Clarke,
Raekallio & Desain, Music Perception 14(4), 1997 (from memory), scaled by the student's span.
"""

from __future__ import annotations

import itertools
from collections.abc import Collection, Iterable
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

from laptick.core.base.errors import OptionError

#: A key of a window: the white-key step (C0 = 0) and the MIDI key.
Key = tuple[int, int]


class Family(StrEnum):
    CLOSED = "closed"
    SIXTH = "sixth"
    OPEN = "open"
    REACH = "reach"


#: What a window of each family costs in every bar in which it is used, in moves.
FAMILY_COST: dict[Family, float] = {Family.CLOSED: 0.0, Family.SIXTH: 0.3, Family.OPEN: 0.6, Family.REACH: 2.0}

CLOSED_STEPS, SIXTH_STEPS = 5, 6
FINGERS = 5

#: Pairs of fingers → semitones that are comfortable between them, for a hand that spans an octave.
COMFORTABLE: dict[tuple[int, int], int] = {
    (1, 2): 8, (1, 3): 10, (1, 4): 12, (1, 5): 13, (2, 3): 3, (2, 4): 5, (2, 5): 8, (3, 4): 2, (3, 5): 5, (4, 5): 3,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Span:
    """How far a hand reaches: ``steps`` from its lowest white key to its highest (7: an octave)."""

    steps: int = 7

    @property
    def semitones(self) -> float:
        return 12 * self.steps / 7

    @property
    def scale(self) -> float:
        return self.steps / 7


OCTAVE = Span()

#: How far a hand may be said to reach, as an interval: a fifth to a tenth.
LEAST_SPAN, MOST_SPAN = 5, 10


def span_of(interval: int) -> Span:
    """The span of a hand that reaches an interval (8: an octave).

    Raises:
        OptionError: nearer than a fifth, or further than a tenth.
    """
    if not LEAST_SPAN <= interval <= MOST_SPAN:
        raise OptionError(
            f"A span of {interval} is none that a hand has.", where="span", todo="Give 5 (a fifth) to 10 (a tenth)."
        )
    return Span(interval - 1)


def fits(family: Family, keys: Collection[Key], span: Span = OCTAVE) -> bool:
    """Do these keys lie under one hand?"""
    if family is Family.REACH or not keys:
        return True
    wide = max(keys)[0] - min(keys)[0]
    if family is Family.CLOSED:
        return wide < CLOSED_STEPS
    if family is Family.SIXTH:
        return wide < SIXTH_STEPS and span.steps >= SIXTH_STEPS - 1
    return _open(frozenset(keys), span)


@lru_cache(maxsize=65536)
def _open(keys: frozenset[Key], span: Span) -> bool:
    by_step: dict[int, list[int]] = {}
    for step, key in keys:
        by_step.setdefault(step, []).append(key)
    if len(by_step) > FINGERS or max(by_step) - min(by_step) > span.steps:
        return False
    groups = [(min(found), max(found)) for _, found in sorted(by_step.items())]
    return any(_comfortable(fingers, groups, span) for fingers in itertools.combinations(range(1, 6), len(groups)))


def _comfortable(fingers: Iterable[int], groups: list[tuple[int, int]], span: Span) -> bool:
    """Rising fingers on rising keys; the left hand's are the same, counted from its other side."""
    placed = list(zip(fingers, groups, strict=True))
    return all(
        high[1] - low[0] <= COMFORTABLE[f, g] * span.scale + 1e-9
        for (f, low), (g, high) in itertools.combinations(placed, 2)
    )
