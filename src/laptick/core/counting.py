"""Counting: which words are said where, and what each of them is.

A count is exactly one of *strike* (a note starts), *hold* (a note sounds on through it by its written
length) or *rest* (the hand is silent). Positions in a bar are nominal (a pickup on 4 of 4/4 starts at
position 3); offsets in the result are from the start of the written bar, as everywhere outside core.

Source: handbook 2 (common practice): the *numbers* system, three densities, compound meters in beats,
units or grouped threes.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction

from laptick.core.meter import Beat, Meter
from laptick.core.score import Hand, HandLine, Measure, Score, hand_line
from laptick.core.units import Bpm, Quarters, convert_bpm
from laptick.core.words import (
    COMPOUND_WORDS,
    SIMPLE_WORDS,
    THREE_AGAINST_TWO,
    TRIPLET_OVER_TWO,
    division_name,
)


class Density(StrEnum):
    BEAT = "beat"
    BAR = "bar"
    STEADY = "steady"


class Compound(StrEnum):
    AUTO = "auto"
    BEATS = "beats"
    UNITS = "units"
    GROUPS = "groups"
    GROUPS_RESTART = "groups-restart"


class Kind(StrEnum):
    STRIKE = "strike"
    HOLD = "hold"
    REST = "rest"


#: Up to this many units a minute ``auto`` counts compound meters in units (handbook 2.1; a setting).
AUTO_UNITS_LIMIT: Bpm = 180.0


@dataclass(frozen=True, slots=True)
class Count:
    """One said count. ``offset_quarters`` is from the start of the written bar."""

    offset_quarters: Quarters
    say: str
    kind: Kind
    is_beat: bool


@dataclass(frozen=True, slots=True)
class Change:
    """A change of division (or of the counted unit), announced at its beat."""

    measure_index: int
    offset_quarters: Quarters
    before: str
    after: str


@dataclass(frozen=True)
class LineCount:
    """The counts of one line, bar by bar, and its changes of division."""

    bars: tuple[tuple[Count, ...], ...]
    changes: tuple[Change, ...]


@dataclass(frozen=True, slots=True)
class CountedBeat:
    """A beat as it is said: its span in the nominal bar, the word that leads it, its own division.

    ``words`` are the words of its parts by their number; ``is_compound`` says which duple or triple
    divisions are foreign to it.
    """

    start: Quarters
    length: Quarters
    number: str
    is_compound: bool

    @property
    def end(self) -> Quarters:
        return self.start + self.length

    @property
    def words(self) -> dict[int, tuple[str, ...]]:
        return COMPOUND_WORDS if self.is_compound else SIMPLE_WORDS


def resolve_compound(compound: Compound, meter: Meter, bpm: Bpm | None) -> tuple[Compound, str]:
    """``auto`` decided, with the sentence that says why.

    ``bpm`` counts the meter's beat; without any tempo the meter is taken as slow, as when it is new.
    """
    if not (meter.is_compound or meter.is_asymmetric):
        return Compound.BEATS, "Simple time: the written beats are counted."
    if compound is not Compound.AUTO:
        return compound, "Chosen by the teacher."
    if bpm is None:
        return Compound.UNITS, "Counted in units: no tempo is given, and a new piece is learnt slowly."
    units = convert_bpm(bpm, meter.beat_quarters, meter.unit_quarters)
    if units <= AUTO_UNITS_LIMIT:
        return Compound.UNITS, (
            f"Counted in units: {units:.0f} units a minute, up to {AUTO_UNITS_LIMIT:.0f} can be said."
        )
    return Compound.BEATS, (
        f"Counted in beats: {units:.0f} units a minute is faster than the {AUTO_UNITS_LIMIT:.0f} that can be said."
    )


def counted_beats(meter: Meter, compound: Compound) -> tuple[CountedBeat, ...]:
    """The beats that are said in a bar of ``meter``. ``compound`` must be resolved (not ``auto``)."""
    if compound is Compound.BEATS or not (meter.is_compound or meter.is_asymmetric):
        return tuple(
            CountedBeat(beat.start_quarters, beat.length_quarters, str(number), beat.division == 3)
            for number, beat in enumerate(meter.beats, start=1)
        )
    unit = meter.unit_quarters
    result: list[CountedBeat] = []
    for group, beat in enumerate(meter.beats, start=1):
        for part in range(beat.division):
            start = beat.start_quarters + part * unit
            if compound is Compound.UNITS:
                number = str(len(result) + 1)
            elif compound is Compound.GROUPS:
                number = str(group if part == 0 else part + 1)
            else:
                number = str(part + 1)
            result.append(CountedBeat(start, unit, number, False))
    return tuple(result)


def _halved(beats: tuple[CountedBeat, ...]) -> tuple[CountedBeat, ...]:
    """The next smaller unit becomes the counted one: simple beats in halves, compound in thirds."""
    result: list[CountedBeat] = []
    for beat in beats:
        parts = 3 if beat.is_compound else 2
        length = beat.length / parts
        for part in range(parts):
            result.append(CountedBeat(beat.start + part * length, length, str(len(result) + 1), False))
    return tuple(result)


_OTHER = 0  # a beat whose boundaries fit no table: said by the composite or the counted unit made smaller


def _division(inside: set[Fraction], beat: CountedBeat) -> int:
    """The smallest table division that holds every boundary (fractions of the beat), or 0."""
    for parts in sorted(beat.words):
        if all((part * parts).denominator == 1 for part in inside):
            return parts
    return _OTHER


@dataclass
class _BarPlan:
    """How one bar will be said: its beats and for each the boundaries inside and their division."""

    measure: Measure
    beats: tuple[CountedBeat, ...]
    inside: list[set[Fraction]]
    divisions: list[int]
    is_finer: bool = False
    over_two: frozenset[int] = frozenset()


def _plan_bar(measure: Measure, beats: tuple[CountedBeat, ...], boundaries: list[Quarters]) -> _BarPlan:
    positions = [measure.position_of(onset) for onset in boundaries]
    for halvings in range(6):
        inside: list[set[Fraction]] = [
            {(position - beat.start) / beat.length for position in positions if beat.start <= position < beat.end}
            for beat in beats
        ]
        divisions = [_division(parts, beat) for parts, beat in zip(inside, beats, strict=True)]
        unsaid = [
            index
            for index, division in enumerate(divisions)
            if division == _OTHER and not (inside[index] <= THREE_AGAINST_TWO.keys() and not beats[index].is_compound)
        ]
        if not unsaid:
            return _BarPlan(measure, beats, inside, divisions, halvings > 0, _over_two(beats, inside))
        if any(_is_odd_tuplet(inside[index]) for index in unsaid):
            break
        beats = _halved(beats)
    # Odd tuplets have no words in this system: the beats are said, the tuplet is played between them.
    return _BarPlan(measure, beats, [parts & {Fraction(0)} for parts in inside], [d or 1 for d in divisions])


def _is_odd_tuplet(inside: set[Fraction]) -> bool:
    """True when a boundary's denominator has a factor other than 2 and 3."""
    for part in inside:
        rest = part.denominator
        for factor in (2, 3):
            while rest % factor == 0:
                rest //= factor
        if rest > 1:
            return True
    return False


