"""From MusicXML elements to bars and notes.

``PartReader`` walks one part bar by bar with a cursor: notes advance it, ``backup`` and ``forward`` move
it. A note advances by its written type, dots and tuplet where these agree with the rounded
``<duration>``; a move back lands on the exact instant that the rounded one stands for.
``musicxml_join`` makes a score of the parts.
"""

from __future__ import annotations

import re
from fractions import Fraction

from lxml import etree

from laptick.core.base.errors import LimitError, ScoreError
from laptick.core.base.units import MAX_BPM, MIN_BPM, Quarters
from laptick.core.score.meter import TimeSignature
from laptick.core.score.score import CLAP_NAME, MarkKind
from laptick.formats.musicxml import tables
from laptick.formats.musicxml.marks import MarkReader
from laptick.formats.musicxml.raw import RawBar, RawMark, RawNote, RawPlace
from laptick.formats.musicxml.written_note import WrittenNote, key_of, lengths_of, written_length
from laptick.formats.parts.notices import NoticeBook
from laptick.formats.parts.part import MAX_NOTES, check_bar

#: A divisor of the quarter above this is no music, and would make all arithmetic slow.
MAX_DIVISIONS = 1_000_000

#: Notes, marks and moves of one bar of one part.
MOST_IN_BAR = 2000

_NUMBER = re.compile(r"\d{1,9}(\.\d{1,9})?")
_ZERO = Fraction(0)
_TYPE_WITHOUT_DURATION = "a note without a duration is taken as long as it is written"


