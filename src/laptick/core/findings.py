"""Findings: which figures stand clear of their limit.

A finding is named only when the lower end of its 90 % interval, corrected for how many figures were
looked at, lies above the limit plus what the source cannot resolve. Repeats of a figure are pooled; a
figure on too few intervals is shown, never judged. Source: handbook 4 (“few notes deceive”).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from statistics import NormalDist, median

from laptick.core.checking import CheckedTake, Measured, drift_line
from laptick.core.evenness import Figure, Run, group_figures, run_pace
from laptick.core.limits import JUDGED_BARS, JUDGED_ENTRIES, JUDGED_INTERVALS, JUDGED_POINTS, SLIPS_FLOOR, Limits
from laptick.core.performance import SOURCE_UNCERTAINTY_MS, Task
from laptick.core.ratios import Parts, RatioFigure, centred, group_ratios
from laptick.core.score import Hand, Place
from laptick.core.statistics import mean, normal_quantile, robust_sd, sd, sd_lower, tail
from laptick.core.units import Quarters, Seconds

#: Neighbouring intervals share a strike, so n of them tell about as much as this share of n.
EFFECTIVE_SHARE = 0.7

#: Runs shorter than a beat are measured against the tempo of what surrounds them within this many beats.
REFERENCE_BEATS = 10


@dataclass(frozen=True, slots=True)
class Finding:
    """``amount`` and ``limit`` share a unit, named in ``unit``: share, ms or count. ``hand``, ``interval_quarters`` say
    which figure, ``reads_as`` what it has turned into; ``sure``: the probability that the limit is truly passed."""

    code: str
    place: Place
    amount: float
    limit: float
    unit: str
    sure: float
    hand: Hand | None = None
    interval_quarters: Quarters | None = None
    positive: bool = True
    reads_as: Parts | None = None

    @property
    def ratio(self) -> float:
        """How many times the limit."""
        return self.amount / self.limit if self.limit else self.amount + 1


def find_findings(checked: CheckedTake, limits: Limits) -> list[Finding]:
    """All findings of a followed take, unranked; empty when it could not be followed."""
    measured = checked.measured
    if measured is None:
        return []
    figures = group_figures(measured.runs)
    ratios = group_ratios(measured.ratios)
    looked_at = 3 * sum(figure.intervals >= JUDGED_INTERVALS for figure in figures) + 5
    looked_at += sum(figure.intervals >= JUDGED_INTERVALS and figure.written in BENT for figure in ratios)
    error = tail(looked_at)
    task = checked.task
    found = [*_restarts(checked), *_hesitations(measured, limits, task), *_slips(checked, limits)]
    uncertainty_s = SOURCE_UNCERTAINTY_MS[checked.performance.source] / 1000
    bent = [f for figure in ratios for f in _ratio_findings(figure, limits, error, uncertainty_s, task)]
    named = {(f.code, f.hand, f.interval_quarters) for f in bent}
    found += bent
    for figure in figures:
        # A triplet that is played as another figure is that, and not uneven besides.
        if ("triplet-bent", figure.hand, figure.interval_quarters) in named:
            continue
        found += _figure_findings(figure, figures, measured, limits, task, error, uncertainty_s)
    found += _spread(measured, limits, task, error, already=any(f.code in UNEVEN_CODES or f in bent for f in found))
    found += _hands_apart(measured, limits, task, error, uncertainty_s)
    found += _late_entries(measured, limits, task, error)
    found += _drift(measured, limits, task, error)
    found += _off_tempo(measured, limits, task, error)
    return found


UNEVEN_CODES = frozenset({"rushed-run", "limping", "uneven"})


def _sure(amount: float, limit: float, error_of_amount: float) -> float:
    if error_of_amount <= 0:
        return 1.0
    return round(NormalDist().cdf((amount - limit) / error_of_amount), 3)


def _place_of_onset(task: Task, onset: Quarters) -> Place:
    return task.score.place_at(task.measures[0].start_quarters + onset)


def _restarts(checked: CheckedTake) -> Iterator[Finding]:
    restarts = checked.matching.restarts
    if restarts:
        place = checked.task.place(checked.task.expected[restarts[0].expected_index])
        yield Finding("restart", place, len(restarts), 0, "count", 1.0)


def _hesitations(measured: Measured, limits: Limits, task: Task) -> Iterator[Finding]:
    if not measured.hesitations:
        return
    spread_ms = gap_spread_ms(measured)
    margin = normal_quantile(tail(measured.gaps)) * spread_ms
    for stop in measured.hesitations:
        beat_ms = 1000 * float(task.beat_quarters) * measured.fit.quarter_s_at(float(stop.before.onset_quarters))
        limit = limits.hesitation_ms(beat_ms)
        if stop.excess_ms - margin > limit:
            yield Finding(
                "hesitation",
                task.place(stop.expected),
                stop.excess_ms,
                limit,
                "ms",
                _sure(stop.excess_ms, limit, spread_ms),
            )


def gap_spread_ms(measured: Measured) -> float:
    """How much one gap between events varies by itself: the robust spread of differences between
    neighbouring residuals."""
    residuals = [e.played_s - x for e, x in zip(measured.fit.events, measured.fit.expected_s, strict=True)]
    stops = {stop.index for stop in measured.fit.stops}
    steps = [b - a for i, (a, b) in enumerate(itertools.pairwise(residuals), 1) if i not in stops]
    return max(4.0, 1000 * robust_sd(steps))


def _slips(checked: CheckedTake, limits: Limits) -> Iterator[Finding]:
    task, matching = checked.task, checked.matching
    asked = len(task.expected)
    kinds = (
        ("missing", [task.expected[i].onset_quarters for i in matching.missing]),
        ("wrong-notes", [task.expected[i].onset_quarters for i, _ in matching.wrong]),
        ("extra", [_onset_at(checked, i) for i in matching.extra]),
    )
    for code, onsets in kinds:
        limit = max(SLIPS_FLOOR - 1, limits.slips_share * asked)
        if len(onsets) > limit:
            yield Finding(code, _densest(task, onsets), len(onsets), limit, "count", 1.0)


def _onset_at(checked: CheckedTake, strike_index: int) -> Quarters:
    """Where in the score an extra strike fell: the written instant last reached before it."""
    assert checked.measured is not None
    played_s = checked.performance.strikes[strike_index].played_s
    onset = checked.task.expected[0].onset_quarters
    for note in checked.measured.notes:
        if note.played_s > played_s:
            break
        onset = note.expected.onset_quarters
    return onset


def _densest(task: Task, onsets: list[Quarters]) -> Place:
    """The first place of the bar that holds most of these instants."""
    by_bar: dict[str, list[Place]] = {}
    for place in (_place_of_onset(task, onset) for onset in sorted(onsets)):
        by_bar.setdefault(place.measure, []).append(place)
    return max(by_bar.values(), key=len)[0]


# -- evenness ---------------------------------------------------------------------------------------


def reference_quarter_s(run: Run, figures: list[Figure], measured: Measured, beat_quarters: Quarters) -> Seconds:
    """Seconds per quarter of what is played round a run, runs of the same or shorter lengths left out;
    the fitted beat where too little else is played."""
    spans = [
        (float(r.strikes[0].onset_quarters), float(r.strikes[-1].onset_quarters))
        for figure in figures
        if figure.interval_quarters <= run.interval_quarters
        for r in figure.runs
    ]
    events, stops = measured.fit.events, {stop.index for stop in measured.fit.stops}
    middle = float(run.strikes[0].onset_quarters + run.strikes[-1].onset_quarters) / 2
    reach = REFERENCE_BEATS * float(beat_quarters)
    rates: list[tuple[float, float]] = []
    for i in range(1, len(events)):
        start, end = events[i - 1].onset_quarters, events[i].onset_quarters
        if i in stops or events[i].segment != events[i - 1].segment or abs((start + end) / 2 - middle) > reach:
            continue
        if not any(low < end and start < high for low, high in spans):
            rates.append(((events[i].played_s - events[i - 1].played_s) / (end - start), end - start))
    quarters = sum(length for _, length in rates)
    if len(rates) < 3 or quarters < 2 * float(beat_quarters):
        return measured.fit.quarter_s_at(middle)
    rates.sort()
    running = 0.0
    for rate, length in rates:
        running += length
        if running >= quarters / 2:
            return rate
    return rates[-1][0]


def _figure_findings(
    figure: Figure,
    figures: list[Figure],
    measured: Measured,
    limits: Limits,
    task: Task,
    error: float,
    uncertainty_s: Seconds,
) -> Iterator[Finding]:
    if figure.intervals < JUDGED_INTERVALS:
        return
    interval_ms = 1000 * figure.interval_s
    limit = limits.evenness(interval_ms) + 1.414 * uncertainty_s / figure.interval_s
    z = normal_quantile(error)
    spread = figure.pooled_cv(without_pairs=True)
    named = False

    if figure.interval_quarters < task.beat_quarters:
        paces = [run_pace(run, reference_quarter_s(run, figures, measured, task.beat_quarters)) for run in figure.runs]
        weights = [len(run.ratios) for run in figure.runs]
        pace = sum(p * w for p, w in zip(paces, weights, strict=True)) / sum(weights)
        # One run's pace hangs on its two ends and on the reference tempo.
        single = [spread * math.sqrt(1.0) / w for w in weights]
        expected_error = math.sqrt(sum((s * w) ** 2 for s, w in zip(single, weights, strict=True))) / sum(weights)
        seen_error = sd(paces) / math.sqrt(len(paces)) if len(paces) >= 3 else 0.0
        pace_error = max(expected_error, seen_error, 0.004)
        if (1 - pace) - z * pace_error > limit:
            worst = min(zip(paces, figure.runs, strict=True), key=lambda item: item[0])[1]
            named = True
            yield Finding(
                "rushed-run",
                _place_of_onset(task, worst.strikes[0].onset_quarters),
                1 - pace,
                limit,
                "share",
                _sure(1 - pace, limit, pace_error),
                hand=figure.hand,
                interval_quarters=figure.interval_quarters,
            )

        limp, pairs = figure.limp(), figure.pairs()
        limp_error = max(0.004, spread / math.sqrt(2 * max(1, pairs) * EFFECTIVE_SHARE))
        if pairs >= JUDGED_INTERVALS // 2 and abs(limp) - z * limp_error > limit:
            worst = max(figure.runs, key=lambda run: abs(Figure(run.hand, run.interval_quarters, [run]).limp()))
            named = True
            yield Finding(
                "limping",
                _place_of_onset(task, worst.strikes[0].onset_quarters),
                abs(limp),
                limit,
                "share",
                _sure(abs(limp), limit, limp_error),
                positive=limp > 0,
                hand=figure.hand,
                interval_quarters=figure.interval_quarters,
            )

    freedom = figure.freedom * EFFECTIVE_SHARE
    if not named and freedom >= 3 and sd_lower(spread, freedom, error) > limit:
        worst = max(figure.runs, key=lambda run: run.cv)
        spread_error = spread / math.sqrt(2 * freedom)
        yield Finding(
            "uneven",
            _place_of_onset(task, _widest_gap(worst)),
            spread,
            limit,
            "share",
            _sure(spread, limit, spread_error),
            hand=figure.hand,
            interval_quarters=figure.interval_quarters,
        )


#: Written figure → (the finding when it turns into another one, the others it is known to turn into).
BENT: dict[Parts, tuple[str, tuple[Parts, ...]]] = {
    (3, 1): ("dot-flattened", ((2, 1),)),
    (1, 1, 1): ("triplet-bent", ((2, 1, 1), (1, 1, 2))),
    (2, 1): ("duplet", ((1, 1),)),
}

#: Beyond the middle of the way to another figure it is heard as that one.
HALF_WAY = 0.5


def _ratio_findings(
    figure: RatioFigure, limits: Limits, error: float, uncertainty_s: Seconds, task: Task
) -> Iterator[Finding]:
    """A figure that reads as another one, pooled over its repeats. ``amount`` is the share of the way there."""
    if figure.written not in BENT or figure.intervals < JUDGED_INTERVALS:
        return
    code, others = BENT[figure.written]
    ways = {other: figure.way_to(other) for other in others}
    other = max(ways, key=lambda one: median(ways[one]))
    way, count = median(ways[other]), len(ways[other])
    part_s = median(min(ratio.seconds) for ratio in figure.ratios)
    # What one repeat varies by in a player at the limit, and what the source adds, on the scale of the way.
    step = math.dist(centred(figure.written), centred(other))
    own = limits.evenness(1000 * part_s) * SKILL_OF_A_PART / step
    source = 1.414 * uncertainty_s / part_s / step
    spread = max(1.2533 * robust_sd(ways[other]), own)
    way_error = math.hypot(spread, source) / math.sqrt(count)
    if way - normal_quantile(error) * way_error > HALF_WAY:
        worst = max(zip(ways[other], figure.ratios, strict=True), key=lambda pair: pair[0])[1]
        yield Finding(
            code,
            _place_of_onset(task, worst.onset_quarters),
            way,
            HALF_WAY,
            "share",
            _sure(way, HALF_WAY, way_error),
            hand=figure.hand,
            interval_quarters=figure.length_quarters / sum(figure.written),
            reads_as=other,
        )


#: The spread of one part of a figure in a player at 60 % of the limit, as a share of the limit.
SKILL_OF_A_PART = 0.6


def _widest_gap(run: Run) -> Quarters:
    """The start of the interval furthest from its run's mean."""
    middle = mean(run.ratios)
    index = max(range(len(run.ratios)), key=lambda i: abs(run.ratios[i] - middle))
    return run.strikes[index].onset_quarters


