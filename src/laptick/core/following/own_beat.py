"""The student's own beat: fitted to the matched strikes, apart from the assigned tempo.

The beat is a piecewise linear map from score quarters to seconds with a knot at every bar start, smoothed by penalties
on changes of tempo from bar to bar and above all on changes of that change, fitted robustly (iterated Tukey weights),
with a step wherever the playing stopped or began anew. Hesitations and restarts therefore shift nothing after them, and
a single late strike moves the beat hardly at all.

Source: penalised least squares after Whittaker (1923); Tukey's biweight; the choice of knots and of the
penalty is ours and measured in docs/checking.md.
"""

from __future__ import annotations

import itertools
import math
from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from statistics import median
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.statistics import robust_sd, weighted_median
from laptick.core.base.units import Seconds

Floats = NDArray[np.float64]

#: (index of the event it leads to, seconds per quarter, quarters)
Rate: TypeAlias = tuple[int, float, float]

#: Spread of a strike round the beat; of the change of a bar's length from one bar to the next, as a share of the bar;
#: and of the change of that change. Their ratios set the smoothing: a tempo that moves evenly costs little.
STRIKE_SPREAD_S = 0.030
BAR_CHANGE_SHARE = 0.035
BAR_BEND_SHARE = 0.012

#: A gap is taken as a stop when it exceeds what was written by this much and is not made up for.
STOP_SHARE_OF_BEAT = 0.20
STOP_FLOOR_S = 0.110
STOP_NOISE = 3.0  # … and this many times what gaps vary by anyway
_MADE_UP = 0.5
_LOOK_AHEAD = 3
_ROUNDS = 4

#: The tempo round an event is first taken from this many gaps on each side.
NEAR_GAPS = 9

#: … and from gaps of a beat or more alone when there are this many near it.
ENOUGH_GAPS = 4

#: Long pieces are fitted in blocks of this many bars, with this many more on each side.
BLOCK_BARS, BLOCK_MARGIN = 64, 8


@dataclass(frozen=True)
class PlayedInstant:
    """All matched strikes of one written instant: mean time and how many."""

    onset_quarters: float
    played_s: Seconds
    strikes: int
    segment: int


@dataclass(frozen=True)
class Stop:
    """A gap longer than written: between event ``index`` − 1 and ``index``."""

    index: int
    excess_s: Seconds


@dataclass(frozen=True)
class _Rows:
    """The events as arrays: written quarters, played seconds, stretch of playing, and weight in the fit."""

    onsets: Floats
    times: Floats
    segments: NDArray[np.int64]
    weights: Floats

    @cached_property
    def lists(self) -> tuple[list[float], list[Seconds], list[int]]:
        """Onsets, times and stretches, where they are asked for one by one."""
        return self.onsets.tolist(), self.times.tolist(), self.segments.tolist()

    def at(self, rows: NDArray[np.int64]) -> _Rows:
        """Some of them."""
        return _Rows(self.onsets[rows], self.times[rows], self.segments[rows], self.weights[rows])


@dataclass(frozen=True)
class BeatFit:
    """``expected_s[i]`` is where event ``i`` lies on the student's own beat; ``quarter_s[b]`` the fitted
    seconds per quarter in bar ``b`` (NaN where the bar was not played)."""

    events: tuple[PlayedInstant, ...]
    expected_s: tuple[Seconds, ...]
    quarter_s: tuple[Seconds, ...]
    stops: tuple[Stop, ...]
    bar_starts: tuple[float, ...]

    def quarter_s_at(self, onset_quarters: float) -> Seconds:
        """Of a bar that was not played, as one of rests at the beginning, the tempo of the nearest that was."""
        index = bisect_left(self.bar_starts, onset_quarters + 1e-9, hi=len(self.bar_starts) - 1) - 1
        return self._everywhere[min(max(index, 0), len(self.quarter_s) - 1)]

    @cached_property
    def _everywhere(self) -> tuple[Seconds, ...]:
        played = [bar for bar, seconds in enumerate(self.quarter_s) if not math.isnan(seconds)]
        return tuple(
            self.quarter_s[min(played, key=lambda one: abs(one - bar))] if played and math.isnan(seconds) else seconds
            for bar, seconds in enumerate(self.quarter_s)
        )


