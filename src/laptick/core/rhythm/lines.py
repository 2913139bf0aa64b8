"""Which lines of the page come again: *line 3 is line 1; only the way into it is new*.

A line is compared bar by bar with every earlier one of as many bars: the same notes, the same but for one bar, or the
same rhythm. Lines of one bar are told by that bar. Source: docs/trade.md 3.1 (common practice).
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from laptick.core.rhythm.likeness import bar_likeness
from laptick.core.score.score import Measure, Score

#: Lines of fewer bars than this are no lines that come again; of fewer than that, one other bar is half of it.
LEAST_BARS, LEAST_BARS_BUT_ONE = 2, 3


class Sameness(StrEnum):
    """Best first."""

    NOTES = "notes"
    ALL_BUT_ONE_BAR = "all-but-one-bar"
    RHYTHM = "rhythm"


@dataclass(frozen=True, slots=True)
class LineLikeness:
    """Line ``line`` is as line ``earlier``; ``other_bar``: the index of the one bar that is not; ``new_way_in``: the
    bar that leads into it is another."""

    line: int
    earlier: int
    sameness: Sameness
    other_bar: int | None
    new_way_in: bool


def alike_lines(score: Score) -> list[LineLikeness]:
    """Every line that is as an earlier one, with the best of these, the earliest of equals."""
    likeness = bar_likeness(score)
    notes = [one.same_notes_as if one.same_notes_as is not None else one.measure_index for one in likeness]
    letters = [one.letter for one in likeness]
    lines = [list(own) for _, own in itertools.groupby(score.measures, key=lambda measure: measure.line)]
    found = []
    for at, line in enumerate(lines):
        told = [one for earlier in lines[:at] if (one := _compared(line, earlier, notes, letters)) is not None]
        best = min(told, key=lambda one: list(Sameness).index(one.sameness), default=None)
        if best is not None:
            found.append(best)
    return found


def _compared(
    line: Sequence[Measure], earlier: Sequence[Measure], notes: Sequence[int], letters: Sequence[str]
) -> LineLikeness | None:
    if len(line) != len(earlier) or len(line) < LEAST_BARS:
        return None
    pairs = [(one.index, other.index) for one, other in zip(line, earlier, strict=True)]
    others = [here for here, there in pairs if notes[here] != notes[there]]
    here, there = pairs[0]
    before = [notes[index - 1] if index else None for index in (here, there)]
    if not others:
        return LineLikeness(line[0].line, earlier[0].line, Sameness.NOTES, None, before[0] != before[1])
    if len(others) == 1 and len(line) >= LEAST_BARS_BUT_ONE:
        return LineLikeness(line[0].line, earlier[0].line, Sameness.ALL_BUT_ONE_BAR, others[0], before[0] != before[1])
    if all(letters[here] == letters[there] for here, there in pairs):
        return LineLikeness(line[0].line, earlier[0].line, Sameness.RHYTHM, None, before[0] != before[1])
    return None


def line_words(score: Score, alike: LineLikeness) -> str:
    """*Line 3 is line 1 again: only the way into it is new.*"""
    if alike.sameness is Sameness.NOTES:
        way = ": only the way into it is new" if alike.new_way_in else ""
        return f"Line {alike.line} is line {alike.earlier} again{way}."
    if alike.other_bar is not None:
        other = score.measures[alike.other_bar].number
        return f"Line {alike.line} is line {alike.earlier} but for bar {other}."
    return f"Line {alike.line} has the rhythm of line {alike.earlier}."