def _spread(measured: Measured, limits: Limits, task: Task, error: float, *, already: bool) -> Iterator[Finding]:
    """The spread of all strikes round the student's own beat."""
    deviations = [note.deviation_ms for note in measured.notes]
    freedom = EFFECTIVE_SHARE * (len(measured.fit.events) - len(measured.fit.stops)) - len(measured.bar_tempos)
    if already or freedom < JUDGED_INTERVALS:
        return
    beat_ms = 60_000 / measured.median_bpm
    limit = limits.spread_ms(beat_ms) + measured.notes[0].uncertainty_ms
    amount = sd(deviations)
    if sd_lower(amount, freedom, error) > limit:
        worst = max(measured.notes, key=lambda note: abs(note.deviation_ms))
        yield Finding(
            "uneven",
            task.place(worst.expected),
            amount,
            limit,
            "ms",
            _sure(amount, limit, amount / math.sqrt(2 * freedom)),
        )


def _hands_apart(
    measured: Measured, limits: Limits, task: Task, error: float, uncertainty_s: Seconds
) -> Iterator[Finding]:
    gaps = [abs(point.gap_ms) for point in measured.together]
    if len(gaps) < JUDGED_POINTS:
        return
    limit = limits.hands_apart_ms + 1414 * uncertainty_s
    amount = median(gaps)
    gap_error = 1.2533 * max(robust_sd(gaps), 0.5 * sd(gaps)) / math.sqrt(len(gaps))
    if amount - normal_quantile(error) * gap_error > limit:
        worst = max(measured.together, key=lambda point: abs(point.gap_ms))
        signed = mean([point.gap_ms for point in measured.together])
        yield Finding(
            "hands-apart",
            _place_of_onset(task, worst.onset_quarters),
            amount,
            limit,
            "ms",
            _sure(amount, limit, gap_error),
            positive=signed > 0,
        )


