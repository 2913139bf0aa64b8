"""Evenness: runs of equal written lengths, each with the note it lands on, and the hands together.

A *run* is two or more equal written intervals in one hand, without a rest between, up to and including
the strike that follows the last of them (four sixteenths and the next note are four intervals). Each
played interval is divided by what it would last on the student's own beat. Repeats of a figure (same
hand, same written length) are pooled.

Source: docs/trade.md 4.4 and 4.8; nPVI after Grabe & Low (2002).
"""

from __future__ import annotations

import itertools
import math
from bisect import bisect_left
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property
from statistics import median

from laptick.core.base.statistics import mean, npvi, robust_sd, sd
from laptick.core.base.units import Quarters, Seconds
from laptick.core.score.score import Hand


@dataclass(frozen=True, slots=True)
class HandStrike:
    """One hand's strike at one written instant. ``expected_s`` lies on the student's own beat;
    ``breaks_before``: a stop, a restart or a missing strike lies between it and the one before;
    ``connected_quarters``: how far it is from the one before as written, where neither a break nor a rest lies between;
    ``is_apart``: is its time its own, not that of the other hand?"""

    hand: Hand | None
    onset_quarters: Quarters
    played_s: Seconds
    expected_s: Seconds
    until_next_quarters: Quarters | None
    breaks_before: bool
    connected_quarters: Quarters | None
    is_apart: bool = True


#: A strike is compared with the beat of this many others around it.
OTHERS = 12


