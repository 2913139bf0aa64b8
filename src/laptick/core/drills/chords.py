"""Chords by their symbols, as far as a left hand needs them: a root and its third, fifth, sixth and seventh, spelled.

Source: common practice of chord symbols, no source.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from laptick.core.base.errors import OptionError
from laptick.core.score.pitch import ALTERATIONS, LETTERS, STEP_SEMITONES

#: Quality → semitones of third, fifth, sixth and seventh above the root.
QUALITIES: Mapping[str, tuple[int, int, int, int]] = {
    "": (4, 7, 9, 10),
    "m": (3, 7, 9, 10),
    "dim": (3, 6, 9, 9),
    "aug": (4, 8, 9, 10),
    "sus4": (5, 7, 9, 10),
    "maj7": (4, 7, 9, 11),
}

#: What a tone of a pattern is: letters above the root, and the place among a quality's semitones (``None``: fixed). A
#: tone an octave higher has a ' behind it, one lower a comma, two octaves two of them.
TONES: Mapping[str, tuple[int, int | None, int]] = {
    "root": (0, None, 0),
    "second": (1, None, 2),
    "third": (2, 0, 0),
    "fourth": (3, None, 5),
    "fifth": (4, 1, 0),
    "sixth": (5, 2, 0),
    "seventh": (6, 3, 0),
    "octave": (7, None, 12),
}

_SYMBOL = re.compile(r"([A-G])(##|bb|♯♯|♭♭|[#b♯♭]?)(.*)", re.ASCII | re.DOTALL)
_SIGNS = {"#": "♯", "b": "♭", "##": "𝄪", "♯♯": "𝄪", "bb": "♭♭"}
_SIGN_OF = {value: sign for sign, value in ALTERATIONS.items()}


@dataclass(frozen=True, slots=True)
class Chord:
    """``letter`` and ``sign`` of its root; ``quality``: a key of ``QUALITIES``."""

    letter: str
    sign: str = ""
    quality: str = ""

    @property
    def name(self) -> str:
        return f"{self.letter}{self.sign}{self.quality}"

    @property
    def root_class(self) -> int:
        """The root as one of twelve, C is 0."""
        return (STEP_SEMITONES[self.letter] + ALTERATIONS[self.sign]) % 12

    def classes(self) -> frozenset[int]:
        """Root, third and fifth as such."""
        third, fifth, _, _ = QUALITIES[self.quality]
        return frozenset((self.root_class + semitones) % 12 for semitones in (0, third, fifth))

    def root_key(self, octave: int) -> int:
        return 12 * (octave + 1) + STEP_SEMITONES[self.letter] + ALTERATIONS[self.sign]

    def tone(self, tone: str, octave: int) -> tuple[str, int]:
        """(name, MIDI key) of a tone over the root in an octave."""
        octave += tone.count("'") - tone.count(",")
        letters, place, fixed = TONES[tone.rstrip("',")]
        semitones = fixed if place is None else QUALITIES[self.quality][place]
        index = LETTERS.index(self.letter) + letters
        key, letter, written = self.root_key(octave) + semitones, LETTERS[index % 7], octave + index // 7
        sign = _SIGN_OF.get(key - 12 * (written + 1) - STEP_SEMITONES[letter])
        if sign is None:  # thrice altered: written by its plainest name
            return _plain(key)
        return f"{letter}{sign}{written}", key


def _plain(key: int) -> tuple[str, int]:
    octave, semitones = key // 12 - 1, key % 12
    letter = max((name for name, above in STEP_SEMITONES.items() if above <= semitones), key=STEP_SEMITONES.__getitem__)
    return f"{letter}{_SIGN_OF[semitones - STEP_SEMITONES[letter]]}{octave}", key


def chord_of(text: str, *, where: str = "roots") -> Chord:
    """``C``, ``F#m``, ``E♭maj7/B♭``: what of it a left hand's pattern goes by.

    Raises:
        OptionError: no chord symbol.
    """
    match = _SYMBOL.fullmatch(text.strip()[:40])
    if match is None:
        raise OptionError(f"“{text[:20]}” is no chord.", where=where, todo="Write it like C, F#m or Bb7.")
    rest = match[3].partition("/")[0].strip()
    return Chord(match[1], _SIGNS.get(match[2], match[2]), _quality(rest))


def _quality(text: str) -> str:
    low = text.lower()
    if low.startswith(("maj7", "ma7", "△")) or text.startswith("M7"):
        return "maj7"
    if low.startswith(("dim", "o", "°", "ø")) or "b5" in low:
        return "dim"
    if low.startswith(("aug", "+")):
        return "aug"
    if low.startswith("sus"):
        return "sus4"
    if (low.startswith(("min", "-")) or text.startswith("m")) and not low.startswith("maj"):
        return "m"
    return ""
