"""Score → MusicXML 4.0 (partwise), for scores that have no MusicXML file of their own.

One part, two staves where the score has two. What is written is read back as the same score: bars, voices,
ties, tuplets, marks and signs (a property test says so). A teacher's own file is never written from here:
it keeps its tree (``musicxml_counts``).
"""

from __future__ import annotations

import math
from dataclasses import replace
from fractions import Fraction

from lxml import etree

from laptick.core.base.units import Quarters
from laptick.core.score.score import Hand, Mark, MarkKind, Measure, Note, Rest, Score
from laptick.formats.musicxml_writing.marks import sub, write_direction, write_lyric, write_note_mark, write_tempo
from laptick.formats.musicxml_writing.notes import ties_of, write_note

DOCTYPE = (
    '<!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML 4.0 Partwise//EN"'
    ' "http://www.musicxml.org/dtds/partwise.dtd">'
)


def write_musicxml(score: Score) -> bytes:
    """The score as a file."""
    root = _Writer(score).write()
    body: bytes = etree.tostring(root, xml_declaration=True, encoding="UTF-8", pretty_print=True, doctype=DOCTYPE)
    return body


def _in_one_part(score: Score) -> Score:
    """A score of several parts on two staves, each hand on its own; any other as it is."""
    keys = {(note.hand is Hand.LEFT, note.voice) for note in score.notes}
    keys |= {(rest.hand is Hand.LEFT, rest.voice) for rest in score.rests}
    if len({voice.partition(".")[0] for _, voice in keys}) < 2:
        return score
    voices = {key: f"1.{number}" for number, key in enumerate(sorted(keys), start=1)}
    staff_of = {Hand.RIGHT: 1, Hand.LEFT: 2}
    return replace(
        score,
        notes=tuple(
            replace(n, voice=voices[n.hand is Hand.LEFT, n.voice], staff=staff_of[n.hand]) for n in score.notes
        ),
        rests=tuple(
            replace(r, voice=voices[r.hand is Hand.LEFT, r.voice], staff=staff_of[r.hand]) for r in score.rests
        ),
    )


