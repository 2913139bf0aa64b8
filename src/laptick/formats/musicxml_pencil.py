"""A changed score written into the tree of the file it came from.

Only what differs is touched: a pitch in its note, a mark at its note or place, and bars in which something starts,
ends, ties or stands elsewhere are laid out anew from their own elements. Reading the result gives the changed score
(a property test says so). The file's own tree is not touched: what comes back stands in a copy.
"""

from __future__ import annotations

import copy
import math
from fractions import Fraction

from lxml import etree

from laptick.core.score import Hand, Mark, MarkKind, Measure, Note, Rest, Score
from laptick.core.units import Quarters
from laptick.formats.engraving_beams import beam_voice
from laptick.formats.musicxml import MusicXmlFile
from laptick.formats.musicxml_marks_writer import sub, write_direction, write_lyric, write_note_mark
from laptick.formats.musicxml_notes_writer import (
    drop_empty,
    notations_of,
    ties_of,
    write_note,
    write_pitch,
    write_tuplets,
)

_MOVES = ("note", "backup", "forward")

#: Children of a note that go with it into a bar laid out anew.
_KEPT = ("notehead", "notehead-text", "lyric", "play", "listen")


def write_changes(file: MusicXmlFile, score: Score) -> MusicXmlFile:
    """The file with ``score`` (made of its own score by changes) in place of what it held."""
    return _Rewriter(file, score).write()


