"""Standard MIDI → Score, from bytes.

A MIDI file holds when keys went down and up, not how that is written. So it is quantised to a stated grid
(each quarter to its duple or its triple part, whichever fits its strikes better), given bars by its time
signatures, spelled by its key, and split into hands: two tracks (or channels) are two hands; one is split
where the hands fit best (``hands_split``). Everything rounded or guessed is listed.

Positions are exact quarters: ticks over the file's ticks per quarter. SMPTE time is refused.
"""

from __future__ import annotations

import re
from bisect import bisect_right
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property

import mido

from laptick.core.base.errors import LimitError, ScoreError
from laptick.core.base.units import MAX_BPM, MIN_BPM, Quarters
from laptick.core.score.hands_split import split_hands
from laptick.core.score.meter import TimeSignature
from laptick.core.score.score import Hand, Mark, MarkKind, Measure, Note, Score, TempoMark
from laptick.formats.midi.opening import open_midi
from laptick.formats.midi.quantise import HeldKey, Quantised, quantise
from laptick.formats.parts.lines import DEFAULT_BARS_PER_LINE, close_bends
from laptick.formats.parts.notices import NoticeBook
from laptick.formats.parts.part import MAX_BARS, MAX_NOTES, PartInfo, check_bars
from laptick.formats.parts.reading import GRIDS, Reading, with_hands, with_lines

_KEPT = "Nothing was changed."
_TODO = "Export it again as a Standard MIDI file (.mid), or better as MusicXML."

#: More tempo changes than this come from a performance, not from a page.
MOST_TEMPOS = 40

#: Soprano, alto, tenor and bass; so many tracks are read together at most.
FOUR_PARTS = 4

#: Channel of drums in General MIDI: strikes without pitch.
DRUMS = 9


_SHARPS = ("C", "C♯", "D", "D♯", "E", "F", "F♯", "G", "G♯", "A", "A♯", "B")
_FLATS = ("C", "D♭", "D", "E♭", "E", "F", "G♭", "G", "A♭", "A", "B♭", "B")


@dataclass
class _Source:
    """The notes of one track or channel."""

    id: str
    name: str
    notes: list[HeldKey]


def read_midi_score(data: bytes, *, filename: str = "the file", reading: Reading | None = None) -> Score:
    """The score in a Standard MIDI file.

    Raises:
        ScoreError: not a MIDI file that can be read, or one without notes or beats.
        LimitError: larger than the stated limits.
    """
    return open_midi_score(data, filename=filename, reading=reading)[0]


def open_midi_score(
    data: bytes, *, filename: str = "the file", reading: Reading | None = None
) -> tuple[Score, tuple[PartInfo, ...]]:
    """The score and the tracks (and channels) it could be read from; errors as ``read_midi_score``."""
    choice = reading or Reading()
    midi = _parse(data, filename)
    notices = NoticeBook()
    sources = _sources(midi, filename)
    chosen = _choose(sources, choice.parts, notices)
    duple, triple = GRIDS[choice.grid]
    signatures, tempos, keys = _meta(midi, notices)
    parts = [quantise(source.notes, duple, triple) for source in chosen]
    end = max(note.end for part in parts for note in part.notes)
    measures = _measures(signatures, end, filename, notices)
    _tell_rounding(parts, measures, choice.grid, notices)
    notes = _notes(parts, chosen, _Bars(measures, keys), choice, notices)
    check_bars((measures[note.measure_index].number for note in notes), filename)
    marks = [Mark(MarkKind.KEY, at, str(fifths)) for at, fifths in keys if at < measures[-1].end_quarters]
    score = Score(
        _title(midi, filename),
        "",
        tuple(measures),
        tuple(notes),
        (),
        tuple(TempoMark(at, bpm, Fraction(1)) for at, bpm in tempos if at < measures[-1].end_quarters),
        notices.all(),
        tuple(close_bends(marks, (), measures[-1].end_quarters)),
    )
    infos = tuple(PartInfo(source.id, source.name, 1, source in chosen) for source in sources)
    return with_lines(with_hands(score, choice), choice), infos


