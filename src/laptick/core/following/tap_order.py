"""Taps of a hand in their turn: who rushes a run taps as often as is asked, too far from the beat to be told by it.

Between two taps that are surely matched, where a hand tapped as often as is written, its taps are those strikes one
after the other. Only where something is missing and something is left over of the same hand.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence

import numpy as np

from laptick.core.base.units import Seconds
from laptick.core.following.pairing import TURN_BEATS, Followed, Match, Pairing, beat_of
from laptick.core.following.time_alignment import interpolated
from laptick.core.score.score import Hand

#: A tap this near its place, in gaps to its neighbours, is surely that strike, when its neighbours are too.
SURELY = 0.2


def tap_in_turn(found: Pairing, followed: Followed) -> None:
    """Matches the taps of each hand anew where they are as many as is asked."""
    task, performance = followed.task, followed.performance
    if len(followed.segments) != 1 or not found.left_over_on_both_sides(task, performance):
        return
    beats = beat_of(found, task, performance).get(0)
    if beats is None or len(beats[0]) < 2:
        return
    due_s = interpolated(np.array([float(e.onset_quarters) for e in task.expected]), *beats)
    beat_s = float(task.beat_quarters) * task.quarter_s
    for hand in dict.fromkeys(e.hand for e in task.expected):
        if hand is not None:
            _one_hand(found, followed, hand, due_s.tolist(), TURN_BEATS * beat_s)


def _one_hand(found: Pairing, followed: Followed, hand: Hand, due_s: Sequence[Seconds], most_s: Seconds) -> None:
    task, strikes = followed.task, followed.performance.strikes
    asked = [i for i, e in enumerate(task.expected) if e.hand is hand]
    taps = [i for i, strike in enumerate(strikes) if strike.hand is hand and i not in found.repeats]
    place = {tap: n for n, tap in enumerate(taps)}
    if all(i in found.final for i in asked):
        return
    sure = [
        n
        for n, i in enumerate(asked)
        if i in found.final and found.final[i].strike_index in place and _is_sure(asked, n, found, followed, due_s)
    ]
    for low, high in _windows(sure, len(asked)):
        first = 0 if low < 0 else place[found.final[asked[low]].strike_index] + 1
        last = len(taps) if high == len(asked) else place[found.final[asked[high]].strike_index]
        gap, own = asked[low + 1 : high], taps[first:last]
        if len(gap) != len(own) or all(i in found.final for i in gap):
            continue
        if all(abs(strikes[tap].played_s - due_s[i]) <= most_s for i, tap in zip(gap, own, strict=True)):
            for i, tap in zip(gap, own, strict=True):
                found.final[i] = Match(i, tap, 0)


def _windows(sure: Sequence[int], count: int) -> Iterator[tuple[int, int]]:
    edges = [-1, *sure, count]
    for low, high in itertools.pairwise(edges):
        if high - low > 1:
            yield low, high


def _is_sure(asked: Sequence[int], n: int, found: Pairing, followed: Followed, due_s: Sequence[Seconds]) -> bool:
    """Does a tap lie at its place, and so do those before and after it?"""

    def near(at: int) -> bool:
        matched = found.final.get(asked[at])
        if matched is None:
            return False
        gaps = [abs(due_s[asked[other]] - due_s[asked[at]]) for other in (at - 1, at + 1) if 0 <= other < len(asked)]
        off_s = abs(followed.performance.strikes[matched.strike_index].played_s - due_s[asked[at]])
        return off_s <= SURELY * min(gaps, default=1.0)

    return all(near(at) for at in range(max(0, n - 1), min(len(asked), n + 2)))
