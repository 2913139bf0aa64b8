"""How fast scores are read and counted, in ratios measured in one run: reading against music21, counting in
all systems, growth from 300 to 2,000 bars.

The score is random (seeded): quarters to sixteenths, triplets, dotted figures and rests in both hands, so
that few bars are alike. Run: .venv/bin/python benchmarks/scores.py
"""

from __future__ import annotations

import random
import sys
import tempfile
import time
import warnings
from collections.abc import Callable
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parent.parent / name) for name in ("src", "tests", "tools")]

from laptick.core.counting.counting import count_hand
from laptick.core.counting.word_tables import System
from laptick.core.score.score import Score
from laptick.formats.musicxml.file import read_musicxml
from laptick.formats.musicxml_writing.writer import write_musicxml
from rhythms import rhythm

FILLS = ("1", "1/2 1/2", "1/4 1/4 1/4 1/4", "1/2 1/4 1/4", "1/3 1/3 1/3", "3/4 1/4", "r1", "1/4 3/4")


def random_score(bars: int, seed: int) -> Score:
    rng = random.Random(seed)

    def line() -> str:
        return " | ".join(" ".join(rng.choice(FILLS) for _ in range(4)) for _ in range(bars))

    return rhythm("4/4", line(), line())


def best_s(action: Callable[[], object], times: int) -> float:
    taken = []
    for _ in range(times):
        begun = time.perf_counter()
        action()
        taken.append(time.perf_counter() - begun)
    return min(taken)


def count_all(score: Score) -> None:
    for system in System:
        count_hand(score, None, system=system)


def count() -> None:
    count_all(random_score(20, 99))
    print("| bars | composite counted in all systems | ms a bar |\n| ---: | ---: | ---: |")
    for bars in (300, 1000, 2000):
        fresh = iter([random_score(bars, 10 * bars + turn) for turn in range(5)])
        taken = best_s(lambda todo=fresh: count_all(next(todo)), 5)
        print(f"| {bars} | {1000 * taken:.0f} ms | {1000 * taken / bars:.3f} |")


def read() -> None:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import music21

    data = write_musicxml(random_score(300, 1))
    with tempfile.NamedTemporaryFile(suffix=".musicxml") as file:
        file.write(data)
        file.flush()
        ours = best_s(lambda: read_musicxml(data), 3)
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            theirs = best_s(lambda: music21.converter.parse(file.name, forceSource=True), 2)
    print(
        f"\nreading 300 bars: {1000 * ours:.0f} ms; music21: {1000 * theirs:.0f} ms, {theirs / ours:.1f} times as long"
    )


if __name__ == "__main__":
    count()  # first: a large library in memory slows everything after it
    read()
