"""A short rhythm in which every way of counting shows what it does: composed for the settings."""

from __future__ import annotations

from fractions import Fraction

from laptick.core.score.meter import TimeSignature
from laptick.core.score.score import Hand, Measure, Note, Score

#: (signature, lengths in quarters of the right hand, and of the left) of each bar.
_BARS: tuple[tuple[TimeSignature, str, str], ...] = (
    (TimeSignature(4, 4), "1 1/2 1/2 1/3 1/3 1/3 1/4 1/4 1/4 1/4", "2 1 1"),
    (TimeSignature(4, 4), "1/2 1 1/2 2", "4"),
    (TimeSignature(6, 8), "1/2 1/2 1/2 1 1/2", "3/2 3/2"),
)
_KEYS = {Hand.RIGHT: ((72, "C5"), (74, "D5"), (76, "E5")), Hand.LEFT: ((48, "C3"), (52, "E3"), (55, "G3"))}


def example_score() -> Score:
    """Quarters, eighths, a triplet, sixteenths; an off-beat figure; a compound bar."""
    measures: list[Measure] = []
    notes: list[Note] = []
    start = Fraction(0)
    for index, (signature, *lines) in enumerate(_BARS):
        measures.append(Measure(index, str(index + 1), signature, start, signature.bar_quarters, bar_in_line=index + 1))
        for hand, line in zip((Hand.RIGHT, Hand.LEFT), lines, strict=True):
            at = start
            for word in line.split():
                pitch, name = _KEYS[hand][len(notes) % 3]
                notes.append(Note(f"n{len(notes)}", hand, "1", index, at, Fraction(word), pitch, name))
                at += Fraction(word)
        start += signature.bar_quarters
    ordered = sorted(notes, key=lambda note: (note.onset_quarters, note.pitch or 0))
    return Score("Example", "", tuple(measures), tuple(ordered))
