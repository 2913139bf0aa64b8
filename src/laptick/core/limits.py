"""Limits by level, as tables.

Every timing limit is the larger of a share of the interval and a floor in milliseconds; the source's
own uncertainty is added where it is applied. Source: handbook 4 (practice; floors to be fitted to
performances); limits on missing, extra and wrong strikes: common practice, no source.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Level(StrEnum):
    FIRST_YEAR = "first-year"
    ELEMENTARY = "elementary"
    INTERMEDIATE = "intermediate"
    ADVANCED = "advanced"


@dataclass(frozen=True, slots=True)
class Limits:
    """Shares are of 1 (0.12 = 12 %), the rest says its unit."""

    evenness_share: float
    evenness_floor_ms: float
    spread_floor_ms: float
    spread_share_of_beat: float
    hands_apart_ms: float
    tempo_share: float
    drift_share: float
    hesitation_share_of_beat: float
    hesitation_floor_ms: float
    slips_share: float
    """Missing, extra or wrong strikes, each kind, of the strikes asked for."""

    def evenness(self, interval_ms: float) -> float:
        """Limit on the coefficient of variation of intervals of this length."""
        return max(self.evenness_share, self.evenness_floor_ms / interval_ms)

    def spread_ms(self, beat_ms: float) -> float:
        return max(self.spread_floor_ms, self.spread_share_of_beat * beat_ms)

    def hesitation_ms(self, beat_ms: float) -> float:
        return max(self.hesitation_floor_ms, self.hesitation_share_of_beat * beat_ms)


LIMITS: dict[Level, Limits] = {
    Level.FIRST_YEAR: Limits(0.12, 40, 60, 0.09, 50, 0.08, 0.08, 0.35, 120, 0.08),
    Level.ELEMENTARY: Limits(0.09, 34, 45, 0.07, 40, 0.06, 0.06, 0.30, 120, 0.06),
    Level.INTERMEDIATE: Limits(0.06, 28, 30, 0.05, 30, 0.04, 0.04, 0.25, 120, 0.04),
    Level.ADVANCED: Limits(0.05, 24, 20, 0.04, 25, 0.03, 0.03, 0.20, 120, 0.03),
}

LEVEL_NAMES: dict[Level, str] = {
    Level.FIRST_YEAR: "first year",
    Level.ELEMENTARY: "elementary",
    Level.INTERMEDIATE: "intermediate",
    Level.ADVANCED: "advanced",
}

#: Fewer strikes of a kind than this are never a finding, whatever their share.
SLIPS_FLOOR = 2

#: A run of fewer intervals than this, pooled over its repeats, is shown but not judged.
JUDGED_INTERVALS = 6

#: A median of hands apart on fewer points than this is shown but not judged.
JUDGED_POINTS = 6

#: Bars needed for a slope (drift) to be judged.
JUDGED_BARS = 4

#: A take is followed when at least this share of the strikes asked for up to where it ended, and of
#: those played, are matched and fit a beat.
FOLLOWED_SHARE = 0.6
FOLLOWED_LEAST = 4
