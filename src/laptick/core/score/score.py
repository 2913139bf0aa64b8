"""The score: what is written, exactly.

Conventions: positions are exact quarters. ``onset_quarters`` of notes and rests is measured from the
start of the piece in *written* order; a bar also knows where its first instant lies in the nominal
bar (``lead_quarters``: 3 for a one-quarter pickup before 4/4). Ties stay as written: the later part
of a tie is a note of its own with ``tied_from_before`` set; it sounds, but is not struck.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from dataclasses import dataclass, field
from enum import StrEnum
from fractions import Fraction
from functools import cached_property

from laptick.core.base.errors import OptionError
from laptick.core.base.units import Bpm, Quarters
from laptick.core.score.meter import Grouping, Meter, TimeSignature, meter_of


class Hand(StrEnum):
    RIGHT = "right"
    LEFT = "left"


HANDS: tuple[Hand, ...] = (Hand.RIGHT, Hand.LEFT)


#: What a clap is called: a strike of the hands on each other, which no key hears.
CLAP_NAME = "clap"


@dataclass(frozen=True, slots=True)
class Note:
    """One written notehead. ``pitch`` is a MIDI number; ``None`` for an unpitched strike, of which a clap is one."""

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
    staff: int = 1

    @property
    def end_quarters(self) -> Quarters:
        return self.onset_quarters + self.duration_quarters

    @property
    def is_strike(self) -> bool:
        return not self.tied_from_before and not self.is_grace

    @property
    def is_clap(self) -> bool:
        return self.pitch is None and self.name == CLAP_NAME


@dataclass(frozen=True, slots=True)
class Rest:
    """One written rest of one voice. ``id`` names it beside the notes, and is no part of what it is."""

    hand: Hand
    voice: str
    measure_index: int
    onset_quarters: Quarters
    duration_quarters: Quarters
    staff: int = 1
    id: str = field(default="", compare=False)

    @property
    def end_quarters(self) -> Quarters:
        return self.onset_quarters + self.duration_quarters


@dataclass(frozen=True, slots=True)
class Signs:
    """What stands at a bar for the playing order.

    ``backward``: a repeat back at its end, how many times in all (0: none). ``endings``: the numbers of
    the bracket over the bar; ``ending_begins``: the bracket's first bar. ``segno``, ``coda``: the names of
    signs at its start; ``dal_segno``, ``to_coda``: the sign jumped to.
    """

    forward: bool = False
    backward: int = 0
    endings: tuple[int, ...] = ()
    ending_begins: bool = False
    segno: str = ""
    coda: str = ""
    fine: bool = False
    da_capo: bool = False
    dal_segno: str = ""
    to_coda: str = ""


NO_SIGNS = Signs()


@dataclass(frozen=True, slots=True)
class Measure:
    """One bar. ``number`` is the name in the file; ``line`` counts printed lines from 1.

    ``beam_grouping``: how the beams join the units of an asymmetric bar, where they tell.
    ``pass_number``: which time through, in a score laid out in played order; ``written_index`` and
    ``written_start`` are then the bar's place in the written one.
    """

    index: int
    number: str
    signature: TimeSignature
    start_quarters: Quarters
    length_quarters: Quarters
    lead_quarters: Quarters = Fraction(0)
    line: int = 1
    bar_in_line: int = 1
    signs: Signs = NO_SIGNS
    beam_grouping: Grouping | None = None
    pass_number: int = 1
    written_index: int = -1
    written_start: Quarters | None = None

    @property
    def written_place(self) -> int:
        """The how-manieth bar it is in written order, from 0."""
        return self.index if self.written_index < 0 else self.written_index

    @property
    def written_start_quarters(self) -> Quarters:
        """Where the bar stands in written order."""
        return self.start_quarters if self.written_start is None else self.written_start

    @property
    def end_quarters(self) -> Quarters:
        return self.start_quarters + self.length_quarters

    @property
    def meter(self) -> Meter:
        return meter_of(self.signature, self.beam_grouping)

    @property
    def is_pickup(self) -> bool:
        return self.lead_quarters > 0

    def position_of(self, onset_quarters: Quarters) -> Quarters:
        """Where an instant of the piece lies in this bar's nominal bar."""
        return onset_quarters - self.start_quarters + self.lead_quarters

    def weight_at(self, onset_quarters: Quarters) -> int:
        return self.meter.weight(self.position_of(onset_quarters))


class MarkKind(StrEnum):
    """What a mark is."""

    KEY = "key"
    DYNAMIC = "dynamic"
    WEDGE = "wedge"
    PEDAL = "pedal"
    WORDS = "words"
    TEMPO_WORDS = "tempo-words"
    SLOWER = "slower"
    FASTER = "faster"
    A_TEMPO = "a-tempo"
    FERMATA = "fermata"
    BREATH = "breath"
    CAESURA = "caesura"
    SLUR = "slur"
    ARTICULATION = "articulation"
    ORNAMENT = "ornament"
    ARPEGGIO = "arpeggio"
    FINGERING = "fingering"
    LYRIC = "lyric"
    CHORD_SYMBOL = "chord-symbol"
    REHEARSAL = "rehearsal"
    OCTAVE_LINE = "octave-line"
    CUE = "cue"


@dataclass(frozen=True, slots=True)
class Mark:
    """Something written beside the notes. Spans have an end; marks of one note name it.

    ``text`` is the mark's own value: ``mf``, ``crescendo``, ``staccato``, a fingering, a word. A ``CUE`` is a word
    the teacher says a beat ahead.
    """

    kind: MarkKind
    onset_quarters: Quarters
    text: str = ""
    end_quarters: Quarters | None = None
    hand: Hand | None = None
    note_id: str | None = None


