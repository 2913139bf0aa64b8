"""Meter: four notions kept apart.

1. the *written signature* (``TimeSignature``: what the page says),
2. the *counted beat* (``Beat``: what is felt and numbered; a dotted quarter in 6/8),
3. the *grouping* (how the beats or units of a bar are joined: 3+2),
4. the *weights* (how strong a position is: bar, beat, division).

Positions inside a bar are exact quarters from the start of the *nominal* bar, so a pickup of one
quarter before 4/4 starts at position 3.

Sources: beats and divisions, common practice (handbook 2.1). Weights: the scheme of
Longuet-Higgins & Lee, "The rhythmic interpretation of monophonic music", Music Perception 1(4), 1984.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache

from laptick.core.errors import ScoreError
from laptick.core.units import Quarters


@dataclass(frozen=True, slots=True)
class TimeSignature:
    """What the page says: ``beats`` units of ``4 / beat_type`` quarters each."""

    beats: int
    beat_type: int

    def __post_init__(self) -> None:
        if not (1 <= self.beats <= 64) or self.beat_type not in (1, 2, 4, 8, 16, 32, 64):
            raise ScoreError(f"{self.beats}/{self.beat_type} is not a time signature that can be counted.")

    @property
    def unit_quarters(self) -> Quarters:
        return Fraction(4, self.beat_type)

    @property
    def bar_quarters(self) -> Quarters:
        return self.beats * self.unit_quarters

    def __str__(self) -> str:
        return f"{self.beats}/{self.beat_type}"


@dataclass(frozen=True, slots=True)
class Beat:
    """One counted beat: where it starts in the nominal bar, how long it is, 2 or 3 parts."""

    start_quarters: Quarters
    length_quarters: Quarters
    division: int

    @property
    def end_quarters(self) -> Quarters:
        return self.start_quarters + self.length_quarters


@dataclass(frozen=True, slots=True)
class Meter:
    """A signature as it is counted.

    ``beat_quarters`` is the length of the (first) beat: the unit in which tempos are given.
    ``unit_quarters`` is the part into which a compound or asymmetric beat divides.
    """

    signature: TimeSignature
    beats: tuple[Beat, ...]

    @property
    def bar_quarters(self) -> Quarters:
        return self.signature.bar_quarters

    @property
    def beat_quarters(self) -> Quarters:
        """The tempo unit. With unequal beats it is the eighth-like unit's common double."""
        if self.is_asymmetric:
            return 2 * self.unit_quarters
        return self.beats[0].length_quarters

    @property
    def unit_quarters(self) -> Quarters:
        first = self.beats[0]
        return first.length_quarters / first.division

    @property
    def is_compound(self) -> bool:
        return all(beat.division == 3 for beat in self.beats)

    @property
    def is_asymmetric(self) -> bool:
        return len({beat.length_quarters for beat in self.beats}) > 1

    @property
    def grouping(self) -> tuple[Quarters, ...]:
        return tuple(beat.length_quarters for beat in self.beats)

    def beat_at(self, position: Quarters) -> Beat:
        """The beat in which a nominal-bar position lies (the last one for positions past the end)."""
        for beat in self.beats:
            if position < beat.end_quarters:
                return beat
        return self.beats[-1]

    def weight(self, position: Quarters) -> int:
        """Metrical weight of a nominal-bar position: 0 for the bar, lower for weaker positions.

        4/4: 0 −2 −1 −2, halves of a beat −3, quarters −4. 3/4: 0 −1 −1, halves −2. 6/8: 0, unit 4 −1,
        other units −2, their halves −3. Unequal groups: starts −1, units −2.
        """
        return _weight(self, position)


#: Weights of the beats of a bar by their number; other numbers: every beat but the first −1.
BEAT_WEIGHTS: dict[int, tuple[int, ...]] = {
    1: (0,),
    2: (0, -1),
    3: (0, -1, -1),
    4: (0, -2, -1, -2),
}

#: Default grouping of asymmetric bars, in units (handbook 2.1, common practice).
DEFAULT_GROUPING: dict[int, tuple[int, ...]] = {
    5: (3, 2),
    7: (2, 2, 3),
    8: (3, 3, 2),
    10: (3, 2, 3, 2),
    11: (3, 3, 3, 2),
}


@lru_cache(maxsize=256)
def meter_of(signature: TimeSignature) -> Meter:
    """The signature as it is counted when nobody chose otherwise (handbook 2.1)."""
    beats, unit = signature.beats, signature.unit_quarters
    if beats % 3 == 0 and beats > 3 and signature.beat_type >= 4 and not (beats == 6 and unit > 1):
        return Meter(signature, _equal_beats(beats // 3, 3 * unit, 3))
    if signature.beat_type >= 8 and beats in DEFAULT_GROUPING:
        starts, position = [], Fraction(0)
        for parts in DEFAULT_GROUPING[beats]:
            starts.append(Beat(position, parts * unit, parts))
            position += parts * unit
        return Meter(signature, tuple(starts))
    return Meter(signature, _equal_beats(beats, unit, 2))


def _equal_beats(count: int, length: Quarters, division: int) -> tuple[Beat, ...]:
    return tuple(Beat(index * length, length, division) for index in range(count))


@lru_cache(maxsize=65536)
def _weight(meter: Meter, position: Quarters) -> int:
    position %= meter.bar_quarters
    beat = meter.beat_at(position)
    table = BEAT_WEIGHTS.get(len(meter.beats), (0,) + (-1,) * (len(meter.beats) - 1))
    if meter.is_asymmetric:
        table = (0,) + (-1,) * (len(meter.beats) - 1)
    inside = (position - beat.start_quarters) / beat.length_quarters
    if inside == 0:
        return table[meter.beats.index(beat)]
    return min(table) - division_depth(inside, beat.division)


def division_depth(inside: Fraction, division: int) -> int:
    """How many levels below the beat a position lies: 1/2 of a simple beat 1, 1/4 2; 1/3 of a compound
    beat 1, its halves (1/6, 1/2) 2. A tuplet counts as one level and one more for each halving of it."""
    parts = (inside * (3 if division == 3 else 1)).denominator
    halvings = 0
    while parts % 2 == 0:
        parts //= 2
        halvings += 1
    return halvings + (1 if division == 3 or parts > 1 else 0)
