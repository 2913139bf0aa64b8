"""Findings of figures: equal notes rushed, limping or uneven, dotted pairs and triplets that turn into others.

The rule is that of ``findings.py``; ``error`` is what one figure's interval may leave out.
"""

from __future__ import annotations

import itertools
import math
from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from statistics import median

from laptick.core.base.statistics import mean, mean_and_error, robust_sd, sd, sd_lower, weighted_median
from laptick.core.base.units import Quarters, Seconds
from laptick.core.judging.finding import Finding, FindingCode, Judging, how_sure
from laptick.core.measuring.evenness import Figure, Run, late_against_others, run_pace
from laptick.core.measuring.limits import JUDGED_INTERVALS, ORDINARY_SHARE
from laptick.core.measuring.measured import Measured
from laptick.core.measuring.ratios import Parts, RatioFigure, centred
from laptick.core.score.score import Hand

#: Neighbouring intervals share a strike, so n of them tell about as much as this share of n.
EFFECTIVE_SHARE = 0.7

#: Runs shorter than a beat are measured against the tempo of what surrounds them within this many beats.
REFERENCE_BEATS = 10


def tempo_around(
    figures: Sequence[Figure], interval_quarters: Quarters, measured: Measured, beat_quarters: Quarters
) -> Callable[[Run], Seconds]:
    """Seconds per quarter of what is played round a run of this interval, runs of the same or shorter intervals left
    out; the fitted beat where too little else is played."""
    spans = _united(
        (float(run.strikes[0].onset_quarters), float(run.strikes[-1].onset_quarters))
        for figure in figures
        if figure.interval_quarters <= interval_quarters
        for run in figure.runs
    )
    stops = {stop.index for stop in measured.fit.stops}
    #: (middle, seconds per quarter, quarters) of the gaps outside runs, stops and restarts.
    gaps: list[tuple[float, float, float]] = []
    for i, (before, here) in enumerate(itertools.pairwise(measured.fit.events), start=1):
        if i in stops or here.segment != before.segment:
            continue
        start, end = before.onset_quarters, here.onset_quarters
        over = bisect_right(spans, start, key=lambda span: span[1])
        if over == len(spans) or spans[over][0] >= end:
            gaps.append(((start + end) / 2, (here.played_s - before.played_s) / (end - start), end - start))
    gaps.sort()
    reach = REFERENCE_BEATS * float(beat_quarters)

    def around(run: Run) -> Seconds:
        middle = float(run.strikes[0].onset_quarters + run.strikes[-1].onset_quarters) / 2
        near = gaps[bisect_left(gaps, (middle - reach,)) : bisect_right(gaps, (middle + reach, math.inf))]
        if len(near) < 3 or sum(length for _, _, length in near) < 2 * float(beat_quarters):
            return measured.fit.quarter_s_at(middle)
        return weighted_median((rate, length) for _, rate, length in near)

    return around


def _united(spans: Iterable[tuple[float, float]]) -> list[tuple[float, float]]:
    """The same stretches with those that meet made one, in order."""
    united: list[tuple[float, float]] = []
    for low, high in sorted(spans):
        if united and low <= united[-1][1]:
            low, high = united[-1][0], max(high, united.pop()[1])
        united.append((low, high))
    return united


def figure_findings(judging: Judging, figure: Figure) -> Iterator[Finding]:
    """Equal notes of one hand and length: rushed, limping, or else uneven."""
    if figure.intervals < JUDGED_INTERVALS:
        return
    evenness = judging.limits.evenness(1000 * figure.interval_s)
    equal = _Equal(
        judging,
        figure,
        limit=evenness + 1.414 * judging.uncertainty_s / figure.interval_s,
        spread=figure.pooled_cv(without_pairs=True),
    )
    named = []
    if figure.interval_quarters < judging.task.beat_quarters:
        named = [*equal.rushed(), *equal.limping()]
    yield from named or equal.uneven()


