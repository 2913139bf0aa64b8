"""The way of a sound's groups through the score's events: the follower of every other take, with what the ear hears.

A group is one strike of a whole event, told by what is newly there in its sound; a weak one that belongs to nothing
(pedal, speech, room) is nearly free, a strong one is not. Source of the search: ``following.py``; of the costs: ours,
measured in docs/hearing.md.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import overload

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.units import Seconds
from laptick.core.following.following import pauses_of, walked
from laptick.core.following.hypotheses import (
    BACK,
    BACK_INSIDE,
    EXTRA,
    HOVERS,
    LEAP,
    LEAP_BY_TAPS,
    LEAPT,
    MISSING,
    ON,
    WENT_BACK,
    Walk,
)
from laptick.core.following.score_events import ScoreEvents
from laptick.core.hearing.groups import Group
from laptick.core.takes.task import Task

Floats = NDArray[np.float32]

#: A group that sounds nothing like an event costs so much there; one that sounds as alike as any does, nothing.
UNLIKE = 6.0

#: A group that belongs to nothing costs by its strength, against the median: no less and no more than these shares.
LEAST_EXTRA, MOST_EXTRA_SHARE = 0.1, 1.0

#: So many groups in a row may belong to nothing.
MOST_IN_A_ROW = 10


@dataclass(frozen=True)
class Passage:
    """A stretch of playing without a jump: (event, when its group fell), in order. ``how`` it began: ``ON`` the first,
    ``WENT_BACK``, ``LEAPT``."""

    how: int
    steps: tuple[tuple[int, Seconds], ...]


class _Rows(Sequence[list[float]]):
    """The rows of a table as lists, made one at a time: of a long take all of them would take half a gigabyte."""

    def __init__(self, table: NDArray[np.float64], more: NDArray[np.float64] | float) -> None:
        self._table, self._more = table, more
        self._known: tuple[int, list[float]] = (-1, [])

    def __len__(self) -> int:
        return len(self._table)

    @overload
    def __getitem__(self, index: int) -> list[float]: ...
    @overload
    def __getitem__(self, index: slice) -> list[list[float]]: ...
    def __getitem__(self, index: int | slice) -> list[float] | list[list[float]]:
        if isinstance(index, slice):
            return [self[at] for at in range(*index.indices(len(self)))]
        if self._known[0] != index:
            self._known = (index, (self._table[index] + self._more).tolist())
        return self._known[1]


def walk_groups(
    task: Task,
    events: ScoreEvents,
    groups: Sequence[Group],
    likeness: Floats | None,
    first_beat_s: Seconds | None,
    *,
    anywhere: bool = False,
    ornament_quarters: Mapping[int, float] | None = None,
) -> list[Passage]:
    """The passages of a take. ``likeness[group, event]``: from 0 to 1, ``None`` where there are no pitches;
    ``anywhere``: it may begin at any bar; ``ornament_quarters``: by event, how long an ornament goes on there."""
    if not groups:
        return []
    count = len(events.members)
    single = ScoreEvents(events.onsets, events.members, np.ones(count), events.at_bar, events.bar, events.bar_begins)
    emission = _emission(likeness, len(groups), count)
    going_on = [(ornament_quarters or {}).get(event, 0.0) for event in range(count)]
    missed = np.concatenate([[0.0], np.cumsum(np.full(count, MISSING))])
    walk = Walk(
        quarter_s=task.quarter_s,
        first_beat_s=first_beat_s,
        events=single,
        onsets=events.onsets.tolist(),
        sizes=[1] * count,
        at_bar=[*events.at_bar.tolist(), True],
        times=[group.at_s for group in groups],
        kinds=list(range(len(groups))),
        emission=_Rows(emission, 0.0),
        missed=missed.tolist(),
        arrival=emission,
        reaching=_Rows(emission, missed[:-1]),
        pause=pauses_of(single).tolist(),
        back=np.where(events.at_bar, BACK, BACK + BACK_INSIDE),
        following=[*np.diff(events.onsets).tolist(), 0.0],
        beat_quarters=float(task.beat_quarters),
        leap=LEAP + (LEAP_BY_TAPS if likeness is None else 0.0),
        anywhere=anywhere,
        ornament_quarters=going_on,
        ornamental=[[quarters > 0 for quarters in going_on]] * len(groups),
        most_extra=MOST_IN_A_ROW,
        extras=_extras(groups),
    )
    passages: list[tuple[int, list[tuple[int, Seconds]]]] = []
    for index, event, how in walked(walk):
        if how == HOVERS:
            continue
        if how in (WENT_BACK, LEAPT) or not passages:
            passages.append((how if passages else ON, []))
        passages[-1][1].append((event, groups[index].at_s))
    return [Passage(how, tuple(steps)) for how, steps in passages]


def _emission(likeness: Floats | None, groups: int, events: int) -> NDArray[np.float64]:
    """What it costs that a group is an event: by how alike they are, against how alike things are in this take."""
    if likeness is None:
        return np.zeros((groups, events))
    best = float(np.percentile(likeness.max(axis=1), 75))
    usual = float(np.median(likeness))
    span = max(0.15, best - usual)
    return np.clip(UNLIKE * (best - likeness.astype(np.float64)) / span, 0.0, 1.3 * UNLIKE)


def _extras(groups: Sequence[Group]) -> list[float]:
    usual = float(np.median([group.strength for group in groups])) or 1.0
    costs = (EXTRA * min(max(group.strength / usual, LEAST_EXTRA), MOST_EXTRA_SHARE) for group in groups)
    total, before = 0.0, [0.0]
    for cost in costs:
        total += cost
        before.append(total)
    assert math.isfinite(total)
    return before