def _over_two(beats: tuple[CountedBeat, ...], inside: list[set[Fraction]]) -> frozenset[int]:
    """Indices of beats that lead a triplet over two beats: thirds at 2/3 of the first, 1/3 of the next."""
    two_thirds, third, start = Fraction(2, 3), Fraction(1, 3), Fraction(0)
    leads: set[int] = set()
    for index in range(len(beats) - 1):
        if index - 1 in leads or beats[index].is_compound or beats[index].length != beats[index + 1].length:
            continue
        if inside[index] == {start, two_thirds} and inside[index + 1] == {third}:
            leads.add(index)
    return frozenset(leads)


#: Divisions kept by a beat under *bar* and *steady*: a triplet stays a triplet, a duplet a duplet.
def _is_foreign(division: int, beat: CountedBeat) -> bool:
    if division == _OTHER:
        return True
    return division in (2, 4) if beat.is_compound else division == 3


def _own_finest(plan: _BarPlan) -> int:
    """The finest native division used in a bar."""
    return max((d for d, beat in zip(plan.divisions, plan.beats, strict=True) if not _is_foreign(d, beat)), default=1)


def count_line(
    score: Score, line: HandLine, measures: tuple[Measure, ...], density: Density, compound: Compound, bpm: Bpm | None
) -> LineCount:
    """The counts of one line over ``measures``.

    ``bpm`` counts the beat of the first of these bars and only decides ``auto``.
    """
    plans = [
        _plan_bar(m, counted_beats(m.meter, _compound_in(m, measures, compound, bpm)), bounds)
        for m, bounds in zip(measures, _boundaries(line, measures), strict=True)
    ]
    finest = max((_own_finest(plan) for plan in plans if not plan.is_finer), default=1)
    for plan in plans:
        if density is Density.BEAT:
            continue
        wanted = _own_finest(plan) if density is Density.BAR or plan.is_finer else finest
        plan.divisions = [
            d
            if _is_foreign(d, beat) or index in plan.over_two or index - 1 in plan.over_two
            else max(d, _fitting(wanted, beat))
            for index, (d, beat) in enumerate(zip(plan.divisions, plan.beats, strict=True))
        ]
    return LineCount(tuple(_say_bar(plan, line) for plan in plans), tuple(_changes(plans)))


