"""Words for what happens: the systems that say a word for each strike and rest rather than for each
place of the meter, and the names of durations.

- *length*: long or short, against the two commonest lengths of the passage (the nearer on a log scale);
- *hands*: together, left, right, in the order of events;
- *names*: the note's letter: of a chord the outer one, highest right, lowest left; of both hands the
  right's where it strikes;
- *duration*: laid over the places of the meter: the name of a length at its strike, its continuation at
  held places, a rest's own word.

A length here runs from a strike to the line's next strike, or to where its sound ends.
Source: docs/trade.md 2.2 (common practice).
"""

from __future__ import annotations

from bisect import bisect_left
from collections import Counter
from functools import cached_property

from laptick.core.counting.counts import CountedBar, Kind, RawCount
from laptick.core.counting.word_tables import System
from laptick.core.score.hand_line import HandLine, hand_line, note_ticks, to_ticks
from laptick.core.score.score import Hand, Score


class Spoken:
    """The events of one line over a passage, and their words. ``start`` … ``end`` bound it in ticks."""

    def __init__(self, score: Score, hand: Hand | None, line: HandLine, start: int, end: int) -> None:
        self.score, self.hand, self.line = score, hand, line
        self._strikes = line.strike_ticks_between(start, end)
        silent = line.silence_ticks[bisect_left(line.silence_ticks, start) : bisect_left(line.silence_ticks, end)]
        self._rests = tuple(tick for tick in silent if not line.sounds_at_tick(tick))
        self._lengths = line.strike_lengths

    @cached_property
    def _letters(self) -> dict[int, str]:
        return _outer_letters(self.score, self.hand)

    @cached_property
    def _hand_sets(self) -> tuple[frozenset[int], frozenset[int]]:
        right, left = (hand_line(self.score, hand).strike_set for hand in (Hand.RIGHT, Hand.LEFT))
        return right, left

    @cached_property
    def _commonest(self) -> tuple[int, int] | None:
        """(shorter, longer) of the two commonest lengths; the earlier one of equally common lengths;
        ``None`` when all are the same."""
        counted = Counter(self._lengths[tick] for tick in self._strikes)
        if len(counted) < 2:
            return None
        first, second = (length for length, _ in counted.most_common(2))
        return min(first, second), max(first, second)

    # -- systems of events --------------------------------------------------------------------------

    def say_bar(self, bar: CountedBar, start: int, end: int) -> list[RawCount]:
        """The counts of one bar in a system of events."""
        table = bar.resolved.table
        on_beat = {beat.start for beat in bar.plan.beats}
        lead = to_ticks(bar.measure.lead_quarters, self.line.per_quarter)
        events = [(tick, Kind.STRIKE) for tick in self.line.strike_ticks_between(start, end)]
        rests = set(self._rests[bisect_left(self._rests, start) : bisect_left(self._rests, end)])
        if not self.line.sounds_at_tick(start):
            rests.add(start)
        events += [(tick, Kind.REST) for tick in rests]
        counts: list[RawCount] = []
        for tick, kind in sorted(events):
            word = table.words("rest")[0] if kind is Kind.REST else self._word(tick, bar)
            offset = tick - start
            counts.append((offset, word, kind, offset + lead in on_beat))
        return counts

    def _word(self, tick: int, bar: CountedBar) -> str:
        table = bar.resolved.table
        if table.system is System.LENGTH:
            return table.words("long" if self._is_long(tick) else "short")[0]
        if table.system is System.HANDS:
            return table.words(self._which_hand(tick))[0]
        return self._letter(tick)

    def _is_long(self, tick: int) -> bool:
        if self._commonest is None:
            return True
        short, long = self._commonest
        return self._lengths[tick] ** 2 >= short * long

    def _which_hand(self, tick: int) -> str:
        right, left = self._hand_sets
        return "left" if tick not in right else ("together" if tick in left else "right")

    def _letter(self, tick: int) -> str:
        return self._letters.get(tick, "x")

    # -- durations ----------------------------------------------------------------------------------

    def name_durations(self, bar: CountedBar, said: list[RawCount], start: int) -> list[RawCount]:
        """The places of one bar with the names of durations."""
        table, plan, per = bar.resolved.table, bar.plan, self.line.per_quarter
        lead = to_ticks(bar.measure.lead_quarters, per)
        figures, dropped = self._figures(bar, said, start, lead)
        undivided = {beat.start for i, beat in enumerate(plan.beats) if plan.grids[i] == (1,) and not plan.places[i]}
        quarter, eighth, sixteenth, rest, held, held_divided = (
            table.words(entry)[0] for entry in ("quarter", "eighth", "sixteenth", "rest", "held", "held-divided")
        )
        result: list[RawCount] = []
        for offset, _, kind, is_beat in said:
            if offset in dropped:
                continue
            position = offset + lead
            if kind is Kind.REST:
                word = rest
            elif kind is Kind.HOLD:
                word = held if position in undivided else held_divided
            elif offset in figures:
                word = figures[offset]
            elif self._lengths[start + offset] >= per:
                word = quarter
            else:
                # Sixteenths off the eighth; in sextuplets every second one.
                word = eighth if 2 * position % per == 0 or 3 * position % per == 0 else sixteenth
            result.append((offset, word, kind, is_beat))
        return result

    def _figures(self, bar: CountedBar, said: list[RawCount], start: int, lead: int) -> tuple[dict[int, str], set[int]]:
        """Words of the figures that are seen as one thing, and the held places inside them that their
        last syllable covers."""
        table, plan, per = bar.resolved.table, bar.plan, self.line.per_quarter
        triplet, syncopa = table.words("triplet"), table.words("syncopa")
        words: dict[int, str] = {}
        dropped: set[int] = set()
        for index, beat in enumerate(plan.beats):
            reach = plan.leads.get(index, 1 if 3 in plan.grids[index] and not beat.is_compound else 0)
            for third in range(3 if reach else 0):
                words[beat.start + beat.length * reach * third // 3 - lead] = triplet[third]
        half = per // 2
        for offset, _, kind, _ in said:
            tick = start + offset
            if kind is not Kind.STRIKE or (offset + lead) % per or self._lengths[tick] != half:
                continue
            shape = [(tick, half), (tick + half, per), (tick + 3 * half, half)]
            if all(at in self.line.strike_set and self._lengths[at] == length for at, length in shape):
                for (at, _), word in zip(shape, syncopa, strict=True):
                    words[at - start] = word
                dropped.add(offset + per)
        return words, dropped


def _outer_letters(score: Score, hand: Hand | None) -> dict[int, str]:
    """Tick → letter of the outer note struck there; of both hands the right's comes first."""
    outer: dict[int, str] = {}
    for one in (Hand.LEFT, Hand.RIGHT) if hand is None else (hand,):
        # Notes of one instant stand from low to high: the last written wins for the right hand.
        notes = [
            (note, start) for note, start, _ in note_ticks(score) if note.hand is one and not note.tied_from_before
        ]
        for note, start in notes if one is Hand.RIGHT else reversed(notes):
            outer[start] = note.name[:1] or "x"
    return outer
