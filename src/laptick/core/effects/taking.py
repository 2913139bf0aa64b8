"""A measured take as the regression sees it: strikes with their spread, where the playing began anew."""

from __future__ import annotations

import itertools
from collections.abc import Collection

import numpy as np

from laptick.core.base.units import Quarters, Seconds
from laptick.core.effects.common import Take
from laptick.core.effects.noise import Strikes
from laptick.core.effects.places import Scale
from laptick.core.measuring.evenness import HandStrike
from laptick.core.measuring.measured import Measured
from laptick.core.measuring.played_bends import Bends
from laptick.core.score.score import Hand
from laptick.core.takes.task import Task

#: How exactly a hand's strike is known that was not told apart from the other's: no better than hands land together.
NOT_APART_S: Seconds = 0.025

#: A hand, and where it strikes.
HandStrikeKey = tuple[Hand | None, Quarters]


def as_take(task: Task, measured: Measured, scale: Scale, left_out: Collection[HandStrikeKey] = ()) -> Take:
    """``left_out``: strikes that tell nothing of the beat, as those inside a figure that is played as another; what
    lies inside a written bend tells nothing either."""
    lines = [line for line in measured.lines if line]
    bends = measured.written_bends
    gathered = [
        (at, number, strike.played_s, spread, scale.uncertainty_s if strike.is_apart else NOT_APART_S)
        for number, line in enumerate(lines)
        for strike, (at, spread) in zip(line, _spreads(line, scale), strict=True)
        if not (left_out and (strike.hand, strike.onset_quarters) in left_out) and not bends.covers(at)
    ]
    columns = np.array(gathered, dtype=np.float64).reshape(-1, 5).T
    onset, hand, played, spread, unsure = columns[:, np.lexsort((columns[1], columns[0]))]
    _, instant = np.unique(onset, return_inverse=True)
    clock_s = task.paces.due_of(onset) * scale.quarter_s
    strikes = Strikes(onset, clock_s, played, hand.astype(np.int64), instant.astype(np.int64), spread, unsure)
    return Take(strikes, tuple(line[0].hand for line in lines), _steps(measured, bends), (), scale)


def _spreads(line: tuple[HandStrike, ...], scale: Scale) -> list[tuple[float, float]]:
    """Each strike's onset, and the SD of it in a player at the limit: what its nearest neighbour's interval allows."""
    onsets = [float(strike.onset_quarters) for strike in line]
    gaps = [b - a for a, b in itertools.pairwise(onsets)]
    most, two_beats = scale.limits.spread_ms(1000 * scale.beat_s) / 1000, 2 * float(scale.beat_quarters)
    found = []
    for i, onset in enumerate(onsets):
        near_s = min([*gaps[max(0, i - 1) : i + 1], two_beats]) * scale.quarter_s
        found.append((onset, min(most, scale.limits.evenness(1000 * near_s) * near_s / 1.414)))
    return found


def _steps(measured: Measured, bends: Bends) -> tuple[float, ...]:
    """Onsets from which the playing goes on after a stop, from elsewhere, or after a bend."""
    fit = measured.fit
    stops = {*bends.holds, *bends.lifts}
    stops |= {fit.events[stop.index].onset_quarters for stop in fit.stops}
    for before, here in itertools.pairwise(fit.events):
        if before.segment != here.segment:
            stops.add(here.onset_quarters)
    return tuple(sorted(stops))