def fit_beat(
    events: Sequence[PlayedInstant],
    bar_starts: Sequence[float],
    beat_quarters: float,
    *,
    held: frozenset[int] = frozenset(),
    bent: frozenset[int] = frozenset(),
    went_on: frozenset[int] = frozenset(),
) -> BeatFit:
    """Fits the beat of at least two events of different onset.

    ``bar_starts`` are quarters, one more than there are bars (the last is the end of the passage). ``held``: events
    before which the beat may wait: a step there is no stop. ``bent``: events inside a written rit. or accel.: they say
    nothing of the beat around them, and their own is a smooth curve through them. ``went_on``: events before which
    there was no stop, whatever it looks like.
    """
    rows = _Rows(
        np.array([event.onset_quarters for event in events]),
        np.array([event.played_s for event in events]),
        np.array([event.segment for event in events]),
        np.array([0.0 if i in bent else float(event.strikes) for i, event in enumerate(events)]),
    )
    # The beat begins anew after a hold and after a bend.
    free = held | {i + 1 for i in bent if i + 1 not in bent and i + 1 < len(events)}
    knots = np.array(bar_starts, dtype=float)
    reference = _local_quarter_s(rows, beat_quarters, knots)
    local = reference
    stops: dict[int, float] = dict.fromkeys(free, 0.0)
    expected, slopes = _solve(rows, knots, stops, local)
    for _ in range(_ROUNDS):
        fresh = [
            i for i in _find_stops(rows, local, beat_quarters, stops) if not {i, i - 1} & bent and i not in went_on
        ]
        if not fresh:
            break
        for index in fresh:
            stops[index] = 0.0
        expected, slopes = _solve(rows, knots, stops, local)
        fitted = slopes[_bars_of(knots, rows.onsets)]
        local = np.maximum(reference, np.where(fitted > 1e-3, fitted, reference))
    _follow_bends(expected, rows, bent)
    excess_s = _excess(rows, local)
    return BeatFit(
        tuple(events),
        tuple(float(x) for x in expected),
        tuple(float(x) for x in slopes),
        tuple(Stop(index, float(excess_s[index])) for index in sorted(stops) if index not in free),
        tuple(float(x) for x in knots),
    )


def _follow_bends(expected: Floats, events: _Rows, bent: frozenset[int]) -> None:
    """Inside each bend the own beat is a curve of the second degree through what was played."""
    onsets, times, segments = events.onsets, events.times, events.segments
    for _, group in itertools.groupby(sorted(bent), key=lambda i: i - sorted(bent).index(i)):
        rows = np.array(list(group))
        for number in np.unique(segments[rows]):
            inside = rows[segments[rows] == number]
            degree = min(2, len(inside) - 2)
            expected[inside] = times[inside]
            if degree > 0:
                start = onsets[inside[0]]
                curve = np.polyfit(onsets[inside] - start, times[inside] - times[inside[0]], degree)
                expected[inside] = times[inside[0]] + np.polyval(curve, onsets[inside] - start)


def _bars_of(knots: Floats, onsets: Floats) -> NDArray[np.int64]:
    """In which bar each onset lies."""
    bars: NDArray[np.int64] = np.clip(np.searchsorted(knots, onsets + 1e-9) - 1, 0, len(knots) - 2)
    return bars


def _local_quarter_s(events: _Rows, beat_quarters: float, knots: Floats) -> Floats:
    """Seconds per quarter round each event: the median over the spans of a beat near it (so that uneven
    parts of a beat cancel out), each weighing as much as it is long.

    Single gaps of a beat or more count alone where there are enough of them: who rushes the short notes
    keeps the long ones, and the long ones must not look like stops then. Else spans from beat to beat do: notes
    inside a beat that are out of place must not bend them.
    """
    onsets, times = events.onsets, events.times
    every = _beat_spans(events, beat_quarters)
    if not every:
        span = onsets.max() - onsets.min()
        return np.full(len(onsets), (times.max() - times.min()) / span if span > 0 else 1.0)
    whole_beats = [gap for gap in _gaps(events) if gap[2] >= beat_quarters]
    on_beats = _spans_on_beats(events, beat_quarters, knots)
    result = []
    for i in range(len(onsets)):
        near = _near(whole_beats, i, 2 * NEAR_GAPS)
        if len(near) < ENOUGH_GAPS:
            near = _near(on_beats, i, 2 * NEAR_GAPS)
        if len(near) < ENOUGH_GAPS:
            near = _near(every, i, NEAR_GAPS) or every
        result.append(weighted_median((rate, quarters) for _, rate, quarters in near))
    return np.array(result)


