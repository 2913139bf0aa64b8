"""Strikes that play grace notes and ornaments: written, though not asked for one by one.

A grace note is a strike of its key shortly before or at its note; an ornament's strikes lie within its note, on the
note's key or up to two semitones beside it. They are neither extra nor measured. Source: common practice.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.units import Seconds
from laptick.core.following.score_events import Floats, Ints, ScoreEvents
from laptick.core.score.score import MarkKind, Note
from laptick.core.takes.performance import Performance
from laptick.core.takes.task import Task

#: How long before its note a grace note may begin, and how late it may come.
GRACE_BEFORE_S, GRACE_AFTER_S = 0.5, 0.15

#: An ornament's strikes lie this near their note in keys.
ORNAMENT_SEMITONES = 2


def _clock(task: Task, performance: Performance, matched: Mapping[int, int]) -> Callable[[float], Seconds]:
    """When an instant of the passage was played, between and beyond what was matched."""
    known = sorted(matched)
    onsets = np.array([float(task.expected[index].onset_quarters) for index in known])
    times = np.array([performance.strikes[matched[index]].played_s for index in known])

    def at_s(onset: float) -> Seconds:
        return float(np.interp(onset, onsets, times)) + max(0.0, onset - float(onsets[-1])) * task.quarter_s

    return at_s


def _asked(task: Task, note: Note) -> bool:
    """Is a note of the hands and bars that were asked for?"""
    inside = task.measures[0].start_quarters <= note.onset_quarters < task.measures[-1].end_quarters
    return inside and note.pitch is not None and note.hand in {expected.hand for expected in task.expected}


def grace_strikes(
    task: Task, performance: Performance, matched: Mapping[int, int], extra: Sequence[int]
) -> frozenset[int]:
    """Which of the strikes left over play grace notes. ``matched``: written strike → played one."""
    graces = [note for note in task.score.notes if note.is_grace and _asked(task, note)]
    if not graces or not extra or len(matched) < 2 or not task.asks_pitches:
        return frozenset()
    at_s, origin = _clock(task, performance, matched), task.measures[0].start_quarters
    found: set[int] = set()
    for note in graces:
        here_s = at_s(float(note.onset_quarters - origin))
        for index in extra:
            strike = performance.strikes[index]
            near = here_s - GRACE_BEFORE_S <= strike.played_s <= here_s + GRACE_AFTER_S
            if index not in found and near and strike.pitch == note.pitch:
                found.add(index)
                break
    return frozenset(found)


def ornaments_of(
    task: Task, events: ScoreEvents, kinds: Ints, performance: Performance
) -> tuple[Floats, NDArray[np.bool_]]:
    """For the follower: by event, how many quarters a written ornament there goes on; and by kind of strike and event,
    whether such a strike may be part of it (its key, or up to two semitones beside it)."""
    lengths = np.zeros(len(events.members))
    may_be = np.zeros((int(kinds.max()) + 1, len(events.members)), dtype=bool)
    notes = {note.id: note for note in task.score.notes}
    owners = [notes.get(mark.note_id or "") for mark in task.score.marks if mark.kind is MarkKind.ORNAMENT]
    asked = [note for note in owners if note is not None and _asked(task, note)]
    if not task.asks_pitches or not asked:
        return lengths, may_be
    at = {float(onset): index for index, onset in enumerate(events.onsets)}
    pitches = {int(kind): strike.pitch or 0 for kind, strike in zip(kinds, performance.strikes, strict=True)}
    for note in asked:
        event = at.get(float(note.onset_quarters - task.measures[0].start_quarters))
        if event is None or note.pitch is None:
            continue
        lengths[event] = max(lengths[event], float(note.duration_quarters))
        for kind, pitch in pitches.items():
            may_be[kind, event] |= abs(pitch - note.pitch) <= ORNAMENT_SEMITONES
    return lengths, may_be