def mark_order(mark: Mark) -> tuple[object, ...]:
    """The order of marks in a score."""
    end = Fraction(-1) if mark.end_quarters is None else mark.end_quarters
    return mark.onset_quarters, mark.kind, mark.text, end, mark.hand or "", mark.note_id or ""


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


#: Ticks in a quarter at least: halves down to 1/64, thirds, fifths, sevenths and ninths are whole.
BASE_TICKS = 20160


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
    marks: tuple[Mark, ...] = ()

    @property
    def end_quarters(self) -> Quarters:
        return self.measures[-1].end_quarters if self.measures else Fraction(0)

    @cached_property
    def ticks_per_quarter(self) -> int:
        """A number of ticks in which every onset and length of the score is whole: exact, and fast."""
        denominators = {note.onset_quarters.denominator for note in self.notes}
        denominators |= {note.duration_quarters.denominator for note in self.notes}
        for rest in self.rests:
            denominators |= {rest.onset_quarters.denominator, rest.duration_quarters.denominator}
        for measure in self.measures:
            denominators |= {measure.start_quarters.denominator, measure.length_quarters.denominator}
        return math.lcm(BASE_TICKS, *denominators)

    def ticks_of(self, quarters: Quarters) -> int:
        """An onset or a length of this score in ticks."""
        return quarters.numerator * (self.ticks_per_quarter // quarters.denominator)

    def quarters_of(self, ticks: int) -> Quarters:
        """So many ticks of this score in quarters."""
        return Fraction(ticks, self.ticks_per_quarter)

    @cached_property
    def notes_in_ticks(self) -> tuple[tuple[int, int, Note], ...]:
        """Every note with its onset and its length in ticks."""
        return tuple((self.ticks_of(n.onset_quarters), self.ticks_of(n.duration_quarters), n) for n in self.notes)

    @cached_property
    def _starts(self) -> tuple[Quarters, ...]:
        return tuple(measure.start_quarters for measure in self.measures)

    def measure_at(self, onset_quarters: Quarters) -> Measure:
        """The bar in which an instant lies; the last bar for the end of the piece."""
        return self.measures[max(0, bisect_right(self._starts, onset_quarters) - 1)]

    @cached_property
    def _by_name(self) -> dict[tuple[str, int], Measure]:
        """The first bar of each name and time round."""
        return {(measure.number, measure.pass_number): measure for measure in reversed(self.measures)}

    def place_at(self, onset_quarters: Quarters) -> Place:
        measure = self.measure_at(onset_quarters)
        return Place(measure.number, onset_quarters - measure.start_quarters, measure.pass_number)

    def measure_of(self, place: Place) -> Measure:
        """The bar of a place."""
        return self._by_name[place.measure, place.pass_number]

    @cached_property
    def _by_measure(self) -> dict[int, list[Note]]:
        found: dict[int, list[Note]] = {}
        for note in self.notes:
            found.setdefault(note.measure_index, []).append(note)
        return found

    def notes_of_measure(self, index: int) -> list[Note]:
        """The notes that stand in a bar, in order."""
        return self._by_measure.get(index, [])

    @cached_property
    def _rests_by_measure(self) -> dict[int, list[Rest]]:
        found: dict[int, list[Rest]] = {}
        for rest in self.rests:
            found.setdefault(rest.measure_index, []).append(rest)
        return found

    def rests_of_measure(self, index: int) -> list[Rest]:
        """The rests that stand in a bar, in order."""
        return self._rests_by_measure.get(index, [])

    def hands_present(self) -> tuple[Hand, ...]:
        present = {note.hand for note in self.notes}
        return tuple(hand for hand in HANDS if hand in present)

    def select_measures(self, wanted: str | None) -> tuple[Measure, ...]:
        """The bars of a range such as ``"3"`` or ``"3-8"``, named as in the file; all for ``None``.

        In played order: the first stretch from the first bar named that stays in the range and reaches
        the last one; where none reaches it, the first stretch.

        Raises:
            OptionError: the range names a bar that the score does not have, or runs backwards.
        """
        if wanted is None:
            return self.measures
        first, last = self._range(wanted)
        low, high = (next(m.written_place for m in self.measures if m.number == name) for name in (first, last))
        if low > high:
            raise OptionError(f"bar {first} comes after bar {last}.", where="measures")
        begins = [i for i, m in enumerate(self.measures) if m.number == first]
        stretches = [self.measures[i : self._stretch_end(i, low, high)] for i in begins]
        return next((s for s in stretches if any(m.written_place == high for m in s)), stretches[0])

    def _stretch_end(self, begin: int, low: int, high: int) -> int:
        """Where the stretch of bars between two written ones ends that begins here."""
        end = begin
        while end < len(self.measures) and low <= self.measures[end].written_place <= high:
            if low == high and end > begin:
                break  # one bar asked for is one bar, though it is repeated at once
            end += 1
        return end

    def _range(self, wanted: str) -> tuple[str, str]:
        names = {measure.number for measure in self.measures}
        first, dash, last = wanted.partition("-")
        if wanted in names:
            first = last = wanted
        elif not dash:
            last = first
        for name in (first, last):
            if name not in names:
                raise OptionError(
                    f"there is no bar “{name}” in this score; it has bars {self.measures[0].number} to "
                    f"{max(self.measures, key=lambda one: one.written_place).number}.",
                    where="measures",
                )
        return first, last