def _parse(data: bytes, filename: str) -> mido.MidiFile:
    midi = open_midi(data, filename)
    if midi is None:
        raise ScoreError("the MIDI file cannot be read.", where=filename, kept=_KEPT, todo=_TODO)
    if midi.ticks_per_beat <= 0 or midi.ticks_per_beat >= 0x8000:
        raise ScoreError("the MIDI file counts in SMPTE time, which holds no beats.", where=filename, kept=_KEPT)
    return midi


def _plain(text: str) -> str:
    """A name in the file as one printable line."""
    return " ".join("".join(c if c.isprintable() else " " for c in text).split())


def _title(midi: mido.MidiFile, filename: str) -> str:
    for message in midi.tracks[0][:40] if midi.tracks else ():
        if message.type == "track_name" and _plain(message.name) and len(midi.tracks) > 1:
            name = _plain(message.name)
            if _named_hand(name) is None and not re.search("copyright|©", name, re.IGNORECASE):
                return name[:200]
    stem = filename.rsplit("/", 1)[-1].rsplit(".", 1)[0]
    return stem[:200] or "Untitled"


def _sources(midi: mido.MidiFile, filename: str) -> list[_Source]:
    """The notes of each track, of each channel where a track uses several."""
    sources: list[_Source] = []
    total = 0
    for number, track in enumerate(midi.tracks, start=1):
        now, name = 0, ""
        opened: dict[tuple[int, int], list[int]] = {}
        by_channel: dict[int, list[list[int]]] = {}
        for message in track:
            now += message.time
            if message.type == "track_name" and not name:
                name = _plain(message.name)[:60]
            if message.type not in ("note_on", "note_off"):
                continue
            key = (message.channel, message.note)
            if message.type == "note_on" and message.velocity > 0:
                total += 1
                if total > MAX_NOTES:
                    raise LimitError(f"the file has more than {MAX_NOTES:,} notes.", where=filename, kept=_KEPT)
                notes = by_channel.setdefault(message.channel, [])
                opened.setdefault(key, []).append(len(notes))
                notes.append([now, -1, message.note])
            elif opened.get(key):
                by_channel[message.channel][opened[key].pop(0)][1] = now
        for channel, found in sorted(by_channel.items()):
            identity = str(number) if len(by_channel) == 1 else f"{number}.{channel + 1}"
            per = midi.ticks_per_beat
            played = [
                HeldKey(Fraction(start, per), Fraction(max(stop, start) if stop >= 0 else now, per),
                       None if channel == DRUMS else pitch)
                for start, stop, pitch in found
            ]  # fmt: skip
            sources.append(_Source(identity, name or f"track {identity}", played))
    if not sources:
        raise ScoreError("the MIDI file has no notes.", where=filename, kept=_KEPT, todo=_TODO)
    return sources


def _choose(sources: list[_Source], wanted: tuple[str, ...], notices: NoticeBook) -> list[_Source]:
    """The tracks wanted; by rule all of one or two, the four of a score in four parts, else the two with most notes
    that have pitches."""
    named = [source for name in wanted for source in sources if source.id == name]
    pitched = [source for source in sources if source.notes[0].pitch is not None] or sources
    if named:
        chosen = named[:FOUR_PARTS]
    elif len(sources) <= 2:
        chosen = sources
    elif len(pitched) == FOUR_PARTS:
        chosen = pitched
    else:
        largest = sorted(pitched, key=lambda source: -len(source.notes))[:2]
        chosen = [source for source in sources if source in largest]
    left_out = [source for source in sources if source not in chosen]
    if left_out:
        names = ", ".join(source.name for source in left_out)
        notices.add("unused", f"{len(left_out)} more track(s): {names[:120]}")
    return chosen


def _meta(
    midi: mido.MidiFile, notices: NoticeBook
) -> tuple[list[tuple[Quarters, TimeSignature]], list[tuple[Quarters, float]], list[tuple[Quarters, int]]]:
    """Time signatures, tempos (quarters a minute) and keys (fifths), each with its place."""
    signatures: dict[Quarters, TimeSignature] = {}
    tempos: dict[Quarters, float] = {}
    keys: dict[Quarters, int] = {}
    for track in midi.tracks:
        now = 0
        for message in track:
            now += message.time
            at = Fraction(now, midi.ticks_per_beat)
            if message.type == "time_signature":
                try:
                    signatures[at] = TimeSignature(message.numerator, message.denominator)
                except ScoreError:
                    notices.add("unused", f"a time signature {message.numerator}/{message.denominator}")
            elif message.type == "set_tempo":
                bpm = 60e6 / message.tempo if message.tempo else 0.0
                if MIN_BPM <= bpm <= MAX_BPM:
                    tempos[at] = round(bpm, 2)
            elif message.type == "key_signature":
                keys[at] = _fifths(message.key)
    if not signatures:
        notices.add("guessed", "no time signature is given; 4/4 is assumed")
    found = sorted(tempos.items())
    if len(found) > MOST_TEMPOS:
        notices.add("unused", f"{len(found) - 1} tempo changes after the first (they come from a performance)")
        found = found[:1]
    return sorted(signatures.items()), found, sorted(keys.items())


