"""How a file is read where it leaves something open: which parts, which hand a staff or a note belongs
to, and how a MIDI file is split and quantised. Kept with a piece, beside its original file.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from fractions import Fraction
from typing import Any

from laptick.core.base.errors import OptionError
from laptick.core.base.units import LengthNaming, Quarters, length_plural, parse_quarters
from laptick.core.score.score import Hand, Place, Score

#: Grids a MIDI file may be quantised to: the finest duple part and the finest triple part of a quarter.
GRIDS: dict[str, tuple[Quarters, Quarters | None]] = {
    "sixteenths": (Fraction(1, 4), Fraction(1, 3)),
    "thirty-seconds": (Fraction(1, 8), Fraction(1, 6)),
    "eighths": (Fraction(1, 2), Fraction(1, 3)),
    "sixteenths-no-triplets": (Fraction(1, 4), None),
}


def grid_words(naming: LengthNaming) -> dict[str, str]:
    """Each grid in the studio's words: ``sixteenths, and triplets of eighths``."""

    def words(duple: Quarters, triple: Quarters | None) -> str:
        # Three in the time of two: a third of a quarter is a triplet of eighths.
        rest = "no triplets" if triple is None else f"and triplets of {length_plural(triple * 3 / 2, naming)}"
        return f"{length_plural(duple, naming)}, {rest}"

    return {grid: words(*parts) for grid, parts in GRIDS.items()}


@dataclass(frozen=True)
class Reading:
    """``parts``: ids (MIDI: numbers of tracks) to read, in order; empty: chosen by rule. ``staff_hands``:
    ``"P1:2"`` → hand. ``note_hands``: note id → hand. ``split_pitch``: a fixed split of a one-track MIDI
    file (``None``: where the hands fit best); ``grid``: a key of ``GRIDS``. ``line_starts``: the bars at which a
    printed line begins, where the file does not say or the teacher regroups; ``phrase_starts``: where phrases begin,
    where the teacher divides them."""

    parts: tuple[str, ...] = ()
    staff_hands: Mapping[str, Hand] = field(default_factory=dict)
    note_hands: Mapping[str, Hand] = field(default_factory=dict)
    split_pitch: int | None = None
    grid: str = "sixteenths"
    line_starts: tuple[str, ...] = ()
    phrase_starts: tuple[Place, ...] = ()

    def document(self) -> dict[str, Any]:
        return {
            "parts": list(self.parts),
            "staff_hands": {key: hand.value for key, hand in self.staff_hands.items()},
            "note_hands": {key: hand.value for key, hand in self.note_hands.items()},
            "split_pitch": self.split_pitch,
            "grid": self.grid,
            "line_starts": list(self.line_starts),
            "phrase_starts": [
                {"measure": place.measure, "offset": str(place.offset_quarters)} for place in self.phrase_starts
            ],
        }


def reading_of(document: Mapping[str, Any]) -> Reading:
    """A stored reading; what is missing is as by default.

    Raises:
        OptionError: a value that is not as it should be.
    """
    grid = document.get("grid") or "sixteenths"
    if grid not in GRIDS:
        raise OptionError(f"the grid “{grid}” is unknown; there are {', '.join(GRIDS)}.", where="grid")
    split = document.get("split_pitch")
    if split is not None and not (isinstance(split, int) and 0 <= split <= 127):
        raise OptionError("the split should be a key from 0 to 127.", where="split_pitch")
    try:
        return Reading(
            tuple(str(part) for part in document.get("parts") or ()),
            {str(key): Hand(value) for key, value in (document.get("staff_hands") or {}).items()},
            {str(key): Hand(value) for key, value in (document.get("note_hands") or {}).items()},
            split,
            grid,
            tuple(str(name) for name in document.get("line_starts") or ()),
            tuple(_place(value) for value in document.get("phrase_starts") or ()),
        )
    except (KeyError, ZeroDivisionError):
        raise OptionError("a phrase begins at a bar and an offset.", where="phrase_starts") from None
    except (ValueError, AttributeError, TypeError):
        raise OptionError("a hand should be “left” or “right”.", where="reading") from None


def _place(value: Mapping[str, Any]) -> Place:
    return Place(str(value["measure"]), parse_quarters(value["offset"], where="phrase_starts"))


def with_lines(score: Score, reading: Reading) -> Score:
    """The score with its printed lines begun at the bars named; the first bar always begins one."""
    if not reading.line_starts:
        return score
    starts, line, in_line = set(reading.line_starts), 1, 0
    measures = []
    for measure in score.measures:
        is_pickup = measure.index == 0 and measure.is_pickup
        if measure.index and measure.number in starts:
            line, in_line = line + 1, 1
        elif not is_pickup:
            in_line += 1
        measures.append(replace(measure, line=line, bar_in_line=in_line))
    return replace(score, measures=tuple(measures))


def with_hands(score: Score, reading: Reading) -> Score:
    """The score with single notes given to the other hand."""
    if not reading.note_hands:
        return score
    notes = tuple(
        replace(note, hand=reading.note_hands[note.id]) if note.id in reading.note_hands else note
        for note in score.notes
    )
    return replace(score, notes=notes)
