"""Prints the verdicts of twenty simulated takes, to be read by a person; docs/reading-test.md holds what was read.

Run: .venv/bin/python benchmarks/reading_test.py
"""

from __future__ import annotations

import sys
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parent), str(Path(__file__).resolve().parent.parent / "src")]

from pieces import task_of

from laptick.core.base.levels import Level
from laptick.core.judging.judgement import judge_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.practice.ladder.school import school_of
from laptick.core.student.faults import parse_fault
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Source

#: (piece, level, source, faults)
TAKES: tuple[tuple[str, str, str, tuple[str, ...]], ...] = (
    ("harbour-steps", "first-year", "midi", ("hesitate=5:1.2",)),
    ("harbour-steps", "first-year", "taps", ("limp=1.8",)),
    ("harbour-steps", "elementary", "midi", ("restart=4",)),
    ("harbour-steps", "first-year", "midi", ("cut-holds=50",)),
    ("kite-over-the-orchard", "elementary", "midi", ("spread=110",)),
    ("kite-over-the-orchard", "elementary", "taps", ("rush-runs=0.7",)),
    ("kite-over-the-orchard", "intermediate", "midi", ("drift=12",)),
    ("lantern-boat", "first-year", "midi", ("wrong=20",)),
    ("copper-kettle-parade", "intermediate", "midi", ("rush-runs=0.72",)),
    ("copper-kettle-parade", "advanced", "midi", ("miss=9",)),
    ("dotted", "elementary", "midi", ("flatten-dots=2:1",)),
    ("triplets", "elementary", "taps", ("bend-triplets=2:1:1",)),
    ("rests", "first-year", "midi", ("hold-rests=80",)),
    ("rests", "elementary", "taps", ("late-after-rest=140",)),
    ("long notes", "elementary", "midi", ("short-quarters=25",)),
    ("sixteenths", "intermediate", "midi", ("late-then-hurry=130",)),
    ("sixteenths", "first-year", "midi", ("jitter=110",)),
    ("long notes", "first-year", "midi", ("limp=1.9", "hesitate=3@2:1")),
    ("compound", "elementary", "midi", ("extra=15",)),
    ("harbour-steps", "elementary", "midi", ()),
)


def main() -> None:
    for number, (piece, level_name, source_name, faults) in enumerate(TAKES, 1):
        source, level = Source(source_name), Level(level_name)
        task = task_of(piece, source is Source.MIDI)
        planted = [parse_fault(text) for text in faults]
        performance = simulate(task, level=level, seed=100 + number, faults=planted, source=source)
        back = school_of(level)["fray"] == "back"
        verdict = judge_take(task, performance, LIMITS[level], back_to_one_hand=back).verdict
        what = ", ".join(faults) or "nothing planted"
        print(f"{number}. {piece}, {level_name}, {source_name}, {what}: {verdict.status}")
        print(f"   good: {' '.join(verdict.good)}")
        for name, said in (("main", verdict.main), ("also", verdict.also)):
            if said:
                print(f"   {name}: {said.text}")
        if verdict.place and verdict.cure:
            print(f"   place: {verdict.place_text}, offset {verdict.place.offset_quarters}")
            print(f"   cure: {verdict.cure.text}")


if __name__ == "__main__":
    main()