class PartReader:
    """Reads one ``<part>``. After ``read()``: ``bars``, ``marks``, ``staves`` and the notices gathered."""

    def __init__(self, part: etree._Element, filename: str) -> None:
        self.part = part
        self.filename = filename
        self.bars: list[RawBar] = []
        self.staves = 1
        self.first_clef = ""
        self.notices = NoticeBook()
        self._mark_reader = MarkReader(self.notices)
        self._divisions = Fraction(1)
        self._signature: TimeSignature | None = None
        self._is_free = False
        self._cursor: Quarters = Fraction(0)
        self._rounded: Quarters = Fraction(0)  # the cursor as the rounded durations have it
        self._exact: dict[Quarters, Quarters] = {}  # rounded instants of this bar → exact ones, where they differ
        self._last_onset: Quarters = Fraction(0)
        self._count = 0
        #: (duration, type, dots, tuplet) → lengths, while the divisions stay.
        self._known_lengths: dict[tuple[str | None, str, int, tuple[str, str]], tuple[Quarters, Quarters]] = {}

    @property
    def marks(self) -> list[RawMark]:
        return self._mark_reader.marks

    def staves_met(self) -> set[int]:
        """Every staff that a note stands on, and those that are declared."""
        return {*range(1, self.staves + 1), *(note.staff for bar in self.bars for note in bar.notes)}

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

    def _staff(self, element: etree._Element) -> int | None:
        text = (element.findtext("staff") or "").strip()
        return int(text) if re.fullmatch(r"[1-9]\d?", text) else None

    @property
    def _here(self) -> RawPlace:
        return len(self.bars) - 1, self._cursor

    # -- bars ------------------------------------------------------------------------------------

    def _read_bar(self, element: etree._Element) -> None:
        number = (element.get("number") or str(len(self.bars) + 1)).strip()[:12]
        bar = RawBar(number, element.get("implicit") == "yes", self._signature or TimeSignature(4, 4))
        self.bars.append(bar)
        if len(element) > MOST_IN_BAR:
            raise LimitError(
                f"a bar holds more than {MOST_IN_BAR:,} elements.",
                where=f"{self.filename}, bar {number}",
                kept="Nothing was changed.",
                todo="Look at that bar in the program it was written with.",
            )
        self._cursor = self._rounded = self._last_onset = _ZERO
        self._exact = {}
        if self._mark_reader.open_ending:
            bar.signs.endings = self._mark_reader.open_ending
        for child in element.iterchildren("*"):
            tag = str(child.tag)
            handler = getattr(self, f"_on_{tag}", None) if tag in tables.MEASURE_READ else None
            if handler is not None:
                handler(child)
            elif tag not in tables.MEASURE_LOOKS:
                self._mark_reader.unused(tag, number, None)
        if self._signature is None:
            self.notices.add("guessed", "no time signature is given; 4/4 is assumed", number)
            self._signature = bar.signature
        bar.is_free = self._is_free
        bar.content = max(bar.content, self._cursor)

    def _on_attributes(self, element: etree._Element) -> None:
        for child in element.iterchildren("*"):
            tag = str(child.tag)
            if tag == "divisions":
                self._divisions = self._number(element, "divisions")
                self._known_lengths = {}
                if not 0 < self._divisions <= MAX_DIVISIONS:
                    raise self._fail("<divisions> must be above zero, and no more than a million.", element)
            elif tag == "staves":
                self.staves = max(self.staves, int(self._number(element, "staves")))
            elif tag == "time":
                self._on_time(child)
            elif tag == "key":
                self._on_key(child)
            elif tag == "clef":
                self.first_clef = self.first_clef or (child.findtext("sign") or "").strip()
            elif tag not in tables.ATTRIBUTES_LOOKS:
                self._mark_reader.unused(tag, self.bars[-1].number, None)

    def _on_key(self, element: etree._Element) -> None:
        fifths = (element.findtext("fifths") or "").strip()
        if re.fullmatch(r"[-+]?\d{1,2}", fifths) and element.get("number") in (None, "1"):
            self.marks.append(RawMark(MarkKind.KEY, self._here, str(int(fifths))))
        elif not fifths:
            self.notices.add("unused", "a key signature of its own making", self.bars[-1].number)

    def _on_time(self, element: etree._Element) -> None:
        bar = self.bars[-1]
        if element.find("senza-misura") is not None:
            self.notices.add("guessed", "music without a time signature is counted as long as it is", bar.number)
            self._is_free = True
            return
        if element.get("number") not in (None, "1"):
            return  # staves with signatures of their own: the first staff's is counted
        terms: list[tuple[int, int]] = []
        for beats, kind in zip(element.findall("beats"), element.findall("beat-type"), strict=False):
            for text in (beats.text or "").split("+"):
                if not re.fullmatch(r"\s*\d{1,3}\s*", text) or not re.fullmatch(r"\s*\d{1,2}\s*", kind.text or ""):
                    given = f"{beats.text}/{kind.text}"
                    raise self._fail(f"the time signature “{given[:20]}” is not understood.", element)
                terms.append((int(text), int(kind.text or 0)))
        if not terms:
            raise self._fail("a time signature is empty.", element)
        try:
            signature = self._signature_of(terms)
        except ScoreError as error:
            raise self._fail(error.what, element) from None
        self._is_free = False
        self._signature = bar.signature = signature

    @staticmethod
    def _signature_of(terms: list[tuple[int, int]]) -> TimeSignature:
        """3+2/8 and 2/4+3/8 as one signature over the smallest unit."""
        smallest = max(kind for _, kind in terms)
        if smallest == 0 or any(kind == 0 or smallest % kind for _, kind in terms):
            raise ScoreError("a time signature over zero cannot be counted.")
        groups: list[int] = []
        for beats, kind in terms:
            times = smallest // kind
            groups += [times] * beats if times > 1 else [beats]
        return TimeSignature(sum(groups), smallest, tuple(groups) if len(terms) > 1 and min(groups) > 0 else ())

    def _on_print(self, element: etree._Element) -> None:
        if "yes" in (element.get("new-system"), element.get("new-page")):
            self.bars[-1].new_system = True

    def _on_barline(self, element: etree._Element) -> None:
        self._mark_reader.read_barline(element, self.bars[-1], self._here)

    def _on_harmony(self, element: etree._Element) -> None:
        self._mark_reader.read_harmony(element, self._shifted(element), self.bars[-1])

    # -- moving ----------------------------------------------------------------------------------

    def _advance(self, exact: Quarters, rounded: Quarters) -> None:
        if self._cursor is self._rounded and exact is rounded:
            self._cursor = self._rounded = self._cursor + exact
            return
        self._cursor += exact
        self._rounded += rounded
        if self._cursor != self._rounded:
            self._exact.setdefault(self._rounded, self._cursor)

    def _on_backup(self, element: etree._Element) -> None:
        self.bars[-1].content = max(self.bars[-1].content, self._cursor)
        self._move(-self._number(element, "duration") / self._divisions)

    def _on_forward(self, element: etree._Element) -> None:
        self._move(self._number(element, "duration") / self._divisions)
        self.bars[-1].content = max(self.bars[-1].content, self._cursor)

    def _move(self, by: Quarters) -> None:
        """To the exact instant that the rounded one stands for: the same, or one within a division."""
        target = self._rounded + by
        if target < 0:
            if target < -Fraction(1, 16):
                text = "a move back past the start of a bar (taken as its start)"
                self.notices.add("changed", text, self.bars[-1].number)
            target = Fraction(0)
        known = self._exact.get(target) if self._exact else None
        if known is None and by < 0 and self._exact:
            near = min(self._exact, key=lambda at: abs(at - target))
            if abs(near - target) <= 1 / self._divisions:
                known = self._exact[near]
        self._rounded = target
        self._cursor = target if known is None else known

    # -- directions and tempo --------------------------------------------------------------------

    def _on_direction(self, element: etree._Element) -> None:
        bar, place = self.bars[-1], self._shifted(element)
        sound = element.find("sound")
        if sound is not None:
            self._on_sound(sound)
        for kind in element.iterfind("direction-type/metronome"):
            if not self._on_metronome(kind) and (sound is None or sound.get("tempo") is None):
                self._mark_reader.unused("metronome", bar.number, None)
        self._mark_reader.read_direction(element, place, bar, self._staff(element))

    def _shifted(self, element: etree._Element) -> RawPlace:
        """Where a direction or chord symbol stands: here, or by its offset from here."""
        offset = (element.findtext("offset") or "").strip()
        if not re.fullmatch(r"-?\d{1,9}(\.\d{1,9})?", offset):
            return self._here
        return len(self.bars) - 1, max(Fraction(0), self._cursor + Fraction(offset) / self._divisions)

    def _on_sound(self, element: etree._Element) -> None:
        tempo = (element.get("tempo") or "").strip()
        if tempo:
            self._add_tempo(tempo, Fraction(1))
        self._mark_reader.read_sound(element, self.bars[-1])

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
        self._count_note()
        bar, written = self.bars[-1], self._written_note(element)
        staff = self._staff_number(written.texts.get("staff"), element)
        exact, rounded = (_ZERO, _ZERO) if written.is_grace else self._durations(written)
        if "cue" in written.children:
            self.notices.add("unused", "cue notes", bar.number, staff)
            if not written.is_chord:
                self._advance(exact, rounded)
            return
        onset = self._last_onset if written.is_chord else self._cursor
        leader = bar.notes[-1] if written.is_chord and bar.notes else None
        if leader is not None and exact is not leader.duration and exact != leader.duration:
            exact = self._chord_length(written, exact, leader)
            bar.content = max(bar.content, onset + exact)
        pitch, name = self._pitch(element, written.children)
        ties = written.tie_types()
        voice = written.texts.get("voice") or (leader.voice if leader else "1")
        note = RawNote(
            onset, exact, staff, voice[:12], pitch, name, "rest" in written.children, "stop" in ties, "start" in ties,
            written.is_grace, written.is_chord, written.beam, element,
        )  # fmt: skip
        bar.notes.append(note)
        for extra in written.extras:
            if extra.tag == "lyric":
                self._mark_reader.read_lyric(extra, note, (len(self.bars) - 1, onset))
            else:
                self._mark_reader.read_notations(extra, note, (len(self.bars) - 1, onset), bar)
        if not written.is_chord:
            self._last_onset = self._cursor
            self._advance(exact, rounded)

    def _count_note(self) -> None:
        self._count += 1
        if self._count > MAX_NOTES:
            raise LimitError(
                f"the score has more than {MAX_NOTES:,} notes.",
                where=self.filename,
                kept="Nothing was changed.",
                todo="Split it into movements.",
            )
        bar = self.bars[-1]
        check_bar(bar.number, len(bar.notes), self.filename)

    def _written_note(self, element: etree._Element) -> WrittenNote:
        """A note's element taken apart; what is not used of it is noted."""
        written = WrittenNote(element)
        for child in element.iterchildren("*"):
            tag = str(child.tag)
            if tag == "dot":
                written.dots += 1
            elif tag == "tie":
                written.ties.append(child.get("type"))
            elif tag == "beam":
                if not written.beam or child.get("number") == "1":
                    written.beam = (child.text or "").strip()
            elif tag in ("notations", "lyric"):
                written.extras.append(child)
            elif tag in tables.NOTE_READ:
                written.children[tag] = child
                written.texts[tag] = (child.text or "").strip()
            elif tag not in tables.NOTE_LOOKS:
                self._mark_reader.unused(tag, self.bars[-1].number, None)
        return written

    def _staff_number(self, text: str | None, element: etree._Element) -> int:
        if text is None:
            return 1
        if not text.isdecimal() or len(text) > 2:
            raise self._fail(f"<staff> should be a number, but reads “{text[:20]}”.", element)
        return int(text) or 1

    def _durations(self, note: WrittenNote) -> tuple[Quarters, Quarters]:
        """(exact, as the file rounds it) length of a note or rest."""
        element, children, texts, dots = note.element, note.children, note.texts, note.dots
        duration, kind_name = texts.get("duration"), texts.get("type", "")
        kind = tables.TYPE_QUARTERS.get(kind_name)
        if duration is None and kind is not None:
            self.notices.add("guessed", _TYPE_WITHOUT_DURATION, self.bars[-1].number)
            written = self._written(element, children, kind, dots)
            return written, written
        rest = children.get("rest")
        if kind is None or (rest is not None and rest.get("measure") == "yes"):
            kind_name, dots, modification = "", 0, ("1", "1")
        else:
            modification = self._modification(element, children)
        key = (duration, kind_name, dots, modification)
        known = self._known_lengths.get(key)
        if known is None:
            if duration is None or not _NUMBER.fullmatch(duration):
                raise self._fail(f"<duration> should be a number, but reads “{(duration or '')[:20]}”.", element)
            as_written = written_length(tables.TYPE_QUARTERS[kind_name], dots, *modification) if kind_name else None
            known = self._known_lengths[key] = lengths_of(duration, self._divisions, as_written)
        return known

    def _chord_length(self, note: WrittenNote, given: Quarters, leader: RawNote) -> Quarters:
        """A chord's note that looks as long as its first note is so, whatever its duration says."""
        kind = tables.TYPE_QUARTERS.get(note.texts.get("type", ""))
        if kind is None or self._written(note.element, note.children, kind, note.dots) != leader.duration:
            return given
        text = "chord notes whose durations differ from how they are written (taken as written)"
        self.notices.add("changed", text, self.bars[-1].number, leader.staff)
        return leader.duration

    def _written(
        self, element: etree._Element, children: dict[str, etree._Element], kind: Quarters, dots: int
    ) -> Quarters:
        return written_length(kind, dots, *self._modification(element, children))

    def _modification(self, element: etree._Element, children: dict[str, etree._Element]) -> tuple[str, str]:
        """(actual, normal) notes of a tuplet; 1 and 1 where there is none."""
        modification = children.get("time-modification")
        if modification is None:
            return "1", "1"
        actual = (modification.findtext("actual-notes") or "").strip()
        normal = (modification.findtext("normal-notes") or "").strip()
        for text in (actual, normal):
            if not text.isdecimal() or len(text) > 4:
                raise self._fail(f"a tuplet of “{text[:20]}” notes is not understood.", element)
        if int(actual) == 0 or int(normal) == 0:
            raise self._fail("a tuplet has zero notes.", element)
        return actual, normal

    def _pitch(self, element: etree._Element, children: dict[str, etree._Element]) -> tuple[int | None, str]:
        if "rest" in children:
            return None, ""
        pitch = children.get("pitch")
        if pitch is None:
            if "unpitched" not in children:
                raise self._fail("a note has neither pitch nor rest.", element)
            is_clap = (element.findtext("play/other-play") or "").strip() == tables.HAND_CLAP
            return None, CLAP_NAME if is_clap else "x"
        parts = {child.tag: (child.text or "").strip() for child in pitch.iterchildren("*")}
        key = key_of(parts.get("step", ""), parts.get("octave", ""), parts.get("alter") or "0")
        if key is None:
            raise self._fail("a note's pitch is not understood.", element)
        midi, name, is_between = key
        if is_between:
            self.notices.add("changed", "quarter tones (taken as the nearest key)", self.bars[-1].number)
        if not 0 <= midi <= 127:
            raise self._fail("a note's pitch is out of any keyboard's range.", element)
        return midi, name
