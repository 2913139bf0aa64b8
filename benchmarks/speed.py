"""How long a lap take of 64 bars takes to judge, beside reading its score; ratios and times of one run.

Run: .venv/bin/python benchmarks/speed.py
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from pathlib import Path
from statistics import median

sys.path[:0] = [str(Path(__file__).resolve().parent.parent / name) for name in ("src", "tests", "tools")]

import compose_demo

from laptick.core.base.levels import Level
from laptick.core.counting.counting import count_hand
from laptick.core.judging.findings import find_findings
from laptick.core.judging.verdict import give_verdict
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.score import Score
from laptick.core.student.student import simulate
from laptick.core.takes.task import lap_task
from laptick.formats.musicxml.file import read_musicxml


def timed(what: Callable[[], object], times: int = 9) -> float:
    """Median milliseconds, the first run left out."""
    taken = []
    for _ in range(times + 1):
        begun = time.perf_counter()
        what()
        taken.append(1000 * (time.perf_counter() - begun))
    return median(taken[1:])


def repeated(bars: int) -> bytes:
    piece = dict(compose_demo.PIECES["harbour-steps"])
    piece["right"], piece["left"] = piece["right"] * (bars // 8), piece["left"] * (bars // 8)
    return compose_demo.write(piece).encode()


def judge(score: Score, seed: int = 1) -> tuple[int, Callable[[], object]]:
    task = lap_task(score, assigned_bpm=66)
    performance = simulate(task, seed=seed)

    def run() -> object:
        checked = check_take(task, performance)
        return give_verdict(checked, find_findings(checked, LIMITS[Level.ELEMENTARY]))

    return len(performance.strikes), run


def main() -> None:
    print("| bars | strikes | read score | count three lines | judge take | judge, ms a strike |")
    print("| ---: | ---: | ---: | ---: | ---: | ---: |")
    for bars in (8, 64, 256, 512):
        data = repeated(bars)
        score = read_musicxml(data)
        strikes, run = judge(score)
        reading = timed(lambda d=data: read_musicxml(d), 5)
        counting = timed(lambda s=score: [count_hand(s, hand) for hand in (*s.hands_present(), None)], 5)
        judging = timed(run, 5)
        cells = [
            str(bars),
            str(strikes),
            *(f"{ms:.0f} ms" for ms in (reading, counting, judging)),
            f"{judging / strikes:.2f}",
        ]
        print(f"| {' | '.join(cells)} |", flush=True)


if __name__ == "__main__":
    main()
