"""From the bars of one or more parts to a score with hands.

Fixes bar lengths: a full bar, a pickup, a bar split in two, or a short last bar; names lines; gives notes
to hands; mends ties that begin nowhere; reads groupings off the beams. What was changed or guessed is
noted.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from lxml import etree

from laptick.core.base.errors import ScoreError
from laptick.core.base.units import Quarters
from laptick.core.score.score import Hand, Mark, Measure, Note, Rest, Score, TempoMark, mark_order
from laptick.formats.musicxml.bars import BarFitter
from laptick.formats.musicxml.head import ScoreHead
from laptick.formats.musicxml.part_hands import hand_of, voices_at_home, voices_of
from laptick.formats.musicxml.raw import RawMark, RawNote, RawPlace
from laptick.formats.musicxml.reader import PartReader
from laptick.formats.parts.lines import close_bends
from laptick.formats.parts.notices import NoticeBook


@dataclass(frozen=True)
class JoinedScore:
    """The score, and the elements its notes, rests and marks were read from."""

    score: Score
    elements: Mapping[str, etree._Element]
    mark_elements: Mapping[Mark, tuple[etree._Element, ...]]


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
    left hand. More parts: the first is the right hand, the others the left. Of four staves or parts the upper two are
    the right hand. ``staff_hands`` (``"P1:2"`` → hand) goes before these rules. A score without notes is refused
    unless ``allow_silent``.
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
        self.measures = BarFitter(readers, lead, notices).measures()
        self.rests: list[Rest] = []
        self._placed: list[_Placed] = []
        self._rest_elements: dict[str, etree._Element] = {}

    def place(self) -> None:
        for part_index, reader in enumerate(self._readers):
            voices = voices_of(reader)
            hands = {staff: self._hand_of(part_index, staff) for staff in reader.staves_met()}
            for bar_index, bar in enumerate(reader.bars):
                at_home = voices_at_home(bar, voices.homes)
                for raw in bar.notes:
                    staff = at_home.get(raw.voice, raw.staff)
                    hand = hands[staff]
                    if staff != raw.staff and hand is not hands[raw.staff]:
                        text = "notes on the other staff (kept in the hand of their voice)"
                        self._notices.add("guessed", text, bar.number, raw.staff)
                    own = f"{raw.voice}@{staff}" if raw.voice in voices.per_staff else raw.voice
                    self._place_one(raw, bar_index, hand, f"{part_index + 1}.{own}")
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
        return hand_of(self._readers, part_index, staff, self._staff_hands)

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
    """A tie that ends without having begun is a strike; said so. Two voices on one pitch may tie it to each other."""
    open_ties: dict[tuple[Hand, int | None], set[Quarters]] = {}
    mended: list[Note] = []
    for note in notes:
        if not (note.tied_from_before or note.tied_onward):
            mended.append(note)
            continue
        key = (note.hand, note.pitch)
        if note.tied_from_before and note.onset_quarters not in open_ties.get(key, ()):
            notices.add(
                "changed",
                "ties that end without a beginning (taken as struck)",
                measures[note.measure_index].number,
                note.staff,
            )
            note = replace(note, tied_from_before=False)
        if note.tied_onward:
            # The ends that have passed can meet nothing any more.
            still = {end for end in open_ties.get(key, ()) if end >= note.onset_quarters}
            open_ties[key] = still | {note.end_quarters}
        mended.append(note)
    return mended
