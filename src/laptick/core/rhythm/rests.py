"""Rests: every written silence of a hand, what is said there, the entry after it, and what it is good for.

Source: docs/trade.md 2.6 (common practice).
"""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass

from laptick.core.base.units import Quarters
from laptick.core.score.hand_line import HandLine, to_ticks
from laptick.core.score.score import Hand, Measure

#: A silence of at least this many beats leaves time to move a hand; a shorter one to lift it.
MOVING_BEATS = 1


@dataclass(frozen=True, slots=True)
class HandRest:
    """A written silence of one hand inside one bar. ``entry_quarters``: where the hand comes in again, in
    quarters from the start of the piece (``None``: not any more)."""

    measure_index: int
    offset_quarters: Quarters
    hand: Hand | None
    length_quarters: Quarters
    entry_quarters: Quarters | None = None


def hand_rests(line: HandLine, measures: tuple[Measure, ...], hand: Hand | None) -> list[HandRest]:
    """Every written silence of a line, split at bar lines and where a new rest is written."""
    per, starts = line.per_quarter, line.silence_ticks
    span_starts = [start for start, _ in line.span_ticks]
    rests: list[HandRest] = []
    for measure in measures:
        begin = to_ticks(measure.start_quarters, per)
        end = begin + to_ticks(measure.length_quarters, per)
        silent = list(starts[bisect_right(starts, begin - 1) : bisect_right(starts, end - 1)])
        if not line.sounds_at_tick(begin) and begin not in silent:
            silent.insert(0, begin)
        for index, start in enumerate(silent):
            if line.sounds_at_tick(start):
                continue
            following = bisect_right(span_starts, start)
            entry = span_starts[following] if following < len(span_starts) else None
            ends = [end, *silent[index + 1 : index + 2], *([] if entry is None else [entry])]
            rests.append(
                HandRest(
                    measure.index,
                    line.quarters(start - begin),
                    hand,
                    line.quarters(min(ends) - start),
                    None if entry is None else line.quarters(entry),
                )
            )
    return rests


def good_for(rest: HandRest, beat_quarters: Quarters) -> str:
    """What a rest is good for, one sentence."""
    if rest.length_quarters >= MOVING_BEATS * beat_quarters:
        return "Lift, breathe, and put the hand where it plays next."
    return "Lift; the finger waits over its next key."
