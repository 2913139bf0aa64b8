"""Names of pitches: a letter, an accidental, an octave (``F♯4``; middle C is ``C4``), and their MIDI keys.

Source: scientific pitch notation; MIDI key 60 is middle C (MIDI 1.0 specification).
"""

from __future__ import annotations

import re
from functools import lru_cache

from laptick.core.base.errors import OptionError

#: Letter → semitones above C.
STEP_SEMITONES: dict[str, int] = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}

#: Letters in the order of the keyboard.
LETTERS = "".join(STEP_SEMITONES)

#: Accidental as shown → semitones.
ALTERATIONS: dict[str, int] = {"♭♭": -2, "♭": -1, "": 0, "♯": 1, "𝄪": 2}

#: What may be typed for an accidental.
_TYPED: dict[str, str] = {"b": "♭", "bb": "♭♭", "#": "♯", "##": "𝄪", "x": "𝄪", "n": "", "♮": ""}

_NAME = re.compile(r"([A-Ga-g])(bb|##|♭♭|♯♯|[b#xn♭♯♮𝄪]?)(-?\d)")


@lru_cache(maxsize=1024)
def read_pitch(text: str) -> tuple[str, int]:
    """(name as shown, MIDI key) of a typed pitch: ``f#4`` → (``F♯4``, 66).

    Raises:
        OptionError: no name of a pitch, or out of a keyboard's range.
    """
    match = _NAME.fullmatch(text.strip())
    if match is None:
        raise OptionError(
            f"“{text.strip()[:12]}” is no name of a note.",
            where="pitch",
            todo="Write it like F♯4 or Bb3; middle C is C4.",
        )
    step, sign, octave = match.group(1).upper(), match.group(2), match.group(3)
    sign = "𝄪" if sign == "♯♯" else _TYPED.get(sign, sign)
    key = 12 * (int(octave) + 1) + STEP_SEMITONES[step] + ALTERATIONS[sign]
    if not 0 <= key <= 127:
        raise OptionError(f"{step}{sign}{octave} is out of any keyboard's range.", where="pitch")
    return f"{step}{sign}{octave}", key


@lru_cache(maxsize=1024)
def steps_above_c0(name: str) -> int:
    """Lines and spaces of a pitch above C0, whatever its accidental: ``E♭4`` → 30."""
    octave = name.lstrip("ABCDEFG♭♯𝄪")
    return LETTERS.index(name[0]) + 7 * int(octave)
