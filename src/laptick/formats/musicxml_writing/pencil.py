"""A changed score written into the tree of the file it came from.

Only what differs is touched: a pitch in its note, a mark at its note or place, and bars in which something starts,
ends, ties or stands elsewhere are laid out anew from their own elements. Reading the result gives the changed score
(a property test says so). The file's own tree is not touched: what comes back stands in a copy.
"""

from __future__ import annotations

import math
from fractions import Fraction

from lxml import etree

from laptick.core.score.score import Measure, Note, Rest, Score
from laptick.formats.musicxml.file import MusicXmlFile
from laptick.formats.musicxml_writing.draft import TreeDraft
from laptick.formats.musicxml_writing.notes import write_pitch
from laptick.formats.musicxml_writing.pencil_bars import BarLayout
from laptick.formats.musicxml_writing.pencil_marks import MarkDraft


def write_changes(file: MusicXmlFile, score: Score) -> MusicXmlFile:
    """The file with ``score`` (made of its own score by changes) in place of what it held."""
    return _Rewriter(TreeDraft(file, score)).write()


class _Rewriter:
    def __init__(self, draft: TreeDraft) -> None:
        self.draft = draft

    def write(self) -> MusicXmlFile:
        bars: list[BarLayout] = []
        for prefix in self.draft.parts:
            anew = [
                measure
                for measure in self.draft.new.measures
                if self._content(self.draft.old, prefix, measure) != self._content(self.draft.new, prefix, measure)
            ]
            if self._refine(prefix, anew):
                anew = self._with_rounded(prefix, anew)
            bars += [BarLayout(self.draft, prefix, measure) for measure in anew]
        for bar in bars:  # when all are read: a note may go from one part to another
            bar.lay_out()
        for note in self.draft.new.notes:
            before = self.draft.old_notes.get(note.id)
            if before is not None and before.name != note.name:
                self._set_pitch(self.draft.elements[note.id], note)
        marks = MarkDraft(self.draft).write()
        kept = {item.id for item in self.draft.items(self.draft.new)}
        elements = {key: element for key, element in self.draft.elements.items() if key in kept}
        return MusicXmlFile(self.draft.new, self.draft.tree, elements, self.draft.file.parts, marks)

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

    def _with_rounded(self, prefix: str, anew: list[Measure]) -> list[Measure]:
        """``anew`` with the bars whose lengths the file rounds: in other divisions the rounding would be another, so
        they are laid out anew as well, exactly."""
        rounded = {
            item.measure_index
            for item in self.draft.items(self.draft.new)
            if item.id in self.draft.elements
            and item.voice.partition(".")[0] == prefix
            and self._is_rounded(item, prefix)
        }
        return [m for m in self.draft.new.measures if m in anew or m.index in rounded]

    def _is_rounded(self, item: Note | Rest, prefix: str) -> bool:
        if item.id not in self.draft.elements or (isinstance(item, Note) and item.is_grace):
            return False
        text = (self.draft.elements[item.id].findtext("duration") or "").strip()
        if not text:
            return False
        return Fraction(text) / self.draft.divisions(prefix, item.measure_index) != item.duration_quarters

    def _refine(self, prefix: str, anew: list[Measure]) -> bool:
        """Divides the quarter of a part finely enough for everything that is written into it: ``anew`` are the bars
        that are laid out anew. True where it was not fine enough."""
        if self._times(prefix, anew) == 1:
            return False
        times = self._times(prefix, self._with_rounded(prefix, anew))
        part = self.draft.parts[prefix]
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
        return True

    def _times(self, prefix: str, anew: list[Measure]) -> int:
        """How many times finer the quarter of a part has to be divided."""
        wanted = {Fraction(1)}
        for measure in anew:
            wanted.add(measure.length_quarters)
            for item in self.draft.items_of(self.draft.new, measure.index):
                wanted |= {item.duration_quarters, item.onset_quarters - measure.start_quarters}
        for mark in self.draft.new.marks:
            for at in (mark.onset_quarters, mark.end_quarters):
                if at is not None and mark not in self.draft.file.mark_elements:
                    wanted.add(at - self.draft.new.measure_at(at).start_quarters)
        given = self.draft.parts[prefix].iterfind("measure/attributes/divisions")
        divisions = [Fraction((element.text or "1").strip()) for element in given] or [Fraction(1)]
        return math.lcm(*((value * each).denominator for value in wanted for each in divisions))

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
