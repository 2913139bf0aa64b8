"""When the beats of a take fell on the student's own beat, for a click that is heard beside what was played.

Between strikes whose place on that beat is known, beats lie in proportion to the score; before the first and after the
last of them there are none. Source: ours.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from laptick.core.base.units import Seconds
from laptick.core.score.meter import meter_of
from laptick.core.score.score import Score


@dataclass(frozen=True, slots=True)
class BeatTime:
    """``begins_bar``: it is the first of its bar."""

    at_s: Seconds
    begins_bar: bool


def beat_times(score: Score, fitted: Iterable[tuple[float, Seconds]]) -> tuple[BeatTime, ...]:
    """``fitted``: (quarters from the start of the score, when that is on the student's own beat) of strikes; of several
    at one place the last counts."""
    known = sorted(dict(fitted).items())
    if len(known) < 2:
        return ()
    quarters, times = (np.array(one) for one in zip(*known, strict=True))
    beats: list[BeatTime] = []
    for measure in score.measures:
        meter = meter_of(measure.signature, measure.beam_grouping)
        for beat in meter.beats:
            offset = beat.start_quarters - measure.lead_quarters
            at = float(measure.start_quarters + offset)
            if not 0 <= offset < measure.length_quarters or not quarters[0] <= at <= quarters[-1]:
                continue
            at_s = float(np.interp(at, quarters, times))
            if at_s >= 0 and (not beats or at_s > beats[-1].at_s):
                beats.append(BeatTime(at_s, beat.start_quarters == 0))
    return tuple(beats)
