"""Marks of a score → elements of MusicXML 4.0: directions, chord symbols, and what hangs on a note.

The writing side of ``musicxml_marks``; bars and notes are written by ``musicxml_writer``.
"""

from __future__ import annotations

import re
from fractions import Fraction
from functools import lru_cache

from lxml import etree

from laptick.core.base.units import Quarters
from laptick.core.score.score import Hand, Mark, MarkKind, TempoMark
from laptick.formats.musicxml import tables
from laptick.formats.musicxml.marks import CUE_ID

_TYPES: dict[Quarters, str] = {length: name for name, length in tables.TYPE_QUARTERS.items()}
_TUPLETS = (3, 5, 6, 7, 9, 10, 11, 12, 13)
#: Characters that XML cannot hold.
_NOT_XML = re.compile("[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
ALTERS = {sign: alter for alter, sign in tables.ALTER_SIGNS.items()}


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


def sub(parent: etree._Element, tag: str, text: str | int | None = None, **attributes: str) -> etree._Element:
    element = etree.SubElement(parent, tag, {key.replace("_", "-"): value for key, value in attributes.items()})
    if text is not None:
        element.text = _NOT_XML.sub("", str(text))
    return element


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


def write_note_mark(notations: etree._Element, groups: dict[str, etree._Element], mark: Mark) -> None:
    def group(tag: str) -> etree._Element:
        if tag not in groups:
            groups[tag] = sub(notations, tag)
        return groups[tag]

    if mark.kind is MarkKind.FERMATA:
        sub(notations, "fermata")
    elif mark.kind is MarkKind.ARPEGGIO:
        sub(notations, "arpeggiate", **({} if mark.text == "up" else {"direction": mark.text}))
    elif mark.kind is MarkKind.DYNAMIC:
        _dynamics(sub(notations, "dynamics"), mark.text)
    elif mark.kind in (MarkKind.ARTICULATION, MarkKind.BREATH, MarkKind.CAESURA):
        known = mark.text in ARTICULATIONS
        tag = mark.text if known else "other-articulation"
        sub(group("articulations"), tag, None if known else mark.text)
    elif mark.kind is MarkKind.ORNAMENT:
        known = mark.text in ORNAMENTS
        sub(group("ornaments"), mark.text if known else "other-ornament")
    elif mark.kind is MarkKind.FINGERING:
        attributes = {"/": {"alternate": "yes"}, "-": {"substitution": "yes"}}.get(mark.text[:1], {})
        sub(group("technical"), "fingering", mark.text[1:] if attributes else mark.text, **attributes)


def write_lyric(note: etree._Element, mark: Mark) -> etree._Element:
    line, _, text = mark.text.partition(":")
    lyric = sub(note, "lyric", number=line)
    sub(lyric, "text", text)
    return lyric


def _dynamics(element: etree._Element, text: str) -> None:
    for name in text.split():
        if name in DYNAMICS:
            sub(element, name)
        else:
            sub(element, "other-dynamics", name)


def write_tempo(parent: etree._Element, tempo: TempoMark) -> None:
    direction = sub(parent, "direction", placement="above")
    metronome = sub(sub(direction, "direction-type"), "metronome")
    kind = notation_plain(tempo.beat_quarters)
    if kind:
        sub(metronome, "beat-unit", kind[0])
        for _ in range(kind[1]):
            sub(metronome, "beat-unit-dot")
    sub(metronome, "per-minute", f"{tempo.bpm:g}")
    sub(direction, "sound", tempo=f"{round(tempo.bpm * float(tempo.beat_quarters), 6):g}")


def write_direction(parent: etree._Element, mark: Mark, action: str, *, has_two: bool) -> None:
    if mark.kind is MarkKind.CHORD_SYMBOL:
        _harmony(parent, mark)
        return
    direction = sub(parent, "direction")
    kind = sub(direction, "direction-type")
    if mark.kind is MarkKind.DYNAMIC:
        _dynamics(sub(kind, "dynamics"), mark.text)
    elif mark.kind is MarkKind.WEDGE:
        sub(kind, "wedge", type=mark.text if action == "start" else "stop")
    elif mark.kind is MarkKind.PEDAL:
        sub(kind, "pedal", type=action, line="yes")
    elif mark.kind is MarkKind.OCTAVE_LINE:
        size, _, way = mark.text.partition(" ")
        sub(kind, "octave-shift", type=way if action == "start" else "stop", size=size)
    elif mark.kind is MarkKind.REHEARSAL:
        sub(kind, "rehearsal", mark.text)
    elif action == "stop":
        sub(kind, "dashes", type="stop")
    elif mark.kind is MarkKind.CUE:
        sub(kind, "words", mark.text, id=cue_id(mark))
    else:
        sub(kind, "words", mark.text)
    if has_two and mark.hand is not None:
        sub(direction, "staff", 1 if mark.hand is Hand.RIGHT else 2)


def cue_id(mark: Mark) -> str:
    """An id that says that these words are a cue word: its place, and a number for its letters."""
    at = mark.onset_quarters
    return f"{CUE_ID}-{at.numerator}-{at.denominator}-{sum(map(ord, mark.text))}"


#: What is printed beside a root → the kind of chord.
_KINDS = {printed: kind for kind, printed in tables.CHORD_KINDS.items()}


def _harmony(parent: etree._Element, mark: Mark) -> None:
    match = re.fullmatch(r"([A-G])(♭♭|♭|♯|𝄪|)(.*?)(?:/([A-G])(♭♭|♭|♯|𝄪|))?", mark.text)
    if match is None:
        return
    step, sign, name, bass, bass_sign = match.groups()
    harmony = sub(parent, "harmony")
    root = sub(harmony, "root")
    sub(root, "root-step", step)
    if sign:
        sub(root, "root-alter", ALTERS[sign])
    kind = sub(harmony, "kind", _KINDS.get(name, "other"))
    if name:
        kind.set("text", name)
    if bass:
        element = sub(harmony, "bass")
        sub(element, "bass-step", bass)
        if bass_sign:
            sub(element, "bass-alter", ALTERS[bass_sign])
