"""The grouping of an asymmetric bar as its beams show it.

A grouping speaks for itself when beams begin where its groups do and none reaches over a group's start.
Source: common practice of notation.
"""

from __future__ import annotations

from collections.abc import Sequence

from laptick.core.base.units import Quarters
from laptick.core.score.meter import Grouping, TimeSignature, all_groupings, default_grouping

#: (offset in the bar, length, begin | continue | end)
BeamedNote = tuple[Quarters, Quarters, str]

#: A beam over a group's start speaks against a grouping this much more than a beginning speaks for it.
CROSSING = 10

#: Longer bars have too many groupings to try; they keep the default.
MOST_UNITS = 19


def grouping_by_beams(signature: TimeSignature, beamed: Sequence[BeamedNote]) -> Grouping | None:
    """The grouping that agrees best with the beams; ``None`` where they do not tell."""
    if signature.beats > MOST_UNITS:
        return None
    spans = _spans(signature, beamed)
    if not spans:
        return None
    default = default_grouping(signature.beats)
    return max(all_groupings(signature.beats), key=lambda grouping: (_agreement(grouping, spans), grouping == default))


def _spans(signature: TimeSignature, beamed: Sequence[BeamedNote]) -> list[tuple[Quarters, Quarters]]:
    """(start, end) of each beam, in units of the bar."""
    spans, opened = [], None
    for offset, length, action in beamed:
        if action == "begin":
            opened = offset
        elif action == "end" and opened is not None and offset > opened:
            spans.append((opened / signature.unit_quarters, (offset + length) / signature.unit_quarters))
            opened = None
    return spans


def _agreement(grouping: Grouping, spans: Sequence[tuple[Quarters, Quarters]]) -> int:
    starts = [sum(grouping[:index]) for index in range(len(grouping))]
    agreement = 0
    for begin, end in spans:
        agreement += begin in starts
        agreement += end in (*starts, sum(grouping))
        agreement -= CROSSING * sum(begin < start < end for start in starts)
    return agreement
