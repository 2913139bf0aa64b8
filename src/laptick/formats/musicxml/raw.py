"""What a part holds before it is a score: bars, notes and marks at places inside bars.

``musicxml_reader`` and ``musicxml_marks`` fill these in, ``musicxml_join`` makes a score of them.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction

from lxml import etree

from laptick.core.base.units import Quarters
from laptick.core.score.meter import TimeSignature
from laptick.core.score.score import MarkKind

#: (index of the bar, quarters from its start)
RawPlace = tuple[int, Quarters]


@dataclass(slots=True, eq=False)
class RawNote:
    """One ``<note>``. ``in_chord``: it shares the stem of the note before. ``beam``: what its first beam
    does (begin, continue, end), or nothing."""

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
    in_chord: bool = False
    beam: str = ""
    element: etree._Element | None = None


@dataclass(slots=True, eq=False)
class RawMark:
    """A mark; ``note`` where it belongs to one, ``end`` where it is a span that has ended; ``elements``: what it was
    read from; ``is_for_all``: it stands for every part, whichever it is written in."""

    kind: MarkKind
    place: RawPlace
    text: str = ""
    end: RawPlace | None = None
    staff: int | None = None
    note: RawNote | None = None
    elements: list[etree._Element] = field(default_factory=list)
    is_for_all: bool = False


@dataclass(slots=True)
class RawSigns:
    """The signs for the playing order at one bar, as they are met in the file."""

    forward: bool = False
    backward: int = 0
    endings: tuple[int, ...] = ()
    ending_begins: bool = False
    segno: str = ""
    coda: str = ""
    fine: bool = False
    da_capo: bool = False
    dal_segno: str = ""
    to_coda: str = ""
    coda_symbols: int = 0
    words: list[str] = field(default_factory=list)


@dataclass(slots=True)
class RawBar:
    number: str
    implicit: bool
    signature: TimeSignature
    notes: list[RawNote] = field(default_factory=list)
    signs: RawSigns = field(default_factory=RawSigns)
    tempos: list[tuple[Quarters, float, Quarters]] = field(default_factory=list)
    new_system: bool = False
    content: Quarters = Fraction(0)
    is_free: bool = False
