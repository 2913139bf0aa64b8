"""What of a take deserves praise: not whatever goes unblamed, but what is well inside its limit and stands on enough.

Praise by equivalence: the upper end of the interval of a figure (one-sided, 95 %) must lie below a share of its limit.
Source: two one-sided tests (Schuirmann, J. Pharmacokinetics and Biopharmaceutics 15, 1987; from memory); the shares are
ours.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from laptick.core.base.statistics import robust_sd, sd
from laptick.core.base.units import Quarters
from laptick.core.judging.figure_findings import EFFECTIVE_SHARE
from laptick.core.judging.finding import Judging
from laptick.core.judging.findings import off_beat_share
from laptick.core.judging.tempo_findings import broadens
from laptick.core.measuring.evenness import Figure
from laptick.core.measuring.limits import JUDGED_INTERVALS, JUDGED_POINTS

#: Up to these shares of its limit a mean, and a spread, is praised.
PRAISED_MEAN, PRAISED_SPREAD = 0.8, 0.9
#: Of a normal: one-sided, 95 %.
UPPER = 1.645

#: Fewer intervals, and fewer instants, than this are not praised.
PRAISED_INTERVALS, PRAISED_POINTS = 16, JUDGED_POINTS

#: Strikes further from the student's own beat than this share of it, or than this share of their limit, earn no praise
#: for keeping it.
PRAISED_OFF_BEAT, PRAISED_PLAYER = 0.15, 0.9


@dataclass(frozen=True)
class Praise:
    """``even``: the shortest notes that are, ``None`` for none."""

    even: Quarters | None = None
    together: bool = False
    at_tempo: bool = False
    on_the_beat: bool = False


def praise_of(judging: Judging) -> Praise:
    """What is well inside its limits."""
    measured = judging.measured
    on_the_beat = off_beat_share(measured) <= PRAISED_OFF_BEAT and judging.asked.player <= PRAISED_PLAYER
    stops = [stop for stop in measured.hesitations if not broadens(judging, stop)]
    return Praise(_even(judging), _together(judging), _at_tempo(judging), not stops and on_the_beat)


def _even(judging: Judging) -> Quarters | None:
    """The shortest length of which all hands play evenly."""
    lengths: dict[Quarters, list[Figure]] = {}
    for figure in judging.figures:
        if figure.intervals >= JUDGED_INTERVALS:
            lengths.setdefault(figure.interval_quarters, []).append(figure)
    return min((length for length, figures in lengths.items() if _all_even(judging, figures)), default=None)


def _all_even(judging: Judging, figures: Sequence[Figure]) -> bool:
    return sum(figure.intervals for figure in figures) >= PRAISED_INTERVALS and all(
        _is_even(judging, figure) for figure in figures
    )


def _is_even(judging: Judging, figure: Figure) -> bool:
    limit = judging.limits.evenness(1000 * figure.interval_s) + 1.414 * judging.uncertainty_s / figure.interval_s
    spread, freedom = figure.robust_cv(), EFFECTIVE_SHARE * max(1, figure.freedom)
    lean_error = spread / math.sqrt(2 * EFFECTIVE_SHARE * max(1, figure.pairs()))
    return (
        spread * (1 + UPPER / math.sqrt(2 * freedom)) < PRAISED_SPREAD * limit
        and abs(figure.limp()) + UPPER * lean_error < PRAISED_MEAN * limit
    )


def _together(judging: Judging) -> bool:
    gaps = [abs(point.gap_ms) for point in judging.measured.asynchronies]
    if len(gaps) < PRAISED_POINTS:
        return False
    error = 1.2533 * max(robust_sd(gaps), 0.5 * sd(gaps)) / math.sqrt(len(gaps))
    return median(gaps) + UPPER * error < PRAISED_MEAN * judging.limits.hands_apart_ms + 1414 * judging.uncertainty_s


def _at_tempo(judging: Judging) -> bool:
    measured, task = judging.measured, judging.task
    bpms = [tempo.opening_bpm for tempo in measured.bar_tempos]
    error = 1.2533 * sd(bpms) / math.sqrt(len(bpms)) / task.assigned_bpm
    off = abs(measured.median_bpm / task.assigned_bpm - 1)
    return off + UPPER * error < PRAISED_MEAN * judging.limits.tempo_share
