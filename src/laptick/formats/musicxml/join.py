"""From the bars of one or more parts to a score with hands.

Fixes bar lengths: a full bar, a pickup, a bar split in two, or a short last bar; names lines; gives notes
to hands; mends ties that begin nowhere; reads groupings off the beams. What was changed or guessed is
noted.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from lxml import etree

from laptick.core.base.errors import ScoreError
from laptick.core.base.units import Quarters
from laptick.core.score.meter import Grouping, TimeSignature, is_asymmetric
from laptick.core.score.score import Hand, Mark, Measure, Note, Rest, Score, Signs, TempoMark, mark_order
from laptick.core.score.sign_words import read_sign_words
from laptick.formats.musicxml.beams import grouping_by_beams
from laptick.formats.musicxml.raw import RawBar, RawMark, RawNote, RawPlace, RawSigns
from laptick.formats.musicxml.reader import PartReader
from laptick.formats.parts.lines import DEFAULT_BARS_PER_LINE, close_bends
from laptick.formats.parts.notices import NoticeBook

#: A voice that has at least this share of its notes on one staff is at home there.
HOME_SHARE = 0.75


@dataclass(frozen=True)
class JoinedScore:
    """The score, and the elements its notes, rests and marks were read from."""

    score: Score
    elements: Mapping[str, etree._Element]
    mark_elements: Mapping[Mark, tuple[etree._Element, ...]]


@dataclass(frozen=True)
class ScoreHead:
    """What a score is called, who made it, and which file it is read from (for errors)."""

    title: str
    composer: str
    filename: str


def build_score(
    readers: Sequence[PartReader],
    head: ScoreHead,
    notices: NoticeBook,
    staff_hands: Mapping[str, Hand],
    *,
    allow_silent: bool = False,
) -> JoinedScore:
    """One or more parts as a score with hands.

    One part: staff 1 is the right hand, further staves the left; a single staff in the bass clef is the
    left hand. More parts: the first is the right hand, the others the left. ``staff_hands`` (``"P1:2"`` →
    hand) goes before these rules. A score without notes is refused unless ``allow_silent``.
    """
    if len({len(reader.bars) for reader in readers}) > 1:
        notices.add("guessed", "the parts have different numbers of bars; the shorter one rests at its end")
    joiner = _Joiner(readers, notices, staff_hands)
    joiner.place()
    notes = joiner.notes()
    if not allow_silent and not any(note.is_strike for note in notes):
        raise ScoreError(
            "the score has no notes.",
            where=head.filename,
            kept="Nothing was changed.",
            todo="Choose a score with notes.",
        )
    tempos = _tempos(readers, joiner.measures)
    marks = joiner.marks(notes, tempos)
    score = Score(
        head.title,
        head.composer,
        tuple(joiner.measures),
        notes,
        tuple(sorted(joiner.rests, key=lambda r: (r.onset_quarters, r.hand, r.voice))),
        tempos,
        tuple(n for reader in readers for n in reader.notices.all()) + notices.all(),
        tuple(marks),
    )
    return JoinedScore(score, joiner.elements(notes), marks)


class _Joiner:
    """Puts the bars of the parts one under the other, and gives every note its hand."""

    def __init__(self, readers: Sequence[PartReader], notices: NoticeBook, staff_hands: Mapping[str, Hand]) -> None:
        self._readers, self._notices, self._staff_hands = readers, notices, staff_hands
        lead = max(readers, key=lambda reader: len(reader.bars))
        self.measures = _BarFitter(readers, lead, notices).measures()
        self.rests: list[Rest] = []
        self._placed: list[_Placed] = []
        self._rest_elements: dict[str, etree._Element] = {}

    def place(self) -> None:
        for part_index, reader in enumerate(self._readers):
            homes = _homes(reader)
            hands = {staff: self._hand_of(part_index, staff) for staff in reader.staves_met()}
            for bar_index, bar in enumerate(reader.bars):
                at_home = _home_voices(bar, homes)
                for raw in bar.notes:
                    staff = at_home.get(raw.voice, raw.staff)
                    hand = hands[staff]
                    if staff != raw.staff and hand is not hands[raw.staff]:
                        text = "notes on the other staff (kept in the hand of their voice)"
                        self._notices.add("guessed", text, bar.number, raw.staff)
                    self._place_one(raw, bar_index, hand, f"{part_index + 1}.{raw.voice}")
        per = math.lcm(*{item.onset.denominator for item in self._placed} or {1})
        self._placed.sort(key=lambda item: item.order(per))

    def _place_one(self, raw: RawNote, bar_index: int, hand: Hand, voice: str) -> None:
        start = self.measures[bar_index].start_quarters
        onset = start + raw.offset if raw.offset else start
        if not raw.is_rest:
            self._placed.append(_Placed(raw, bar_index, onset, hand, voice))
            return
        rest = Rest(hand, voice, bar_index, onset, raw.duration, raw.staff, f"r{len(self.rests)}")
        self.rests.append(rest)
        if raw.element is not None:
            self._rest_elements[rest.id] = raw.element

    def _hand_of(self, part_index: int, staff: int) -> Hand:
        return _hand_of(self._readers, part_index, staff, self._staff_hands)

    def notes(self) -> tuple[Note, ...]:
        """The notes in the order of the score, with their ids."""
        notes = [
            Note(
                f"n{index}", item.hand, item.voice, item.bar_index, item.onset, item.raw.duration, item.raw.pitch,
                item.raw.name, item.raw.tied_from_before, item.raw.tied_onward, item.raw.is_grace, item.raw.staff,
            )
            for index, item in enumerate(self._placed)
        ]  # fmt: skip
        return tuple(mend_ties(notes, self.measures, self._notices))

    def elements(self, notes: Sequence[Note]) -> dict[str, etree._Element]:
        """What each rest and note was read from, by its id."""
        read = {
            note.id: item.raw.element
            for note, item in zip(notes, self._placed, strict=True)
            if item.raw.element is not None
        }
        return {**self._rest_elements, **read}

    def marks(self, notes: Sequence[Note], tempos: Sequence[TempoMark]) -> dict[Mark, tuple[etree._Element, ...]]:
        """The marks in order, each with what it was read from."""
        owners = {id(item.raw): note for note, item in zip(notes, self._placed, strict=True)}
        marks: dict[Mark, list[etree._Element]] = {}
        for part_index, reader in enumerate(self._readers):
            for raw in reader.marks:
                owner = owners.get(id(raw.note)) if raw.note is not None else None
                end = None if raw.end is None else self._onset(raw.end)
                hand = self._hand_of_mark(raw, owner, part_index)
                mark = Mark(raw.kind, self._onset(raw.place), raw.text, end, hand, owner.id if owner else None)
                marks.setdefault(mark, []).extend(raw.elements)
        unique = sorted(marks, key=mark_order)
        closed = close_bends(unique, tempos, self.measures[-1].end_quarters)
        return {mark: tuple(marks[before]) for mark, before in zip(closed, unique, strict=True)}

    def _onset(self, place: RawPlace) -> Quarters:
        measure = self.measures[place[0]]
        return min(measure.start_quarters + place[1], measure.end_quarters)

    def _hand_of_mark(self, raw: RawMark, owner: Note | None, part_index: int) -> Hand | None:
        """The hand of the note it belongs to, else of its staff; ``None``: it is for both."""
        if owner is not None:
            return owner.hand
        if raw.is_for_all:
            return None
        if raw.staff is not None:
            return self._hand_of(part_index, raw.staff)
        return self._hand_of(part_index, 1) if len(self._readers) > 1 else None


@dataclass(slots=True)
class _Placed:
    """A note of the file and where it belongs."""

    raw: RawNote
    bar_index: int
    onset: Quarters
    hand: Hand
    voice: str

    def order(self, per_quarter: int) -> tuple[int, int, int, str]:
        """The order of notes in a score; grace notes stand before what they lead to."""
        tick = self.onset.numerator * (per_quarter // self.onset.denominator)
        return tick, 0 if self.raw.is_grace else 1, self.raw.pitch or 0, self.voice


# -- hands ------------------------------------------------------------------------------------------


def _hand_of(readers: Sequence[PartReader], part_index: int, staff: int, chosen: Mapping[str, Hand]) -> Hand:
    reader = readers[part_index]
    named = chosen.get(f"{reader.part.get('id') or part_index + 1}:{staff}")
    if named is not None:
        return named
    if len(readers) > 1:
        return Hand.RIGHT if part_index == 0 else Hand.LEFT
    if reader.staves > 1:
        return Hand.RIGHT if staff == 1 else Hand.LEFT
    return Hand.LEFT if reader.first_clef == "F" else Hand.RIGHT


def _homes(reader: PartReader) -> dict[str, int]:
    """The staff each voice is at home on, where it is at home on one."""
    if reader.staves < 2:
        return {}
    found: dict[str, Counter[int]] = {}
    for bar in reader.bars:
        for raw in bar.notes:
            if not raw.is_rest:
                found.setdefault(raw.voice, Counter())[raw.staff] += 1
    homes = {}
    for voice, staves in found.items():
        staff, times = staves.most_common(1)[0]
        if len(staves) > 1 and times >= HOME_SHARE * staves.total():
            homes[voice] = staff
    return homes


def _home_voices(bar: RawBar, homes: dict[str, int]) -> dict[str, int]:
    """Voices of this bar that cross to the other staff and keep their hand. A voice number used on both
    staves at once is two voices."""
    crossing: dict[str, int] = {}
    for voice, home in homes.items():
        own = [raw for raw in bar.notes if raw.voice == voice and not raw.is_grace]
        away = [raw for raw in own if raw.staff != home]
        there = [raw for raw in own if raw.staff == home]
        overlap = any(
            a.offset < t.offset + t.duration
            and t.offset < a.offset + a.duration
            and not (a.offset == t.offset and (a.in_chord or t.in_chord))  # one chord over both staves
            for a in away
            for t in there
        )
        if away and not overlap:
            crossing[voice] = home
    return crossing


# -- bars -------------------------------------------------------------------------------------------


def fitted_signature(length: Quarters) -> TimeSignature | None:
    """A signature that is as long as a bar without one, or one that overflows its own."""
    for beat_type in (4, 8, 16, 32, 64):
        beats = length * beat_type / 4
        if beats.denominator == 1 and 1 <= beats <= 64:
            return TimeSignature(int(beats), beat_type)
    return None


class _BarFitter:
    """Gives every bar its length, its name and its place in a line.

    A bar is as long as its signature says unless it is a pickup, one of the parts of a bar split in two, a short last
    bar, or longer than its signature; any other short bar is filled up with silence.
    """

    def __init__(self, readers: Sequence[PartReader], lead: PartReader, notices: NoticeBook) -> None:
        self._readers, self._lead, self._notices = readers, lead, notices
        self._has_breaks = any(bar.new_system for bar in lead.bars[1:])
        self._signs = _signs(readers, len(lead.bars))
        self._groupings = _groupings(readers, lead)
        self._names: set[str] = set()
        self._carried = Fraction(0)  # how much of a bar split in two has been written
        self._line, self._in_line, self._full_bars = 1, 0, 0

    def measures(self) -> list[Measure]:
        measures: list[Measure] = []
        start = Fraction(0)
        for index, bar in enumerate(self._lead.bars):
            signature, length, lead_in = self._fitted(index, bar)
            line, in_line = self._placed(index, bar, is_led_into=lead_in > 0)
            signs, grouping = self._signs[index], self._groupings[index]
            name = self._named(bar.number)
            measures.append(Measure(index, name, signature, start, length, lead_in, line, in_line, signs, grouping))
            start += length
        return measures

    def _fitted(self, index: int, bar: RawBar) -> tuple[TimeSignature, Quarters, Quarters]:
        """A bar's signature, how long it is, and how much of its signature lies before it."""
        content = max(reader.bars[index].content for reader in self._readers if index < len(reader.bars))
        signature = bar.signature
        if bar.is_free or content > signature.bar_quarters:
            if not bar.is_free:
                text = "bars longer than their time signature (kept as long as written)"
                self._notices.add("changed", text, bar.number)
            signature = fitted_signature(content) or signature
        nominal = signature.bar_quarters
        length, lead_in = max(nominal, content), Fraction(0)
        if 0 < content < nominal:
            length, lead_in = self._short(index, bar, content, nominal)
        carried = self._carried + length if length < nominal and index > 0 else Fraction(0)
        self._carried = carried if carried < nominal else Fraction(0)
        return signature, length, lead_in

    def _short(self, index: int, bar: RawBar, content: Quarters, nominal: Quarters) -> tuple[Quarters, Quarters]:
        """A bar that holds less than its signature: its length, and what lies before it."""
        carried, is_last = self._carried, index == len(self._lead.bars) - 1
        if index == 0:
            return content, nominal - content
        if bar.implicit and carried and carried + content <= nominal:
            return content, carried
        if bar.implicit or is_last or _completes(self._lead, index, content, nominal):
            return content, Fraction(0)
        if _is_split_by_repeat(self._signs, index, content, carried, nominal):
            return content, carried
        text = "bars shorter than their time signature (filled up with silence)"
        self._notices.add("changed", text, bar.number)
        return nominal, Fraction(0)

    def _placed(self, index: int, bar: RawBar, *, is_led_into: bool) -> tuple[int, int]:
        """The line a bar stands in, and its number there; a pickup has none."""
        is_pickup = index == 0 and is_led_into
        if self._has_breaks:
            is_fresh = bar.new_system and index > 0
        else:
            is_fresh = self._full_bars > 0 and self._full_bars % DEFAULT_BARS_PER_LINE == 0 and not is_led_into
        if is_fresh:
            self._line, self._in_line = self._line + 1, 1
        elif not is_pickup:
            self._in_line += 1
        self._full_bars += not is_pickup
        return self._line, self._in_line

    def _named(self, number: str) -> str:
        """Two bars of one name would make places ambiguous."""
        while number in self._names:
            number += "′"
        self._names.add(number)
        return number


