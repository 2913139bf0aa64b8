"""The score: what is written, exactly.

Conventions: positions are exact quarters. ``onset_quarters`` of notes and rests is measured from the
start of the piece in *written* order; a bar also knows where its first instant lies in the nominal
bar (``lead_quarters``: 3 for a one-quarter pickup before 4/4). Ties stay as written: the later part
of a tie is a note of its own with ``tied_from_before`` set; it sounds, but is not struck.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from enum import StrEnum
from fractions import Fraction
from functools import cached_property

from laptick.core.errors import OptionError
from laptick.core.meter import Meter, TimeSignature, meter_of
from laptick.core.units import Bpm, Quarters


class Hand(StrEnum):
    RIGHT = "right"
    LEFT = "left"


HANDS: tuple[Hand, ...] = (Hand.RIGHT, Hand.LEFT)


@dataclass(frozen=True, slots=True)
class Note:
    """One written notehead. ``pitch`` is a MIDI number; ``None`` for an unpitched strike."""

    id: str
    hand: Hand
    voice: str
    measure_index: int
    onset_quarters: Quarters
    duration_quarters: Quarters
    pitch: int | None
    name: str
    tied_from_before: bool = False
    tied_onward: bool = False
    is_grace: bool = False

    @property
    def end_quarters(self) -> Quarters:
        return self.onset_quarters + self.duration_quarters

    @property
    def is_strike(self) -> bool:
        return not self.tied_from_before and not self.is_grace


@dataclass(frozen=True, slots=True)
class Rest:
    """One written rest of one voice."""

    hand: Hand
    voice: str
    measure_index: int
    onset_quarters: Quarters
    duration_quarters: Quarters

    @property
    def end_quarters(self) -> Quarters:
        return self.onset_quarters + self.duration_quarters


@dataclass(frozen=True, slots=True)
class Measure:
    """One written bar. ``number`` is the name in the file; ``line`` counts printed lines from 1."""

    index: int
    number: str
    signature: TimeSignature
    start_quarters: Quarters
    length_quarters: Quarters
    lead_quarters: Quarters = Fraction(0)
    line: int = 1
    bar_in_line: int = 1

    @property
    def end_quarters(self) -> Quarters:
        return self.start_quarters + self.length_quarters

    @property
    def meter(self) -> Meter:
        return meter_of(self.signature)

    @property
    def is_pickup(self) -> bool:
        return self.lead_quarters > 0

    def position_of(self, onset_quarters: Quarters) -> Quarters:
        """Where an instant of the piece lies in this bar's nominal bar."""
        return onset_quarters - self.start_quarters + self.lead_quarters

    def weight_at(self, onset_quarters: Quarters) -> int:
        return self.meter.weight(self.position_of(onset_quarters))


@dataclass(frozen=True, slots=True)
class TempoMark:
    """A tempo printed in the score, counted in ``beat_quarters`` as printed."""

    onset_quarters: Quarters
    bpm: Bpm
    beat_quarters: Quarters


@dataclass(frozen=True, slots=True)
class Notice:
    """Something in the file that was not used, was changed, or was guessed.

    ``kind`` is ``unused`` (kept in the file, nothing is done with it yet), ``changed`` or ``guessed``.
    """

    kind: str
    text: str
    measure: str | None = None
    staff: int | None = None
    times: int = 1


@dataclass(frozen=True, slots=True)
class Place:
    """A place in played order: the bar's name, quarters from its start, and which time through."""

    measure: str
    offset_quarters: Quarters
    pass_number: int = 1