@dataclass(frozen=True)
class _Equal:
    """Equal notes under judgement: their ``limit`` and how much they ``spread``, both shares of the interval."""

    judging: Judging
    figure: Figure
    limit: float
    spread: float

    def rushed(self) -> Iterator[Finding]:
        """The runs go faster than what is played around them."""
        figure, judging = self.figure, self.judging
        around = tempo_around(judging.figures, figure.interval_quarters, judging.measured, judging.task.beat_quarters)
        paces = [run_pace(run, around(run)) for run in figure.runs]
        weights = [len(run.ratios) for run in figure.runs]
        pace = sum(p * w for p, w in zip(paces, weights, strict=True)) / sum(weights)
        # One run's pace hangs on its two ends and on the reference tempo.
        expected_error = math.sqrt(len(weights)) * self.spread / sum(weights)
        seen_error = sd(paces) / math.sqrt(len(paces)) if len(paces) >= 3 else 0.0
        worst = min(zip(paces, figure.runs, strict=True), key=lambda item: item[0])[1]
        yield from self._found(FindingCode.RUSHED_RUN, worst, 1 - pace, max(expected_error, seen_error, 0.004))

    def limping(self) -> Iterator[Finding]:
        """Pairs go long-short, or short-long."""
        figure, limp, pairs = self.figure, self.figure.limp(), self.figure.pairs()
        if pairs < JUDGED_INTERVALS // 2:
            return
        limp_error = max(0.004, self.spread / math.sqrt(2 * max(1, pairs) * EFFECTIVE_SHARE))
        worst = max(figure.runs, key=lambda run: abs(Figure(run.hand, run.interval_quarters, [run]).limp()))
        for found in self._found(FindingCode.LIMPING, worst, abs(limp), limp_error):
            yield replace(found, positive=limp > 0)

    def uneven(self) -> Iterator[Finding]:
        """They spread more than they may, in whatever way."""
        freedom = self.figure.freedom * EFFECTIVE_SHARE
        if freedom < 3 or sd_lower(self.spread, freedom, self.judging.error) <= self.limit:
            return
        worst = max(self.figure.runs, key=lambda run: run.cv)
        onset = worst.strikes[widest_gap(worst)].onset_quarters
        yield self._finding(FindingCode.UNEVEN, onset, self.spread, self.spread / math.sqrt(2 * freedom))

    def _found(self, code: FindingCode, worst: Run, amount: float, amount_error: float) -> Iterator[Finding]:
        if self.judging.clears(amount, amount_error, self.limit):
            yield self._finding(code, worst.strikes[0].onset_quarters, amount, amount_error)

    def _finding(self, code: FindingCode, onset: Quarters, amount: float, amount_error: float) -> Finding:
        return Finding(
            code,
            self.judging.place_of(onset),
            amount,
            self.limit,
            "share",
            how_sure(amount, self.limit, amount_error),
            hand=self.figure.hand,
            interval_quarters=self.figure.interval_quarters,
        )


#: Written figure → (the finding when it turns into another one, the others it is known to turn into).
BENT: dict[Parts, tuple[FindingCode, tuple[Parts, ...]]] = {
    (3, 1): (FindingCode.DOT_FLATTENED, ((2, 1),)),
    (1, 1, 1): (FindingCode.TRIPLET_BENT, ((2, 1, 1), (1, 1, 2))),
    (2, 1): (FindingCode.DUPLET, ((1, 1),)),
}

BENT_CODES = frozenset(code for code, _ in BENT.values())

#: Beyond the middle of the way to another figure it is heard as that one …
HALF_WAY = 0.5

#: … but not this far beyond it: there it is no figure any more. A dotted pair may go on to two equal notes (3.0).
TOO_FAR: dict[Parts, float] = {(3, 1): 3.5, (1, 1, 1): 2.0, (2, 1): 1.75}

#: A dotted pair that has gone this far is nearer to two equal notes than to two of a triplet.
NEARLY_EQUAL = 2.0

#: With fewer repeats than this the median of distances can be small by chance.
FEW_REPEATS = 6


def ratio_findings(judging: Judging, figure: RatioFigure) -> Iterator[Finding]:
    """A figure that reads as another one, pooled over its repeats. ``amount`` is the share of the way there."""
    limits = judging.limits
    if figure.written not in BENT or figure.intervals < JUDGED_INTERVALS:
        return
    code, others = BENT[figure.written]
    ways = {other: figure.way_to(other) for other in others}
    other = max(ways, key=lambda one: median(ways[one]))
    way, count = median(ways[other]), len(ways[other])
    part_s = max(0.001, median(min(ratio.seconds) for ratio in figure.ratios))
    # What one repeat varies by in a player at the limit, and what the source adds, on the scale of the way.
    step = math.dist(centred(figure.written), centred(other))
    own = limits.evenness(1000 * part_s) * ORDINARY_SHARE / step
    source = 1.414 * judging.uncertainty_s / part_s / step
    spread = max(1.2533 * robust_sd(ways[other]), sd(ways[other]) if count < FEW_REPEATS else 0.0, own)
    way_error = math.hypot(spread, source) / math.sqrt(count)
    if way <= TOO_FAR[figure.written] and judging.clears(way, way_error, HALF_WAY):
        worst = max(zip(ways[other], figure.ratios, strict=True), key=lambda pair: pair[0])[1]
        yield Finding(
            code,
            judging.place_of(worst.onset_quarters),
            way,
            HALF_WAY,
            "share",
            how_sure(way, HALF_WAY, way_error),
            hand=figure.hand,
            interval_quarters=figure.length_quarters / sum(figure.written),
            reads_as=(1, 1) if figure.written == (3, 1) and way > NEARLY_EQUAL else other,
        )