def _fifths(key: str) -> int:
    """``"Bbm"`` → −5."""
    order = "FCGDAEB"
    fifths = order.index(key[0]) - 1
    fifths += 7 * key.count("#") - 7 * key[1:].count("b")
    return fifths - 3 if key.endswith("m") else fifths


def _measures(
    signatures: Sequence[tuple[Quarters, TimeSignature]], end: Quarters, filename: str, notices: NoticeBook
) -> list[Measure]:
    signs = list(signatures)
    if not signs or signs[0][0] > 0:
        signs.insert(0, (Fraction(0), TimeSignature(4, 4)))
    measures: list[Measure] = []
    start = Fraction(0)
    while start < end or not measures:
        index = len(measures)
        if index >= MAX_BARS:
            raise LimitError(
                f"the file lasts longer than {MAX_BARS} bars.", where=filename, kept=_KEPT, todo="Split it."
            )
        now = bisect_right(signs, start, key=lambda sign: sign[0])
        signature = signs[now - 1][1]
        length = signature.bar_quarters
        following = signs[now][0] if now < len(signs) else None
        if following is not None and following < start + length:
            notices.add("changed", "bars cut short by a new time signature", str(index + 1))
            length = following - start
        line = index // DEFAULT_BARS_PER_LINE + 1
        measures.append(
            Measure(
                index,
                str(index + 1),
                signature,
                start,
                length,
                line=line,
                bar_in_line=index % DEFAULT_BARS_PER_LINE + 1,
            )
        )
        start += length
    return measures


def _tell_rounding(parts: Sequence[Quantised], measures: Sequence[Measure], grid: str, notices: NoticeBook) -> None:
    duple, triple = GRIDS[grid]
    words = f"quantised to parts of {duple} of a quarter" + (f", or {triple} where that fits better" if triple else "")
    notices.add("guessed", words)
    notes = sum(len(part.notes) for part in parts)
    moved = [move for part in parts for move in part.moved]
    if moved:
        most = max(abs(by) for _, by in moved)
        first = _bar_at(measures, min(at for at, _ in moved))
        text = f"{len(moved)} of {notes} strikes were moved to the grid, at most by {float(most):.3f} of a quarter"
        notices.add("changed", text, first)
    for at, by in moved:
        if abs(by) > duple / 3:
            notices.add("changed", "strikes moved by more than a third of the grid", _bar_at(measures, at))
    lengthened = sum(part.lengthened for part in parts)
    if lengthened:
        notices.add("changed", f"{lengthened} notes shorter than the grid were lengthened to it")


def _bar_at(measures: Sequence[Measure], at: Quarters) -> str:
    return next((m.number for m in reversed(measures) if m.start_quarters <= at), measures[0].number)


# -- notes ------------------------------------------------------------------------------------------


_HAND_NAMES = {
    Hand.LEFT: {"left", "lh", "bass", "tenor"},
    Hand.RIGHT: {"right", "rh", "treble", "soprano", "alto"},
}


def _named_hand(name: str) -> Hand | None:
    """Left or right, where a track says so."""
    words = name.lower().replace(".", " ").replace("-", " ").split()
    for hand, names in _HAND_NAMES.items():
        if names & set(words) or words[-2:] == [hand.value[0], "h"]:
            return hand
    return None


@dataclass(frozen=True)
class _Bars:
    """The bars of a file with its key signatures: (where, fifths)."""

    measures: Sequence[Measure]
    keys: Sequence[tuple[Quarters, int]]

    @cached_property
    def starts(self) -> list[Quarters]:
        return [measure.start_quarters for measure in self.measures]

    def fifths_at(self, at: Quarters) -> int:
        return next((fifths for place, fifths in reversed(self.keys) if place <= at), 0)


