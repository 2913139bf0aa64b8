"""Takes written by hand: every strike at its place, moved as a test says, and what is found of it.

The deviations round each place are ``HAND_WRITTEN_MS`` (helpers.py), an ordinary player's.
"""

from __future__ import annotations

from collections.abc import Callable

from helpers import HAND_WRITTEN_MS
from laptick.core.base.levels import Level
from laptick.core.judging.findings import find_findings
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.score import Score
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import Expected, Task, lap_task

#: (strike) → seconds it is moved, and seconds its key-up is moved against its written end.
Moved = Callable[[Expected], float]


def nothing(_: Expected) -> float:
    return 0.0


def played(
    task: Task, *, moved: Moved = nothing, up: Moved = nothing, clock: Callable[[float], float] | None = None
) -> Performance:
    """Keys, each struck at its place (through ``clock``: quarters → seconds) and let go 30 ms before its written end."""
    lengths = {(n.hand, n.onset_quarters, n.pitch): n.duration_quarters for n in task.score.notes}
    at = clock or (lambda quarters: quarters * task.quarter_s)
    strikes = []
    for index, expected in enumerate(task.expected):
        onset, hand = expected.onset_quarters, expected.hand
        length = lengths[hand, onset, expected.pitch] if hand else 1
        on_s = 2 + at(float(onset)) + moved(expected) + HAND_WRITTEN_MS[index * 5 % len(HAND_WRITTEN_MS)] / 1000
        off_s = max(on_s + 0.02, 2 + at(float(onset + length)) - 0.03 + up(expected))
        strikes.append(Strike(on_s, None, expected.pitch, 64, off_s))
    return Performance(Source.MIDI, tuple(sorted(strikes, key=lambda s: s.played_s)))


def found(task: Task, take: Performance, level: Level = Level.ELEMENTARY) -> dict[str, float]:
    """The codes found, each with its amount."""
    checked = check_take(task, take)
    assert checked.followed
    return {str(f.code): f.amount for f in find_findings(checked, LIMITS[level])}


def keys(score: Score, bpm: float = 60) -> Task:
    return lap_task(score, assigned_bpm=bpm, with_pitches=True)
