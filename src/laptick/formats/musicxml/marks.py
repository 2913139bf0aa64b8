"""Marks of a MusicXML part: directions, notations and the signs of the playing order.

Spans (slurs, hairpins, pedal, bends of the tempo) are opened and closed by their kind and number. What a
span's end leaves open ends where ``musicxml_join`` says.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from lxml import etree

from laptick.core.score.score import MarkKind
from laptick.core.score.sign_words import read_tempo_words
from laptick.formats.musicxml import tables
from laptick.formats.musicxml.raw import RawBar, RawMark, RawNote, RawPlace
from laptick.formats.parts.notices import NoticeBook

#: Stated limit on one text of a mark.
MAX_TEXT = 200

#: Words whose id begins so are the teacher's cue words.
CUE_ID = "cue-word"


def text_of(element: etree._Element) -> str:
    """All text inside an element, white space folded."""
    return " ".join("".join(str(part) for part in element.itertext()).split())[:MAX_TEXT]


#: Values of ``system`` (MusicXML 4.0) with which a direction of one part stands for all of them.
FOR_ALL = frozenset(["only-top", "also-top"])


#: Directions that begin at one place and end at another.
SPANS: dict[str, MarkKind] = {
    "wedge": MarkKind.WEDGE,
    "pedal": MarkKind.PEDAL,
    "octave-shift": MarkKind.OCTAVE_LINE,
}


@dataclass(frozen=True)
class _SpanEnd:
    """Which span an element begins or ends; ``text``: what the span says."""

    kind: MarkKind
    number: str
    staff: int | None = None
    text: str = ""


class MarkReader:
    """Gathers the marks of one part. ``marks`` are in the order of the file."""

    def __init__(self, notices: NoticeBook) -> None:
        self.marks: list[RawMark] = []
        self.notices = notices
        self._open: dict[tuple[MarkKind, str, int | None], RawMark] = {}
        #: Ends that stand before their beginning in the file, as they may inside a bar of several voices.
        self._early: dict[tuple[MarkKind, str], tuple[RawPlace, etree._Element]] = {}

    # -- spans --------------------------------------------------------------------------------------

    def _span(self, end: _SpanEnd, action: str, place: RawPlace, element: etree._Element) -> RawMark | None:
        """Opens or closes a span; returns it when it is opened."""
        kind, number, staff, text = end.kind, end.number, end.staff, end.text
        key = (kind, number, staff)
        if action in ("start", "crescendo", "diminuendo", "up", "down", "sostenuto", "resume"):
            mark = RawMark(kind, place, text, None, staff, elements=[element])
            self.marks.append(mark)
            early = self._early.pop((kind, number), None)
            if early is not None and early[0][0] == place[0] and early[0][1] > place[1]:
                mark.end = early[0]
                mark.elements.append(early[1])
            else:
                self._open[key] = mark
            return mark
        if action in ("stop", "discontinue"):
            opened = self._open.pop(key, None)
            if opened is None:  # some files give the end another staff
                other = next((k for k in self._open if k[0] is kind and k[1] == number), None)
                opened = self._open.pop(other) if other else None
            if opened is not None:
                opened.end = place
                opened.elements.append(element)
            elif action == "stop":
                self._early[kind, number] = (place, element)
        elif action == "change":
            self._span(end, "stop", place, element)
            return self._span(end, "start", place, element)
        return None

    # -- directions ---------------------------------------------------------------------------------

    def read_direction(self, element: etree._Element, place: RawPlace, bar: RawBar, staff: int | None) -> None:
        """The words, dynamics and lines of one ``<direction>`` (its tempo marks are read elsewhere)."""
        begin = len(self.marks)
        self._read_direction(element, place, bar, staff)
        if element.get("system") in FOR_ALL:
            for mark in self.marks[begin:]:
                mark.is_for_all = True

    def _read_direction(self, element: etree._Element, place: RawPlace, bar: RawBar, staff: int | None) -> None:
        self._read_words(element, place, bar, staff)
        for child in element.iterfind("direction-type/*"):
            tag = str(child.tag)
            if tag in SPANS:
                self._read_span(SPANS[tag], child, place, staff)
            elif tag == "dynamics":
                names = " ".join(self._dynamic(d) for d in child.iterchildren("*"))
                self.marks.append(RawMark(MarkKind.DYNAMIC, place, names, None, staff, elements=[child]))
            elif tag == "dashes":
                self._dashes(child, place)
            elif tag == "rehearsal":
                self.marks.append(RawMark(MarkKind.REHEARSAL, place, text_of(child), None, staff, elements=[child]))
            elif tag == "segno":
                bar.signs.segno = bar.signs.segno or "segno"
            elif tag == "coda":
                bar.signs.coda_symbols += 1
            elif tag not in tables.DIRECTIONS_READ:
                self.unused(tag, bar.number, staff)

    def _read_words(self, element: etree._Element, place: RawPlace, bar: RawBar, staff: int | None) -> None:
        """What a direction says: a cue of ours, a bend of the tempo, or words."""
        children = element.findall("direction-type/words")
        text = " ".join(word for word in map(text_of, children) if word)
        if not text:
            return
        bar.signs.words.append(text)
        is_cue = any((child.get("id") or "").startswith(CUE_ID) for child in children)
        kind = MarkKind.CUE if is_cue else read_tempo_words(text)
        self.marks.append(RawMark(kind, place, text[:MAX_TEXT], None, staff, elements=children))

    def _read_span(self, kind: MarkKind, child: etree._Element, place: RawPlace, staff: int | None) -> None:
        """An end of a hairpin, a pedal or an octave line."""
        action = child.get("type") or ""
        text = ""
        if kind is MarkKind.WEDGE:
            text = action
        elif kind is MarkKind.OCTAVE_LINE:
            text = f"{child.get('size') or '8'} {action}"
        self._span(_SpanEnd(kind, child.get("number") or "1", staff, text), action, place, child)

    @staticmethod
    def _dynamic(element: etree._Element) -> str:
        tag = str(element.tag)
        return text_of(element) if tag == "other-dynamics" else tag

    def _dashes(self, element: etree._Element, place: RawPlace) -> None:
        """Dashes after *rit.* or *accel.* say how far it goes."""
        if element.get("type") == "stop":
            for mark in reversed(self.marks):
                if mark.kind in (MarkKind.SLOWER, MarkKind.FASTER) and mark.end is None:
                    mark.end = place
                    mark.elements.append(element)
                    break

    # -- notes --------------------------------------------------------------------------------------

    def read_notations(self, element: etree._Element, note: RawNote, place: RawPlace, bar: RawBar) -> None:
        """What a note's ``<notations>`` say beside ties and tuplets."""
        for child in element.iterchildren("*"):
            tag = str(child.tag)
            if tag == "fermata":
                self._of_note(MarkKind.FERMATA, place, note, child, "")
            elif tag == "slur":
                self._slur(child, note, place)
            elif tag == "arpeggiate":
                self._of_note(MarkKind.ARPEGGIO, place, note, child, child.get("direction") or "up")
            elif tag == "dynamics":
                names = " ".join(self._dynamic(d) for d in child.iterchildren("*"))
                self._of_note(MarkKind.DYNAMIC, place, note, child, names)
            elif tag == "articulations":
                for one in child.iterchildren("*"):
                    name = str(one.tag)
                    kind = tables.BREATHS.get(name, MarkKind.ARTICULATION)
                    self._of_note(kind, place, note, one, text_of(one) if name == "other-articulation" else name)
            elif tag == "ornaments":
                for one in child.iterchildren("*"):
                    if str(one.tag) != "accidental-mark":
                        self._of_note(MarkKind.ORNAMENT, place, note, one, str(one.tag))
            elif tag == "technical":
                self._technical(child, note, place, bar)
            elif tag not in tables.NOTATIONS_READ:
                self.unused(tag, bar.number, note.staff)

    def _of_note(self, kind: MarkKind, place: RawPlace, note: RawNote, element: etree._Element, text: str) -> None:
        self.marks.append(RawMark(kind, place, text[:MAX_TEXT], None, note.staff, note, [element]))

    def _slur(self, element: etree._Element, note: RawNote, place: RawPlace) -> None:
        action, number = element.get("type") or "", element.get("number") or "1"
        end = (place[0], place[1] + note.duration)
        started = self._span(_SpanEnd(MarkKind.SLUR, number), action, place if action == "start" else end, element)
        if started is not None:
            started.staff, started.note = note.staff, note

    def _technical(self, element: etree._Element, note: RawNote, place: RawPlace, bar: RawBar) -> None:
        for one in element.iterchildren("*"):
            if str(one.tag) == "fingering":
                text = text_of(one)
                if text:
                    other = "/" if one.get("alternate") == "yes" else ("-" if one.get("substitution") == "yes" else "")
                    self._of_note(MarkKind.FINGERING, place, note, one, other + text)
            else:
                self.unused("technical", bar.number, note.staff)

    def read_lyric(self, element: etree._Element, note: RawNote, place: RawPlace) -> None:
        text = " ".join(text_of(t) for t in element.iterfind("text"))
        if text:
            number = element.get("number") or "1"
            self._of_note(MarkKind.LYRIC, place, note, element, f"{number}:{text}")

    def read_harmony(self, element: etree._Element, place: RawPlace, bar: RawBar) -> None:
        """A chord symbol as it is printed, as far as its parts tell."""
        root = element.findtext("root/root-step") or element.findtext("function") or ""
        alter = tables.ALTER_SIGNS.get(_whole(element.findtext("root/root-alter")), "")
        kind = element.find("kind")
        name = "" if kind is None else (kind.get("text") or tables.CHORD_KINDS.get((kind.text or "").strip(), ""))
        bass = element.findtext("bass/bass-step")
        bass_alter = tables.ALTER_SIGNS.get(_whole(element.findtext("bass/bass-alter")), "")
        text = f"{root.strip()}{alter}{name}" + (f"/{bass.strip()}{bass_alter}" if bass else "")
        if text:
            is_for_all = element.get("system") in FOR_ALL
            self.marks.append(
                RawMark(MarkKind.CHORD_SYMBOL, place, text[:MAX_TEXT], elements=[element], is_for_all=is_for_all)
            )
        else:
            self.unused("harmony", bar.number, None)

    # -- bar lines and jumps ------------------------------------------------------------------------

    def read_barline(self, element: etree._Element, bar: RawBar, at: RawPlace) -> None:
        location = element.get("location") or "right"
        for child in element.iterchildren("*"):
            tag = str(child.tag)
            if tag == "repeat":
                if location == "middle":
                    self.notices.add("unused", "a repeat in the middle of a bar", bar.number)
                elif child.get("direction") == "forward":
                    bar.signs.forward = True
                elif child.get("direction") == "backward":
                    times = (child.get("times") or "2").strip()
                    bar.signs.backward = int(times) if re.fullmatch(r"[1-9]\d?", times) else 2
            elif tag == "ending":
                self._ending(child, bar)
            elif tag == "segno":
                bar.signs.segno = bar.signs.segno or "segno"
            elif tag == "coda":
                bar.signs.coda_symbols += 1
            elif tag == "fermata":
                self.marks.append(RawMark(MarkKind.FERMATA, at, "bar line", elements=[child]))
            elif tag not in tables.BARLINE_LOOKS:
                self.unused(tag, bar.number, None)

    def _ending(self, element: etree._Element, bar: RawBar) -> None:
        numbers = ending_numbers(element.get("number") or "")
        action = element.get("type")
        if not numbers:
            self.notices.add("unused", "a repeat ending without a number", bar.number)
            return
        if action == "start":
            bar.signs.endings, bar.signs.ending_begins = numbers, True
            self.open_ending = numbers
        elif action in ("stop", "discontinue"):
            if not bar.signs.endings:
                bar.signs.endings = numbers
            self.open_ending = ()

    #: The bracket that reaches over the bars now being read.
    open_ending: tuple[int, ...] = ()

    def read_sound(self, element: etree._Element, bar: RawBar) -> None:
        """The attributes of a ``<sound>`` that steer the playing order."""
        signs = bar.signs
        signs.segno = element.get("segno") or signs.segno
        signs.coda = element.get("coda") or signs.coda
        signs.to_coda = element.get("tocoda") or signs.to_coda
        signs.dal_segno = element.get("dalsegno") or signs.dal_segno
        signs.da_capo = signs.da_capo or element.get("dacapo") == "yes"
        signs.fine = signs.fine or bool(element.get("fine"))
        if element.get("forward-repeat") == "yes":
            signs.forward = True

    def unused(self, tag: str, bar: str, staff: int | None) -> None:
        self.notices.add("unused", tables.UNUSED_WORDS.get(tag, f"the element <{tag[:40]}>"), bar, staff)


def _whole(text: str | None) -> int:
    try:
        return round(float(text or 0))
    except (ValueError, OverflowError):
        return 0


#: Endings are numbered up to this.
MOST_ENDINGS = 20


def ending_numbers(text: str) -> tuple[int, ...]:
    """``"1, 2"`` → (1, 2); ``"1-3"`` → (1, 2, 3); nothing where it is no number."""
    numbers: set[int] = set()
    for part in re.split(r"[,;\s]+", text.strip()):
        match = re.fullmatch(r"(\d{1,2})\.?(?:\s?[-–]\s?(\d{1,2})\.?)?", part)
        if match:
            first, last = int(match.group(1)), int(match.group(2) or match.group(1))
            numbers.update(n for n in range(first, last + 1) if 1 <= n <= MOST_ENDINGS)
    return tuple(sorted(numbers))
