"""Findings of tempo: off the one that was asked for, moving from bar to bar, or stopping.

Source: docs/trade.md 4.2 (common practice).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from fractions import Fraction

from laptick.core.base.kept import Kept
from laptick.core.base.statistics import robust_sd, sd, weighted_median
from laptick.core.base.units import Quarters
from laptick.core.effects.pooling import NULL
from laptick.core.judging.finding import Finding, FindingCode, Judging, how_sure
from laptick.core.measuring.measured import Hesitation, Measured, drift_line
from laptick.core.rhythm.phrases import find_phrases
from laptick.core.score.score import Place, Score
from laptick.core.takes.task import Task


def drift(judging: Judging) -> Iterator[Finding]:
    """The tempo moved from the first bar to the last, or stepped at a bar."""
    moved, limits, task = judging.asked.moved, judging.limits, judging.task
    if moved is None or moved.change is None:
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


#: By how many SDs of a gap a stop must be clear of a faultless gap.
STOP_MARGIN = 2.5


def hesitations(judging: Judging, waited_at: set[float]) -> Iterator[Finding]:
    """Every stop of the beat, but for those that belong to a phrase, or to runs that hurry and wait (``waited_at``)."""
    measured, limits, task = judging.measured, judging.limits, judging.task
    if not measured.hesitations:
        return
    spread_ms = gap_spread_ms(measured)
    for stop in measured.hesitations:
        if _broadens(judging, stop) or float(stop.expected.onset_quarters) in waited_at:
            continue
        beat_ms = 1000 * float(task.beat_quarters) * measured.fit.quarter_s_at(float(stop.before.onset_quarters))
        limit = limits.hesitation_ms(beat_ms)
        if stop.excess_ms > limit and stop.excess_ms - NULL * limit > STOP_MARGIN * spread_ms:
            yield Finding(
                FindingCode.HESITATION,
                task.place(stop.expected),
                stop.excess_ms,
                limit,
                "ms",
                how_sure(stop.excess_ms, limit, spread_ms),
            )


#: Where the last beats of a phrase are played this much broader, a break among or after them belongs to it.
BROADER, BROADER_BEATS = 1.12, 2


def _broadens(judging: Judging, stop: Hesitation) -> bool:
    """Does a stop belong to a phrase that is played to its end more and more broadly? Who halts is sudden: before the
    stop the beat was as ever, and after it is again. A stop before the next phrase belongs to it when the last beats
    before were broad; one inside the last beats, when what follows up to the next phrase is."""
    measured, task = judging.measured, judging.task
    origin, beat = float(task.measures[0].start_quarters), float(task.beat_quarters)
    onset, reach = float(stop.expected.onset_quarters), BROADER_BEATS * beat
    following = min((float(at) - origin for at in _phrase_starts(task) if float(at) - origin >= onset), default=None)
    if following is None:
        following = float(task.length_quarters)
    if following - onset > reach:
        return False
    low, high = (onset - reach, onset) if following == onset else (onset, following)
    events = measured.fit.events
    gaps = [
        (before, here)
        for before, here in itertools.pairwise(events)
        if low - 1e-9 <= before.onset_quarters
        and here.onset_quarters <= high + 1e-9
        and here.segment == before.segment
        and not (following == onset and here.onset_quarters > onset - 1e-9)
    ]
    quarters = sum(here.onset_quarters - before.onset_quarters for before, here in gaps)
    if quarters < beat / 2:
        return False
    pace = sum(here.played_s - before.played_s for before, here in gaps) / quarters
    return pace > BROADER * measured.fit.quarter_s_at(onset - reach)


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


def _faster_by_itself(judging: Judging, rushed: tuple[Quarters, bool]) -> bool:
    """Is the playing faster than asked for apart from what is rushed? Who rushes is early everywhere after."""
    measured, limits, task = judging.measured, judging.limits, judging.task
    short, long = rushed
    if not short and not long:
        return True
    stops = {stop.index for stop in measured.fit.stops}
    rates = [
        ((here.played_s - before.played_s) / (here.onset_quarters - before.onset_quarters), length)
        for index, (before, here) in enumerate(itertools.pairwise(measured.fit.events), start=1)
        if index not in stops
        and here.segment == before.segment
        and (length := here.onset_quarters - before.onset_quarters) > float(short)
        and not (long and length >= float(task.beat_quarters))
    ]
    if sum(length for _, length in rates) < LEFT_BEATS * float(task.beat_quarters):
        return False
    off = task.quarter_s / weighted_median(rates) - 1
    off_error = 1.2533 * robust_sd([task.quarter_s / rate for rate, _ in rates]) / math.sqrt(len(rates))
    return judging.clears(off, off_error, limits.tempo_share)


def began_as_asked(judging: Judging) -> bool:
    """Was the first bar at its tempo? Then being off it later is the drift."""
    measured, limits, task = judging.measured, judging.limits, judging.task
    _, start_bpm, _ = drift_line(measured.bar_tempos)
    return abs(start_bpm / task.assigned_bpm - 1) <= limits.tempo_share


#: With fewer beats left apart from what is rushed the tempo is not told.
LEFT_BEATS = 4


#: Phrases broaden: so far past its limit a tempo must be to be too slow, or too fast.
TOO_SLOW, TOO_FAST = 1.35, 1.15


def off_tempo(judging: Judging, rushed: tuple[Quarters, bool]) -> Iterator[Finding]:
    """Another tempo than was asked for, whichever way it is taken: over bars, over strikes, and apart from phrases."""
    measured, limits, task, moved = judging.measured, judging.limits, judging.task, judging.asked.moved
    rates = [
        ((here.played_s - before.played_s) / (here.onset_quarters - before.onset_quarters), gap)
        for before, here in itertools.pairwise(measured.fit.events)
        if here.segment == before.segment and (gap := here.onset_quarters - before.onset_quarters) > 0
    ]
    off = measured.median_bpm / task.assigned_bpm - 1
    ways = [off, task.quarter_s / weighted_median(rates) - 1 if rates else off]
    if moved is not None:
        ways.append((off + 1) / moved.pace - 1)
    least = min(ways, key=abs)
    if any(way * off <= 0 for way in ways) or (off > 0 and not _faster_by_itself(judging, rushed)):
        return
    limit = limits.tempo_share
    if abs(least) > limit * (TOO_FAST if off > 0 else TOO_SLOW):
        bpms = [tempo.bpm for tempo in measured.bar_tempos]
        off_error = 1.2533 * sd(bpms) / math.sqrt(len(bpms)) / task.assigned_bpm
        place = task.place(task.expected[0])
        sure = how_sure(abs(off), limit, off_error)
        yield Finding(FindingCode.OFF_TEMPO, place, abs(off), limit, "share", sure, positive=off > 0)
