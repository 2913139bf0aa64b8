"""Which beats are said in a bar: the meter's own, another the teacher chose, or the units of a compound
or asymmetric meter.

Source: docs/trade.md 2.1 and 2.2 (common practice).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from laptick.core.base.units import Bpm, Quarters, convert_bpm
from laptick.core.counting.choices import Compound, Resolved
from laptick.core.score.meter import Grouping, Meter, TimeSignature, counted_in, meter_of
from laptick.core.score.score import Measure

#: Up to this many units a minute ``auto`` counts compound meters in units (docs/trade.md 2.1; a setting).
AUTO_UNITS_LIMIT: Bpm = 180.0


@dataclass(frozen=True, slots=True)
class CountedBeat:
    """A beat as it is said: its span in the nominal bar and the number that leads it. ``is_compound``:
    by itself it divides in three."""

    start: Quarters
    length: Quarters
    number: str
    is_compound: bool

    @property
    def end(self) -> Quarters:
        return self.start + self.length


@dataclass(frozen=True, eq=False)
class BarBeats:
    """The beats said in a bar, and why. ``in_units``: plain numbers of the units of a compound or
    asymmetric meter. Equal ones are one object, so they are told apart by identity, which is fast."""

    meter: Meter
    beats: tuple[CountedBeat, ...]
    compound: Compound
    in_units: bool
    reason: str


#: Signatures of three short units: three beats when slow, one dotted beat when fast (docs/trade.md 2.1).
def _is_three_short(signature: TimeSignature) -> bool:
    return signature.beats == 3 and signature.beat_type >= 8


def has_units(meter: Meter) -> bool:
    """Whether beats and units differ, so that there is a school to choose."""
    return meter.is_compound or meter.is_asymmetric


_NUMBERS = ("none", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")


def _said_number(number: int) -> str:
    return _NUMBERS[number] if number < len(_NUMBERS) else str(number)


def resolve_compound(compound: Compound, meter: Meter, bpm: Bpm | None) -> tuple[Compound, str]:
    """``auto`` decided, with the sentence that says why.

    ``bpm`` counts the meter's beat; without any tempo the meter is taken as slow, as when it is new.
    """
    short = _is_three_short(meter.signature)
    if not has_units(meter) and not (short and compound is Compound.AUTO):
        return Compound.BEATS, "Simple time: the written beats are counted."
    if compound is not Compound.AUTO:
        return compound, "Chosen by the teacher."
    signature_units = meter.signature.beats
    if bpm is None:
        return Compound.UNITS, f"While it is new and slow, all {_said_number(signature_units)} are said."
    unit = meter.beat_quarters if short else meter.unit_quarters
    units = convert_bpm(bpm, meter.beat_quarters, unit)
    if units <= AUTO_UNITS_LIMIT:
        return Compound.UNITS, f"Slow enough to say all {_said_number(signature_units)}."
    felt = "one" if short else _said_number(len(meter.beats))
    return Compound.BEATS, f"Too fast to say all {_said_number(signature_units)}: felt in {felt}."


def bar_beats(measure: Measure, resolved: Resolved, bpm: Bpm | None) -> BarBeats:
    """The beats said in ``measure``; ``bpm`` counts the beat of docs/trade.md 2.1 there."""
    grouping = measure.beam_grouping if resolved.grouping is None else resolved.grouping
    return _bar_beats(measure.signature, grouping, resolved.compound, resolved.beat, bpm)


@lru_cache(maxsize=4096)
def _bar_beats(
    signature: TimeSignature, grouping: Grouping | None, compound: Compound, beat: str | None, bpm: Bpm | None
) -> BarBeats:
    meter = meter_of(signature, grouping)
    if beat is not None:
        other = counted_in(signature, beat, grouping)
        if other is not None:
            reason = "The beat was chosen by the teacher."
            return BarBeats(meter, _own_beats(other), Compound.BEATS, False, reason)
    school, reason = resolve_compound(compound, meter, bpm)
    if _is_three_short(signature) and compound is Compound.AUTO and school is Compound.BEATS:
        in_one = counted_in(signature, "bar")
        assert in_one is not None
        return BarBeats(meter, _own_beats(in_one), school, False, reason)
    if school is Compound.BEATS or not has_units(meter):
        if not has_units(meter):
            school = Compound.BEATS
        return BarBeats(meter, _own_beats(meter), school, False, reason)
    return BarBeats(meter, _units(meter, school), school, True, reason)


def _own_beats(meter: Meter) -> tuple[CountedBeat, ...]:
    return tuple(
        CountedBeat(beat.start_quarters, beat.length_quarters, str(number), beat.division == 3)
        for number, beat in enumerate(meter.beats, start=1)
    )


def _units(meter: Meter, school: Compound) -> tuple[CountedBeat, ...]:
    unit = meter.unit_quarters
    result: list[CountedBeat] = []
    for group, beat in enumerate(meter.beats, start=1):
        for part in range(beat.division):
            if school is Compound.UNITS:
                number = str(len(result) + 1)
            elif school is Compound.GROUPS:
                number = str(group if part == 0 else part + 1)
            else:
                number = str(part + 1)
            result.append(CountedBeat(beat.start_quarters + part * unit, unit, number, False))
    return tuple(result)


def halved(beats: tuple[CountedBeat, ...]) -> tuple[CountedBeat, ...]:
    """The next smaller unit becomes the counted one: simple beats in halves, compound in thirds."""
    result: list[CountedBeat] = []
    for beat in beats:
        parts = 3 if beat.is_compound else 2
        length = beat.length / parts
        for part in range(parts):
            result.append(CountedBeat(beat.start + part * length, length, str(len(result) + 1), False))
    return tuple(result)


def tempo_at(measure: Measure, first: Measure, bpm: Bpm | None) -> Bpm | None:
    """An assigned tempo of the passage's first bar, taken over to another bar at equal quarters."""
    if bpm is None or measure.signature == first.signature:
        return bpm
    return convert_bpm(bpm, first.meter.beat_quarters, measure.meter.beat_quarters)
