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

from laptick.core.base.statistics import mean, rms, weighted_median
from laptick.core.base.units import Quarters, Seconds
from laptick.core.effects.phrases import Shape
from laptick.core.effects.pooling import NULL, Answer, Margins, apart, ask, in_part
from laptick.core.judging.finding import Finding, FindingCode, Judging, how_sure
from laptick.core.measuring.evenness import Figure, HandStrike, Run
from laptick.core.measuring.limits import JUDGED_INTERVALS, ORDINARY_SHARE
from laptick.core.measuring.measured import Measured
from laptick.core.measuring.ratios import Parts, RatioFigure, centred

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


#: Of one run's lean: two runs may be part of them …
LIMPING = Margins(1, 0.15, whole=1.8, half=1.8, part=1.45, affected=2)
#: … that have so many pairs together: of two runs of a pair each both may lean by chance.
PAIRS_IN_PART = 4
#: With so many runs it may be some that limp; the others lean by less than this share of the limit (root mean square).
SEVERAL_RUNS, EVEN_ENOUGH = 5, 0.8
#: What few runs do not tell of their spread, what is known does, as so many degrees of freedom: once it is known how
#: steadily is played, so many times that; the limit at most.
PRIOR_FREEDOM, KNOWN_SPREAD = 6, 1.2
#: By how many SDs a spread must be clear of a faultless one.
UNEVEN_MARGIN = 2.6
#: … and so many where notes of all lengths together plainly are.
ALONG_MARGIN = 0.7
#: Of one repeat of a figure.
BENDING = Margins(3, 0.2, whole=0.85, half=0.95, part=0.8, affected=2)


def limping_findings(judging: Judging, figure: Figure) -> Iterator[Finding]:
    """Pairs of equal notes, of one hand and length, that go long-short or short-long."""
    if figure.intervals >= JUDGED_INTERVALS and figure.interval_quarters < judging.task.beat_quarters:
        yield from _equal(judging, figure).limping()


def uneven_findings(judging: Judging, figure: Figure, margin: float = UNEVEN_MARGIN) -> Iterator[Finding]:
    """Equal notes of one hand and length that spread more than they may."""
    if figure.intervals >= JUDGED_INTERVALS:
        yield from _equal(judging, figure).uneven(margin)


def uneven_together(judging: Judging, figures: Sequence[Figure]) -> Iterator[Finding]:
    """Notes of several lengths, each spreading too far, too few of any to be sure of: of all together one may be."""
    freedom = [figure.freedom * EFFECTIVE_SHARE for figure in figures]
    beyond = [figure.robust_cv() / limit_of(judging, figure) for figure in figures]
    spread = math.sqrt(math.fsum(n * x * x for n, x in zip(freedom, beyond, strict=True)) / max(1.0, sum(freedom)))
    if spread - NULL > UNEVEN_MARGIN * spread / math.sqrt(2 * max(1.0, sum(freedom))):
        for figure in figures:
            yield from uneven_findings(judging, figure, ALONG_MARGIN)


def limit_of(judging: Judging, figure: Figure) -> float:
    """How much equal notes may spread, as a share of their interval."""
    return judging.limits.evenness(1000 * figure.interval_s) + 1.414 * judging.uncertainty_s / figure.interval_s


def _equal(judging: Judging, figure: Figure) -> _Equal:
    return _Equal(judging, figure, limit=limit_of(judging, figure), spread=figure.robust_cv())


#: So many intervals at broad ends of phrases tell how broad these are.
LEAST_BROAD = 3


def without_phrases(figure: Figure, shapes: Sequence[Shape]) -> Figure:
    """The runs as they would be if the ends of phrases were no broader: that is music, and no unevenness."""
    middles = [_middles(run) for run in figure.runs] if shapes else []
    for shape in shapes:
        inside = [[any(low <= at < high for low, high in shape.spans) for at in own] for own in middles]
        flat = [
            (ratio, one)
            for run, ones in zip(figure.runs, inside, strict=True)
            for ratio, one in zip(run.ratios, ones, strict=True)
        ]
        broad, others = [r for r, one in flat if one], [r for r, one in flat if not one]
        if len(broad) < LEAST_BROAD or len(others) < LEAST_BROAD:
            continue
        factor = max(1.0, median(broad) / median(others))
        figure = Figure(
            figure.hand,
            figure.interval_quarters,
            [
                replace(run, ratios=tuple(r / factor if one else r for r, one in zip(run.ratios, ones, strict=True)))
                for run, ones in zip(figure.runs, inside, strict=True)
            ],
        )
    return figure


def _middles(run: Run) -> list[float]:
    """The middle of each of a run's intervals, in quarters."""
    onsets = [float(strike.onset_quarters) for strike in run.strikes]
    return [(before + here) / 2 for before, here in itertools.pairwise(onsets)]


def off_pairs(run: Run) -> list[HandStrike]:
    """The strikes inside a run that are the second of a pair."""
    lead = 0 if run.starts_on_pair else 1
    return [strike for i, strike in enumerate(run.strikes[1:-1], start=1) if i % 2 != lead]


