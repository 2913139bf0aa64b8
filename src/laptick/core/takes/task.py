"""What a take is asked to be: the expected strikes of a passage, in played order.

Positions are exact quarters; `Expected` carries the written length and the hand.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from laptick.core.base.errors import TakeError
from laptick.core.base.kept import Kept
from laptick.core.base.kept_quarters import keeper
from laptick.core.base.units import Bpm, LengthNaming, Quarters, Seconds, seconds_per_quarter
from laptick.core.counting.counts import LineCount
from laptick.core.score.hand_line import hand_line, to_ticks
from laptick.core.score.score import HANDS, Hand, Measure, Place, Score
from laptick.core.score.score_clock import Clock
from laptick.core.score.within import Cut
from laptick.core.takes.paces import Paces, paces_of
from laptick.core.takes.performance import CLAP_KEY


@dataclass(frozen=True, slots=True)
class Expected:
    """One strike asked for. ``until_next_quarters`` is the written length when the line goes on without
    a rest, else ``None``. ``hand`` is ``None`` where either hand may strike (saying the count); ``pitch`` among keys
    that of a clap is ``CLAP_KEY``."""

    onset_quarters: Quarters
    measure_index: int
    offset_quarters: Quarters
    hand: Hand | None
    pitch: int | None
    until_next_quarters: Quarters | None


@dataclass(frozen=True)
class Task:
    """A passage as it is to be played, at its assigned tempo.

    ``assigned_bpm`` counts ``beat_quarters``; ``naming``: what the studio calls lengths; ``slower_passes``:
    whether even but slower is as good. Onsets start at 0 for the
    passage's first instant.
    """

    score: Score
    measures: tuple[Measure, ...]
    expected: tuple[Expected, ...]
    assigned_bpm: Bpm
    beat_quarters: Quarters
    naming: LengthNaming = LengthNaming.AMERICAN
    slower_passes: bool = False

    @property
    def asks_pitches(self) -> bool:
        """Are notes asked for, each on its key, or strikes of a hand?"""
        return self.expected[0].pitch is not None

    @property
    def quarter_s(self) -> Seconds:
        return seconds_per_quarter(self.assigned_bpm, self.beat_quarters)

    @property
    def length_quarters(self) -> Quarters:
        return self.measures[-1].end_quarters - self.measures[0].start_quarters

    def clock(self, bpm: Bpm) -> Callable[[Quarters], Seconds]:
        """When an onset of the passage falls after its first instant, as the play-along goes at a tempo."""
        first = self.measures[0]
        clock = CLOCKS.of(self.score, (first.index, bpm), lambda: Clock(self.score, first, bpm))
        origin = first.start_quarters
        zero = clock.at(origin)
        return lambda onset: float(clock.at(origin + onset) - zero)

    @property
    def paces(self) -> Paces:
        """How fast it is written to go where."""
        start, end = self.measures[0].start_quarters, self.measures[-1].end_quarters
        return PACES.of(self.score, (start, end), lambda: paces_of(self.score, start, end))

    def bar_start(self, measure: Measure) -> Quarters:
        return measure.start_quarters - self.measures[0].start_quarters

    def place(self, expected: Expected) -> Place:
        measure = self.score.measures[expected.measure_index]
        return Place(measure.number, expected.offset_quarters, measure.pass_number)


#: The play-along's clock, by the bar it begins at and its tempo.
CLOCKS: Kept[Score, tuple[int, Bpm], Clock] = Kept()

#: Written paces, by where a passage begins and ends.
PACES: Kept[Score, tuple[Quarters, Quarters], Paces] = Kept()


def lap_task(
    score: Score,
    *,
    assigned_bpm: Bpm,
    measures: tuple[Measure, ...] | None = None,
    hands: tuple[Hand, ...] = HANDS,
    with_pitches: bool = False,
    with_claps: bool = False,
    cut: Cut | None = None,
) -> Task:
    """The written rhythm of one or both hands as strikes.

    Without pitches a chord is one strike of its hand; with pitches every note is one, and a key that
    both hands want at once is asked for once; a clap is asked for among them only ``with_claps``, for no keyboard
    hears it. ``cut``: only these of the passage, every time round.

    Raises:
        TakeError: nothing is struck in these bars by these hands.
    """
    chosen = score.measures if measures is None else measures
    start, end = chosen[0].start_quarters, chosen[-1].end_quarters
    expected: list[Expected] = []
    seen: set[tuple[Quarters, int | None]] = set()
    for hand in hands:
        line = hand_line(score, hand)
        notes = [
            n
            for n in score.notes
            if n.hand is hand
            and n.is_strike
            and start <= n.onset_quarters < end
            and (with_claps or not (with_pitches and n.is_clap))
        ]
        for note in notes:
            pitch = None if not with_pitches else CLAP_KEY if note.is_clap else note.pitch
            key = (note.onset_quarters, pitch if with_pitches else HANDS.index(hand))
            if key in seen:
                continue
            seen.add(key)
            measure = score.measures[note.measure_index]
            expected.append(
                Expected(
                    note.onset_quarters - start,
                    measure.index,
                    note.onset_quarters - measure.start_quarters,
                    hand,
                    pitch,
                    line.until_next.get(to_ticks(note.onset_quarters, line.per_quarter)),
                )
            )
    if cut is not None:
        expected = _cut_out(expected, cut, chosen[0].index)
    if all(one.pitch == CLAP_KEY for one in expected):  # a rhythm like any other: told by when alone
        expected = [replace(one, pitch=None) for one in expected]
    return _task(score, chosen, expected, assigned_bpm)


def _cut_out(expected: list[Expected], cut: Cut, first_index: int) -> list[Expected]:
    """Those of a cut; what follows the last one of a hand is silence, for as long as one likes."""
    kept = [one for one in expected if cut.holds(one.measure_index - first_index, one.offset_quarters)]
    asked = {(one.hand, one.onset_quarters) for one in kept}
    return [
        one
        if one.until_next_quarters is None or (one.hand, one.onset_quarters + one.until_next_quarters) in asked
        else replace(one, until_next_quarters=None)
        for one in kept
    ]


def count_task(score: Score, counts: LineCount, measures: tuple[Measure, ...], assigned_bpm: Bpm) -> Task:
    """Every said count of a passage as one strike, by either hand."""
    start = measures[0].start_quarters
    flat = [
        (measure.start_quarters - start + count.offset_quarters, measure.index, count.offset_quarters)
        for measure, bar in zip(measures, counts.bars, strict=True)
        for count in bar
        if count.say  # in a silence that is not said there is nothing to tap
    ]
    expected = [
        Expected(onset, index, offset, None, None, flat[i + 1][0] - onset if i + 1 < len(flat) else None)
        for i, (onset, index, offset) in enumerate(flat)
    ]
    return _task(score, measures, expected, assigned_bpm)


def _task(score: Score, measures: tuple[Measure, ...], expected: list[Expected], bpm: Bpm) -> Task:
    if not expected:
        raise TakeError(
            "nothing is struck in these bars by these hands.",
            where="measures",
            kept="Nothing was changed.",
            todo="Choose other bars or the other hand.",
        )
    ordered = sorted(expected, key=lambda e: (e.onset_quarters, HANDS.index(e.hand) if e.hand else 0, e.pitch or 0))
    kept = keeper()
    asked = tuple(
        replace(
            one,
            onset_quarters=kept(one.onset_quarters),
            until_next_quarters=None if one.until_next_quarters is None else kept(one.until_next_quarters),
        )
        for one in ordered
    )
    return Task(score, measures, asked, bpm, measures[0].meter.beat_quarters)