class _Writer:
    def __init__(self, score: Score) -> None:
        score = _in_one_part(score)
        self.score = score
        lengths = {note.duration_quarters for note in score.notes} | {rest.duration_quarters for rest in score.rests}
        places = {note.onset_quarters for note in score.notes} | {rest.onset_quarters for rest in score.rests}
        places |= {mark.onset_quarters for mark in score.marks} | {tempo.onset_quarters for tempo in score.tempos}
        places |= {mark.end_quarters for mark in score.marks if mark.end_quarters is not None}
        bars = {m.start_quarters for m in score.measures} | {m.length_quarters for m in score.measures}
        self.divisions = math.lcm(*(value.denominator for value in lengths | places | bars | {Fraction(1)}))
        hands = score.hands_present()
        self.has_two = len(hands) > 1 or any(note.staff > 1 for note in score.notes)
        self.only_left = hands == (Hand.LEFT,)
        self.staves = 2 if self.has_two else 1
        self.marks_of: dict[str, list[Mark]] = {}
        for mark in score.marks:
            if mark.note_id is not None and mark.kind is not MarkKind.SLUR:
                self.marks_of.setdefault(mark.note_id, []).append(mark)
        self.slur_starts: dict[str, list[tuple[Mark, int]]] = {}
        self.slur_stops: dict[str, list[int]] = {}
        self._number_slurs()

    def _number_slurs(self) -> None:
        """Slurs get the lowest number that is free while they last."""
        by_id = {note.id: note for note in self.score.notes}
        busy: dict[int, Quarters] = {}
        for mark in self.score.marks:
            if mark.kind is not MarkKind.SLUR or mark.note_id not in by_id or mark.end_quarters is None:
                continue
            first = by_id[mark.note_id]
            last = next(
                (
                    n
                    for n in self.score.notes
                    if n.end_quarters == mark.end_quarters
                    and n.hand is first.hand
                    and n.onset_quarters >= first.onset_quarters
                    and not n.is_grace
                ),
                None,
            )
            number = next((n for n in range(1, 17) if busy.get(n, Fraction(-1)) < mark.onset_quarters), None)
            if last is None or number is None:
                continue
            busy[number] = mark.end_quarters
            self.slur_starts.setdefault(mark.note_id, []).append((mark, number))
            self.slur_stops.setdefault(last.id, []).append(number)

    def _units(self, length: Quarters) -> str:
        return str(int(length * self.divisions))

    def write(self) -> etree._Element:
        root = etree.Element("score-partwise", version="4.0")
        if self.score.title:
            sub(sub(root, "work"), "work-title", self.score.title)
        if self.score.composer:
            sub(sub(root, "identification"), "creator", self.score.composer, type="composer")
        listed = sub(sub(root, "part-list"), "score-part", id="P1")
        sub(listed, "part-name", "Piano")
        part = sub(root, "part", id="P1")
        for measure in self.score.measures:
            self._measure(sub(part, "measure", number=measure.number), measure)
        return root

    # -- bars ------------------------------------------------------------------------------------------

    def _measure(self, element: etree._Element, measure: Measure) -> None:
        before = self.score.measures[measure.index - 1] if measure.index else None
        if measure.length_quarters < measure.signature.bar_quarters:
            element.set("implicit", "yes")
        if before is not None and measure.line != before.line:
            sub(element, "print", new_system="yes")
        self._left_barline(element, measure)
        self._attributes(element, measure, before)
        self._cursor = Fraction(0)
        start, end = measure.start_quarters, measure.end_quarters
        items: list[Note | Rest] = [*self._notes_of(measure), *self._rests_of(measure)]
        voices = sorted({(item.staff, item.voice) for item in items})
        for staff, voice in voices:
            self._voice(element, measure, [i for i in items if (i.staff, i.voice) == (staff, voice)])
        is_last = measure.index == len(self.score.measures) - 1
        for tempo in self.score.tempos:
            if start <= tempo.onset_quarters < end or (is_last and tempo.onset_quarters == end):
                self._go(element, tempo.onset_quarters - start)
                write_tempo(element, tempo)
        for at, mark, action in self._directions(start, end, is_last):
            self._go(element, at - start)
            write_direction(element, mark, action, has_two=self.has_two)
        self._go(element, measure.length_quarters)
        self._signs(element, measure)
        self._right_barline(element, measure)

    def _notes_of(self, measure: Measure) -> list[Note]:
        return [note for note in self.score.notes if note.measure_index == measure.index]

    def _rests_of(self, measure: Measure) -> list[Rest]:
        return [rest for rest in self.score.rests if rest.measure_index == measure.index]

    def _attributes(self, element: etree._Element, measure: Measure, before: Measure | None) -> None:
        keys = [m for m in self.score.marks if m.kind is MarkKind.KEY and m.onset_quarters == measure.start_quarters]
        new_time = before is None or measure.signature != before.signature
        if not (keys or new_time or before is None):
            return
        attributes = sub(element, "attributes")
        if before is None:
            sub(attributes, "divisions", self.divisions)
        for key in keys[:1]:
            sub(sub(attributes, "key"), "fifths", key.text)
        if new_time:
            time = sub(attributes, "time")
            groups = measure.signature.groups
            sub(time, "beats", "+".join(map(str, groups)) if groups else measure.signature.beats)
            sub(time, "beat-type", measure.signature.beat_type)
        if before is None:
            if self.has_two:
                sub(attributes, "staves", 2)
            for number in range(1, self.staves + 1):
                is_bass = number == 2 or (self.only_left and not self.has_two)
                clef = sub(attributes, "clef", **({"number": str(number)} if self.has_two else {}))
                sub(clef, "sign", "F" if is_bass else "G")
                sub(clef, "line", 4 if is_bass else 2)

    def _left_barline(self, element: etree._Element, measure: Measure) -> None:
        signs = measure.signs
        if signs.forward or (signs.endings and signs.ending_begins):
            line = sub(element, "barline", location="left")
            if signs.endings and signs.ending_begins:
                sub(line, "ending", number=",".join(map(str, signs.endings)), type="start")
            if signs.forward:
                sub(line, "repeat", direction="forward")

    def _right_barline(self, element: etree._Element, measure: Measure) -> None:
        signs = measure.signs
        following = self.score.measures[measure.index + 1 : measure.index + 2]
        goes_on = following and following[0].signs.endings == signs.endings and not following[0].signs.ending_begins
        stops = bool(signs.endings) and not goes_on
        fermata = any(
            m.kind is MarkKind.FERMATA and m.note_id is None and m.onset_quarters == measure.end_quarters
            for m in self.score.marks
        )
        if stops or signs.backward or fermata:
            line = sub(element, "barline", location="right")
            if fermata:
                sub(line, "fermata")
            if stops:
                sub(line, "ending", number=",".join(map(str, signs.endings)), type="stop")
            if signs.backward:
                times = {"times": str(signs.backward)} if signs.backward != 2 else {}
                sub(line, "repeat", direction="backward", **times)

    def _signs(self, element: etree._Element, measure: Measure) -> None:
        signs = measure.signs
        named = {
            "segno": signs.segno, "coda": signs.coda, "dalsegno": signs.dal_segno, "tocoda": signs.to_coda,
            "dacapo": "yes" if signs.da_capo else "", "fine": "yes" if signs.fine else "",
        }  # fmt: skip
        given = {key: value for key, value in named.items() if value}
        if given:
            sub(element, "sound", **given)

    # -- moving ----------------------------------------------------------------------------------------

    def _go(self, element: etree._Element, to: Quarters) -> None:
        if to < self._cursor:
            sub(sub(element, "backup"), "duration", self._units(self._cursor - to))
        elif to > self._cursor:
            sub(sub(element, "forward"), "duration", self._units(to - self._cursor))
        self._cursor = to

    # -- notes -----------------------------------------------------------------------------------------

    def _voice(self, element: etree._Element, measure: Measure, items: list[Note | Rest]) -> None:
        def key(item: Note | Rest) -> tuple[Quarters, bool, Quarters, int]:
            is_grace = isinstance(item, Note) and item.is_grace
            return item.onset_quarters, not is_grace, item.duration_quarters, getattr(item, "pitch", None) or 0

        chord: tuple[Quarters, Quarters] | None = None
        for item in sorted(items, key=key):
            here = (item.onset_quarters, item.duration_quarters)
            is_grace = isinstance(item, Note) and item.is_grace
            in_chord = chord == here and isinstance(item, Note) and not is_grace
            if not in_chord:
                self._go(element, item.onset_quarters - measure.start_quarters)
            self._note(element, item, in_chord)
            if is_grace:
                chord = None
            elif not in_chord:
                self._cursor += item.duration_quarters
                chord = here if isinstance(item, Note) else None

    def _note(self, parent: etree._Element, item: Note | Rest, in_chord: bool) -> None:
        element = sub(parent, "note")
        units = self._units(item.duration_quarters)
        write_note(element, item, duration=units, in_chord=in_chord, has_staff=self.has_two)
        if isinstance(item, Note):
            self._notations(element, item, ties_of(item))

    def _notations(self, element: etree._Element, note: Note, ties: list[str]) -> None:
        marks = self.marks_of.get(note.id, [])
        notations = etree.Element("notations")
        for tie in ties:
            sub(notations, "tied", type=tie)
        for number in self.slur_stops.get(note.id, ()):
            sub(notations, "slur", number=str(number), type="stop")
        for _, number in self.slur_starts.get(note.id, ()):
            sub(notations, "slur", number=str(number), type="start")
        groups: dict[str, etree._Element] = {}
        for mark in marks:
            write_note_mark(notations, groups, mark)
        if len(notations):
            element.append(notations)
        for mark in marks:
            if mark.kind is MarkKind.LYRIC:
                write_lyric(element, mark)

    # -- directions ------------------------------------------------------------------------------------

    def _directions(self, start: Quarters, end: Quarters, is_last: bool) -> list[tuple[Quarters, Mark, str]]:
        found: list[tuple[Quarters, Mark, str]] = []

        def within(at: Quarters | None) -> bool:
            return at is not None and (start <= at < end or (is_last and at == end))

        for mark in self.score.marks:
            if mark.note_id is not None or mark.kind in _NOT_DIRECTIONS:
                continue
            if within(mark.onset_quarters):
                found.append((mark.onset_quarters, mark, "start"))
            if mark.kind in _SPANS and mark.end_quarters is not None and within(mark.end_quarters):
                found.append((mark.end_quarters, mark, "stop"))
        return sorted(found, key=lambda item: (item[0], item[2] == "start"))


#: Marks written elsewhere than as directions.
_NOT_DIRECTIONS: frozenset[MarkKind] = frozenset(
    {MarkKind.KEY, MarkKind.FERMATA, MarkKind.SLUR, MarkKind.LYRIC, MarkKind.BREATH, MarkKind.CAESURA}
)
_SPANS = frozenset({MarkKind.WEDGE, MarkKind.PEDAL, MarkKind.OCTAVE_LINE, MarkKind.SLOWER, MarkKind.FASTER})
