"""What is found and coloured on the page before it is played: bars that are the same, and melodic thirds and fourths.

An interval is from a hand's note to its next one in the same bar, of chords their highest note; a third is two letters
away, a fourth three, whatever the accidentals. Source: docs/trade.md 1 (which bars are the same); the intervals are
common practice.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass

from laptick.core.rhythm.likeness import bar_likeness
from laptick.core.score.pitch import LETTERS
from laptick.core.score.score import HANDS, Hand, Note, Score

#: Letters away → what it is called. Only these two are coloured.
COLOURED: dict[int, str] = {2: "third", 3: "fourth"}


@dataclass(frozen=True)
class ColouredBar:
    """``same_as``: the index of the first bar that holds the same notes, its own where there is none; ``intervals``: of
    each hand the thirds and fourths in this bar, in order."""

    measure_index: int
    same_as: int
    intervals: dict[Hand, tuple[str, ...]]


def colouring_of(score: Score) -> list[ColouredBar]:
    found: dict[Hand, dict[int, list[str]]] = {hand: {} for hand in HANDS}
    for hand in HANDS:
        for before, note in itertools.pairwise(_line(score, hand)):
            name = COLOURED.get(abs(_step(note) - _step(before)))
            if name is not None and before.measure_index == note.measure_index:
                found[hand].setdefault(note.measure_index, []).append(name)
    return [
        ColouredBar(
            bar.measure_index,
            bar.measure_index if bar.same_notes_as is None else bar.same_notes_as,
            {hand: tuple(found[hand].get(bar.measure_index, ())) for hand in HANDS},
        )
        for bar in bar_likeness(score)
    ]


def _line(score: Score, hand: Hand) -> list[Note]:
    """The highest note of each strike of a hand."""
    highest: dict[object, Note] = {}
    for note in score.notes:
        if note.hand is hand and note.is_strike and note.pitch is not None:
            known = highest.get(note.onset_quarters)
            if known is None or (known.pitch or 0) < note.pitch:
                highest[note.onset_quarters] = note
    return [highest[onset] for onset in sorted(highest)]  # type: ignore[type-var]


def _step(note: Note) -> int:
    """Letters above the C of octave 0."""
    return 7 * int(note.name.lstrip("ABCDEFG♭♯𝄪")) + LETTERS.index(note.name[0])