def _completes(lead: PartReader, index: int, content: Quarters, nominal: Quarters) -> bool:
    """True when this short bar and the next, implicit one make up a full bar (a bar split in two)."""
    if index + 1 >= len(lead.bars):
        return False
    following = lead.bars[index + 1]
    return following.implicit and content + following.content == nominal


def _is_split_by_repeat(
    signs: Sequence[Signs], index: int, content: Quarters, carried: Quarters, nominal: Quarters
) -> bool:
    """A short bar before or after a repeat sign: the other part of its bar is the pickup repeated."""
    if signs[index].backward:
        return True
    return carried > 0 and carried + content == nominal and bool(signs[index - 1].backward)


def _groupings(readers: Sequence[PartReader], lead: PartReader) -> list[Grouping | None]:
    """How beams join the units of asymmetric bars; a bar without beams like most others of its kind."""
    own: list[Grouping | None] = []
    usual: dict[TimeSignature, Counter[Grouping]] = {}
    for index, bar in enumerate(lead.bars):
        found = None
        if is_asymmetric(bar.signature) and not bar.signature.groups:
            notes = [raw for reader in readers if index < len(reader.bars) for raw in reader.bars[index].notes]
            found = grouping_by_beams(bar.signature, [(n.offset, n.duration, n.beam) for n in notes if n.beam])
        if found is not None:
            usual.setdefault(bar.signature, Counter())[found] += 1
        own.append(found)
    return [
        usual[bar.signature].most_common(1)[0][0] if found is None and bar.signature in usual else found
        for bar, found in zip(lead.bars, own, strict=True)
    ]


