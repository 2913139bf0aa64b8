"""A drill, and how two hands' events are laid into bars.

An event is a length with the keys struck at its start: none is silence. What reaches over a bar line is tied.
Source: common practice of notation, no source.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from laptick.core.base.errors import LimitError
from laptick.core.base.units import Bpm, Quarters
from laptick.core.score.meter import TimeSignature, meter_of
from laptick.core.score.noteheads import written_parts
from laptick.core.score.score import HANDS, Hand, Mark, MarkKind, Measure, Note, Rest, Score, TempoMark, mark_order

#: Bars of a printed line, and of a drill at most.
LINE_BARS, MOST_BARS = 4, 200

#: A key with its name; a clap has neither letter nor key.
Key = tuple[str, int | None]


@dataclass(frozen=True, slots=True)
class Event:
    """``keys`` struck at once, none: silence."""

    length_quarters: Quarters
    keys: tuple[Key, ...] = ()
    is_staccato: bool = False


@dataclass(frozen=True, slots=True)
class Meeting:
    """Both hands strike the same note at once: ``right`` and ``left`` by name, ``same_key`` where it is one key."""

    measure_index: int
    offset_quarters: Quarters
    right: str
    left: str
    same_key: bool


@dataclass(frozen=True)
class Drill:
    """``meetings``: where the hands come together, after they began; ``ends_on``: the last note of each hand;
    ``sentence``: what is said of it; ``roots``: the chord of each bar, of a left hand that is laid under a tune."""

    score: Score
    meetings: tuple[Meeting, ...] = ()
    ends_on: tuple[str, str] | None = None
    sentence: str = ""
    roots: tuple[str, ...] = ()


COMMON_TIME = TimeSignature(4, 4)


@dataclass(frozen=True)
class Frame:
    """What events are laid into. ``fifths``: sharps (+) or flats (−); ``words``: said at a bar, by its index."""

    title: str
    signature: TimeSignature = COMMON_TIME
    bpm: Bpm | None = None
    fifths: int = 0
    words: tuple[tuple[int, str], ...] = ()


def laid(frame: Frame, lines: Mapping[Hand, Sequence[Event]]) -> Score:
    """The score of some events; the last bar is filled with silence.

    Raises:
        LimitError: more bars than a drill has.
    """
    bar = frame.signature.bar_quarters
    longest = max((sum((e.length_quarters for e in line), Fraction(0)) for line in lines.values()), default=Fraction(0))
    bars = max(1, -(-longest // bar))
    if bars > MOST_BARS:
        raise LimitError(f"a drill has up to {MOST_BARS} bars; this would be {bars}.", todo="Choose a shorter one.")
    measures = tuple(
        Measure(i, str(i + 1), frame.signature, i * bar, bar, Fraction(0), i // LINE_BARS + 1, i % LINE_BARS + 1)
        for i in range(int(bars))
    )
    laying = [Laying(hand, measures) for hand in HANDS if hand in lines]
    marks: list[Mark] = [Mark(MarkKind.KEY, Fraction(0), str(frame.fifths))]
    for one in laying:
        one.lay(lines[one.hand])
        marks += one.marks
    marks += [Mark(MarkKind.WORDS, index * bar, text) for index, text in frame.words]
    notes = sorted((n for one in laying for n in one.notes), key=lambda n: (n.onset_quarters, n.pitch or 0, n.voice))
    tempos = (TempoMark(Fraction(0), frame.bpm, meter_of(frame.signature).beat_quarters),) if frame.bpm else ()
    return Score(
        frame.title,
        "",
        measures,
        tuple(notes),
        tuple(sorted((r for one in laying for r in one.rests), key=lambda r: (r.onset_quarters, r.hand))),
        tempos,
        marks=tuple(sorted(marks, key=mark_order)),
    )


class Laying:
    """Lays one hand's events into bars, cut at bar lines and into noteheads."""

    def __init__(self, hand: Hand, measures: tuple[Measure, ...]) -> None:
        self.hand, self.measures = hand, measures
        self.voice = "1.1" if hand is Hand.RIGHT else "1.5"
        self.staff = 1 if hand is Hand.RIGHT else 2
        self.notes: list[Note] = []
        self.rests: list[Rest] = []
        self.marks: list[Mark] = []

    def lay(self, events: Sequence[Event]) -> None:
        at = Fraction(0)
        for event in events:
            self._event(event, at)
            at += event.length_quarters
        end = self.measures[-1].end_quarters
        if at < end:
            self._event(Event(end - at), at)

    def lay_bar(self, measure: Measure, events: Sequence[Event]) -> None:
        """The events of one bar, which they fill."""
        at = measure.start_quarters
        for event in events:
            self._event(event, at)
            at += event.length_quarters

    def _event(self, event: Event, at: Quarters) -> None:
        parts = list(self._parts(at, event.length_quarters))
        for number, (measure, onset, length) in enumerate(parts):
            if not event.keys:
                self.rests.append(Rest(self.hand, self.voice, measure.index, onset, length, self.staff))
                continue
            is_first, is_last = number == 0, number == len(parts) - 1
            for name, pitch in event.keys:
                note = Note(
                    f"{self.voice}-{len(self.notes)}", self.hand, self.voice, measure.index, onset, length, pitch, name,
                    not is_first, not is_last, staff=self.staff,
                )  # fmt: skip
                self.notes.append(note)
                if event.is_staccato and is_first:
                    self.marks.append(Mark(MarkKind.ARTICULATION, onset, "staccato", hand=self.hand, note_id=note.id))

    def _parts(self, at: Quarters, length: Quarters) -> Iterator[tuple[Measure, Quarters, Quarters]]:
        while length > 0:
            measure = self.measures[bisect_right(self.measures, at, key=lambda one: one.start_quarters) - 1]
            inside = min(length, measure.end_quarters - at)
            for part in written_parts(inside, at - measure.start_quarters):
                yield measure, at, part
                at += part
            length -= inside


def beginning(score: Score, bars: int) -> Score:
    """The first bars of a score: enough to be looked at."""
    if len(score.measures) <= bars:
        return score
    end = score.measures[bars - 1].end_quarters
    return replace(
        score,
        measures=score.measures[:bars],
        notes=tuple(note for note in score.notes if note.measure_index < bars),
        rests=tuple(rest for rest in score.rests if rest.measure_index < bars),
        tempos=tuple(tempo for tempo in score.tempos if tempo.onset_quarters < end),
        marks=tuple(mark for mark in score.marks if mark.onset_quarters < end),
    )


def with_last_filled(events: Sequence[Event], bar_quarters: Quarters) -> list[Event]:
    """The events, the last one held to the end of its bar."""
    total = sum((event.length_quarters for event in events), Fraction(0))
    over = -total % bar_quarters
    return [*events[:-1], replace(events[-1], length_quarters=events[-1].length_quarters + over)]
