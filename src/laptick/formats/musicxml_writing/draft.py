"""A copy of a MusicXML file's tree in which a changed score is written, and what stands where in it."""

from __future__ import annotations

import copy
from fractions import Fraction

from lxml import etree

from laptick.core.score.score import Note, Rest, Score
from laptick.formats.musicxml.file import MusicXmlFile


class TreeDraft:
    """``old`` is the score of the file, ``new`` the one to be written; ``elements``: id of a note or rest → its element
    in the copy; ``parts`` and ``bars`` by the number with which the voices of a part begin."""

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
        for item in self.items(self.old):
            prefix = item.voice.partition(".")[0]
            if prefix not in found and item.id in self.elements:
                found[prefix] = next(self.elements[item.id].iterancestors("part"))
        return found

    @staticmethod
    def items(score: Score) -> list[Note | Rest]:
        """All notes and rests."""
        return [*score.notes, *score.rests]

    @staticmethod
    def items_of(score: Score, measure_index: int) -> list[Note | Rest]:
        """The notes and rests of a bar."""
        return [*score.notes_of_measure(measure_index), *score.rests_of_measure(measure_index)]

    def divisions(self, prefix: str, index: int) -> Fraction:
        """Parts of a quarter at the start of a bar: of the last bar that says so, the first own one included."""
        for bar in reversed(self.bars[prefix][: index + 1]):
            text = bar.findtext("attributes/divisions")
            if text:
                return Fraction(text.strip())
        return Fraction(1)