def _signs(readers: Sequence[PartReader], bars: int) -> list[Signs]:
    """The signs of every bar, those of all parts together."""
    merged = [_merge([r.bars[i].signs for r in readers if i < len(r.bars)]) for i in range(bars)]
    open_symbols = [i for i, raw in enumerate(merged) if raw.coda_symbols and not raw.coda and not raw.to_coda]
    if open_symbols and len(open_symbols) > 1 and not any(raw.to_coda for raw in merged):
        merged[open_symbols[0]].to_coda = "coda"  # of two signs the first is left, the second gone to
        open_symbols = open_symbols[1:]
    for i in open_symbols:
        merged[i].coda = "coda"
    return [
        Signs(
            raw.forward,
            raw.backward,
            raw.endings,
            raw.ending_begins,
            raw.segno,
            raw.coda,
            raw.fine,
            raw.da_capo,
            raw.dal_segno,
            raw.to_coda,
        )
        for raw in merged
    ]


def _merge(parts: list[RawSigns]) -> RawSigns:
    """What stands in any part; the words of each read on their own."""
    merged = RawSigns()
    for raw in parts:
        merged.forward |= raw.forward
        merged.backward = max(merged.backward, raw.backward)
        merged.endings = merged.endings or raw.endings
        merged.ending_begins |= raw.ending_begins
        merged.coda_symbols = max(merged.coda_symbols, raw.coda_symbols)
        words = read_sign_words(raw.words)
        merged.fine |= raw.fine or words.fine
        merged.da_capo |= raw.da_capo or words.da_capo
        merged.segno = merged.segno or raw.segno or ("segno" if words.segno else "")
        merged.coda = merged.coda or raw.coda or ("coda" if words.coda else "")
        merged.dal_segno = merged.dal_segno or raw.dal_segno or ("segno" if words.dal_segno else "")
        merged.to_coda = merged.to_coda or raw.to_coda or ("coda" if words.to_coda else "")
    return merged


