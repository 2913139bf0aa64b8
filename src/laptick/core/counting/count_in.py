"""Count-ins: what is said before the first strike.

Source: docs/trade.md 2.5 (common practice). Offsets are negative quarters before the start of the first
written bar (for a pickup: before the pickup itself).
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from laptick.core.base.units import Bpm, Quarters, quarters_to_seconds
from laptick.core.counting.choices import Compound
from laptick.core.counting.counted_beats import CountedBeat, bar_beats, has_units
from laptick.core.counting.counts import CountedBar, LineCount
from laptick.core.counting.word_tables import AND, READY_GO

#: A bar shorter than this is counted in twice.
SHORT_BAR_S = 1.5

#: Without any tempo a bar is taken to last long enough for one bar of count-in.
_UNKNOWN_TEMPO_BPM: Bpm = 60.0


@dataclass(frozen=True, slots=True)
class CountInWord:
    offset_quarters: Quarters
    say: str
    is_beat: bool


def count_in(counts: LineCount, bpm: Bpm | None) -> tuple[CountInWord, ...]:
    """The count-in before a passage.

    One bar; two when the bar lasts under 1.5 s or has one or two beats; before a pickup the rest of its
    bar, and a whole bar more when under two beats remain. ``counts`` are the composite counts of the
    passage (how its first bar is counted, and whether its halves are said); ``bpm`` counts the bar's
    beat of docs/trade.md 2.1.
    """
    first = counts.by[0]
    measure, meter = first.measure, first.beats.meter
    bar, tempo = meter.bar_quarters, bpm or _UNKNOWN_TEMPO_BPM
    beats, is_plain = _counted_in(first, bpm)
    origin = measure.lead_quarters
    if measure.is_pickup:
        starts = [(beat.start, beat.number) for beat in beats if beat.start < origin]
        # A beat broken off by the pickup is begun, so it is counted, but it does not "remain" whole.
        if sum(1 for beat in beats if beat.end <= origin) < 2:
            starts = [(beat.start - bar, beat.number) for beat in beats] + starts
    else:
        bars = 2 if len(beats) <= 2 or quarters_to_seconds(bar, tempo, meter.beat_quarters) < SHORT_BAR_S else 1
        starts = [(beat.start - bar * (bars - turn), beat.number) for turn in range(bars) for beat in beats]

    words = [number for _, number in starts]
    if not is_plain and len(words) >= 3:
        words[-2:] = READY_GO
    said = [CountInWord(start - origin, word, True) for (start, _), word in zip(starts, words, strict=True)]
    if not is_plain and not beats[0].is_compound and _says_halves(counts):
        half = beats[0].length / 2
        said += [CountInWord(word.offset_quarters + half, AND, False) for word in said]
        said.sort(key=lambda word: word.offset_quarters)
    return tuple(word for word in said if word.offset_quarters < 0)


def _counted_in(first: CountedBar, bpm: Bpm | None) -> tuple[tuple[CountedBeat, ...], bool]:
    """The beats counted in, and whether their numbers are said plainly: units are, and asymmetric
    meters are always counted in by their units."""
    beats = first.beats
    if not beats.meter.is_asymmetric or first.resolved.beat is not None:
        return beats.beats, beats.in_units and has_units(beats.meter)
    units = bar_beats(first.measure, replace(first.resolved, compound=Compound.UNITS), bpm)
    return units.beats, True


def _says_halves(counts: LineCount) -> bool:
    """Whether the first bar says the halves of its beats."""
    first = counts.by[0].plan
    return any(
        grid == (2,) or grid == (4,)
        for grid, beat in zip(first.grids, first.beats, strict=True)
        if not beat.is_compound
    )
