"""Findings of tempo: off the one that was asked for, or moving from bar to bar.

Source: docs/trade.md 4.2 (common practice).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from fractions import Fraction

from laptick.core.base.statistics import robust_sd, sd, weighted_median
from laptick.core.base.units import Quarters
from laptick.core.judging.finding import Finding, FindingCode, Judging, how_sure
from laptick.core.measuring.limits import JUDGED_BARS
from laptick.core.measuring.measured import drift_line
from laptick.core.score.score import Place

#: Fitted tempos of neighbouring bars are smoothed together: their line is this much less sure than its residuals say
#: (measured on simulated takes: drift planted against drift found).
SMOOTHED = 1.75


def drift(judging: Judging) -> Iterator[Finding]:
    measured, limits, task = judging.measured, judging.limits, judging.task
    tempos = measured.bar_tempos
    if len(tempos) < JUDGED_BARS:
        return
    slope, start, count = drift_line(tempos)
    residuals = [tempo.bpm - (start + slope * i) for i, tempo in enumerate(tempos)]
    bars_spread = math.sqrt(sum((i - (count - 1) / 2) ** 2 for i in range(count)))
    noise = math.sqrt(sum(r * r for r in residuals) / max(1, count - 2)) * SMOOTHED
    drift_error = noise / bars_spread * (count - 1) / start
    if judging.clears(abs(measured.drift), drift_error, limits.drift_share):
        middle = tempos[count // 2]
        place = Place(task.score.measures[middle.measure_index].number, Fraction(0), middle.pass_number)
        yield Finding(
            FindingCode.DRIFT,
            place,
            abs(measured.drift),
            limits.drift_share,
            "share",
            how_sure(abs(measured.drift), limits.drift_share, drift_error),
            positive=measured.drift > 0,
        )


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


def off_tempo(judging: Judging, rushed: tuple[Quarters, bool]) -> Iterator[Finding]:
    measured, limits, task = judging.measured, judging.limits, judging.task
    bpms = [tempo.bpm for tempo in measured.bar_tempos]
    off = measured.median_bpm / task.assigned_bpm - 1
    off_error = 1.2533 * sd(bpms) / math.sqrt(len(bpms)) / task.assigned_bpm
    if off > 0 and not _faster_by_itself(judging, rushed):
        return
    if judging.clears(abs(off), off_error, limits.tempo_share):
        place = task.place(task.expected[0])
        yield Finding(
            FindingCode.OFF_TEMPO,
            place,
            abs(off),
            limits.tempo_share,
            "share",
            how_sure(abs(off), limits.tempo_share, off_error),
            positive=off > 0,
        )
