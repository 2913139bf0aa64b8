"""A measured take as the regression sees it: strikes with their spread, where the playing began anew."""

from __future__ import annotations

import itertools
from collections.abc import Collection

import numpy as np

from laptick.core.base.units import Quarters
from laptick.core.effects.noise import Strikes
from laptick.core.effects.places import Scale
from laptick.core.effects.regression import Take
from laptick.core.measuring.evenness import HandStrike
from laptick.core.measuring.measured import Measured
from laptick.core.measuring.played_bends import Bends
from laptick.core.score.score import Hand
from laptick.core.takes.task import Task

#: A hand, and where it strikes.
HandStrikeKey = tuple[Hand | None, Quarters]


def as_take(task: Task, measured: Measured, scale: Scale, left_out: Collection[HandStrikeKey] = ()) -> Take:
    """``left_out``: strikes that tell nothing of the beat, as those inside a figure that is played as another; what
    lies inside a written bend tells nothing either."""
    lines = [line for line in measured.lines if line]
    bends = measured.written_bends
    gathered = sorted(
        (float(strike.onset_quarters), number, strike.played_s, spread)
        for number, line in enumerate(lines)
        for strike, spread in zip(line, _spreads(line, scale), strict=True)
        if (strike.hand, strike.onset_quarters) not in left_out and not bends.covers(float(strike.onset_quarters))
    )
    onset, hand, played, spread = (np.array(column) for column in zip(*gathered, strict=True))
    _, instant = np.unique(onset, return_inverse=True)
    strikes = Strikes(onset, onset * scale.quarter_s, played, hand.astype(np.int64), instant.astype(np.int64), spread)
    return Take(strikes, tuple(line[0].hand for line in lines), _steps(measured, bends), (), scale)


def _spreads(line: tuple[HandStrike, ...], scale: Scale) -> list[float]:
    """The SD of each strike of a player at the limit: what its nearest neighbour's interval allows."""
    onsets = [float(strike.onset_quarters) for strike in line]
    gaps = [b - a for a, b in itertools.pairwise(onsets)]
    most = scale.limits.spread_ms(1000 * scale.beat_s) / 1000
    found = []
    for i in range(len(onsets)):
        near = min([*gaps[max(0, i - 1) : i + 1], 2 * float(scale.beat_quarters)])
        near_s = near * scale.quarter_s
        found.append(min(most, scale.limits.evenness(1000 * near_s) * near_s / 1.414))
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
