"""Other bars played than those asked for: how often that is told, and how often wrongly, by keys, taps and sound.

The simulated student plays a passage of a demo piece while another is asked for (the whole for its beginning, the
second half for the first, …), and what is asked for, both with and without faults. Sound is that of an instrument of
others under a condition in turn. Told of every way: takes for which the bars played are offered, others, none (lost),
and those followed as the bars asked for, right only where they were.

Run: python -m benchmarks.hearing.other_bars [--turns 2] [--seed 500] [--ways keys,taps,sound]
"""

from __future__ import annotations

import argparse
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np
from benchmarks.hearing.conditions import CONDITIONS, recorded
from benchmarks.hearing.judged import USUAL
from benchmarks.hearing.playing import Played
from benchmarks.hearing.sounding import fonts, sounded
from pieces import demo_score

from laptick.core.base.levels import Level
from laptick.core.following.by_ear.take import hear_take
from laptick.core.judging.judgement import judge_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.roadmap import in_played_order
from laptick.core.student.faults import parse_fault
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Performance, Source
from laptick.core.takes.task import Task, lap_task
from laptick.formats.audio.decoding import decode

PIECES = ("harbour-steps", "kite-over-the-orchard", "lantern-boat", "copper-kettle-parade", "five-stones")

#: The bars asked for, and those played; ``None``: all.
ASKED_AND_PLAYED: tuple[tuple[str, str | None], ...] = (
    ("1-4", "1-4"), ("5-8", "5-8"), ("3-6", "3-6"),
    ("1-4", None), ("1-2", None), ("5-8", None), ("1-4", "3-8"), ("1-4", "5-8"), ("3-4", "1-4"), ("5-8", "1-4"),
)  # fmt: skip

#: ``{bar}``: one in the middle of what is played.
FAULTS = ("", "hesitate={bar}:2", "miss=15", "extra=15", "restart={bar}", "rush-runs=0.75")

WAYS = {"keys": Source.MIDI, "taps": Source.TAPS, "sound": Source.MIDI}
BPM = 60
LEVEL = Level.ELEMENTARY

#: Harder than usual, as a room with somebody who counts.
LOUD = (*USUAL, "voice", "noise 10 dB", "pedal")


@dataclass(frozen=True)
class Case:
    way: str
    piece: str
    asked: str
    played: str | None
    fault: str
    number: int
    seed: int


def told(case: Case) -> tuple[Case, str]:
    score = in_played_order(demo_score(case.piece))
    source = WAYS[case.way]

    def task_of(measures: str | None) -> Task:
        bars = score.select_measures(measures) if measures else None
        return lap_task(score, assigned_bpm=BPM, measures=bars, with_pitches=source is Source.MIDI)

    whole, asked, played = task_of(None), task_of(case.asked), task_of(case.played)
    middle = played.measures[len(played.measures) // 2].number
    faults = [parse_fault(case.fault.format(bar=middle))] if case.fault else []
    take = simulate(played, level=LEVEL, seed=case.seed, faults=faults, source=source)
    if case.way == "sound":
        take = _heard(take, asked, whole, case.number)
    judged = judge_take(asked, take, LIMITS[LEVEL], whole=lambda: whole)
    if judged.checked.followed:
        return case, "followed as asked"
    if judged.passage is None:
        return case, "lost"
    is_right = judged.passage.measures == played.measures
    return case, "told" if is_right else "told as others"


def _heard(take: Performance, asked: Task, whole: Task, number: int) -> Performance:
    name = LOUD[number % len(LOUD)]
    condition = next(one for one in CONDITIONS if one.name == name)
    notes = [
        Played(None, s.played_s, s.pitch or 60, s.velocity or 64, s.released_s or s.played_s + 0.3)
        for s in take.strikes
    ]
    instruments = fonts()
    samples = sounded(notes, take.pedal, instruments[number % len(instruments)])
    beats = np.linspace(notes[0].at_s, notes[-1].at_s, max(2, len(notes) // 3))
    sound = decode(recorded(samples, beats.tolist(), condition, np.random.default_rng([number, 7])))
    return hear_take(sound, asked, rate=sound.rate, whole=lambda: whole)


def main() -> int:
    options = argparse.ArgumentParser()
    options.add_argument("--turns", type=int, default=2)
    options.add_argument("--seed", type=int, default=500)
    options.add_argument("--ways", default="keys,taps,sound")
    options.add_argument("--list", action="store_true", help="every take that was told wrongly")
    given = options.parse_args()
    cases = [
        Case(way, piece, asked, played, fault, number, given.seed + number)
        for way in given.ways.split(",")
        for number, (turn, piece, (asked, played), fault) in enumerate(
            (turn, piece, pair, fault)
            for turn in range(given.turns)
            for piece in PIECES
            for pair in ASKED_AND_PLAYED
            for fault in FAULTS
        )
    ]
    counted: Counter[tuple[str, str, str]] = Counter()
    with ProcessPoolExecutor(2) as pool:
        for case, what in pool.map(told, cases, chunksize=4):
            is_asked = case.asked == case.played
            counted[case.way, "asked for" if is_asked else "others", what] += 1
            if given.list and what != ("followed as asked" if is_asked else "told"):
                print(what, case)
    print("| by | bars played | takes | told | told as others | lost | followed as asked |")
    print("|---|---|---|---|---|---|---|")
    for way in given.ways.split(","):
        for bars in ("asked for", "others"):
            row = [counted[way, bars, what] for what in ("told", "told as others", "lost", "followed as asked")]
            print(f"| {way} | {bars} | {sum(row)} | " + " | ".join(map(str, row)) + " |")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
