"""Meter: four notions kept apart.

1. the *written signature* (``TimeSignature``: what the page says, additive ones with their terms),
2. the *counted beat* (``Beat``: what is felt and numbered; a dotted quarter in 6/8),
3. the *grouping* (how the beats or units of a bar are joined: 3+2),
4. the *weights* (how strong a position is: bar, beat, division).

Positions inside a bar are exact quarters from the start of the *nominal* bar, so a pickup of one
quarter before 4/4 starts at position 3.

Sources: beats and divisions, common practice (docs/trade.md 2.1). Weights: the scheme of
Longuet-Higgins & Lee, "The rhythmic interpretation of monophonic music", Music Perception 1(4), 1984.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property, lru_cache

from laptick.core.base.errors import OptionError, ScoreError
from laptick.core.base.units import Quarters

#: How the units (or, over 4, the beats) of a bar are joined.
Grouping = tuple[int, ...]


@dataclass(frozen=True, slots=True)
class TimeSignature:
    """What the page says: ``beats`` units of ``4 / beat_type`` quarters each; ``groups`` are the terms
    of an additive signature (3+2/8), which add up to ``beats``."""

    beats: int
    beat_type: int
    groups: Grouping = ()

    def __post_init__(self) -> None:
        if not (1 <= self.beats <= 64) or self.beat_type not in (1, 2, 4, 8, 16, 32, 64):
            raise ScoreError(f"{self.beats}/{self.beat_type} is not a time signature that can be counted.")
        if self.groups and sum(self.groups) != self.beats:
            raise ScoreError(f"the terms of the time signature {self} do not add up.")

    @property
    def unit_quarters(self) -> Quarters:
        return Fraction(4, self.beat_type)

    @property
    def bar_quarters(self) -> Quarters:
        return self.beats * self.unit_quarters

    def __str__(self) -> str:
        return f"{'+'.join(map(str, self.groups)) or self.beats}/{self.beat_type}"


@dataclass(frozen=True, slots=True)
class Beat:
    """One counted beat: where it starts in the nominal bar, how long it is, 2 or 3 parts."""

    start_quarters: Quarters
    length_quarters: Quarters
    division: int

    @property
    def end_quarters(self) -> Quarters:
        return self.start_quarters + self.length_quarters


@dataclass(frozen=True)
class Meter:
    """A signature as it is counted.

    ``beat_quarters`` is the length of the (first) beat: the unit in which tempos are given.
    ``unit_quarters`` is the part into which a compound or asymmetric beat divides. ``beat_groups`` joins
    beats (5/4 as 3+2); empty where the beats are not joined.
    """

    signature: TimeSignature
    beats: tuple[Beat, ...]
    beat_groups: Grouping = ()

    def __hash__(self) -> int:  # hashing fractions is slow, and few meters share a signature
        return hash((self.signature.beats, self.signature.beat_type, len(self.beats), self.beat_groups))

    @property
    def bar_quarters(self) -> Quarters:
        return self.signature.bar_quarters

    @cached_property
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

    @cached_property
    def is_asymmetric(self) -> bool:
        return len({beat.length_quarters for beat in self.beats}) > 1

    @property
    def grouping(self) -> tuple[Quarters, ...]:
        """The lengths of what is joined: groups of beats where there are any, else the beats."""
        if not self.beat_groups:
            return tuple(beat.length_quarters for beat in self.beats)
        return tuple(size * self.beats[0].length_quarters for size in self.beat_groups)

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

#: Default grouping of asymmetric bars, in units (over 4: in beats). docs/trade.md 2.1, common practice.
DEFAULT_GROUPING: dict[int, Grouping] = {
    5: (3, 2),
    7: (2, 2, 3),
    8: (3, 3, 2),
    10: (3, 2, 3, 2),
    11: (3, 3, 3, 2),
}

#: Simple signatures whose beats are joined in groups.
GROUPED_BEATS = frozenset({5, 7})

#: What ``--beat`` may name, in quarters; ``bar`` is the whole bar.
BEAT_CHOICES: dict[str, Quarters | None] = {
    "quarter": Fraction(1),
    "half": Fraction(2),
    "eighth": Fraction(1, 2),
    "dotted-quarter": Fraction(3, 2),
    "bar": None,
}


def is_asymmetric(signature: TimeSignature) -> bool:
    """True for bars counted in groups of two and three units: 5/8, 7/8, 8/8, 10/8, 11/8, 13/16 …"""
    return (signature.beat_type >= 8 and signature.beats >= 5 and signature.beats % 3 != 0) or _is_mixed(signature)


def _is_mixed(signature: TimeSignature) -> bool:
    """An additive signature over 8 or smaller whose terms are twos and threes, unequal (2+2+2+3/8)."""
    return signature.beat_type >= 8 and len(set(signature.groups)) > 1 and set(signature.groups) <= {2, 3, 4}


def default_grouping(units: int) -> Grouping:
    """The grouping of the table; longer bars: as many threes as leave twos at the end."""
    if units in DEFAULT_GROUPING:
        return DEFAULT_GROUPING[units]
    threes = units // 3 if units % 3 != 1 else units // 3 - 1
    return (3,) * threes + (2,) * ((units - 3 * threes) // 2)


@lru_cache(maxsize=64)
def all_groupings(units: int) -> tuple[Grouping, ...]:
    """All ways to make up ``units`` of twos and threes."""
    if units == 0:
        return ((),)
    return tuple((size, *rest) for size in (2, 3) if size <= units for rest in all_groupings(units - size))


def has_grouping(signature: TimeSignature) -> bool:
    """Whether a bar's units or beats are joined in groups that could be others."""
    return is_asymmetric(signature) or (signature.beat_type < 8 and signature.beats in GROUPED_BEATS)


