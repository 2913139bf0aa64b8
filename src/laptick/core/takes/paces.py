"""How fast a passage is written to go: where the score prints another tempo, the beat goes on at that one.

A *pace* is how many times as fast it goes as where the passage begins; the *due* quarters of an onset are those that a
beat of the opening tempo has gone through by then, so that a take that follows what is printed goes through them
evenly. Source: docs/trade.md 4.2 (common practice: a printed tempo is followed).
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.units import Quarters
from laptick.core.score.score import Score
from laptick.core.score.score_clock import written_paces

#: A tempo this little faster or slower is the same.
SAME_PACE = 1e-6


@dataclass(frozen=True)
class Paces:
    """``starts``: where each pace begins, from the passage's start, the first at 0; ``shares``: each one's pace;
    ``due``: the due quarters of each start."""

    starts: tuple[float, ...]
    shares: tuple[float, ...]
    due: tuple[float, ...]

    @property
    def is_one(self) -> bool:
        return len(self.starts) == 1

    def at(self, onset: float) -> float:
        return self.shares[self._index(onset)]

    def _index(self, onset: float) -> int:
        return max(0, bisect_right(self.starts, onset) - 1)

    def due_quarters(self, onset: float) -> float:
        if self.is_one:
            return onset
        index = self._index(onset)
        return self.due[index] + (onset - self.starts[index]) / self.shares[index]

    def due_between(self, start: float, end: float) -> float:
        return self.due_quarters(end) - self.due_quarters(start)

    def due_of(self, onsets: Sequence[float] | NDArray[np.float64]) -> NDArray[np.float64]:
        if self.is_one:
            return np.array(onsets, dtype=np.float64)
        return np.array([self.due_quarters(float(onset)) for onset in onsets])

    def mean_between(self, start: float, end: float) -> float:
        """The pace of a stretch as a whole."""
        return (end - start) / self.due_between(start, end)


def paces_of(score: Score, start: Quarters, end: Quarters) -> Paces:
    """The paces of a passage of a score."""
    changes = [(0.0, 1.0)]
    for at, share in sorted(written_paces(score, start), key=lambda pace: pace[0]):
        if start < at < end and abs(share / changes[-1][1] - 1) > SAME_PACE:
            changes.append((float(at - start), share))
    due = [0.0]
    for (here, share), (after, _) in pairwise(changes):
        due.append(due[-1] + (after - here) / share)
    return Paces(tuple(at for at, _ in changes), tuple(share for _, share in changes), tuple(due))
