"""Which stops are stops of the beat: in every hand that plays on both sides of one.

A hand that runs ahead and waits for the beat leaves a gap that looks like a stop; the other hand has none there.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Mapping, Sequence

from laptick.core.base.units import Seconds
from laptick.core.following.own_beat import BeatFit
from laptick.core.score.score import Hand

#: Whoever goes through a stop with less than this share of its excess does not stop.
SEEN_SHARE = 0.4

#: A gap of a hand longer than this many beats tells nothing of a stop inside it.
LONGEST_BEATS = 2.5


def events_passed(
    fit: BeatFit, lines: Mapping[Hand | None, Sequence[tuple[float, Seconds]]], beat_quarters: float
) -> frozenset[int]:
    """The stops (by their event) through which a hand goes on in time. ``lines``: of each hand (onset, played) in
    order."""
    passed = set()
    for stop in fit.stops:
        low, high = fit.events[stop.index - 1].onset_quarters, fit.events[stop.index].onset_quarters
        for line in lines.values():
            onsets = [onset for onset, _ in line]
            before, after = bisect_right(onsets, low + 1e-9) - 1, bisect_left(onsets, high - 1e-9)
            if before < 0 or after >= len(line):
                continue
            quarters = onsets[after] - onsets[before]
            if quarters > LONGEST_BEATS * beat_quarters:
                continue
            excess_s = line[after][1] - line[before][1] - quarters * fit.quarter_s_at(onsets[before])
            if excess_s < SEEN_SHARE * stop.excess_s:
                passed.add(stop.index)
    return frozenset(passed)
