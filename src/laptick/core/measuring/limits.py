"""Limits by level, as tables.

Every timing limit is the larger of a share of the interval and a floor in milliseconds; the source's
own uncertainty is added where it is applied. Source: docs/trade.md 4 (practice; floors to be fitted to
performances); limits on missing, extra and wrong strikes and
on key-ups: common practice, no source. At the advanced level a good recorded performance lets unmarked accompanying
quarters go after two fifths of their length, so long notes let go early are not judged there.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from laptick.core.base.errors import OptionError
from laptick.core.base.levels import Level


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
    cut_share_of_beat: float
    """A long note let go before its written end; from a whole beat on it is touch, and not judged."""
    over_share_of_beat: float
    """A key let go after the written end, into a rest."""
    release_floor_ms: float
    """Of both."""

    def evenness(self, interval_ms: float) -> float:
        """Limit on the coefficient of variation of intervals of this length."""
        return max(self.evenness_share, self.evenness_floor_ms / interval_ms)

    def spread_ms(self, beat_ms: float) -> float:
        return max(self.spread_floor_ms, self.spread_share_of_beat * beat_ms)

    def hesitation_ms(self, beat_ms: float) -> float:
        return max(self.hesitation_floor_ms, self.hesitation_share_of_beat * beat_ms)

    def cut_ms(self, beat_ms: float) -> float:
        return max(self.release_floor_ms, self.cut_share_of_beat * beat_ms)

    def over_ms(self, beat_ms: float) -> float:
        return max(self.release_floor_ms, self.over_share_of_beat * beat_ms)


LIMITS: dict[Level, Limits] = {
    Level.FIRST_YEAR: Limits(0.12, 40, 60, 0.09, 50, 0.08, 0.08, 0.35, 120, 0.08, 0.35, 0.35, 120),
    Level.ELEMENTARY: Limits(0.09, 34, 45, 0.07, 40, 0.06, 0.06, 0.30, 120, 0.06, 0.35, 0.30, 120),
    Level.INTERMEDIATE: Limits(0.06, 28, 30, 0.05, 30, 0.04, 0.04, 0.25, 120, 0.04, 0.45, 0.25, 120),
    Level.ADVANCED: Limits(0.05, 24, 20, 0.04, 25, 0.03, 0.03, 0.20, 120, 0.03, 1.0, 0.20, 120),
}


@dataclass(frozen=True, slots=True)
class LimitField:
    """A limit as a teacher sets it. ``unit``: ``%`` for shares, else ``ms``; ``low``, ``high``: the range it may have,
    in shares or milliseconds."""

    words: str
    unit: str
    low: float
    high: float


#: What a studio may set for itself, level by level.
LIMIT_FIELDS: dict[str, LimitField] = {
    "evenness_share": LimitField("unevenness of a run, of its notes", "%", 0.01, 0.5),
    "evenness_floor_ms": LimitField("… and never less than", "ms", 5, 200),
    "hands_apart_ms": LimitField("hands apart", "ms", 5, 300),
    "tempo_share": LimitField("off the tempo asked for", "%", 0.005, 0.5),
    "drift_share": LimitField("drift from the first bar to the last", "%", 0.005, 0.5),
    "hesitation_share_of_beat": LimitField("a stop, of a beat", "%", 0.05, 2.0),
    "hesitation_floor_ms": LimitField("… and never less than", "ms", 20, 1000),
    "spread_share_of_beat": LimitField("spread around the beat, of a beat", "%", 0.01, 0.5),
    "spread_floor_ms": LimitField("… and never less than", "ms", 5, 300),
    "cut_share_of_beat": LimitField("a long note let go early, of a beat (100 %: not judged)", "%", 0.05, 1.0),
    "over_share_of_beat": LimitField("a key held on into a rest, of a beat", "%", 0.05, 1.0),
    "release_floor_ms": LimitField("… and never less than", "ms", 20, 1000),
    "slips_share": LimitField("strikes missed, too many or wrong, of all", "%", 0.005, 0.5),
}


def limits_of(level: Level, own: Mapping[str, Mapping[str, float]] | None = None) -> Limits:
    """The limits of a level, with a studio's own (level → field → value) in place.

    Raises:
        OptionError: a limit that does not exist, or outside its range; ``where`` names it.
    """
    changed = (own or {}).get(level.value) or {}
    for name, value in changed.items():
        known = LIMIT_FIELDS.get(name)
        where = f"limits.{level.value}.{name}"
        if known is None:
            raise OptionError(f"there is no limit “{name[:30]}”.", where=where)
        if not known.low <= value <= known.high:
            scale = 100 if known.unit == "%" else 1
            raise OptionError(
                f"“{known.words}” takes {known.low * scale:g} to {known.high * scale:g} {known.unit}.",
                where=where,
                kept="Nothing was changed.",
            )
    return replace(LIMITS[level], **changed)


#: A student's limits are at most so much wider than the level's: beyond twice as wide they would say nothing.
MOST_SOFTER_PERCENT = 100


def softened(limits: Limits, percent: int) -> Limits:
    """Every limit so much wider, none beyond the range that it may have; 0: as they are."""
    if percent == 0:
        return limits
    wider = {name: min(known.high, getattr(limits, name) * (1 + percent / 100)) for name, known in LIMIT_FIELDS.items()}
    return replace(limits, **wider)


#: Fewer strikes of a kind than this are never a finding, whatever their share.
SLIPS_FLOOR = 2

#: An ordinary player's single values spread by this share of the limit: no mean is taken to be surer than that allows.
ORDINARY_SHARE = 0.6

#: A run of fewer intervals than this, pooled over its repeats, is shown but not judged.
JUDGED_INTERVALS = 6

#: A median of hands apart on fewer points than this is shown but not judged.
JUDGED_POINTS = 6

#: Entries after rests needed for their lateness to be judged.
JUDGED_ENTRIES = 3

#: Bars needed for a slope (drift) to be judged.
JUDGED_BARS = 6

#: A take of fewer bars is too short for its timing to be judged at all: a single bar passes faults and blames the
#: faultless (docs/trade.md 3.3). Which strikes are there, and where it stopped, is told all the same.
TIMED_BARS = 3

#: A take is followed when at least this share of the strikes asked for up to where it ended, and of
#: those played, are matched and fit a beat.
FOLLOWED_SHARE = 0.6
#: … or, on keys, when this share of both has its key, in order, however far off the beat: that is no chance.
SURE_SHARE = 0.9
FOLLOWED_LEAST = 4
