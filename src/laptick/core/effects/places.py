"""Places at which one kind of thing can happen, over a passage: runs, entries after rests, landings after runs, long
gaps, and beginnings of runs; each with its limit.

A *landing* is the strike on which a run ends; a *beginning* that is late is made good note by note until there.
Amounts: of a run and a gap the share of its time by which it is too short (rushing is positive); of the
others seconds late.
Source: docs/trade.md 4.4, 4.6, 4.7 (common practice).
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

from laptick.core.base.units import Quarters, Seconds
from laptick.core.measuring.evenness import Run
from laptick.core.measuring.limits import Limits
from laptick.core.measuring.long_notes import sounding_spans, sounds_through
from laptick.core.measuring.measured import Measured
from laptick.core.score.score import Hand
from laptick.core.takes.task import Task


class Kind(StrEnum):
    RUN = "run"
    ENTRY = "entry"
    LANDING = "landing"
    GAP = "gap"
    BEGINNING = "beginning"


#: Intervals from which on a run is long.
LONG_RUN = 4


@dataclass(frozen=True, slots=True)
class Spot:
    """One place of a kind: from where to where, of how many intervals of which length, and its limit.

    ``limit`` is in the unit of the amount. An entry and a landing have ``end_quarters`` at the strike itself;
    ``interval_quarters`` of an entry is ``None``.
    """

    kind: Kind
    hand: Hand | None
    start_quarters: Quarters
    end_quarters: Quarters
    intervals: int
    interval_quarters: Quarters | None
    limit: float


@dataclass(frozen=True)
class Scale:
    """What the limits of one take are made of: the beat, and how exactly the source knows a strike; ``part_factor``:
    how many times as clear what is found at some places only must be."""

    limits: Limits
    beat_quarters: Quarters
    beat_s: Seconds
    uncertainty_s: Seconds
    part_factor: float = 1.0

    @cached_property
    def quarter_s(self) -> Seconds:
        return self.beat_s / float(self.beat_quarters)

    def share_limit(self, quarters: float) -> float:
        """How much too short an interval of this length may be, as a share of it."""
        interval_s = quarters * self.quarter_s
        return self.limits.evenness(1000 * interval_s) + 1.414 * self.uncertainty_s / interval_s

    @property
    def strike_limit_s(self) -> Seconds:
        """How far a strike may lie from the beat."""
        return self.limits.spread_ms(1000 * self.beat_s) / 1000 + self.uncertainty_s


def find_spots(task: Task, measured: Measured, scale: Scale) -> list[Spot]:
    """Every place of every kind."""
    short = [run for run in measured.runs if run.interval_quarters < task.beat_quarters]
    long = [run for run in short if len(run.ratios) >= LONG_RUN]
    of_runs = [*_runs(short, scale), *_landings(short, scale), *_beginnings(long, scale)]
    return [*of_runs, *_entries(measured, scale), *_gaps(task, measured, scale)]


def _runs(runs: Sequence[Run], scale: Scale) -> Iterator[Spot]:
    for run in runs:
        start, end = run.strikes[0].onset_quarters, run.strikes[-1].onset_quarters
        limit = scale.share_limit(float(run.interval_quarters))
        yield Spot(Kind.RUN, run.hand, start, end, len(run.ratios), run.interval_quarters, limit)


def _landings(runs: Sequence[Run], scale: Scale) -> Iterator[Spot]:
    for run in runs:
        start, end = run.strikes[0].onset_quarters, run.strikes[-1].onset_quarters
        yield Spot(Kind.LANDING, run.hand, start, end, 1, run.interval_quarters, scale.strike_limit_s)


def _beginnings(runs: Sequence[Run], scale: Scale) -> Iterator[Spot]:
    for run in runs:
        start, end = run.strikes[0].onset_quarters, run.strikes[-1].onset_quarters
        yield Spot(Kind.BEGINNING, run.hand, start, end, 1, run.interval_quarters, scale.strike_limit_s)


def _entries(measured: Measured, scale: Scale) -> Iterator[Spot]:
    for entry in measured.entries:
        at = entry.onset_quarters
        yield Spot(Kind.ENTRY, entry.hand, entry.rest_quarters, at, 1, None, scale.strike_limit_s)


def _gaps(task: Task, measured: Measured, scale: Scale) -> Iterator[Spot]:
    """Every gap of a beat or more between neighbouring strikes through which something sounds."""
    events, stops = measured.fit.events, {stop.index for stop in measured.fit.stops}
    spans, beat = sounding_spans(task), float(task.beat_quarters)
    for index, (before, here) in enumerate(itertools.pairwise(events), start=1):
        start, end = before.onset_quarters, here.onset_quarters
        if end - start < beat - 1e-9 or index in stops or here.segment != before.segment:
            continue
        if sounds_through(spans, start, end):
            length = Quarters(end - start).limit_denominator(10_000)
            begin = Quarters(start).limit_denominator(10_000)
            yield Spot(Kind.GAP, None, begin, begin + length, 1, length, scale.share_limit(end - start))