def _late_entries(measured: Measured, limits: Limits, task: Task, error: float) -> Iterator[Finding]:
    """Entries after rests late by more than strikes may lie round the beat, in the median over the passage."""
    late = [entry.entry_ms for entry in measured.entries]
    if len(late) < JUDGED_ENTRIES:
        return
    limit = limits.spread_ms(60_000 / measured.median_bpm) + measured.notes[0].uncertainty_ms
    amount = median(late)
    # Not surer than the player's own strikes allow: a few entries may lie close together by chance.
    own = robust_sd([note.deviation_ms for note in measured.notes])
    late_error = 1.2533 * max(robust_sd(late), own) / math.sqrt(len(late))
    if amount - normal_quantile(error) * late_error > limit:
        worst = max(measured.entries, key=lambda entry: entry.entry_ms)
        yield Finding(
            "late-entry",
            _place_of_onset(task, worst.onset_quarters),
            amount,
            limit,
            "ms",
            _sure(amount, limit, late_error),
            hand=worst.hand,
        )


def _drift(measured: Measured, limits: Limits, task: Task, error: float) -> Iterator[Finding]:
    tempos = measured.bar_tempos
    if len(tempos) < JUDGED_BARS:
        return
    slope, start, count = drift_line(tempos)
    residuals = [tempo.bpm - (start + slope * i) for i, tempo in enumerate(tempos)]
    bars_spread = math.sqrt(sum((i - (count - 1) / 2) ** 2 for i in range(count)))
    # Fitted tempos of neighbouring bars are smoothed together: fewer independent ones than bars.
    noise = math.sqrt(sum(r * r for r in residuals) / max(1, count - 2)) * 1.5
    drift_error = noise / bars_spread * (count - 1) / start
    if abs(measured.drift) - normal_quantile(error) * drift_error > limits.drift_share:
        middle = tempos[count // 2]
        place = Place(task.score.measures[middle.measure_index].number, Fraction(0), middle.pass_number)
        yield Finding(
            "drift",
            place,
            abs(measured.drift),
            limits.drift_share,
            "share",
            _sure(abs(measured.drift), limits.drift_share, drift_error),
            positive=measured.drift > 0,
        )


def _off_tempo(measured: Measured, limits: Limits, task: Task, error: float) -> Iterator[Finding]:
    bpms = [tempo.bpm for tempo in measured.bar_tempos]
    off = measured.median_bpm / task.assigned_bpm - 1
    off_error = 1.2533 * sd(bpms) / math.sqrt(len(bpms)) / task.assigned_bpm
    if abs(off) - normal_quantile(error) * off_error > limits.tempo_share:
        place = task.place(task.expected[0])
        yield Finding(
            "off-tempo",
            place,
            abs(off),
            limits.tempo_share,
            "share",
            _sure(abs(off), limits.tempo_share, off_error),
            positive=off > 0,
        )