def _compound_in(measure: Measure, measures: tuple[Measure, ...], compound: Compound, bpm: Bpm | None) -> Compound:
    """``auto`` decided for one bar, its tempo taken over from the first bar's at equal quarters."""
    meter = measure.meter
    here = None if bpm is None else convert_bpm(bpm, measures[0].meter.beat_quarters, meter.beat_quarters)
    return resolve_compound(compound, meter, here)[0]


def _fitting(wanted: int, beat: CountedBeat) -> int:
    """The finest division not finer than ``wanted`` that is native to the beat."""
    return max(d for d in beat.words if d <= max(1, wanted) and not _is_foreign(d, beat))


def _boundaries(line: HandLine, measures: tuple[Measure, ...]) -> list[list[Quarters]]:
    """For each bar the instants that divide its beats: strikes and starts of silence."""
    instants = sorted(set(line.strikes) | line.silence_starts())
    result: list[list[Quarters]] = []
    cursor = 0
    for measure in measures:
        while cursor < len(instants) and instants[cursor] < measure.start_quarters:
            cursor += 1
        inside: list[Quarters] = []
        while cursor < len(instants) and instants[cursor] < measure.end_quarters:
            inside.append(instants[cursor])
            cursor += 1
        result.append(inside)
    return result


def _words_in(plan: _BarPlan) -> list[tuple[Quarters, str, bool]]:
    """(nominal position, word, is a beat) of everything said in a whole bar."""
    said: list[tuple[Quarters, str, bool]] = []
    for index, (beat, division) in enumerate(zip(plan.beats, plan.divisions, strict=True)):
        if index - 1 in plan.over_two:
            continue
        if index in plan.over_two:
            second = plan.beats[index + 1].number
            for part, word in TRIPLET_OVER_TWO.items():
                said.append(
                    (beat.start + part * beat.length, word.format(n=beat.number, m=second), part.denominator == 1)
                )
        elif division == _OTHER:
            for part, word in THREE_AGAINST_TWO.items():
                said.append((beat.start + part * beat.length, word.format(n=beat.number), part == 0))
        else:
            for part_index, word in enumerate(beat.words[division]):
                position = beat.start + Fraction(part_index, division) * beat.length
                said.append((position, word.format(n=beat.number), part_index == 0))
    return said