def widest_gap(run: Run) -> int:
    """Which interval is furthest from its run's mean."""
    middle = mean(run.ratios)
    return max(range(len(run.ratios)), key=lambda i: abs(run.ratios[i] - middle))


def compensated(judging: Judging, figure: Figure) -> Iterator[Finding]:
    """Runs that begin late and hurry: the first note late beyond the limit, less and less so note by note, the landing
    on time, over the repeats of the figure. (Not a negative lag-1 correlation, which any steady player shows.) Rushing
    looks alike against a beat that it has pulled along, but its first notes are not late after what was played before
    them."""
    measured, limits, task = judging.measured, judging.limits, judging.task
    runs = [run for run in figure.runs if len(run.ratios) >= LEAST_OF_COMPENSATED]
    if figure.intervals < JUDGED_INTERVALS or len(runs) < 2 or figure.interval_quarters >= task.beat_quarters:
        return
    beat_ms = judging.beat_ms
    limit = limits.spread_ms(beat_ms) + 1000 * judging.uncertainty_s
    inside = {(strike.hand, strike.onset_quarters) for run in figure.runs for strike in run.strikes[:-1]}
    late_s = late_against_others(measured.lines, lambda strike: (strike.hand, strike.onset_quarters) in inside)
    late = [[1000 * late_s(strike) for strike in run.strikes] for run in runs]
    first, landing = [one[0] for one in late], [one[-1] for one in late]
    inner = [[one[1 + round(share * (len(one) - 3))] for share in (0.0, 1.0)] for one in late]
    amount, first_error = mean_and_error(first, ORDINARY_SHARE * limits.spread_ms(beat_ms))
    steps = [amount, *(median(values) for values in zip(*inner, strict=True)), median(landing)]
    shrinking = all(b <= a + first_error / 2 for a, b in itertools.pairwise(steps))
    on_time = abs(median(landing)) < amount / 3
    if not (shrinking and on_time and judging.clears(amount, first_error, limit)):
        return
    around = tempo_around(judging.figures, figure.interval_quarters, measured, task.beat_quarters)
    waited = list(_waited_before(judging, runs, inside, around))
    # Where too little is played before the runs to tell the two apart, neither is said: false blame weighs more.
    if len(waited) >= 2 and 1000 * median(waited) > amount / 2:
        worst = max(zip(first, runs, strict=True), key=lambda one: one[0])[1]
        yield Finding(
            FindingCode.LATE_THEN_COMPENSATED,
            judging.place_of(worst.strikes[0].onset_quarters),
            amount,
            limit,
            "ms",
            how_sure(amount, limit, first_error),
            hand=figure.hand,
            interval_quarters=figure.interval_quarters,
        )


#: What was played longer before a run than this tells nothing of when it should begin.
WAITED_BEATS = 2


def _waited_before(
    judging: Judging, runs: list[Run], inside: set[tuple[Hand | None, Quarters]], around: Callable[[Run], Seconds]
) -> Iterator[Seconds]:
    """How much later than written each run begins after the last strike before it that is in no run, or with it in the
    other hand."""
    measured, task = judging.measured, judging.task
    others = sorted(
        (float(strike.onset_quarters), strike.played_s)
        for line in measured.lines
        for strike in line
        if (strike.hand, strike.onset_quarters) not in inside
    )
    for run in runs:
        onset = float(run.strikes[0].onset_quarters)
        at = bisect_right(others, (onset, math.inf)) - 1
        if at >= 0 and onset - others[at][0] <= WAITED_BEATS * float(task.beat_quarters):
            yield run.strikes[0].played_s - others[at][1] - (onset - others[at][0]) * around(run)


#: A run with fewer intervals than this has no notes to make lateness up in.
LEAST_OF_COMPENSATED = 3