class _Rewriter:
    def __init__(self, file: MusicXmlFile, score: Score) -> None:
        self.file, self.old, self.new = file, file.score, score
        self.tree = copy.deepcopy(file.tree)
        twins = dict(zip(file.tree.getroot().iter(), self.tree.getroot().iter(), strict=True))
        self.elements: dict[str, etree._Element] = {key: twins[element] for key, element in file.elements.items()}
        self.mark_elements = {mark: tuple(twins[e] for e in every) for mark, every in file.mark_elements.items()}
        self.old_notes = {note.id: note for note in self.old.notes}
        self.old_rests = {rest.id: rest for rest in self.old.rests}
        self.parts = self._parts()
        self.bars = {prefix: part.findall("measure") for prefix, part in self.parts.items()}
        self.has_beams = next(self.tree.getroot().iter("beam"), None) is not None

    def _parts(self) -> dict[str, etree._Element]:
        """The part of the file for each number that voices begin with."""
        found: dict[str, etree._Element] = {}
        for item in self._items(self.old):
            prefix = item.voice.partition(".")[0]
            if prefix not in found and item.id in self.elements:
                found[prefix] = next(self.elements[item.id].iterancestors("part"))
        return found

    @staticmethod
    def _items(score: Score) -> list[Note | Rest]:
        return [*score.notes, *score.rests]

    def write(self) -> MusicXmlFile:
        for prefix in self.parts:
            anew = [
                measure
                for measure in self.new.measures
                if self._content(self.old, prefix, measure) != self._content(self.new, prefix, measure)
            ]
            self._refine(prefix, anew)
            for measure in anew:
                _Bar(self, prefix, measure).lay_out()
        for note in self.new.notes:
            before = self.old_notes.get(note.id)
            if before is not None and before.name != note.name:
                self._set_pitch(self.elements[note.id], note)
        marks = self._write_marks()
        kept = {item.id for item in self._items(self.new)}
        elements = {key: element for key, element in self.elements.items() if key in kept}
        return MusicXmlFile(self.new, self.tree, elements, self.file.parts, marks)

    @staticmethod
    def _content(score: Score, prefix: str, measure: Measure) -> list[tuple[object, ...]]:
        """What a bar of a part is made of, but for names of notes and for marks."""
        notes = [
            (n.id, n.onset_quarters, n.duration_quarters, n.voice, n.staff, n.tied_from_before, n.tied_onward)
            for n in score.notes_of_measure(measure.index)
            if n.voice.partition(".")[0] == prefix
        ]
        rests = [
            ("", r.onset_quarters, r.duration_quarters, r.voice, r.staff)
            for r in score.rests_of_measure(measure.index)
            if r.voice.partition(".")[0] == prefix
        ]
        return [*sorted(notes), *sorted(rests)]

    # -- divisions ---------------------------------------------------------------------------------------

    def _refine(self, prefix: str, anew: list[Measure]) -> None:
        """Divides the quarter of a part finely enough for everything that is written into it: ``anew`` are the bars
        that are laid out anew."""
        wanted = {Fraction(1)}
        for measure in anew:
            items: list[Note | Rest] = [
                *self.new.notes_of_measure(measure.index),
                *self.new.rests_of_measure(measure.index),
            ]
            wanted.add(measure.length_quarters)
            for item in items:
                wanted |= {item.duration_quarters, item.onset_quarters - measure.start_quarters}
        for mark in self.new.marks:
            for at in (mark.onset_quarters, mark.end_quarters):
                if at is not None and mark not in self.file.mark_elements:
                    wanted.add(at - self.new.measure_at(at).start_quarters)
        part = self.parts[prefix]
        divisions = [Fraction((d.text or "1").strip()) for d in part.iterfind("measure/attributes/divisions")] or [
            Fraction(1)
        ]
        times = math.lcm(*((value * each).denominator for value in wanted for each in divisions))
        if times == 1:
            return
        for path in ("measure/attributes/divisions", "measure/note/duration", "measure/backup/duration",
                     "measure/forward/duration", "measure/direction/offset", "measure/harmony/offset"):  # fmt: skip
            for element in part.iterfind(path):
                try:
                    element.text = str(Fraction((element.text or "0").strip()) * times)
                except ValueError:
                    continue  # not a number: the reader does not use it either
        if part.find("measure/attributes/divisions") is None:
            first = part.find("measure")
            assert first is not None
            attributes = first.find("attributes")
            if attributes is None:
                attributes = etree.Element("attributes")
                first.insert(0, attributes)
            element = etree.Element("divisions")
            element.text = str(times)
            attributes.insert(0, element)

    # -- notes -------------------------------------------------------------------------------------------

    @staticmethod
    def _set_pitch(element: etree._Element, note: Note) -> None:
        for tag in ("pitch", "unpitched"):
            before = element.find(tag)
            if before is not None:
                holder = etree.Element("holder")
                write_pitch(holder, note)
                element.replace(before, holder[0])
                break
        for accidental in element.findall("accidental"):
            element.remove(accidental)

    # -- marks -------------------------------------------------------------------------------------------

    def _write_marks(self) -> dict[Mark, tuple[etree._Element, ...]]:
        """Takes away what is gone and writes what is new; all marks of the new score with their elements."""
        before = {self._key(self.old, mark): mark for mark in self.old.marks}
        after = {self._key(self.new, mark): mark for mark in self.new.marks}
        for key, mark in before.items():
            if key not in after:
                for element in self.mark_elements.get(mark, ()):
                    self._erase(element)
        result = {mark: self.mark_elements.get(before[key], ()) for key, mark in after.items() if key in before}
        self._busy: dict[int, Quarters] = {}
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
            element = self.elements.get(mark.note_id)
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
            first, last = self.new.measure_at(mark.onset_quarters), self.new.measure_at(mark.end_quarters)
            if first is last or mark.end_quarters == first.end_quarters:
                # Right behind its start, with the way from there: an end never stands before its start in the file.
                way = mark.end_quarters - self._stands_at(start, mark)
                self._put_offset(stop, way, self._part_of(mark.hand)[0], first.index)
                start.addnext(stop)
            else:
                self._place(stop, mark.end_quarters, mark.hand)
        return tuple(_inner(element) for element in (start, stop) if element is not None)

    def _add_slur(self, mark: Mark) -> tuple[etree._Element, ...]:
        last = last_of_slur(self.new, mark)
        if (
            mark.note_id not in self.elements
            or last is None
            or last.id not in self.elements
            or mark.end_quarters is None
        ):
            return ()
        number = next((n for n in range(16, 0, -1) if self._busy.get(n, Fraction(-1)) <= mark.onset_quarters), 16)
        self._busy[number] = mark.end_quarters
        start = sub(notations_of(self.elements[mark.note_id]), "slur", type="start", number=str(number))
        stop = sub(notations_of(self.elements[last.id]), "slur", type="stop", number=str(number))
        return start, stop

    def _direction(self, mark: Mark, action: str) -> etree._Element | None:
        holder = etree.Element("holder")
        write_direction(holder, mark, action, has_two=self._part_of(mark.hand)[1])
        return holder[0] if len(holder) else None

    def _place(self, direction: etree._Element, at: Quarters, hand: Hand | None) -> None:
        prefix = self._part_of(hand)[0]
        anchor = self._anchor(prefix, at, hand)
        if anchor is not None:
            anchor.addprevious(direction)
            return
        measure = self.new.measure_at(at)
        bar = self.bars[prefix][measure.index]
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
        return self.new.measure_at(mark.onset_quarters).start_quarters

    def _part_of(self, hand: Hand | None) -> tuple[str, bool]:
        """The part that a mark of a hand belongs to, and whether it has staves to name."""
        prefixes = list(self.parts)
        if len(prefixes) == 1:
            return prefixes[0], self.parts[prefixes[0]].find("measure/attributes/staves") is not None
        for item in self.old.notes:
            if hand is None or item.hand is hand:
                return item.voice.partition(".")[0], False
        return prefixes[0], False

    def _anchor(self, prefix: str, at: Quarters, hand: Hand | None) -> etree._Element | None:
        """The first element of what starts at an instant: of that hand where something does, else the upper staff's."""
        items: list[Note | Rest] = [
            item
            for item in self._items(self.new)
            if item.onset_quarters == at and item.voice.partition(".")[0] == prefix and item.id in self.elements
        ]
        if not items:
            return None
        item = next((one for one in items if one.hand is hand), min(items, key=lambda one: one.staff))
        element = self.elements[item.id]
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
        offset.text = str(way * self.divisions(prefix, measure_index))
        after = ("staff", "sound", "listening", "voice")
        for child in direction.iterchildren("*"):
            if child.tag in after:
                child.addprevious(offset)
                return
        direction.append(offset)

    def divisions(self, prefix: str, index: int) -> Fraction:
        """Parts of a quarter at the start of a bar: of the last bar that says so, the first own one included."""
        for bar in reversed(self.bars[prefix][: index + 1]):
            text = bar.findtext("attributes/divisions")
            if text:
                return Fraction(text.strip())
        return Fraction(1)


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


