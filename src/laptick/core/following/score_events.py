"""The written notes as the follower sees them: one event an instant, in played order, as plain arrays."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from laptick.core.takes.task import Task

Floats = NDArray[np.float64]


Ints = NDArray[np.int64]


@dataclass(frozen=True)
class ScoreEvents:
    """The written instants of a task: ``members[e]`` are indices into ``task.expected``."""

    onsets: Floats  # quarters
    members: list[list[int]]
    sizes: Floats
    at_bar: NDArray[np.bool_]
    bar: Ints  # which bar of the passage, in played order
    bar_begins: Ints  # the first event of every bar in which something is struck


def score_events(task: Task) -> ScoreEvents:
    members: list[list[int]] = []
    onsets: list[float] = []
    at_bar: list[bool] = []
    last = None
    for index, expected in enumerate(task.expected):
        if expected.onset_quarters != last:
            last = expected.onset_quarters
            members.append([])
            onsets.append(float(last))
            at_bar.append(expected.offset_quarters == 0)
        members[-1].append(index)
    sizes = np.array([len(m) for m in members], dtype=float)
    bar = np.array([task.expected[m[0]].measure_index for m in members]) - task.measures[0].index
    begins = np.flatnonzero(np.diff(bar, prepend=-1))
    return ScoreEvents(np.array(onsets), members, sizes, np.array(at_bar), bar, begins)