# -- marks and ties ---------------------------------------------------------------------------------


def _tempos(readers: Sequence[PartReader], measures: Sequence[Measure]) -> tuple[TempoMark, ...]:
    """The tempo marks of all parts; the first part's where two stand at one instant."""
    marks: dict[Quarters, TempoMark] = {}
    for reader in readers:
        for index, bar in enumerate(reader.bars):
            for at, bpm, unit in bar.tempos:
                onset = measures[index].start_quarters + at
                marks.setdefault(onset, TempoMark(onset, bpm, unit))
    return tuple(mark for _, mark in sorted(marks.items()))


def mend_ties(notes: list[Note], measures: Sequence[Measure], notices: NoticeBook) -> list[Note]:
    """A tie that ends without having begun is a strike; said so."""
    open_ties: dict[tuple[Hand, int | None], Quarters] = {}
    mended: list[Note] = []
    for note in notes:
        if not (note.tied_from_before or note.tied_onward):
            mended.append(note)
            continue
        key = (note.hand, note.pitch)
        if note.tied_from_before and open_ties.get(key) != note.onset_quarters:
            notices.add(
                "changed",
                "ties that end without a beginning (taken as struck)",
                measures[note.measure_index].number,
                note.staff,
            )
            note = replace(note, tied_from_before=False)
        if note.tied_onward:
            open_ties[key] = note.end_quarters
        mended.append(note)
    return mended
