"""Short pieces of our own for the benchmarks, each rich in one thing that can go wrong; and the tasks made of them."""

from __future__ import annotations

import sys
from functools import cache
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parent.parent / name) for name in ("src", "tests", "tools")]

from helpers import DEMO, demo_score, score_of
from laptick.core.counting.counting import default_bpm
from laptick.core.score.score import Score
from laptick.core.takes.task import Task, lap_task

#: Practice tempo of the demo pieces as a share of the printed one.
PRACTICE = 0.8

_QUARTERS = "C3/q G3/q E3/q G3/q"

#: name → (right hand, left hand, beats a minute)
PIECES: dict[str, tuple[str, str, float]] = {
    "dotted": (
        "C5/e. D5/s E5/q E5/e. D5/s C5/q | D5/e. E5/s F5/q G5/h "
        "| G5/e. F5/s E5/q F5/e. E5/s D5/q | C5/e. D5/s E5/q D5/h"
        "| E5/e. F5/s G5/q A5/e. G5/s F5/q "
        "| E5/e. D5/s C5/q D5/h | G5/e. A5/s G5/q F5/e. E5/s D5/q | C5/e. E5/s D5/q C5/h",
        " | ".join([_QUARTERS, "G3/q F3/q E3/h"] * 4),
        60,
    ),
    "triplets": (
        "C5/et D5/et E5/et F5/q G5/et F5/et E5/et D5/q | E5/et F5/et G5/et A5/q G5/h |"
        "F5/et E5/et D5/et E5/q D5/et C5/et B4/et C5/q | D5/et E5/et F5/et E5/q D5/h |"
        "C5/et E5/et G5/et F5/q E5/et D5/et C5/et D5/q | E5/et G5/et F5/et E5/q D5/h |"
        "G5/et F5/et E5/et F5/q E5/et D5/et C5/et B4/q | C5/et D5/et B4/et C5/q C5/h",
        " | ".join([_QUARTERS, "G3/q F3/q E3/h"] * 4),
        60,
    ),
    "rests": (
        "C5/q D5/q r/q E5/q | F5/q r/q E5/q D5/q | r/q E5/q F5/q r/q | G5/q F5/q r/h | E5/q r/q D5/q E5/q |"
        "F5/q E5/q r/q D5/q | r/q C5/q D5/q r/q | E5/q D5/q C5/q r/q",
        "C3/q G3/q E3/q r/q | C3/q r/q G3/q E3/q | F3/q C3/q r/q G3/q | E3/q r/q C3/q G3/q | C3/q G3/q r/q E3/q |"
        "F3/q r/q C3/q G3/q | E3/q C3/q G3/q r/q | C3/q G3/q C3/h",
        72,
    ),
    "long notes": (
        "C5/e D5/e E5/q F5/e E5/e D5/q | E5/e F5/e G5/q E5/h | F5/e E5/e D5/q E5/e D5/e C5/q | D5/e E5/e F5/q D5/h |"
        "G5/e F5/e E5/q F5/e G5/e A5/q | G5/e F5/e E5/q D5/h | E5/e D5/e C5/q D5/e E5/e F5/q | E5/e D5/e B4/q C5/h",
        " | ".join(["C3/q G3/q C3/q G3/q", "F3/q G3/q C3/h"] * 4),
        66,
    ),
    "sixteenths": (
        "C5/s D5/s E5/s F5/s G5/q F5/s E5/s D5/s C5/s D5/q | E5/s F5/s G5/s A5/s G5/q E5/h |"
        "G5/s F5/s E5/s D5/s E5/q D5/s C5/s B4/s C5/s D5/q | E5/s D5/s C5/s B4/s C5/q D5/h |"
        "C5/s E5/s D5/s F5/s E5/q D5/s F5/s E5/s G5/s F5/q | E5/s G5/s F5/s E5/s D5/q C5/h |"
        "G5/s A5/s G5/s F5/s E5/q F5/s E5/s D5/s C5/s B4/q | C5/s D5/s E5/s D5/s B4/q C5/h",
        " | ".join(["C3/q G3/q C3/q G3/q", "F3/q G3/q C3/h"] * 4),
        60,
    ),
}

#: Compound time needs its own measure of the beat.
COMPOUND = (
    "C5/q D5/e E5/q F5/e | G5/q F5/e E5/q. | F5/q E5/e D5/q E5/e | C5/q D5/e E5/q. | E5/q F5/e G5/q A5/e |"
    "G5/q F5/e E5/q. | D5/q E5/e F5/q D5/e | E5/q D5/e C5/q.",
    " | ".join(["C3/q. G3/q.", "F3/q. C3/q."] * 4),
    56,
)


@cache
def piece(name: str) -> Score:
    if name in DEMO:
        return demo_score(name)
    if name == "compound":
        return score_of(COMPOUND[0], COMPOUND[1], time=(6, 8))
    right, left, _ = PIECES[name]
    return score_of(right, left)


@cache
def task_of(name: str, with_pitches: bool) -> Task:
    score = piece(name)
    if name in DEMO:
        bpm = PRACTICE * (default_bpm(score) or 60)
    else:
        bpm = COMPOUND[2] if name == "compound" else PIECES[name][2]
    return lap_task(score, assigned_bpm=bpm, with_pitches=with_pitches)
