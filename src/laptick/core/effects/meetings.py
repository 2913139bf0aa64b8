"""Whether one hand is late wherever both strike, or only where it enters or lands.

In music in which the hands meet at little else than entries and landings, a hand late at its entries can as well be
told as a hand late throughout that lands early. What is late at the places of one kind only is told of these.
Source: ours, of parsimony; measured in docs/operating-curve.md.
"""

from __future__ import annotations

from collections.abc import Sequence
from statistics import median

import numpy as np

from laptick.core.effects.common import Take
from laptick.core.effects.places import Kind, Spot

#: So many moments on either side tell.
LEAST_MOMENTS = 3

#: Late there by so much of what a strike may be, and elsewhere by no more than this share of that.
LATE_THERE, LATE_ELSEWHERE = 0.9, 1 / 3

#: How far a hand may then lag wherever both strike (SD).
MEETING_SD_S = 0.003

#: Onsets are alike to so many parts of a quarter.
_PARTS = 10_000


def late_at_places_only(take: Take, spots: Sequence[Spot]) -> bool:
    """Is a hand late against the other at its entries, or at its landings, and not where they meet otherwise?"""
    lag_s = _lags(take)
    for number, hand in enumerate(take.hands):
        sign = 1 if number else -1
        for kind in (Kind.ENTRY, Kind.LANDING):
            own = {round(_PARTS * float(s.end_quarters)) for s in spots if s.kind is kind and s.hand is hand}
            there = [sign * lag for at, lag in lag_s.items() if at in own]
            elsewhere = [sign * lag for at, lag in lag_s.items() if at not in own]
            if min(len(there), len(elsewhere)) < LEAST_MOMENTS:
                continue
            late_s = median(there)
            is_late = late_s > LATE_THERE * take.scale.strike_limit_s
            if is_late and abs(median(elsewhere)) < LATE_ELSEWHERE * late_s:
                return True
    return False


def _lags(take: Take) -> dict[int, float]:
    """Where both hands strike (in parts of a quarter): by how many seconds the second comes after the first."""
    strikes = take.strikes
    meets = np.bincount(strikes.instant)[strikes.instant] == 2
    rows = np.flatnonzero(meets)
    # Strikes are in order of onset, then of hand.
    first, second = rows[::2], rows[1::2]
    lags = strikes.played_s[second] - strikes.played_s[first]
    return {round(_PARTS * at): lag for at, lag in zip(strikes.onset[first].tolist(), lags.tolist(), strict=True)}
