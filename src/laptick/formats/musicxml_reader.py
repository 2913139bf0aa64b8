"""From MusicXML elements to bars and notes.

``PartReader`` walks one part bar by bar with a cursor: notes advance it, ``backup`` and ``forward`` move
it. ``musicxml_join`` makes a score of the parts.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from fractions import Fraction

from lxml import etree

from laptick.core.errors import LimitError, ScoreError
from laptick.core.meter import TimeSignature
from laptick.core.score import Notice
from laptick.core.units import MAX_BPM, MIN_BPM, Quarters
from laptick.formats import musicxml_tables as tables

#: Stated limit on notes and rests of one score.
MAX_NOTES = 100_000

_NUMBER = re.compile(r"\d{1,9}(\.\d{1,9})?")
_ALTER_SIGNS = {-2: "♭♭", -1: "♭", 0: "", 1: "♯", 2: "𝄪"}


@dataclass(slots=True)
class RawNote:
    offset: Quarters
    duration: Quarters
    staff: int
    voice: str
    pitch: int | None
    name: str
    is_rest: bool
    tied_from_before: bool
    tied_onward: bool
    is_grace: bool


@dataclass(slots=True)
class RawBar:
    number: str
    implicit: bool
    signature: TimeSignature
    notes: list[RawNote] = field(default_factory=list)
    tempos: list[tuple[Quarters, float, Quarters]] = field(default_factory=list)
    content: Quarters = Fraction(0)
    new_system: bool = False


class NoticeBook:
    """Collects what was not used, once a kind, with its first place and how often."""

    def __init__(self) -> None:
        self._book: dict[tuple[str, str], Notice] = {}

    def add(self, kind: str, text: str, measure: str | None = None, staff: int | None = None) -> None:
        key = (kind, text)
        known = self._book.get(key)
        self._book[key] = replace(known, times=known.times + 1) if known else Notice(kind, text, measure, staff)

    def all(self) -> tuple[Notice, ...]:
        return tuple(self._book.values())


class PartReader:
    """Reads one ``<part>``. After ``read()``: ``bars``, ``staves`` and the notices gathered."""

    def __init__(self, part: etree._Element, filename: str) -> None:
        self.part = part
        self.filename = filename
        self.bars: list[RawBar] = []
        self.staves = 1
        self.first_clef = ""
        self.notices = NoticeBook()
        self._divisions = Fraction(1)
        self._signature: TimeSignature | None = None
        self._cursor: Quarters = Fraction(0)
        self._last_onset: Quarters = Fraction(0)
        self._count = 0

    def read(self) -> None:
        for element in self.part.iterfind("measure"):
            self._read_bar(element)

    # -- errors and small readings ------------------------------------------------------------

    def _fail(self, what: str, element: etree._Element) -> ScoreError:
        bar = self.bars[-1].number if self.bars else "?"
        return ScoreError(
            what,
            where=f"{self.filename}, bar {bar}, line {element.sourceline}",
            kept="Nothing was changed.",
            todo="Correct that bar in the program it was written with.",
        )

    def _number(self, element: etree._Element, tag: str) -> Fraction:
        text = (element.findtext(tag) or "").strip()
        if not _NUMBER.fullmatch(text):
            raise self._fail(f"<{tag}> should be a number, but reads “{text[:20]}”.", element)
        return Fraction(text)

    def _unused(self, tag: str, staff: int | None = None) -> None:
        words = tables.UNUSED_WORDS.get(tag, f"the element <{tag}>")
        self.notices.add("unused", words, self.bars[-1].number, staff)

    # -- bars ------------------------------------------------------------------------------------

    def _read_bar(self, element: etree._Element) -> None:
        number = (element.get("number") or str(len(self.bars) + 1)).strip()[:12]
        before = self._signature
        self.bars.append(RawBar(number, element.get("implicit") == "yes", before or TimeSignature(4, 4)))
        self._cursor = self._last_onset = Fraction(0)
        for child in element:
            tag = str(child.tag)
            if tag not in tables.MEASURE_READ:
                self._unused(tag)
                continue
            getattr(self, f"_on_{tag}")(child)
        bar = self.bars[-1]
        if self._signature is None:
            self.notices.add("guessed", "no time signature is given; 4/4 is assumed", number)
            self._signature = bar.signature
        bar.content = max([bar.content, *(note.offset + note.duration for note in bar.notes)])

    def _on_attributes(self, element: etree._Element) -> None:
        for child in element:
            tag = str(child.tag)
            if tag == "divisions":
                self._divisions = self._number(element, "divisions")
                if self._divisions <= 0:
                    raise self._fail("<divisions> must be above zero.", element)
            elif tag == "staves":
                self.staves = max(self.staves, int(self._number(element, "staves")))
            elif tag == "time":
                self._on_time(child)
            elif tag == "clef" and not self.first_clef:
                self.first_clef = (child.findtext("sign") or "").strip()
            elif tag not in tables.ATTRIBUTES_LOOKS:
                self._unused(tag)

    def _on_time(self, element: etree._Element) -> None:
        if element.find("senza-misura") is not None:
            self.notices.add(
                "guessed", "music without a time signature is counted in the one before", self.bars[-1].number
            )
            return
        pairs = element.findall("beats")
        beats_text = (pairs[0].text or "").strip() if pairs else ""
        terms = beats_text.split("+")
        if not pairs or len(pairs) > 1 or not all(re.fullmatch(r"\d{1,3}", term.strip()) for term in terms):
            raise self._fail(f"the time signature “{beats_text[:20]}” is not understood.", element)
        try:
            signature = TimeSignature(sum(int(t) for t in terms), int(self._number(element, "beat-type")))
        except ScoreError as error:
            raise self._fail(error.what, element) from None
        if len(terms) > 1:
            self.notices.add("unused", "the written grouping of a time signature", self.bars[-1].number)
        self._signature = signature
        self.bars[-1].signature = signature

    def _on_print(self, element: etree._Element) -> None:
        if "yes" in (element.get("new-system"), element.get("new-page")):
            self.bars[-1].new_system = True

    def _on_barline(self, element: etree._Element) -> None:
        for child in element:
            tag = str(child.tag)
            if tag in tables.UNUSED_WORDS:
                self._unused(tag)

    def _on_backup(self, element: etree._Element) -> None:
        self._cursor -= self._number(element, "duration") / self._divisions
        if self._cursor < 0 or self._cursor < Fraction(1, 64):
            if self._cursor < -Fraction(1, 16):
                raise self._fail("a <backup> goes back past the start of the bar.", element)
            self._cursor = Fraction(0)

    def _on_forward(self, element: etree._Element) -> None:
        self._cursor += self._number(element, "duration") / self._divisions
        self.bars[-1].content = max(self.bars[-1].content, self._cursor)

    def _on_direction(self, element: etree._Element) -> None:
        sound = element.find("sound")
        if sound is not None:
            self._on_sound(sound)
        for kind in element.iterfind("direction-type/*"):
            tag = str(kind.tag)
            if tag == "metronome":
                if not self._on_metronome(kind) and (sound is None or sound.get("tempo") is None):
                    self._unused("metronome")
            else:
                self._unused(tag)

    def _on_sound(self, element: etree._Element) -> None:
        tempo = (element.get("tempo") or "").strip()
        if tempo:
            self._add_tempo(tempo, Fraction(1))
        for name in ("dacapo", "dalsegno", "tocoda"):
            if element.get(name):
                self._unused("jump")
        if element.get("fine"):
            self._unused("fine")

    def _on_metronome(self, element: etree._Element) -> bool:
        unit = tables.TYPE_QUARTERS.get((element.findtext("beat-unit") or "").strip())
        if unit is None:
            return False
        for _ in element.findall("beat-unit-dot")[:1]:
            unit = unit * Fraction(3, 2)
        return self._add_tempo(element.findtext("per-minute") or "", unit)

    def _add_tempo(self, text: str, unit: Quarters) -> bool:
        match = re.search(r"\d{1,4}(\.\d{1,4})?", text)
        bpm = float(match.group()) if match else 0.0
        if not MIN_BPM <= bpm <= MAX_BPM:
            self.notices.add("unused", f"a tempo mark that reads “{text.strip()[:20]}”", self.bars[-1].number)
            return False
        marks = self.bars[-1].tempos
        if not any(known_at == self._cursor for known_at, _, _ in marks):
            marks.append((self._cursor, bpm, unit))
        elif unit != 1:  # the printed mark says the unit; the playback tempo counts quarters
            marks[:] = [(at, bpm, unit) if at == self._cursor else (at, b, u) for at, b, u in marks]
        return True

    # -- notes -----------------------------------------------------------------------------------

    def _on_note(self, element: etree._Element) -> None:
        self._count += 1
        if self._count > MAX_NOTES:
            raise LimitError(
                f"the score has more than {MAX_NOTES:,} notes.",
                where=self.filename,
                kept="Nothing was changed.",
                todo="Split it into movements.",
            )
        children = {str(child.tag): child for child in element}
        staff = int(self._number(element, "staff")) if "staff" in children else 1
        self._note_unused(element, staff)
        is_grace, is_chord = "grace" in children, "chord" in children
        duration = Fraction(0) if is_grace else self._duration(element, children)
        if "cue" in children:
            self.notices.add("unused", "cue notes", self.bars[-1].number, staff)
            if not is_chord:
                self._cursor += duration
            return
        onset = self._last_onset if is_chord else self._cursor
        pitch, name = self._pitch(element, children)
        ties = {tie.get("type") for tie in element.findall("tie")}
        voice = (element.findtext("voice") or "1").strip()[:12]
        self.bars[-1].notes.append(
            RawNote(
                onset,
                duration,
                staff,
                voice,
                pitch,
                name,
                "rest" in children,
                "stop" in ties,
                "start" in ties,
                is_grace,
            )
        )
        if not is_chord:
            self._last_onset = self._cursor
            self._cursor += duration

    def _note_unused(self, element: etree._Element, staff: int) -> None:
        for child in element:
            tag = str(child.tag)
            if tag == "notations":
                for notation in child:
                    if str(notation.tag) not in tables.NOTATIONS_READ:
                        self._unused(str(notation.tag), staff)
            elif tag not in tables.NOTE_READ and tag not in tables.NOTE_LOOKS:
                self._unused(tag, staff)

    def _duration(self, element: etree._Element, children: dict[str, etree._Element]) -> Quarters:
        given = self._number(element, "duration") / self._divisions
        kind = tables.TYPE_QUARTERS.get((element.findtext("type") or "").strip())
        rest = children.get("rest")
        if kind is None or (rest is not None and rest.get("measure") == "yes"):
            return given
        dots = min(len(element.findall("dot")), 4)
        written = kind * (2 - Fraction(1, 2**dots))
        modification = children.get("time-modification")
        if modification is not None:
            actual = self._number(modification, "actual-notes")
            if actual == 0:
                raise self._fail("a tuplet has zero notes.", element)
            written = written * self._number(modification, "normal-notes") / actual
        # Odd tuplets are rounded to whole divisions in the file; the written length is exact.
        return written if abs(written - given) <= 1 / self._divisions else given

    def _pitch(self, element: etree._Element, children: dict[str, etree._Element]) -> tuple[int | None, str]:
        if "rest" in children:
            return None, ""
        pitch = children.get("pitch")
        if pitch is None:
            if "unpitched" not in children:
                raise self._fail("a note has neither pitch nor rest.", element)
            return None, "x"
        step = (pitch.findtext("step") or "").strip()
        octave = (pitch.findtext("octave") or "").strip()
        alter_text = (pitch.findtext("alter") or "0").strip()
        if (
            step not in tables.STEP_SEMITONES
            or not re.fullmatch(r"\d", octave)
            or not re.fullmatch(r"-?\d(\.\d+)?", alter_text)
        ):
            raise self._fail("a note's pitch is not understood.", element)
        alter = round(float(alter_text))
        midi = 12 * (int(octave) + 1) + tables.STEP_SEMITONES[step] + alter
        if not 0 <= midi <= 127:
            raise self._fail("a note's pitch is out of any keyboard's range.", element)
        return midi, f"{step}{_ALTER_SIGNS.get(alter, '')}{octave}"
