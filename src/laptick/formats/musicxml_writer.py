"""Score → MusicXML 4.0 (partwise), for scores that have no MusicXML file of their own.

One part, two staves where the score has two. What is written is read back as the same score: bars, voices,
ties, tuplets, marks and signs (a property test says so). A teacher's own file is never written from here:
it keeps its tree (``musicxml_counts``).
"""

from __future__ import annotations

import math
import re
from fractions import Fraction
from functools import lru_cache

from lxml import etree

from laptick.core.score import Hand, Mark, MarkKind, Measure, Note, Rest, Score, TempoMark
from laptick.core.units import Quarters
from laptick.formats import musicxml_tables as tables

DOCTYPE = (
    '<!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML 4.0 Partwise//EN"'
    ' "http://www.musicxml.org/dtds/partwise.dtd">'
)
_TYPES: dict[Quarters, str] = {length: name for name, length in tables.TYPE_QUARTERS.items()}
_TUPLETS = (3, 5, 6, 7, 9, 10, 11, 12, 13)
#: Characters that XML cannot hold.
_NOT_XML = re.compile("[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
_ALTERS = {sign: alter for alter, sign in tables.ALTER_SIGNS.items()}


@lru_cache(maxsize=4096)
def notation(length: Quarters) -> tuple[str, int, tuple[int, int] | None] | None:
    """(type, dots, tuplet) that make up a length exactly, or ``None`` where one note cannot."""
    for dots in range(4):
        base = length / (2 - Fraction(1, 2**dots))
        if base in _TYPES:
            return _TYPES[base], dots, None
    for actual in _TUPLETS:
        normal = 1 << (actual.bit_length() - 1)
        if normal == actual:
            continue
        plain = notation_plain(length * actual / normal)
        if plain:
            return plain[0], plain[1], (actual, normal)
    return None


def notation_plain(length: Quarters) -> tuple[str, int] | None:
    for dots in range(2):
        base = length / (2 - Fraction(1, 2**dots))
        if base in _TYPES:
            return _TYPES[base], dots
    return None


def write_musicxml(score: Score) -> bytes:
    """The score as a file."""
    root = _Writer(score).write()
    body: bytes = etree.tostring(root, xml_declaration=True, encoding="UTF-8", pretty_print=True, doctype=DOCTYPE)
    return body


def _sub(parent: etree._Element, tag: str, text: str | int | None = None, **attributes: str) -> etree._Element:
    element = etree.SubElement(parent, tag, {key.replace("_", "-"): value for key, value in attributes.items()})
    if text is not None:
        element.text = _NOT_XML.sub("", str(text))
    return element


class _Writer:
    def __init__(self, score: Score) -> None:
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
            _sub(_sub(root, "work"), "work-title", self.score.title)
        if self.score.composer:
            _sub(_sub(root, "identification"), "creator", self.score.composer, type="composer")
        listed = _sub(_sub(root, "part-list"), "score-part", id="P1")
        _sub(listed, "part-name", "Piano")
        part = _sub(root, "part", id="P1")
        for measure in self.score.measures:
            self._measure(_sub(part, "measure", number=measure.number), measure)
        return root

    # -- bars ------------------------------------------------------------------------------------------

    def _measure(self, element: etree._Element, measure: Measure) -> None:
        before = self.score.measures[measure.index - 1] if measure.index else None
        if measure.length_quarters < measure.signature.bar_quarters:
            element.set("implicit", "yes")
        if before is not None and measure.line != before.line:
            _sub(element, "print", new_system="yes")
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
                self._tempo(element, tempo)
        for at, mark, action in self._directions(start, end, is_last):
            self._go(element, at - start)
            self._direction(element, mark, action)
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
        attributes = _sub(element, "attributes")
        if before is None:
            _sub(attributes, "divisions", self.divisions)
        for key in keys[:1]:
            _sub(_sub(attributes, "key"), "fifths", key.text)
        if new_time:
            time = _sub(attributes, "time")
            groups = measure.signature.groups
            _sub(time, "beats", "+".join(map(str, groups)) if groups else measure.signature.beats)
            _sub(time, "beat-type", measure.signature.beat_type)
        if before is None:
            if self.has_two:
                _sub(attributes, "staves", 2)
            for number in range(1, self.staves + 1):
                is_bass = number == 2 or (self.only_left and not self.has_two)
                clef = _sub(attributes, "clef", **({"number": str(number)} if self.has_two else {}))
                _sub(clef, "sign", "F" if is_bass else "G")
                _sub(clef, "line", 4 if is_bass else 2)

    def _left_barline(self, element: etree._Element, measure: Measure) -> None:
        signs = measure.signs
        if signs.forward or (signs.endings and signs.ending_begins):
            line = _sub(element, "barline", location="left")
            if signs.endings and signs.ending_begins:
                _sub(line, "ending", number=",".join(map(str, signs.endings)), type="start")
            if signs.forward:
                _sub(line, "repeat", direction="forward")

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
            line = _sub(element, "barline", location="right")
            if fermata:
                _sub(line, "fermata")
            if stops:
                _sub(line, "ending", number=",".join(map(str, signs.endings)), type="stop")
            if signs.backward:
                times = {"times": str(signs.backward)} if signs.backward != 2 else {}
                _sub(line, "repeat", direction="backward", **times)

    def _signs(self, element: etree._Element, measure: Measure) -> None:
        signs = measure.signs
        named = {
            "segno": signs.segno, "coda": signs.coda, "dalsegno": signs.dal_segno, "tocoda": signs.to_coda,
            "dacapo": "yes" if signs.da_capo else "", "fine": "yes" if signs.fine else "",
        }  # fmt: skip
        given = {key: value for key, value in named.items() if value}
        if given:
            _sub(element, "sound", **given)

    # -- moving ----------------------------------------------------------------------------------------

    def _go(self, element: etree._Element, to: Quarters) -> None:
        if to < self._cursor:
            _sub(_sub(element, "backup"), "duration", self._units(self._cursor - to))
        elif to > self._cursor:
            _sub(_sub(element, "forward"), "duration", self._units(to - self._cursor))
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
        element = _sub(parent, "note")
        is_grace = isinstance(item, Note) and item.is_grace
        if is_grace:
            _sub(element, "grace")
        if in_chord:
            _sub(element, "chord")
        if isinstance(item, Rest):
            _sub(element, "rest")
        else:
            self._pitch(element, item)
        if not is_grace:
            _sub(element, "duration", self._units(item.duration_quarters))
        ties: list[str] = []
        if isinstance(item, Note):
            ties = ["stop"] * item.tied_from_before + ["start"] * item.tied_onward
        for tie in ties:
            _sub(element, "tie", type=tie)
        _sub(element, "voice", item.voice.partition(".")[2] or item.voice)
        written = ("eighth", 0, None) if is_grace else notation(item.duration_quarters)
        if written:
            kind, dots, tuplet = written
            _sub(element, "type", kind)
            for _ in range(dots):
                _sub(element, "dot")
            if tuplet:
                modification = _sub(element, "time-modification")
                _sub(modification, "actual-notes", tuplet[0])
                _sub(modification, "normal-notes", tuplet[1])
        if self.has_two:
            _sub(element, "staff", item.staff)
        if isinstance(item, Note):
            self._notations(element, item, ties)

    def _pitch(self, element: etree._Element, note: Note) -> None:
        match = re.fullmatch(r"([A-G])(♭♭|♭|♯|𝄪|)(-?\d)", note.name)
        if note.pitch is None or match is None:
            unpitched = _sub(element, "unpitched")
            _sub(unpitched, "display-step", "E")
            _sub(unpitched, "display-octave", 4)
            return
        pitch = _sub(element, "pitch")
        _sub(pitch, "step", match.group(1))
        if match.group(2):
            _sub(pitch, "alter", _ALTERS[match.group(2)])
        _sub(pitch, "octave", match.group(3))

    def _notations(self, element: etree._Element, note: Note, ties: list[str]) -> None:
        marks = self.marks_of.get(note.id, [])
        notations = etree.Element("notations")
        for tie in ties:
            _sub(notations, "tied", type=tie)
        for number in self.slur_stops.get(note.id, ()):
            _sub(notations, "slur", number=str(number), type="stop")
        for _, number in self.slur_starts.get(note.id, ()):
            _sub(notations, "slur", number=str(number), type="start")
        groups: dict[str, etree._Element] = {}
        for mark in marks:
            self._note_mark(notations, groups, mark)
        if len(notations):
            element.append(notations)
        for mark in marks:
            if mark.kind is MarkKind.LYRIC:
                line, _, text = mark.text.partition(":")
                lyric = _sub(element, "lyric", number=line)
                _sub(lyric, "text", text)

    def _note_mark(self, notations: etree._Element, groups: dict[str, etree._Element], mark: Mark) -> None:
        def group(tag: str) -> etree._Element:
            if tag not in groups:
                groups[tag] = _sub(notations, tag)
            return groups[tag]

        if mark.kind is MarkKind.FERMATA:
            _sub(notations, "fermata")
        elif mark.kind is MarkKind.ARPEGGIO:
            _sub(notations, "arpeggiate", **({} if mark.text == "up" else {"direction": mark.text}))
        elif mark.kind is MarkKind.DYNAMIC:
            self._dynamics(_sub(notations, "dynamics"), mark.text)
        elif mark.kind in (MarkKind.ARTICULATION, MarkKind.BREATH, MarkKind.CAESURA):
            known = mark.text in ARTICULATIONS
            tag = mark.text if known else "other-articulation"
            _sub(group("articulations"), tag, None if known else mark.text)
        elif mark.kind is MarkKind.ORNAMENT:
            known = mark.text in ORNAMENTS
            _sub(group("ornaments"), mark.text if known else "other-ornament")
        elif mark.kind is MarkKind.FINGERING:
            attributes = {"/": {"alternate": "yes"}, "-": {"substitution": "yes"}}.get(mark.text[:1], {})
            _sub(group("technical"), "fingering", mark.text[1:] if attributes else mark.text, **attributes)

    @staticmethod
    def _dynamics(element: etree._Element, text: str) -> None:
        for name in text.split():
            if name in DYNAMICS:
                _sub(element, name)
            else:
                _sub(element, "other-dynamics", name)

    # -- directions ------------------------------------------------------------------------------------

    def _tempo(self, parent: etree._Element, tempo: TempoMark) -> None:
        direction = _sub(parent, "direction", placement="above")
        metronome = _sub(_sub(direction, "direction-type"), "metronome")
        kind = notation_plain(tempo.beat_quarters)
        if kind:
            _sub(metronome, "beat-unit", kind[0])
            for _ in range(kind[1]):
                _sub(metronome, "beat-unit-dot")
        _sub(metronome, "per-minute", f"{tempo.bpm:g}")
        _sub(direction, "sound", tempo=f"{round(tempo.bpm * float(tempo.beat_quarters), 6):g}")

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

    def _direction(self, parent: etree._Element, mark: Mark, action: str) -> None:
        if mark.kind is MarkKind.CHORD_SYMBOL:
            self._harmony(parent, mark)
            return
        direction = _sub(parent, "direction")
        kind = _sub(direction, "direction-type")
        if mark.kind is MarkKind.DYNAMIC:
            self._dynamics(_sub(kind, "dynamics"), mark.text)
        elif mark.kind is MarkKind.WEDGE:
            _sub(kind, "wedge", type=mark.text if action == "start" else "stop")
        elif mark.kind is MarkKind.PEDAL:
            _sub(kind, "pedal", type=action, line="yes")
        elif mark.kind is MarkKind.OCTAVE_LINE:
            size, _, way = mark.text.partition(" ")
            _sub(kind, "octave-shift", type=way if action == "start" else "stop", size=size)
        elif mark.kind is MarkKind.REHEARSAL:
            _sub(kind, "rehearsal", mark.text)
        elif action == "stop":
            _sub(kind, "dashes", type="stop")
        else:
            _sub(kind, "words", mark.text)
        if self.has_two and mark.hand is not None:
            _sub(direction, "staff", 1 if mark.hand is Hand.RIGHT else 2)

    def _harmony(self, parent: etree._Element, mark: Mark) -> None:
        match = re.fullmatch(r"([A-G])(♭♭|♭|♯|𝄪|)(.*?)(?:/([A-G])(♭♭|♭|♯|𝄪|))?", mark.text)
        if match is None:
            return
        step, sign, name, bass, bass_sign = match.groups()
        harmony = _sub(parent, "harmony")
        root = _sub(harmony, "root")
        _sub(root, "root-step", step)
        if sign:
            _sub(root, "root-alter", _ALTERS[sign])
        kind = _sub(harmony, "kind", "other" if name else "major")
        if name:
            kind.set("text", name)
        if bass:
            element = _sub(harmony, "bass")
            _sub(element, "bass-step", bass)
            if bass_sign:
                _sub(element, "bass-alter", _ALTERS[bass_sign])


#: Marks written elsewhere than as directions.
_NOT_DIRECTIONS: frozenset[MarkKind] = frozenset(
    {MarkKind.KEY, MarkKind.FERMATA, MarkKind.SLUR, MarkKind.LYRIC, MarkKind.BREATH, MarkKind.CAESURA}
)
_SPANS = frozenset({MarkKind.WEDGE, MarkKind.PEDAL, MarkKind.OCTAVE_LINE, MarkKind.SLOWER, MarkKind.FASTER})


def _names(text: str) -> frozenset[str]:
    return frozenset(text.split())


DYNAMICS = _names(
    "p pp ppp pppp ppppp pppppp f ff fff ffff fffff ffffff mp mf sf sfp sfpp fp rf rfz sfz sffz fz n pf sfzp"
)
ARTICULATIONS = _names(
    "accent strong-accent staccato tenuto detached-legato staccatissimo spiccato scoop plop doit falloff breath-mark"
    " caesura stress unstress soft-accent"
)
ORNAMENTS = _names(
    "trill-mark turn delayed-turn inverted-turn delayed-inverted-turn vertical-turn inverted-vertical-turn shake"
    " wavy-line mordent inverted-mordent schleifer tremolo haydn"
)