def _gaps(events: _Rows) -> list[Rate]:
    """Gaps between neighbouring events of one stretch of playing."""
    onsets, times, segments = events.lists
    result = []
    for i in range(1, len(onsets)):
        quarters = onsets[i] - onsets[i - 1]
        if segments[i] == segments[i - 1] and quarters > 0 and times[i] > times[i - 1]:
            result.append((i, (times[i] - times[i - 1]) / quarters, quarters))
    return result


def _beat_spans(events: _Rows, beat_quarters: float) -> list[Rate]:
    """From every event to the first one at least a beat later; single gaps where there is no such pair."""
    onsets, times, segments = events.lists
    result = []
    j = 0
    for i in range(len(onsets)):
        while j < len(onsets) and onsets[j] - onsets[i] < beat_quarters - 1e-9:
            j += 1
        if j < len(onsets) and segments[j] == segments[i] and times[j] > times[i]:
            quarters = onsets[j] - onsets[i]
            result.append((i + 1, (times[j] - times[i]) / quarters, quarters))
    return result or _gaps(events)


def _spans_on_beats(events: _Rows, beat_quarters: float, knots: Floats) -> list[Rate]:
    """Gaps between neighbouring events that both lie on beats of their bars."""
    inside = (events.onsets - knots[_bars_of(knots, events.onsets)]) / beat_quarters
    rows = np.flatnonzero(np.abs(inside - np.round(inside)) < 1e-6).tolist()
    onsets, times, segments = events.lists
    found = []
    for before, here in itertools.pairwise(rows):
        quarters = onsets[here] - onsets[before]
        if segments[here] == segments[before] and times[here] > times[before]:
            found.append((here, (times[here] - times[before]) / quarters, quarters))
    return found


def _near(gaps: list[Rate], index: int, reach: int) -> list[Rate]:
    low = bisect_left(gaps, index - reach + 1, key=lambda gap: gap[0])
    high = bisect_left(gaps, index + reach + 1, key=lambda gap: gap[0])
    return gaps[low:high]


def _excess(events: _Rows, local: Floats) -> Floats:
    """By how much the gap before each event is longer than the local tempo has it; nothing before the first."""
    longer: Floats = np.diff(events.times) - np.diff(events.onsets) * ((local[:-1] + local[1:]) / 2)
    return np.concatenate([[0.0], longer])


#: What gaps of one length all do is how they are played, and no stop; so many gaps tell.
USUAL_GAPS = 5


def _usual(excess_s: Floats, lengths: Floats) -> Floats:
    """By how much gaps of each one's length are usually longer than the beat has them (never less than nothing)."""
    usual = np.zeros(len(excess_s))
    for length in np.unique(np.round(lengths, 6)):
        same = np.abs(lengths - length) < 1e-5
        if int(same.sum()) >= USUAL_GAPS:
            usual[same] = max(0.0, median(excess_s[same].tolist()))
    return usual


def _find_stops(events: _Rows, local: Floats, beat_quarters: float, known: dict[int, float]) -> list[int]:
    segments = events.lists[2]
    fresh = []
    inside = [i for i in range(1, len(segments)) if i not in known and segments[i] == segments[i - 1]]
    if not inside:
        return []
    excess_s = _excess(events, local)
    every = excess_s[inside]
    every = every - _usual(every, np.diff(events.onsets)[np.array(inside) - 1])
    noise = STOP_NOISE * robust_sd(every.tolist())
    floors = np.maximum(max(STOP_FLOOR_S, noise), STOP_SHARE_OF_BEAT * beat_quarters * local[inside])
    for at in np.flatnonzero(every >= floors):
        i, excess = inside[at], every[at]
        ahead = []
        running = 0.0
        for j in range(i + 1, min(len(segments), i + 1 + _LOOK_AHEAD)):
            if segments[j] != segments[i] or j in known:
                break
            running += float(excess_s[j])
            ahead.append(running)
        before = [-float(excess_s[i - 1])] if i > 1 and segments[i - 2] == segments[i] else []
        made_up = -median(ahead) if ahead else 0.0
        anticipated = before[0] if before and i - 1 not in known else 0.0
        if max(made_up, anticipated) < _MADE_UP * excess:
            fresh.append(i)
    return fresh


