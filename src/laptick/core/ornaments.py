"""Strikes that play grace notes and ornaments: written, though not asked for one by one.

A grace note is a strike of its key shortly before or at its note; an ornament's strikes lie within its note, on the
note's key or up to two semitones beside it. They are neither extra nor measured. Source: common practice.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from laptick.core.performance import Performance, Task
from laptick.core.score import MarkKind
from laptick.core.units import Seconds

#: How long before its note a grace note may begin, and how late it may come; how far round a note its ornament lies.
GRACE_BEFORE_S, GRACE_AFTER_S = 0.5, 0.15
ORNAMENT_ROUND_S, ORNAMENT_SEMITONES = 0.12, 2


def ornament_strikes(
    task: Task, performance: Performance, matched: Mapping[int, int], extra: Sequence[int]
) -> frozenset[int]:
    """Which of the strikes left over play ornaments. ``matched``: written strike → played one."""
    if not extra or len(matched) < 2 or task.expected[0].pitch is None:
        return frozenset()
    origin, end = task.measures[0].start_quarters, task.measures[-1].end_quarters
    hands = {expected.hand for expected in task.expected}
    known = sorted(matched)
    onsets = np.array([float(task.expected[index].onset_quarters) for index in known])
    times = np.array([performance.strikes[matched[index]].played_s for index in known])

    def at_s(onset: float) -> Seconds:
        return float(np.interp(onset, onsets, times)) + max(0.0, onset - float(onsets[-1])) * task.quarter_s

    windows: list[tuple[Seconds, Seconds, int, int, bool]] = []  # from, to, lowest and highest key, only once
    for note in task.score.notes:
        if note.is_grace and note.hand in hands and origin <= note.onset_quarters < end and note.pitch is not None:
            here_s = at_s(float(note.onset_quarters - origin))
            windows.append((here_s - GRACE_BEFORE_S, here_s + GRACE_AFTER_S, note.pitch, note.pitch, True))
    notes = {note.id: note for note in task.score.notes}
    for mark in task.score.marks:
        owner = notes.get(mark.note_id or "") if mark.kind is MarkKind.ORNAMENT else None
        if (
            owner is not None
            and owner.hand in hands
            and origin <= owner.onset_quarters < end
            and owner.pitch is not None
        ):
            windows.append(
                (
                    at_s(float(owner.onset_quarters - origin)) - ORNAMENT_ROUND_S,
                    at_s(float(owner.end_quarters - origin)) + ORNAMENT_ROUND_S,
                    owner.pitch - ORNAMENT_SEMITONES,
                    owner.pitch + ORNAMENT_SEMITONES,
                    False,
                )
            )
    found: set[int] = set()
    for start_s, end_s, low, high, once in windows:
        for index in extra:
            strike = performance.strikes[index]
            if index not in found and start_s <= strike.played_s <= end_s and low <= (strike.pitch or 0) <= high:
                found.add(index)
                if once:
                    break
    return frozenset(found)
