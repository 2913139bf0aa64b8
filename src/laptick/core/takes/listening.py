"""What a teacher heard, laid beside what was measured.

In listening mode the teacher taps one key where she hears a slip. The play-along's clock tells which place of the score
that was; a tap comes a little after what it answers to, so the place is taken that much earlier. Beside a take, a slip
and a measured one are the same when they lie within a beat of each other. Source of the reaction time: about a quarter
of a second from a sound to a key (from memory); the beat is common practice.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass

from laptick.core.base.units import Bpm, Quarters, Seconds
from laptick.core.takes.task import Task

#: How long after a slip the key comes.
REACTION_S = 0.25


def heard_onsets(task: Task, slips_s: Sequence[Seconds], first_beat_s: Seconds, bpm: Bpm) -> list[Quarters]:
    """The written instant last reached when each slip was heard, from the passage's start."""
    clock = task.clock(bpm)
    onsets = sorted({expected.onset_quarters for expected in task.expected})
    times = [first_beat_s + clock(onset) for onset in onsets]
    return [onsets[max(0, bisect_right(times, slip_s - REACTION_S) - 1)] for slip_s in slips_s]


@dataclass(frozen=True, slots=True)
class MeasuredSlip:
    """A place where something was not as written; ``code`` says what the checker calls it."""

    onset_quarters: Quarters
    code: str


@dataclass(frozen=True, slots=True)
class Beside:
    """One place: what the teacher heard there and what was measured (either may be missing)."""

    onset_quarters: Quarters
    heard: bool
    measured: str | None


def lay_beside(heard: Sequence[Quarters], measured: Sequence[MeasuredSlip], beat_quarters: Quarters) -> list[Beside]:
    """Pairs what was heard with what was measured within a beat, nearest pairs first, each once; the rest stands alone.
    In order of place."""
    pairs = sorted(
        (abs(onset - spot.onset_quarters), i, j)
        for i, onset in enumerate(heard)
        for j, spot in enumerate(measured)
        if abs(onset - spot.onset_quarters) <= beat_quarters
    )
    of_heard: dict[int, int] = {}
    taken: set[int] = set()
    for _, i, j in pairs:
        if i not in of_heard and j not in taken:
            of_heard[i] = j
            taken.add(j)
    result = [
        Beside(onset, True, measured[of_heard[i]].code if i in of_heard else None) for i, onset in enumerate(heard)
    ]
    result += [Beside(spot.onset_quarters, False, spot.code) for j, spot in enumerate(measured) if j not in taken]
    return sorted(result, key=lambda one: (one.onset_quarters, not one.heard, one.measured is None, one.measured or ""))
