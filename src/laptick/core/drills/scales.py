"""Scales as their notes are spelled: any key, any mode of the table, any number of octaves.

A scale's *degree* is counted from 0, the tonic it begins on; one octave up has as many degrees as the mode has notes.
Source: common practice of music theory, no source.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from laptick.core.base.errors import OptionError
from laptick.core.score.pitch import ALTERATIONS, LETTERS, STEP_SEMITONES, read_pitch

#: Mode → for each of its notes how many letters and how many semitones it lies above the tonic.
MODES: Mapping[str, tuple[tuple[int, int], ...]] = {
    "major": ((0, 0), (1, 2), (2, 4), (3, 5), (4, 7), (5, 9), (6, 11)),
    "minor": ((0, 0), (1, 2), (2, 3), (3, 5), (4, 7), (5, 8), (6, 11)),  # harmonic, as it is practised most
    "natural-minor": ((0, 0), (1, 2), (2, 3), (3, 5), (4, 7), (5, 8), (6, 10)),
    "dorian": ((0, 0), (1, 2), (2, 3), (3, 5), (4, 7), (5, 9), (6, 10)),
    "phrygian": ((0, 0), (1, 1), (2, 3), (3, 5), (4, 7), (5, 8), (6, 10)),
    "lydian": ((0, 0), (1, 2), (2, 4), (3, 6), (4, 7), (5, 9), (6, 11)),
    "mixolydian": ((0, 0), (1, 2), (2, 4), (3, 5), (4, 7), (5, 9), (6, 10)),
    "pentatonic": ((0, 0), (1, 2), (2, 4), (4, 7), (5, 9)),
    "five-finger": ((0, 0), (1, 2), (2, 4), (3, 5), (4, 7)),
}

#: Sharps (+) or flats (−) of a major key, by its letter with nothing before it.
_FIFTHS = {"F": -1, "C": 0, "G": 1, "D": 2, "A": 3, "E": 4, "B": 5}

#: How far the tonic of a mode lies from that of the major key with the same signature, in fifths.
_MODE_FIFTHS = {"minor": -3, "natural-minor": -3, "dorian": -2, "phrygian": -4, "lydian": 1, "mixolydian": -1}

#: Keys with more signs than that are written otherwise.
MOST_SIGNS = 7

_KEY = re.compile(r"([A-Ga-g])(b|#|♭|♯)?(?:[- ](.+))?")
_SIGN_OF = {value: sign for sign, value in ALTERATIONS.items()}


@dataclass(frozen=True, slots=True)
class Scale:
    """``letter`` and ``sign`` of its tonic; ``mode``: a key of ``MODES``."""

    letter: str
    sign: str
    mode: str

    @property
    def size(self) -> int:
        """Degrees to the octave. Of five fingers the fifth one is the top."""
        notes = len(MODES[self.mode])
        return notes - 1 if self.mode == "five-finger" else notes

    @property
    def title(self) -> str:
        return f"{self.letter}{self.sign} {self.mode.replace('-', ' ')}"

    @property
    def fifths(self) -> int:
        """Sharps (+) or flats (−) of its signature."""
        return _FIFTHS[self.letter] + 7 * ALTERATIONS[self.sign] + _MODE_FIFTHS.get(self.mode, 0)

    def tonic_key(self, octave: int) -> int:
        return read_pitch(f"{self.letter}{self.sign}{octave}")[1]

    def note(self, degree: int, octave: int) -> tuple[str, int]:
        """(name, MIDI key) of a degree, may be below 0, of the scale whose tonic lies in an octave."""
        notes = MODES[self.mode]
        octaves, place = divmod(degree, len(notes))
        letters, semitones = notes[place]
        index = LETTERS.index(self.letter) + letters
        key = self.tonic_key(octave) + semitones + 12 * octaves
        letter = LETTERS[index % 7]
        written = octave + octaves + index // 7
        sign = _SIGN_OF.get(key - 12 * (written + 1) - STEP_SEMITONES[letter])
        if sign is None or not 0 <= key <= 127:
            raise OptionError(f"{self.title} cannot be written there.", where="scale", todo="Choose another key.")
        return f"{letter}{sign}{written}", key


def scale_of(text: str, *, where: str = "scale") -> Scale:
    """``C-major``, ``F#-minor``, ``Bb dorian``; a key alone is major.

    Raises:
        OptionError: no key, no mode, or a key with too many signs.
    """
    match = _KEY.fullmatch(text.strip()[:40])
    if match is None:
        raise OptionError(f"“{text[:20]}” is no scale.", where=where, todo="Write it like C-major or F#-minor.")
    mode = (match[3] or "major").strip().lower().replace(" ", "-")
    if mode not in MODES:
        raise OptionError(f"there is no scale “{mode[:20]}”.", where=where, todo=f"There are {', '.join(MODES)}.")
    sign = {"b": "♭", "#": "♯"}.get(match[2] or "", match[2] or "")
    scale = Scale(match[1].upper(), sign, mode)
    if abs(scale.fifths) > MOST_SIGNS:
        raise OptionError(
            f"{scale.title} would have {abs(scale.fifths)} signs.", where=where, todo="Write its other name."
        )
    return scale