def _say_bar(plan: _BarPlan, line: HandLine) -> tuple[Count, ...]:
    measure = plan.measure
    counts: list[Count] = []
    for position, word, is_beat in _words_in(plan):
        offset = position - measure.lead_quarters
        if not 0 <= offset < measure.length_quarters:
            continue  # outside the written part of a pickup or a short last bar
        onset = measure.start_quarters + offset
        if line.strikes_at(onset):
            kind = Kind.STRIKE
        elif line.sounds_at(onset):
            kind = Kind.HOLD
        else:
            kind = Kind.REST
        counts.append(Count(offset, word, kind, is_beat))
    return tuple(counts)


def _changes(plans: list[_BarPlan]) -> list[Change]:
    """Changes between divided beats; undivided beats keep the division last heard."""
    changes: list[Change] = []
    last: str | None = None
    was_finer = False
    for plan in plans:
        if plan.is_finer != was_finer:
            unit = division_name(plan.beats[0].length, 1, 2)
            changes.append(Change(plan.measure.index, Fraction(0), last or "beats", f"count in {unit}"))
            was_finer = plan.is_finer
        for index, (beat, division) in enumerate(zip(plan.beats, plan.divisions, strict=True)):
            if division == 1 or index - 1 in plan.over_two:
                continue
            if index in plan.over_two:
                name = "triplet over two beats"
            elif division == _OTHER:
                name = "three against two"
            else:
                name = division_name(beat.length / division, division, 3 if beat.is_compound else 2)
            if last is not None and name != last:
                offset = max(Fraction(0), beat.start - plan.measure.lead_quarters)
                changes.append(Change(plan.measure.index, offset, last, name))
            last = name
    return changes


@dataclass(frozen=True, slots=True)
class HandRest:
    """A written silence of one hand inside one bar, and where the hand comes in again."""

    measure_index: int
    offset_quarters: Quarters
    hand: Hand | None
    length_quarters: Quarters


def hand_rests(line: HandLine, measures: tuple[Measure, ...], hand: Hand | None) -> list[HandRest]:
    """Every written silence of a line, split at bar lines and where a new rest is written."""
    starts = sorted(line.silence_starts())
    rests: list[HandRest] = []
    for measure in measures:
        silent = [s for s in starts if measure.start_quarters <= s < measure.end_quarters]
        if not line.sounds_at(measure.start_quarters) and measure.start_quarters not in silent:
            silent.insert(0, measure.start_quarters)
        for index, start in enumerate(silent):
            if line.sounds_at(start):
                continue
            ends = [measure.end_quarters, *silent[index + 1 : index + 2]]
            ends += [s for s, _ in line.sounding if s > start][:1]
            rests.append(HandRest(measure.index, start - measure.start_quarters, hand, min(ends) - start))
    return rests


def default_bpm(score: Score) -> Bpm | None:
    """The score's first tempo mark, counted in the first bar's beat; ``None`` when it prints none."""
    if not score.tempos or not score.measures:
        return None
    mark = score.tempos[0]
    return convert_bpm(mark.bpm, mark.beat_quarters, score.measures[0].meter.beat_quarters)


def count_hand(
    score: Score,
    hand: Hand | None,
    *,
    density: Density = Density.BEAT,
    compound: Compound = Compound.AUTO,
    measures: tuple[Measure, ...] | None = None,
    bpm: Bpm | None = None,
) -> LineCount:
    """The counts of one hand, or of both as the composite (``None``); ``bpm`` defaults to the score's."""
    chosen = score.measures if measures is None else measures
    return count_line(score, hand_line(score, hand), chosen, density, compound, bpm or default_bpm(score))


__all__ = [
    "AUTO_UNITS_LIMIT",
    "Beat",
    "Change",
    "Compound",
    "Count",
    "CountedBeat",
    "Density",
    "HandRest",
    "Kind",
    "LineCount",
    "count_hand",
    "count_line",
    "counted_beats",
    "default_bpm",
    "hand_rests",
    "resolve_compound",
]
