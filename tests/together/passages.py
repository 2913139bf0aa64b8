"""Random two-hand passages in the notation of tools/compose_demo.py, and the same mirrored or transposed."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction as F

from hypothesis import strategies as st

from helpers import score_of
from laptick.core.score.score import Hand, Note, Score

LENGTHS = {"w": F(4), "h.": F(3), "h": F(2), "q.": F(3, 2), "q": F(1), "e": F(1, 2), "et": F(1, 3), "s": F(1, 4)}
RIGHT_KEYS = ["C4", "E4", "G4", "C5", "D5", "E5", "F#5", "G5", "C5+E5", "E5+G5+C6", "r"]
LEFT_KEYS = ["C4", "G3", "E3", "Bb2", "C3", "F2", "C3+G3", "C3+E3+G3", "r"]


@st.composite
def bar(draw: st.DrawFn, keys: list[str]) -> str:
    left, words = F(4), []
    while left > 0:
        fitting = [
            name for name, length in LENGTHS.items() if length <= left and (name != "et" or left.denominator in (1, 3))
        ]
        if left.denominator == 3:
            fitting = ["et"]
        name = draw(st.sampled_from(fitting))
        tie = "~" if draw(st.integers(0, 9)) == 0 else ""
        key = draw(st.sampled_from(keys))
        words.append(f"{key}/{name}{tie if key != 'r' else ''}")
        left -= LENGTHS[name]
    return " ".join(words)


@st.composite
def passages(draw: st.DrawFn, most_bars: int = 4) -> Score:
    count = draw(st.integers(1, most_bars))
    lines = [" | ".join(draw(bar(keys)) for _ in range(count)) for keys in (RIGHT_KEYS, LEFT_KEYS)]
    return score_of(*(untied(line) for line in lines))


def untied(line: str) -> str:
    """A tie leads to the same keys, or is none."""
    words = line.split(" ")
    notes = [i for i, word in enumerate(words) if word != "|"]
    for here, after in zip(notes, [*notes[1:], None], strict=True):
        if words[here].endswith("~") and (after is None or words[after].split("/")[0] != words[here].split("/")[0]):
            words[here] = words[here].rstrip("~")
    return " ".join(words)


def mirrored(score: Score) -> Score:
    """Each hand plays what the other did, in its own key."""
    other = {Hand.RIGHT: Hand.LEFT, Hand.LEFT: Hand.RIGHT}
    return replace(
        score,
        notes=tuple(replace(note, hand=other[note.hand]) for note in score.notes),
        rests=tuple(replace(rest, hand=other[rest.hand]) for rest in score.rests),
    )


def an_octave_up(score: Score) -> Score:
    def up(note: Note) -> Note:
        return replace(note, pitch=note.pitch + 12, name=note.name[:-1] + str(int(note.name[-1]) + 1))

    return replace(score, notes=tuple(up(note) for note in score.notes))
