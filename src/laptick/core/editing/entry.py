"""A passage as it is typed: bars of one or two hands, each a row of lengths with or without keys; what is wrong with a
bar; and the score it makes.

Conventions: lengths in quarters, exact. Rhythm alone is a full citizen: an event without a pitch is an unpitched
strike. A bar may be unfinished or too long while it is being typed: the passage keeps it as it is, the score takes
what lies inside the bar and fills the rest with rests, and a fault names bar, hand and how much.

Source: common practice of notation, no source.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from fractions import Fraction

from laptick.core.base.errors import LimitError, OptionError
from laptick.core.base.units import Bpm, LengthNaming, Quarters, length_name, length_plural
from laptick.core.score.meter import TimeSignature, meter_of
from laptick.core.score.noteheads import written_parts
from laptick.core.score.pitch import read_pitch
from laptick.core.score.score import HANDS, Hand, Measure, Note, Notice, Rest, Score, TempoMark

#: Stated limits of a passage: bars, events in a bar of one hand, keys struck at once.
MAX_BARS, MAX_EVENTS, MAX_KEYS = 200, 128, 10

#: Units a time signature may have, and how many.
BEAT_TYPES = (1, 2, 4, 8, 16)
MAX_BEATS = 32

#: A printed line of an entered passage has this many bars.
LINE_BARS = 4

#: What a strike without a key is called.
UNPITCHED = "x"

#: Shortest length that can be entered.
SHORTEST: Quarters = Fraction(1, 16)


@dataclass(frozen=True)
class TypedEvent:
    """One strike or rest. ``pitches``: names such as ``F♯4``, none for a strike without a key; ``is_tied``: on to the
    next event of its hand."""

    length_quarters: Quarters
    pitches: tuple[str, ...] = ()
    is_rest: bool = False
    is_tied: bool = False


@dataclass(frozen=True)
class EntryBar:
    right: tuple[TypedEvent, ...] = ()
    left: tuple[TypedEvent, ...] = ()

    def of(self, hand: Hand) -> tuple[TypedEvent, ...]:
        return self.right if hand is Hand.RIGHT else self.left


@dataclass(frozen=True)
class Entry:
    """``pickup_quarters``: the length of the first bar where it is an upbeat (0: a whole bar)."""

    title: str
    signature: TimeSignature
    bars: tuple[EntryBar, ...]
    pickup_quarters: Quarters = Fraction(0)
    bpm: Bpm | None = None
    composer: str = field(default="")

    def bar_length(self, index: int) -> Quarters:
        """What a bar should last."""
        return self.pickup_quarters if index == 0 and self.pickup_quarters else self.signature.bar_quarters

    def bar_name(self, index: int) -> str:
        return str(index if self.pickup_quarters else index + 1)


@dataclass(frozen=True)
class BarFault:
    """What is wrong with a bar of a hand. ``is_unfinished``: it is only short, which may be meant."""

    bar_index: int
    hand: Hand
    text: str
    is_unfinished: bool


def check_entry(entry: Entry) -> None:
    """Raises:
    LimitError: more bars, events or keys than the stated limits.
    OptionError: a time signature, length or pitch that cannot be; ``where`` names its bar.
    """
    signature = entry.signature
    if not 1 <= signature.beats <= MAX_BEATS or signature.beat_type not in BEAT_TYPES:
        raise OptionError(f"{signature} is no time signature that can be entered.", where="signature")
    if not 0 <= entry.pickup_quarters < signature.bar_quarters:
        raise OptionError("an upbeat is shorter than a bar.", where="pickup")
    if not 1 <= len(entry.bars) <= MAX_BARS:
        raise LimitError(f"a passage has 1 to {MAX_BARS} bars.", where="bars")
    for index, bar in enumerate(entry.bars):
        for hand in HANDS:
            where = f"bar {entry.bar_name(index)}, {hand} hand"
            if len(bar.of(hand)) > MAX_EVENTS:
                raise LimitError(f"a bar of one hand takes up to {MAX_EVENTS} notes.", where=where)
            for event in bar.of(hand):
                if not SHORTEST <= event.length_quarters <= 8:
                    raise OptionError(f"no note is {event.length_quarters} quarters long here.", where=where)
                if len(event.pitches) > MAX_KEYS:
                    raise LimitError(f"a hand strikes up to {MAX_KEYS} keys at once.", where=where)
                for pitch in event.pitches:
                    read_pitch(pitch)


def bar_faults(entry: Entry, naming: LengthNaming = LengthNaming.AMERICAN) -> list[BarFault]:
    """Bars that are too long or unfinished, in order. A hand that has nothing in a bar rests there, and is no fault;
    nor is an empty bar behind the last one that has something."""
    faults = []
    for index, bar in enumerate(entry.bars):
        for hand in HANDS:
            events = bar.of(hand)
            over = sum((e.length_quarters for e in events), Fraction(0)) - entry.bar_length(index)
            if events and over:
                way = "too long" if over > 0 else "short"
                text = f"bar {entry.bar_name(index)} is {_amount(abs(over), naming)} {way}"
                faults.append(BarFault(index, hand, f"{text}, {hand} hand", over < 0))
    return faults


def _amount(length: Quarters, naming: LengthNaming) -> str:
    """``one eighth``, ``two quarters``, ``an eighth and a sixteenth`` in the fewest plain lengths."""
    for unit in (Fraction(4), Fraction(2), Fraction(1), Fraction(1, 2), Fraction(1, 3), Fraction(1, 4), Fraction(1, 6)):
        times = length / unit
        if times.denominator == 1 and times <= len(COUNTED):
            return (
                f"one {length_name(unit, naming)}"
                if times == 1
                else f"{COUNTED[int(times) - 1]} {length_plural(unit, naming)}"
            )
    return f"{length} {length_plural(Fraction(1), naming)}"


#: Small numbers in words.
COUNTED = ("one", "two", "three", "four", "five", "six", "seven")


def entry_score(entry: Entry, naming: LengthNaming = LengthNaming.AMERICAN) -> Score:
    """The score that a passage makes.

    Raises:
        OptionError, LimitError: as ``check_entry``.
    """
    check_entry(entry)
    measures = _measures(entry)
    used = [hand for hand in HANDS if any(bar.of(hand) for bar in entry.bars)] or [Hand.RIGHT]
    layers = [_Layer(hand, 1 if hand is Hand.RIGHT or len(used) == 1 else 2) for hand in used]
    for layer in layers:
        layer.lay(entry, measures)
    rests = [rest for layer in layers for rest in layer.rests]
    notes = sorted(
        (note for layer in layers for note in layer.notes), key=lambda n: (n.onset_quarters, n.pitch or 0, n.voice)
    )
    numbered = tuple(replace(note, id=f"n{index}") for index, note in enumerate(notes))
    notices = tuple(
        Notice("unused" if not fault.is_unfinished else "changed", _notice(fault), measures[fault.bar_index].number)
        for fault in bar_faults(entry, naming)
    )
    tempos = (TempoMark(Fraction(0), entry.bpm, meter_of(entry.signature).beat_quarters),) if entry.bpm else ()
    return Score(
        entry.title,
        entry.composer,
        measures,
        numbered,
        tuple(sorted(rests, key=lambda r: (r.onset_quarters, r.hand))),
        tempos,
        notices,
    )


def _notice(fault: BarFault) -> str:
    what = "the rest of it is silent" if fault.is_unfinished else "what reaches over is left out"
    return f"{fault.text}: {what}"


def _measures(entry: Entry) -> tuple[Measure, ...]:
    measures = []
    start = Fraction(0)
    upbeat = entry.pickup_quarters
    for index in range(len(entry.bars)):
        length = entry.bar_length(index)
        lead = entry.signature.bar_quarters - length if index == 0 and upbeat else Fraction(0)
        place = index - 1 if upbeat else index
        line, inside = (1, 0) if place < 0 else (place // LINE_BARS + 1, place % LINE_BARS + 1)
        measures.append(Measure(index, entry.bar_name(index), entry.signature, start, length, lead, line, inside))
        start += length
    return tuple(measures)


class _Layer:
    """Lays one hand's events into the bars: notes cut as they are written, rests where nothing was typed."""

    def __init__(self, hand: Hand, staff: int) -> None:
        self.hand, self.staff = hand, staff
        self.voice = "1.1" if hand is Hand.RIGHT else "1.5"
        self.notes: list[Note] = []
        self.rests: list[Rest] = []
        self._tied: frozenset[int | None] = frozenset()  # keys that the event before holds on to

    def lay(self, entry: Entry, measures: tuple[Measure, ...]) -> None:
        for measure, bar in zip(measures, entry.bars, strict=True):
            at = measure.start_quarters
            for event in bar.of(self.hand):
                length = min(event.length_quarters, measure.end_quarters - at)
                if length <= 0:
                    break
                self._event(event, measure, at, length)
                at += length
            if at < measure.end_quarters:
                self._rest(measure, at, measure.end_quarters - at)
        _mend(self.notes, self.hand)

    def _event(self, event: TypedEvent, measure: Measure, at: Quarters, length: Quarters) -> None:
        if event.is_rest:
            self._rest(measure, at, length)
            return
        keys: list[tuple[str, int | None]] = [read_pitch(pitch) for pitch in event.pitches]
        keys = keys or [(UNPITCHED, None)]
        parts = written_parts(length, at - measure.start_quarters)
        for number, part in enumerate(parts):
            is_last = number == len(parts) - 1
            for name, pitch in keys:
                from_before = pitch in self._tied if number == 0 else True
                onward = event.is_tied if is_last else True
                place = (self.hand, self.voice, measure.index, at, part)
                self.notes.append(Note("", *place, pitch, name, from_before, onward, staff=self.staff))
            at += part
        self._tied = frozenset(pitch for _, pitch in keys) if event.is_tied else frozenset()

    def _rest(self, measure: Measure, at: Quarters, length: Quarters) -> None:
        for part in written_parts(length, at - measure.start_quarters):
            self.rests.append(Rest(self.hand, self.voice, measure.index, at, part, self.staff))
            at += part
        self._tied = frozenset()


def _mend(notes: list[Note], hand: Hand) -> None:
    """A tie that leads to no note of the same key is none."""
    reached = {(n.pitch, n.onset_quarters) for n in notes if n.hand is hand and n.tied_from_before}
    for index, note in enumerate(notes):
        if note.hand is hand and note.tied_onward and (note.pitch, note.end_quarters) not in reached:
            notes[index] = replace(note, tied_onward=False)
