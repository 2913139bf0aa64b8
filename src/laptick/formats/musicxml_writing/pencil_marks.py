"""The marks of a changed score written into the draft of its file: what is gone erased, what is new put at its note or
place."""

from __future__ import annotations

from fractions import Fraction

from lxml import etree

from laptick.core.base.units import Quarters
from laptick.core.score.score import Hand, Mark, MarkKind, Note, Rest, Score
from laptick.formats.musicxml_writing.draft import TreeDraft
from laptick.formats.musicxml_writing.marks import sub, write_direction, write_lyric, write_note_mark
from laptick.formats.musicxml_writing.notes import drop_empty, notations_of

_MOVES = ("note", "backup", "forward")

#: Spans of a kind at one time (MusicXML 4.0, ``number-level``).
MOST_SPANS = 16


class MarkDraft:
    """Writes the marks of one draft."""

    def __init__(self, draft: TreeDraft) -> None:
        self.draft = draft
        self._busy: dict[tuple[MarkKind, int], Quarters] = {}

    def write(self) -> dict[Mark, tuple[etree._Element, ...]]:
        """Takes away what is gone and writes what is new; all marks of the new score with their elements."""
        before = {self._key(self.draft.old, mark): mark for mark in self.draft.old.marks}
        after = {self._key(self.draft.new, mark): mark for mark in self.draft.new.marks}
        for key, mark in before.items():
            if key not in after:
                for element in self.draft.mark_elements.get(mark, ()):
                    self._erase(element)
        result = {mark: self.draft.mark_elements.get(before[key], ()) for key, mark in after.items() if key in before}
        for key, mark in after.items():
            if key not in before:
                result[mark] = self._add(mark)
        return result

    @staticmethod
    def _key(score: Score, mark: Mark) -> tuple[object, ...]:
        """What makes a mark the same one, wherever its note has gone."""
        if mark.note_id is None:
            return (mark,)
        if mark.kind is MarkKind.SLUR:
            last = last_of_slur(score, mark)
            return mark.kind, mark.note_id, last.id if last else mark.end_quarters
        return mark.kind, mark.text, mark.note_id

    @staticmethod
    def _erase(element: etree._Element) -> None:
        direction = next(element.iterancestors("direction"), None)
        if direction is None:
            drop_empty(element, "note" if next(element.iterancestors("note"), None) is not None else "measure")
            return
        drop_empty(element, "direction")
        if direction.find("direction-type") is None:
            sound, parent = direction.find("sound"), direction.getparent()
            if parent is not None and sound is not None:
                direction.addprevious(sound)  # what steers playing stays
            if parent is not None:
                parent.remove(direction)

    def _add(self, mark: Mark) -> tuple[etree._Element, ...]:
        if mark.kind is MarkKind.SLUR:
            return self._add_slur(mark)
        if mark.note_id is not None:
            element = self.draft.elements.get(mark.note_id)
            if element is None:
                return ()
            if mark.kind is MarkKind.LYRIC:
                return (write_lyric(element, mark),)
            notations = notations_of(element)
            groups = {
                str(child.tag): child for child in notations.iterchildren("articulations", "ornaments", "technical")
            }
            known = set(notations.iter())
            write_note_mark(notations, groups, mark)
            added = [child for child in notations.iter() if child not in known and not len(child)]
            return tuple(added)
        start = self._direction(mark, "start")
        if start is None:
            return ()
        self._place(start, mark.onset_quarters, mark.hand)
        stop = None if mark.end_quarters is None else self._direction(mark, "stop")
        if stop is not None and mark.end_quarters is not None:
            number = self._number(mark.kind, mark.onset_quarters, mark.end_quarters)
            for direction in (start, stop):
                for span in direction.iterfind("direction-type/*"):
                    span.set("number", number)
        if stop is not None and mark.end_quarters is not None:
            first, last = self.draft.new.measure_at(mark.onset_quarters), self.draft.new.measure_at(mark.end_quarters)
            if first is last or mark.end_quarters == first.end_quarters:
                # Right behind its start, with the way from there: an end never stands before its start in the file.
                way = mark.end_quarters - self._stands_at(start, mark)
                self._put_offset(stop, way, self._part_of(mark.hand)[0], first.index)
                start.addnext(stop)
            else:
                self._place(stop, mark.end_quarters, mark.hand)
        return tuple(_inner(element) for element in (start, stop) if element is not None)

    def _add_slur(self, mark: Mark) -> tuple[etree._Element, ...]:
        last = last_of_slur(self.draft.new, mark)
        if (
            mark.note_id not in self.draft.elements
            or last is None
            or last.id not in self.draft.elements
            or mark.end_quarters is None
        ):
            return ()
        number = self._number(mark.kind, mark.onset_quarters, mark.end_quarters)
        start = sub(notations_of(self.draft.elements[mark.note_id]), "slur", type="start", number=number)
        stop = sub(notations_of(self.draft.elements[last.id]), "slur", type="stop", number=number)
        return start, stop

    def _number(self, kind: MarkKind, start: Quarters, end: Quarters) -> str:
        """A number for a new span that no other new one has at that time: from the highest down, as files count from
        the lowest up."""
        free = (n for n in range(MOST_SPANS, 0, -1) if self._busy.get((kind, n), Fraction(-1)) <= start)
        number = next(free, MOST_SPANS)
        self._busy[kind, number] = end
        return str(number)

    def _direction(self, mark: Mark, action: str) -> etree._Element | None:
        holder = etree.Element("holder")
        write_direction(holder, mark, action, has_two=self._part_of(mark.hand)[1])
        if not len(holder):
            return None
        if mark.hand is None and len(self.draft.parts) > 1:
            holder[0].set("system", "only-top")
        return holder[0]

    def _place(self, direction: etree._Element, at: Quarters, hand: Hand | None) -> None:
        prefix = self._part_of(hand)[0]
        anchor = self._anchor(prefix, at, hand)
        if anchor is not None:
            anchor.addprevious(direction)
            return
        measure = self.draft.new.measure_at(at)
        bar = self.draft.bars[prefix][measure.index]
        self._put_offset(direction, at - measure.start_quarters, prefix, measure.index)
        first = next((child for child in bar.iterchildren(*_MOVES)), None)
        if first is None:
            bar.append(direction)
        else:
            first.addprevious(direction)

    def _stands_at(self, direction: etree._Element, mark: Mark) -> Quarters:
        """Where the file stands at a direction just placed: at the bar's start where it has the way from there."""
        if direction.find("offset") is None:
            return mark.onset_quarters
        return self.draft.new.measure_at(mark.onset_quarters).start_quarters

    def _part_of(self, hand: Hand | None) -> tuple[str, bool]:
        """The part that a mark of a hand belongs to, and whether it has staves to name."""
        prefixes = list(self.draft.parts)
        if len(prefixes) == 1:
            return prefixes[0], self.draft.parts[prefixes[0]].find("measure/attributes/staves") is not None
        for item in self.draft.old.notes:
            if hand is None or item.hand is hand:
                return item.voice.partition(".")[0], False
        return prefixes[0], False

    def _anchor(self, prefix: str, at: Quarters, hand: Hand | None) -> etree._Element | None:
        """The first element of what starts at an instant: of that hand where something does, else the upper staff's."""
        items: list[Note | Rest] = [
            item
            for item in self.draft.items(self.draft.new)
            if item.onset_quarters == at and item.voice.partition(".")[0] == prefix and item.id in self.draft.elements
        ]
        if not items:
            return None
        item = next((one for one in items if one.hand is hand), min(items, key=lambda one: one.staff))
        element = self.draft.elements[item.id]
        while element.find("chord") is not None or (
            (before := element.getprevious()) is not None and before.tag == "note" and before.find("grace") is not None
        ):
            before = element.getprevious()
            if before is None:
                break
            element = before
        return element

    def _put_offset(self, direction: etree._Element, way: Quarters, prefix: str, measure_index: int) -> None:
        """The way from where the file stands to where a direction belongs, in the divisions of its bar."""
        if not way:
            return
        offset = etree.Element("offset")
        offset.text = str(way * self.draft.divisions(prefix, measure_index))
        after = ("staff", "sound", "listening", "voice")
        for child in direction.iterchildren("*"):
            if child.tag in after:
                child.addprevious(offset)
                return
        direction.append(offset)


def _inner(direction: etree._Element) -> etree._Element:
    """What stands for the mark inside a direction; a chord symbol is its own."""
    kind = direction.find("direction-type")
    return direction if kind is None else kind[0]


def last_of_slur(score: Score, mark: Mark) -> Note | None:
    """The note a slur ends on: the one of its hand that ends where it does."""
    first = next((note for note in score.notes if note.id == mark.note_id), None)
    if first is None or mark.end_quarters is None:
        return None
    return next(
        (
            note
            for note in score.notes
            if note.end_quarters == mark.end_quarters
            and note.hand is first.hand
            and note.onset_quarters >= first.onset_quarters
            and not note.is_grace
        ),
        None,
    )
