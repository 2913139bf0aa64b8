"""How strikes vary that mean nothing: the spread of a hand that plays well, a tempo that wanders, a beat that gives a
little here and there, and what the source cannot tell.

Variances are of a player at the limit; ``scale`` says where a take's player is. Both wanders are Ornstein-Uhlenbeck
processes of the rate, integrated to time (Uhlenbeck & Ornstein, Physical Review 36, 1930; the integral's covariance
worked by hand).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from laptick.core.effects.places import Scale

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

#: A slow wander of the tempo: its SD as a share of the tempo's limit, and how many beats it remembers.
WANDER_SHARE, WANDER_BEATS = 0.22, 8.0

#: Phrases that are shaped otherwise than a model can know: SD of the rate, and how many beats it lasts.
LOCAL_SD, LOCAL_BEATS = 0.03, 1.5

#: Of the variance of a strike so much is shared by both hands at one instant.
SHARED = 0.6


@dataclass(frozen=True)
class Strikes:
    """The strikes of both hands in order of their places. ``clock_s``: when each is due at the take's own tempo;
    ``hand``: 0 or 1; ``instant``: its number among the places; ``spread_s``: the SD of one at the limit;
    ``unsure_s``: how exactly the source knows it."""

    onset: Floats
    clock_s: Floats
    played_s: Floats
    hand: Ints
    instant: Ints
    spread_s: Floats
    unsure_s: Floats

    def __len__(self) -> int:
        return len(self.onset)

    def of(self, rows: Ints) -> Strikes:
        return Strikes(
            self.onset[rows],
            self.clock_s[rows],
            self.played_s[rows],
            self.hand[rows],
            self.instant[rows],
            self.spread_s[rows],
            self.unsure_s[rows],
        )


def integrated(clock_s: Floats, sd: float, reach_s: float) -> Floats:
    """Covariance of the time gained by a wander of the rate with this SD and reach."""
    t = clock_s - clock_s[0]
    fades = np.exp(-t / reach_s)
    apart = np.exp(-np.abs(t[:, None] - t[None, :]) / reach_s)
    inside = np.minimum(t[:, None], t[None, :])
    gained: Floats = sd * sd * (2 * reach_s * inside - reach_s**2 * (1 - fades[:, None] - fades[None, :] + apart))
    return gained


def wanders(strikes: Strikes, scale: Scale) -> Floats:
    """Covariance of what the tempo's own movement does to every strike."""
    slow = integrated(strikes.clock_s, WANDER_SHARE * scale.limits.tempo_share, WANDER_BEATS * scale.beat_s)
    return slow + integrated(strikes.clock_s, LOCAL_SD, LOCAL_BEATS * scale.beat_s)


def strike_noise(strikes: Strikes) -> Floats:
    """Covariance of the strikes round the beat, of a player at the limit."""
    same = strikes.instant[:, None] == strikes.instant[None, :]
    shared = SHARED * strikes.spread_s[:, None] * strikes.spread_s[None, :]
    return np.where(same, shared, 0.0) + np.diag((1 - SHARED) * strikes.spread_s**2)
