"""The schedule: when everything of a play-along sounds.

One schedule for the browser, and later for sound files: count-in words, clicks with metrical accents,
the written rhythm of either hand as knocks, and where the cursor is. Times are seconds from the start
of the count-in; whoever plays it computes nothing.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction

from laptick.core.choices import CountChoices
from laptick.core.countin import count_in
from laptick.core.counting import count_line
from laptick.core.counts import LineCount
from laptick.core.line import hand_line
from laptick.core.score import HANDS, Hand, Measure, Score
from laptick.core.units import Bpm, Quarters, Seconds, seconds_per_quarter

#: Loudness of a click by its metrical standing (0 to 1).
ACCENTS: dict[str, float] = {"bar": 1.0, "beat": 0.6, "division": 0.28}

#: A take is over when nothing is struck for the longest written gap (at a slower pace) and some beats.
SILENCE_LEAST_S, SILENCE_BEATS, SILENCE_SLACK = 2.0, 2, 1.3


@dataclass(frozen=True, slots=True)
class Click:
    """``accent``: bar, beat or division; ``say`` is the word spoken there."""

    at_s: Seconds
    accent: str
    say: str
    is_count_in: bool


@dataclass(frozen=True, slots=True)
class Knock:
    """A written strike sounded."""

    at_s: Seconds
    hand: Hand


@dataclass(frozen=True, slots=True)
class CursorPoint:
    """The cursor moves evenly between points; ``onset_quarters`` from the start of the written piece."""

    at_s: Seconds
    onset_quarters: Quarters


@dataclass(frozen=True)
class Schedule:
    """``first_beat_s``: when the first written instant of the passage falls, after the count-in.
    ``silence_s``: a longer silence than this means that a take is over."""

    bpm: Bpm
    beat_quarters: Quarters
    first_beat_s: Seconds
    end_s: Seconds
    silence_s: Seconds
    clicks: tuple[Click, ...]
    knocks: tuple[Knock, ...]
    cursor: tuple[CursorPoint, ...]


def make_schedule(
    score: Score,
    *,
    bpm: Bpm,
    measures: tuple[Measure, ...] | None = None,
    hands: Sequence[Hand] = HANDS,
    choices: CountChoices | None = None,
    click_counts: bool = False,
) -> Schedule:
    """The schedule of a passage. ``bpm`` counts the first bar's beat and holds for the whole passage.

    ``click_counts``: click every said count instead of every counted beat.
    """
    chosen = score.measures if measures is None else measures
    beat_quarters = chosen[0].meter.beat_quarters
    quarter_s = seconds_per_quarter(bpm, beat_quarters)
    counts = count_line(score, None, choices, measures=chosen, bpm=bpm)
    words = count_in(counts, bpm)
    first_beat_s = max((-float(word.offset_quarters) * quarter_s for word in words), default=0.0)
    origin = chosen[0].start_quarters
    end = chosen[-1].end_quarters

    def at(onset: Quarters) -> Seconds:
        return first_beat_s + float(onset - origin) * quarter_s

    clicks = [
        Click(
            first_beat_s + float(word.offset_quarters) * quarter_s,
            _accent(chosen[0], chosen[0].lead_quarters + word.offset_quarters, word.is_beat),
            word.say,
            True,
        )
        for word in words
    ]
    clicks += _clicks(chosen, counts, at, click_counts)
    knocks = [
        Knock(at(onset), hand) for hand in hands for onset in hand_line(score, hand).strikes if origin <= onset < end
    ]
    struck = sorted(
        {knock.at_s for knock in knocks} if not click_counts else {c.at_s for c in clicks if not c.is_count_in}
    )
    longest = max((b - a for a, b in zip([first_beat_s, *struck], struck, strict=False)), default=0.0)
    silence_s = max(SILENCE_LEAST_S, longest * SILENCE_SLACK + SILENCE_BEATS * float(beat_quarters) * quarter_s)
    return Schedule(
        bpm,
        beat_quarters,
        first_beat_s,
        at(end),
        silence_s,
        tuple(clicks),
        tuple(sorted(knocks, key=lambda k: k.at_s)),
        _cursor(chosen, at),
    )


def _cursor(measures: tuple[Measure, ...], at: Callable[[Quarters], Seconds]) -> tuple[CursorPoint, ...]:
    """The way over the written score: evenly through stretches that go on in it, a jump between them."""
    points: list[CursorPoint] = []
    for before, measure in zip((None, *measures), measures, strict=False):
        goes_on = before is not None and measure.written_start_quarters == _written_end(before)
        if not goes_on:
            if before is not None:
                points.append(CursorPoint(at(before.end_quarters), _written_end(before)))
            points.append(CursorPoint(at(measure.start_quarters), measure.written_start_quarters))
    points.append(CursorPoint(at(measures[-1].end_quarters), _written_end(measures[-1])))
    return tuple(points)


def _written_end(measure: Measure) -> Quarters:
    return measure.written_start_quarters + measure.length_quarters


def _accent(measure: Measure, position: Quarters, is_beat: bool) -> str:
    if position % measure.meter.bar_quarters == 0:
        return "bar"
    return "beat" if is_beat else "division"


def _clicks(
    measures: tuple[Measure, ...],
    counts: LineCount,
    at: Callable[[Quarters], Seconds],
    every_count: bool,
) -> list[Click]:
    clicks: list[Click] = []
    for measure, bar, by in zip(measures, counts.bars, counts.by, strict=True):
        felt = {beat.start_quarters for beat in by.beats.meter.beats}
        said = {beat.start for beat in by.beats.beats}
        words = {count.offset_quarters: count.say for count in bar}
        offsets = set(words) if every_count else set()
        offsets |= {p - measure.lead_quarters for p in said}
        for offset in sorted(o for o in offsets if Fraction(0) <= o < measure.length_quarters):
            position = offset + measure.lead_quarters
            accent = _accent(measure, position, position in felt)
            clicks.append(Click(at(measure.start_quarters + offset), accent, words.get(offset, ""), False))
    return clicks
