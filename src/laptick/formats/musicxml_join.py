"""From the bars of one or two parts to a score with hands.

Fixes bar lengths: a full bar, a pickup, a bar split in two, or a short last bar; names lines; mends ties
that begin nowhere. What was changed or guessed is noted.
"""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

from laptick.core.errors import ScoreError
from laptick.core.score import Hand, Measure, Note, Rest, Score, TempoMark
from laptick.core.units import Quarters
from laptick.formats.musicxml_reader import NoticeBook, PartReader

#: A line of print, where the file has no system breaks.
DEFAULT_BARS_PER_LINE = 4


def build_score(readers: list[PartReader], title: str, composer: str, left_out: list[str], filename: str) -> Score:
    """One or two parts as a score with hands.

    One part: staff 1 is the right hand, staff 2 the left; a single staff in the bass clef is the left
    hand. Two parts: the first is the right hand.
    """
    notices = NoticeBook()
    if left_out:
        notices.add("unused", f"{len(left_out)} more part(s): {', '.join(left_out)[:80]}")
    lengths = {len(reader.bars) for reader in readers}
    if len(lengths) > 1:
        notices.add("guessed", "the parts have different numbers of bars; the shorter one rests at its end")
    lead_reader = max(readers, key=lambda reader: len(reader.bars))
    measures = _measures(readers, lead_reader, notices)
    notes: list[Note] = []
    rests: list[Rest] = []
    for part_index, reader in enumerate(readers):
        for bar_index, bar in enumerate(reader.bars):
            for raw in bar.notes:
                hand = _hand_of(readers, part_index, raw.staff)
                onset = measures[bar_index].start_quarters + raw.offset
                voice = f"{part_index + 1}.{raw.voice}"
                if raw.is_rest:
                    rests.append(Rest(hand, voice, bar_index, onset, raw.duration))
                else:
                    notes.append(
                        Note(
                            "",
                            hand,
                            voice,
                            bar_index,
                            onset,
                            raw.duration,
                            raw.pitch,
                            raw.name,
                            raw.tied_from_before,
                            raw.tied_onward,
                            raw.is_grace,
                        )
                    )
    notes = _mend_ties(sorted(notes, key=_order), measures, notices)
    if not any(note.is_strike for note in notes):
        raise ScoreError(
            "the score has no notes.", where=filename, kept="Nothing was changed.", todo="Choose a score with notes."
        )
    numbered = tuple(replace(note, id=f"n{index}") for index, note in enumerate(notes))
    tempos = tuple(
        TempoMark(measures[index].start_quarters + at, bpm, unit)
        for index, bar in enumerate(lead_reader.bars)
        for at, bpm, unit in sorted(bar.tempos)
    )
    if len({(mark.bpm, mark.beat_quarters) for mark in tempos}) > 1:
        notices.add("unused", "tempo changes after the first tempo mark")
    all_notices = tuple(n for reader in readers for n in reader.notices.all()) + notices.all()
    return Score(
        title,
        composer,
        tuple(measures),
        numbered,
        tuple(sorted(rests, key=lambda r: r.onset_quarters)),
        tempos,
        all_notices,
    )


def _order(note: Note) -> tuple[Quarters, int, str]:
    return note.onset_quarters, note.pitch or 0, note.voice


def _hand_of(readers: list[PartReader], part_index: int, staff: int) -> Hand:
    if len(readers) == 2:
        return Hand.RIGHT if part_index == 0 else Hand.LEFT
    if readers[0].staves > 1:
        return Hand.RIGHT if staff == 1 else Hand.LEFT
    return Hand.LEFT if readers[0].first_clef == "F" else Hand.RIGHT


def _measures(readers: list[PartReader], lead: PartReader, notices: NoticeBook) -> list[Measure]:
    measures: list[Measure] = []
    start = Fraction(0)
    has_breaks = any(bar.new_system for bar in lead.bars[1:])
    line, in_line = 1, 0
    names: set[str] = set()
    carried = Fraction(0)  # how much of a bar split in two has been written
    last = len(lead.bars) - 1
    full_bars = 0
    for index, bar in enumerate(lead.bars):
        content = max(reader.bars[index].content for reader in readers if index < len(reader.bars))
        nominal = bar.signature.bar_quarters
        length, lead_in = nominal, Fraction(0)
        if content > nominal:
            length = content
            notices.add("changed", "bars longer than their time signature (kept as long as written)", bar.number)
        elif 0 < content < nominal:
            if index == 0:
                length, lead_in = content, nominal - content
            elif bar.implicit and carried and carried + content <= nominal:
                length, lead_in = content, carried
            elif bar.implicit or index == last or _completes(lead, index, content, nominal):
                length = content
            else:
                notices.add("changed", "bars shorter than their time signature (filled up with silence)", bar.number)
        carried = carried + length if length < nominal and index > 0 else Fraction(0)
        if carried >= nominal:
            carried = Fraction(0)
        if has_breaks:
            fresh = bar.new_system and index > 0
        else:
            fresh = full_bars > 0 and full_bars % DEFAULT_BARS_PER_LINE == 0 and lead_in == 0
        line, in_line = (line + 1, 1) if fresh else (line, in_line + (0 if index == 0 and lead_in else 1))
        full_bars += 0 if lead_in and index == 0 else 1
        name = bar.number
        while name in names:  # two bars of one name would make places ambiguous
            name += "′"
        names.add(name)
        measures.append(Measure(index, name, bar.signature, start, length, lead_in, line, in_line))
        start += length
    return measures


def _completes(lead: PartReader, index: int, content: Quarters, nominal: Quarters) -> bool:
    """True when this short bar and the next, implicit one make up a full bar (a bar split in two)."""
    if index + 1 >= len(lead.bars):
        return False
    following = lead.bars[index + 1]
    return following.implicit and content + following.content == nominal


def _mend_ties(notes: list[Note], measures: list[Measure], notices: NoticeBook) -> list[Note]:
    """A tie that ends without having begun is a strike; said so."""
    open_ties: dict[tuple[Hand, int | None], Quarters] = {}
    mended: list[Note] = []
    for note in notes:
        key = (note.hand, note.pitch)
        if note.tied_from_before and open_ties.get(key) != note.onset_quarters:
            notices.add(
                "changed", "ties that end without a beginning (taken as struck)", measures[note.measure_index].number
            )
            note = replace(note, tied_from_before=False)
        if note.tied_onward:
            open_ties[key] = note.end_quarters
        mended.append(note)
    return mended
