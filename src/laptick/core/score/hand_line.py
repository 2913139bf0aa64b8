"""What one hand, or both as one composite line, does in time: strikes, sounding spans, written rests.

Times are whole *ticks* (``Score.ticks_per_quarter``), so that thousands of exact comparisons stay fast;
the same instants are given as exact quarters to everybody outside.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property
from itertools import pairwise

from laptick.core.base.kept import Kept
from laptick.core.base.units import Quarters
from laptick.core.score.score import Hand, Note, Score


def to_ticks(quarters: Quarters, per_quarter: int) -> int:
    """Exact: ``per_quarter`` holds the denominator."""
    return quarters.numerator * (per_quarter // quarters.denominator)


def merge_spans(spans: Iterable[tuple[int, int]]) -> list[tuple[int, int]]:
    """Touching or overlapping (start, end) spans joined, in order."""
    merged: list[tuple[int, int]] = []
    for start, end in sorted(spans):
        if merged and start <= merged[-1][1]:
            if end > merged[-1][1]:
                merged[-1] = (merged[-1][0], end)
        else:
            merged.append((start, end))
    return merged


@dataclass(frozen=True)
class HandLine:
    """A line of the score, in ticks.

    ``strike_ticks``: where a note starts. ``span_ticks``: merged (start, end) spans in which something
    sounds by its written length. ``rest_ticks``: starts of written rests that fall in silence (a rest of
    one voice under a sounding voice is not a rest of the hand).
    """

    per_quarter: int
    strike_ticks: tuple[int, ...]
    span_ticks: tuple[tuple[int, int], ...]
    rest_ticks: tuple[int, ...]

    def quarters(self, ticks: int) -> Quarters:
        return Fraction(ticks, self.per_quarter)

    @cached_property
    def strikes(self) -> tuple[Quarters, ...]:
        return tuple(self.quarters(tick) for tick in self.strike_ticks)

    @cached_property
    def sounding(self) -> tuple[tuple[Quarters, Quarters], ...]:
        return tuple((self.quarters(start), self.quarters(end)) for start, end in self.span_ticks)

    @cached_property
    def strike_set(self) -> frozenset[int]:
        return frozenset(self.strike_ticks)

    @cached_property
    def _span_starts(self) -> tuple[int, ...]:
        return tuple(start for start, _ in self.span_ticks)

    def sounds_at_tick(self, tick: int) -> bool:
        index = bisect_right(self._span_starts, tick) - 1
        return index >= 0 and tick < self.span_ticks[index][1]

    def strikes_at(self, onset_quarters: Quarters) -> bool:
        return to_ticks(onset_quarters, self.per_quarter) in self.strike_set

    def sounds_at(self, onset_quarters: Quarters) -> bool:
        return self.sounds_at_tick(to_ticks(onset_quarters, self.per_quarter))

    def strike_ticks_between(self, start: int, end: int) -> tuple[int, ...]:
        """Strikes from ``start`` up to, not at, ``end``."""
        low = bisect_left(self.strike_ticks, start)
        return self.strike_ticks[low : bisect_left(self.strike_ticks, end, low)]

    @cached_property
    def silence_ticks(self) -> tuple[int, ...]:
        """Every instant at which silence begins or is written anew."""
        return tuple(sorted({end for _, end in self.span_ticks} | set(self.rest_ticks)))

    @cached_property
    def strike_lengths(self) -> dict[int, int]:
        """Strike → ticks to the next one, or to where its sound ends; without a written length, to the next."""
        lengths: dict[int, int] = {}
        spans = iter(self.span_ticks)
        end = -1
        for tick, following in zip(self.strike_ticks, [*self.strike_ticks[1:], None], strict=False):
            while end <= tick and (span := next(spans, None)):
                end = span[1]
            ends = [one for one in (end, following) if one is not None and one > tick]
            lengths[tick] = min(ends, default=tick) - tick
        return lengths

    @cached_property
    def until_next(self) -> dict[int, Quarters]:
        """Strike (tick) → the time to the next one, where the line sounds all the way to it."""
        found = {}
        for tick, following in pairwise(self.strike_ticks):
            index = bisect_right(self._span_starts, tick) - 1
            if index >= 0 and following <= self.span_ticks[index][1]:
                found[tick] = self.quarters(following - tick)
        return found

    @cached_property
    def boundary_ticks(self) -> tuple[int, ...]:
        """What divides beats: strikes and starts of silence."""
        return tuple(sorted({*self.strike_ticks, *self.silence_ticks}))


def hand_line(score: Score, hand: Hand | None) -> HandLine:
    """The line of one hand, or the composite of both for ``None``. Grace notes are left out."""
    return LINES.of(score, hand, lambda: _hand_line(score, hand))


LINES: Kept[Score, Hand | None, HandLine] = Kept()


def note_ticks(score: Score) -> list[tuple[Note, int, int]]:
    """(note, start, end) in ticks of all notes but grace notes."""
    return TICKS.of(score, None, lambda: _note_ticks(score))


TICKS: Kept[Score, None, list[tuple[Note, int, int]]] = Kept()


def _note_ticks(score: Score) -> list[tuple[Note, int, int]]:
    per = score.ticks_per_quarter
    result = []
    for note in score.notes:
        if not note.is_grace:
            onset, length = note.onset_quarters, note.duration_quarters
            start = onset.numerator * (per // onset.denominator)
            result.append((note, start, start + length.numerator * (per // length.denominator)))
    return result


def _hand_line(score: Score, hand: Hand | None) -> HandLine:
    per = score.ticks_per_quarter
    spans: list[tuple[int, int]] = []
    strikes: set[int] = set()
    for note, start, end in note_ticks(score):
        if hand is None or note.hand is hand:
            spans.append((start, end))
            if not note.tied_from_before:
                strikes.add(start)
    line = HandLine(per, tuple(sorted(strikes)), tuple(merge_spans(spans)), ())
    rests = {to_ticks(rest.onset_quarters, per) for rest in score.rests if hand is None or rest.hand is hand}
    silent = tuple(sorted(tick for tick in rests if not line.sounds_at_tick(tick)))
    return HandLine(per, line.strike_ticks, line.span_ticks, silent)
