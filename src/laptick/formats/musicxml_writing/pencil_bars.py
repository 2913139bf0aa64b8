"""Bars of a MusicXML file laid out anew from their own elements, where a changed score has other notes in them."""

from __future__ import annotations

from fractions import Fraction

from lxml import etree

from laptick.core.base.units import Quarters
from laptick.core.score.score import Measure, Note, Rest
from laptick.formats.musicxml_writing.beams import beam_voice
from laptick.formats.musicxml_writing.draft import TreeDraft
from laptick.formats.musicxml_writing.marks import sub
from laptick.formats.musicxml_writing.notes import drop_empty, notations_of, ties_of, write_note, write_tuplets

_MOVES = ("note", "backup", "forward")

#: Children of a note that go with it into a bar laid out anew.
_KEPT = ("notehead", "notehead-text", "lyric", "play", "listen")


class BarLayout:
    """One bar of one part, laid out anew."""

    def __init__(self, draft: TreeDraft, prefix: str, measure: Measure) -> None:
        self.draft, self.measure, self.prefix = draft, measure, prefix
        self.bar = draft.bars[prefix][measure.index]
        self.divisions = draft.divisions(prefix, measure.index)
        self.has_staff = draft.parts[prefix].find("measure/attributes/staves") is not None
        self.cursor: Quarters = Fraction(0)
        self.fixed = self._fixed()

    def lay_out(self) -> None:
        voices: dict[tuple[int, str], list[Note | Rest]] = {}
        items = self.draft.items_of(self.draft.new, self.measure.index)
        homes: dict[str, int] = {}
        for item in items:
            if item.voice.partition(".")[0] == self.prefix:
                home = homes.setdefault(item.voice, item.staff)
                voices.setdefault((home, item.voice), []).append(item)
        for child in list(self.bar):
            self.bar.remove(child)
        closing = [e for _, e in self.fixed if e.tag == "barline" and e.get("location") in (None, "right")]
        waiting = [(at, e) for at, e in self.fixed if e not in closing]
        for voice in (voices[key] for key in sorted(voices)):
            waiting = self._voice(voice, waiting)
        for at, element in waiting:
            self._go(at)
            self.bar.append(element)
        self._go(self.measure.length_quarters)
        for element in closing:
            self.bar.append(element)

    def _fixed(self) -> list[tuple[Quarters, etree._Element]]:
        """Everything in the bar that is no note and no move, with its place. Where the file rounds lengths, the places
        are the exact ones that the rounded stand for."""
        found: list[tuple[Quarters, etree._Element]] = []
        at = rounded = Fraction(0)
        apart: dict[Quarters, Quarters] = {}  # where the file has an instant → where it is, if that differs
        ends = self._ends()
        divisions = self.divisions
        for child in self.bar.iterchildren("*"):
            own = child.findtext("divisions") if child.tag == "attributes" else None
            divisions = Fraction(own.strip()) if own else divisions
            if child.tag not in _MOVES:
                found.append((at, child))
                continue
            length = Fraction((child.findtext("duration") or "0").strip()) / divisions
            if child.tag in ("backup", "forward"):
                rounded = max(Fraction(0), rounded + (length if child.tag == "forward" else -length))
                near = min(apart, key=lambda instant: abs(instant - rounded), default=rounded)
                at = apart.get(near, rounded) if abs(near - rounded) <= 1 / divisions else rounded
            elif child.find("grace") is None and child.find("chord") is None:
                at, rounded = ends.get(child, at + length), rounded + length
                if at != rounded:
                    apart[rounded] = at
        self.divisions = divisions
        return sorted(found, key=lambda pair: pair[0])

    def _ends(self) -> dict[etree._Element, Quarters]:
        """Where each note and rest of the bar ends in the score that the file holds."""
        draft, start = self.draft, self.measure.start_quarters
        return {
            draft.elements[item.id]: item.end_quarters - start
            for item in draft.items_of(draft.old, self.measure.index)
            if item.id in draft.elements
        }

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
        if self.draft.has_beams:
            beam_voice(self.measure, [(item, element) for item, element in stems if isinstance(item, Note)])
        return waiting

    def _element(self, item: Note | Rest, in_chord: bool) -> etree._Element:
        """The element of a note or rest as it is now: its own, with what hangs on it, or a new one."""
        duration = str(item.duration_quarters * self.divisions)
        known = self.draft.elements.get(item.id)
        before = self.draft.old_notes.get(item.id) or self.draft.old_rests.get(item.id)
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
        self.draft.elements[item.id] = element
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