class _Bar:
    """One bar of one part, laid out anew."""

    def __init__(self, owner: _Rewriter, prefix: str, measure: Measure) -> None:
        self.owner, self.measure, self.prefix = owner, measure, prefix
        self.bar = owner.bars[prefix][measure.index]
        self.divisions = owner.divisions(prefix, measure.index)
        self.has_staff = owner.parts[prefix].find("measure/attributes/staves") is not None
        self.cursor: Quarters = Fraction(0)

    def lay_out(self) -> None:
        fixed = self._fixed()
        voices: dict[tuple[int, str], list[Note | Rest]] = {}
        items: list[Note | Rest] = [
            *self.owner.new.notes_of_measure(self.measure.index),
            *self.owner.new.rests_of_measure(self.measure.index),
        ]
        homes: dict[str, int] = {}
        for item in items:
            if item.voice.partition(".")[0] == self.prefix:
                home = homes.setdefault(item.voice, item.staff)
                voices.setdefault((home, item.voice), []).append(item)
        for child in list(self.bar):
            self.bar.remove(child)
        closing = [e for _, e in fixed if e.tag == "barline" and e.get("location") in (None, "right")]
        waiting = [(at, e) for at, e in fixed if e not in closing]
        for voice in (voices[key] for key in sorted(voices)):
            waiting = self._voice(voice, waiting)
        for at, element in waiting:
            self._go(at)
            self.bar.append(element)
        self._go(self.measure.length_quarters)
        for element in closing:
            self.bar.append(element)

    def _fixed(self) -> list[tuple[Quarters, etree._Element]]:
        """Everything in the bar that is no note and no move, with its place."""
        found, at = [], Fraction(0)
        divisions = self.divisions
        for child in self.bar.iterchildren("*"):
            own = child.findtext("divisions") if child.tag == "attributes" else None
            divisions = Fraction(own.strip()) if own else divisions
            if child.tag not in _MOVES:
                found.append((at, child))
                continue
            length = Fraction((child.findtext("duration") or "0").strip()) / divisions
            if child.tag == "backup":
                at = max(Fraction(0), at - length)
            elif child.tag == "forward" or (child.find("grace") is None and child.find("chord") is None):
                at += length
        self.divisions = divisions
        return sorted(found, key=lambda pair: pair[0])

    def _go(self, to: Quarters) -> None:
        if to != self.cursor:
            tag = "backup" if to < self.cursor else "forward"
            sub(sub(self.bar, tag), "duration", str(abs(to - self.cursor) * self.divisions))
            self.cursor = to

    def _voice(
        self, items: list[Note | Rest], waiting: list[tuple[Quarters, etree._Element]]
    ) -> list[tuple[Quarters, etree._Element]]:
        """Writes one voice, with what stands at the places it comes by; what is left of ``waiting``."""

        def order(item: Note | Rest) -> tuple[Quarters, bool, Quarters, int]:
            is_grace = isinstance(item, Note) and item.is_grace
            return item.onset_quarters, not is_grace, item.duration_quarters, getattr(item, "pitch", None) or 0

        chord: tuple[Quarters, Quarters] | None = None
        stems: list[tuple[Note | Rest, etree._Element]] = []
        for item in sorted(items, key=order):
            at = item.onset_quarters - self.measure.start_quarters
            is_grace = isinstance(item, Note) and item.is_grace
            in_chord = isinstance(item, Note) and not is_grace and chord == (at, item.duration_quarters)
            if not in_chord:
                while waiting and waiting[0][0] <= at:
                    self._go(waiting[0][0])
                    self.bar.append(waiting.pop(0)[1])
                self._go(at)
            element = self._element(item, in_chord)
            self.bar.append(element)
            if is_grace:
                chord = None
            elif not in_chord:
                stems.append((item, element))
                self.cursor += item.duration_quarters
                chord = (at, item.duration_quarters) if isinstance(item, Note) else None
        write_tuplets([(item.duration_quarters, element) for item, element in stems])
        if self.owner.has_beams:
            beam_voice(self.measure, [(item, element) for item, element in stems if isinstance(item, Note)])
        return waiting

    def _element(self, item: Note | Rest, in_chord: bool) -> etree._Element:
        """The element of a note or rest as it is now: its own, with what hangs on it, or a new one."""
        duration = str(item.duration_quarters * self.divisions)
        known = self.owner.elements.get(item.id)
        before = self.owner.old_notes.get(item.id) or self.owner.old_rests.get(item.id)
        if known is not None and before is not None and self._is_same(before, item):
            self._chord(known, in_chord)
            length = known.find("duration")
            if length is not None:  # exact from here on, where the file had rounded
                length.text = duration
            return known
        kept: list[etree._Element] = []
        notations: list[etree._Element] = []
        if known is not None:
            notations = [n for every in known.findall("notations") for n in every if n.tag not in ("tied", "tuplet")]
            kept = [child for child in known if child.tag in _KEPT]
            for child in list(known):
                known.remove(child)
        element = etree.Element("note") if known is None else known
        write_note(element, item, duration=duration, in_chord=in_chord, has_staff=self.has_staff)
        ties = ties_of(item)
        if ties or notations:
            group = notations_of(element)
            for tie in ties:
                sub(group, "tied", type=tie)
            for child in notations:
                group.append(child)
        _put_kept(element, kept)
        self.owner.elements[item.id] = element
        return element

    @staticmethod
    def _is_same(before: Note | Rest, item: Note | Rest) -> bool:
        if isinstance(before, Note) and isinstance(item, Note):
            return (
                before.duration_quarters, before.voice, before.staff, before.tied_from_before, before.tied_onward,
            ) == (item.duration_quarters, item.voice, item.staff, item.tied_from_before, item.tied_onward)  # fmt: skip
        return (before.duration_quarters, before.voice, before.staff) == (
            item.duration_quarters, item.voice, item.staff,
        )  # fmt: skip

    @staticmethod
    def _chord(element: etree._Element, in_chord: bool) -> None:
        """Beams and brackets are made anew; the sign of a chord is as the new order of notes has it."""
        for beam in element.findall("beam"):
            element.remove(beam)
        for bracket in list(element.iterfind("notations/tuplet")):
            drop_empty(bracket, "note")
        known = element.find("chord")
        if known is not None and not in_chord:
            element.remove(known)
        elif known is None and in_chord:
            chord = etree.Element("chord")
            grace = element.find("grace")
            if grace is None:
                element.insert(0, chord)
            else:
                grace.addnext(chord)


def _put_kept(element: etree._Element, kept: list[etree._Element]) -> None:
    """What a note keeps, each at its place in the order of the schema."""
    for child in kept:
        if child.tag in ("notehead", "notehead-text"):
            before = next((c for c in element if c.tag in ("notehead-text", "staff", "beam", "notations")), None)
            if before is not None:
                before.addprevious(child)
                continue
        element.append(child)
