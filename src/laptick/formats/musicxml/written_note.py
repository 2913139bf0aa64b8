"""A ``<note>`` taken apart, and what its looks come to: length by type, dots and tuplet, key by its spelling.

Source: the W3C MusicXML 4.0 specification.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from fractions import Fraction
from functools import lru_cache

from lxml import etree

from laptick.core.base.units import Quarters
from laptick.core.score.pitch import STEP_SEMITONES
from laptick.formats.musicxml import tables


@dataclass(slots=True)
class WrittenNote:
    """A ``<note>`` taken apart: what is read by its tag, as elements and as texts; notations and lyrics; its looks."""

    element: etree._Element
    children: dict[str, etree._Element] = field(default_factory=dict)
    texts: dict[str, str] = field(default_factory=dict)
    extras: list[etree._Element] = field(default_factory=list)
    ties: list[str | None] = field(default_factory=list)
    dots: int = 0
    beam: str = ""

    @property
    def is_grace(self) -> bool:
        return "grace" in self.children

    @property
    def is_chord(self) -> bool:
        return "chord" in self.children

    def tie_types(self) -> list[str | None]:
        """Starts and stops of ties: as they sound, else as they are drawn."""
        if self.ties or not self.extras:
            return self.ties
        return [tied.get("type") for tied in self.element.findall("notations/tied")]


@lru_cache(maxsize=4096)
def key_of(step: str, octave: str, alter: str) -> tuple[int, str, bool] | None:
    """(MIDI key, name, lies between keys) of a pitch as spelled."""
    if step not in STEP_SEMITONES or not re.fullmatch(r"-?\d", octave) or not re.fullmatch(r"[-+]?\d(\.\d+)?", alter):
        return None
    semitones = round(float(alter))
    midi = 12 * (int(octave) + 1) + STEP_SEMITONES[step] + semitones
    return midi, f"{step}{tables.ALTER_SIGNS.get(semitones, '')}{octave}", float(alter) % 1 != 0


def written_length(kind: Quarters, dots: int, actual: str, normal: str) -> Quarters:
    """Length by looks: a note kind in quarters, dotted, ``actual`` notes in the time of ``normal``."""
    return kind * (2 - Fraction(1, 2 ** min(dots, 4))) * int(normal) / int(actual)


def lengths_of(duration: str, divisions: Fraction, written: Quarters | None) -> tuple[Quarters, Quarters]:
    """(exact, as the file rounds it): odd tuplets are rounded to whole divisions in the file, the written
    length is exact. Where the two are further apart the file's duration holds."""
    given = Fraction(duration) / divisions
    exact = given if written is None or abs(written - given) >= 1 / divisions else written
    return (given, given) if exact == given else (exact, given)
