"""Keys moved by so many letters and semitones, as they are spelled then. Source: common practice, no source."""

from __future__ import annotations

from laptick.core.base.errors import OptionError
from laptick.core.drills.drill import Key
from laptick.core.score.pitch import ALTERATIONS, LETTERS, STEP_SEMITONES

_SIGN_OF = {value: sign for sign, value in ALTERATIONS.items()}


def moved_key(key: Key, letters: int, semitones: int) -> Key:
    """A key so many letters and semitones further on; a clap is a clap.

    Raises:
        OptionError: it cannot be written, or no keyboard has it.
    """
    name, pitch = key
    if pitch is None:
        return key
    index = LETTERS.index(name[0]) + letters
    octave = int(name.lstrip("ABCDEFG♭♯𝄪")) + index // 7
    letter, moved = LETTERS[index % 7], pitch + semitones
    sign = _SIGN_OF.get(moved - 12 * (octave + 1) - STEP_SEMITONES[letter])
    if sign is None:  # thrice altered: by its plainest name
        octave, above = moved // 12 - 1, moved % 12
        letter = max((one for one, at in STEP_SEMITONES.items() if at <= above), key=STEP_SEMITONES.__getitem__)
        sign = _SIGN_OF[above - STEP_SEMITONES[letter]]
    if not 0 <= moved <= 127:
        raise OptionError("this reaches beyond any keyboard there.", where="key", todo="Choose another key.")
    return f"{letter}{sign}{octave}", moved