def _notes(
    parts: Sequence[Quantised], sources: Sequence[_Source], bars: _Bars, reading: Reading, notices: NoticeBook
) -> list[Note]:
    hands: list[list[Hand]]
    if len(parts) == 1:
        notes = parts[0].notes
        hands = [split_hands([(n.start, n.pitch) for n in notes], reading.split_pitch)]
        if len(set(hands[0])) > 1:
            how = "where the hands fit best" if reading.split_pitch is None else f"at key {reading.split_pitch}"
            notices.add("guessed", f"one track split into two hands, {how}")
    else:
        hands = [[hand] * len(part.notes) for hand, part in zip(_hands_of(sources), parts, strict=True)]
    chosen = [
        [reading.staff_hands.get(f"{source.id}:1", hand) for hand in part]
        for source, part in zip(sources, hands, strict=True)
    ]
    found = [
        (note, hand)
        for part, own in zip(parts, chosen, strict=True)
        for note, hand in zip(part.notes, own, strict=True)
    ]
    result: list[Note] = []
    for hand in (Hand.RIGHT, Hand.LEFT):
        own_notes = sorted((n for n, h in found if h is hand), key=lambda n: (n.start, n.pitch or 0, n.end))
        result += _voiced(own_notes, hand, bars)
    result.sort(key=lambda n: (n.onset_quarters, n.pitch or 0, n.voice))
    return [replace(note, id=f"n{index}") for index, note in enumerate(result)]


def _hands_of(sources: Sequence[_Source]) -> list[Hand]:
    """By the tracks' names where they name both hands, or one of two; else the higher half is the right hand's."""
    named = [_named_hand(source.name) for source in sources]
    if set(named) == {Hand.RIGHT, Hand.LEFT}:
        return [hand or Hand.RIGHT for hand in named]
    if len(sources) == 2 and any(named) and len(set(named)) > 1:
        other = Hand.LEFT if Hand.RIGHT in named else Hand.RIGHT
        return [hand or other for hand in named]
    means = [sum(note.pitch or 0 for note in source.notes) / len(source.notes) for source in sources]
    by_height = sorted(range(len(sources)), key=lambda i: -means[i])
    upper = set(by_height[: (len(sources) + 1) // 2])
    return [Hand.RIGHT if i in upper else Hand.LEFT for i in range(len(sources))]


def _voiced(notes: Sequence[HeldKey], hand: Hand, bars: _Bars) -> Iterable[Note]:
    """The notes of one hand in voices that do not overlap, cut and tied at the bar lines."""
    voices: list[tuple[Quarters, Quarters, Quarters]] = []  # (start, end) of the last chord, end of the voice
    used: Counter[tuple[Quarters, int | None]] = Counter()
    for note in notes:
        if used[note.start, note.pitch]:
            continue  # a key cannot go down twice at once
        used[note.start, note.pitch] += 1
        voice = next(
            (
                i
                for i, (start, end, until) in enumerate(voices)
                if (start, end) == (note.start, note.end) or until <= note.start
            ),
            len(voices),
        )
        entry = (note.start, note.end, note.end)
        voices[voice : voice + 1] = [entry]
        yield from _cut_at_bars(note, hand, f"{1 if hand is Hand.RIGHT else 2}.{voice + 1}", bars)


def _cut_at_bars(note: HeldKey, hand: Hand, voice: str, bars: _Bars) -> Iterable[Note]:
    measures = bars.measures
    index = bisect_right(bars.starts, note.start) - 1
    at = note.start
    while at < note.end:
        measure = measures[index]
        stop = min(note.end, measure.end_quarters) if index + 1 < len(measures) else note.end
        yield Note(
            "", hand, voice, index, at, stop - at, note.pitch, _name(note.pitch, bars.fifths_at(at)), at > note.start,
            stop < note.end, False, 1 if hand is Hand.RIGHT else 2,
        )  # fmt: skip
        at, index = stop, index + 1


def _name(pitch: int | None, fifths: int) -> str:
    if pitch is None:
        return "x"
    return f"{(_FLATS if fifths < 0 else _SHARPS)[pitch % 12]}{pitch // 12 - 1}"