def fits_grouping(signature: TimeSignature, grouping: Grouping) -> bool:
    """Whether a bar of this signature can be grouped so: 5/8 as 2+3, 5/4 as 2+3, 9/8 as 2+2+2+3."""
    if sum(grouping) != signature.beats:
        return False
    return signature.beat_type < 8 or set(grouping) <= {2, 3}


def parse_grouping(text: str) -> Grouping:
    """``"3+2"`` → (3, 2).

    Raises:
        OptionError: not numbers from 1 to 4 joined by +.
    """
    terms = text.replace(" ", "").split("+")
    if len(terms) > 32 or not all(len(term) == 1 and term in "1234" for term in terms):
        raise OptionError(f"the grouping “{text[:40]}” is not understood; write it as 3+2.", where="grouping")
    return tuple(int(term) for term in terms)


@lru_cache(maxsize=1024)
def meter_of(signature: TimeSignature, grouping: Grouping | None = None) -> Meter:
    """The signature as it is counted (docs/trade.md 2.1); ``grouping`` by the beams or the teacher.

    A grouping that does not fit the signature is left aside.
    """
    beats, unit = signature.beats, signature.unit_quarters
    chosen = grouping if grouping and fits_grouping(signature, grouping) else None
    if signature.beat_type >= 8 and (is_asymmetric(signature) or (chosen and len(set(chosen)) > 1)):
        return Meter(
            signature, _grouped_beats(chosen or _split_fours(signature.groups) or default_grouping(beats), unit)
        )
    if beats % 3 == 0 and beats > 3 and signature.beat_type >= 4 and not (beats == 6 and unit > 1):
        return Meter(signature, _equal_beats(beats // 3, 3 * unit, 3))
    groups = chosen or signature.groups or (DEFAULT_GROUPING[beats] if beats in GROUPED_BEATS else ())
    return Meter(signature, _equal_beats(beats, unit, 2), groups)


def _split_fours(groups: Grouping) -> Grouping:
    """Terms of an additive signature as twos and threes: 4+3 is 2+2+3."""
    result: list[int] = []
    for size in groups:
        result += (2, 2) if size == 4 else (size,)
    return tuple(result) if set(result) <= {2, 3} else ()


def counted_in(signature: TimeSignature, beat: str, grouping: Grouping | None = None) -> Meter | None:
    """The signature counted in another beat (2/2 in four, 3/4 in one); ``None`` where it does not fit
    the bar.

    A beat of three units divides in three: a dotted quarter, a whole bar of three.
    """
    if beat not in BEAT_CHOICES:
        raise OptionError(f"the beat “{beat}” is unknown; there are {', '.join(BEAT_CHOICES)}.", where="beat")
    length = BEAT_CHOICES[beat] or signature.bar_quarters
    own = meter_of(signature, grouping)
    if not own.is_asymmetric and length == own.beats[0].length_quarters:
        return own
    count = signature.bar_quarters / length
    if count.denominator != 1:
        return None
    units = length / signature.unit_quarters
    division = 3 if units.denominator == 1 and units % 3 == 0 and units % 2 else 2
    return Meter(signature, _equal_beats(int(count), length, division))


def _grouped_beats(grouping: Grouping, unit: Quarters) -> tuple[Beat, ...]:
    beats, position = [], Fraction(0)
    for parts in grouping:
        beats.append(Beat(position, parts * unit, parts))
        position += parts * unit
    return tuple(beats)


def _equal_beats(count: int, length: Quarters, division: int) -> tuple[Beat, ...]:
    return tuple(Beat(index * length, length, division) for index in range(count))


@lru_cache(maxsize=65536)
def _weight(meter: Meter, position: Quarters) -> int:
    position %= meter.bar_quarters
    beat = meter.beat_at(position)
    table = _beat_weights(meter)
    inside = (position - beat.start_quarters) / beat.length_quarters
    if inside == 0:
        return table[meter.beats.index(beat)]
    return min(min(table), -1) - division_depth(inside, beat.division) + (1 if len(meter.beats) == 1 else 0)


def _beat_weights(meter: Meter) -> tuple[int, ...]:
    count = len(meter.beats)
    if meter.beat_groups and not meter.is_asymmetric and count > 1:
        weights: list[int] = []
        for size in meter.beat_groups:
            weights += [-1] + [-2] * (size - 1)
        return (0, *weights[1:])
    if meter.is_asymmetric or count not in BEAT_WEIGHTS:
        return (0,) + (-1,) * (count - 1)
    return BEAT_WEIGHTS[count]


def division_depth(inside: Fraction, division: int) -> int:
    """How many levels below the beat a position lies: 1/2 of a simple beat 1, 1/4 2; 1/3 of a compound
    beat 1, its halves (1/6, 1/2) 2. A tuplet counts as one level and one more for each halving of it."""
    parts = (inside * (3 if division == 3 else 1)).denominator
    halvings = 0
    while parts % 2 == 0:
        parts //= 2
        halvings += 1
    return halvings + (1 if division == 3 or parts > 1 else 0)
