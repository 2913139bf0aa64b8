"""What a take by ear costs: from the file to the verdict, on one core.

A piece of the benchmarks is played over and over by the benchmark's own performer until the wanted length, sounded by a
font, encoded as a browser does (webm), and decoded, heard and judged as the worker does. The first run warms up; of the
others every one is told. Wanted: 180 s within 3 s and 400 MB, 20 minutes within 30 s and 600 MB.

Run: taskset -c 0 .venv/bin/python -m benchmarks.hearing.cost [--seconds 180] [--runs 4] [--profile]
"""

from __future__ import annotations

import argparse
import cProfile
import pstats
import resource
import sys
import time
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parents[2]
sys.path[:0] = [str(ROOT / name) for name in ("src", "tests", "tools", "benchmarks")]

from benchmarks.hearing.conditions import CONDITIONS, recorded
from benchmarks.hearing.playing import Habits, play
from benchmarks.hearing.sounding import fonts, sounded
from pieces import PIECES

from helpers import score_of
from laptick.core.base.levels import Level
from laptick.core.following.by_ear.transcribing import transcribe
from laptick.core.judging.judgement import judge_take
from laptick.core.measuring.limits import limits_of
from laptick.core.takes.performance import Performance, Source
from laptick.core.takes.task import Task, lap_task
from laptick.formats.audio.decoding import decode

PIECE, BPM = "triplets", 80.0


def task_of(seconds: float) -> Task:
    """As many times the piece as fit into the time; the last tones ring on for some seconds."""
    right, left, _ = PIECES[PIECE]
    once = lap_task(score_of(right, left), assigned_bpm=BPM, with_pitches=True)
    length_s = float(once.measures[-1].end_quarters - once.measures[0].start_quarters) * once.quarter_s
    times = max(1, int(seconds / length_s))  # never longer than asked: there is a limit
    return lap_task(
        score_of(" | ".join([right] * times), " | ".join([left] * times)), assigned_bpm=BPM, with_pitches=True
    )


def file_of(task: Task) -> bytes:
    rng = np.random.default_rng(1)
    playing = play(task, rng, Habits())
    webm = next(one for one in CONDITIONS if one.suffix == ".webm")
    return recorded(sounded(playing.notes, playing.pedal, fonts()[0]), playing.beats_s, webm, rng)


def answered(data: bytes, task: Task) -> tuple[float, float, float]:
    """How long decoding, hearing and judging took, by the clock."""
    begun = time.perf_counter()
    sound = decode(data)
    decoded = time.perf_counter()
    heard = transcribe(sound, task)
    told = time.perf_counter()
    judge_take(task, Performance(Source.AUDIO, heard.strikes), limits_of(Level.INTERMEDIATE))
    return decoded - begun, told - decoded, time.perf_counter() - told


def main() -> int:
    options = argparse.ArgumentParser()
    options.add_argument("--seconds", type=float, default=180)
    options.add_argument("--runs", type=int, default=4)
    options.add_argument("--profile", action="store_true")
    asked = options.parse_args()
    task = task_of(asked.seconds)
    data = file_of(task)
    print(f"{decode(data).seconds:.0f} s of webm, {len(task.expected)} notes, {len(data) / 1e6:.1f} MB")
    for run in range(asked.runs + 1):
        parts = answered(data, task)
        named = ", ".join(
            f"{name} {part:.2f}" for name, part in zip(("decoding", "ear", "judging"), parts, strict=True)
        )
        print(f"{'warming up' if run == 0 else f'run {run}'}: {sum(parts):.2f} s ({named})")
    print(f"memory: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB at most, with making it")
    if asked.profile:
        with cProfile.Profile() as profile:
            answered(data, task)
        pstats.Stats(profile).sort_stats("cumulative").print_stats(45)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