def late_against_others(
    lines: Sequence[Sequence[HandStrike]], set_apart: Callable[[HandStrike], bool]
) -> Callable[[HandStrike], Seconds]:
    """How late a strike is against the beat as the strikes around it that are not set apart have it.

    Many strikes that are late alike pull the fitted beat with them; what they are late against is the beat of the
    others. Where the others are too few, the fitted beat stands.
    """
    others = sorted(
        (float(strike.onset_quarters), strike.played_s - strike.expected_s)
        for line in lines
        for strike in line
        if not set_apart(strike)
    )
    onsets = [onset for onset, _ in others]

    def late_s(strike: HandStrike) -> Seconds:
        own = strike.played_s - strike.expected_s
        if len(others) < OTHERS:
            return own
        middle = bisect_left(onsets, float(strike.onset_quarters))
        low = min(max(0, middle - OTHERS // 2), len(others) - OTHERS)
        return own - median(late for _, late in others[low : low + OTHERS])

    return late_s


@dataclass(frozen=True)
class Run:
    """``ratios[i]``: interval ``i`` as played over what it lasts on the student's beat. ``seconds`` are
    the played intervals themselves; ``starts_on_pair`` tells whether the first one leads a pair
    (long-short is heard from the stronger of two)."""

    hand: Hand | None
    strikes: tuple[HandStrike, ...]
    interval_quarters: Quarters
    ratios: tuple[float, ...]
    seconds: tuple[Seconds, ...]
    starts_on_pair: bool

    @property
    def cv(self) -> float:
        return sd(self.ratios) / mean(self.ratios)

    @property
    def npvi(self) -> float:
        return npvi(self.ratios)

    def without_last(self) -> Run:
        """The same up to its last interval, where it has more than two."""
        if len(self.ratios) <= 2:
            return self
        return replace(self, strikes=self.strikes[:-1], ratios=self.ratios[:-1], seconds=self.seconds[:-1])

    @property
    def fitted_s(self) -> Seconds:
        """What one interval lasts on the student's beat (at least a millisecond, however wildly it was struck)."""
        return max(0.001, mean([s / r for s, r in zip(self.seconds, self.ratios, strict=True)]))


def connected(before: HandStrike, onset_quarters: Quarters) -> Quarters | None:
    """How far an onset of a hand is from the strike before as written; ``None`` where something lies between."""
    until_next = before.until_next_quarters
    return until_next if until_next is not None and before.onset_quarters + until_next == onset_quarters else None


def find_runs(strikes: Sequence[HandStrike], quarter_s_at: Callable[[float], Seconds]) -> list[Run]:
    """All runs of one hand's strikes, in order.

    ``quarter_s_at`` gives the fitted seconds per quarter at an instant.
    """
    runs: list[Run] = []
    current: list[HandStrike] = []
    length: Quarters | None = None
    for before, here in itertools.pairwise(strikes):
        interval = here.connected_quarters
        if interval is not None and interval == length:
            current.append(here)
            continue
        _close(runs, current, length, quarter_s_at)
        current, length = ([], None) if interval is None else ([before, here], interval)
    _close(runs, current, length, quarter_s_at)
    return runs


def _close(
    runs: list[Run], strikes: list[HandStrike], length: Quarters | None, quarter_s_at: Callable[[float], Seconds]
) -> None:
    if length is None or len(strikes) < 3:
        return
    seconds, ratios, quarters = [], [], float(length)
    onsets = [float(strike.onset_quarters) for strike in strikes]
    for i in range(1, len(strikes)):
        middle = (onsets[i - 1] + onsets[i]) / 2
        played = strikes[i].played_s - strikes[i - 1].played_s
        seconds.append(played)
        ratios.append(max(1e-6, played) / (quarters * quarter_s_at(middle)))
    on_pair = (strikes[0].onset_quarters / (2 * length)).denominator == 1
    runs.append(Run(strikes[0].hand, tuple(strikes), length, tuple(ratios), tuple(seconds), on_pair))


#: Values so many SDs from the middle are drawn in to there; the SD of a normal that is drawn in so.
DRAWN_IN, DRAWN_IN_SD = 2.0, 0.96


@dataclass(frozen=True)
class Figure:
    """All runs of one hand with one written length."""

    hand: Hand | None
    interval_quarters: Quarters
    runs: Sequence[Run]

    @property
    def intervals(self) -> int:
        return sum(len(run.ratios) for run in self.runs)

    @property
    def freedom(self) -> int:
        return sum(len(run.ratios) - 1 for run in self.runs)

    @property
    def interval_s(self) -> Seconds:
        return median(run.fitted_s for run in self.runs)

    def pooled_cv(self, *, without_pairs: bool = False) -> float:
        """Spread of the ratios inside their runs, pooled. ``without_pairs`` first takes out what a
        steady long-short makes."""
        return self._spread(self._apart(without_pairs=without_pairs))

    def _spread(self, apart: Sequence[float]) -> float:
        return math.sqrt(math.fsum(one * one for one in apart) / self.freedom) if self.freedom else 0.0

    def robust_cv(self) -> float:
        """The same without pairs, few far ones drawn in: one slip is no unevenness."""
        return self._robust_cv

    @cached_property
    def _robust_cv(self) -> float:
        apart = self._apart(without_pairs=True)
        if not self.freedom:
            return 0.0
        most = DRAWN_IN * robust_sd([*apart, *(-one for one in apart)])
        drawn = [min(abs(one), most) for one in apart]
        return min(self._spread(apart), self._spread(drawn) / DRAWN_IN_SD)

    def _apart(self, *, without_pairs: bool) -> list[float]:
        """How far each ratio lies from its run's mean, as a share of it."""
        lean = self.limp() if without_pairs else 0.0
        found = []
        for run in self.runs:
            values = [
                ratio / (1 + (lean if is_first else -lean))
                for ratio, is_first in zip(run.ratios, _leads(run), strict=True)
            ]
            middle = mean(values)
            found += [value / middle - 1 for value in values]
        return found

    def apart_from_leans(self) -> tuple[int, float]:
        """(degrees of freedom, spread of the ratios) with each run's own lean taken out."""
        freedom = sum(max(0, len(run.ratios) - 2) for run in self.runs)
        alone = (Figure(run.hand, run.interval_quarters, [run]) for run in self.runs if len(run.ratios) > 2)
        squares = math.fsum(one * one for figure in alone for one in figure._apart(without_pairs=True))
        return freedom, math.sqrt(squares / freedom) if freedom else 0.0

    def pooled_npvi(self) -> float:
        """Mean of the runs' indices, each weighing as much as it has intervals."""
        return sum(run.npvi * len(run.ratios) for run in self.runs) / self.intervals

    def limp(self) -> float:
        """(long − short) / (long + short) of pairs: positive when the first of two is longer."""
        return self._limp

    @cached_property
    def _limp(self) -> float:
        first = [r for run in self.runs for r, lead in zip(run.ratios, _leads(run), strict=True) if lead]
        second = [r for run in self.runs for r, lead in zip(run.ratios, _leads(run), strict=True) if not lead]
        if not first or not second:
            return 0.0
        return (mean(first) - mean(second)) / (mean(first) + mean(second))

    def pairs(self) -> int:
        return min(
            sum(lead for run in self.runs for lead in _leads(run)),
            sum(not lead for run in self.runs for lead in _leads(run)),
        )


def _leads(run: Run) -> list[bool]:
    """For each interval: does it lead its pair?"""
    return [(index % 2 == 0) == run.starts_on_pair for index in range(len(run.ratios))]


def group_figures(runs: Sequence[Run]) -> list[Figure]:
    figures: dict[tuple[Hand | None, Quarters], list[Run]] = {}
    for run in runs:
        figures.setdefault((run.hand, run.interval_quarters), []).append(run)
    return [Figure(hand, interval, tuple(own)) for (hand, interval), own in figures.items()]


def run_pace(run: Run, reference_quarter_s: Seconds) -> float:
    """How long the whole run lasted over what it should last at a reference tempo: 0.8 is a fifth too
    fast."""
    span = float(run.interval_quarters) * len(run.ratios) * reference_quarter_s
    return (run.strikes[-1].played_s - run.strikes[0].played_s) / span


@dataclass(frozen=True, slots=True)
class Asynchrony:
    """A written instant at which both hands strike; ``gap_ms`` right minus left (positive: left leads)."""

    onset_quarters: Quarters
    gap_ms: float


def asynchronies_of(right: Sequence[HandStrike], left: Sequence[HandStrike]) -> list[Asynchrony]:
    """Where both hands strike, and each at a time of its own."""
    by_onset: dict[Fraction, HandStrike] = {strike.onset_quarters: strike for strike in left if strike.is_apart}
    return [
        Asynchrony(strike.onset_quarters, 1000 * (strike.played_s - by_onset[strike.onset_quarters].played_s))
        for strike in right
        if strike.is_apart and strike.onset_quarters in by_onset
    ]
