"""Why a hand may have stopped: what of the score lies in the gap.

Codes: ``line-change``, ``bar-line``, ``hand-move`` (the notes leave the five white keys around what that hand struck
last), ``both-change`` (both hands strike something new at once), ``wide-reach`` (a hand stretches beyond an octave).
Source: docs/trade.md 4.9; the five-key window of 3.2, in semitones: a fifth.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from itertools import takewhile

from laptick.core.score.score import HANDS, Hand
from laptick.core.takes.task import Expected, Task

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
    if not task.asks_pitches:
        return tuple(causes)  # away from the keys no hand moves
    begins = bisect_left(task.expected, here.onset_quarters, key=lambda expected: expected.onset_quarters)
    hands = {hand: _struck(task.expected, begins, hand) for hand in HANDS}
    last = {hand: _last(task.expected, begins, hand) for hand in HANDS}
    reach = {hand: hands[hand] | last[hand] for hand in HANDS}
    if any(hands[hand] and last[hand] and max(reach[hand]) - min(reach[hand]) > WINDOW for hand in HANDS):
        causes.append("hand-move")
    if all(hands[hand] and last[hand] and hands[hand] != last[hand] for hand in HANDS):
        causes.append("both-change")
    if any(hands[hand] and max(hands[hand]) - min(hands[hand]) > OCTAVE for hand in HANDS):
        causes.append("wide-reach")
    return tuple(causes)


def _struck(expected: Sequence[Expected], begins: int, hand: Hand) -> set[int]:
    """What a hand strikes at the instant that begins at an index."""
    onset = expected[begins].onset_quarters
    together = takewhile(lambda e: e.onset_quarters == onset, expected[begins:])
    return {e.pitch for e in together if e.hand is hand and e.pitch is not None}


def _last(expected: Sequence[Expected], begins: int, hand: Hand) -> set[int]:
    """What the hand struck last before that instant."""
    for index in range(begins - 1, -1, -1):
        if expected[index].hand is hand and expected[index].pitch is not None:
            first = bisect_left(expected, expected[index].onset_quarters, key=lambda e: e.onset_quarters)
            return _struck(expected, first, hand)
    return set()