@dataclass(frozen=True)
class _Equal:
    """Equal notes under judgement: their ``limit`` and how much they ``spread``, both shares of the interval."""

    judging: Judging
    figure: Figure
    limit: float
    spread: float

    def limping(self) -> Iterator[Finding]:
        """Pairs go long-short, or short-long: in every run, or in part of them."""
        runs = [run for run in self.figure.runs if len(run.ratios) >= 2]
        if self.figure.pairs() < JUDGED_INTERVALS // 2:
            return
        leans = [Figure(run.hand, run.interval_quarters, [run]).limp() for run in runs]
        pairs = [len(run.ratios) / 2 for run in runs]
        spread = self.figure.pooled_cv(without_pairs=True)
        margins = LIMPING.times(self.judging.strictness).in_part_times(self.judging.part_factor)
        for sign in (1, -1):
            values = [sign * lean / self.limit for lean in leans]
            answer = ask(apart(values, self._errors(pairs, spread), pairs), margins)
            # Who is uneven by more than that does not limp.
            if answer is not None and answer.amount * self.limit < spread:
                answer = None
            if answer is None and len(runs) >= SEVERAL_RUNS:
                answer = self._in_some(values, pairs, margins)
            if answer is None or sum(pairs[i] for i in answer.rows) < min(PAIRS_IN_PART, sum(pairs)):
                continue
            worst = max((runs[i] for i in answer.rows), key=lambda run: sign * leans[runs.index(run)])
            amount, error = answer.amount * self.limit, answer.error * self.limit
            found = self._finding(FindingCode.LIMPING, worst.strikes[0].onset_quarters, amount, error)
            yield replace(found, positive=sign > 0, in_part=answer.in_part)
            return

    def _errors(self, pairs: Sequence[float], spread: float) -> list[float]:
        return [max(0.004, spread / math.sqrt(2 * count * EFFECTIVE_SHARE)) / self.limit for count in pairs]

    def _in_some(self, values: Sequence[float], pairs: Sequence[float], margins: Margins) -> Answer | None:
        """Some runs limp, the rest do not: what spreads then is what is left when each run's own lean is taken out."""
        freedom, own = self.figure.apart_from_leans()
        player = self.judging.asked.player
        ordinary = self.limit * (min(NULL, KNOWN_SPREAD * player) if player else NULL)
        known = PRIOR_FREEDOM * ordinary**2
        spread = math.sqrt((freedom * own**2 + known) / (freedom + PRIOR_FREEDOM))
        answer = in_part(apart(values, self._errors(pairs, spread), pairs), margins)
        if answer is None or answer.amount * self.limit < spread:
            return None
        others = [value for i, value in enumerate(values) if i not in answer.rows]
        return answer if others and rms(others) < EVEN_ENOUGH else None

    def uneven(self, margin: float) -> Iterator[Finding]:
        """They spread more than they may, in whatever way."""
        freedom = self.figure.freedom * EFFECTIVE_SHARE
        error = self.spread / math.sqrt(2 * max(freedom, 1))
        if freedom < 3 or self.spread <= self.limit or self.spread - NULL * self.limit <= margin * error:
            return
        worst = max(self.figure.runs, key=lambda run: run.cv)
        onset = worst.strikes[widest_gap(worst)].onset_quarters
        yield self._finding(FindingCode.UNEVEN, onset, self.spread, error)

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
    part_s = max(0.001, median(min(ratio.seconds) for ratio in figure.ratios))
    found = []
    for other in others:
        ways = figure.way_to(other)
        # What one repeat varies by in a player at the limit, and what the source adds, on the scale of the way.
        step = math.dist(centred(figure.written), centred(other))
        own = limits.evenness(1000 * part_s) * ORDINARY_SHARE / step
        source = 1.414 * judging.uncertainty_s / part_s / step
        one = math.hypot(own, source) / HALF_WAY
        answer = ask(apart([way / HALF_WAY for way in ways], [one] * len(ways)), BENDING.times(judging.strictness))
        if answer is not None and answer.amount * HALF_WAY <= TOO_FAR[figure.written]:
            found.append((answer, other, ways))
    if not found:
        return
    answer, other, ways = max(found, key=lambda one: one[0].amount)
    way = answer.amount * HALF_WAY
    worst = figure.ratios[max(answer.rows, key=lambda i: ways[i])]
    yield Finding(
        code,
        judging.place_of(worst.onset_quarters),
        way,
        HALF_WAY,
        "share",
        how_sure(way, HALF_WAY, answer.error * HALF_WAY),
        hand=figure.hand,
        interval_quarters=figure.length_quarters / sum(figure.written),
        reads_as=(1, 1) if figure.written == (3, 1) and way > NEARLY_EQUAL else other,
        in_part=answer.in_part,
    )


def widest_gap(run: Run) -> int:
    """Which interval is furthest from its run's mean."""
    middle = mean(run.ratios)
    return max(range(len(run.ratios)), key=lambda i: abs(run.ratios[i] - middle))
