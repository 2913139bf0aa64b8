"""Strikes that play grace notes and ornaments: written, though not asked for one by one.

A grace note is a strike of its key shortly before or at its note; an ornament's strikes lie within its note, on the
note's key or up to two semitones beside it. They are neither extra nor measured. Source: common practice.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Collection, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.units import Quarters, Seconds
from laptick.core.following.score_events import Floats, Ints, ScoreEvents
from laptick.core.score.score import Hand, MarkKind, Note
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


def _clock_around(task: Task, performance: Performance, matched: Mapping[int, int]) -> Callable[[float], Seconds]:
    """When an instant of the passage was due by what was played before and after it, not at it."""
    played: dict[float, Seconds] = {}
    for index in sorted(matched):
        played.setdefault(float(task.expected[index].onset_quarters), performance.strikes[matched[index]].played_s)
    onsets, times = list(played), list(played.values())

    def due_s(onset: float) -> Seconds:
        low, high = bisect_left(onsets, onset) - 1, bisect_right(onsets, onset)
        if low < 0:
            return times[min(high, len(times) - 1)] - (onsets[min(high, len(times) - 1)] - onset) * task.quarter_s
        if high == len(onsets):
            return times[low] + (onset - onsets[low]) * task.quarter_s
        share = (onset - onsets[low]) / (onsets[high] - onsets[low])
        return times[low] + share * (times[high] - times[low])

    return due_s


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


def ornamented(task: Task, events: ScoreEvents) -> dict[int, Note]:
    """The note of each event that a written ornament goes with, of several the longest."""
    notes = {note.id: note for note in task.score.notes}
    owners = [notes.get(mark.note_id or "") for mark in task.score.marks if mark.kind is MarkKind.ORNAMENT]
    at = {float(onset): index for index, onset in enumerate(events.onsets)}
    found: dict[int, Note] = {}
    for note in owners:
        if note is None or note.pitch is None or not _asked(task, note):
            continue
        event = at.get(float(note.onset_quarters - task.measures[0].start_quarters))
        if event is not None and (event not in found or found[event].duration_quarters < note.duration_quarters):
            found[event] = note
    return found


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


#: The strikes of one ornament follow each other within this; its first may come so much before or after its note is
#: due.
ORNAMENT_GAP_S, ORNAMENT_EARLY_S, ORNAMENT_LATE_S = 0.3, 0.2, 0.35


def whole_ornaments(
    task: Task, performance: Performance, matched: Mapping[int, int], free: Collection[int]
) -> dict[int, tuple[int, ...]]:
    """Of every written ornament that was struck its strikes in order, by the written strike it belongs to: those near
    its key that follow each other, from before the matched one (who begins from above strikes another key first) to its
    end; one whose key was matched to nothing too. ``free``: strikes that are matched to nothing else."""
    marked = {mark.note_id for mark in task.score.marks if mark.kind is MarkKind.ORNAMENT}
    if not marked or not task.asks_pitches or len(matched) < 2:
        return {}
    origin = task.measures[0].start_quarters
    ends: dict[tuple[Hand | None, Quarters, int | None], Quarters] = {
        (note.hand, note.onset_quarters - origin, note.pitch): note.duration_quarters
        for note in task.score.notes
        if note.id in marked
    }
    at_s, ordered, strikes = _clock(task, performance, matched), sorted(free), performance.strikes
    around_s = _clock_around(task, performance, matched)
    found: dict[int, tuple[int, ...]] = {}
    for index, expected in enumerate(task.expected):
        length = ends.get((expected.hand, expected.onset_quarters, expected.pitch))
        if length is None or expected.pitch is None:
            continue
        onset = float(expected.onset_quarters)
        due_s, end_s = around_s(onset), at_s(onset + float(length))
        own = matched.get(index)
        begin_s = (due_s if own is None else min(due_s, strikes[own].played_s)) - ORNAMENT_EARLY_S
        near = [
            i
            for i in ordered
            if abs((strikes[i].pitch or 0) - expected.pitch) <= ORNAMENT_SEMITONES
            and begin_s <= strikes[i].played_s < end_s
        ]
        if own is None or strikes[own].played_s > due_s + ORNAMENT_LATE_S:
            begins = next((i for i in near if abs(strikes[i].played_s - due_s) <= ORNAMENT_LATE_S), None)
            if own is not None and begins is not None:
                # Its key comes again later, as the upper one of the next ornament: that one is free for it.
                ordered = sorted({*ordered, own})
                matched = {**matched, index: begins}
                around_s = _clock_around(task, performance, matched)
            own = own if begins is None else begins
        if own is None:
            continue
        chain = [own]
        for i in reversed([i for i in near if i < own]):
            if strikes[chain[0]].played_s - strikes[i].played_s > ORNAMENT_GAP_S:
                break
            chain.insert(0, i)
        for i in (i for i in near if i > own):
            if strikes[i].played_s - strikes[chain[-1]].played_s > ORNAMENT_GAP_S:
                break
            chain.append(i)
        if len(chain) > 1:
            found[index] = tuple(chain)
            ordered = [i for i in ordered if i not in chain]
    return found
