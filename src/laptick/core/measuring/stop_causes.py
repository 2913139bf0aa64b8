"""Why a hand may have stopped: what of the score lies in the gap, as the together map has it.

Codes: ``line-change``, ``bar-line``, ``hand-move`` (a hand is put down elsewhere), ``both-change`` (both hands get new
things at once), ``wide-reach`` (a hand stretches beyond an octave). Source: docs/trade.md 4.9, 3.1 and 3.2.
"""

from __future__ import annotations

from laptick.core.score.score import HANDS
from laptick.core.takes.task import Expected, Task
from laptick.core.together.costs import Reason
from laptick.core.together.difficulty import USUAL_BPM
from laptick.core.together.joining import joined_bars
from laptick.core.together.reaches import reaches_of
from laptick.core.together.shifts import shifts_of


def causes_of(task: Task, before: Expected, here: Expected) -> tuple[str, ...]:
    """What lies between two strikes of the passage, the plainest first."""
    score = task.score
    first, second = score.measures[before.measure_index], score.measures[here.measure_index]
    causes = []
    if first.line != second.line:
        causes.append("line-change")
    if first.index != second.index:
        causes.append("bar-line")
    if task.asks_pitches:  # away from the keys no hand moves
        causes += _on_the_keys(task, here)
    return tuple(causes)


def _on_the_keys(task: Task, here: Expected) -> list[str]:
    score = task.score
    at = score.ticks_of(task.measures[0].start_quarters + here.onset_quarters)
    hands = [hand for hand in HANDS if any(expected.hand is hand for expected in task.expected)]
    # Whether both hands change does not hang on the tempo.
    arriving = [one for one in joined_bars(score, USUAL_BPM)[here.measure_index] if one.event.ticks == at]
    spot = (here.measure_index, here.offset_quarters)
    causes = []
    if any(shift.to.ticks == at for hand in hands for shift in shifts_of(score, hand)):
        causes.append("hand-move")
    if len(hands) > 1 and any(item.reason is Reason.BOTH_CHANGE for one in arriving for item in one.motion):
        causes.append("both-change")
    if any((reach.measure_index, reach.offset_quarters) == spot and reach.hand in hands for reach in reaches_of(score)):
        causes.append("wide-reach")
    return causes
