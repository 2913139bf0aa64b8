"""Where the score itself suspends or bends the beat, and how the playing followed.

A *bend* (rit., accel.) is a span in which the tempo is meant to change; a *hold* is an instant over which the beat may
wait: the end of a note under a fermata, a breath, a caesura, the end of a bend, the end of a phrase mark. What is
played there is no hesitation, no drift and no unevenness; of a bend only the direction is told.
Source: docs/trade.md 4.2 (common practice).
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from laptick.core.base.units import Quarters
from laptick.core.following.own_beat import BeatFit, PlayedInstant
from laptick.core.score.score import MarkKind, Note
from laptick.core.takes.task import Task

#: A change of speed smaller than this share is neither slower nor faster.
SAME_SPEED = 0.03

#: Where bends cover more of a passage than this, it is measured as if they were not there.
MOST_BENT = 0.5


@dataclass(frozen=True, slots=True)
class Bend:
    """``SLOWER`` or ``FASTER`` from after ``start_quarters`` up to ``end_quarters``, from the passage's start."""

    kind: MarkKind
    start_quarters: Quarters
    end_quarters: Quarters

    def covers(self, onset: float) -> bool:
        return float(self.start_quarters) + 1e-9 < onset < float(self.end_quarters) - 1e-9


@dataclass(frozen=True)
class Bends:
    """``holds``: instants over which the beat may wait; ``lifts``: ends of phrases, over which it may wait a little."""

    spans: tuple[Bend, ...]
    holds: tuple[float, ...]
    lifts: tuple[float, ...]

    def covers(self, onset: float) -> bool:
        return any(span.covers(onset) for span in self.spans)

    def touches(self, start: float, end: float) -> bool:
        """Does a bend lie in this stretch?"""
        return any(float(s.start_quarters) < end - 1e-9 and start + 1e-9 < float(s.end_quarters) for s in self.spans)

    def waits_between(self, before: float, here: float) -> bool:
        """May the beat wait between two instants, a little or long?"""
        return self.holds_between(before, here) or self.lifts_between(before, here)

    def holds_between(self, before: float, here: float) -> bool:
        return _between(self.holds, before, here)

    def lifts_between(self, before: float, here: float) -> bool:
        return _between(self.lifts, before, here)


NO_BENDS = Bends((), (), ())


def _between(instants: Sequence[float], before: float, here: float) -> bool:
    index = bisect_right(instants, before + 1e-9)
    return index < len(instants) and instants[index] <= here + 1e-9


#: What may bend or hold the beat, or lift the hand.
BENDING = frozenset(
    {
        MarkKind.SLOWER, MarkKind.FASTER, MarkKind.FERMATA, MarkKind.BREATH, MarkKind.CAESURA, MarkKind.SLUR,
    }
)  # fmt: skip


def find_bends(task: Task) -> Bends:
    """The bends and holds written in a passage."""
    score, origin, end = task.score, task.measures[0].start_quarters, task.measures[-1].end_quarters
    marks = [mark for mark in score.marks if mark.kind in BENDING]
    if not marks:
        return NO_BENDS
    notes = {note.id: note for note in score.notes}
    first_at: dict[Quarters, Note] = {}
    for note in reversed(score.notes):
        first_at[note.onset_quarters] = note
    spans: list[Bend] = []
    holds: set[Quarters] = set()
    lifts: set[Quarters] = set()
    for mark in marks:
        adorned = notes.get(mark.note_id or "")
        if mark.kind in (MarkKind.SLOWER, MarkKind.FASTER) and mark.end_quarters is not None:
            low, high = max(mark.onset_quarters, origin), min(mark.end_quarters, end)
            if low < high:
                spans.append(Bend(mark.kind, low - origin, high - origin))
                holds.add(high - origin)
        elif mark.kind in (MarkKind.FERMATA, MarkKind.BREATH, MarkKind.CAESURA):
            holds.add((adorned.end_quarters if adorned else mark.onset_quarters) - origin)
            if adorned is None and mark.kind is MarkKind.FERMATA:
                # What is held begins at the mark.
                holds.add(mark.onset_quarters + score.measure_at(mark.onset_quarters).meter.beat_quarters - origin)
        elif mark.kind is MarkKind.SLUR and mark.end_quarters is not None:
            bar = score.measure_at(mark.onset_quarters).meter.bar_quarters
            if mark.end_quarters - mark.onset_quarters >= bar:
                last = first_at.get(mark.end_quarters)
                lifts.add((last.end_quarters if last else mark.end_quarters) - origin)
    return Bends(tuple(spans), tuple(sorted(map(float, holds))), tuple(sorted(map(float, lifts))))


def bent_events(bends: Bends, events: Sequence[PlayedInstant]) -> frozenset[int]:
    """The events inside bends; none when they would be most of what was played."""
    bent = frozenset(i for i, event in enumerate(events) if bends.covers(event.onset_quarters))
    return bent if len(bent) <= MOST_BENT * len(events) else frozenset()


def held_events(bends: Bends, events: Sequence[PlayedInstant]) -> frozenset[int]:
    """The events before which the beat may wait."""
    return frozenset(
        i for i in range(1, len(events)) if bends.holds_between(events[i - 1].onset_quarters, events[i].onset_quarters)
    )


@dataclass(frozen=True, slots=True)
class MeasuredBend:
    """How the tempo changed over a bend: ``change`` is the share the speed gained from its beginning to its end
    (negative: slower)."""

    kind: MarkKind
    onset_quarters: Quarters
    change: float

    @property
    def went(self) -> str:
        if abs(self.change) < SAME_SPEED:
            return "same"
        return "faster" if self.change > 0 else "slower"

    @property
    def as_written(self) -> bool:
        return self.went == ("slower" if self.kind is MarkKind.SLOWER else "faster")


def measure_bends(bends: Bends, fit: BeatFit) -> list[MeasuredBend]:
    """The direction of every bend on four strikes or more, by a curve of the second degree through them."""
    onsets = [event.onset_quarters for event in fit.events]
    found = []
    for span in bends.spans:
        low = bisect_left(onsets, float(span.start_quarters) - 1e-9)
        high = bisect_right(onsets, float(span.end_quarters) + 1e-9)
        inside = fit.events[low:high]
        if len(inside) < 4 or len({event.segment for event in inside}) > 1:
            continue
        x = np.array([event.onset_quarters for event in inside])
        y = np.array([event.played_s for event in inside])
        curve = np.polyfit(x - x[0], y - y[0], 2)
        begin, end = float(curve[1]), float(curve[1] + 2 * curve[0] * (x[-1] - x[0]))
        if begin > 0 and end > 0:
            found.append(MeasuredBend(span.kind, span.start_quarters, begin / end - 1))
    return found
