"""The clock of a passage: when, in seconds, each place of the played score falls.

The tempo chosen counts the first bar's beat. From there on the clock follows the score: printed tempos keep their
proportion to the one in force where the passage begins, *rit.* and *accel.* bend it, a fermata or a caesura holds it.
Nothing is measured here: this is how the play-along goes, and what a click meant.

Sources: the shape of a *rit.* is that of Friberg & Sundberg, "Does music performance allude to locomotion? A model of
final ritardandi derived from measurements of stopping runners", JASA 105(3), 1999 (from memory): speed over score
position x (0 … 1) is (1 + (w³ − 1)·x)^(1/3), with w the speed at the end as a share. How far it slows, how long a
fermata is held: common practice, no source.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

from laptick.core.base.units import Bpm, Quarters, Seconds, seconds_per_quarter
from laptick.core.score.score import Mark, MarkKind, Measure, Score

#: The speed at the end of a bend, as a share of the speed before it.
BEND_SPEEDS: dict[MarkKind, float] = {MarkKind.SLOWER: 0.65, MarkKind.FASTER: 1.4}

#: The exponent of the shape.
SHAPE = 3

#: A fermata holds its note once more, at least a beat and at most this many; a caesura waits for one beat.
FERMATA_MOST_BEATS, CAESURA_BEATS = 4, 1


@dataclass(frozen=True, slots=True)
class ClockSpan:
    """From ``start_quarters``, at ``start_s``, to ``end_quarters``. ``quarter_s`` is the length of a quarter at its
    beginning; the speed at its end is ``end_speed`` times that at its beginning."""

    start_quarters: Quarters
    end_quarters: Quarters
    start_s: Seconds
    quarter_s: Seconds
    end_speed: float = 1.0

    def elapsed_s(self, onset: Quarters) -> Seconds:
        done = float(onset - self.start_quarters)
        if self.end_speed == 1.0:
            return done * self.quarter_s
        length = float(self.end_quarters - self.start_quarters)
        bend, power = self.end_speed**SHAPE - 1, 1 - 1 / SHAPE
        return self.quarter_s * length * float((1 + bend * done / length) ** power - 1) / (power * bend)


class Clock:
    """Seconds from the start of ``score`` at a tempo; differences of them are what is used."""

    def __init__(self, score: Score, origin: Measure, bpm: Bpm) -> None:
        quarter_s = seconds_per_quarter(bpm, origin.meter.beat_quarters)
        factors = written_paces(score, origin.start_quarters)
        bends = _bends(score.marks)
        waits = _waits(score)
        cuts = sorted(
            {Fraction(0), score.end_quarters}
            | {at for at, _ in factors}
            | {edge for bend in bends for edge in bend[:2]}
            | set(waits)
        )
        self._stretches: list[ClockSpan] = []
        now: Seconds = 0.0
        for start, end in pairwise(cuts):
            base = quarter_s / next((factor for at, factor in reversed(factors) if at <= start), 1.0)
            now += float(waits.get(start, Fraction(0))) * base
            begins, ends = _speeds(bends, start, end)
            self._stretches.append(ClockSpan(start, end, now, base / begins, ends / begins))
            now += self._stretches[-1].elapsed_s(end)
        self._end_s = now
        self._end_wait_s = float(waits.get(score.end_quarters, Fraction(0))) * quarter_s
        self._starts = [stretch.start_quarters for stretch in self._stretches]

    def at(self, onset: Quarters) -> Seconds:
        """When an instant falls; after what is held at it."""
        if not self._stretches or onset >= self._stretches[-1].end_quarters:
            return self._end_s + self._end_wait_s
        stretch = self._stretches[max(0, bisect_right(self._starts, onset) - 1)]
        return stretch.start_s + stretch.elapsed_s(onset)

    def until(self, onset: Quarters) -> Seconds:
        """When what leads up to an instant is over: before what is held at it."""
        index = bisect_right(self._starts, onset) - 1
        if onset >= self._stretches[-1].end_quarters:
            return self._end_s
        if onset == self._starts[index] and index > 0:
            return self._stretches[index - 1].start_s + self._stretches[index - 1].elapsed_s(onset)
        return self.at(onset)

    def quarter_s_at(self, onset: Quarters) -> Seconds:
        """How long a quarter would last at the speed of an instant."""
        index = min(len(self._starts) - 1, max(0, bisect_right(self._starts, onset) - 1))
        return self._stretches[index].quarter_s


def written_paces(score: Score, origin: Quarters) -> list[tuple[Quarters, float]]:
    """From where on the score is how many times as fast as where the passage begins (at ``origin``)."""
    tempos = sorted(score.tempos, key=lambda mark: mark.onset_quarters)
    if not tempos:
        return []
    before = [mark for mark in tempos if mark.onset_quarters <= origin]
    reference = before[-1] if before else tempos[0]
    speed = reference.bpm * float(reference.beat_quarters)
    return [(mark.onset_quarters, mark.bpm * float(mark.beat_quarters) / speed) for mark in tempos]


Bend = tuple[Quarters, Quarters, float]


def _bends(marks: Sequence[Mark]) -> list[Bend]:
    """(from, to, speed at the end); one that begins inside another ends it."""
    found = sorted(
        {
            (mark.onset_quarters, mark.end_quarters, BEND_SPEEDS[mark.kind])
            for mark in marks
            if mark.kind in BEND_SPEEDS and mark.end_quarters is not None and mark.end_quarters > mark.onset_quarters
        }
    )
    bends: list[Bend] = []
    for start, end, speed in found:
        if bends and bends[-1][0] == start:
            continue
        if bends and bends[-1][1] > start:
            bends[-1] = (bends[-1][0], start, bends[-1][2])
        bends.append((start, end, speed))
    return bends


def _speeds(bends: Sequence[Bend], start: Quarters, end: Quarters) -> tuple[float, float]:
    """The speeds, as shares of the tempo, at both ends of a stretch that lies inside a bend or outside all."""
    for begin, stop, slow in bends:
        if begin <= start and end <= stop:
            return _share(start, begin, stop, slow), _share(end, begin, stop, slow)
    return 1.0, 1.0


def _share(at: Quarters, begin: Quarters, stop: Quarters, slow: float) -> float:
    way = float((at - begin) / (stop - begin))
    return float((1 + (slow**SHAPE - 1) * way) ** (1 / SHAPE))


def _waits(score: Score) -> dict[Quarters, Quarters]:
    """Where the clock is held, for how long: at the end of a note under a fermata, at a caesura."""
    notes = {note.id: note for note in score.notes}
    waits: dict[Quarters, Quarters] = {}
    for mark in score.marks:
        if mark.kind not in (MarkKind.FERMATA, MarkKind.CAESURA):
            continue
        note = notes.get(mark.note_id or "")
        at = note.end_quarters if note else mark.onset_quarters
        measure = score.measure_at(note.onset_quarters if note else max(Fraction(0), at - Fraction(1, 1024)))
        beat = measure.meter.beat_quarters
        if mark.kind is MarkKind.CAESURA:
            held = CAESURA_BEATS * beat
        else:
            held = min(max(note.duration_quarters if note else beat, beat), FERMATA_MOST_BEATS * beat)
        waits[at] = max(waits.get(at, Fraction(0)), held)
    return waits
