"""Count-ins: what is said before the first strike.

Source: handbook 2.5 (common practice). Offsets are negative quarters before the start of the first
written bar (for a pickup: before the pickup itself).
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from laptick.core.counting import Compound, LineCount, counted_beats, resolve_compound
from laptick.core.score import Measure
from laptick.core.units import Bpm, Quarters, quarters_to_seconds
from laptick.core.words import AND, READY_GO

#: A bar shorter than this is counted in twice.
SHORT_BAR_S = 1.5

#: Without any tempo a bar is taken to last long enough for one bar of count-in.
_UNKNOWN_TEMPO_BPM: Bpm = 60.0


@dataclass(frozen=True, slots=True)
class CountInWord:
    offset_quarters: Quarters
    say: str
    is_beat: bool


def count_in(first: Measure, counts: LineCount, compound: Compound, bpm: Bpm | None) -> tuple[CountInWord, ...]:
    """The count-in before ``first``.

    One bar; two when the bar lasts under 1.5 s or has two beats; before a pickup the rest of its bar,
    and a whole bar more when under two beats remain. ``counts`` are the composite counts of the
    passage (their first bar decides whether the halves are said); ``bpm`` counts the bar's beat.
    """
    meter = first.meter
    resolved, _ = resolve_compound(compound, meter, bpm)
    beats = counted_beats(meter, resolved)
    bar = meter.bar_quarters
    tempo = bpm or _UNKNOWN_TEMPO_BPM
    in_units = (meter.is_compound or meter.is_asymmetric) and resolved is not Compound.BEATS
    plain = in_units or meter.is_asymmetric

    if first.is_pickup:
        starts = [(beat.start, beat.number) for beat in beats if beat.start < first.lead_quarters]
        # A beat broken off by the pickup is begun, so it is counted, but it does not "remain" whole.
        whole = sum(1 for beat in beats if beat.end <= first.lead_quarters)
        if whole < 2:
            starts = [(beat.start - bar, beat.number) for beat in beats] + starts
        origin = first.lead_quarters
    else:
        bars = 2 if len(beats) == 2 or quarters_to_seconds(bar, tempo, meter.beat_quarters) < SHORT_BAR_S else 1
        starts = [(beat.start - bar * (bars - turn), beat.number) for turn in range(bars) for beat in beats]
        origin = Fraction(0)

    words = [number for _, number in starts]
    if not plain and len(words) >= 3:
        words[-2:] = READY_GO
    said = [CountInWord(start - origin, word, True) for (start, _), word in zip(starts, words, strict=True)]
    if not plain and not meter.is_compound and _says_halves(counts):
        half = beats[0].length / 2
        halves = [CountInWord(word.offset_quarters + half, AND, False) for word in said]
        said = sorted([*said, *halves], key=lambda word: word.offset_quarters)
    return tuple(word for word in said if word.offset_quarters < 0)


def _says_halves(counts: LineCount) -> bool:
    return bool(counts.bars) and any(count.say == AND for count in counts.bars[0])
