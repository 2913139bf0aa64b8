"""Findings of tempo: off the one that was asked for, moving from bar to bar, or stopping.

Source: docs/trade.md 4.2 (common practice).
"""

from __future__ import annotations

import itertools
import math
from bisect import bisect_left
from collections.abc import Iterator, Mapping
from fractions import Fraction
from statistics import fmean, median

import numpy as np

from laptick.core.base.kept import Kept
from laptick.core.base.statistics import robust_sd, sd, weighted_median
from laptick.core.base.units import Quarters
from laptick.core.effects.beyond import wary_of_few
from laptick.core.effects.phrases import Shape
from laptick.core.effects.pooling import NULL
from laptick.core.judging.finding import Finding, FindingCode, Judging, how_sure
from laptick.core.measuring.measured import Hesitation, Measured, drift_line
from laptick.core.rhythm.phrases import find_phrases
from laptick.core.score.score import Place, Score
from laptick.core.takes.paces import Paces
from laptick.core.takes.task import Task


def drift(judging: Judging) -> Iterator[Finding]:
    """The tempo moved from the first bar to the last, or stepped at a bar."""
    moved, limits, task = judging.asked.moved, judging.limits, judging.task
    if moved is None or moved.change is None or moved.change.clear <= judging.wariness:
        return
    change, tempos = moved.change, judging.measured.bar_tempos
    middle = tempos[len(tempos) // 2]
    index, pass_number = middle.measure_index, middle.pass_number
    if change.bar is not None:
        bar = task.measures[change.bar]
        index, pass_number = bar.index, bar.pass_number
    yield Finding(
        FindingCode.DRIFT,
        Place(task.score.measures[index].number, Fraction(0), pass_number),
        abs(change.share),
        limits.drift_share,
        "share",
        how_sure(abs(change.share), limits.drift_share, change.error),
        positive=change.share > 0,
        is_step=change.bar is not None,
    )


#: By how many SDs of a gap a stop must be clear of a faultless gap; and of what a phrase may broaden in all that the
#: gap is longer than a beat, and a gap up to the last bar in all of it.
STOP_MARGIN, BREATHES_SHARE, ENDS_SHARE = 0.8, 0.06, 0.15

#: What is struck after a stop is late by it; so many strikes tell.
LASTS_STRIKES = 4

#: So many phrases tell how broad they end.
PHRASES = 3


def hesitations(judging: Judging, waited_at: Mapping[float, float]) -> Iterator[Finding]:
    """Every stop of the beat, but for those that belong to a phrase, or to runs that hurry and wait.

    ``waited_at``: where such runs wait, and for how many milliseconds at most."""
    measured, limits, task = judging.measured, judging.limits, judging.task
    if not measured.hesitations:
        return
    spread_ms = gap_spread_ms(measured)
    for stop in measured.hesitations:
        if broadens(judging, stop) or stop.excess_ms <= waited_at.get(float(stop.expected.onset_quarters), 0.0):
            continue
        beat_ms = 1000 * float(task.beat_quarters) * measured.fit.quarter_s_at(float(stop.before.onset_quarters))
        limit = limits.hesitation_ms(beat_ms)
        faultless_ms = NULL * limit + _breathes_ms(judging, stop, beat_ms)
        if _lasting_ms(judging, stop) < NULL * limit:
            continue
        if stop.excess_ms > limit and stop.excess_ms - faultless_ms > judging.strictness * STOP_MARGIN * spread_ms:
            yield Finding(
                FindingCode.HESITATION,
                task.place(stop.expected),
                stop.excess_ms,
                limit,
                "ms",
                how_sure(stop.excess_ms, limit, spread_ms),
            )


def _lasting_ms(judging: Judging, stop: Hesitation) -> float:
    """How late a stop leaves what follows it: one strike that is late by itself stops nothing."""
    fit = judging.measured.fit
    events, stops = fit.events, {one.index for one in fit.stops}
    index = bisect_left(events, float(stop.expected.onset_quarters) - 1e-9, key=lambda event: event.onset_quarters)
    later_s, running_s = [], 0.0
    for i in range(index + 1, min(len(events), index + 1 + LASTS_STRIKES)):
        before, here = events[i - 1], events[i]
        if i in stops or here.segment != before.segment:
            break
        due_s = (here.onset_quarters - before.onset_quarters) * fit.quarter_s_at(before.onset_quarters)
        running_s += here.played_s - before.played_s - due_s
        later_s.append(running_s)
    return stop.excess_ms + 1000 * min(0.0, median(later_s) if later_s else 0.0)


def _breathes_ms(judging: Judging, stop: Hesitation, beat_ms: float) -> float:
    """How much longer than written a gap may be by the phrases: by all of them a little, and as this take's go."""
    task = judging.task
    start, end = float(stop.before.onset_quarters), float(stop.expected.onset_quarters)
    beats = (end - start) / float(task.beat_quarters)
    share = BREATHES_SHARE * max(0.0, beats - 1)
    if end >= float(task.bar_start(task.measures[-1])):
        share = max(share, ENDS_SHARE * beats)
    return beat_ms * max(share, *(_shape_beats(judging, shape, start, end) for shape in judging.asked.phrases), 0.0)


def _shape_beats(judging: Judging, shape: Shape, start: float, end: float) -> float:
    """How many beats longer a gap is by a shape that it lies in, as the other phrases of that shape go."""
    measured, beat = judging.measured, float(judging.task.beat_quarters)
    inside = sum(max(0.0, min(end, high) - max(start, low)) for low, high in shape.spans)
    if not inside or len(shape.spans) < PHRASES:
        return 0.0
    onsets = [event.onset_quarters for event in measured.fit.events]
    times = [event.played_s for event in measured.fit.events]
    own_s, paces = 60 / measured.median_bpm / beat, judging.task.paces
    broader = [
        (np.interp(high, onsets, times) - np.interp(low, onsets, times)) / (paces.due_between(low, high) * own_s) - 1
        for low, high in shape.spans
        if high <= start or low >= end
    ]
    return max(0.0, median(map(float, broader))) * inside / beat if broader else 0.0


#: Where the last beats of a phrase are played this much broader, a break among or after them belongs to it.
BROADER, BROADER_BEATS = 1.12, 2

#: Breaks of up to so much of a beat at so many bar lines, always as many bars apart, are how phrases end.
BREATH_BEATS, BREATHS, PHRASE_BARS = 0.45, 3, (2, 3, 4, 8)


def broadens(judging: Judging, stop: Hesitation) -> bool:
    """Is it a slowing, and no stop? Who halts is sudden: before the stop the beat was as ever, and after it is again.
    A break belongs to a phrase when the last beats before the next one are broad, or what follows up to it is; to the
    end of all, when everything from there on is; and a short one when every phrase ends so."""
    task = judging.task
    origin, onset = float(task.measures[0].start_quarters), float(stop.expected.onset_quarters)
    beat, end = float(task.beat_quarters), float(task.length_quarters)
    reach = BROADER_BEATS * beat
    before = min(onset - reach, float(stop.before.onset_quarters) - beat)
    following = min((float(at) - origin for at in _phrase_starts(task) if float(at) - origin >= onset), default=end)
    if following == onset and _is_broad(judging, before, onset, stop):
        return True
    if onset < following <= onset + reach and _is_broad(judging, onset, following, stop):
        return True
    last_bar = float(task.bar_start(task.measures[-1]))
    to_the_end = _is_broad(judging, onset, end, stop) or _is_broad(judging, before, onset, stop)
    return (onset >= last_bar - reach and to_the_end) or _is_breath(judging, stop)


def _is_broad(judging: Judging, low: float, high: float, stop: Hesitation) -> bool:
    """Is what lies between two instants played broadly, the break itself left out?"""
    measured, beat = judging.measured, float(judging.task.beat_quarters)
    onset = float(stop.expected.onset_quarters)
    gaps = [
        (before, here)
        for before, here in itertools.pairwise(measured.fit.events)
        if low - 1e-9 <= before.onset_quarters
        and here.onset_quarters <= high + 1e-9
        and here.segment == before.segment
        and abs(here.onset_quarters - onset) > 1e-9
    ]
    quarters = sum(here.onset_quarters - before.onset_quarters for before, here in gaps)
    if quarters < beat / 2:
        return False
    due = sum(judging.task.paces.due_between(before.onset_quarters, here.onset_quarters) for before, here in gaps)
    pace = sum(here.played_s - before.played_s for before, here in gaps) / due
    return pace > BROADER * 60 / measured.median_bpm / beat


def _is_breath(judging: Judging, stop: Hesitation) -> bool:
    """A short break at a bar line, one of several that are always as many bars apart."""
    starts = {float(judging.task.bar_start(bar)): index for index, bar in enumerate(judging.task.measures)}
    bars = {
        starts[onset]
        for one in judging.measured.hesitations
        if one.excess_beats <= BREATH_BEATS and (onset := float(one.expected.onset_quarters)) in starts
    }
    bar = starts.get(float(stop.expected.onset_quarters))
    if bar not in bars:
        return False
    for apart in PHRASE_BARS:
        regular = set(range(bar % apart or apart, len(starts), apart))
        if len(regular) >= BREATHS and regular <= bars:
            return True
    return False


def _phrase_starts(task: Task) -> frozenset[Quarters]:
    def starts() -> frozenset[Quarters]:
        return frozenset(phrase.start_quarters for phrase in find_phrases(task.score).phrases)

    return PHRASE_STARTS.of(task.score, None, starts)


PHRASE_STARTS: Kept[Score, None, frozenset[Quarters]] = Kept()


def gap_spread_ms(measured: Measured) -> float:
    """How much one gap between events varies by itself: the robust spread of differences between
    neighbouring residuals."""
    residuals = [e.played_s - x for e, x in zip(measured.fit.events, measured.fit.expected_s, strict=True)]
    stops = {stop.index for stop in measured.fit.stops}
    steps = [b - a for i, (a, b) in enumerate(itertools.pairwise(residuals), 1) if i not in stops]
    return max(4.0, 1000 * robust_sd(steps))


def rushed_units(found: list[Finding]) -> tuple[Quarters, bool]:
    """The longest of the short notes that are rushed (0: none), and whether long ones are."""
    short = [f.interval_quarters for f in found if f.code == FindingCode.RUSHED_RUN and f.interval_quarters is not None]
    return max(short, default=Fraction(0)), any(f.code == FindingCode.LONG_RUSHED for f in found)


def began_as_asked(judging: Judging) -> bool:
    """Was the first bar at its tempo? Then being off it later is the drift."""
    measured, limits, task = judging.measured, judging.limits, judging.task
    _, start_bpm, _ = drift_line(measured.bar_tempos)
    return abs(start_bpm / task.assigned_bpm - 1) <= limits.tempo_share


#: Brief gaps, or long ones, tell of the tempo when they last so many beats together.
TOLD_BEATS = 4

#: Phrases broaden, and who rushes a little everywhere is faster by that: so far past its limit a tempo must be every
#: way, and so much further (over how many bars there are) where few bars tell one from the other; and so far at least
#: as it is shown, over bars.
OFF_TEMPO, FEW_BARS, AS_SHOWN = 1.18, 1.8, 1.05

#: Where each is beyond the limit, the gaps weigh so much beside the pace of the whole.
BY_GAPS = 0.7

#: By how many SDs what is not rushed must be too fast beside what is.
RUSHED_MARGIN = 2.0


def off_tempo(judging: Judging, rushed: tuple[Quarters, bool]) -> Iterator[Finding]:
    """Another tempo than was asked for, whichever way it is taken: over bars, apart from phrases, over the gaps
    shorter than a beat, and over the longer ones. What is rushed by itself tells nothing of it."""
    measured, limits, task, moved = judging.measured, judging.limits, judging.task, judging.asked.moved
    off = measured.median_bpm / task.assigned_bpm - 1
    short, long = rushed if off > 0 else (Fraction(0), False)
    gaps = _gaps(measured, task.paces)
    beat = float(task.beat_quarters)
    brief = [gap for gap in gaps if float(short) + 1e-9 < gap[1] < beat - 1e-9]
    held = [] if long else [gap for gap in gaps if gap[1] > max(float(short) + 1e-9, beat - 1e-9)]
    enough = [some for some in (brief, held) if _beats(some, beat) >= TOLD_BEATS]
    told = [task.quarter_s / weighted_median(some) - 1 for some in enough]
    if short or long:
        if not told:
            return
        # Who rushes drags what is round it along: the rest must be clear of that.
        told = [way - RUSHED_MARGIN * _error(some, task) for way, some in zip(told, enough, strict=True)]
    # None of these is sure by itself: runs and long notes are a little too fast or too slow in any take.
    ways = [off, *told] if short or long else [fmean([off, *told])]
    pace = None if moved is None else (off + 1) / moved.pace - 1
    if any(way * off <= 0 for way in (*ways, *([] if pace is None else [pace]))):
        return
    limit = limits.tempo_share
    enough_off = limit * (OFF_TEMPO * wary_of_few(task) + FEW_BARS / len(measured.bar_tempos))
    least = min(map(abs, ways))
    if pace is not None and (short or long or abs(pace) < limit or least < limit):
        least = min(least, abs(pace))
    elif pace is not None:
        least = BY_GAPS * least + (1 - BY_GAPS) * abs(pace)
    if abs(off) > AS_SHOWN * limit and least > enough_off:
        bpms = [tempo.opening_bpm for tempo in measured.bar_tempos]
        off_error = 1.2533 * sd(bpms) / math.sqrt(len(bpms)) / task.assigned_bpm
        place = task.place(task.expected[0])
        sure = how_sure(abs(off), limit, off_error)
        yield Finding(FindingCode.OFF_TEMPO, place, abs(off), limit, "share", sure, positive=off > 0)


def _gaps(measured: Measured, paces: Paces) -> list[tuple[float, float]]:
    """(seconds per quarter of the opening tempo, quarters) between neighbouring strikes, stops and restarts left
    out."""
    stops = {stop.index for stop in measured.fit.stops}
    return [
        ((here.played_s - before.played_s) / paces.due_between(before.onset_quarters, here.onset_quarters), length)
        for index, (before, here) in enumerate(itertools.pairwise(measured.fit.events), start=1)
        if index not in stops
        and here.segment == before.segment
        and (length := here.onset_quarters - before.onset_quarters) > 0
        and here.played_s > before.played_s
    ]


def _error(gaps: list[tuple[float, float]], task: Task) -> float:
    """Of the tempo that a median of gaps has, as a share of the one that was asked for."""
    return 1.2533 * robust_sd([task.quarter_s / rate for rate, _ in gaps]) / math.sqrt(len(gaps))


def _beats(gaps: list[tuple[float, float]], beat_quarters: float) -> float:
    return sum(length for _, length in gaps) / beat_quarters
