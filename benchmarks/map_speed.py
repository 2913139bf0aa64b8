"""How long the together map of a long score takes, and whether it grows with the length.

Bars of some 17 notes, so that 300 have 5,220; and 2,000 of as dense ones. Processor time, the best of five, each on a
fresh score, so that nothing is kept from before. Run: .venv/bin/python benchmarks/map_speed.py
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parents[1] / name) for name in ("src", "tests", "tools")]

from helpers import score_of
from laptick.core.rhythm.likeness import hand_likeness
from laptick.core.score.score import HANDS, Score
from laptick.core.together.difficulty import bar_difficulties
from laptick.core.together.reaches import reaches_of
from laptick.core.together.seams import seams_of
from laptick.core.together.shifts import positions_of, shifts_of
from laptick.formats.documents.map import map_document

RIGHT = (
    "C5/e D5/e E5/e F5/e G5/e A5/e B5/e C6/e",
    "E5+G5/q D5+F5/e F5/e E5+G5/q C5+E5/e D5/e",
    "G5/q. F5/e E5/s D5/s C5/s D5/s E5/s F5/s G5/s A5/s",
    "r/e C5+E5/e r/e E5+G5/e G5+C6/q E5+G5/e D5+F5/e",
    "C5/et E5/et G5/et C6/q D5/e E5/e F5/q",
)
LEFT = (
    "C3/e G3/e E3/e G3/e C3/e G3/e E3/e G3/e",
    "F2/q A3+C4+E4/q G2/q B3+D4+F4/q",
    "C3+E3+G3/q C3+E3+G3/q F3+A3+C4/q F3+A3+C4/q",
    "A2/e E3/e C3/e E3/e A2/e E3/e C3/e E3/e",
    "G2/e D3/e B2/e D3/e G2+G3/h",
)


def score(bars: int) -> Score:
    return score_of(*(" | ".join(line[i * step % 5] for i in range(bars)) for line, step in ((RIGHT, 1), (LEFT, 3))))


def worked_out(one: Score) -> object:
    """The map itself: all that the screen, the checker and the ladder read; the document has the reading aids too."""
    return (
        bar_difficulties(one),
        seams_of(one),
        hand_likeness(one),
        [(positions_of(one, hand), shifts_of(one, hand)) for hand in HANDS],
        reaches_of(one),
    )


def best_s(one: Score, what: Callable[[Score], object], times: int = 5) -> float:
    found = []
    for _ in range(times):
        fresh = replace(one)
        begun = time.process_time()
        what(fresh)
        found.append(time.process_time() - begun)
    return min(found)


def main() -> None:
    print("| bars | notes | map, ms | µs a note | with its document, ms |\n| ---: | ---: | ---: | ---: | ---: |")
    for bars in (75, 300, 1000, 2000):
        one, times = score(bars), 5 if bars <= 300 else 2
        seconds, written = (best_s(one, what, times) for what in (worked_out, map_document))
        a_note = 1e6 * seconds / len(one.notes)
        print(f"| {bars} | {len(one.notes)} | {1000 * seconds:.0f} | {a_note:.0f} | {1000 * written:.0f} |")


if __name__ == "__main__":
    main()
