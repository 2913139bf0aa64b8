"""Where printed lines begin when a file does not say, and bends of the tempo closed at the end of the piece."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from laptick.core.base.units import Quarters
from laptick.core.score.score import Mark, MarkKind, TempoMark

#: A line of print, where the file has no system breaks.
DEFAULT_BARS_PER_LINE = 4


def close_bends(marks: Sequence[Mark], tempos: Sequence[TempoMark], end: Quarters) -> list[Mark]:
    """*rit.* and *accel.* without an end of their own reach to the next tempo, or to the end."""
    kinds = (MarkKind.A_TEMPO, MarkKind.SLOWER, MarkKind.FASTER, MarkKind.TEMPO_WORDS)
    stops = sorted({m.onset_quarters for m in marks if m.kind in kinds} | {t.onset_quarters for t in tempos})
    closed = []
    for mark in marks:
        if mark.kind in (MarkKind.SLOWER, MarkKind.FASTER) and mark.end_quarters is None:
            reach = next((stop for stop in stops if stop > mark.onset_quarters), end)
            mark = replace(mark, end_quarters=reach)
        closed.append(mark)
    return closed
