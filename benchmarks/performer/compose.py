"""Scores composed by chance, each rich in what one fault needs. Bars are drawn from a table of rhythms; keys walk.

A bar is written as lengths in quarters: ``"1 .5 .5 r1 1"``; ``r`` is silence, ``1/3`` a third, ``;`` a second voice
below. ``*n`` repeats a length.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from laptick.core.score.meter import TimeSignature
from laptick.core.score.score import Hand, Mark, MarkKind, Measure, Note, Rest, Score, TempoMark
from laptick.core.takes.task import Task, lap_task


@dataclass(frozen=True)
class Style:
    """Bars that go together: (right, left) pairs of one time signature; ``bpm``: the range of tempos (quarters)."""

    time: tuple[int, int]
    right: tuple[str, ...]
    left: tuple[str, ...]
    bpm: tuple[float, float]


CALM = ("1*4", "2 2", "1 1 2", "4")
#: What a fault needs → styles that have it.
STYLES: dict[str, tuple[Style, ...]] = {
    "runs": (
        Style((4, 4), (".5*8", ".5*4 1 1", ".5 .5 1 .5 .5 1", "1 .5*4 1", "1 1 .5*4", "1 1 2"), CALM, (66, 112)),
        Style((4, 4), (".25*4 1 .25*4 1", ".25*8 2", "1 .25*4 1 1", "1 .25*4 .25*4 1"), CALM, (48, 72)),
        Style((3, 4), (".5*6", "1 .5*4", ".5*4 1", "1 .5 .5 1", "2 1"), ("3", "1*3", "2 1"), (72, 120)),
        Style((4, 4), ("1 1 2", "2 2", "1 1 1 1"), (".5*4 1 1", ".5*8", "1 .5*4 1", "2 .5 .5 1"), (66, 104)),
        Style((4, 4), (".5*4 1 1", "1 1 .5*4", "1 .5*4 1"), ("1 1 .5*4", ".5*4 1 1", "2 2", "1*4"), (66, 104)),
    ),
    "long runs": (
        Style((4, 4), (".5*8", ".5 .5 1 .5 .5 1", "1 .5 .5 2", ".5*6 1", "1 1 .5 .5 1"), CALM[:3], (66, 108)),
        Style((4, 4), (".25*8 1 1", "1 .25 .25 .5 1 1", "1 1 2", ".25*6 .5 2"), ("1*4", "2 2"), (46, 66)),
    ),
    "dotted": (
        Style((4, 4), (".75 .25 1 .75 .25 1", "1 .75 .25 1 1", ".75 .25 .75 .25 2", "1 1 .75 .25 1"), CALM, (50, 84)),
        Style((3, 4), (".75 .25 1 1", "1 .75 .25 1", ".75 .25 .75 .25 1", "2 1"), ("3", "2 1", "1*3"), (50, 88)),
    ),
    "triplets": (
        Style((4, 4), ("1/3*3 1 1/3*3 1", "1 1/3*3 2", "1 1 1/3*3 1", "1/3*3 1/3*3 2"), CALM, (50, 92)),
        Style((2, 4), ("1/3*3 1", "1 1/3*3", "1/3*3 1", "2"), ("1 1", "2"), (50, 92)),
    ),
    "compound": (
        Style((6, 8), ("1 .5 1 .5", "1 .5 1.5", "1.5 1 .5", "1 .5 .5*3"), ("1.5 1.5", "3"), (66, 120)),
    ),
    "long": (
        Style((4, 4), (".5 .5 1 .5 .5 1", ".5*4 1 1", "1 .5 .5 1 1", ".5*4 2"), ("1*4", "2 2", "1 1 2"), (66, 108)),
        Style((3, 4), (".5 .5 1 1", "1 .5 .5 1", ".5*4 1"), ("1 1 1", "1 2", "3"), (72, 116)),
    ),
    "held bass": (
        Style((3, 4), ("1 .5 .5 1", "2 1", "1 1 1", ".5*4 1"), ("3;r1 1 1",), (69, 112)),
        Style((4, 4), ("1 1 2", "1 .5 .5 1 1", "2 2"), ("4;r1 1 r1 1", "2 2;r1 1 r1 1", "4;r1 1 1 1"), (66, 104)),
    ),
    "holds": (
        Style((4, 4), ("2 2", "1 1 2", "1 1 1 1", ".5 .5 1 2"), ("2 2", "4", "2 1 1"), (66, 104)),
    ),
    "rests": (
        Style((4, 4), ("1 1 r1 1", "r1 1 1 1", "1 r1 1 r1", "1 1 1 r1", "1 1 1 1", ".5 .5 r1 1 1"),
              ("1 r1 1 1", "1 1 1 r1", "2 r1 1", "1 1 1 1", "r1 1 2"), (60, 92)),
        Style((3, 4), ("1 r1 1", "r1 1 1", "1 1 r1", "1 1 1"), ("1 r1 1", "r1 1 1", "1 1 r1", "2 r1"), (60, 96)),
    ),
    "landings": (
        Style((4, 4), ("1/3*3 1 1/3*3 1", "1 1/3*3 2", "1 1 1/3*3 1", "1/3*3 1 2"), ("1*4", "2 2"), (50, 88)),
        Style((4, 4), (".25*4 1 .25*4 1", "1 .25*4 2", "1 .25*4 1 1"), ("1*4", "2 2"), (48, 66)),
        Style((4, 4), (".5*4 2", "1 .5*4 1", ".5*4 1 1"), (".5*4 2", "1*4", "1 .5*4 1", "2 2"), (66, 104)),
    ),
    "any": (
        Style((5, 4), ("1 1 1 1 1", ".5*4 1 2", "1 .5 .5 1 2", "2 1 1 r1"), ("3 2", "1 1 1 1 1", "3 r1 1"), (72, 112)),
        Style((7, 8), (".5*7", "1 1 .5 1", ".5 .5 1 .5*3", "1 .5 .5 1.5"), ("2 1.5", "1 1 1.5"), (60, 96)),
        Style((12, 8), ("1 .5 1 .5 .5*3 1.5", "1.5*4", ".5*6 3", "1 .5 1 .5 1 .5 1.5"), ("3 3", "1.5*4"), (76, 130)),
        Style((4, 4), (".25*4 .5 .5 1 1", ".5 .25 .25 1 .5 .5 1", "1.5 .5 1 1", ".5 1 .5 2"), ("1*4", "2 2"), (50, 76)),
        Style((4, 4), ("1 1 1 r1", ".5*4 1 r1", "2 r2", "1 .5 .5 2"), ("1 r1 1 r1", "2 2", "r2 2", "1*4"), (66, 104)),
    ),
}  # fmt: skip

#: Any of them, for what needs no figure of its own.
EVERY = tuple(style for styles in STYLES.values() for style in styles)

_SCALE = (0, 2, 4, 5, 7, 9, 11)
_NAMES = "CDEFGAB"


def _values(line: str) -> list[tuple[bool, Fraction]]:
    found = []
    for word in line.split():
        length, _, times = word.partition("*")
        found += [(length.startswith("r"), Fraction(length.lstrip("r")))] * int(times or 1)
    return found


def _key(step: int) -> tuple[int, str]:
    octave, degree = divmod(step, 7)
    return 12 * (octave + 1) + _SCALE[degree], f"{_NAMES[degree]}{octave}"


def compose(rng: np.random.Generator, style: Style, bars: int, *, trills: bool = False) -> Score:
    """A score of so many bars. ``trills``: some long notes of the right hand carry one."""
    sign = TimeSignature(*style.time)
    length = sign.bar_quarters
    measures = [
        Measure(i, str(i + 1), sign, i * length, length, line=i // 4 + 1, bar_in_line=i % 4 + 1) for i in range(bars)
    ]
    notes: list[Note] = []
    rests: list[Rest] = []
    marks: list[Mark] = []
    for hand, lines, home, staff in ((Hand.RIGHT, style.right, 36, 1), (Hand.LEFT, style.left, 23, 2)):
        step = home
        for bar in range(bars):
            is_last = bar == bars - 1
            drawn = f"{float(length)}" if is_last else str(rng.choice(lines))
            for voice, line in enumerate(drawn.split(";")):
                at = bar * length
                for is_rest, value in _values(line):
                    if is_rest:
                        rests.append(Rest(hand, f"{staff}.{voice + 1}", bar, at, value, staff))
                    else:
                        step += int(rng.choice((-2, -1, 1, 2)))
                        if not home - 5 <= step <= home + 6:
                            step = home + int(rng.integers(-2, 3))
                        pitch, name = _key(step + (5 if hand is Hand.LEFT and voice else 0))
                        identity = f"n{len(notes)}"
                        notes.append(
                            Note(identity, hand, f"{staff}.{voice + 1}", bar, at, value, pitch, name, staff=staff)
                        )
                        if trills and hand is Hand.RIGHT and value >= 1 and rng.uniform() < 0.25:
                            marks.append(Mark(MarkKind.ORNAMENT, at, "trill-mark", note_id=identity, hand=hand))
                    at += value
    notes.sort(key=lambda note: (note.onset_quarters, note.staff, note.voice))
    return Score("By chance", "", tuple(measures), tuple(notes), tuple(rests), (), (), tuple(marks))


def task_by_chance(rng: np.random.Generator, need: str, *, on_keys: bool, trills: bool = False) -> Task:
    """A task rich in what is needed: 8 bars in 45 of 100, else 16 or 32."""
    styles = STYLES.get(need, EVERY)
    style = styles[int(rng.integers(len(styles)))]
    bars = int(rng.choice((8, 16, 32), p=(0.45, 0.35, 0.2)))
    score = compose(rng, style, bars, trills=trills)
    sign = score.measures[0].meter
    quarters = float(rng.uniform(*style.bpm))
    tempo = TempoMark(Fraction(0), round(quarters / float(sign.beat_quarters), 1), sign.beat_quarters)
    score = Score(score.title, "", score.measures, score.notes, score.rests, (tempo,), (), score.marks)
    return lap_task(score, assigned_bpm=tempo.bpm, with_pitches=on_keys)