@dataclass(frozen=True)
class Score:
    """A two-hand score. Either hand may be empty. Notes and rests are sorted by onset, then pitch."""

    title: str
    composer: str
    measures: tuple[Measure, ...]
    notes: tuple[Note, ...]
    rests: tuple[Rest, ...] = ()
    tempos: tuple[TempoMark, ...] = ()
    notices: tuple[Notice, ...] = field(default=())

    @property
    def end_quarters(self) -> Quarters:
        return self.measures[-1].end_quarters if self.measures else Fraction(0)

    @cached_property
    def _starts(self) -> tuple[Quarters, ...]:
        return tuple(measure.start_quarters for measure in self.measures)

    def measure_at(self, onset_quarters: Quarters) -> Measure:
        """The bar in which an instant lies; the last bar for the end of the piece."""
        return self.measures[max(0, bisect_right(self._starts, onset_quarters) - 1)]

    def place_at(self, onset_quarters: Quarters) -> Place:
        measure = self.measure_at(onset_quarters)
        return Place(measure.number, onset_quarters - measure.start_quarters)

    def hands_present(self) -> tuple[Hand, ...]:
        return tuple(hand for hand in HANDS if any(note.hand is hand for note in self.notes))

    def select_measures(self, wanted: str | None) -> tuple[Measure, ...]:
        """The bars of a range such as ``"3"`` or ``"3-8"``, named as in the file; all for ``None``.

        Raises:
            OptionError: the range names a bar that the score does not have, or runs backwards.
        """
        if wanted is None:
            return self.measures
        by_number = {measure.number: measure.index for measure in reversed(self.measures)}
        first_text, dash, last_text = wanted.partition("-")
        if wanted in by_number:
            first_text = last_text = wanted
        elif not dash:
            last_text = first_text
        for name in (first_text, last_text):
            if name not in by_number:
                raise OptionError(
                    f"there is no bar “{name}” in this score; it has bars {self.measures[0].number} to "
                    f"{self.measures[-1].number}.",
                    where="measures",
                )
        first, last = by_number[first_text], by_number[last_text]
        if first > last:
            raise OptionError(f"bar {first_text} comes after bar {last_text}.", where="measures")
        return self.measures[first : last + 1]


def merge_spans(spans: Iterable[tuple[Quarters, Quarters]]) -> Iterator[tuple[Quarters, Quarters]]:
    """Joins touching or overlapping (start, end) spans; yields them in order."""
    start: Quarters | None = None
    end = Fraction(0)
    for span_start, span_end in sorted(spans):
        if start is None:
            start, end = span_start, span_end
        elif span_start <= end:
            end = max(end, span_end)
        else:
            yield start, end
            start, end = span_start, span_end
    if start is not None:
        yield start, end


@dataclass(frozen=True)
class HandLine:
    """What one hand, or both as one composite line, does in time.

    ``strikes``: onsets at which a note starts. ``sounding``: merged (start, end) spans in which
    something sounds by its written length. ``rest_onsets``: starts of written rests that fall in
    silence (a rest of one voice under a sounding voice is not a rest of the hand).
    """

    strikes: tuple[Quarters, ...]
    sounding: tuple[tuple[Quarters, Quarters], ...]
    rest_onsets: tuple[Quarters, ...]

    @cached_property
    def _strike_set(self) -> frozenset[Quarters]:
        return frozenset(self.strikes)

    @cached_property
    def _sounding_starts(self) -> tuple[Quarters, ...]:
        return tuple(start for start, _ in self.sounding)

    def strikes_at(self, onset_quarters: Quarters) -> bool:
        return onset_quarters in self._strike_set

    def sounds_at(self, onset_quarters: Quarters) -> bool:
        index = bisect_right(self._sounding_starts, onset_quarters) - 1
        return index >= 0 and onset_quarters < self.sounding[index][1]

    def silence_starts(self) -> set[Quarters]:
        """Every instant at which silence begins or is written anew."""
        return {end for _, end in self.sounding} | set(self.rest_onsets)


def hand_line(score: Score, hand: Hand | None) -> HandLine:
    """The line of one hand, or the composite of both for ``None``. Grace notes are left out."""
    notes = [note for note in score.notes if (hand is None or note.hand is hand) and not note.is_grace]
    sounding = tuple(merge_spans((note.onset_quarters, note.end_quarters) for note in notes))
    line = HandLine(tuple(sorted({n.onset_quarters for n in notes if n.is_strike})), sounding, ())
    rests = {
        rest.onset_quarters
        for rest in score.rests
        if (hand is None or rest.hand is hand) and not line.sounds_at(rest.onset_quarters)
    }
    return HandLine(line.strikes, sounding, tuple(sorted(rests)))