def _solve(events: _Rows, knots: Floats, stops: dict[int, float], local: Floats) -> tuple[Floats, Floats]:
    """Expected times and bar slopes, in blocks of bars that overlap, so the work grows with the length."""
    onsets, times = events.onsets, events.times
    bars = len(knots) - 1
    if bars <= BLOCK_BARS + 2 * BLOCK_MARGIN:
        return _solve_block(events, knots, stops, local)
    expected, slopes = np.array(times), np.full(bars, np.nan)
    at_bar = _bars_of(knots, onsets)
    for start in range(0, bars, BLOCK_BARS):
        low, high = max(0, start - BLOCK_MARGIN), min(bars, start + BLOCK_BARS + BLOCK_MARGIN)
        rows = np.flatnonzero((at_bar >= low) & (at_bar < high))
        if rows.size < 2:
            continue
        place = {int(row): index for index, row in enumerate(rows)}
        inner_stops = {place[i]: x for i, x in stops.items() if i in place}
        block, block_slopes = _solve_block(events.at(rows), knots[low : high + 1], inner_stops, local[rows])
        keep = (at_bar[rows] >= start) & (at_bar[rows] < start + BLOCK_BARS)
        expected[rows[keep]] = block[keep]
        end = min(bars, start + BLOCK_BARS)
        slopes[start:end] = block_slopes[start - low : end - low]
    return expected, slopes


def _solve_block(events: _Rows, knots: Floats, stops: dict[int, float], local: Floats) -> tuple[Floats, Floats]:
    """Robust penalised least squares for knot times and steps; returns expected times and bar slopes."""
    onsets, times, segments, weights = events.onsets, events.times, events.segments, events.weights
    count, bars = len(onsets), len(knots) - 1
    breaks = sorted({i for i in range(1, count) if segments[i] != segments[i - 1]} | set(stops))
    basis = np.zeros((count, bars + 1 + len(breaks)))
    rows, at_bar = np.arange(count), _bars_of(knots, onsets)
    share = (onsets - knots[at_bar]) / (knots[at_bar + 1] - knots[at_bar])
    basis[rows, at_bar], basis[rows, at_bar + 1] = 1 - share, share
    for column, start in enumerate(breaks):
        basis[start:, bars + 1 + column] = 1.0
    lengths = np.diff(knots)
    rate = max(0.001, median(local.tolist()))  # all strikes at once have no rate
    # Bar lengths over what they would be at the median rate; their first and second differences are held small.
    tempo = np.zeros((bars, basis.shape[1]))
    for b in range(bars):
        tempo[b, b], tempo[b, b + 1] = -1 / (rate * lengths[b]), 1 / (rate * lengths[b])
    change = np.diff(tempo, axis=0) / BAR_CHANGE_SHARE
    bend = np.diff(tempo, n=2, axis=0) / BAR_BEND_SHARE
    penalty = change.T @ change + bend.T @ bend
    # A faint pull towards the local tempo keeps bars without strikes and single bars determined.
    anchor = np.zeros((bars, basis.shape[1]))
    for b in range(bars):
        anchor[b, b], anchor[b, b + 1] = -1 / (0.5 * rate * lengths[b]), 1 / (0.5 * rate * lengths[b])
    target = np.full(bars, 1 / 0.5)
    penalty += anchor.T @ anchor
    pull = anchor.T @ target
    robust = np.ones(count)
    residual = np.zeros(count)
    solution = np.zeros(basis.shape[1])
    for _ in range(6):
        scaled = weights * robust / STRIKE_SPREAD_S**2
        normal = basis.T @ (basis * scaled[:, None]) + penalty + 1e-9 * np.eye(basis.shape[1])
        solution = np.linalg.solve(normal, basis.T @ (scaled * times) + pull)
        residual = times - basis @ solution
        spread = max(0.012, robust_sd(residual.tolist()))
        robust = np.minimum(1.0, np.maximum(0.02, 1 - (residual / (4.7 * spread)) ** 2)) ** 2
    slopes = np.diff(solution[: bars + 1]) / lengths
    played = np.zeros(bars, dtype=bool)
    played[at_bar] = True
    # A bar is played when a strike lies in it; a held last bar keeps the tempo of the one before.
    return times - residual, np.where(played, slopes, np.nan)
