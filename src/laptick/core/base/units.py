"""Units and every conversion between them.

Conventions: score time is ``Quarters`` (an exact fraction of a quarter note); played time is
``Seconds``; a tempo is ``Bpm`` and always stands beside the ``beat_quarters`` it counts.
"""

from __future__ import annotations

import math
import re
from enum import StrEnum
from fractions import Fraction
from typing import TypeAlias

from laptick.core.base.errors import OptionError

Quarters: TypeAlias = Fraction
Seconds: TypeAlias = float
Bpm: TypeAlias = float

#: Tempos outside this range are refused as absurd: below, a 4/4 bar lasts over 24 s; above, a
#: quarter lasts under 0.15 s.
MIN_BPM: Bpm = 10.0
MAX_BPM: Bpm = 400.0

#: Marks of the traditional metronome (docs/trade.md 3.4; from memory).
METRONOME_MARKS: tuple[int, ...] = (
    40, 42, 44, 46, 48, 50, 52, 54, 56, 58, 60, 63, 66, 69, 72, 76, 80, 84, 88, 92, 96, 100, 104, 108,
    112, 116, 120, 126, 132, 138, 144, 152, 160, 168, 176, 184, 192, 200, 208,
)  # fmt: skip

#: What ``--tempo-unit`` may name, in quarters.
TEMPO_UNITS: dict[str, Quarters] = {
    "eighth": Fraction(1, 2),
    "quarter": Fraction(1),
    "dotted-quarter": Fraction(3, 2),
    "half": Fraction(2),
}


class LengthNaming(StrEnum):
    """The two languages of the trade."""

    AMERICAN = "american"
    BRITISH = "british"


#: What each language calls itself, by its commonest lengths.
NAMING_WORDS: dict[LengthNaming, str] = {
    LengthNaming.AMERICAN: "quarter, eighth, half",
    LengthNaming.BRITISH: "crotchet, quaver, minim",
}

#: Names of note lengths in both languages of the trade, by length in quarters (common practice): first
#: ``AMERICAN``, then ``BRITISH``.
LENGTH_NAMES: dict[Quarters, tuple[str, str]] = {
    Fraction(4): ("whole", "semibreve"),
    Fraction(3): ("dotted half", "dotted minim"),
    Fraction(2): ("half", "minim"),
    Fraction(3, 2): ("dotted quarter", "dotted crotchet"),
    Fraction(1): ("quarter", "crotchet"),
    Fraction(3, 4): ("dotted eighth", "dotted quaver"),
    Fraction(1, 2): ("eighth", "quaver"),
    Fraction(1, 3): ("triplet eighth", "triplet quaver"),
    Fraction(1, 4): ("sixteenth", "semiquaver"),
    Fraction(1, 6): ("sextuplet sixteenth", "sextuplet semiquaver"),
    Fraction(1, 8): ("thirty-second", "demisemiquaver"),
    Fraction(1, 16): ("sixty-fourth", "hemidemisemiquaver"),
}


def quarters_to_text(value: Quarters) -> str:
    """``Fraction(5, 2)`` → ``"5/2"``; whole numbers have no denominator."""
    return str(value)


def length_name(value: Quarters, naming: LengthNaming = LengthNaming.AMERICAN) -> str:
    """The name of a note length; lengths without a plain name are given in quarters (crotchets)."""
    names = LENGTH_NAMES.get(value)
    if names is None:
        return f"{value} {length_plural(Fraction(1), naming)}"
    return names[naming is LengthNaming.BRITISH]


def length_plural(value: Quarters, naming: LengthNaming = LengthNaming.AMERICAN) -> str:
    """Several notes of a length: ``eighths``, ``quavers``, ``dotted halves``."""
    if value not in LENGTH_NAMES:
        return f"notes of {length_name(value, naming)}"
    name = length_name(value, naming)
    return f"{name.removesuffix('f')}ves" if name.endswith("half") else f"{name}s"


#: A position or a length as documents write it: whole quarters, or a fraction of them. Its figures are bounded, so that
#: no short text can become a number that takes minutes to build.
_QUARTERS = re.compile(r"(\d{1,6})(?:/(\d{1,6}))?", re.ASCII)


def parse_quarters(value: object, *, where: str = "offset") -> Quarters:
    """``"3/2"`` → 3/2. The one reader of quarters at every edge: requests, stored rows, the command line.

    Raises:
        OptionError: not written so, or divided by nothing.
    """
    found = _QUARTERS.fullmatch(str(value)) if isinstance(value, str | int) else None
    if found is None or (found[2] is not None and int(found[2]) == 0):
        raise OptionError(
            f"“{str(value)[:20]}” is no number of quarters; write it as 1, 1/2 or 3/4.",
            where=where,
            kept="Nothing was changed.",
        )
    return Fraction(int(found[1]), int(found[2] or 1))


def plain_bpm(bpm: Bpm) -> Bpm:
    """A tempo as people write it: a whole number, or a half where it is exactly one (``53.33`` → 53, ``91.9998`` → 92,
    ``66.5`` stays)."""
    return bpm if (2 * bpm).is_integer() else float(math.floor(bpm + 0.5))


def bpm_text(bpm: Bpm) -> str:
    """The same as text: ``"53"``, ``"66.5"``."""
    return f"{plain_bpm(float(bpm)):g}"


def quarters_to_seconds(length: Quarters, bpm: Bpm, beat_quarters: Quarters) -> Seconds:
    """How long ``length`` lasts when ``beat_quarters`` is counted at ``bpm``."""
    return float(length) * seconds_per_quarter(bpm, beat_quarters)


def seconds_per_quarter(bpm: Bpm, beat_quarters: Quarters) -> Seconds:
    return 60.0 / (bpm * float(beat_quarters))


def seconds_per_quarter_to_bpm(quarter_s: Seconds, beat_quarters: Quarters) -> Bpm:
    return 60.0 / (quarter_s * float(beat_quarters))


def convert_bpm(bpm: Bpm, unit_quarters: Quarters, beat_quarters: Quarters) -> Bpm:
    """The same speed counted in another unit: 180 eighths are 60 dotted quarters."""
    return bpm * float(unit_quarters / beat_quarters)


def check_bpm(bpm: Bpm, *, where: str = "tempo") -> Bpm:
    """Returns ``bpm`` or raises OptionError when it is absurd or not a number."""
    if not (MIN_BPM <= bpm <= MAX_BPM):  # also false for NaN
        raise OptionError(
            f"a tempo of {bpm:g} beats a minute is outside {MIN_BPM:g} to {MAX_BPM:g}.",
            where=where,
            kept="Nothing was changed.",
            todo="Choose a tempo in that range.",
        )
    return bpm


def nearest_mark(bpm: Bpm) -> int:
    """The metronome mark nearest to ``bpm`` (the slower of two equally near)."""
    return min(METRONOME_MARKS, key=lambda mark: (abs(mark - bpm), mark))


def slower_mark(bpm: Bpm, steps: int = 2) -> int:
    """The mark ``steps`` below the one nearest to ``bpm``, or the lowest."""
    return METRONOME_MARKS[max(0, METRONOME_MARKS.index(nearest_mark(bpm)) - steps)]
