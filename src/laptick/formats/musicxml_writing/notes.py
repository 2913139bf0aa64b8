"""One note or rest → a ``<note>`` of MusicXML 4.0, and the brackets of tuplets over a voice.

Used where a whole score is written and where single bars of a teacher's file are written anew.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from fractions import Fraction

from lxml import etree

from laptick.core.base.units import Quarters
from laptick.core.score.score import Note, Rest
from laptick.formats.musicxml.tables import HAND_CLAP
from laptick.formats.musicxml_writing.marks import ALTERS, notation, sub

#: What may follow the ``<notations>`` inside a ``<note>``.
AFTER_NOTATIONS = ("lyric", "play", "listen")


def ties_of(item: Note | Rest) -> list[str]:
    if isinstance(item, Rest):
        return []
    return ["stop"] * item.tied_from_before + ["start"] * item.tied_onward


def write_note(element: etree._Element, item: Note | Rest, *, duration: str, in_chord: bool, has_staff: bool) -> None:
    """Fills an empty ``<note>``, up to its notations."""
    is_grace = isinstance(item, Note) and item.is_grace
    if is_grace:
        sub(element, "grace")
    if in_chord:
        sub(element, "chord")
    if isinstance(item, Rest):
        sub(element, "rest")
    else:
        write_pitch(element, item)
    if not is_grace:
        sub(element, "duration", duration)
    for tie in ties_of(item):
        sub(element, "tie", type=tie)
    # A voice that is numbered anew on each staff says which one after “@”.
    sub(element, "voice", (item.voice.partition(".")[2] or item.voice).partition("@")[0])
    written = ("eighth", 0, None) if is_grace else notation(item.duration_quarters)
    if written:
        kind, dots, tuplet = written
        sub(element, "type", kind)
        for _ in range(dots):
            sub(element, "dot")
        if tuplet:
            modification = sub(element, "time-modification")
            sub(modification, "actual-notes", tuplet[0])
            sub(modification, "normal-notes", tuplet[1])
    is_clap = isinstance(item, Note) and item.is_clap
    if is_clap:
        sub(element, "notehead", "x")
    if has_staff:
        sub(element, "staff", item.staff)
    if is_clap:
        sub(sub(element, "play"), "other-play", HAND_CLAP, type="sound")


def write_pitch(element: etree._Element, note: Note) -> None:
    match = re.fullmatch(r"([A-G])(♭♭|♭|♯|𝄪|)(-?\d)", note.name)
    if note.pitch is None or match is None:
        unpitched = sub(element, "unpitched")
        sub(unpitched, "display-step", "E")
        sub(unpitched, "display-octave", 4)
        return
    pitch = sub(element, "pitch")
    sub(pitch, "step", match.group(1))
    if match.group(2):
        sub(pitch, "alter", ALTERS[match.group(2)])
    sub(pitch, "octave", match.group(3))


def notations_of(note: etree._Element) -> etree._Element:
    """The first ``<notations>`` of a note, made where it has none."""
    known = note.find("notations")
    if known is not None:
        return known
    fresh = etree.Element("notations")
    for child in note.iterchildren("*"):
        if child.tag in AFTER_NOTATIONS:
            child.addprevious(fresh)
            return fresh
    note.append(fresh)
    return fresh


def drop_empty(element: etree._Element, up_to: str) -> None:
    """Takes an element away, and what it leaves empty above it, up to a tag that stays."""
    parent = element.getparent()
    while parent is not None:
        parent.remove(element)
        if len(parent) or parent.tag == up_to:
            return
        element, parent = parent, parent.getparent()


def write_tuplets(voice: Sequence[tuple[Quarters, etree._Element]]) -> None:
    """Brackets over the tuplets of one voice in one bar: (length, first note of the chord) in order. A bracket ends
    where what it holds is a plain length again."""
    begun: etree._Element | None = None
    total, ratio = Fraction(0), None
    for length, element in voice:
        modification = element.find("time-modification")
        here = None
        if modification is not None:
            here = (modification.findtext("actual-notes"), modification.findtext("normal-notes"))
        if here is None or (begun is not None and here != ratio):
            begun, total = None, Fraction(0)
            if here is None:
                continue
        if begun is None:
            begun, ratio = element, here
        total += length
        if _is_plain(total):
            if begun is not element:
                sub(notations_of(begun), "tuplet", type="start", bracket="yes")
                sub(notations_of(element), "tuplet", type="stop")
            begun, total = None, Fraction(0)


def _is_plain(length: Quarters) -> bool:
    return length.denominator & (length.denominator - 1) == 0
