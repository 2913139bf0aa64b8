"""Simulated students of each level climb whole ladders through the real checker: takes, minutes, days, and at which
tempo the last stop was passed. Run: .venv/bin/python benchmarks/climbing.py [seeds]"""

from __future__ import annotations

import sys
from pathlib import Path
from statistics import mean

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT / name) for name in ("src", "tests", "tools", "tests/core/ladder")]

from climbing import Student

from hard_score import hard_score
from helpers import demo_score
from laptick.core.base.levels import LEVEL_NAMES, Level
from laptick.core.counting.counting import default_bpm

PIECES = [
    ("Harbour Steps, 8 bars", demo_score("harbour-steps"), Level.FIRST_YEAR),
    ("Lantern Boat, 8 bars", demo_score("lantern-boat"), Level.FIRST_YEAR),
    ("Kite over the Orchard, 13 bars", demo_score("kite-over-the-orchard"), Level.ELEMENTARY),
    ("Copper Kettle Parade, 16 bars", demo_score("copper-kettle-parade"), Level.INTERMEDIATE),
    ("a hard one by chance, 24 bars", hard_score(24), Level.ADVANCED),
]
TALENTS = {"quick": 0.8, "slow": 0.3, "who cannot pass": 0.0}


def main(seeds: int) -> None:
    print("| piece | level | student | done | takes | minutes | days | tempo |")
    print("| --- | --- | --- | ---: | ---: | ---: | ---: | ---: |")
    for name, score, level in PIECES:
        for words, talent in TALENTS.items():
            target = default_bpm(score) or 60.0
            climbs = []
            for seed in range(seeds):
                student = Student(score, level, target, talent=talent, seed=seed)
                if not talent:
                    student.hard = [1.0] * len(student.hard)
                climbs.append((student, student.go(most_days=8 if talent else 3)))
            done = sum(climb.is_done for _, climb in climbs)
            last = next(rung.key for rung in climbs[0][0].ladder.rungs if rung.stage.value == "tempo")
            tempos = [climb.tempos[last] for _, climb in climbs if last in climb.tempos]
            print(
                f"| {name} | {LEVEL_NAMES[level]} | {words} | {done} of {seeds}"
                f" | {mean(c.takes for _, c in climbs):.0f}"
                f" | {mean(c.seconds for _, c in climbs) / 60:.0f} | {mean(len(c.ends) for _, c in climbs):.1f}"
                f" | {f'{mean(tempos):.0f} of {target:.0f}' if tempos else '–'} |",
                flush=True,
            )


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 3)
