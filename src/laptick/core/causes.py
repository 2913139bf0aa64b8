"""Why a hand may have stopped: what of the score lies in the gap.

Codes: ``line-change``, ``bar-line``, ``hand-move`` (the notes leave the five white keys around what that hand struck
last), ``both-change`` (both hands strike something new at once), ``wide-reach`` (a hand stretches beyond an octave).
Source: handbook 4.9; the five-key window of 3.2, in semitones: a fifth.
"""

from __future__ import annotations

from laptick.core.performance import Expected, Task
from laptick.core.score import HANDS, Hand
from laptick.core.units import Quarters

#: A hand at rest covers this many semitones; a reach beyond an octave is wide.
WINDOW, OCTAVE = 7, 12


def causes_of(task: Task, before: Expected, here: Expected) -> tuple[str, ...]:
    """What lies between two strikes of the passage, the plainest first."""
    first, second = task.score.measures[before.measure_index], task.score.measures[here.measure_index]
    causes = []
    if first.line != second.line:
        causes.append("line-change")
    if first.index != second.index:
        causes.append("bar-line")
    if task.expected[0].pitch is None:
        return tuple(causes)  # away from the keys no hand moves
    onset = here.onset_quarters
    hands = {hand: _struck(task, hand, onset) for hand in HANDS}
    last = {hand: _last(task, hand, onset) for hand in HANDS}
    reach = {hand: hands[hand] | last[hand] for hand in HANDS}
    if any(hands[hand] and last[hand] and max(reach[hand]) - min(reach[hand]) > WINDOW for hand in HANDS):
        causes.append("hand-move")
    if all(hands[hand] and last[hand] and hands[hand] != last[hand] for hand in HANDS):
        causes.append("both-change")
    if any(hands[hand] and max(hands[hand]) - min(hands[hand]) > OCTAVE for hand in HANDS):
        causes.append("wide-reach")
    return tuple(causes)


def _struck(task: Task, hand: Hand, onset: Quarters) -> set[int]:
    return {e.pitch for e in task.expected if e.hand is hand and e.onset_quarters == onset and e.pitch is not None}


def _last(task: Task, hand: Hand, onset: Quarters) -> set[int]:
    """What the hand struck last before an instant."""
    earlier = [e for e in task.expected if e.hand is hand and e.onset_quarters < onset and e.pitch is not None]
    return {e.pitch for e in earlier if e.onset_quarters == earlier[-1].onset_quarters and e.pitch is not None}
