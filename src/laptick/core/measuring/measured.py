"""What measuring a take gives: notes, stops, the tempo of each bar, and all of it together.

Times in seconds, deviations in ms (+ late), tempos in beats a minute of the beat that is named.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from laptick.core.base.statistics import mean
from laptick.core.base.units import Bpm, Quarters, Seconds
from laptick.core.following.matching import Matching
from laptick.core.following.own_beat import BeatFit
from laptick.core.measuring.evenness import Asynchrony, HandStrike, Run
from laptick.core.measuring.long_notes import LongGap, LongNote
from laptick.core.measuring.played_bends import NO_BENDS, Bends, MeasuredBend
from laptick.core.measuring.ratios import Ratio
from laptick.core.measuring.rest_entries import RestEntry
from laptick.core.measuring.touch import Touch
from laptick.core.takes.performance import Performance
from laptick.core.takes.task import Expected, Task


@dataclass(frozen=True, slots=True)
class MeasuredNote:
    """One matched strike. ``deviation_ms`` from the student's own beat, ``click_deviation_ms`` from the
    click where both share a clock; + is late. ``is_apart``: is its time its own, not that of the other hand?"""

    expected: Expected
    played_s: Seconds
    expected_s: Seconds
    click_deviation_ms: float | None
    uncertainty_ms: float
    is_apart: bool = True

    @property
    def deviation_ms(self) -> float:
        return 1000 * (self.played_s - self.expected_s)


@dataclass(frozen=True, slots=True)
class Hesitation:
    """A gap longer than written, before the strike ``expected``."""

    expected: Expected
    before: Expected
    excess_ms: float
    excess_beats: float
    causes: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class BarTempo:
    """The tempo of a bar: as it was played, and how many times as fast as the first one it is written to go."""

    measure_index: int
    pass_number: int
    bpm: Bpm
    written_pace: float = 1.0

    @property
    def opening_bpm(self) -> Bpm:
        """The opening tempo that it comes to."""
        return self.bpm / self.written_pace


@dataclass(frozen=True)
class Measured:
    """Everything measured of a followed take.

    ``typical_gap_sd_s``: the spread of the student's own intervals round the beat, for judging one gap;
    ``written_bends``: where the score bends or suspends the beat.
    """

    notes: tuple[MeasuredNote, ...]
    fit: BeatFit
    median_bpm: Bpm
    drift: float
    bar_tempos: tuple[BarTempo, ...]
    runs: tuple[Run, ...]
    asynchronies: tuple[Asynchrony, ...]
    hesitations: tuple[Hesitation, ...]
    gaps: int
    lines: tuple[tuple[HandStrike, ...], ...]
    ratios: tuple[Ratio, ...] = ()
    entries: tuple[RestEntry, ...] = ()
    long_notes: tuple[LongNote, ...] = ()
    long_gaps: tuple[LongGap, ...] = ()
    bends: tuple[MeasuredBend, ...] = ()
    touch: Touch | None = None
    written_bends: Bends = NO_BENDS


@dataclass(frozen=True)
class CheckedTake:
    task: Task
    performance: Performance
    matching: Matching
    measured: Measured | None
    lost_at: Quarters | None

    @property
    def followed(self) -> bool:
        return self.measured is not None

    @property
    def lost_s(self) -> Seconds | None:
        """When the place was lost: with the first strike at it or after it that was taken for a written one; where
        there is none, with the last before it, or the first of all."""
        if self.lost_at is None or not self.performance.strikes:
            return None
        played_s = {
            match.strike_index: self.performance.strikes[match.strike_index].played_s for match in self.matching.matches
        }
        after = [
            played_s[match.strike_index]
            for match in self.matching.matches
            if self.task.expected[match.expected_index].onset_quarters >= self.lost_at
        ]
        if after:
            return min(after)
        return max(played_s.values(), default=self.performance.strikes[0].played_s)


def drift_line(tempos: Sequence[BarTempo]) -> tuple[float, float, int]:
    """(bpm per bar, bpm in the first bar, number of bars) of the least-squares line through bar tempos, each as the
    opening tempo that it comes to."""
    count = len(tempos)
    if count < 2:
        return 0.0, tempos[0].opening_bpm if tempos else 0.0, count
    middle, level = (count - 1) / 2, mean([tempo.opening_bpm for tempo in tempos])
    spread = sum((i - middle) ** 2 for i in range(count))
    slope = sum((i - middle) * (tempo.opening_bpm - level) for i, tempo in enumerate(tempos)) / spread
    return slope, level - slope * middle, count
